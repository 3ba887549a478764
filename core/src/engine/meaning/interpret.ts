/**
 * The tick executor: what a machine means. One tick reads everything, then faults or waits, then writes everything.
 * It does no more than that; a recorder, while there is one, takes down what moved and what changed.
 */
import { decoderOf } from '../../machine/model/encode';
import {
  programSpaceOf,
  registersIn,
  type FaultKind,
  type Form,
  type Guard,
  type Machine,
  type ScheduledTick,
} from '../../machine/model/machine';
import { operationOf, workIn } from '../../notation/operation';
import { flatTargets, type Action, type Expr, type Flagged, type Target } from '../../notation/tree';
import { placeValue } from './composites';
import { digitsAt, power } from '../../text/number';
import { cut, flagAfter, work, wrapped, type Worked } from './arithmetic';
import { CallStack, type Mark } from './callStack';
import { inputsAhead, isReady, plannedValue, writeDevice, type Attached, timeMakesReady } from './devices';
import { askedOf, BITWISE, Evaluator } from './evaluate';
import { digitsTold } from './sideBySide';
import { rolesOf, type Roles, type TickRecorder, type TransferTrace } from './tickRecorder';
import type { Fault, Outcome, PlaceRef } from './report';
import type { Noticed } from './noticed';
import { conditionText } from './conditionText';
import { performService, type ServiceEffect } from './services';
import { CODE, DATA, deviceLatch, looksForEmpty, NEVER, portLatch, type State } from './state';
import { placesUsed } from './stacks';
import { CELL, FLAG, LATCH, REGISTER, Writes } from './writes';

/** The longest text a run keeps; what is older falls away. */
export const MOST_OUTPUT = 100_000;

type Transferring = Action & { kind: 'transfer' };

/** What a tick is about to do besides writing. */
export interface Effects {
  waits: boolean;
  /** It waits for what time alone brings: the tick passes, and nothing else happens. */
  stalls: boolean;
  halts: boolean;
  jumps: boolean;
  /** Its guard does not hold: the rest of the instruction's own ticks are left out. */
  passes: boolean;
  /** Written to the console. */
  says: string;
  /** Values taken from the queue. */
  takes: number;
  mark: Mark | undefined;
}

/** Who wants to know what is allowed and seldom meant. */
export interface Observer {
  notice(noticed: Noticed): void;
}

/** A part of several places that are written as one. */
interface WrittenPart {
  readonly part: Target;
  readonly place: PlaceRef;
  readonly digits: number;
}

export class TickExecutor {
  fault: Fault | undefined;
  /** Cells that the last tick has read, where that is wanted. */
  cellsRead: { readonly space: number; readonly address: number }[] = [];
  private observer: Observer | undefined;
  /** The tick that was done last. */
  done: ScheduledTick | undefined;
  private readonly candidates: (cell: number) => readonly Form[];
  readonly reads: Evaluator;
  readonly writes: Writes;
  private readonly calls: CallStack;
  private readonly cells: number;
  /** What this machine looks for: data and empty cells that are executed, results that do not fit, a counter that wraps. */
  private readonly checks: { readonly data: boolean; readonly empty: boolean; readonly fit: boolean; readonly wraps: boolean };
  private readonly counter: number;
  readonly roles: Roles;
  /** 1 for registers that are fixed at 0. */
  private readonly zeros: Uint8Array;
  private readonly radix: 2 | 10;
  /** The ticks of an undefined opcode that is passed over. */
  private readonly passedOver: readonly ScheduledTick[];
  /** Takes down what a tick does, while somebody wants a report. */
  recorder: TickRecorder | undefined;
  /** Of the tick that was done last. */
  readonly does: Effects = { waits: false, stalls: false, halts: false, jumps: false, passes: false, says: '', takes: 0, mark: undefined };
  private noticed: Noticed[] = [];
  private comparing = false;
  /** Found by the decode tick that was done last. */
  decodedForm: Form | undefined;
  /** Where the instruction of the last tick is, also of a tick that could not be done. */
  at = 0;
  /** A fault for which the last tick has entered a trap instead. */
  trapped: Fault | undefined;

  constructor(
    readonly machine: Machine,
    readonly state: State,
  ) {
    this.candidates = decoderOf(machine).byFirst;
    this.reads = new Evaluator(machine, state);
    this.writes = new Writes(machine.radix, machine.programSpace);
    this.calls = new CallStack(machine, state);
    this.cells = programSpaceOf(machine).cells;
    this.passedOver = [...machine.opening, ...(machine.forms[0]?.schedule.filter((each) => each.part === 'finish') ?? [])];
    this.counter = machine.programCounter;
    this.zeros = Uint8Array.from(machine.registers, (each) => (each.zero ? 1 : 0));
    this.radix = machine.radix;
    this.roles = rolesOf(machine);
    this.checks = {
      data: machine.faults['executing data'] !== undefined,
      empty: looksForEmpty(machine),
      fit: machine.faults['result too wide'] !== undefined,
      wraps: machine.faults['program counter outside']?.kind === 'wrap',
    };
  }

  /** Performs one tick. After 'waiting' and 'fault' nothing has changed; `fault` then tells which. */
  tick(): Outcome {
    const { control } = this.state;
    if (control.halted) return 'halted';
    this.trapped = undefined;
    const { step, here, form, jumped } = control;
    let outcome = this.attempt();
    if (outcome === 'fault' && this.entersTrap()) outcome = this.attempt();
    this.at = control.here;
    // An instruction whose first tick was not done has not begun.
    if (step === 0 && !this.trapped && (outcome === 'fault' || outcome === 'waiting')) Object.assign(control, { here, form, jumped });
    return outcome;
  }

  private attempt(): Outcome {
    const { control } = this.state;
    const scheduled = this.begin();
    if (!this.fault) {
      if (scheduled.part === 'decode') this.decode();
      else if (scheduled.guard && !this.lets(scheduled.guard)) this.does.passes = true;
      else this.run(scheduled.tick.actions);
      this.fault ??= this.reads.fault;
    }
    if (this.fault) return 'fault';
    if (this.does.waits && !this.does.stalls) return 'waiting';
    if (this.writes.computed && this.writes.count > 1) {
      const place = this.writes.clash();
      if (place) this.fault = { kind: 'two writers', place };
      if (this.fault) return 'fault';
    }
    if (this.recorder?.dry) return 'done';
    this.done = scheduled;
    if (this.reads.polled.length > 0) this.countPolls();
    const link = this.calls.beforeWrites(this.writes);
    if (this.observer) this.tellObserver(this.observer, link);
    this.writes.commit(this.state, this.recorder?.changes);
    if (this.does.stalls) control.ticks++;
    else this.advance(scheduled, control);
    return this.does.halts ? 'halted' : 'done';
  }

  /** Devices count how often they are asked; a plan may be waiting for that. */
  private countPolls(): void {
    const { machine, state, writes } = this;
    const counted = new Map<number, number>();
    for (const asked of this.reads.polled) {
      const { device, part } = askedOf(asked);
      const ready = isReady(machine, state, device);
      const latch = deviceLatch(machine, device, part === 'data' ? 'dataReads' : ready ? 'readyPolls' : 'busyPolls');
      counted.set(latch, (counted.get(latch) ?? 0) + 1);
    }
    const after = (device: number, which: 'busyPolls' | 'readyPolls' | 'dataReads'): readonly [before: number, after: number] => {
      const latch = deviceLatch(machine, device, which);
      return [state.latches[latch]!, state.latches[latch]! + (counted.get(latch) ?? 0)];
    };
    for (const [latch, count] of counted) writes.add(LATCH, latch, 0, 32, state.latches[latch]! + count);
    for (const plan of state.plans) {
      if (plan.until.kind !== 'reads') continue;
      const counts =
        plan.latch === 'value' ? [after(plan.device, 'dataReads')] : [after(plan.device, 'busyPolls'), after(plan.device, 'readyPolls')];
      const [before, now] = counts.reduce(([a, b], [c, d]) => [a + c, b + d], [0, 0]);
      if (before < plan.until.count && now >= plan.until.count)
        writes.add(LATCH, deviceLatch(machine, plan.device, plan.latch), 0, 32, plannedValue(machine, state, plan, plan.after));
    }
  }

  private tellObserver(observer: Observer, link: Noticed | undefined): void {
    const { state, machine, writes } = this;
    if (link) observer.notice(link);
    for (const each of this.noticed) observer.notice(each);
    for (let at = 0; at < writes.count; at++) {
      const { kind, index, place } = writes.at(at);
      if (kind === CELL && index === machine.programSpace && state.kinds[place] === CODE)
        observer.notice({ kind: 'code written', address: place });
    }
  }

  /** From now on the observer is told; with `reads` the cells that each tick has read are kept in `cellsRead`. */
  observe(observer: Observer, { reads }: { reads: boolean }): void {
    this.observer = observer;
    this.reads.onRead = (space, address) => {
      if (reads) this.cellsRead.push({ space, address });
      if (this.state.marks[space]![address] === NEVER && !this.reads.attachments.cells[space]?.has(address))
        this.noticed.push({ kind: 'never written', space, address });
    };
  }

  private begin(): ScheduledTick {
    const { state, machine } = this;
    const { control } = state;
    this.writes.count = 0;
    this.writes.computed = false;
    this.fault = undefined;
    this.reads.begin();
    const { does } = this;
    does.waits = false;
    does.stalls = false;
    does.halts = false;
    does.jumps = false;
    does.passes = false;
    does.says = '';
    does.takes = 0;
    does.mark = undefined;
    if (this.noticed.length > 0) this.noticed = [];
    if (this.cellsRead.length > 0) this.cellsRead = [];
    if (control.step === 0) {
      const here = state.registers[machine.programCounter]!;
      control.here = here;
      control.form = undefined;
      control.jumped = false;
      if (here >= this.cells) this.fault = { kind: 'program counter outside', address: here };
      else if (this.checks.data && state.kinds[here] === DATA) this.fault = { kind: 'executing data', address: here };
      else if (this.checks.empty && state.marks[machine.programSpace]![here] === NEVER)
        this.fault = { kind: 'executing an empty cell', address: here };
    } else if (control.unknown) {
      this.fault = { kind: 'undefined opcode', cell: this.firstCell(), address: control.here };
    }
    return control.schedule[control.step]!;
  }

  private firstCell(): number {
    const slot = this.machine.slots[0]!;
    return digitsAt(this.state.registers[slot.register]!, slot.low, slot.high - slot.low + 1, this.machine.radix);
  }

  /** Looks the first cell up in the machine; moves nothing. */
  private decode(): void {
    const cell = this.firstCell();
    if (this.recorder) this.recorder.decoded = { cell };
    const forms = this.candidates(cell);
    const [first] = forms;
    // A form that its first cell settles shares that cell with no other.
    const late = first !== undefined && first.settledLate && first.schedule[this.machine.opening.length]?.part !== 'more';
    this.decodedForm = late ? this.settled(forms) : first;
    if (this.decodedForm || this.ignores('undefined opcode')) return;
    this.fault = { kind: 'undefined opcode', cell, address: this.state.control.here };
  }

  /** Of the forms that a first cell allows, the one that all fetched cells mean. */
  private settled(forms: readonly Form[]): Form | undefined {
    const { radix, slots } = this.machine;
    const { matches } = decoderOf(this.machine);
    const cellAt = (offset: number): number => {
      const { register, high, low } = slots[offset]!;
      return digitsAt(this.state.registers[register]!, low, high - low + 1, radix);
    };
    return forms.find((form) =>
      Array.from({ length: form.format.cells }, (_, offset) => offset).every((offset) => matches(form, offset, cellAt(offset))),
    );
  }

  private ignores(kind: FaultKind): boolean {
    return this.machine.faults[kind]?.kind === 'ignore';
  }

  /** Drops the faulting tick and the rest of its instruction; what comes next enters the trap. */
  private entersTrap(): boolean {
    const { control } = this.state;
    const told = this.fault && this.machine.faults[this.fault.kind];
    if (told?.kind !== 'trap' || this.machine.entry.length === 0 || control.entering) return false;
    this.trapped = this.fault;
    this.recorder?.forget();
    this.reads.forget();
    control.next = cut(control.here + (control.form?.format.cells ?? 1), programSpaceOf(this.machine).addressWidth, this.machine.radix);
    control.schedule = this.machine.entry;
    control.step = 1;
    control.form = undefined;
    control.unknown = false;
    control.cause = told.cause;
    control.entering = true;
    return true;
  }

  private run(actions: readonly Action[]): void {
    for (let at = 0; at < actions.length; at++) {
      const action = actions[at]!;
      switch (action.kind) {
        case 'transfer':
          this.transfer(action);
          break;
        case 'compare':
          this.compare(action.flagged);
          break;
        case 'if':
          this.choose(action);
          break;
        case 'halt':
          this.does.halts = true;
          break;
        case 'service':
          this.serve(action.number);
          break;
        case 'wait':
          this.does.waits = !isReady(this.machine, this.state, action.device);
          this.does.stalls = this.does.waits && timeMakesReady(this.machine, this.state, action.device);
          if (this.recorder) this.recorder.awaited = action.device;
          break;
        case 'mark':
          this.does.mark = { word: action.mark, place: action.place && this.silently(action.place) };
          break;
        case 'stack':
          this.checkStack(action.stack, action.way);
          break;
        default:
          action satisfies never;
      }
      if (this.fault || this.reads.fault) return;
    }
  }

  /** A value that is not drawn as moving. */
  private silently(expr: Expr): number {
    const { noting } = this.reads;
    this.reads.noting = false;
    const value = this.reads.value(expr);
    this.reads.noting = noting;
    return value;
  }

  /** Whether the stack has room, or a value, before anything of this tick is written. */
  private checkStack(index: number, way: 'push' | 'pop'): void {
    const { from, to, step } = this.machine.stacks[index]!;
    this.recorder?.marks.push({ kind: way, stack: index });
    if (this.ignores('stack limit')) return;
    const used = placesUsed(this.machine, this.state, index);
    const size = to - from + 1;
    if (way === 'push' ? used + step > size : used < step || used > size) this.fault = { kind: 'stack limit', stack: index, way };
  }

  /** Whether a guard lets the instruction be carried out. */
  private lets({ condition, text }: Guard): boolean {
    this.reads.forget();
    const holds = this.reads.value(condition) !== 0;
    if (this.recorder)
      this.recorder.guard = { text: conditionText(this.machine, this.state, condition, text), holds, readings: this.reads.readings };
    return holds;
  }

  private choose(action: Action & { kind: 'if' }): void {
    this.reads.forget();
    const holds = this.reads.value(action.condition) !== 0;
    if (this.recorder)
      this.recorder.condition = {
        text: conditionText(this.machine, this.state, action.condition, action.text),
        holds,
        readings: this.reads.readings,
      };
    this.run(holds ? action.then : action.otherwise);
  }

  private transfer({ target: named, value: expr, flagged }: Transferring): void {
    const { recorder, reads } = this;
    const target = named.kind === 'choose' ? this.chosenTarget(named) : named;
    if (!target) return;
    const taken = reads.takes;
    // Where flags are set, a result that is thrown away is a comparison.
    this.comparing = flagged !== undefined;
    if (recorder) reads.forget();
    const worked = flagged && this.setFlags(flagged);
    const value = worked ? (worked.wide ?? worked.result) : reads.exactValue(expr);
    if (reads.fault) return;
    if (expr.kind === 'binary') this.checkFit(target, expr, value, taken);
    const sources = reads.readings;
    const parts = recorder && (expr.kind === 'join' && sources.length > 1 ? reads.parts : digitsTold(expr, value, sources));
    if (target.kind === 'joined') {
      const written = this.putJoined(target, value);
      if (!recorder || this.fault || reads.fault) return;
      const joint = recorder.jointOf(written, wrapped(BigInt(value), target.width, this.radix));
      for (const each of written) this.tell(each.part, each.place, each.digits, { expr, worked, sources, parts, taken, joint });
      return;
    }
    const { radix } = this;
    const own = typeof value === 'bigint' ? Number(wrapped(value, target.width, radix)) : cut(value, target.width, radix);
    const place = this.put(target, own);
    if (recorder && place && !this.fault && !reads.fault) this.tell(target, place, own, { expr, worked, sources, parts, taken });
  }

  /** The place that a number names now; undefined where it names none. */
  private chosenTarget(target: Target & { kind: 'choose' }): Target | undefined {
    this.writes.computed = true;
    return this.reads.chosen(target);
  }

  private tell(target: Target, place: PlaceRef, value: number, trace: TransferTrace): void {
    const route = this.recorder!.routeOf(target, trace.expr);
    // Flags are those of the value; what is told and drawn is what was worked out for it.
    const whole = trace.worked?.operator === 'value' ? undefined : trace.worked;
    const work = workIn(trace.expr);
    const worked = route === 'straight' || !work ? trace.worked : (whole ?? this.rework(work.expr, trace.taken));
    this.recorder!.transfer({
      place,
      target,
      value,
      addressed: this.reads.addressed,
      route,
      worked,
      sources: trace.sources,
      parts: trace.parts,
      lowest: work?.lowest ?? 0,
      joint: trace.joint,
    });
  }

  /** High digits first; each part gets its own. Tells which place got what. */
  private putJoined(target: Target & { kind: 'joined' }, value: number | bigint): WrittenPart[] {
    const radix = BigInt(this.machine.radix);
    let left = target.width;
    let rest = wrapped(BigInt(value), target.width, this.machine.radix);
    const written: WrittenPart[] = [];
    for (const part of target.parts) {
      left -= part.width;
      const unit = radix ** BigInt(left);
      const digits = rest / unit;
      rest %= unit;
      if (part.kind === 'joined') {
        written.push(...this.putJoined(part, digits));
        continue;
      }
      const place = this.put(part, Number(digits));
      if (place) written.push({ part, place, digits: Number(digits) });
    }
    return written;
  }

  /** Where the machine says so, a sum or product that loses digits is a fault; a quotient never fits by force. */
  private checkFit(target: Target, expr: Expr & { kind: 'binary' }, value: number | bigint, taken: number): void {
    const { radix, reads } = this;
    const { operator } = expr;
    if (operator === '/' && value >= power(radix, target.width)) {
      const [a, b] = this.again(taken, () => [reads.value(expr.left), reads.value(expr.right)] as const);
      this.fault = { kind: 'division', a, b };
    }
    if (!this.checks.fit || target.kind !== 'register' || this.roles.places.has(target.register)) return;
    if (operator !== '+' && operator !== '-' && operator !== '*') return;
    const { a, b, carry, signed, widths } = operationOf(expr);
    if (operator === '*' && value < power(radix, target.width)) return;
    const exact = this.again(taken, () => {
      const read = (each: Expr | undefined, width: number): bigint => {
        const whole = each ? BigInt(reads.exactValue(each)) : 0n;
        return signed && whole * 2n >= BigInt(radix) ** BigInt(width) ? whole - BigInt(radix) ** BigInt(width) : whole;
      };
      const [first, second, third] = [read(a, widths[0]), read(b, widths[1]), read(carry, 2)];
      return operator === '*' ? first * second : operator === '+' ? first + second + third : first - second - third;
    });
    if (exact < 0n || exact >= power(radix, target.width))
      this.fault = { kind: 'result too wide', exact: Number(exact), width: target.width };
  }

  /** Operand values once more, for the drawing; undefined of a comparison, and where numbers cannot hold them. */
  private rework(expr: Expr, taken: number): Worked | undefined {
    const { operator, a, b, carry, width, signed, widths, extended } = operationOf(expr);
    const { radix, reads } = this;
    if (operator === 'value') return undefined;
    const widest = Math.max(...widths, operator === '*' ? 0 : width);
    if (power(radix, widest) > 2 ** 53 || (widest > 32 && BITWISE.has(operator))) return undefined;
    const [first, second, third] = this.again(taken, () => [reads.value(a), b && reads.value(b), carry && reads.value(carry)] as const);
    if (second === 0 && (operator === '/' || operator === '%')) return undefined;
    const worked = work(operator, { a: first, b: second, carry: third, width, radix, signed, widths });
    return extended ? { ...worked, extended } : worked;
  }

  /** Reads once more what this tick has read: nothing is noted, counted or taken a second time. */
  private again<T>(taken: number, read: () => T): T {
    const { reads } = this;
    const { takes, polled, onRead, noting } = reads;
    reads.takes = taken;
    reads.polled = [];
    reads.onRead = undefined;
    reads.noting = false;
    const result = read();
    Object.assign(reads, { takes, polled, onRead, noting });
    return result;
  }

  private compare(flagged: Flagged): void {
    this.reads.forget();
    const worked = this.setFlags(flagged);
    if (this.recorder) this.recorder.compared = { ...worked, sources: this.reads.readings };
  }

  private setFlags({ operation, effects }: Flagged): Worked {
    const { operator, a, b, carry, width, signed, widths } = operation;
    const { reads } = this;
    const operands = {
      a: reads.value(a),
      b: b && reads.value(b),
      carry: carry && reads.value(carry),
      width,
      radix: this.machine.radix,
      signed,
      widths,
    };
    const instead = operator === '/' || operator === '%' ? reads.division(operands) : undefined;
    const worked = instead === undefined ? work(operator, operands) : work('value', { ...operands, a: instead });
    for (let at = 0; at < effects.length; at++) {
      const effect = effects[at]!;
      const after = effect.rule === 'formula' ? reads.formula(effect.formula!, worked) : flagAfter(effect, worked);
      if (after === undefined) continue;
      const { flag, rule, noBorrow } = effect;
      this.writes.add(FLAG, flag, 0, 1, after);
      this.recorder?.flag({ flag, rule, noBorrow, worked, before: this.state.flags[flag]!, after });
    }
    return worked;
  }

  private serve(expr: Expr): void {
    const { state, machine } = this;
    const number = this.silently(expr);
    const trap = machine.traps.find((each) => each.number === number);
    if (!trap) {
      if (!this.ignores('undefined service')) this.fault = { kind: 'undefined service', number };
      return;
    }
    const effect = performService({ machine, state, trap });
    if ('fault' in effect) {
      this.fault = effect.fault;
      return;
    }
    this.applyEffect(effect);
    const served = trap.argument ?? trap.result;
    const value = effect.value ?? (trap.argument && placeValue(machine, state, trap.argument));
    const { recorder } = this;
    if (recorder) {
      recorder.service = {
        number,
        trap: trap.name,
        kind: trap.service,
        ...(served && { place: { name: served.name, width: served.width, registers: registersIn(served) } }),
        ...(value !== undefined && { value }),
        ...(effect.output && { output: effect.output }),
      };
    }
    if (!trap.result || effect.value === undefined) return;
    let low = trap.result.width;
    const given = cut(effect.value, low, machine.radix);
    for (const target of flatTargets(trap.result.target)) {
      low -= target.width;
      const digits = digitsAt(given, low, target.width, machine.radix);
      const place = this.put(target, digits);
      if (place) recorder?.brought(place, digits, target.width);
    }
  }

  private applyEffect({ ends, output, takes, waits, cells, latch }: ServiceEffect): void {
    this.does.halts = ends;
    this.does.says = output;
    this.does.takes = takes;
    this.does.waits = waits;
    this.does.stalls = waits && inputsAhead(this.state);
    const { programSpace } = this.machine;
    for (const { address, value } of cells) this.writes.add(CELL, programSpace, address, programSpaceOf(this.machine).width, value);
    if (latch) this.writes.add(LATCH, latch.latch, 0, 32, latch.value);
  }

  /** Takes a write down. For a report, the place that it is for; undefined where nobody asks, or nothing is written. */
  private put(target: Exclude<Target, { kind: 'joined' }> | Target, value: number): PlaceRef | undefined {
    switch (target.kind) {
      case 'register':
        return this.putRegister(target.register, target.high, target.low, value);
      case 'element': {
        const register = this.reads.elementOf(target);
        this.writes.computed = true;
        return this.reads.fault ? undefined : this.putRegister(register, target.width - 1, 0, value);
      }
      case 'flag':
        this.writes.add(FLAG, target.flag, 0, 1, value);
        this.recorder?.flag({
          flag: target.flag,
          rule: undefined,
          noBorrow: false,
          worked: undefined,
          before: this.state.flags[target.flag]!,
          after: value,
        });
        return this.recorder && { kind: 'flag', flag: target.flag };
      case 'cell':
        return this.putCell(target, value);
      case 'port':
        return this.putPort(target, value);
      case 'nowhere':
        return undefined;
      case 'choose':
      case 'joined':
        throw new RangeError('Such a target is written part by part');
      default:
        return target satisfies never;
    }
  }

  private putRegister(register: number, high: number, low: number, value: number): PlaceRef | undefined {
    const counter = register === this.counter;
    if (counter) this.does.jumps = true;
    if (this.zeros[register] === 0) {
      this.writes.add(REGISTER, register, low, high - low + 1, counter && this.checks.wraps ? value % this.cells : value);
    } else if (this.observer && !this.comparing)
      this.noticed.push({ kind: 'write lost', place: { kind: 'register', register, high, low } });
    return this.recorder && { kind: 'register', register, high, low };
  }

  private putCell(target: Target & { kind: 'cell' }, value: number): PlaceRef | undefined {
    const address = this.reads.place(target.space, target.bank, target.address);
    if (address < 0) return undefined;
    const place: PlaceRef | undefined = this.recorder && { kind: 'cell', space: target.space, address };
    const attached = this.reads.attachments.cellWrites[target.space]?.get(address);
    if (attached) this.writeTo(attached, value);
    const input = this.reads.attachments.cells[target.space]?.has(address);
    if (attached || input) return place;
    if (this.machine.spaces[target.space]!.readOnly) {
      if (!this.ignores('read-only')) this.fault ??= { kind: 'read-only', space: target.space, address };
      else if (this.observer) this.noticed.push({ kind: 'write lost', place: { kind: 'cell', space: target.space, address } });
      return undefined;
    }
    this.writes.add(CELL, target.space, address, target.width, value);
    return place;
  }

  private putPort(target: Target & { kind: 'port' }, value: number): PlaceRef | undefined {
    const { reads, machine } = this;
    const port = reads.inAddress(() => reads.value(target.port));
    const attached = reads.attachments.portWrites.get(port);
    if (!attached) reads.idle(port);
    if (reads.fault || port >= machine.ports!.count) return undefined;
    if (attached) this.writeTo(attached, value);
    this.writes.add(LATCH, portLatch(port), 0, target.width, value);
    return { kind: 'port', port };
  }

  private writeTo(attached: Attached, value: number): void {
    const { latches, output, takes } = writeDevice(this.machine, this.state, attached, value);
    for (const { latch, value: held } of latches) this.writes.add(LATCH, latch, 0, 32, held);
    this.does.says += output;
    this.does.takes += takes;
  }

  /** Whether a tick of this part leaves the instruction for another place. */
  jumpsIn({ part }: ScheduledTick): boolean {
    return this.does.jumps && (part === 'execute' || part === 'enter');
  }

  /** Counts the tick and finds the one to come. */
  private advance(scheduled: ScheduledTick, control: State['control']): void {
    const { machine } = this;
    control.ticks++;
    control.step++;
    control.inputs += this.does.takes + this.reads.takes;
    if (this.does.says) {
      control.output = appended(control.output, this.does.says);
      control.written += this.does.says.length;
    }
    if (this.does.mark) for (const each of this.calls.follow(this.does.mark)) this.observer?.notice(each);
    if (scheduled.part === 'decode') this.takeForm(control);
    else if (scheduled.part === 'more') this.settle(control);
    else if (this.jumpsIn(scheduled)) control.jumped = true;
    if (this.does.halts) control.halted = true;
    if (this.does.passes) control.step = afterOwn(control.schedule, control.step);
    const rest = control.schedule[control.step];
    if (this.does.halts || (!rest && !control.unknown) || (rest?.part === 'finish' && control.jumped)) {
      if (!control.entering) control.instructions++;
      control.entering = false;
      control.step = 0;
      control.schedule = machine.opening;
    }
  }

  private takeForm(control: State['control']): void {
    const { machine } = this;
    const form = this.decodedForm;
    control.form = form;
    control.schedule = form ? form.schedule : this.passedOver;
    control.next = cut(control.here + (form?.format.cells ?? 1), programSpaceOf(machine).addressWidth, machine.radix);
    if (control.next >= this.cells) control.next -= this.cells;
  }

  /** After the last further cell: the form that they all mean, where the first cell alone did not tell. */
  private settle(control: State['control']): void {
    if (!control.form?.settledLate || control.schedule[control.step]?.part === 'more') return;
    const form = this.settled(this.candidates(this.firstCell()));
    if (form) {
      control.form = form;
      control.schedule = form.schedule;
    } else control.unknown = true;
  }
}

/** Where the ticks of a schedule's finish begin, or its end. */
function afterOwn(schedule: readonly ScheduledTick[], from: number): number {
  let at = from;
  while (at < schedule.length && schedule[at]!.part !== 'finish') at++;
  return at;
}

/** Old text falls away in large pieces, so that appending stays cheap. */
function appended(output: string, more: string): string {
  const text = output + more;
  return text.length > 2 * MOST_OUTPUT ? text.slice(-MOST_OUTPUT) : text;
}

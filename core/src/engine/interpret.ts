/**
 * The tick executor: what a machine means. One tick reads everything, then faults or waits, then writes everything.
 * With a report it also tells what moved and what changed; without one it only does it.
 */
import { formsByFirstCell } from '../machine/encode';
import { programSpaceOf, withRole, type Form, type Machine, type ScheduledTick } from '../machine/machine';
import type { Action, Expr, Flagged, Target } from '../notation/tree';
import { operationOf } from '../notation/check';
import { POWER, signedReading } from '../text/number';
import { cut, exactResult, flagAfter, work } from './arithmetic';
import type { Fault, FlagChange, Outcome, PlaceRef, Reading, Route, ServiceReport, TickReport, Transfer, Worked } from './report';
import { performService } from './services';
import { BY_RUN, type Change, type State } from './state';

const REGISTER = 0;
const FLAG = 1;
const CELL = 2;

/** What a reported tick gathers before it is written. */
interface Gathering {
  readings: readonly Reading[];
  addressed: readonly Reading[];
  addressing: number;
  readonly transfers: Transfer[];
  flags: readonly FlagChange[];
  compared: TickReport['compared'];
  condition: TickReport['condition'];
  decoded: TickReport['decoded'];
  service: ServiceReport | undefined;
}

export interface Reported {
  readonly outcome: Outcome;
  readonly report: TickReport;
  readonly changes: readonly Change[];
}

interface Told {
  readonly at: ScheduledTick;
  readonly step: number;
  readonly outcome: Outcome;
  /** The tick was carried out and counted. */
  readonly done: boolean;
}

const NO_READINGS: readonly Reading[] = [];
const NO_FLAGS: readonly FlagChange[] = [];

/** Adds to a list that the present tick owns; the shared empty one is replaced first. Most lists stay empty. */
function withMore<T>(list: readonly T[], item: T): readonly T[] {
  if (list.length === 0) return [item];
  (list as T[]).push(item);
  return list;
}

const emptyGathering = (): Gathering => ({
  readings: NO_READINGS,
  addressed: NO_READINGS,
  addressing: 0,
  transfers: [],
  flags: NO_FLAGS,
  compared: undefined,
  condition: undefined,
  decoded: undefined,
  service: undefined,
});

/** Ticks of an instruction whose `finish` is skipped. */
const withoutFinish = ({ schedule }: Form): number => {
  let count = schedule.length;
  while (count > 0 && schedule[count - 1]!.part === 'finish') count--;
  return count;
};

/** The longest text a run keeps; what is older falls away. */
export const MOST_OUTPUT = 100_000;

export class TickExecutor {
  fault: Fault | undefined;
  private readonly cellWidth: number;
  private readonly firstShift: number;
  private readonly formOf: (cell: number) => Form | undefined;
  private readonly pathRegisters: ReadonlySet<number>;
  private readonly countingRegisters: ReadonlySet<number>;
  private gathering: Gathering | undefined;
  private dry = false;
  private changes: Change[] = [];
  // Writes wait here until everything is read.
  private count = 0;
  private readonly kinds: number[] = [];
  private readonly indices: number[] = [];
  private readonly places: number[] = [];
  private readonly widths: number[] = [];
  private readonly values: number[] = [];
  private halts = false;
  private jumps = false;
  private says = '';
  private takesInput = false;

  constructor(
    readonly machine: Machine,
    readonly state: State,
    /** Values for services that read; the executor only looks at it. */
    readonly inputs: readonly number[],
  ) {
    this.cellWidth = programSpaceOf(machine).width;
    this.formOf = formsByFirstCell(machine);
    this.firstShift = machine.registers[machine.instructionRegister]!.width - this.cellWidth;
    const roles = (['program counter', 'memory address', 'stack pointer'] as const).map((role) => withRole(machine, role));
    this.pathRegisters = new Set(roles.filter((each) => each !== undefined));
    this.countingRegisters = new Set(
      machine.registers.flatMap((each, at) => (each.role === 'accumulator' || each.role === 'general' ? [] : [at])),
    );
  }

  /** Performs one tick. After 'waiting' and 'fault' nothing has changed; `fault` then tells which. */
  tick(): Outcome {
    const { control } = this.state;
    if (control.halted) return 'halted';
    const scheduled = this.begin();
    if (scheduled.part === 'decode') this.decode();
    else this.run(scheduled.tick.actions);
    if (this.fault) return 'fault';
    if (this.takesInput && this.inputs.length <= control.inputs) return 'waiting';
    if (this.count > 1 && this.clashes()) return 'fault';
    if (this.dry) return 'done';
    this.commit();
    this.advance(scheduled);
    return this.halts ? 'halted' : 'done';
  }

  /** Performs one tick and tells about it. `dry`: tells what would happen, and changes nothing. */
  reportTick({ dry }: { dry: boolean } = { dry: false }): Reported {
    const { control } = this.state;
    const at = control.schedule[control.step]!;
    const kept = { here: control.here, next: control.next, jumped: control.jumped, form: control.form };
    const gathering = emptyGathering();
    this.gathering = gathering;
    this.dry = dry;
    this.changes = [];
    const step = control.step + 1;
    const outcome = this.tick();
    this.gathering = undefined;
    this.dry = false;
    const done = !dry && (outcome === 'done' || outcome === 'halted');
    const report = this.describe(gathering, { at, step, outcome, done });
    if (dry) Object.assign(this.state.control, kept);
    return { outcome, report, changes: this.changes };
  }

  private describe(gathering: Gathering, { at, step, outcome, done }: Told): TickReport {
    const { control } = this.state;
    const decodedForm = at.part === 'decode' && gathering.decoded ? this.formOf(gathering.decoded.cell) : undefined;
    const form = at.part === 'first' ? undefined : (control.form ?? decodedForm);
    const skips = control.jumped || (at.part === 'execute' && this.jumps);
    return {
      tick: done ? control.ticks : control.ticks + 1,
      here: control.here,
      step,
      total: form && (skips ? withoutFinish(form) : form.schedule.length),
      phase: at.phase,
      part: at.part,
      text: at.tick.text,
      form: form?.index,
      transfers: gathering.transfers,
      compared: gathering.compared,
      flags: gathering.flags,
      condition: gathering.condition,
      decoded: gathering.decoded,
      service: gathering.service,
      halted: this.halts,
      fault: outcome === 'fault' ? this.fault : undefined,
    };
  }

  private begin(): ScheduledTick {
    const { state, machine } = this;
    const { control } = state;
    this.count = 0;
    this.fault = undefined;
    this.halts = false;
    this.jumps = false;
    this.says = '';
    this.takesInput = false;
    if (control.step === 0) {
      control.here = state.registers[machine.programCounter]!;
      control.form = undefined;
      control.jumped = false;
    }
    return control.schedule[control.step]!;
  }

  /** Looks the first cell up in the machine; moves nothing. */
  private decode(): void {
    const { state, machine } = this;
    const cell = state.registers[machine.instructionRegister]! >>> this.firstShift;
    if (this.gathering) this.gathering.decoded = { cell };
    if (!this.formOf(cell)) this.fault = { kind: 'undefined opcode', cell, address: state.control.here };
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
          this.halts = true;
          break;
        case 'service':
          this.serve(action.number);
          break;
        default:
          action satisfies never;
      }
      if (this.fault) return;
    }
  }

  private choose(action: Action & { kind: 'if' }): void {
    const { gathering } = this;
    if (gathering) gathering.readings = NO_READINGS;
    const holds = this.evaluate(action.condition) !== 0;
    if (gathering) gathering.condition = { text: action.text, holds, readings: gathering.readings };
    this.run(holds ? action.then : action.otherwise);
  }

  private transfer({ target, value: expr, flagged }: Action & { kind: 'transfer' }): void {
    const { gathering } = this;
    if (gathering) {
      gathering.readings = NO_READINGS;
      gathering.addressed = NO_READINGS;
    }
    const worked = flagged && this.setFlags(flagged);
    const value = cut(worked ? worked.result : this.evaluate(expr), target.width);
    const sources = gathering?.readings;
    this.put(target, value);
    if (gathering && !this.fault)
      gathering.transfers.push(this.describeTransfer(gathering, { target, expr, value, worked, sources: sources! }));
  }

  private describeTransfer(
    gathering: Gathering,
    {
      target,
      expr,
      value,
      worked,
      sources,
    }: { target: Target; expr: Expr; value: number; worked: Worked | undefined; sources: readonly Reading[] },
  ): Transfer {
    const place = this.placeOf(target);
    const operation = operationOf(expr);
    const route = this.routeOf(target, expr, operation.operator !== 'value');
    const shown = worked ?? (route === 'straight' ? undefined : this.rework(expr));
    const path = target.kind === 'register' && this.pathRegisters.has(target.register) ? 'address' : 'data';
    return {
      sources,
      addressed: gathering.addressed,
      target: place,
      before: this.valueAt(target, place),
      value,
      width: target.width,
      route,
      path,
      worked: shown,
    };
  }

  private routeOf(target: Target, expr: Expr, computes: boolean): Route {
    if (!computes) return 'straight';
    const counts =
      expr.kind === 'binary' &&
      expr.left.kind === 'register' &&
      expr.right.kind === 'literal' &&
      target.kind === 'register' &&
      expr.left.register === target.register &&
      this.countingRegisters.has(target.register);
    return counts ? 'count' : 'alu';
  }

  /** Operand values once more, for the drawing; nothing here has effects, so peeking is allowed. */
  private rework(expr: Expr): Worked {
    const { operator, a, b, carry, width } = operationOf(expr);
    const kept = this.gathering;
    this.gathering = undefined;
    const peek = (each: Expr | undefined): number | undefined => each && this.evaluate(each);
    const worked = work(operator, peek(a)!, peek(b), peek(carry), width);
    this.gathering = kept;
    return worked;
  }

  private compare(flagged: Flagged): void {
    const { gathering } = this;
    if (gathering) gathering.readings = NO_READINGS;
    const worked = this.setFlags(flagged);
    if (gathering) gathering.compared = { ...worked, sources: gathering.readings };
  }

  private setFlags({ operation, effects }: Flagged): Worked {
    const { operator, a, b, carry, width } = operation;
    const worked = work(operator, this.evaluate(a), b && this.evaluate(b), carry && this.evaluate(carry), width);
    for (const effect of effects) {
      const { flag, rule, noBorrow } = effect;
      const after = flagAfter(effect, worked);
      if (after === undefined) continue;
      this.write(FLAG, flag, 0, 1, after);
      if (this.gathering)
        this.gathering.flags = withMore(this.gathering.flags, { flag, rule, noBorrow, worked, before: this.state.flags[flag]!, after });
    }
    return worked;
  }

  private serve(expr: Expr): void {
    const { state, machine } = this;
    const number = this.evaluate(expr);
    const trap = machine.traps.find((each) => each.number === number);
    if (!trap) {
      this.fault = { kind: 'undefined service', number };
      return;
    }
    const effect = performService(machine, state, trap, this.inputs[state.control.inputs]);
    if ('fault' in effect) {
      this.fault = effect.fault;
      return;
    }
    this.halts = effect.ends;
    this.says = effect.output;
    this.takesInput = effect.reads;
    const { gathering } = this;
    if (gathering) {
      const register = trap.argument ?? trap.result;
      const value = effect.value ?? (trap.argument === undefined ? undefined : state.registers[trap.argument]!);
      gathering.service = {
        number,
        trap: trap.name,
        kind: trap.service,
        ...(register !== undefined && { register }),
        ...(value !== undefined && { value }),
        ...(effect.output && { output: effect.output }),
      };
    }
    if (trap.result === undefined || effect.value === undefined) return;
    const { width } = machine.registers[trap.result]!;
    const target: Target = { kind: 'register', register: trap.result, high: width - 1, low: 0, width, whole: true };
    this.put(target, effect.value);
    const place = this.placeOf(target);
    gathering?.transfers.push({
      sources: [],
      addressed: [],
      target: place,
      before: this.valueAt(target, place),
      value: effect.value,
      width,
      route: 'service',
      worked: undefined,
      path: 'data',
    });
  }

  private evaluate(expr: Expr): number {
    switch (expr.kind) {
      case 'literal':
        if (this.gathering) this.note({ place: undefined, value: expr.value, width: expr.width, name: undefined });
        return expr.value;
      case 'register': {
        const value = this.state.registers[expr.register]!;
        if (this.gathering) this.noteRegister(expr.register, expr.width - 1, 0, value, undefined);
        return value;
      }
      case 'slice': {
        const value = cut(this.state.registers[expr.register]! >>> expr.low, expr.width);
        if (this.gathering) this.noteRegister(expr.register, expr.high, expr.low, value, expr.name);
        return value;
      }
      case 'flag': {
        const value = this.state.flags[expr.flag]!;
        if (this.gathering) this.note({ place: { kind: 'flag', flag: expr.flag }, value, width: 1, name: undefined });
        return value;
      }
      case 'latch':
        return this.latch(expr);
      case 'cell':
        return this.cell(expr);
      case 'unary': {
        const operand = this.evaluate(expr.operand);
        return cut(expr.operator === '~' ? ~operand : -operand, expr.width);
      }
      case 'binary':
        return this.binary(expr);
      case 'shift': {
        const operand = this.evaluate(expr.operand);
        const places = this.evaluate(expr.places);
        return work(expr.operator, operand, places, expr.through && this.evaluate(expr.through), expr.width).result;
      }
      case 'join':
        return expr.parts.reduce((sum, each) => sum * POWER[each.width]! + this.evaluate(each), 0);
      case 'resize': {
        const operand = this.evaluate(expr.operand);
        return cut(expr.signed ? signedReading(operand, expr.operand.width) : operand, expr.width);
      }
      default:
        return expr satisfies never;
    }
  }

  private binary({ operator, left, right, width, signed }: Expr & { kind: 'binary' }): number {
    let a = this.evaluate(left);
    let b = this.evaluate(right);
    if (signed) [a, b] = [signedReading(a, left.width), signedReading(b, right.width)];
    switch (operator) {
      case '=':
        return a === b ? 1 : 0;
      case '!=':
        return a !== b ? 1 : 0;
      case '<':
        return a < b ? 1 : 0;
      case '<=':
        return a <= b ? 1 : 0;
      case '>':
        return a > b ? 1 : 0;
      case '>=':
        return a >= b ? 1 : 0;
      default:
        return cut(exactResult(operator, a, b, 0, width), width);
    }
  }

  private latch(expr: Expr & { kind: 'latch' }): number {
    const { control } = this.state;
    const length = control.form?.format.cells ?? 0;
    const value = expr.latch === 'here' ? control.here : expr.latch === 'next' ? control.next : length;
    // `here` and `next` stand in no register of the document; they are drawn as coming from the program counter.
    if (this.gathering) this.noteRegister(this.machine.programCounter, expr.width - 1, 0, value, expr.latch);
    return value;
  }

  private cell(expr: Expr & { kind: 'cell' }): number {
    const { gathering } = this;
    if (gathering) gathering.addressing++;
    const address = this.evaluate(expr.address);
    if (gathering) gathering.addressing--;
    const cells = this.state.spaces[expr.space]!;
    if (address >= cells.length) {
      this.fault ??= { kind: 'cell outside', space: expr.space, address };
      return 0;
    }
    const value = cells[address]!;
    if (gathering) this.note({ place: { kind: 'cell', space: expr.space, address }, value, width: expr.width, name: undefined });
    return value;
  }

  private noteRegister(register: number, high: number, low: number, value: number, name: string | undefined): void {
    this.note({ place: { kind: 'register', register, high, low }, value, width: high - low + 1, name });
  }

  private note(reading: Reading): void {
    const { gathering } = this;
    if (gathering!.addressing > 0) gathering!.addressed = withMore(gathering!.addressed, reading);
    else gathering!.readings = withMore(gathering!.readings, reading);
  }

  private put(target: Target, value: number): void {
    switch (target.kind) {
      case 'register':
        if (target.register === this.machine.programCounter) this.jumps = true;
        this.write(REGISTER, target.register, target.low, target.width, value);
        return;
      case 'flag':
        this.write(FLAG, target.flag, 0, 1, value);
        this.noteFlag(target.flag, value);
        return;
      case 'cell':
        this.putCell(target, value);
        return;
      default:
        target satisfies never;
    }
  }

  private noteFlag(flag: number, after: number): void {
    if (this.gathering)
      this.gathering.flags = withMore(this.gathering.flags, {
        flag,
        rule: undefined,
        noBorrow: false,
        worked: undefined,
        before: this.state.flags[flag]!,
        after,
      });
  }

  private putCell(target: Target & { kind: 'cell' }, value: number): void {
    if (this.gathering) this.gathering.addressing++;
    const address = this.evaluate(target.address);
    if (this.gathering) this.gathering.addressing--;
    if (address >= this.state.spaces[target.space]!.length) this.fault ??= { kind: 'cell outside', space: target.space, address };
    else this.write(CELL, target.space, address, target.width, value);
  }

  private write(kind: number, index: number, place: number, width: number, value: number): void {
    const at = this.count++;
    this.kinds[at] = kind;
    this.indices[at] = index;
    this.places[at] = place;
    this.widths[at] = width;
    this.values[at] = value;
  }

  /** Two writes of one computed cell are a fault; a flag given a value beats its rule. */
  private clashes(): boolean {
    for (let a = 0; a < this.count; a++) {
      if (this.kinds[a] !== CELL) continue;
      for (let b = a + 1; b < this.count; b++) {
        if (this.kinds[b] !== CELL || this.indices[a] !== this.indices[b] || this.places[a] !== this.places[b]) continue;
        this.fault = { kind: 'two writers', space: this.indices[a]!, address: this.places[a]! };
        return true;
      }
    }
    return false;
  }

  private commit(): void {
    const { state } = this;
    const { registers, control } = state;
    const keep = this.gathering !== undefined;
    for (let at = 0; at < this.count; at++) {
      const index = this.indices[at]!;
      const place = this.places[at]!;
      const value = this.values[at]!;
      if (this.kinds[at] === REGISTER) {
        const before = registers[index]!;
        const mask = this.widths[at]! === 32 ? 0xffffffff : ((1 << this.widths[at]!) - 1) << place;
        const after = ((before & ~mask) | ((value << place) & mask)) >>> 0;
        registers[index] = after;
        if (keep) this.changes.push({ kind: 'register', register: index, before, after });
      } else if (this.kinds[at] === FLAG) {
        const tick = control.ticks + 1;
        if (keep)
          this.changes.push({
            kind: 'flag',
            flag: index,
            before: state.flags[index]!,
            after: value,
            tickBefore: state.flagTicks[index]!,
            tickAfter: tick,
          });
        state.flags[index] = value;
        state.flagTicks[index] = tick;
      } else {
        const cells = state.spaces[index]!;
        const marks = state.marks[index]!;
        if (keep)
          this.changes.push({ kind: 'cell', space: index, address: place, before: cells[place]!, after: value, markBefore: marks[place]! });
        cells[place] = value;
        marks[place] = BY_RUN;
      }
    }
  }

  /** Counts the tick and finds the one to come. */
  private advance({ part }: ScheduledTick): void {
    const { state, machine } = this;
    const { control } = state;
    control.ticks++;
    control.step++;
    if (this.takesInput) control.inputs++;
    if (this.says) control.output = appended(control.output, this.says);
    if (part === 'decode') {
      const form = this.formOf(state.registers[machine.instructionRegister]! >>> this.firstShift)!;
      control.form = form;
      control.schedule = form.schedule;
      control.next = cut(control.here + form.format.cells, programSpaceOf(machine).addressWidth);
    } else if (part === 'execute' && this.jumps) control.jumped = true;
    if (this.halts) control.halted = true;
    const rest = control.schedule[control.step];
    if (this.halts || !rest || (rest.part === 'finish' && control.jumped)) {
      control.instructions++;
      control.step = 0;
      control.schedule = machine.opening;
    }
  }

  private placeOf(target: Target): PlaceRef {
    if (target.kind === 'flag') return { kind: 'flag', flag: target.flag };
    if (target.kind === 'register') return { kind: 'register', register: target.register, high: target.high, low: target.low };
    return { kind: 'cell', space: target.space, address: this.places[this.count - 1]! };
  }

  private valueAt(target: Target, place: PlaceRef): number {
    if (place.kind === 'flag') return this.state.flags[place.flag]!;
    if (place.kind === 'cell') return this.state.spaces[place.space]![place.address]!;
    return cut(this.state.registers[place.register]! >>> place.low, target.width);
  }
}

/** Old text falls away in large pieces, so that appending stays cheap. */
function appended(output: string, more: string): string {
  const text = output + more;
  return text.length > 2 * MOST_OUTPUT ? text.slice(-MOST_OUTPUT) : text;
}

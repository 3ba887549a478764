/**
 * Writes the code of one tick: everything is read and looked at first, then everything is written. A tick that needs a
 * look (a fault, a device, a service, a watched place) has written nothing when it is left to the tick executor.
 */
import { withRole, type Machine } from '../../machine/model/machine';
import { flatActions, flatTargets, possibleTargets, type Action, type Expr, type Target, type Tick } from '../../notation/tree';
import { operationOf } from '../../notation/operation';
import { DEEPEST } from '../meaning/callStack';
import { rolesOf, type Roles } from '../meaning/tickRecorder';
import { FlaggedOperation, type Operated } from './flagged';
import { FRAME, FRAME_BYTES } from './layout';
import { typeOf, Unsupported, Values, type Context, type Local, type ValueType } from './values';

/** Locals of the whole run that ticks write. */
export interface RunLocals {
  readonly jumped: number;
  readonly depth: number;
  readonly beyond: number;
  readonly broken: number;
  readonly lowest: number;
  /** The return place of the innermost call while it is in the link register alone; −1 else. */
  readonly unsaved: number;
  /** Ticks done when the instruction under way began; and before this run, as f64. */
  readonly ticks: number;
  readonly base: number;
}

export interface TickContext extends Context {
  readonly run: RunLocals;
  /** Registers and flags whose writing is watched. */
  readonly watched: { readonly registers: ReadonlySet<number>; readonly flags: ReadonlySet<number> };
  /** The local that tells when this set of flags was set last. */
  readonly stampOf: (flags: readonly number[]) => number;
}

/** Does the writing of something that was read and looked at. */
type Write = () => void;

const PASSING: ReadonlySet<string> = new Set(['program counter', 'memory address', 'memory data', 'instruction', 'link']);

export class TickCode {
  private readonly values: Values;
  private readonly roles: Roles;
  private readonly machine: Machine;
  private readonly links: boolean;
  private readonly borrowed: Local[] = [];
  private readonly operations: FlaggedOperation[] = [];

  constructor(
    private readonly context: TickContext,
    /** Position of the tick in its instruction, from 0; and whether writing PC is a jump here. */
    private readonly at: { readonly step: number; readonly jumps: boolean },
  ) {
    this.values = new Values(context);
    this.machine = context.machine;
    this.roles = rolesOf(context.machine);
    this.links = this.machine.registers.some((each) => each.role === 'link');
  }

  emit(tick: Tick): void {
    this.refuseClashes(tick.actions);
    const writes = tick.actions.map((each) => ({ marks: each.kind === 'mark', write: this.prepare(each) }));
    // A mark looks at where PC stands when all else is written.
    for (const late of [false, true]) for (const { marks, write } of writes) if (marks === late) write();
    this.count();
    for (const { local, type } of this.borrowed) this.context.code.release(type, local);
    for (const each of this.operations) each.free();
  }

  private count(): void {
    const { code, layout, counted } = this.context;
    for (const { space, address } of counted) {
      code.get(address);
      code.if();
      // One more than the address stands there; 0 where the read was not done.
      bump(this.context, layout.counters.reads[space]! - 4, address);
      code.i32(0).set(address).end();
    }
    counted.length = 0;
  }

  /** Two writes that may meet are the tick executor's to judge. */
  private refuseClashes(actions: readonly Action[]): void {
    const cells = new Set<number>();
    let elements = 0;
    const chosen = new Set<number>();
    const look = (each: Target): void => {
      if (each.kind === 'joined') each.parts.forEach(look);
      if (each.kind === 'cell') {
        if (cells.has(each.space)) throw new Unsupported();
        cells.add(each.space);
      }
      if (each.kind === 'element') elements++;
      if (each.kind === 'element' && elements > 1) throw new Unsupported();
      if (each.kind === 'choose') {
        elements++;
        for (const one of possibleTargets(each)) if (one.kind === 'register') chosen.add(one.register);
        if (elements > 1) throw new Unsupported();
      }
      if (each.kind === 'port') throw new Unsupported();
    };
    const within = (list: readonly Action[]): void => {
      for (const each of list) {
        if (each.kind === 'transfer') look(each.target);
        if (each.kind === 'if') {
          within(each.then);
          within(each.otherwise);
        }
      }
    };
    within(actions);
    // A register of an array, or one that a number may choose, beside such a number.
    const registers = flatActions(actions).some(
      (each) =>
        each.kind === 'transfer' &&
        flatTargets(each.target).some(
          (one) => one.kind === 'register' && (this.machine.registers[one.register]!.array !== undefined || chosen.has(one.register)),
        ),
    );
    if (elements > 0 && registers) throw new Unsupported();
  }

  private keep(type: ValueType): number {
    const local = this.context.code.borrow(type);
    this.borrowed.push({ local, type });
    return local;
  }

  private prepare(action: Action): Write {
    switch (action.kind) {
      case 'transfer':
        return this.transfer(action);
      case 'compare':
        return this.flagsOf(this.operated(action.flagged).flags);
      case 'if':
        return this.choice(action);
      case 'mark':
        return this.mark(action);
      case 'stack':
        this.stackRoom(action);
        return () => undefined;
      case 'halt':
      case 'service':
      case 'wait':
        throw new Unsupported();
      default:
        return action satisfies never;
    }
  }

  private choice({ condition, then, otherwise }: Action & { kind: 'if' }): Write {
    const { code } = this.context;
    const holds = this.keep('i32');
    this.values.emit(condition);
    const type = this.values.typeOf(condition);
    if (type === 'i64') {
      code.i64(0n);
      this.values.op('i64', 'ne');
    }
    code.set(holds);
    const both = (write: (list: 'then' | 'otherwise') => void): void => {
      code.get(holds);
      code.if();
      write('then');
      if (otherwise.length > 0) {
        code.else();
        write('otherwise');
      }
      code.end();
    };
    const writes: Record<'then' | 'otherwise', Write[]> = { then: [], otherwise: [] };
    const lists = { then, otherwise };
    both((side) => void (writes[side] = lists[side].map((each) => this.prepare(each))));
    return () => both((side) => writes[side].forEach((each) => each()));
  }

  private operated(flagged: NonNullable<(Action & { kind: 'transfer' })['flagged']>): Operated {
    const operation = new FlaggedOperation(this.values, flagged.operation);
    this.operations.push(operation);
    return operation.emit(flagged);
  }

  private flagsOf(flags: Operated['flags']): Write {
    const { code, places, run, stampOf, watched } = this.context;
    if (flags.some((each) => watched.flags.has(each.flag))) throw new Unsupported();
    return () => {
      for (const { flag, local } of flags) code.get(local).set(places.flags[flag]!);
      const stamp = (list: Operated['flags']): void => {
        if (list.length > 0)
          code
            .get(run.ticks)
            .i32(this.at.step + 1)
            .op('i32.add')
            .set(stampOf(list.map((each) => each.flag)));
      };
      stamp(flags.filter((each) => each.unless === undefined));
      const left = flags.filter((each) => each.unless !== undefined);
      if (left.length === 0) return;
      code.get(left[0]!.unless!).op('i64.eqz', 'i32.eqz');
      code.if();
      stamp(left);
      code.end();
    };
  }

  private transfer({ target, value, flagged }: Action & { kind: 'transfer' }): Write {
    const { code } = this.context;
    const { radix } = this.machine;
    this.checkFit(target, value);
    if (flagged) {
      const { result, flags } = this.operated(flagged);
      const put = this.put(target, result, { from: flagged.operation.width, drops: true });
      const set = this.flagsOf(flags);
      // As the tick executor does it: a flag that the target itself holds keeps what the target got.
      return () => {
        set();
        put();
      };
    }
    const type = typeOf(radix, value.width);
    const local = this.keep(type);
    this.values.emit(value);
    code.set(local);
    return this.put(target, { local, type }, { from: value.width });
  }

  /** Where the machine says so, a result that loses digits is a fault; a quotient never fits by force. */
  private checkFit(target: Target, value: Expr): void {
    if (value.kind !== 'binary') return;
    const { code, machine } = this.context;
    const { operator } = value;
    if (operator === '/' && value.width > target.width) throw new Unsupported();
    const checks = machine.faults['result too wide'] !== undefined && target.kind === 'register' && !this.roles.places.has(target.register);
    if (!checks || (operator !== '+' && operator !== '-' && operator !== '*')) return;
    const { a, b, carry, width, signed } = operationOf(value);
    if (signed || !b || a.width + b.width > (machine.radix === 2 ? 62 : 18)) throw new Unsupported();
    this.values.emit(a, 'i64');
    this.values.emit(b, 'i64');
    this.values.op('i64', { '+': 'add', '-': 'sub', '*': 'mul' }[operator]);
    if (carry) {
      this.values.emit(carry, 'i64');
      this.values.op('i64', operator === '-' ? 'sub' : 'add');
    }
    // Read as unsigned a negative result is too great as well.
    code.i64(BigInt(machine.radix) ** BigInt(Math.min(target.width, operator === '*' ? target.width : width)));
    this.values.op('i64', 'ge_u');
    this.values.lookIf();
  }

  /** The value cut to a width, as an i32 in a local of its own. */
  private fitted({ local, type }: Local, width: number, from: number): number {
    const { code } = this.context;
    if (type === 'i32' && from <= width) return local;
    const own = this.keep('i32');
    code.get(local);
    if (this.machine.radix === 2) {
      this.values.convert(type, 'i32');
      if (from > width) this.values.cut('i32', width);
    } else {
      if (from > width) {
        this.values.constant(type, 10n ** BigInt(width));
        this.values.op(type, 'rem_u');
      }
      this.values.convert(type, 'i32');
    }
    code.set(own);
    return own;
  }

  /** `from`: digits that the value may have; `drops`: a register that is fixed at 0 may be its target, as of a comparison. */
  private put(target: Target, value: Local, { from = 64, drops = false }: { from?: number; drops?: boolean } = {}): Write {
    switch (target.kind) {
      case 'register':
        return this.putRegister(target, this.fitted(value, target.width, from), drops);
      case 'flag': {
        const local = this.fitted(value, 1, from);
        return this.flagsOf([{ flag: target.flag, local }]);
      }
      case 'element':
        return this.putElement(target, this.fitted(value, target.width, from), drops);
      case 'cell':
        return this.putCell(target, this.fitted(value, target.width, from));
      case 'joined':
        return this.putJoined(target, value);
      case 'nowhere':
        return () => undefined;
      case 'choose':
        return this.putChosen(target, value, { from, drops });
      case 'port':
        throw new Unsupported();
      default:
        return target satisfies never;
    }
  }

  /** Into the one of a list that a number says; a number without one needs a look. */
  private putChosen({ index, options }: Target & { kind: 'choose' }, value: Local, how: { from: number; drops: boolean }): Write {
    const { code } = this.context;
    const at = this.keep('i32');
    this.values.emit(index, 'i32');
    code.set(at);
    const present = options.flatMap((option, number) => (option ? [{ option, number }] : []));
    const where = (act: (place: Target, position: number) => void): void =>
      present.forEach(({ option, number }, position) => {
        code.get(at).i32(number).op('i32.eq');
        code.if();
        act(option, position);
        code.end();
      });
    code.i32(0);
    for (const { number } of present) code.get(at).i32(number).op('i32.eq', 'i32.or');
    code.op('i32.eqz');
    this.values.lookIf();
    const writes: Write[] = [];
    where((place, position) => void (writes[position] = this.put(place, value, how)));
    return () => where((_, position) => writes[position]?.());
  }

  /** High digits first; each part gets its own. */
  private putJoined(target: Target & { kind: 'joined' }, value: Local): Write {
    const { code } = this.context;
    if (target.width > (this.machine.radix === 2 ? 64 : 18)) throw new Unsupported();
    let left = target.width;
    const writes = target.parts.map((part) => {
      left -= part.width;
      const type: ValueType = typeOf(this.machine.radix, part.width);
      const local = this.keep(type);
      code.get(value.local);
      this.values.convert(value.type, 'i64');
      this.values.digits('i64', { low: left, width: part.width, whole: 64 });
      this.values.convert('i64', type);
      code.set(local);
      return this.put(part, { local, type }, { from: part.width });
    });
    return () => writes.forEach((each) => each());
  }

  /** The only copy of a return place is about to be saved, or lost. */
  private watchLink(value: number, register: number | undefined): void {
    if (!this.links) return;
    const { code, run } = this.context;
    const role = register === undefined ? undefined : this.machine.registers[register]!.role;
    if (role === 'link') {
      this.values.register(register!);
      code.get(run.unsaved).op('i32.eq').get(value).get(run.unsaved).op('i32.ne', 'i32.and');
      return this.values.lookIf();
    }
    if (register !== undefined && PASSING.has(role ?? '')) return;
    code.get(value).get(run.unsaved).op('i32.eq');
    this.values.lookIf();
  }

  private putRegister({ register, high, low, whole }: Target & { kind: 'register' }, value: number, drops: boolean): Write {
    const { code, watched, places, layout } = this.context;
    const { zero, width } = this.machine.registers[register]!;
    if (zero && drops) return () => undefined;
    if (zero || watched.registers.has(register)) throw new Unsupported();
    const counter = register === this.machine.programCounter;
    if (counter && this.machine.faults['program counter outside']?.kind === 'wrap') throw new Unsupported();
    if (!whole && this.machine.radix === 10) throw new Unsupported();
    this.watchLink(value, register);
    const local = places.registers[register];
    return () => {
      if (local === undefined) code.i32(0);
      if (whole) code.get(value);
      else {
        const mask = (2 ** (high - low + 1) - 1) * 2 ** low;
        this.values.register(register);
        code.i32(~mask).op('i32.and').get(value).i32(low).op('i32.shl').i32(mask).op('i32.and', 'i32.or');
        if (width < 32) code.i32(2 ** width - 1).op('i32.and');
      }
      if (local === undefined) code.memory('i32.store', layout.registers + 4 * register);
      else code.set(local);
      if (counter && this.at.jumps) code.i32(1).set(this.context.run.jumped);
    };
  }

  private putElement(target: Target & { kind: 'element' }, value: number, drops: boolean): Write {
    const { code, layout, watched } = this.context;
    const { first, count, scale, offset } = target;
    const all = Array.from({ length: count }, (_, index) => first + scale * index + offset);
    if (all.some((each) => watched.registers.has(each) || each === this.machine.programCounter)) throw new Unsupported();
    const bytes = this.keep('i32');
    this.values.elementOffset(target);
    code.set(bytes);
    const link = withRole(this.machine, 'link');
    const is = (each: number): void =>
      void code
        .get(bytes)
        .i32(4 * (each - first - offset))
        .op('i32.eq');
    const zeros = all.filter((each) => this.machine.registers[each]!.zero);
    // A link register is for the tick executor, and so is one that is fixed at 0 where that is worth a remark.
    for (const each of [...(drops ? [] : zeros), ...all.filter((other) => other === link)]) {
      is(each);
      this.values.lookIf();
    }
    this.watchLink(value, undefined);
    const dropped = drops ? zeros : [];
    return () => {
      for (const each of dropped) {
        is(each);
        code.op('i32.eqz');
        code.if();
      }
      code
        .get(bytes)
        .get(value)
        .memory('i32.store', layout.registers + 4 * (first + offset));
      dropped.forEach(() => code.end());
    };
  }

  private putCell(target: Target & { kind: 'cell' }, value: number): Write {
    const { code, layout, counts } = this.context;
    const { space } = target;
    if (this.machine.spaces[space]!.readOnly) throw new Unsupported();
    const address = this.values.cellAddress(target);
    this.borrowed.push({ local: address, type: 'i32' });
    code.get(address).memory('i32.load8_u', layout.writeGuards[space]!);
    this.values.lookIf();
    this.watchLink(value, undefined);
    return () => {
      code.get(address).i32(2).op('i32.shl').get(value).memory('i32.store', layout.cells[space]!);
      if (counts) bump(this.context, layout.counters.writes[space]!, address);
    };
  }

  private stackRoom({ stack, way }: Action & { kind: 'stack' }): void {
    const { code, machine } = this.context;
    if (machine.faults['stack limit']?.kind === 'ignore') return;
    if (machine.radix === 10) throw new Unsupported();
    const { from, to, step } = machine.stacks[stack]!;
    const used = this.keep('i32');
    this.placesUsed(stack);
    code.set(used);
    const size = to - from + 1;
    if (way === 'push') code.get(used).i32(step).op('i32.add').i32(size).op('i32.gt_u');
    else code.get(used).i32(step).op('i32.lt_u').get(used).i32(size).op('i32.gt_u', 'i32.or');
    this.values.lookIf();
  }

  /** Places of a stack's region that values take now, on the stack of the code. */
  placesUsed(stack: number): void {
    const { code, machine } = this.context;
    const { pointer, from, to, down, full, step } = machine.stacks[stack]!;
    if (down) code.i32(to + (full ? 1 : 0));
    this.values.register(pointer);
    if (!down) code.i32(from - (full ? step : 0));
    code.op('i32.sub');
    this.values.cut('i32', machine.registers[pointer]!.width);
  }

  // ---- calls ----

  private mark({ mark, place }: Action & { kind: 'mark' }): Write {
    const { code, machine, places } = this.context;
    if (machine.registers.some((each) => each.role === 'kept') || machine.registers[machine.programCounter]!.width > 31)
      throw new Unsupported();
    if (mark === 'return') return () => this.leave();
    const returnTo = this.keep('i32');
    if (place) this.values.emit(place, 'i32');
    else code.get(places.next);
    code.set(returnTo);
    return () => this.enter(mark, returnTo);
  }

  /** PC holds the target by now. */
  private enter(mark: 'call' | 'trap', returnTo: number): void {
    const { code, run, layout, machine, places } = this.context;
    const frame = this.keep('i32');
    code.get(run.depth).i32(DEEPEST).op('i32.ge_u');
    code.if();
    code.get(run.beyond).i32(1).op('i32.add').set(run.beyond);
    code.else();
    code.get(run.depth).i32(FRAME_BYTES).op('i32.mul').set(frame);
    const put = (offset: number, write: () => void): void => {
      code.get(frame);
      write();
      code.memory('i32.store', layout.frames + offset);
    };
    put(FRAME.kind, () => void code.i32(mark === 'trap' ? 1 : 0));
    put(FRAME.from, () => void code.get(places.here));
    put(FRAME.target, () => this.values.register(machine.programCounter));
    put(FRAME.returnTo, () => void code.get(returnTo));
    put(FRAME.saved, () => void code.i32(0));
    code
      .get(frame)
      .get(run.base)
      .get(run.ticks)
      .i32(this.at.step + 1)
      .op('i32.add', 'f64.convert_i32_u', 'f64.add')
      .memory('f64.store', layout.frames + FRAME.tick);
    code.get(run.depth).i32(1).op('i32.add').set(run.depth);
    if (this.links) code.get(returnTo).set(run.unsaved);
    code.end();
  }

  private leave(): void {
    const { code, run, layout, machine } = this.context;
    const depth = this.keep('i32');
    const at = (offset: number): void =>
      void code
        .get(depth)
        .i32(FRAME_BYTES)
        .op('i32.mul')
        .memory('i32.load', layout.frames - FRAME_BYTES + offset);
    code.get(run.beyond);
    code.if();
    code.get(run.beyond).i32(1).op('i32.sub').set(run.beyond);
    code.else();
    code.get(run.depth).set(depth);
    const found = code.block();
    const missing = code.block();
    const again = code.loop();
    code.get(depth).op('i32.eqz').branchIf(missing);
    at(FRAME.returnTo);
    this.values.register(machine.programCounter);
    code.op('i32.eq').branchIf(found);
    code.get(depth).i32(1).op('i32.sub').set(depth).branch(again);
    code.end();
    code.end();
    code.i32(1).set(run.broken).i32(-1).set(depth);
    code.end();
    code.get(depth).i32(0).op('i32.gt_s');
    code.if();
    code.get(depth).i32(1).op('i32.sub').tee(depth).set(run.depth);
    code.get(run.depth).get(run.lowest).get(run.depth).get(run.lowest).op('i32.lt_u', 'select').set(run.lowest);
    if (this.links) this.unsavedAgain();
    code.end();
    code.end();
  }

  /** Of the call that is innermost now. */
  private unsavedAgain(): void {
    const { code, run, layout } = this.context;
    const at = (offset: number): void =>
      void code
        .get(run.depth)
        .i32(FRAME_BYTES)
        .op('i32.mul')
        .memory('i32.load', layout.frames - FRAME_BYTES + offset);
    code.i32(-1).set(run.unsaved);
    code.get(run.depth);
    code.if();
    at(FRAME.saved);
    code.op('i32.eqz');
    code.if();
    at(FRAME.returnTo);
    code.set(run.unsaved);
    code.end();
    code.end();
  }
}

/** One more in the counter of what a local says. */
export function bump({ code }: Context, offset: number, index: number): void {
  code.get(index).i32(2).op('i32.shl');
  code.get(index).i32(2).op('i32.shl').memory('i32.load', offset).i32(1).op('i32.add').memory('i32.store', offset);
}

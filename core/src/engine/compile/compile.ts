/**
 * A machine as one WebAssembly function that does whole instructions until something needs a look. The cells are decoded
 * anew each time, since programs may change themselves.
 */
import { canBranch } from '../../machine/model/effects';
import { programSpaceOf, type Form, type Machine, type ScheduledTick } from '../../machine/model/machine';
import { flatActions, type Expr } from '../../notation/tree';
import { power } from '../../text/number';
import { Code, type Label } from './wasm/code';
import { emitStopCondition, MOST_ASKED, type StopCondition } from './stopConditions';
import { decodingOf, LOOK_IT_UP, type Decoding, type Variant } from './decode';
import { BREAK, HEADER, layoutOf, LOOK, MOST_STAMPS, type Layout } from './layout';
import { bump, TickCode, type RunLocals, type TickContext } from './ticks';
import { Unsupported, Values, type Places } from './values';

export interface CompileOptions {
  readonly counts: boolean;
  readonly watchedRegisters: readonly number[];
  readonly watchedFlags: readonly number[];
  /** At every boundary; where one of them begins to hold, the run stops. */
  readonly asked: readonly StopCondition[];
  /** Instead of stopping, notes the last boundary where one of them held. */
  readonly notes: boolean;
}

export interface Compiled {
  readonly bytes: Uint8Array;
  readonly layout: Layout;
  /** Flags that are set together, in the order of their stamps. */
  readonly stamps: readonly (readonly number[])[];
  readonly decoding: Decoding;
  /** Ticks of the longest instruction. */
  readonly longest: number;
  /** How many ticks of the machine were compiled, and how many are left to the tick executor always. */
  readonly ticks: { readonly compiled: number; readonly left: number };
}

/** Why the run came back. */
export const EXIT = { limit: 0, stop: 1, look: 2, depth: 3, asked: 4 } as const;

/** Undefined where the machine has nothing to begin an instruction with, or something is asked that only ticks can tell. */
export function compile(machine: Machine, options: CompileOptions): Compiled | undefined {
  if (machine.opening.length === 0 || options.asked.length > MOST_ASKED) return undefined;
  try {
    return new Compiler(machine, options).compiled();
  } catch (error) {
    if (error instanceof Unsupported) return undefined;
    throw error;
  }
}

/** A tick and its place in the schedule. */
interface Placed {
  readonly each: ScheduledTick;
  readonly step: number;
}

/** The ticks of an instruction behind the opening. */
interface Ending {
  readonly own: readonly Placed[];
  readonly rest: readonly Placed[];
  /** Where the cycle's finish begins in the rest; −1 where there is none. */
  readonly finish: number;
  /** Place of the first tick behind its own. */
  readonly last: number;
}

class Compiler {
  /** The condition of the variant that is being written. */
  private settled: Variant['settled'];
  /** Parameters: instructions that may be done, calls at which a return stops it, ticks done before. */
  private readonly code = new Code(['i32', 'i32', 'f64']);
  private readonly layout: Layout;
  private readonly places: Places;
  private readonly run: RunLocals;
  private readonly instructions: number;
  private readonly step: number;
  private readonly form: number;
  private readonly exit: number;
  private readonly first: number;
  private readonly held: number;
  private readonly noted: number;
  /** What beginning an instruction changes before its first tick is done, and where the former value is kept. */
  private readonly beginning: readonly (readonly [local: number, was: number])[];
  private readonly stamps: { readonly flags: readonly number[]; readonly local: number }[] = [];
  private readonly ticks = { compiled: 0, left: 0 };
  private readonly watched: TickContext['watched'];

  constructor(
    private readonly machine: Machine,
    private readonly options: CompileOptions,
  ) {
    this.layout = layoutOf(machine, options);
    const local = (): number => this.code.local('i32');
    this.places = {
      registers: machine.registers.map((each) => (each.array === undefined ? local() : undefined)),
      flags: machine.flags.map(local),
      here: local(),
      next: local(),
    };
    this.run = {
      jumped: local(),
      depth: local(),
      beyond: local(),
      broken: local(),
      lowest: local(),
      unsaved: local(),
      ticks: local(),
      base: 2,
    };
    this.instructions = local();
    this.step = local();
    this.form = local();
    this.exit = local();
    this.first = local();
    this.held = local();
    this.noted = local();
    this.beginning = [this.places.here, this.form, this.run.jumped].map((each) => [each, local()] as const);
    this.watched = { registers: new Set(options.watchedRegisters), flags: new Set(options.watchedFlags) };
  }

  compiled(): Compiled {
    const { code, machine } = this;
    this.load();
    const out = code.block();
    const look = code.block();
    const main = code.loop();
    this.boundary(out, look);
    this.opening(look);
    this.forms({ look, main, out });
    code.end();
    code.end();
    code.i32(EXIT.look).set(this.exit);
    this.undoBeginning();
    code.end();
    this.store();
    code.get(this.exit);
    return {
      bytes: code.module(),
      layout: this.layout,
      stamps: this.stamps.map((each) => each.flags),
      decoding: decodingOf(machine),
      longest: Math.max(machine.opening.length, ...machine.forms.map((each) => each.schedule.length)),
      ticks: this.ticks,
    };
  }

  // ---- in and out ----

  private get header(): readonly (readonly [local: number, offset: number])[] {
    const { run, places } = this;
    return [
      [places.here, HEADER.here],
      [places.next, HEADER.next],
      [run.jumped, HEADER.jumped],
      [run.depth, HEADER.depth],
      [run.beyond, HEADER.beyond],
      [run.broken, HEADER.broken],
      [run.lowest, HEADER.lowest],
      [run.unsaved, HEADER.ticks],
      [this.form, HEADER.form],
      [this.held, HEADER.held],
      [this.noted, HEADER.noted],
    ];
  }

  private load(): void {
    const { code, layout, places } = this;
    const get = (local: number, offset: number, byte = false): void =>
      void code
        .i32(0)
        .memory(byte ? 'i32.load8_u' : 'i32.load', offset)
        .set(local);
    places.registers.forEach((local, at) => local !== undefined && get(local, layout.registers + 4 * at));
    places.flags.forEach((local, at) => get(local, layout.flags + at, true));
    for (const [local, offset] of this.header) get(local, offset);
  }

  private store(): void {
    const { code, layout, places, run } = this;
    const put = (local: number, offset: number, byte = false): void =>
      void code
        .i32(0)
        .get(local)
        .memory(byte ? 'i32.store8' : 'i32.store', offset);
    places.registers.forEach((local, at) => local !== undefined && put(local, layout.registers + 4 * at));
    places.flags.forEach((local, at) => put(local, layout.flags + at, true));
    for (const [local, offset] of this.header) if (offset !== HEADER.ticks) put(local, offset);
    put(run.ticks, HEADER.ticks);
    put(this.instructions, HEADER.instructions);
    put(this.step, HEADER.step);
    this.stamps.forEach(({ local }, at) => put(local, layout.stamps + 4 * at));
  }

  // ---- between instructions ----

  private boundary(out: Label, look: Label): void {
    const { code, run, machine, places, layout } = this;
    const counter = places.registers[machine.programCounter]!;
    const leave = (exit: number): void => {
      code.if();
      code.i32(exit).set(this.exit).branch(out).end();
    };
    code.i32(0).set(this.step);
    for (const [local, was] of this.beginning) code.get(local).set(was);
    code.get(this.instructions).get(0).op('i32.ge_u');
    leave(EXIT.limit);
    const { cells } = programSpaceOf(machine);
    if (power(machine.radix, machine.registers[machine.programCounter]!.width) > cells)
      code.get(counter).i32(cells).op('i32.ge_u').branchIf(look);
    code.get(counter).memory('i32.load8_u', layout.stops).tee(this.first);
    code.if();
    code.get(this.first).i32(LOOK).op('i32.and').branchIf(look);
    code.get(this.first).i32(BREAK).op('i32.and');
    leave(EXIT.stop);
    code.end();
    this.asked(look, leave);
    code.get(counter).set(places.here);
    code.i32(-1).set(this.form).i32(0).set(run.jumped);
  }

  /** Where not even the first tick was done, the run still stands at the boundary, behind the instruction before. */
  private undoBeginning(): void {
    const { code } = this;
    code.get(this.step).op('i32.eqz');
    code.if();
    for (const [local, was] of this.beginning) code.get(was).set(local);
    code.end();
  }

  private asked(look: Label, leave: (exit: number) => void): void {
    const { code, run, options } = this;
    const context = this.context(look, undefined);
    const ticks = new TickCode(context, { step: 0, jumps: false });
    options.asked.forEach((asked, at) => {
      emitStopCondition(asked, context, ticks);
      if (options.notes) {
        code.if();
        code.get(run.ticks).set(this.noted).end();
        return;
      }
      const bit = 1 << at;
      code.if();
      code.get(this.held).i32(bit).op('i32.and', 'i32.eqz');
      leave(EXIT.asked);
      code.else();
      code.get(this.held).i32(~bit).op('i32.and').set(this.held).end();
    });
  }

  private context(look: Label, form: Form | undefined): TickContext {
    const { code, machine, layout, places, run, watched } = this;
    return {
      code,
      machine,
      layout,
      places,
      run,
      watched,
      look,
      form,
      settled: form && this.settled,
      counts: this.options.counts,
      counted: [],
      stampOf: (flags) => this.stampOf(flags),
    };
  }

  private stampOf(flags: readonly number[]): number {
    const key = [...flags].sort((a, b) => a - b);
    let stamp = this.stamps.find((each) => each.flags.join() === key.join());
    if (!stamp) {
      if (this.stamps.length === MOST_STAMPS) throw new Unsupported();
      this.stamps.push((stamp = { flags: key, local: this.code.local('i32') }));
    }
    return stamp.local;
  }

  /** One tick, or a way to the tick executor where it cannot be compiled. */
  private tick({ tick, part }: ScheduledTick, step: number, { look, form }: { look: Label; form: Form | undefined }): void {
    const { code } = this;
    code.i32(step).set(this.step);
    const [length, open] = [code.length, code.open];
    const jumps = part === 'execute' || part === 'enter';
    try {
      new TickCode(this.context(look, form), { step, jumps }).emit(tick);
      this.ticks.compiled++;
    } catch (error) {
      if (!(error instanceof Unsupported)) throw error;
      code.cutTo(length, open);
      code.branch(look);
      this.ticks.left++;
    }
  }

  private opening(look: Label): void {
    const { code, machine } = this;
    machine.opening.forEach((each, step) => {
      if (each.part !== 'decode') return this.tick(each, step, { look, form: undefined });
      code.i32(step).set(this.step);
      const slot = machine.slots[0]!;
      const values = new Values(this.context(look, undefined));
      values.register(slot.register);
      const { width } = programSpaceOf(machine);
      values.digits('i32', { low: slot.low, width, whole: machine.registers[slot.register]!.width });
      this.decode(values, width);
    });
  }

  /** The variant of the first cell on the stack, or LOOK_IT_UP. */
  private decode(values: Values, width: number): void {
    const { code, machine, layout, first } = this;
    const { runs, demands } = decodingOf(machine);
    const digits = (low: number, wide: number): void => {
      code.get(first);
      values.digits('i32', { low, width: wide, whole: width });
    };
    code.set(first);
    if (demands.length === 0) {
      let at = 0;
      code.i32(0);
      for (const { low, width: wide } of runs) {
        digits(low, wide);
        values.constant('i32', BigInt(power(machine.radix, at)));
        code.op('i32.mul', 'i32.add');
        at += wide;
      }
      return void code.i32(1).op('i32.shl').memory('i32.load16_u', layout.decode).set(first);
    }
    const found = code.block();
    for (const { variant, demands: wanted, choices } of demands) {
      // Which names the values have, is left to the tick executor where there is no table.
      if (choices.length > 0) continue;
      code.i32(1);
      for (const { low, width: wide, value } of wanted) {
        digits(low, wide);
        values.constant('i32', BigInt(value));
        code.op('i32.eq', 'i32.and');
      }
      code.if();
      code.i32(variant).set(first).branch(found).end();
    }
    code.i32(LOOK_IT_UP).set(first).end();
  }

  private forms({ look, main, out }: { look: Label; main: Label; out: Label }): void {
    const { code, machine } = this;
    const { variants } = decodingOf(machine);
    const labels = variants.map(() => code.block()).reverse();
    code.get(this.first).branchTable([...labels, look]);
    for (const { form, settled } of variants) {
      code.end();
      this.settled = settled;
      this.instruction(form, look);
      if (
        !this.options.notes &&
        form.schedule.some(({ tick }) => flatActions(tick.actions).some((each) => each.kind === 'mark' && each.mark === 'return'))
      )
        this.afterReturn(out);
      code.branch(main);
    }
  }

  private instruction(form: Form, look: Label): void {
    const { code, run, places, machine } = this;
    const space = programSpaceOf(machine);
    code.i32(form.index).set(this.form);
    code.get(places.here).i32(form.format.cells).op('i32.add');
    const size = power(machine.radix, space.addressWidth);
    if (machine.radix === 2 && size < 2 ** 32) code.i32(size - 1).op('i32.and');
    else if (machine.radix === 10) code.i32(size).op('i32.rem_u');
    if (size > space.cells) {
      code.tee(places.next).i32(space.cells).op('i32.sub').get(places.next);
      code.get(places.next).i32(space.cells).op('i32.ge_u', 'select');
    }
    code.set(places.next);
    const rest = form.schedule.map((each, step) => ({ each, step })).slice(machine.opening.length);
    const finish = rest.findIndex(({ each }) => each.part === 'finish');
    const own = finish === -1 ? rest : rest.slice(0, finish);
    const last = machine.opening.length + own.length;
    const guarded = form.guard && own.findIndex(({ each }) => each.guard !== undefined);
    for (const { each, step } of guarded === undefined ? own : own.slice(0, guarded)) this.tick(each, step, { look, form });
    if (guarded !== undefined && form.guard) {
      const from = machine.opening.length + guarded;
      const skipped = own.length - guarded - 1;
      code.i32(from).set(this.step);
      this.guard(form.guard.condition, { look, form });
      code.op('i32.eqz');
      code.if();
      // The finish counts on from the tick that was passed over, as its place in the schedule counts too far.
      code.get(run.ticks).i32(skipped).op('i32.sub').set(run.ticks);
      for (const { each, step } of finish === -1 ? [] : rest.slice(finish)) this.tick(each, step, { look, form });
      this.done(form, form.schedule.length, [from + 1, from + 1 + skipped]);
      code.else();
      for (const { each, step } of own.slice(guarded)) this.tick(each, step, { look, form });
      this.ending(form, { own, rest, finish, last }, look);
      return void code.end();
    }
    this.ending(form, { own, rest, finish, last }, look);
  }

  /** What is left of an instruction when its own ticks are done. */
  private ending(form: Form, { own, rest, finish, last }: Ending, look: Label): void {
    const { code, run } = this;
    if (finish === -1) this.done(form, last);
    else if (!this.mayJump(own.map((each) => each.each))) this.finish(form, rest.slice(finish), look);
    else {
      code.get(run.jumped);
      code.if();
      this.done(form, last);
      code.else();
      this.finish(form, rest.slice(finish), look);
      code.end();
    }
  }

  /** The guard's value on the stack; one that cannot be compiled needs a look. */
  private guard(condition: Expr, { look, form }: { look: Label; form: Form }): void {
    const { code } = this;
    const [length, open] = [code.length, code.open];
    try {
      new Values(this.context(look, form)).emit(condition, 'i32');
    } catch (error) {
      if (!(error instanceof Unsupported)) throw error;
      code.cutTo(length, open);
      code.branch(look);
    }
  }

  /** Stops where no more calls are open than somebody waits for. */
  private afterReturn(out: Label): void {
    const { code, run } = this;
    code.get(run.depth).get(run.beyond).op('i32.add').get(1).op('i32.le_s');
    code.if();
    code.i32(0).set(this.step).i32(EXIT.depth).set(this.exit).branch(out).end();
  }

  private mayJump(ticks: readonly ScheduledTick[]): boolean {
    const counter = this.machine.programCounter;
    return ticks.some(({ tick }) =>
      flatActions(tick.actions).some(
        (each) => each.kind === 'transfer' && (each.target.kind !== 'register' || each.target.register === counter),
      ),
    );
  }

  private finish(form: Form, ticks: readonly Placed[], look: Label): void {
    for (const { each, step } of ticks) this.tick(each, step, { look, form });
    this.done(form, form.schedule.length);
  }

  /** Counts an instruction of so many ticks; those `left` out, from one place of its schedule to before another, did not happen. */
  private done(form: Form, ticks: number, left: readonly [from: number, to: number] = [0, 0]): void {
    const { code, run, places, layout, options } = this;
    code.get(run.ticks).i32(ticks).op('i32.add').set(run.ticks);
    code.get(this.instructions).i32(1).op('i32.add').set(this.instructions);
    if (!options.counts) return;
    const { counters } = layout;
    const context = this.context({ depth: 0 }, form);
    bump(context, counters.executions, places.here);
    bump(context, counters.forms, this.form);
    // By the form that was carried out: the cell there may be written over before anybody asks.
    if (canBranch(this.machine, form)) {
      bump(context, counters.branches, places.here);
      code.get(run.jumped);
      code.if();
      bump(context, counters.taken, places.here);
      code.end();
    }
    const greatest = (offset: number, write: () => void, limit: number): void => {
      write();
      code.tee(this.first).i32(0).memory('i32.load', offset).op('i32.gt_u').get(this.first).i32(limit).op('i32.le_u', 'i32.and');
      code.if();
      code.i32(0).get(this.first).memory('i32.store', offset).end();
    };
    greatest(counters.deepest, () => void code.get(run.depth).get(run.beyond).op('i32.add'), -1);
    const ticksOf = new TickCode(context, { step: 0, jumps: false });
    this.machine.stacks.forEach(({ from, to }, stack) => {
      if (this.machine.radix === 2) greatest(counters.stacks + 4 * stack, () => ticksOf.placesUsed(stack), to - from + 1);
    });
    const phases = new Map<number, number>();
    for (const [at, each] of form.schedule.slice(0, ticks).entries())
      if (at < left[0] || at >= left[1]) phases.set(each.phase, (phases.get(each.phase) ?? 0) + 1);
    for (const [phase, count] of phases) {
      const offset = counters.phases + 4 * phase;
      code.i32(0).i32(0).memory('i32.load', offset).i32(count).op('i32.add').memory('i32.store', offset);
    }
  }
}

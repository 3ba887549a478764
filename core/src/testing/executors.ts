/** Two executors beside each other on memory and registers drawn by chance: what one does the other must do. */
import { CompiledRun, UNGUARDED, type Guarded } from '../engine/compile/compiled';
import { TickExecutor } from '../engine/meaning/interpret';
import { BY_RUN, copyState, createState, looksForEmpty, type Frame, type State } from '../engine/meaning/state';
import { encode, rangeOf } from '../machine/model/encode';
import { programSpaceOf, type Machine } from '../machine/model/machine';
import { power } from '../text/number';

export function picker(seed: number): (size: number) => number {
  let x = seed | 1;
  return (size) => {
    x = (Math.imul(x, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((x / 2 ** 32) * size);
  };
}

/** Memory full of instructions drawn by chance, with registers to match: it jumps, calls, faults and writes over itself. */
export function drawnState(machine: Machine, seed: number): State {
  const pick = picker(seed);
  const state = createState(machine);
  const program = programSpaceOf(machine);
  const cells = state.spaces[machine.programSpace]!;
  const start = machine.fixedStart ?? machine.registers[machine.programCounter]!.start;
  for (let address = start; address < Math.min(program.cells, start + 300);) {
    const form = machine.forms[pick(machine.forms.length)]!;
    const values = new Map(
      form.operands.map((field) => {
        if (field.names) return [field.name, [...field.names.keys()][pick(field.names.size)]!];
        const { least, greatest } = rangeOf(field, machine.radix);
        const near = field.relative ? address + form.format.cells - 6 + pick(14) : least + pick(Math.min(greatest - least + 1, 2 ** 30));
        return [field.name, near];
      }),
    );
    const encoded = encode(machine, form, values, address);
    if ('refused' in encoded) {
      cells[address++] = pick(power(machine.radix, program.width));
      continue;
    }
    encoded.cells.forEach((each, at) => address + at < cells.length && (cells[address + at] = each));
    address += encoded.cells.length;
  }
  state.spaces.forEach((each, space) => {
    const { width } = machine.spaces[space]!;
    if (space !== machine.programSpace) each.forEach((_, at) => (each[at] = pick(power(machine.radix, width))));
    state.marks[space]!.forEach(
      (_, at) => (state.marks[space]![at] = pick(space === machine.programSpace && looksForEmpty(machine) ? 60 : 4) === 0 ? 0 : BY_RUN),
    );
  });
  machine.registers.forEach(({ width, zero, role }, at) => {
    if (zero || at === machine.programCounter || role === 'stack pointer') return;
    state.registers[at] = pick(3) === 0 ? pick(power(machine.radix, Math.min(width, 4))) : pick(power(machine.radix, width));
  });
  machine.flags.forEach((_, at) => (state.flags[at] = pick(2)));
  state.control.queue = [3, 65, 10, 0, 66];
  return state;
}

const chainOf = (frame: Frame | undefined): unknown[] =>
  frame
    ? [frame.kind, frame.from, frame.target, frame.returnTo, frame.depth, frame.tick, frame.saved, frame.kept, ...chainOf(frame.parent)]
    : [];

/** Everything of a state as values that are compared one by one. */
export const whole = ({ registers, flags, flagTicks, latches, control }: State) => {
  const { schedule, form, callStack: chain, ...plain } = control;
  return {
    ...{ registers: [...registers], flags: [...flags], flagTicks: [...flagTicks], latches: [...latches] },
    control: { ...plain, form: form?.index, ticks: control.ticks, left: schedule.length },
    chain: chainOf(chain),
  };
};

const bytesOf = (each: Uint8Array | Uint32Array): Buffer => Buffer.from(each.buffer, each.byteOffset, each.byteLength);

/** Large memories are compared every now and then only. */
export function expectEqual(one: State, other: State, memory = true): void {
  expect(whole(one)).toEqual(whole(other));
  if (!memory) return;
  one.spaces.forEach((each, space) => {
    if (!bytesOf(each).equals(bytesOf(other.spaces[space]!))) expect([...each]).toEqual([...other.spaces[space]!]);
    if (!bytesOf(one.marks[space]!).equals(bytesOf(other.marks[space]!))) expect([...one.marks[space]!]).toEqual([...other.marks[space]!]);
  });
}

export interface Pair {
  readonly plain: State;
  readonly law: TickExecutor;
  readonly fast: State;
  readonly helper: TickExecutor;
  readonly run: CompiledRun;
}

export function pairOf(machine: Machine, seed: number, guarded: Guarded = UNGUARDED): Pair {
  const plain = drawnState(machine, seed);
  const fast = copyState(plain);
  const run = CompiledRun.for(machine);
  if (!run) throw new Error('WebAssembly is not to be had');
  run.attach(fast);
  run.guard(guarded);
  return { plain, law: new TickExecutor(machine, plain), fast, helper: new TickExecutor(machine, fast), run };
}

/** Leaps of `size` instructions on one side, ticks on the other; the same whole state after each. Gives the ticks leapt. */
export function compareRuns(
  machine: Machine,
  seed: number,
  { size, leaps, guarded }: { size: (pick: (size: number) => number) => number; leaps: number; guarded?: Guarded },
): number {
  const { plain, law, fast, helper, run } = pairOf(machine, seed, guarded);
  const pick = picker(seed ^ 0x5555);
  let leapt = 0;
  for (let turn = 0; turn < leaps; turn++) {
    const done = run.leap({ ticks: 1_000_000, instructions: size(pick), depth: -1 });
    leapt += done;
    let outcome: string = 'done';
    let expected: string = 'done';
    while (plain.control.ticks < fast.control.ticks && expected === 'done') expected = law.tick();
    // Where a leap stops, in the middle of an instruction too, all is as after so many ticks.
    expectEqual(fast, plain, false);
    // What the leap has left, and at least one tick more where it did nothing.
    if (fast.control.step !== 0 || done === 0)
      do {
        outcome = helper.tick();
        run.noteTick(helper);
      } while (outcome === 'done' && fast.control.step !== 0);
    while (plain.control.ticks < fast.control.ticks && expected === 'done') expected = law.tick();
    if (outcome === 'fault' || outcome === 'waiting') expected = law.tick();
    expect([outcome, helper.fault]).toEqual([expected, law.fault]);
    expectEqual(fast, plain, turn % 20 === 0 || outcome !== 'done' || fast.spaces[0]!.length < 1000);
    if (outcome !== 'done') break;
  }
  return leapt;
}

/** Everything that a run can change, and changes as values that can be shown, kept and turned back. */
import type { Form, Machine, ScheduledTick } from '../machine/machine';
import type { Program } from '../image/program';

/** What a cell has been through. */
export const NEVER = 0;
export const LOADED = 1;
export const BY_RUN = 2;

/** Where the engine stands. Replaced, never shared while it changes: `{ ...control }` is a snapshot. */
export interface Control {
  /** Ticks done since the start of the run. */
  ticks: number;
  /** Instructions whose last tick is done. */
  instructions: number;
  /** Ticks done of the instruction under way; 0 stands at a boundary. */
  step: number;
  schedule: readonly ScheduledTick[];
  form: Form | undefined;
  /** Address at which the instruction under way, or the last one, began; −1 before the first. */
  here: number;
  next: number;
  /** The execute ticks have assigned the program counter, so `finish` is skipped. */
  jumped: boolean;
  halted: boolean;
  /** How many queued inputs are used up. */
  inputs: number;
  output: string;
}

export interface State {
  readonly registers: Uint32Array;
  readonly flags: Uint8Array;
  /** The tick that last set each flag; −1: as at reset. */
  readonly flagTicks: Float64Array;
  readonly spaces: readonly Uint32Array[];
  readonly marks: readonly Uint8Array[];
  control: Control;
}

export type Change =
  | { readonly kind: 'register'; readonly register: number; readonly before: number; readonly after: number }
  | {
      readonly kind: 'flag';
      readonly flag: number;
      readonly before: number;
      readonly after: number;
      readonly tickBefore: number;
      readonly tickAfter: number;
    }
  | {
      readonly kind: 'cell';
      readonly space: number;
      readonly address: number;
      readonly before: number;
      readonly after: number;
      readonly markBefore: number;
    };

/** Power-on. With `keep`, cells and their marks are taken over from it, as when another program is loaded. */
export function createState(machine: Machine, keep?: State): State {
  const state: State = {
    registers: Uint32Array.from(machine.registers, (each) => each.start),
    flags: Uint8Array.from(machine.flags, (each) => each.start),
    flagTicks: new Float64Array(machine.flags.length).fill(-1),
    spaces: machine.spaces.map((each, at) => keep?.spaces[at]?.slice() ?? new Uint32Array(each.cells).fill(each.fill)),
    marks: machine.spaces.map((each, at) => keep?.marks[at]?.slice() ?? new Uint8Array(each.cells)),
    control: {
      ticks: 0,
      instructions: 0,
      step: 0,
      schedule: machine.opening,
      form: undefined,
      here: -1,
      next: 0,
      jumped: false,
      halted: false,
      inputs: 0,
      output: '',
    },
  };
  return state;
}

/** Writes the image's cells only, and PC. */
export function loadProgram(machine: Machine, state: State, program: Program): void {
  for (const { space, address, value } of program.cells) {
    state.spaces[space]![address] = value;
    state.marks[space]![address] = LOADED;
  }
  state.registers[machine.programCounter] = program.start;
}

export const copyState = (state: State): State => ({
  registers: state.registers.slice(),
  flags: state.flags.slice(),
  flagTicks: state.flagTicks.slice(),
  spaces: state.spaces.map((each) => each.slice()),
  marks: state.marks.map((each) => each.slice()),
  control: { ...state.control },
});

/** Makes `state` equal to `other`, sharing nothing with it. */
export function restoreState(state: State, other: State): void {
  state.registers.set(other.registers);
  state.flags.set(other.flags);
  state.flagTicks.set(other.flagTicks);
  other.spaces.forEach((each, at) => state.spaces[at]!.set(each));
  other.marks.forEach((each, at) => state.marks[at]!.set(each));
  state.control = { ...other.control };
}

export function applyChange(state: State, change: Change, way: 'before' | 'after'): void {
  const value = change[way];
  switch (change.kind) {
    case 'register':
      state.registers[change.register] = value;
      return;
    case 'flag':
      state.flags[change.flag] = value;
      state.flagTicks[change.flag] = way === 'before' ? change.tickBefore : change.tickAfter;
      return;
    case 'cell':
      state.spaces[change.space]![change.address] = value;
      state.marks[change.space]![change.address] = way === 'before' ? change.markBefore : BY_RUN;
      return;
    default:
      change satisfies never;
  }
}

/** Everything that a run can change, and changes as values that can be shown, kept and turned back. */
import type { Form, Machine, ScheduledTick } from '../../machine/model/machine';
import type { Program } from '../../image/program';

/** What a cell has been through. */
export const NEVER = 0;
export const LOADED = 1;
export const BY_RUN = 2;
export const BY_HAND = 3;
/** The run has written over an instruction of the program. */
export const OVER_CODE = 4;

/** A call or trap that has not returned. */
export interface Frame {
  readonly kind: 'call' | 'trap';
  /** Where it was called from, where it went, and where it will come back to. */
  readonly from: number;
  readonly target: number;
  readonly returnTo: number;
  readonly depth: number;
  readonly parent: Frame | undefined;
  /** The tick that made the call. */
  readonly tick: number;
  /** What the kept registers held then, in the order of the machine. */
  readonly kept: readonly number[];
  /** The return place has been put somewhere besides the link register. */
  readonly saved: boolean;
}

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
  /** Of the trap that a fault has caused. */
  cause: number;
  /** A fault's trap is being entered. */
  entering: boolean;
  /** The cells fetched mean nothing together: the next tick is the fault. */
  unknown: boolean;
  /** The execute ticks have assigned the program counter, so `finish` is skipped. */
  jumped: boolean;
  halted: boolean;
  /** Values for services and devices that read, as given so far, and how many of them are used up. */
  queue: readonly number[];
  inputs: number;
  /** The end of what was written, and how many characters that was in all. */
  output: string;
  written: number;
  /** The innermost call that has not returned. */
  callStack: Frame | undefined;
  /** A return has gone to where no call came from. */
  callStackBroken: boolean;
  /** Calls beyond the deepest that the chain holds. */
  beyond: number;
}

export interface State {
  readonly registers: Uint32Array;
  readonly flags: Uint8Array;
  /** The tick that last set each flag; −1: as at reset, BY_A_HAND: by hand. */
  readonly flagTicks: Float64Array;
  readonly spaces: readonly Uint32Array[];
  readonly marks: readonly Uint8Array[];
  /** What ports and devices hold: see `deviceLatch`. */
  readonly latches: Float64Array;
  /** When devices change by themselves; never changes during a run. */
  readonly plans: readonly Plan[];
  /** Ticks at which the script gives inputs; never changes during a run. */
  readonly arrivals: readonly number[];
  /** Of the program space: 1 where an instruction was loaded, 2 where data was. */
  readonly kinds: Uint8Array;
  control: Control;
}

/** In place of the tick that set a flag. */
export const TICK_BY_HAND = -2;

export const CODE = 1;
export const DATA = 2;

/** Whether it matters to a machine that an instruction is fetched from a cell that holds nothing. */
export const looksForEmpty = ({ faults }: Machine): boolean => (faults['executing an empty cell']?.kind ?? 'ignore') !== 'ignore';

/** Where the output latch of a port lies among the latches. */
export const portLatch = (port: number): number => port;

/**
 * What is kept of a device. value: what it shows; until: a tick that it counts to; ready: AS_IT_IS, or held at
 * NOT_READY or READY by a plan; busyPolls, readyPolls: how often it was asked and was not, or was, ready; dataReads.
 */
const LATCHES = ['value', 'until', 'ready', 'busyPolls', 'readyPolls', 'dataReads'] as const;
export type DeviceLatch = (typeof LATCHES)[number];

export const AS_IT_IS = 0;
export const NOT_READY = 1;
export const READY = 2;

/** Where a latch of a device lies among the latches. */
export const deviceLatch = (machine: Machine, device: number, which: DeviceLatch): number =>
  (machine.ports?.count ?? 0) + LATCHES.length * device + LATCHES.indexOf(which);

/** When something of a device changes by itself: after so many polls or reads of it, at a tick, with the first key, by hand. */
export type Until =
  | { readonly kind: 'reads'; readonly count: number }
  | { readonly kind: 'tick'; readonly tick: number }
  | { readonly kind: 'key' | 'hand' | 'never' };

/** A latch of a device is `before` until something happens, then `after`; with a line, only that digit of it. */
export interface Plan {
  readonly device: number;
  readonly latch: 'value' | 'ready';
  readonly line?: number;
  readonly before: number;
  readonly until: Until;
  readonly after: number;
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
      readonly markAfter: number;
    }
  | { readonly kind: 'latch'; readonly latch: number; readonly before: number; readonly after: number };

/** The arrays of a state that a compiled run works on. */
export type Storage = Pick<State, 'registers' | 'flags' | 'spaces'>;

/** From now on the state lives in these arrays; what it holds goes along. */
export function moveState(state: State, storage: Storage): void {
  storage.registers.set(state.registers);
  storage.flags.set(state.flags);
  storage.spaces.forEach((each, space) => each.set(state.spaces[space]!));
  Object.assign(state, storage);
}

const NOTHING_QUEUED: readonly number[] = [];

/** Power-on. With `keep`, cells and their marks are taken over from it, as when another program is loaded. */
export function createState(
  machine: Machine,
  keep?: State,
  { plans = [], arrivals = [] }: Partial<Pick<State, 'plans' | 'arrivals'>> = {},
): State {
  return {
    registers: Uint32Array.from(machine.registers, (each) => each.start),
    flags: Uint8Array.from(machine.flags, (each) => each.start),
    flagTicks: new Float64Array(machine.flags.length).fill(-1),
    spaces: machine.spaces.map((each, at) => keep?.spaces[at]?.slice() ?? new Uint32Array(each.cells * each.banks).fill(each.fill)),
    marks: machine.spaces.map((each, at) => keep?.marks[at]?.slice() ?? new Uint8Array(each.cells * each.banks)),
    latches: new Float64Array((machine.ports?.count ?? 0) + LATCHES.length * machine.devices.length),
    plans,
    arrivals,
    kinds: new Uint8Array(machine.spaces[machine.programSpace]!.cells),
    control: {
      ticks: 0,
      instructions: 0,
      step: 0,
      schedule: machine.opening,
      form: undefined,
      here: -1,
      next: 0,
      cause: 0,
      entering: false,
      unknown: false,
      jumped: false,
      halted: false,
      queue: NOTHING_QUEUED,
      inputs: 0,
      output: '',
      written: 0,
      callStack: undefined,
      callStackBroken: false,
      beyond: 0,
    },
  };
}

/** Writes the image's cells only, the system program's before them, and PC unless the machine fixes it. */
export function loadProgram(machine: Machine, state: State, program: Program): void {
  for (const part of program.system ? [program.system, program] : [program]) {
    for (const { space, address, value } of part.cells) {
      state.spaces[space]![address] = value;
      state.marks[space]![address] = LOADED;
    }
    for (const row of [part.rows, ...part.parts.map((each) => each.rows)].flat()) {
      if ((row.space ?? machine.programSpace) !== machine.programSpace || row.address === undefined) continue;
      const kind = row.kind === 'code' ? CODE : row.kind === 'data' ? DATA : 0;
      state.kinds.fill(kind, row.address, row.address + row.words.length);
    }
  }
  state.registers[machine.programCounter] = machine.fixedStart ?? program.start;
}

/**
 * What is left of a state when a program is taken out: cells of its image hold the fill value again,
 * whether the run has written them or not; cells that hold what a hand put there stay.
 */
export function unloaded(machine: Machine, state: State, program: Program): State {
  const copy = copyState(state);
  const clear = (space: number, address: number): void => {
    if (copy.marks[space]![address] === BY_HAND) return;
    copy.spaces[space]![address] = machine.spaces[space]!.fill;
    copy.marks[space]![address] = NEVER;
  };
  for (const part of program.system ? [program.system, program] : [program])
    for (const { space, address } of part.cells) clear(space, address);
  return copy;
}

/** A state of its own with equal contents; what never changes is shared. */
export const copyState = (state: State): State => ({
  registers: state.registers.slice(),
  flags: state.flags.slice(),
  flagTicks: state.flagTicks.slice(),
  spaces: state.spaces.map((each) => each.slice()),
  marks: state.marks.map((each) => each.slice()),
  latches: state.latches.slice(),
  plans: state.plans,
  arrivals: state.arrivals,
  kinds: state.kinds,
  control: { ...state.control },
});

/** Makes `state` equal to `other`, sharing nothing that changes with it. */
export function restoreState(state: State, other: State): void {
  restoreProcessor(state, other);
  other.spaces.forEach((each, at) => state.spaces[at]!.set(each));
  other.marks.forEach((each, at) => state.marks[at]!.set(each));
}

/** The same of all but memory. */
export function restoreProcessor(state: State, other: State): void {
  state.registers.set(other.registers);
  state.flags.set(other.flags);
  state.flagTicks.set(other.flagTicks);
  state.latches.set(other.latches);
  state.control = { ...other.control };
}

/** Sets what a change is about to how it was before it, or after. */
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
      state.marks[change.space]![change.address] = way === 'before' ? change.markBefore : change.markAfter;
      return;
    case 'latch':
      state.latches[change.latch] = value;
      return;
    default:
      change satisfies never;
  }
}

/** What a latch belongs to: `deviceLatch` and `portLatch` the other way round. */
export function latchOwner(
  machine: Machine,
  latch: number,
): { readonly port: number } | { readonly device: number; readonly which: DeviceLatch } {
  const ports = machine.ports?.count ?? 0;
  if (latch < ports) return { port: latch };
  return { device: Math.floor((latch - ports) / LATCHES.length), which: LATCHES[(latch - ports) % LATCHES.length]! };
}

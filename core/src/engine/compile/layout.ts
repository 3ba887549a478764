/** Where a compiled run keeps its state in linear memory, in bytes. */
import type { Machine } from '../../machine/model/machine';
import { DEEPEST } from '../meaning/callStack';
import { decodingOf } from './decode';

export const FRAME_BYTES = 32;
/** Fields of a frame: kind (1: trap), from, target, return place, saved, tick. */
export const FRAME = { kind: 0, from: 4, target: 8, returnTo: 12, saved: 16, tick: 24 } as const;

/** What the run tells when it comes back; each an i32. */
export const HEADER = {
  ticks: 0,
  instructions: 4,
  step: 8,
  form: 12,
  here: 16,
  next: 20,
  jumped: 24,
  depth: 28,
  beyond: 32,
  broken: 36,
  lowest: 40,
  /** Bits of what is asked that held at the boundary before. */
  held: 44,
  /** Ticks up to the last boundary where what is asked held; −1: nowhere. */
  noted: 48,
} as const;

export interface Layout {
  readonly registers: number;
  readonly flags: number;
  /** When each group of flags was set last: an i32, 0 where it was not. */
  readonly stamps: number;
  /** By space. */
  readonly cells: readonly number[];
  /** A byte for each cell, not 0 where reading, or writing, it needs a look. */
  readonly readGuards: readonly number[];
  readonly writeGuards: readonly number[];
  /** A byte for each cell of the program space: BREAK, LOOK. */
  readonly stops: number;
  /** An i16 for each entry of the machine's table. */
  readonly decode: number;
  readonly frames: number;
  readonly counters: Counters;
  readonly pages: number;
}

/** An i32 for each address, form or phase. */
export interface Counters {
  readonly executions: number;
  /** Of instructions that can go on or jump: carried out, and of those, jumped. */
  readonly branches: number;
  readonly taken: number;
  readonly forms: number;
  readonly phases: number;
  readonly reads: readonly number[];
  readonly writes: readonly number[];
  /** Most calls open, and by stack most places in use: an i32 each. */
  readonly deepest: number;
  readonly stacks: number;
}

export const BREAK = 1;
export const LOOK = 2;
const PAGE = 65_536;
export const MOST_STAMPS = 64;

export function layoutOf(machine: Machine, { counts }: { counts: boolean }): Layout {
  let at = 64;
  const take = (bytes: number): number => {
    const start = at;
    at += Math.ceil(bytes / 8) * 8;
    return start;
  };
  const sizes = machine.spaces.map((each) => each.cells * each.banks);
  const program = sizes[machine.programSpace]!;
  const counted = (length: number): number => (counts ? take(length * 4) : 0);
  const layout = {
    registers: take(machine.registers.length * 4),
    flags: take(machine.flags.length),
    stamps: take(MOST_STAMPS * 4),
    cells: sizes.map((each) => take(each * 4)),
    readGuards: sizes.map(take),
    writeGuards: sizes.map(take),
    stops: take(program),
    decode: take(2 * decodingOf(machine).table.length),
    frames: take(DEEPEST * FRAME_BYTES),
    counters: {
      executions: counted(program),
      branches: counted(program),
      taken: counted(program),
      forms: counted(machine.forms.length),
      phases: counted(machine.phases.length),
      reads: sizes.map(counted),
      writes: sizes.map(counted),
      deepest: counted(1),
      stacks: counted(machine.stacks.length),
    },
  };
  return { ...layout, pages: Math.ceil(at / PAGE) };
}

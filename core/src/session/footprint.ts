/** Where a program lies in its memory, and how much of it. */
import { assemble } from '../assembler/assemble';
import { programSpaceOf, type Machine } from '../machine/model/machine';
import type { OfProgram } from './consequences';

export interface Footprint {
  /** Cells that it takes in the memory that programs run in, and how many that has. */
  readonly cells: number;
  readonly size: number;
  readonly regions: readonly { readonly from: number; readonly to: number; readonly kind: 'code' | 'data' | 'room' }[];
  /** Why it does not assemble. */
  readonly problem?: string;
}

export function footprintOf(machine: Machine, { source, parts = {} }: OfProgram): Footprint {
  const { cells: size } = programSpaceOf(machine);
  const { program, problems } = assemble(machine, source, { parts: new Map(Object.entries(parts)) });
  const error = problems.find((each) => each.grade === 'error');
  if (!program) return { cells: 0, size, regions: [], problem: error ? `Line ${error.line}: ${error.sentence}` : 'It does not assemble.' };
  const regions: { from: number; to: number; kind: 'code' | 'data' | 'room' }[] = [];
  for (const { kind, space = machine.programSpace, address, words, size: room = 0 } of [
    program.rows,
    ...program.parts.map((each) => each.rows),
  ].flat()) {
    const length = kind === 'room' ? room : words.length;
    if (kind === 'none' || space !== machine.programSpace || address === undefined || length === 0) continue;
    const last = regions.at(-1);
    if (last && last.kind === kind && last.to === address - 1) last.to = address + length - 1;
    else regions.push({ from: address, to: address + length - 1, kind });
  }
  return { cells: program.facts.used, size, regions };
}

/** Cells as they cross a border: those of one space, banks one after the other. */
import type { Machine, Space } from '../machine/model/machine';
import { power } from '../text/number';

export interface SpaceCell {
  readonly address: number;
  readonly value: number;
}

/** Which byte of a cell comes first: its highest or its lowest. */
export type ByteOrder = 'high first' | 'low first';

/** What is wrong with a text that brings cells, with its line. Line 0 is the whole of it. */
export interface FormatProblem {
  readonly line: number;
  readonly sentence: string;
}

export interface ReadCells {
  readonly cells: readonly SpaceCell[];
  readonly start?: number;
  readonly problems: readonly FormatProblem[];
}

/** Whole bytes that a cell takes; undefined on a decimal machine, whose cells are no bytes. */
export const bytesOf = (machine: Machine, space: Space): number | undefined =>
  machine.radix === 10 ? undefined : Math.ceil(space.width / 8);

export const NO_BYTES = 'The cells of a decimal machine are no bytes. Use CSV for them.';

/** Why a value or its address has no place in the space; undefined where it has one. */
export function refusalOf(machine: Machine, space: Space, { address, value }: SpaceCell): string | undefined {
  if (address >= space.cells * space.banks)
    return `Cell ${address} is past the end of ${space.name}, which has ${space.cells * space.banks} cells.`;
  const size = power(machine.radix, space.width);
  return value >= size ? `${value} does not fit a cell of ${space.name}: 0 to ${size - 1} do.` : undefined;
}

/** In the order of addresses. */
export const byAddress = (cells: readonly SpaceCell[]): SpaceCell[] => cells.toSorted((a, b) => a.address - b.address);

/** Bytes of one cell in their order. */
export function cellBytes(value: number, bytes: number, order: ByteOrder): number[] {
  const low = Array.from({ length: bytes }, (_, at) => Math.floor(value / 256 ** at) % 256);
  return order === 'high first' ? low.reverse() : low;
}

/** The value that bytes make, in their order. */
export const bytesValue = (bytes: readonly number[], order: ByteOrder): number =>
  (order === 'high first' ? bytes : bytes.toReversed()).reduce((sum, each) => sum * 256 + each, 0);

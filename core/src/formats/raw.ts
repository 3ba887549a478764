/** Raw binary: the bytes of a stretch of cells, nothing else. Gaps have the space's fill value. */
import type { Machine, Space } from '../machine/model/machine';
import {
  bytesOf,
  bytesValue,
  byAddress,
  cellBytes,
  NO_BYTES,
  refusalOf,
  type ByteOrder,
  type FormatProblem,
  type ReadCells,
  type SpaceCell,
} from './image';

/** `from` is the address of the first cell, which the file does not tell. */
export function writeRaw(
  machine: Machine,
  space: Space,
  { cells, order = 'high first' }: { cells: readonly SpaceCell[]; order?: ByteOrder },
): { readonly bytes: Uint8Array; readonly from: number } | { readonly refused: string } {
  const width = bytesOf(machine, space);
  if (width === undefined) return { refused: NO_BYTES };
  const sorted = byAddress(cells);
  const from = sorted[0]?.address ?? 0;
  const count = sorted.length === 0 ? 0 : sorted.at(-1)!.address - from + 1;
  const bytes = new Uint8Array(count * width);
  for (let at = 0; at < count; at++) bytes.set(cellBytes(space.fill, width, order), at * width);
  for (const { address, value } of sorted) bytes.set(cellBytes(value, width, order), (address - from) * width);
  return { bytes, from };
}

const MOST_TOLD = 50;

/** Cells from `from` on; bytes that make no whole cell, or go past the end, are problems. */
export function readRaw(
  machine: Machine,
  space: Space,
  { bytes, from = 0, order = 'high first' }: { bytes: Uint8Array; from?: number; order?: ByteOrder },
): ReadCells {
  const width = bytesOf(machine, space);
  if (width === undefined) return { cells: [], problems: [{ line: 0, sentence: NO_BYTES }] };
  const problems: FormatProblem[] = [];
  const cells: SpaceCell[] = [];
  if (bytes.length % width !== 0)
    problems.push({ line: 0, sentence: `A cell takes ${width} bytes, and ${bytes.length} bytes are no whole number of cells.` });
  for (let at = 0; at + width <= bytes.length; at += width) {
    const cell = { address: from + at / width, value: bytesValue([...bytes.subarray(at, at + width)], order) };
    const refused = refusalOf(machine, space, cell);
    if (refused === undefined) cells.push(cell);
    else if (problems.length < MOST_TOLD) problems.push({ line: 0, sentence: refused });
    if (cell.address >= space.cells * space.banks) break;
  }
  return { cells, problems };
}

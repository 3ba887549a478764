/** Which rows of a memory are shown: those that hold something, and gaps between, which can be opened. */
import type { View } from '@zettak/core/session/protocol';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { RunState } from './run';
import { itemAt } from '@zettak/core/text/itemAt';

/** A row of cells from a place on, or the places of a gap: the first row that is left out, and the last. */
export type MemoryRow = { readonly from: number } | { readonly gap: readonly [first: number, last: number] };

interface Shown {
  readonly space: number;
  readonly perRow: number;
  /** Places that are seen in any case. */
  readonly touched: Iterable<number>;
  readonly rooms: RunState['rooms'];
  /** First rows of gaps that somebody has opened. */
  readonly opened: ReadonlySet<number>;
}

/** Memories of up to so many rows have no gaps. */
const SMALL = 10;

/** Rows that hold something, or are kept free, with one more behind them; gaps between, opened where somebody wants to see them. */
export function memoryRows(machine: Machine, view: View, { space, perRow, touched, rooms, opened }: Shown): MemoryRow[] {
  const { cells } = itemAt(machine.spaces, space);
  const { marks } = itemAt(view.spaces, space);
  const rowOf = (address: number): number => address - ((address % cells) % perRow);
  const all = rowStarts(marks.length, cells, perRow);
  if (all.length <= SMALL) return all.map((from) => ({ from }));
  const wanted = new Set<number>();
  marks.forEach((mark, address) => mark !== 0 && wanted.add(rowOf(address)));
  for (const room of rooms) if (room.space === space) for (let at = room.from; at <= room.to; at += perRow) wanted.add(rowOf(at));
  for (const address of [...touched, ...present(machine, view, space)]) wanted.add(rowOf(address));
  for (const row of [...wanted]) wanted.add(rowOf(row + perRow));
  return withGaps(all, wanted, opened);
}

/** Places where the run is, in its program's memory; else the first one. */
const present = (machine: Machine, view: View, space: number): readonly number[] =>
  space === machine.programSpace ? [view.next.address, view.executing?.address ?? 0] : [0];

function rowStarts(size: number, cells: number, perRow: number): number[] {
  const starts: number[] = [];
  for (let bank = 0; bank < size; bank += cells) for (let at = 0; at < cells; at += perRow) starts.push(bank + at);
  return starts;
}

function withGaps(all: readonly number[], wanted: ReadonlySet<number>, opened: ReadonlySet<number>): MemoryRow[] {
  const rows: MemoryRow[] = [];
  for (let at = 0; at < all.length; at++) {
    const first = itemAt(all, at);
    if (wanted.has(first)) {
      rows.push({ from: first });
      continue;
    }
    let end = at;
    while (end + 1 < all.length && !wanted.has(itemAt(all, end + 1))) end++;
    if (opened.has(first)) rows.push(...all.slice(at, end + 1).map((from) => ({ from })));
    else rows.push({ gap: [first, itemAt(all, end)] });
    at = end;
  }
  return rows;
}

/** Which rows of a memory are shown: those that hold something, and gaps between, which can be opened. */
import type { RunState } from '../run';

/** A row of cells from a place on, or the places of a gap: the first row that is left out, and the last. */
export type MemoryRow = { readonly from: number } | { readonly gap: readonly [first: number, last: number] };

/** How a memory falls into rows; no row goes over the end of a bank. */
export interface Ruled {
  /** Cells of a bank, and of all banks. */
  readonly cells: number;
  readonly size: number;
  readonly perRow: number;
}

interface Shown {
  /** Rows that hold something. */
  readonly written: ReadonlySet<number>;
  /** Cells that are seen in any case. */
  readonly seen: Iterable<number>;
  /** Cells that are kept free. */
  readonly rooms: readonly Pick<RunState['rooms'][number], 'from' | 'to'>[];
  /** First rows of gaps that somebody has opened. */
  readonly opened: ReadonlySet<number>;
}

/** Memories of up to so many rows have no gaps. */
const SMALL = 10;

/** The first cell of the row that a cell stands in. */
const rowOf = (address: number, { cells, perRow }: Ruled): number => address - ((address % cells) % perRow);

/** The row behind another; beyond the size behind the last. */
const behind = (row: number, { cells, perRow }: Ruled): number =>
  (row % cells) + perRow >= cells ? (Math.floor(row / cells) + 1) * cells : row + perRow;

/** The row before another. */
const before = (row: number, ruled: Ruled): number => rowOf(row - 1, ruled);

/** Rows with a cell that has been written: found anew only when a mark has changed. */
export function writtenRows(marks: Uint8Array, ruled: Ruled): ReadonlySet<number> {
  const rows = new Set<number>();
  for (let address = 0; address < marks.length; address++) if (marks[address] !== 0) rows.add(rowOf(address, ruled));
  return rows;
}

/** Rows that hold something, or are kept free, with one more behind them; gaps between, opened where somebody wants to see them. */
export function memoryRows(ruled: Ruled, { written, seen, rooms, opened }: Shown): MemoryRow[] {
  const { size } = ruled;
  if (size <= SMALL * ruled.perRow) return [...rowsFrom(0, size, ruled)].map((from) => ({ from }));
  const wanted = new Set(written);
  for (const room of rooms) for (const row of rowsFrom(rowOf(room.from, ruled), room.to + 1, ruled)) wanted.add(row);
  for (const address of seen) if (address < size) wanted.add(rowOf(address, ruled));
  for (const row of [...wanted]) if (behind(row, ruled) < size) wanted.add(behind(row, ruled));
  const rows: MemoryRow[] = [];
  let next = 0;
  const gapUpTo = (end: number): void => {
    if (next >= end) return;
    if (opened.has(next)) for (const from of rowsFrom(next, end, ruled)) rows.push({ from });
    else rows.push({ gap: [next, before(end, ruled)] });
  };
  for (const from of [...wanted].sort((a, b) => a - b)) {
    gapUpTo(from);
    rows.push({ from });
    next = behind(from, ruled);
  }
  gapUpTo(size);
  return rows;
}

function* rowsFrom(first: number, end: number, ruled: Ruled): Generator<number> {
  for (let row = first; row < end; row = behind(row, ruled)) yield row;
}

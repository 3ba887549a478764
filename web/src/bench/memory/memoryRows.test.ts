import { demoMachines } from '@zettak/core/testing/demo';
import { bench } from '@zettak/core/testing/bench';
import { memoryRows, writtenRows, type MemoryRow } from './memoryRows';

const gannet = demoMachines.find((each) => each.name === 'Gannet')!;
const shown = (rows: readonly MemoryRow[]): unknown[] => rows.map((each) => ('gap' in each ? each.gap : each.from));

/** Rows of a machine's program memory with a program that takes some cells at the start. */
function rowsOf(source: string, { opened = new Set<number>(), touched = [] as number[] } = {}) {
  const { session, last } = bench(source, gannet.text);
  const machine = session.texts.machine!;
  const { marks } = last().spaces[machine.programSpace]!;
  const ruled = { cells: marks.length, size: marks.length, perRow: 8 };
  return { machine, rows: memoryRows(ruled, { written: writtenRows(marks, ruled), seen: touched, rooms: [], opened }) };
}

test('rows that hold nothing are one gap, which tells its places', () => {
  const { machine, rows } = rowsOf(gannet.programs[0]!.text);
  const { cells } = machine.spaces[machine.programSpace]!;
  const gaps = rows.flatMap((each) => ('gap' in each ? [each.gap] : []));
  expect(gaps.length).toBeGreaterThan(0);
  const count = rows.reduce((sum, each) => sum + ('gap' in each ? (each.gap[1] - each.gap[0]) / 8 + 1 : 1), 0);
  expect(count).toBe(cells / 8);
  expect(rows.length).toBeLessThan(cells / 8);
});

test('a gap that is opened shows all its rows, and a place in it that is touched parts it', () => {
  const closed = rowsOf(gannet.programs[0]!.text).rows;
  const gap = closed.find((each) => 'gap' in each)! as { gap: readonly [number, number] };
  const [first, last] = gap.gap;
  const open = shown(rowsOf(gannet.programs[0]!.text, { opened: new Set([first]) }).rows);
  expect(open).toEqual(expect.arrayContaining([first, first + 8, last]));
  const parted = shown(rowsOf(gannet.programs[0]!.text, { touched: [first + 24] }).rows);
  expect(parted).toEqual(expect.arrayContaining([[first, first + 16], first + 24, first + 32]));
});

test('rows end where a bank ends, whatever stands beside each other', () => {
  const ruled = { cells: 20, size: 60, perRow: 8 };
  const rows = memoryRows(ruled, { written: new Set([16, 40]), seen: [], rooms: [], opened: new Set() });
  expect(shown(rows)).toEqual([0, 8, 16, 20, 28, 36, 40, 48, 56]);
  const large = { cells: 100, size: 300, perRow: 8 };
  const parted = memoryRows(large, { written: new Set([96]), seen: [], rooms: [{ from: 250, to: 257 }], opened: new Set() });
  expect(shown(parted)).toEqual([[0, 88], 96, 100, [108, 240], 248, 256, 264, [272, 296]]);
});

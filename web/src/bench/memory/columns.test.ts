import type { Machine } from '@zettak/core/machine/model/machine';
import { demoMachines, machineNamed } from '@zettak/core/testing/demo';
import { itemAt } from '@zettak/core/text/itemAt';
import { binaryDigits } from '@zettak/core/text/number';
import { inBase } from './cells';
import { gridColumns, listColumns, widthsOf, type Columns } from './columns';

const named = (columns: readonly Columns[], id: string): Columns => columns.find((each) => each.id === id)!;
const BASES = { 2: ['hex', 'oct', 'dec', 'bin', 'char'], 10: ['dec', 'char'] } as const;
/** Every memory of every demo machine, in every base. */
const shown = demoMachines
  .map(({ name }) => machineNamed(name))
  .flatMap((machine) => machine.spaces.flatMap((_, space) => BASES[machine.radix].map((base) => ({ machine, space, base }))));
const values = (machine: Machine, digits: number): number[] => [0, 1, machine.radix ** digits - 1, machine.radix ** digits / 2];

test('every value and every address has room in its column, alone and in pairs', () => {
  for (const { machine, space, base } of shown)
    for (const step of [1, 2]) {
      const { width, cells, banks } = itemAt(machine.spaces, space);
      const digits = width * step;
      if (machine.radix ** digits > Number.MAX_SAFE_INTEGER) continue;
      const grid = gridColumns(machine, { space, base, step, perRow: 4 });
      const list = listColumns(machine, { space, base, step, labels: new Map([[3, 'highWater']]) });
      for (const value of values(machine, digits)) {
        const written = inBase(value, digits, machine.radix, base).length;
        expect(named(grid, 'cell').characters).toBeGreaterThanOrEqual(written);
        expect(named(list, 'cell').characters).toBeGreaterThanOrEqual(written);
        expect(named(list, 'unsigned').characters).toBeGreaterThanOrEqual(String(value).length);
        expect(named(list, 'signed').characters).toBeGreaterThan(String(value).length);
        const bits = list.find((each) => each.id === 'bits');
        if (bits) expect(bits.characters).toBeGreaterThanOrEqual(binaryDigits(value, digits).length);
      }
      expect(named(list, 'name').characters).toBe('highWater'.length);
      expect(named(list, 'place').characters).toBeGreaterThanOrEqual(String(Math.floor((cells * banks - 1) / 16)).length / 2);
      for (const columns of [grid, list])
        for (const each of columns) for (const head of each.heads) expect(each.characters).toBeGreaterThanOrEqual(head.length);
    }
});

test('cells beside each other are headed by what is added to the address of their row; pairs by that of their first', () => {
  const heads = (name: string, step: number, perRow: number): readonly string[] =>
    named(gridColumns(machineNamed(name), { space: 0, base: 'dec', step, perRow }), 'cell').heads;
  expect(heads('Curlew', 1, 16).join(' ')).toBe('0 1 2 3 4 5 6 7 8 9 A B C D E F');
  expect(heads('Curlew', 2, 8)).toEqual(['0', '2', '4', '6']);
  expect(heads('Plover', 1, 10).join('')).toBe('0123456789');
});

test('a table is as wide as its columns together, each as often as it has heads', () => {
  const columns = [
    { id: 'place', heads: ['cell'], characters: 4, beside: 16 },
    { id: 'cell', heads: ['0', '1', '2'], characters: 2, beside: 10 },
  ];
  expect(widthsOf(columns)).toEqual({ '--place': 'calc(4ch + 16px)', '--cell': 'calc(2ch + 10px)', minWidth: 'calc(10ch + 46px)' });
});

import { curlew, demoMachines, fixtures, machineFrom } from '@zettak/core/testing/demo';
import { columnsOf, headOf, inColumn, widthsOf, type Column, type Shown } from './columns';

const shown = (more: Partial<Shown>): Shown => ({ value: 0x9e, width: 8, before: 0, start: 0xf0, instruction: false, ...more });

test.each<[Column, Partial<Shown>, string]>([
  ['own', {}, '9E'],
  ['unsigned', {}, '158'],
  ['signed', {}, '−98'],
  ['bits', {}, '1001 1110'],
  ['character', { value: 65 }, 'A'],
  ['character', {}, '·'],
  ['before', {}, '00'],
  ['start', {}, 'F0'],
  ['before', { before: undefined }, ''],
  ['signed', { instruction: true, value: 0x3341, width: 16 }, ''],
  ['unsigned', { instruction: true }, ''],
])('the column %s of %j reads “%s”', (column, more, text) => {
  expect(inColumn(column, curlew, shown(more))).toBe(text);
});

test('a column that the machine’s own base says already is left out, and every column is named at its head', () => {
  const plover = machineFrom(demoMachines.find((each) => each.name === 'Plover')!.text);
  expect(columnsOf(plover, ['own', 'unsigned', 'signed', 'bits'])).toEqual(['own', 'signed']);
  expect(columnsOf(curlew, ['own', 'unsigned', 'signed', 'bits'])).toEqual(['own', 'unsigned', 'signed', 'bits']);
  expect([headOf('own', plover), headOf('own', curlew)]).toEqual(['digits', 'hex']);
});

describe('the widths of columns', () => {
  const machines = [...demoMachines, ...fixtures].map((each) => machineFrom(each.text));
  /** Letters of 9 px that a part of a panel of 292 px has room for, beside 10 px around them. */
  const letters = (percent: number): number => ((percent / 100) * 292 - 10) / 9;

  test.each(machines)('of $name fill the panel, and every register has its name and its digits whole', (machine) => {
    for (const chosen of [
      ['own', 'unsigned', 'signed'],
      ['own', 'signed', 'bits'],
      ['own'],
      ['character', 'before', 'start'],
    ] as Column[][]) {
      const columns = columnsOf(machine, chosen);
      const [names, ...widths] = widthsOf(machine, columns);
      expect(widths).toHaveLength(columns.length);
      expect([names!, ...widths].reduce((sum, each) => sum + each, 0)).toBeCloseTo(100);
      const longest = (texts: readonly string[]): number => Math.max(...texts.map((each) => each.length));
      expect(letters(names!)).toBeGreaterThanOrEqual(longest(machine.registers.map((each) => each.name)) - 0.5);
      const own = columns.indexOf('own');
      if (own >= 0)
        expect(letters(widths[own]!)).toBeGreaterThanOrEqual(
          longest(machine.registers.map(({ width }) => inColumn('own', machine, shown({ value: 0, width })))) - 0.5,
        );
    }
  });

  test('leave room for the value before beside the one after, and for eight bits in a row, where there is enough', () => {
    const [, own, , signed] = widthsOf(curlew, ['own', 'unsigned', 'signed']);
    expect(letters(own!)).toBeGreaterThanOrEqual('3341 3341'.length);
    expect(letters(signed!)).toBeGreaterThanOrEqual('STORE'.length);
    expect(letters(widthsOf(curlew, ['own', 'signed', 'bits'])[3]!)).toBeGreaterThanOrEqual('0000 0000'.length);
  });
});

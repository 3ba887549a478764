import { curlew, demoMachines, machineFrom } from '@zettak/core/testing/demo';
import { columnsOf, headOf, inColumn, type Column, type Shown } from './columns';

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

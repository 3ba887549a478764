import { machineNamed } from '@zettak/core/testing/demo';
import { BY_RUN, LOADED } from '@zettak/core/engine/meaning/state';
import { itemAt } from '@zettak/core/text/itemAt';
import { placeText } from '@zettak/core/machine/model/describe';
import { cellNamed, cellWords, pointersInto, pointersWords } from './holds';

const curlew = machineNamed('Curlew');
const dunlin = machineNamed('Dunlin');
const labels = [new Map([[0x40, 'level']])];
const registers = (values: Readonly<Record<string, number>>, machine = curlew): number[] =>
  machine.registers.map((each) => values[each.name] ?? 0);

test('an address as the machine writes it, a bare one among addresses, a label: each names its cell', () => {
  const cell = { space: curlew.programSpace, address: 0x40 };
  expect(cellNamed(curlew, labels, '0x40', false)).toEqual(cell);
  expect(cellNamed(curlew, labels, 'level', false)).toEqual(cell);
  expect(cellNamed(curlew, labels, '40', true)).toEqual(cell);
  for (const text of ['40', '0x040', '0x400', 'rise', 'ACC', '']) expect(cellNamed(curlew, labels, text, false)).toBeUndefined();
  expect(cellNamed(curlew, labels, '4', true)).toBeUndefined();
});

test('a cell is told by name, mark, routine, who points at it and all readings; one never written holds nothing', () => {
  const size = itemAt(curlew.spaces, 0).cells;
  const cells = new Uint32Array(size);
  const marks = new Uint8Array(size);
  [cells[0x40], marks[0x40], marks[0x41]] = [0x9e, LOADED, BY_RUN];
  const view = { spaces: [{ cells, marks }], registers: registers({ MAR: 0x40 }) };
  const routines = [{ name: 'half', from: 0x3f, to: 0x41, line: 3, end: 5 }];
  const words = (address: number): string => cellWords(curlew, { view, labels, routines }, { space: 0, address }).join(', ');
  expect(words(0x40)).toMatch(/^level, as loaded, in half, MAR points here, 0x9E = 158 = −98 signed/);
  expect(words(0x41)).toMatch(/^written by the run, in half, 0x00 = 0/);
  expect(words(0x42)).toBe('never written');
});

test('pairs point into the bank that is chosen', () => {
  const data = dunlin.spaces.findIndex((each) => each.name === 'DATA');
  const found = pointersInto(dunlin, registers({ BANK: 1, R1: 5 }, dunlin), data);
  expect(found.get(64 + 5)).toEqual(['P0']);
  expect(found.get(64)).toEqual(['P1', 'P2', 'P3']);
  expect(placeText(dunlin, { space: data, address: 64 + 5 })).toBe('1:0x05');
  expect([[], ['P0'], ['P0', 'P1'], ['A', 'B', 'C'], ['A', 'B', 'C', 'D']].map(pointersWords)).toEqual([
    '',
    'P0 points here',
    'P0 and P1 point here',
    'A, B and C point here',
    'A, B and 2 more point here',
  ]);
});

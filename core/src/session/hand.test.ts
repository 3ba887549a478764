import { pairValue } from './cellText';
import { demoMachines, programText } from '../testing/demo';
import { bench } from '../testing/bench';
import { findCells } from './cellText';
import type { HandView, View } from './protocol';

const cells = (view: View, from: number, count: number): number[] => [...view.spaces[0]!.cells.slice(from, from + count)];
const agreement = ({ agree, cells: all, differ }: HandView): unknown[] => [agree, all, differ];

test('cells by hand are a recorded change: undone going back, done again going on, entered again at a load', () => {
  const source = 'LOAD 3\nHALT\nn .cells 5\n.cells n';
  const { session, last } = bench(source);
  session.hand.setCell(0, 3, 9);
  expect(agreement(session.hand.handRows(source, 0, 4))).toEqual([4, 5, [3]]);
  session.run.command('instruction');
  expect(last().registers).toContain(9);
  session.hand.setCell(0, 0x80, 7);
  session.run.command('back');
  expect(cells(last(), 0x80, 1)).toEqual([0]);
  session.run.command('tick');
  expect(cells(last(), 0x80, 1)).toEqual([7]);
  session.load(source, { clear: false, inputs: [] });
  expect([cells(last(), 3, 1), cells(last(), 0x80, 1)]).toEqual([[9], [7]]);
  session.hand.putBack();
  expect([cells(last(), 3, 1), last().spaces[0]!.marks[0x80]]).toEqual([[5], 0]);
  expect(agreement(session.hand.handRows(source, 0, 4))).toEqual([5, 5, []]);
});

test('cells outside, and values that do not fit, change nothing', () => {
  const { session, last } = bench('HALT');
  const before = last();
  for (const [address, value] of [
    [256, 1],
    [-1, 1],
    [0, 256],
  ] as const)
    session.hand.setCell(0, address, value);
  expect(last()).toBe(before);
});

test('cells are decoded one after another, with the source’s spelling where they are as assembled', () => {
  const source = 'LOAD n\nSTORE n\nHALT\nn .cells 1\nm .cells n, m';
  const { session } = bench(source);
  session.hand.setCell(0, 3, 6);
  const { rows } = session.hand.handRows(source, 0, 6);
  expect(rows.map((each) => each.meaning)).toEqual(['LOAD n', undefined, 'STORE m', undefined, 'HALT', undefined]);
  expect(rows[3]).toMatchObject({ value: 6, should: 5, byHand: true });
});

test('one instruction is done where PC points and leaves the program as it was; going back undoes it', () => {
  const source = 'LOAD #1\nHALT';
  const { session, last } = bench(source);
  expect(session.hand.applyOne('LOAD #7')).toEqual({ done: 'LOAD #7, 2 cells, at 0x00' });
  expect([last().registers[4], last().registers[0], cells(last(), 0, 2)]).toEqual([7, 0, [0x1f, 1]]);
  expect(agreement(session.hand.handRows(source, 0, 4))).toEqual([3, 3, []]);
  session.run.command('instruction');
  expect([last().registers[4], last().next.address]).toEqual([1, 2]);
  session.run.command('instructionBack');
  session.run.command('instructionBack');
  expect([last().registers[4], last().ticks]).toEqual([0, 0]);
  session.run.travel(6);
  expect(last().registers[4]).toBe(7);
});

test('one instruction may jump, and is refused in the middle of another or after a halt', () => {
  const { session, last } = bench('LOAD #1\nHALT');
  session.hand.applyOne('JUMP 2');
  expect(last().next.address).toBe(2);
  session.run.command('tick');
  expect(session.hand.applyOne('LOAD #8')).toMatchObject({ refused: expect.stringMatching(/under way/) as string });
  const { session: halted } = bench('HALT');
  halted.run.command('instruction');
  expect(halted.hand.applyOne('LOAD #8')).toMatchObject({ refused: expect.stringMatching(/halted/) as string });
});

test('with errors the finished part loads on demand and pauses before what is missing', () => {
  const { session, last } = bench('HALT');
  const source = 'LOAD n\nLAOD #1\nHALT\nn .cells 9';
  expect(session.load(source, { clear: false, inputs: [] })).toMatchObject({ loaded: false, partial: true });
  expect(session.load(source, { clear: false, inputs: [], unfinished: true })).toMatchObject({ loaded: true });
  session.run.setSpeed('full');
  session.run.command('run');
  session.run.command('pause');
  session.run.command('instruction');
  expect(last().registers).toContain(9);
});

test('switches stay as they were set when a program is loaded again', () => {
  const dunlin = demoMachines.find((each) => each.name === 'Dunlin')!;
  const { session, last } = bench(dunlin.programs[0]!.text, dunlin.text);
  const switches = (): number => last().devices.find((each) => each.kind === 'switches')!.value;
  session.hand.setSwitches(last().devices.find((each) => each.kind === 'switches')!.name, 5);
  session.load(dunlin.programs[0]!.text, { clear: false, inputs: [] });
  expect(switches()).toBe(5);
});

test('object code goes out and in; what cannot be is a sentence', () => {
  const { session } = bench('HALT');
  const source = programText('quay-watch');
  const out = session.texts.writeCode(source, { format: 'hex', space: 0, order: 'high first' });
  const text = 'content' in out ? String(out.content) : '';
  const back = session.texts.readCode(text, { format: 'hex', space: 0, order: 'high first', from: 0 });
  expect(back).toMatchObject({ cells: 16, problems: [] });
  expect(session.texts.list(back.text!).facts).toMatchObject({ used: 16, start: 0 });
  expect(session.texts.writeCode('LAOD', { format: 'hex', space: 0, order: 'high first' })).toMatchObject({
    refused: expect.stringMatching(/^There is no object code yet\. Line 1/) as string,
  });
  expect(session.texts.readCode(new Uint8Array(), { format: 'bin', space: 0, order: 'high first', from: 0 }).problems).toHaveLength(1);
});

test('parts and switched checks reach the listing', () => {
  const { session } = bench('HALT');
  session.texts.setParts({ half: '.routine half\nSHR\nRET\n.end' });
  const source = 'CALL half\nHALT\nspare .cells 1\n.include "half"';
  expect(session.texts.list(source).problems.map((each) => each.code)).toEqual(['never-used']);
  session.texts.setChecksOff(['never-used']);
  expect(session.texts.list(source).problems).toEqual([]);
});

test('many cells are entered at once, as one step that is taken back and done again', () => {
  const { session, last } = bench('HALT');
  expect(session.hand.enterCells({ space: 0, from: 0x40, text: '9E\t2B\r\n0d10\t"ebb"', base: 16 })).toEqual({ cells: 6 });
  expect(cells(last(), 0x40, 6)).toEqual([0x9e, 0x2b, 10, 101, 98, 98]);
  expect(session.hand.enterCells({ space: 0, from: 0x40, text: '1 2', base: 10, upTo: 0x44 })).toEqual({ cells: 5 });
  expect(cells(last(), 0x40, 6)).toEqual([1, 2, 1, 2, 1, 98]);
  expect(session.hand.turnCells('undo')).toEqual({ space: 0, address: 0x40 });
  expect(cells(last(), 0x40, 6)).toEqual([0x9e, 0x2b, 10, 101, 98, 98]);
  session.hand.turnCells('undo');
  expect([cells(last(), 0x40, 6), last().spaces[0]!.marks[0x40], session.hand.cellCount]).toEqual([[0, 0, 0, 0, 0, 0], 0, 0]);
  expect(session.hand.turnCells('undo')).toBeUndefined();
  session.hand.turnCells('redo');
  expect(cells(last(), 0x40, 2)).toEqual([0x9e, 0x2b]);
  // Another run has nothing to take back.
  session.load('HALT', { clear: false, inputs: [] });
  expect(session.hand.turnCells('undo')).toBeUndefined();
});

test('several values for a place go into cells behind each other, as one step; how each is read is told before', () => {
  const { session, last } = bench('level .cells 1, 2, 3\nHALT');
  expect(session.hand.readValue('level', '21 -1', 16)).toEqual({
    reading: '2 values, up to M[0x01]: 0x21 = 33 (in decimal it would be 21); 0xFF = 255',
  });
  expect(session.hand.setPlace('level', '21 -1', 16)).toBeUndefined();
  expect(cells(last(), 0, 3)).toEqual([0x21, 0xff, 3]);
  session.hand.turnCells('undo');
  expect(cells(last(), 0, 3)).toEqual([1, 2, 3]);
  expect(session.hand.setPlace('ACC', '1 2', 16)).toEqual({
    refused: 'Several values stand in cells behind each other; ACC is no cell.',
  });
  expect(session.hand.setPlace('level', '1 300', 10)).toMatchObject({ refused: expect.stringMatching(/^300/) as string });
  expect(cells(last(), 0, 3)).toEqual([1, 2, 3]);
});

test.each([
  ['high first', [0x12, 0x34, 0x00, 0x07]],
  ['low first', [0x34, 0x12, 0x07, 0x00]],
] as const)('numbers for two cells each, %s', (order, expected) => {
  const { session, last } = bench('HALT');
  expect(session.hand.enterCells({ space: 0, from: 0x40, text: '1234 7', base: 16, order })).toEqual({ cells: 4 });
  expect(cells(last(), 0x40, 4)).toEqual(expected);
  expect(pairValue(expected[0], expected[1], { size: 256, order })).toBe(0x1234);
  expect(session.hand.enterCells({ space: 0, from: 0x40, text: '10000', base: 16, order })).toMatchObject({
    refused: expect.stringMatching(/65535|0xFFFF/) as string,
  });
  expect(session.hand.enterCells({ space: 0, from: 0xff, text: '1', base: 16, order })).toMatchObject({
    refused: expect.stringMatching(/^2 cells do not fit: 1/) as string,
  });
  session.hand.turnCells('undo');
  expect(cells(last(), 0x40, 4)).toEqual([0, 0, 0, 0]);
});

test.each([
  ['9E zz', 16, /^Value 2, line 1: “zz” is no number/],
  ['1\n2\t300', 10, /^Value 3, line 2: /],
  ['', 10, /^Type a number/],
  [Array.from({ length: 20 }, (_, at) => at).join(' '), 10, /^20 cells do not fit: 16 are left from here on\. Nothing was entered\./],
  ['"\u00e9\u0416"', 10, /does not fit a cell of 8 bits/],
])('%j in base %i is refused whole', (text, base, sentence) => {
  const { session, last } = bench('HALT');
  const before = cells(last(), 0, 256);
  const answer = session.hand.enterCells({ space: 0, from: 0xf0, text, base });
  expect('refused' in answer && answer.refused).toMatch(sentence);
  expect(cells(last(), 0, 256)).toEqual(before);
});

test('a cell is meant by its address in the panel’s base, by a name, or by a register that points there', () => {
  const { session } = bench('LOAD n\nHALT\nn .cells 5');
  const meant = (text: string, base = 16): unknown => session.hand.cellMeant(0, text, base);
  expect([meant('40'), meant('0d40'), meant('40', 10), meant('n'), meant('SP')]).toEqual(
    [0x40, 40, 40, 3, 0xf0].map((address) => ({ address })),
  );
  expect(meant('100')).toEqual({ refused: 'M has no such cell.' });
  expect(meant('zzz')).toMatchObject({ refused: expect.stringContaining('zzz') });
  const banked = bench('HALT', demoMachines.find((each) => each.name === 'Dunlin')!.text);
  expect(banked.session.hand.cellMeant(1, '2:13', 16)).toEqual({ address: 2 * 64 + 0x13 });
});

test('cells are looked for from a place on, round the end', () => {
  const memory = { cells: Uint32Array.from([7, 1, 2, 3, 1, 2, 7]), marks: new Uint8Array(7) };
  expect([findCells(memory, [1, 2], 0), findCells(memory, [1, 2], 2), findCells(memory, [1, 2], 5)]).toEqual([1, 4, 1]);
  expect([findCells(memory, [7], 1), findCells(memory, [2, 7], 0), findCells(memory, [9], 0), findCells(memory, [], 0)]).toEqual([
    6,
    5,
    undefined,
    undefined,
  ]);
});

test('two switches that are pressed one right after the other are both set', () => {
  const { session, last } = bench('HALT', demoMachines.find((each) => each.name === 'Dunlin')!.text);
  session.hand.setLine('switches', 0, true);
  session.hand.setLine('switches', 2, true);
  session.hand.setLine('switches', 2, true);
  expect(last().devices.find((each) => each.name === 'switches')!.value).toBe(5);
  session.hand.setLine('switches', 0, false);
  expect(last().devices.find((each) => each.name === 'switches')!.value).toBe(4);
});

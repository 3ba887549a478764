import { curlew, programFrom, runnerFor } from '../testing/demo';
import { readNumber } from '../text/number';
import type { Trap } from '../machine/machine';
import { MOST_OUTPUT } from './interpret';
import { performService, readEntry } from './services';
import { createState, loadProgram } from './state';

const ACC = curlew.registers.findIndex((each) => each.role === 'accumulator');

function perform(trap: Partial<Trap>, { value = 0, cells = 'HALT', queued }: { value?: number; cells?: string; queued?: number[] } = {}) {
  const state = createState(curlew);
  loadProgram(curlew, state, programFrom(curlew, cells));
  state.registers[ACC] = value;
  const full: Trap = { number: 1, name: 't', service: 'end', end: 0, pad: 1, echo: false, newLine: true, ...trap };
  return performService({ machine: curlew, state, trap: full, inputs: queued ?? [] });
}

test('a number is written unsigned, with a line end', () => {
  expect(perform({ service: 'write number', argument: ACC }, { value: 200 })).toMatchObject({ output: '200\n', takes: 0, ends: false });
});

test('a character is written as it is, a line end too', () => {
  expect([65, 10].map((value) => perform({ service: 'write character', argument: ACC }, { value }))).toMatchObject([
    { output: 'A' },
    { output: '\n' },
  ]);
});

test('a text runs up to its end value, which each trap may choose', () => {
  const cells = 'HALT\n.text "ebb$flow", 0';
  expect(perform({ service: 'write text', argument: ACC }, { value: 1, cells })).toMatchObject({ output: 'ebb$flow' });
  expect(perform({ service: 'write text', argument: ACC, end: 36 }, { value: 1, cells })).toMatchObject({ output: 'ebb' });
});

test('a text runs on from the end of memory at its beginning, once', () => {
  const cells = 'HALT\n.origin 0xFE\n.text "xy"\n.origin 0\n.text "z", 0';
  expect(perform({ service: 'write text', argument: ACC }, { value: 0xfe, cells })).toMatchObject({ output: 'xyz' });
});

test('a read takes what is queued, and waits when nothing is', () => {
  expect(perform({ service: 'read number', result: ACC }, { queued: [9] })).toMatchObject({ value: 9, takes: 1, waits: false });
  expect(perform({ service: 'read number', result: ACC })).toMatchObject({ waits: true, takes: 0 });
});

test.each<[string, number, number | RegExp]>([
  ['58', 8, 58],
  [' 0x3A ', 8, 58],
  ['-1', 8, 255],
  ['- 128', 8, 128],
  ['-129', 8, /-128 to 255/],
  ['256', 8, /does not fit into 8 bits/],
  ['15', 4, 15],
  ['16', 4, /-8 to 15/],
  ['4294967295', 32, 4294967295],
  ['', 8, /Type a number first/],
  ['3A', 8, /is no number/],
  ['<b>', 8, /“<b>” is no number/],
])('the entry “%s” for %i bits is read or refused', (text, width, expected) => {
  const entry = readEntry(text, { width, radix: 2 }, readNumber);
  if (typeof expected === 'number') expect(entry).toEqual({ value: expected });
  else expect(entry).toEqual({ refused: expect.stringMatching(expected) });
});

test('endless output stays within bounds', () => {
  const runner = runnerFor("LOAD #'a'\nagain TRAP showSign\nJUMP again");
  for (let slice = 0; slice < 30; slice++) runner.run(100_000, { first: slice === 0 });
  expect(runner.state.control.output.length).toBeGreaterThan(MOST_OUTPUT / 2);
  expect(runner.state.control.output.length).toBeLessThanOrEqual(2 * MOST_OUTPUT);
});

import { curlew, machineNamed, programFrom, runnerFor } from '../../testing/demo';
import { readNumber } from '../../text/number';
import type { RegisterPlace, Trap } from '../../machine/model/machine';
import { MOST_OUTPUT } from './interpret';
import { performService, readEntry } from './services';
import { createState, deviceLatch, loadProgram } from './state';
import { refusalOf } from '../../testing/refusals';

const ACC = curlew.registers.findIndex((each) => each.role === 'accumulator');

/** A whole register as the place that a trap names. */
function at(register: number, machine = curlew): RegisterPlace {
  const { name, width } = machine.registers[register]!;
  const target = { kind: 'register', register, high: width - 1, low: 0, width, whole: true } as const;
  return { name, width, value: { kind: 'register', register, width }, target };
}

const device = (name: string) => lamps.devices.findIndex((each) => each.name === name);
const lamps = machineNamed('Gannet');

function perform(trap: Partial<Trap>, { value = 0, cells = 'HALT', queued }: { value?: number; cells?: string; queued?: number[] } = {}) {
  const state = createState(curlew);
  loadProgram(curlew, state, programFrom(curlew, cells));
  state.registers[ACC] = value;
  const full: Trap = { number: 1, name: 't', service: 'end', end: 0, pad: 1, echo: false, newLine: true, ...trap };
  state.control.queue = queued ?? [];
  return performService({ machine: curlew, state, trap: full });
}

test('a number is written unsigned, with a line end', () => {
  expect(perform({ service: 'write number', argument: at(ACC) }, { value: 200 })).toMatchObject({ output: '200\n', takes: 0, ends: false });
});

test('a character is written as it is, a line end too', () => {
  expect([65, 10].map((value) => perform({ service: 'write character', argument: at(ACC) }, { value }))).toMatchObject([
    { output: 'A' },
    { output: '\n' },
  ]);
});

test('a text runs up to its end value, which each trap may choose', () => {
  const cells = 'HALT\n.text "ebb$flow", 0';
  expect(perform({ service: 'write text', argument: at(ACC) }, { value: 1, cells })).toMatchObject({ output: 'ebb$flow' });
  expect(perform({ service: 'write text', argument: at(ACC), end: 36 }, { value: 1, cells })).toMatchObject({ output: 'ebb' });
});

test('a text runs on from the end of memory at its beginning, once', () => {
  const cells = '.text "z", 0\nHALT\n.origin 0xFE\n.text "xy"';
  expect(perform({ service: 'write text', argument: at(ACC) }, { value: 0xfe, cells })).toMatchObject({ output: 'xyz' });
});

test('a read takes what is queued, and waits when nothing is', () => {
  expect(perform({ service: 'read number', result: at(ACC) }, { queued: [9] })).toMatchObject({ value: 9, takes: 1, waits: false });
  expect(perform({ service: 'read number', result: at(ACC) })).toMatchObject({ waits: true, takes: 0 });
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
  else expect(refusalOf(entry)).toMatch(expected);
});

test('endless output stays within bounds', () => {
  const runner = runnerFor("LOAD #'a'\nagain TRAP showSign\nJUMP again");
  for (let slice = 0; slice < 30; slice++) runner.run(100_000, { first: slice === 0 });
  expect(runner.state.control.output.length).toBeGreaterThan(MOST_OUTPUT / 2);
  expect(runner.state.control.output.length).toBeLessThanOrEqual(2 * MOST_OUTPUT);
});

test.each<[string, Partial<Trap>, number, string]>([
  ['signed', { service: 'write signed' }, 200, '-56\n'],
  ['hexadecimal', { service: 'write hex', pad: 4 }, 200, '00C8\n'],
  ['binary, without a line end', { service: 'write binary', pad: 8, newLine: false }, 5, '00000101'],
  ['padded', { service: 'write number', pad: 5 }, 42, '00042\n'],
  ['a new line', { service: 'new line' }, 0, '\n'],
])('numbers can be written %s', (_name, trap, value, output) => {
  expect(perform({ argument: at(ACC), ...trap }, { value })).toMatchObject({ output, takes: 0, waits: false });
});

test('a character is read with or without echo', () => {
  expect(perform({ service: 'read character', result: at(ACC) }, { queued: [65] })).toMatchObject({ value: 65, takes: 1, output: '' });
  expect(perform({ service: 'read character', result: at(ACC), echo: true }, { queued: [65] })).toMatchObject({ output: 'A' });
});

test('a line waits for its end, goes to memory up to the room there is, and is counted', () => {
  const queued = [...'ebb'].map((each) => each.charCodeAt(0));
  expect(perform({ service: 'read line', argument: at(ACC), result: at(ACC) }, { value: 0x80, queued })).toMatchObject({
    waits: true,
    takes: 0,
    cells: [],
  });
  const whole = perform({ service: 'read line', argument: at(ACC), result: at(ACC), end: 0 }, { value: 0xfe, queued: [...queued, 10, 65] });
  expect(whole).toMatchObject({ value: 3, takes: 4 });
  expect('cells' in whole && whole.cells.map((each) => each.address)).toEqual([0xfe, 0xff, 0, 1]);
  const X = curlew.registers.findIndex((each) => each.role === 'index');
  const short = perform(
    { service: 'read line', argument: at(ACC), result: at(ACC), length: at(X) },
    { value: 0x80, queued: [...queued, 10] },
  );
  expect(short).toMatchObject({ value: 0, takes: 4 });
});

test('a text may end by its length or by a mark in its last character', () => {
  const cells = 'HALT\n.text "ebb"\n.cells 0b1111_0000';
  expect(perform({ service: 'write text', argument: at(ACC), lastMarked: 7 }, { value: 1, cells })).toMatchObject({ output: 'ebbp' });
  expect(perform({ service: 'write text', argument: at(ACC), length: at(ACC) }, { value: 2, cells: 'HALT\n.text "xyz"' })).toMatchObject({
    output: 'yz',
  });
});

test('lamps are set and switches are read by services of a machine that has them', () => {
  const state = createState(lamps);
  const trap: Trap = {
    number: 1,
    name: 't',
    service: 'set lamps',
    argument: at(5, lamps),
    device: device('lamps'),
    pad: 1,
    echo: false,
    newLine: true,
  };
  state.registers[5] = 6;
  expect(performService({ machine: lamps, state, trap })).toMatchObject({
    latch: { latch: deviceLatch(lamps, device('lamps'), 'value'), value: 6 },
  });
  state.latches[deviceLatch(lamps, device('lamps'), 'value')] = 9;
  expect(performService({ machine: lamps, state, trap: { ...trap, service: 'read switches', result: at(5, lamps) } })).toMatchObject({
    value: 9,
  });
});

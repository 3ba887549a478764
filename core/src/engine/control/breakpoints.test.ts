import { breakAt, curlew, demoMachines, machineFrom, machineNamed, programFrom, runnerFor } from '../../testing/demo';
import { smallMachine } from '../../testing/small';
import type { BreakOn } from '../watch/breakpoints';
import { readWatched } from '../watch/conditions';
import { found } from '../timeline/search';
import { Runner } from './runner';
import { refusalOf } from '../../testing/refusals';
import { go, told, register, watched, placed, breakOn, small, KEYS } from '../../testing/runs';

const WRITES = `start LOAD #5
 STORE level
 STORE level
 INC
 STORE level
 LOAD level
 HALT
level .room 1`;

test('after a write, and after a change: the stop names the instruction, the tick, before and after', () => {
  const write = runnerFor(WRITES);
  write.breakpoints = [breakOn({ kind: 'write', place: placed(write, 'level') })];
  const sentences = Array.from({ length: 3 }, () => told(write, go(write)));
  expect(sentences).toEqual([
    'Paused: level went from 0x00 to 0x05 by STORE level on line 2, tick 13.',
    'Paused: level was written by STORE level on line 3, tick 20; it was 0x05 and still is.',
    'Paused: level went from 0x05 to 0x06 by STORE level on line 5, tick 31.',
  ]);
  expect(told(write, go(write))).toMatch(/^Halted/);
  const change = runnerFor(WRITES);
  change.breakpoints = [breakOn({ kind: 'change', place: placed(change, 'M[level]') })];
  expect([go(change)?.kind, change.state.control.instructions, go(change)?.kind, change.state.control.instructions]).toEqual([
    'breakpoint',
    2,
    'breakpoint',
    5,
  ]);
});

test.each<[string, (runner: Runner) => BreakOn, RegExp]>([
  [
    'a register',
    (runner) => ({ kind: 'change', place: placed(runner, 'ACC') }),
    /^Paused: ACC went from 0x00 to 0x05 by LOAD #5 on line 1, tick 6\.$/,
  ],
  [
    'a flag',
    (runner) => ({ kind: 'write', place: placed(runner, 'Z') }),
    /^Paused: Z was written by LOAD #5 on line 1, tick 6; it was 0x0 and still is\.$/,
  ],
  [
    'a read',
    (runner) => ({ kind: 'read', space: 0, address: (placed(runner, 'level') as { address: number }).address }),
    /^Paused: level was read by LOAD level on line 6, tick \d+\.$/,
  ],
  [
    'a condition',
    (runner) => ({ kind: 'condition', condition: watched(runner, 'M[level] = 6') }),
    /^Paused: M\[level\] = 6 holds, since STORE level on line 5, tick 31\.$/,
  ],
])('after %s', (_, on, words) => {
  const runner = runnerFor(WRITES);
  runner.breakpoints = [breakOn(on(runner))];
  expect(told(runner, go(runner))).toMatch(words);
});

test('on output, with what was written', () => {
  const runner = runnerFor('LOAD #65\nTRAP showSign\nHALT');
  runner.breakpoints = [breakOn({ kind: 'output' })];
  expect(told(runner, go(runner))).toBe('Paused: "A" was written by TRAP showSign on line 2, tick 12.');
  const until = runnerFor('LOAD #65\nTRAP showSign\nHALT');
  expect(told(until, go(until, { kind: 'output' }))).toBe('Something was written; next is line 3.');
});

test('breakpoints are ignored a number of times, counted, disabled and removed one by one', () => {
  const runner = runnerFor('again INC\n CMP #20\n JUMPNZ again\n HALT');
  runner.breakpoints = [breakOn({ kind: 'address', address: 0 }, { ignore: 3 }), { ...breakAt(1), enabled: false }];
  go(runner);
  expect([register(runner, 'ACC'), runner.breaks.hitsOf(1)]).toEqual([4, 4]);
  runner.breakpoints = [];
  expect(go(runner)?.kind).toBe('halted');
});

test('edits by hand never hit, and leaving a breakpoint never hits it again', () => {
  const runner = runnerFor(WRITES);
  runner.breakpoints = [breakOn({ kind: 'write', place: placed(runner, 'level') }), { ...breakAt(0), id: 2 }];
  runner.timeline.edit({ kind: 'cell', space: 0, address: 13, value: 9, mark: 3 });
  expect(runner.breaks.hitsOf(2)).toBe(0);
  expect([go(runner)?.kind, runner.state.control.instructions]).toEqual(['breakpoint', 2]);
});

test('a print-point writes its value into the wake and lets the run go on; travelling does not write it twice', () => {
  const runner = runnerFor('again INC\n CMP #4\n JUMPNZ again\n HALT');
  runner.breakpoints = [breakOn({ kind: 'address', address: 0 }, { print: watched(runner, 'ACC + 1') })];
  expect(go(runner)?.kind).toBe('halted');
  const printed = [2, 3, 4].map((value) => ({ text: 'ACC + 1', value }));
  expect(runner.breaks.printed(0, Infinity)).toMatchObject(printed);
  runner.timeline.toStart();
  go(runner);
  expect(runner.breaks.printed(0, Infinity)).toMatchObject(printed);
});

test('what is watched looks and never touches; what cannot be worked out is no hit', () => {
  const runner = small({ parts: KEYS, ticks: { KEY: 'A <- M[0xF0]' } }, 'KEY\nKEY\nHALT', 'input 3 4');
  runner.breakpoints = [
    breakOn({ kind: 'condition', condition: watched(runner, 'M[0xF0] = 4') }),
    breakOn({ kind: 'condition', condition: watched(runner, 'A / (A - A) = 1') }, { id: 2 }),
  ];
  expect([go(runner)?.kind, register(runner, 'A'), runner.state.control.inputs]).toEqual(['breakpoint', 3, 1]);
  expect(runner.breaks.hitsOf(2)).toBe(0);
});

test.each([
  ['ACX = 1', /no “ACX”\. Did you mean ACC\?/],
  ['ACC = ', /is expected|expects|Write|value/],
  ['', /^Write a condition/],
  ['x'.repeat(300), /at most 200/],
  ['M', /has no value by itself/],
  ['ACC = 700', /does not fit/],
])('the condition %j is refused with a sentence', (text, words) => {
  expect(refusalOf(readWatched(curlew, undefined, text))).toMatch(words);
});

test('a run to a line, and until a condition holds', () => {
  const runner = runnerFor('again INC\n CMP #9\n JUMPNZ again\n HALT');
  expect(told(runner, go(runner, { kind: 'address', address: 5 }))).toBe('Reached line 4.');
  const other = runnerFor('again INC\n JUMP again');
  expect(told(other, go(other, { kind: 'condition', condition: watched(other, 'ACC = 200') }))).toBe('ACC = 200 holds; next is line 2.');
});

test('what is on a port and what a device shows can be asked, as a goal, a breakpoint and of the past', () => {
  const text = demoMachines.find((each) => each.name === 'Dunlin')!.text;
  const dunlin = machineFrom(text.replace('faults:\n', 'faults:\n  empty port: ignore\n'));
  const source = 'OUT 5\n OUT 2\n LOAD #3\n OUT 5\n OUT 2\n HALT';
  const made = (): Runner => new Runner(dunlin, programFrom(dunlin, source));
  const asks: [string, number][] = [
    ['PORT[5] = 3', 4],
    ['lamps = 3', 5],
    ['PORT[2] = 3', 5],
    ['(PORT[5] = 3) & (lamps = 0)', 4],
    ['lamps.red = 1', 5],
    ['PORT[1] = 0', 0],
    ['switches = 0', 0],
  ];
  for (const [text, instructions] of asks) {
    const runner = made();
    const condition = watched(runner, text);
    runner.begin({ kind: 'condition', condition });
    if (instructions > 0)
      expect([runner.run(1000)?.kind, runner.state.control.instructions, text]).toEqual(['reached', instructions, text]);
    const other = made();
    other.breakpoints = [breakOn({ kind: 'condition', condition })];
    other.begin();
    if (instructions > 0)
      expect([other.run(1000)?.kind, other.state.control.instructions, text]).toEqual(['breakpoint', instructions, text]);
    const past = made();
    past.begin();
    expect(past.run(1000)?.kind).toBe('halted');
    const tick = found(past.timeline.searchForward({ kind: 'condition', condition }, -1));
    past.timeline.travel(tick!);
    expect([past.state.control.instructions, text]).toEqual([instructions, text]);
  }
});

test.each([
  ['PORT[16] = 0', 'There is no PORT[16]: there are the ports 0 to 15.'],
  ['PORT = 3', 'PORT is a row of ports and has no value by itself.'],
  ['CALLS = 3', /This machine has no “CALLS”/],
  ['cause = 1', /cause/],
])('%s is nothing that a condition can ask, and is refused', (text, sentence) => {
  expect(refusalOf(readWatched(machineNamed('Dunlin'), undefined, text))).toMatch(sentence);
});

test.each<[string, string, RegExp]>([
  ['stop', 'fault', /^Stopped: the program's text ended at 0x03, line 2, and the run went on into empty cells\. Is a halt missing\?$/],
  [
    'end',
    'halted',
    /^Ended after 2 instructions, 8 ticks: the program's text ended at 0x03, line 2, and the run went on into empty cells\.$/,
  ],
  ['ignore', 'fault', /^Stopped: 0x00 at 0x04 is no instruction/],
])('a forgotten halt, where executing an empty cell means %s', (choice, kind, sentence) => {
  const machine = machineFrom(smallMachine({ parts: `faults: {executing an empty cell: ${choice}}` }));
  for (const longest of [false, true]) {
    const runner = new Runner(machine, programFrom(machine, 'PUT 1\nPUT 2'));
    runner.begin();
    const stop = longest ? runner.run(100_000) : (runner.runTick(), go(runner));
    expect([stop?.kind, runner.state.control.instructions]).toEqual([kind, 2]);
    expect(told(runner, stop)).toMatch(sentence);
    if (choice === 'ignore') continue;
    // What a hand has put there is no empty cell.
    runner.timeline.edit({ kind: 'cell', space: 0, address: 4, value: 1, mark: 3 });
    expect(go(runner)?.kind).toBe('halted');
    expect(told(runner, { kind: 'halted' })).toMatch(/^Halted after 3 instructions/);
  }
});

test('a jump into nothing is told as such, and every demo machine stops at a forgotten halt', () => {
  const runner = runnerFor('JUMP 0x80');
  expect(told(runner, go(runner))).toBe(
    'Stopped: 0x80 holds nothing: no program lies there, and nothing has been written there. Is a halt missing?',
  );
  for (const { name, text } of demoMachines)
    expect([name, machineFrom(text).faults['executing an empty cell']]).toEqual([name, { kind: 'stop' }]);
});

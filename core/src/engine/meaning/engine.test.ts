import fc from 'fast-check';
import { breakAt, curlew, curlewText, lateCounterText, machineFrom, programText, runnerFor } from '../../testing/demo';
import { narrate } from '../tell/narrate';
import type { Runner, Stop } from '../control/runner';
import { explainStop } from '../tell/explainStop';
import { explainFlag } from '../tell/why';
import { copyState, NEVER, BY_RUN, LOADED } from './state';

const registers = (runner: Runner): Record<string, number> =>
  Object.fromEntries(runner.machine.registers.map((each, at) => [each.name, runner.state.registers[at]!]));
const flags = (runner: Runner): string => runner.machine.flags.map((each, at) => `${each.name}${runner.state.flags[at]}`).join(' ');
const finish = (runner: Runner): Stop | undefined => runner.run(1_000_000, { first: true });
const sentence = (runner: Runner): string =>
  narrate(runner, runner.timeline.last!, 'done')
    .map((each) => each.text)
    .join('');
const stopSentence = (runner: Runner, stop: Stop | undefined): string => explainStop(runner, stop!);

test('every tick of ADD moves what its line says', () => {
  const runner = runnerFor(programText('quay-watch'));
  runner.instruction();
  const seen = Array.from({ length: 8 }, () => {
    runner.tick();
    const { PC, MAR, MDR, IR, ACC } = registers(runner);
    return [runner.timeline.last!.text || 'decode', PC, MAR, MDR, IR, ACC];
  });
  expect(seen).toEqual([
    ['MAR <- PC', 2, 2, 0x9e, 0x1240, 0x9e],
    ['IR.op <- M[MAR], PC <- PC + 1', 3, 2, 0x9e, 0x3340, 0x9e],
    ['decode', 3, 2, 0x9e, 0x3340, 0x9e],
    ['MAR <- PC', 3, 3, 0x9e, 0x3340, 0x9e],
    ['IR.low <- M[MAR], PC <- PC + 1', 4, 3, 0x9e, 0x3341, 0x9e],
    ['MAR <- address', 4, 0x41, 0x9e, 0x3341, 0x9e],
    ['MDR <- M[MAR]', 4, 0x41, 0x2b, 0x3341, 0x9e],
    ['ACC <- ACC + MDR ; flags Z N C V H P', 4, 0x41, 0x2b, 0x3341, 0xc9],
  ]);
  expect(flags(runner)).toBe('Z0 N1 C0 V0 H1 P1');
});

test('a tick reports its transfers with source, target, value and path', () => {
  const runner = runnerFor('LOAD #5\nADD level\nHALT\nlevel .cells 3');
  runner.instruction();
  const reports = Array.from({ length: 8 }, () => (runner.tick(), runner.timeline.last!));
  expect(reports[0]!.transfers).toMatchObject([
    { path: 'address', route: 'straight', value: 2, sources: [{ value: 2, place: { kind: 'register', register: 0 } }] },
  ]);
  expect(reports[1]!.transfers).toMatchObject([
    { path: 'data', route: 'straight', value: 0x33, sources: [{ place: { kind: 'cell', address: 2 } }], addressed: [{ value: 2 }] },
    { path: 'address', route: 'count', before: 2, value: 3 },
  ]);
  expect(reports[7]).toMatchObject({
    step: 8,
    total: 8,
    transfers: [{ route: 'alu', before: 5, value: 8, worked: { operator: '+', a: 5, b: 3, exact: 8 } }],
    flags: [0, 1, 2, 3, 4, 5].map((flag) => ({ flag, after: 0 })),
  });
});

test.each<[string, number[], string, string]>([
  ['quay-watch', [], '', 'Halted after 8 instructions, 50 ticks.'],
  ['highest-water', [120, 158, 90, 0], 'level? level? level? level? highest: 158\n', 'Halted after'],
  ['over-the-sill', [], '37\n0\n128\n', 'Halted after'],
  ['mean-level', [], '161\n', 'Halted after'],
])('the demo program %s does what it says', (name, inputs, output, words) => {
  const runner = runnerFor(programText(name), inputs);
  const stop = finish(runner);
  expect(runner.state.control.output).toBe(output);
  expect(stopSentence(runner, stop)).toContain(words);
});

test.each<[string, string]>([
  ['LOAD #0x50\nADD #0x50\nHALT', 'Z0 N1 C0 V1 H0 P1'],
  ['LOAD #0xFF\nADD #1\nHALT', 'Z1 N0 C1 V0 H1 P1'],
  ['LOAD #3\nSUB #5\nHALT', 'Z0 N1 C1 V0 H1 P0'],
  ['LOAD #0x80\nCMP #1\nHALT', 'Z0 N0 C0 V1 H1 P0'],
  ['LOAD #0xC0\nSHL\nHALT', 'Z0 N1 C1 V0 H0 P0'],
  ['LOAD #0x40\nSHL\nHALT', 'Z0 N1 C0 V1 H0 P0'],
  ['LOAD #1\nSHR\nHALT', 'Z1 N0 C1 V0 H0 P1'],
  ['LOAD #0x81\nROTR\nROTR\nHALT', 'Z0 N1 C0 V0 H0 P1'],
  ['LOAD #0x80\nSHRS\nNEG\nHALT', 'Z0 N0 C1 V0 H0 P0'],
  ['LOAD #0xFF\nADD #1\nADDC #0x7F\nHALT', 'Z0 N1 C0 V1 H1 P0'],
  ['LOAD #0xFF\nADD #1\nAND #0x80\nHALT', 'Z1 N0 C1 V0 H1 P1'],
])('sets flags after %j', (source, expected) => {
  const runner = runnerFor(source);
  finish(runner);
  expect(flags(runner)).toBe(expected);
});

test('the stock flag rules agree with plain arithmetic for all pairs of 8-bit operands', () => {
  const { work, flagAfter } = jest.requireActual<typeof import('./arithmetic')>('./arithmetic');
  const signed = (value: number): number => (value << 24) >> 24;
  let checked = 0;
  for (let a = 0; a < 256; a++) {
    for (let b = 0; b < 256; b++) {
      for (const sign of [1, -1] as const) {
        const worked = work(sign === 1 ? '+' : '-', { a, b, width: 8, radix: 2 });
        const exact = a + sign * b;
        const fits = signed(a) + sign * signed(b) === signed(exact & 255);
        const expected = [exact & 255, (exact & 255) === 0, (exact & 128) !== 0, exact < 0 || exact > 255, !fits];
        const found = [
          worked.result,
          ...(['zero', 'negative', 'carry', 'overflow'] as const).map(
            (rule) => flagAfter({ rule, noBorrow: false, into: 4, odd: false }, worked) === 1,
          ),
        ];
        if (expected.join() === found.join()) checked++;
      }
    }
  }
  expect(checked).toBe(2 * 65_536);
});

test('a parallel transfer never sees its own writes', () => {
  const swap = machineFrom(curlewText.replace('ACC <- ACC << 1 ; flags Z N C V P', 'ACC <- MDR, MDR <- ACC'));
  const runner = runnerFor('LOAD a\nLOAD #9\nSHL\nHALT\na .cells 4', [], swap);
  finish(runner);
  expect(registers(runner)).toMatchObject({ ACC: 4, MDR: 9 });
});

test('a read with nothing queued waits: nothing is written and nothing is counted', () => {
  const runner = runnerFor('TRAP askLevel\nTRAP showNumber\nHALT');
  expect(finish(runner)).toMatchObject({ kind: 'waiting' });
  const before = copyState(runner.state);
  const stop = runner.tick();
  expect(stopSentence(runner, stop)).toBe('The trap askLevel waits for a number, which will go to ACC.');
  expect(runner.state).toEqual(before);
  runner.timeline.queueInput([77]);
  expect(finish(runner)).toEqual({ kind: 'halted' });
  expect(runner.state.control.output).toBe('77\n');
});

test.each<[string, RegExp]>([
  ['LOAD #1\nwords .cells 0x7F', /0x7F at 0x02 is no instruction. The run walked into the data of line 2/],
  ['LOAD #1', /the program's text ended at 0x01, line 1/],
  ['JUMP x+1\nx LOAD #0x7F\nHALT', /It is the middle of the instruction on line 2/],
  ['TRAP 9', /asks for service 0x09.*It has: 0x01 askLevel/],
])('%j ends in a sentence', (source, words) => {
  const runner = runnerFor(source);
  const before = runner.ticks;
  const stop = finish(runner);
  expect(stop!.kind).toBe('fault');
  expect(stopSentence(runner, stop)).toMatch(words);
  expect(runner.ticks).toBeGreaterThan(before);
});

test('a text without an end mark is a fault and not a hang', () => {
  const source = `TRAP showText\nHALT\n${'.cells 1,1,1,1,1,1,1,1\n'.repeat(31)}.cells 1,1,1,1,1`;
  const runner = runnerFor(source);
  expect(stopSentence(runner, finish(runner))).toMatch(/no end mark/);
});

test('forward and back is the identity at every tick', () => {
  const runner = runnerFor(programText('highest-water'), [120, 158, 0]);
  const states = [copyState(runner.state)];
  while (!runner.tick()) states.push(copyState(runner.state));
  for (let at = runner.ticks - 1; at >= 0; at--) {
    expect(runner.timeline.back()).toBe(true);
    if (at < states.length) expect(runner.state).toEqual(states[at]);
  }
  expect(runner.timeline.back()).toBe(false);
});

test('one instruction back goes to the beginning of the one under way, then of the one before', () => {
  const runner = runnerFor(programText('quay-watch'));
  runner.instruction();
  runner.tick();
  runner.tick();
  const ticks = [
    runner.timeline.instructionBack() && runner.ticks,
    runner.timeline.instructionBack() && runner.ticks,
    runner.timeline.instructionBack(),
  ];
  expect(ticks).toEqual([8, 0, false]);
});

test('travel over a long fast run gives the same states as stepping through it', () => {
  const source = 'LOAD #0\nloop ADD #1\nSTORE 0x80\nJUMP loop';
  const runner = runnerFor(source);
  const reference = runnerFor(source);
  for (let slice = 0; slice < 30; slice++) runner.run(20_000, { first: slice === 0 });
  expect(runner.ticks).toBe(600_000);
  for (const target of [12_345, 599_999, 3, 400_001, 400_000, 250_000]) {
    runner.timeline.travel(target);
    reference.timeline.travel(0);
    const plain = runnerFor(source);
    plain.run(target, { first: true });
    expect(runner.state).toEqual(plain.state);
  }
  runner.timeline.travel(300_000);
  runner.timeline.back();
  expect(runner.ticks).toBe(299_999);
});

test('after a fast run the tick just done can be recalled, shown and undone', () => {
  const runner = runnerFor('loop ADD #1\nJUMP loop');
  runner.run(100_000, { first: true });
  expect(runner.timeline.last).toBeUndefined();
  const before = copyState(runner.state);
  runner.timeline.recall();
  expect(runner.state).toEqual(before);
  expect(runner.timeline.last).toMatchObject({ tick: 100_000 });
  expect(runner.timeline.back()).toBe(true);
});

test('a breakpoint stops before its instruction, and is left without being hit again', () => {
  const runner = runnerFor('loop ADD #1\nJUMP loop');
  runner.breakpoints = [breakAt(2)];
  const stop = runner.run(1000, { first: true });
  expect(stopSentence(runner, stop)).toBe('Paused at the breakpoint on line 2, before JUMP loop.');
  expect(runner.ticks).toBe(6);
  expect(runner.run(1000, { first: true })).toMatchObject({ kind: 'breakpoint', address: 2 });
  expect(runner.ticks).toBe(18);
});

test('after a fast run to a breakpoint the run stands there, not where it last stood still', () => {
  const runner = runnerFor('LOAD #0\nagain ADD #1\nJUMP again');
  runner.breakpoints = [breakAt(2)];
  runner.instruction();
  for (let round = 1; round <= 3; round++) {
    expect(runner.run(10_000, { first: true })).toMatchObject({ kind: 'breakpoint', address: 2 });
    runner.timeline.recall();
    expect([runner.ticks, registers(runner).ACC]).toEqual([6 + 12 * round, round]);
    expect(runner.timeline.last).toMatchObject({ tick: runner.ticks });
  }
});

test('an input that is taken out of the queue after going back is gone from the new future', () => {
  const runner = runnerFor(programText('highest-water'), [120, 158, 0]);
  finish(runner);
  runner.timeline.travel(0);
  expect(runner.timeline.removeInput(1)).toBe(true);
  finish(runner);
  expect(runner.state.control.output).toContain('highest: 120');
});

test('each cell knows whether it was loaded, written by the run, or never written', () => {
  const runner = runnerFor(programText('quay-watch'));
  finish(runner);
  const marks = runner.state.marks[0]!;
  expect([marks[0], marks[0x40], marks[0x42], marks[0x50]]).toEqual([LOADED, LOADED, BY_RUN, NEVER]);
});

test('loading another program keeps the cells that its image does not fill', () => {
  const first = runnerFor('LOAD #9\nSTORE 0x80\nHALT');
  finish(first);
  const { Runner: Again } = jest.requireActual<typeof import('../control/runner')>('../control/runner');
  const second = new Again(curlew, runnerFor('HALT').program, { keep: first.state });
  expect([second.state.spaces[0]![0x80], second.state.spaces[0]![0]]).toEqual([9, 0x0f]);
});

test('PC moves at the end when the cycle says so, and programs still mean the same', () => {
  const late = machineFrom(lateCounterText);
  const runner = runnerFor(programText('over-the-sill'), [], late);
  const counters = Array.from({ length: 7 }, () => (runner.tick(), registers(runner).PC));
  expect(counters).toEqual([0, 0, 0, 0, 0, 0, 0]);
  runner.tick();
  runner.tick();
  expect(registers(runner).PC).toBe(2);
  finish(runner);
  expect(runner.state.control.output).toBe('37\n0\n128\n');
});

test('a tick tells in words who gave, who received, and which flags changed', () => {
  const runner = runnerFor(programText('quay-watch'));
  runner.instruction();
  runner.instruction();
  expect(sentence(runner)).toBe(
    'The ALU adds 2B in MDR to 9E in ACC. ACC becomes C9, it was 9E. H became 1, P became 1; unchanged: Z 0, N 1, C 0, V 0.',
  );
  runner.timeline.back();
  expect(sentence(runner)).toBe('2B from rise went to MDR, replacing 9E.');
});

test('before a branch executes, the coming tick says what will happen and why', () => {
  const runner = runnerFor('LOAD #1\nJUMPZ end\nend HALT');
  runner.instruction();
  for (let tick = 0; tick < 5; tick++) runner.tick();
  const { report } = runner.timeline.preview()!;
  expect(
    narrate(runner, report, 'coming')
      .map((each) => each.text)
      .join(''),
  ).toBe('Falls through, because Z is 0.');
  expect(runner.ticks).toBe(11);
});

test('a flag tells which instruction set it, and shows the columns', () => {
  const runner = runnerFor('LOAD #0x9E\nADD #0x2B\nJUMP next\nnext HALT');
  finish(runner);
  runner.timeline.recall();
  const reason = explainFlag(runner, 1, runner.timeline.whyFlag(1));
  expect(reason.sentence).toBe('N = 1: set by ADD #0x2B at 0x02, tick 12. The top bit is 1: read as signed, −55.');
  expect(reason.columns.map((each) => `${each.sign.trim()}|${each.binary}|${each.shown}`)).toEqual([
    '| 111 11  |carries',
    '|1001 1110|9E',
    '+|0010 1011|2B',
    '|1100 1001|C9',
  ]);
});

test('a flag set long ago in a fast run still tells why', () => {
  const runner = runnerFor('LOAD #0xFF\nADD #1\nloop JUMP loop');
  for (let slice = 0; slice < 20; slice++) runner.run(50_000, { first: slice === 0 });
  expect(explainFlag(runner, 2, runner.timeline.whyFlag(2)).sentence).toContain('tick 12. A one was carried out of the top');
});

test('random memory never crashes the engine, and equal runs give equal states', () => {
  const runs = Number(process.env.ZETTAK_RUNS ?? 60);
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 1, maxLength: 120 }),
      fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 5 }),
      (cells, inputs) => {
        const source = `.start 0\n.cells ${cells.join(', ')}`;
        const fast = runnerFor(source, inputs);
        const slow = runnerFor(source, inputs);
        const stop = fast.run(3000, { first: true });
        while (slow.ticks < 3000 && !slow.tick());
        expect(slow.state).toEqual(fast.state);
        if (stop) expect(stopSentence(fast, stop).length).toBeGreaterThan(10);
      },
    ),
    { numRuns: runs },
  );
});

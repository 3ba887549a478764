import fc from 'fast-check';
import { machineNamed, curlew, machineFrom, programFrom, runnerFor } from '../../testing/demo';
import { assertSeen } from '../../testing/draws';
import { drawnMachine } from '../../testing/generated';
import { smallMachine } from '../../testing/small';
import { Runner } from './runner';
import { readScript } from '../timeline/script';
import { copyState } from '../meaning/state';
import { go, told, register, small, closed, KEYS, POLL } from '../../testing/runs';

const numRuns = Number(process.env.ZETTAK_RUNS ?? 10);

const gannet = machineNamed('Gannet');

test('a run that can only repeat itself is ended with its loop', () => {
  const runner = closed(runnerFor('start LOAD #3\nagain CMP #3\n JUMPZ again\n HALT'));
  const stop = go(runner);
  expect(stop).toMatchObject({ kind: 'never halts', loop: { instructions: 2, ticks: 12, addresses: [2, 4], polled: [] } });
  expect(told(runner, stop)).toBe(
    'Never halts: the whole state repeats every 2 instructions (12 ticks), from 0x02 to 0x04 (line 2 to line 3). Nothing in this loop changes what it decides by.',
  );
});

test('a loop that counts in memory is no repetition before the count comes round', () => {
  const runner = closed(runnerFor('again LOAD n\n INC\n STORE n\n JUMP again\nn .cells 0'));
  runner.begin();
  expect(runner.run(5000)).toBeUndefined();
  expect(runner.run(100_000)).toMatchObject({ kind: 'never halts', loop: { instructions: 1024 } });
});

test('a wait on a device that will never be ready is told with its polls; a person can end it on the bench', () => {
  const waits = closed(small({ parts: KEYS, ticks: POLL }, 'ASK\nUNTIL\nHALT'));
  const stop = go(waits);
  expect(told(waits, stop)).toMatch(
    /^Never halts: waiting on keys, \d+ polls\. Nothing will change it any more; the loop goes from 0x00 to 0x01/,
  );
  const bench = small({ parts: KEYS, ticks: POLL }, 'ASK\nUNTIL\nHALT');
  bench.begin();
  expect(bench.run(1000)).toBeUndefined();
  expect(bench.changeable(bench.loop!)).toEqual([0]);
  bench.timeline.queueInput([65]);
  expect(bench.loop).toBeUndefined();
  expect(go(bench)?.kind).toBe('halted');
});

test.each([
  ['reads', 'lock is not ready until 50 reads, then ready', 'LOCK', 50],
  ['a tick', 'lock is not ready until tick 400, then as it is', 'LOCK', 60],
  ['values', 'lock.open is 0 until 30 reads, then 1', 'VALUE', 30],
])('a device that is ready after %s is no endless wait, and its polls are counted', (_, script, asked, polls) => {
  const runner = closed(small({ parts: KEYS, ticks: POLL }, `${asked}\nUNTIL\nHALT`, script));
  runner.count();
  expect(go(runner)?.kind).toBe('halted');
  const { busy, ready, reads } = runner.counts!.polls[1]!;
  expect(busy + reads).toBeGreaterThanOrEqual(polls);
  expect(busy + ready + reads).toBe(runner.counts!.executions.get(0));
});

test('a plan for ever, and one that waits for a hand, end a closed run; the hand ends the wait', () => {
  const never = closed(small({ parts: KEYS, ticks: POLL }, 'LOCK\nUNTIL\nHALT', 'lock is not ready for ever'));
  expect(told(never, go(never))).toMatch(/waiting on lock, \d+ polls/);
  const hand = small({ parts: KEYS, ticks: POLL }, 'LOCK\nUNTIL\nHALT', 'lock is not ready until a hand, then ready');
  hand.begin();
  hand.run(500);
  expect(hand.changeable(hand.loop!)).toEqual([1]);
  hand.timeline.release(1);
  expect(go(hand)?.kind).toBe('halted');
  hand.timeline.travel(500);
  expect(hand.state.control.halted).toBe(false);
  hand.timeline.travel(hand.timeline.furthest);
  expect(hand.state.control.halted).toBe(true);
});

test('a keyboard that is held ready uses up nothing while nothing is queued: inputs that come later are all there', () => {
  const parts = KEYS.replace('ready: 7}', 'ready: 7, clears: no}');
  const ticks = { TAKE: 'M[0xF1] <- A', ASK: 'A <- M[0xF0]', KEEP: 'M[0xE0] <- A' };
  const script = 'keys is ready for ever\nat 40: input 7 8 9';
  const runner = small({ parts, ticks }, 'TAKE\nTAKE\nASK\nGO 2', script);
  runner.run(100, { first: true });
  expect(runner.state.control).toMatchObject({ inputs: 0, queue: [7, 8, 9] });
  expect(register(runner, 'A')).toBe(7);
  const endless = closed(small({ parts, ticks }, 'TAKE\nGO 0', 'keys is ready for ever'));
  expect(go(endless)?.kind).toBe('never halts');
});

test('a running timer is no repetition', () => {
  const runner = closed(small({ parts: KEYS, ticks: POLL }, 'GO 2\nTIME\nUNTIL\nHALT'));
  expect(go(runner)?.kind).toBe('never halts');
  const timed = closed(small({ parts: KEYS, ticks: { ...POLL, UNTIL: 'if A = 0: PC <- 3' } }, 'PUT 200\nSET\nTIME\nUNTIL\nHALT'));
  expect(go(timed)?.kind).toBe('halted');
});

test('without the proof the end of the budget names the loop; else where the run was last at work', () => {
  const runner = runnerFor('again CMP #1\n JUMP again');
  runner.begin();
  runner.run(1000);
  expect(told(runner, runner.spent())).toMatch(
    /^Stopped after 1,000 ticks.*The whole state repeats every 2 instructions, from 0x00 to 0x02/,
  );
  const counting = runnerFor('again INC\n STORE n\n JUMP again\nn .cells 0');
  counting.begin();
  counting.run(300);
  expect(told(counting, counting.spent())).toMatch(/It was last at work from 0x00 to 0x03 \(line 1 to line 3\)\.$/);
});

/** A state of a drawn machine as one text: registers, flags and cells. */
const bytes = (list: Uint8Array | Uint32Array): string => Buffer.from(list.buffer, list.byteOffset, list.byteLength).toString('latin1');
const wholeState = ({ state }: Runner): string => bytes(state.registers) + bytes(state.flags) + bytes(state.spaces[0]!);

function randomProgram(text: string, seed: number): Runner {
  const machine = machineFrom(text);
  const runner = new Runner(machine, programFrom(machine, 'STOP'));
  let x = seed | 1;
  const { width } = machine.spaces[0]!;
  const opcodes = machine.forms.map((each) => each.fixed[0]!.value);
  for (let address = 0; address < Math.min(40, runner.state.spaces[0]!.length); address++) {
    x = (Math.imul(x, 1_664_525) + 1_013_904_223) >>> 0;
    runner.state.spaces[0]![address] = address % 2 === 0 ? opcodes[(x >>> 8) % opcodes.length]! : (x >>> 8) % Math.min(16, 2 ** width);
  }
  return runner;
}

test('never halts is said exactly where an earlier whole state comes again: checked by keeping them all', () => {
  let accused = 0;
  assertSeen(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const runner = closed(randomProgram(text, seed));
      const brute = randomProgram(text, seed);
      const seen = new Set<string>();
      let truth: 'halts' | 'repeats' | 'open' = 'open';
      for (let boundary = 0; boundary < 600 && truth === 'open'; boundary++) {
        const key = wholeState(brute);
        if (seen.has(key)) truth = 'repeats';
        seen.add(key);
        if (truth === 'open' && brute.instruction()) truth = 'halts';
      }
      runner.begin();
      const stop = runner.run(60_000);
      if (truth === 'halts') expect(stop?.kind).toMatch(/^(halted|fault)$/);
      if (truth === 'repeats') expect(stop?.kind).toBe('never halts');
      if (stop?.kind !== 'never halts') return;
      accused++;
      const before = wholeState(runner);
      for (let tick = 0; tick < stop.loop.ticks; tick++) expect(runner.tick()).toBeUndefined();
      expect(wholeState(runner)).toBe(before);
    }),
    () => accused > 0,
    { numRuns: numRuns * 4 },
  );
});

/** Of what a script gives: the moment it comes, at any tick; a line of switches, readiness, keys, a hand on a register. */
const moments = fc.array(
  fc.oneof(
    fc.tuple(
      fc.constant('at'),
      fc.integer({ min: 1, max: 400 }),
      fc.constantFrom(
        'input "L"',
        'input "AB"',
        'lock = 1',
        'lock = 2',
        'lock is not ready',
        'keys is ready',
        'A = 1',
        'Z = 1',
        'M[0x20] = 3',
      ),
    ),
    fc.tuple(
      fc.constant('plan'),
      fc.integer({ min: 1, max: 400 }),
      fc.constantFrom('lock is not ready', 'lock.open is 1', 'keys is not ready', 'clock is not ready'),
    ),
  ),
  { maxLength: 5 },
);

function scriptFrom(drawn: readonly (readonly [string, number, string])[]): string {
  const planned = (text: string, tick: number): string => {
    const until = tick % 3 === 0 ? `${1 + (tick % 40)} reads` : tick % 3 === 1 ? 'a key' : `tick ${tick}`;
    return `${text} until ${until}, then ${text.includes('.') ? '0' : 'as it is'}`;
  };
  return drawn.map(([kind, tick, text]) => (kind === 'at' ? `at ${tick}: ${text}` : planned(text, tick))).join('\n');
}

/** Every way of waiting: for keys, a line, a timer; taking a key; a service that reads. */
const WAITING_TICKS = {
  ...POLL,
  TAKE: 'B <- M[0xF0]',
  KEEP: 'M[0x20] <- A',
  LOOK: 'A <- M[0x20]',
  FLAG: 'if Z = 1: PC <- 2',
  SHUT: 'if A = 2: PC <- 4',
  SET: 'M[0xF4] <- A',
  SHOW: 'A <- A + 1 ; flags Z',
};

test('never halts is never said while a script has something to give, and is said when it can only go round', () => {
  const machine = machineFrom(smallMachine({ parts: `${KEYS}\nflags: {Z: {rule: zero}}`, ticks: WAITING_TICKS }));
  const words = [...Object.keys(WAITING_TICKS), 'PUT 1', 'PUT 7', 'PUTB 2', 'GO 0', 'GO 3', 'HALT'];
  const seen = { accused: 0, halted: 0, late: 0 };
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom(...words), { minLength: 2, maxLength: 10 }),
      moments,
      fc.constantFrom(2, 37, 3000),
      (lines, drawn, closely) => {
        const program = programFrom(machine, `${lines.join('\n')}\nHALT`);
        const { script, problems } = readScript(machine, program, scriptFrom(drawn));
        expect(problems).toEqual([]);
        const made = (): Runner => new Runner(machine, program, script);
        const runner = closed(made());
        runner.options = { ...runner.options, closely };
        runner.begin();
        const stop = runner.run(400_000);
        const free = made();
        const end = free.run(20_000, { first: true });
        // Whatever the proof said, the run without it is the truth.
        if (stop?.kind === 'never halts') {
          seen.accused++;
          expect(end).toBeUndefined();
          expect(free.state.control.output).toBe(runner.state.control.output);
          if (runner.ticks > 20 && drawn.some(([, tick]) => tick > 20 && tick < runner.ticks)) seen.late++;
        } else if (stop || closely === 3000) expect(end?.kind).toBe(stop?.kind);
        if (end?.kind === 'halted') seen.halted++;
        // Looked at seldom, it may take longer to see; a long round that is looked at closely only at first, too.
        if (end === undefined && closely === 3000) expect((stop ?? runner.run(250_000_000))?.kind).toBe('never halts');
      },
    ),
    { numRuns: numRuns * 4 },
  );
  for (const each of Object.values(seen)) expect(each).toBeGreaterThan(0);
});

test('a script’s input that comes late is waited for at every tick, polled or asked for by a service', () => {
  const program = programFrom(gannet, 'TRAP awaitKey\n TRAP sayLetter\n HALT');
  for (let tick = 1; tick <= 160; tick++) {
    const { script } = readScript(gannet, program, `at ${tick}: input "L"`);
    const runner = closed(new Runner(gannet, program, script));
    runner.begin();
    expect([runner.run(10_000)?.kind, runner.state.control.output]).toEqual(['halted', 'L']);
  }
  const asks = programFrom(curlew, ' TRAP askLevel\n HALT');
  for (const tick of [1, 3, 9, 115]) {
    const { script } = readScript(curlew, asks, `at ${tick}: input 7`);
    const runner = closed(new Runner(curlew, asks, script));
    runner.begin();
    expect(runner.run(10_000)?.kind).toBe('halted');
    expect([register(runner, 'ACC'), runner.ticks > tick]).toEqual([7, true]);
    const end = copyState(runner.state);
    while (runner.ticks > 0) runner.timeline.back();
    while (!runner.tick());
    expect([runner.state.registers, runner.ticks]).toEqual([end.registers, end.control.ticks]);
  }
});

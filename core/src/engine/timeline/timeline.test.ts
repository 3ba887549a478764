import fc from 'fast-check';
import { demoProgram, machineNamed, programFrom, programText } from '../../testing/demo';
import { Runner } from '../control/runner';
import { readScript, writeScript } from './script';
import { copyState, type State } from '../meaning/state';

const numRuns = Math.ceil(Number(process.env.ZETTAK_RUNS ?? 30) / 2);
const [curlew, gannet] = [machineNamed('Curlew'), machineNamed('Gannet')];
const log = programFrom(gannet, demoProgram('harbour log'));

/** What hands may do to a run, at random moments. */
const hand = fc.oneof(
  fc.record({ kind: fc.constant('key' as const), value: fc.constantFrom(46, 65, 98) }),
  fc.record({ kind: fc.constant('register' as const), register: fc.integer({ min: 5, max: 12 }), value: fc.nat(65_535) }),
  fc.record({ kind: fc.constant('cell' as const), address: fc.integer({ min: 0x200, max: 0x220 }), value: fc.nat(65_535) }),
  fc.record({ kind: fc.constant('flag' as const), flag: fc.nat(3), value: fc.nat(1) }),
  fc.record({ kind: fc.constant('lamps' as const), value: fc.nat(15) }),
  fc.record({ kind: fc.constant('release' as const), value: fc.constant(0) }),
);
const journey = fc.array(fc.record({ ticks: fc.integer({ min: 1, max: 400 }), does: hand }), { minLength: 1, maxLength: 6 });

const PLANS =
  'keys is not ready until 12 reads, then as it is\ndisplay is not ready until a hand, then as it is\nlamps.gate is 0 until tick 300, then 1\nat 150: input 0x42\nat 900: input 0x43 0x44';
const SCRIPTED = [0x42, 0x43, 0x44];

function travelled(): Runner {
  return new Runner(gannet, log, readScript(gannet, log, PLANS).script);
}

function act(runner: Runner, { does }: { does: typeof hand extends fc.Arbitrary<infer T> ? T : never }): void {
  if (does.kind === 'key') runner.timeline.queueInput([does.value]);
  else if (does.kind === 'register' && !gannet.registers[does.register]!.zero)
    runner.timeline.edit({ kind: 'register', register: does.register, value: does.value });
  else if (does.kind === 'cell') runner.timeline.edit({ kind: 'cell', space: 0, address: does.address, value: does.value, mark: 3 });
  else if (does.kind === 'flag') runner.timeline.edit({ kind: 'flag', flag: does.flag, value: does.value });
  else if (does.kind === 'release') runner.timeline.release(1);
}

const same = (one: State, other: State): void => {
  const { control: a, spaces: cellsOfOne, marks: marksOfOne, ...restOfOne } = one;
  const { control: b, spaces: cellsOfOther, marks: marksOfOther, ...restOfOther } = other;
  expect(restOfOne).toEqual(restOfOther);
  expect({ ...a, schedule: a.schedule.length, form: a.form?.index }).toEqual({ ...b, schedule: b.schedule.length, form: b.form?.index });
  for (const [x, y] of [
    [cellsOfOne, cellsOfOther],
    [marksOfOne, marksOfOther],
  ] as const)
    x.forEach((each, at) => expect(Buffer.from(each).equals(Buffer.from(y[at]!))).toBe(true));
};

test('a run with hands in it, gone through back and forth, is the same at every place', () => {
  fc.assert(
    fc.property(journey, (steps) => {
      const runner = travelled();
      const seen: State[] = [];
      for (const step of steps) {
        runner.begin();
        runner.run(step.ticks);
        act(runner, step);
        seen.push(copyState(runner.state));
      }
      const end = runner.ticks;
      for (const state of seen.toReversed()) {
        runner.timeline.travel(state.control.ticks);
        if (seen.filter((each) => each.control.ticks === state.control.ticks).at(-1) === state) same(runner.state, state);
      }
      runner.timeline.travel(end);
      same(runner.state, seen.at(-1)!);
    }),
    { numRuns },
  );
});

/** Runs on, goes back by some ticks, and acts there; a hand's keys in order. */
function wander(runner: Runner, steps: readonly (Parameters<typeof act>[1] & { ticks: number; back: number })[]): void {
  for (const step of steps) {
    runner.begin();
    runner.run(step.ticks);
    runner.timeline.travel(Math.max(0, runner.ticks - step.back));
    act(runner, step);
  }
}

const wandering = fc.array(
  fc.record({ ticks: fc.integer({ min: 1, max: 400 }), does: hand, back: fc.oneof(fc.constant(0), fc.integer({ min: 1, max: 600 })) }),
  { minLength: 1, maxLength: 8 },
);

test('inputs of hands and of the script are neither lost nor given twice, wherever hands act', () => {
  fc.assert(
    fc.property(wandering, (steps) => {
      const runner = travelled();
      wander(runner, steps);
      const typed = steps.flatMap(({ does }) => (does.kind === 'key' ? [does.value] : []));
      expect([...runner.timeline.handed].sort()).toEqual(typed.toSorted());
      runner.begin();
      runner.run(1000);
      if (runner.ticks > 900) expect([...runner.state.control.queue].sort()).toEqual([...typed, ...SCRIPTED].sort());
    }),
    { numRuns },
  );
});

test('a run with hands in it replays from its script, tick for tick', () => {
  fc.assert(
    fc.property(wandering, (steps) => {
      const runner = travelled();
      wander(runner, steps);
      const { plans } = runner.state;
      const text = writeScript(gannet, { inputs: runner.timeline.firstInputs, plans, devices: [], edits: runner.timeline.script });
      const again = new Runner(gannet, log, readScript(gannet, log, text).script);
      again.timeline.reach(runner.ticks);
      expect([...again.state.registers, ...again.state.flags, ...again.state.latches, again.state.control.output, again.ticks]).toEqual([
        ...[...runner.state.registers, ...runner.state.flags, ...runner.state.latches, runner.state.control.output, runner.ticks],
      ]);
      expect([...again.state.spaces[0]!.subarray(0, 0x300)]).toEqual([...runner.state.spaces[0]!.subarray(0, 0x300)]);
    }),
    { numRuns },
  );
});

test('every tick back is the state before it, with edits between the ticks', () => {
  const runner = new Runner(curlew, programFrom(curlew, programText('quay-watch')));
  const states = [copyState(runner.state)];
  for (let tick = 1; tick <= 40; tick++) {
    runner.tick();
    if (tick % 7 === 0) runner.timeline.edit({ kind: 'cell', space: 0, address: 0x80 + tick, value: tick, mark: 3 });
    if (tick % 11 === 0) runner.timeline.edit({ kind: 'flag', flag: tick % 6, value: 1 });
    states.push(copyState(runner.state));
  }
  for (let tick = 39; tick >= 0; tick--) {
    runner.timeline.back();
    // An edit belongs to the tick that it came after, and is undone with it.
    same(runner.state, states[tick]!);
  }
});

test('reaching a tick without stopping on the way gives the state of stepping there; beyond the end it stays there', () => {
  const [one, other] = [0, 1].map(() => new Runner(curlew, programFrom(curlew, programText('mean-level'))));
  one!.timeline.reach(200);
  while (other!.ticks < 200) other!.tick();
  same(one!.state, other!.state);
  one!.timeline.reach(1_000_000);
  expect(one!.state.control.halted).toBe(true);
  expect(one!.timeline.last!.halted).toBe(true);
});

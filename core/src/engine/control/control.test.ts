import { assemble } from '../../assembler/assemble';
import { machineNamed, breakAt, CALLS, curlew, demoProgram, programFrom, runnerFor } from '../../testing/demo';
import { found } from '../timeline/search';
import { explainRemark } from '../tell/explainRemark';
import { Runner } from './runner';
import { copyState } from '../meaning/state';
import { underWay } from '../tell/explainStop';
import { go, told, register, watched, placed, small, KEYS, POLL } from '../../testing/runs';

const gannet = machineNamed('Gannet');

/** Line 2 of the program and line 2 of the part are different lines. */
const PARTED = {
  source: ' CALL twice\n LOAD #1\n HALT\n.include "doubling"',
  part: '.routine twice\n SHL\n STORE box\n LOAD lost\n RET\n.end\nbox .cells 0\nlost .room 1',
};

test('lines of a part are told as lines of the part, in stops, remarks and steps', () => {
  const { program } = assemble(curlew, PARTED.source, { parts: new Map([['doubling', PARTED.part]]) });
  const runner = new Runner(curlew, program!);
  runner.instruction();
  const inside = runner.state.registers[curlew.programCounter]!;
  runner.timeline.toStart();
  runner.breakpoints = [breakAt(inside)];
  expect(told(runner, go(runner))).toBe('Paused at the breakpoint on line 2 of the part “doubling”, before SHL.');
  expect(told(runner, go(runner, runner.overGoal()))).toBe('Stepped over; next is line 3 of the part “doubling”.');
  expect(told(runner, go(runner))).toMatch(/^Halted/);
  expect(runner.runRemarks.map((each) => explainRemark(runner, each))).toEqual([
    expect.stringMatching(/^Line 4 of the part “doubling”, LOAD lost at 0x\w\w: read lost, which nothing has ever written\.$/),
  ]);
});

test('over does a call as one step, out leaves the routine, and both say where they stand', () => {
  const runner = runnerFor(CALLS);
  expect(told(runner, go(runner, runner.overGoal()))).toBe('Stepped over; next is line 2.');
  expect([runner.state.control.callStack, register(runner, 'ACC')]).toEqual([undefined, 8]);
  runner.timeline.toStart();
  runner.instruction();
  runner.instruction();
  expect(runner.state.control.callStack).toMatchObject({ depth: 2, target: 11, parent: { depth: 1, target: 7 } });
  const goal = runner.outGoal()!;
  expect(underWay(runner, goal)).toBe(' until inner returns to line 6');
  expect(told(runner, go(runner, goal))).toBe('Returned from inner; next is line 6.');
  expect(told(runner, go(runner, runner.overGoal()))).toBe('Stepped over; next is line 7.');
  expect(told(runner, go(runner, runner.outGoal()))).toBe('Returned from outer; next is line 2.');
  expect(runner.outGoal()).toBeUndefined();
});

test('over from the middle of a call goes to the end of the call', () => {
  const runner = runnerFor(CALLS);
  while (!runner.state.control.callStack) runner.tick();
  runner.timeline.back();
  expect(told(runner, go(runner, runner.overGoal()))).toBe('Stepped over; next is line 2.');
});

test('a breakpoint inside a routine stops the step over it; the step can be finished', () => {
  const runner = runnerFor(CALLS);
  runner.breakpoints = [breakAt(11)];
  const goal = runner.overGoal();
  expect(told(runner, go(runner, goal))).toBe('Paused at the breakpoint on line 8, before LOAD #7.');
  expect(told(runner, go(runner, goal))).toBe('Stepped over; next is line 2.');
});

test('recursion is stepped over whole', () => {
  const source = 'start LOAD #5\n CALL down\n HALT\ndown DEC\n JUMPZ end\n CALL down\nend RET';
  const runner = runnerFor(source);
  runner.instruction();
  expect(told(runner, go(runner, runner.overGoal()))).toBe('Stepped over; next is line 3.');
  expect(register(runner, 'ACC')).toBe(0);
});

test('traps through a table are stepped into and out of; a built-in service has no routine', () => {
  const runner = new Runner(gannet, programFrom(gannet, demoProgram('harbour log')), {
    inputs: [...'hi.'].map((each) => each.charCodeAt(0)),
  });
  runner.instruction();
  runner.instruction();
  expect(runner.state.control.callStack).toMatchObject({ kind: 'trap', depth: 1 });
  expect(told(runner, go(runner, runner.outGoal()))).toMatch(/^Returned from system\.\w+; next is line 6\.$/);
  expect(runner.state.control.output).toBe('log: ');
  const builtIn = runnerFor('LOAD #1\nTRAP showNumber\nHALT');
  builtIn.instruction();
  builtIn.instruction();
  expect(builtIn.state.control.callStack).toBeUndefined();
});

test('a jump out of a routine leaves it in the chain until a return goes past it; a return to nowhere breaks the chain', () => {
  const out = runnerFor('start CALL a\n HALT\na CALL b\n HALT\nb POP\n RET');
  go(out);
  expect(out.state.control).toMatchObject({ callStack: undefined, callStackBroken: false, halted: true });
  const broken = runnerFor('start LOAD #6\n PUSH\n RET\n HALT\n HALT\n HALT');
  go(broken);
  expect(broken.state.control.callStackBroken).toBe(true);
});

test('recursion without end keeps the chain within bounds', () => {
  const runner = small({ ticks: { DEEPER: 'PC <- 0, call next' } }, 'DEEPER');
  runner.options = { ...runner.options, endless: 'stop' };
  runner.begin();
  expect(runner.run(200_000)).toBeUndefined();
  expect(runner.state.control.callStack!.depth).toBe(10_000);
  expect(runner.state.control.beyond).toBeGreaterThan(50_000);
});

test('a step to the end of the phase', () => {
  const runner = runnerFor('LOAD #5\nHALT');
  const phases = Array.from({ length: 4 }, () => (runner.phase(), runner.machine.phases[runner.timeline.last!.phase]));
  expect(phases).toEqual(['Fetch', 'Decode', 'Fetch', 'Execute']);
});

test('when a cell was last written, when a condition held first and next: over far and near past', () => {
  const runner = runnerFor('again LOAD n\n INC\n STORE n\n CMP #100\n JUMPNZ again\nrest CMP #0\n JUMPNZ rest\nn .cells 0');
  runner.begin();
  for (let slice = 0; slice < 10; slice++) runner.run(20_000);
  const n = (placed(runner, 'n') as { address: number }).address;
  const written = { kind: 'write', place: { kind: 'cell', space: 0, address: n } } as const;
  const last = found(runner.timeline.searchBack(written))!;
  runner.timeline.travel(last);
  expect([runner.state.spaces[0]![n], runner.timeline.last!.transfers[0]!.target]).toMatchObject([100, { kind: 'cell', address: n }]);
  expect(found(runner.timeline.searchBack(written, last - 1))).toBe(last - 31);
  const isTen = { kind: 'condition', condition: watched(runner, `M[${n}] = 10`) } as const;
  const first = found(runner.timeline.searchForward(isTen))!;
  const next = found(runner.timeline.searchForward(isTen, first))!;
  runner.timeline.travel(first);
  expect([runner.state.spaces[0]![n], runner.timeline.instructionBack(), runner.state.spaces[0]![n]]).toEqual([10, true, 9]);
  expect(next - first).toBeLessThan(10);
  expect(found(runner.timeline.searchBack(isTen, first - 1))).toBeUndefined();
  expect(found(runner.timeline.searchBack({ kind: 'condition', condition: watched(runner, '1') }, 0))).toBe(0);
});

test('an input that came late comes at the same tick again, and goes back to the queue in another future', () => {
  const runner = small({ parts: KEYS, ticks: POLL }, 'ASK\nUNTIL\nHALT');
  runner.begin();
  runner.run(5000);
  runner.timeline.queueInput([65]);
  expect(go(runner)?.kind).toBe('halted');
  const end = runner.ticks;
  const state = copyState(runner.state);
  runner.timeline.travel(10);
  expect(runner.state.control.queue).toEqual([]);
  expect(runner.timeline.inputs).toEqual([65]);
  go(runner);
  expect(runner.ticks).toBe(end);
  expect(runner.state).toEqual(state);
  runner.timeline.travel(10);
  runner.timeline.edit({ kind: 'register', register: 3, value: 1 });
  expect(runner.state.control.queue).toEqual([65]);
  go(runner);
  expect(runner.ticks).toBeLessThan(40);
});

test('flags and registers edited by hand are events of the run', () => {
  const runner = runnerFor('again INC\n JUMPC out\n JUMP again\nout HALT');
  for (let tick = 0; tick < 30; tick++) runner.tick();
  runner.timeline.edit({ kind: 'flag', flag: 2, value: 1 });
  go(runner);
  const { ticks } = runner;
  runner.timeline.toStart();
  go(runner);
  expect(runner.ticks).toBe(ticks);
  expect(runner.timeline.script).toEqual([{ kind: 'flag', flag: 2, value: 1, tick: 30, scripted: false }]);
});

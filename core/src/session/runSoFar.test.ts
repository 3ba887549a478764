import { curlewText, demoProgram, machineNamed, demoMachines } from '../testing/demo';
import { picker } from '../testing/executors';
import { CALLED, CAME_BACK, FROM_OUTSIDE, STOPPED, TOOK, WROTE } from './runSoFar';
import { Session } from './session';

const scheduler = { now: () => 0, later: (_: number, act: () => void) => (act(), () => {}) };

/** A session whose run has gone so far, all at once. */
function ran(
  machineText: string,
  source: string,
  { inputs = [], ticks = 10_000_000 }: { inputs?: number[]; ticks?: number } = {},
): Session {
  const session = new Session(scheduler);
  expect(session.useMachine(machineText).problems.filter((each) => each.grade === 'error')).toEqual([]);
  session.load(source, { clear: true, inputs });
  const { runner } = session.run.current!;
  runner.begin();
  runner.run(ticks);
  runner.timeline.recall();
  return session;
}

/** Two loops in each other: long, and each round changes something. */
const LONG = `start LOAD #0
more INC
 STORE kept
 JUMPNZ more
 LOAD rounds
 INC
 STORE rounds
 JUMPNZ start
 LOAD third
 INC
 STORE third
 JUMP start
kept .room 1
rounds .cells 0
third .cells 0`;

test('where a breakpoint has stopped the run is marked, and a new run has no such marks', async () => {
  const session = new Session(scheduler);
  session.useMachine(curlewText);
  session.load(demoProgram('quay watch'), { clear: true, inputs: [] });
  session.run.setBreakpoints([{ id: 1, kind: 'line', line: 8, text: '', enabled: true, ignore: 0, print: '' }]);
  session.run.setSpeed('full');
  session.run.command('run');
  const stopped = session.run.current!.runner.ticks;
  expect(stopped).toBe(16);
  session.run.command('run');
  const strip = (await session.soFar.strip(0, 1_000, 1_000))!;
  expect([...strip.marks].flatMap((each, at) => (each & STOPPED ? [at + 1] : []))).toEqual([stopped]);
  session.load(demoProgram('quay watch'), { clear: true, inputs: [] });
  session.run.setBreakpoints([]);
  session.run.command('run');
  expect([...(await session.soFar.strip(0, 1_000, 1_000))!.marks].some((each) => each & STOPPED)).toBe(false);
});

test('a row an instruction: where, what it changed and why, to the end of the run', () => {
  const session = ran(curlewText, demoProgram('quay watch'));
  const rows = session.soFar.rows(0, 100);
  expect(session.soFar.count()).toBe(8);
  expect(rows.map((each) => [each.instruction, each.address, each.line, each.text])).toEqual([
    [1, '0x00', 6, 'LOAD level'],
    [2, '0x02', 7, 'ADD rise'],
    [3, '0x04', 8, 'STORE later'],
    [4, '0x06', 9, 'CMP #quay'],
    [5, '0x08', 10, 'SUB #quay'],
    [6, '0x0A', 11, 'STORE over'],
    [7, '0x0C', 12, 'SHR'],
    [8, '0x0D', 13, 'HALT'],
  ]);
  expect(rows[1]).toMatchObject({ tick: 16, changed: 'ACC C9 · N H P', why: expect.stringContaining('ACC') });
  expect(rows.at(-1)!.tick).toBe(session.run.current!.runner.ticks);
  expect(session.soFar.rows(6, 1).map((each) => each.text)).toEqual(['SHR']);
  expect(session.soFar.rows(8, 5)).toEqual([]);
});

test('rows from anywhere in a long run are those that going there instruction by instruction gives', () => {
  const session = ran(curlewText, LONG, { ticks: 3_000_000 });
  const { runner } = session.run.current!;
  const all = session.soFar.count();
  expect(all).toBeGreaterThan(400_000);
  const pick = picker(5);
  for (let turn = 0; turn < 6; turn++) {
    const first = pick(all - 10);
    const rows = session.soFar.rows(first, 4);
    expect(rows).toHaveLength(4);
    runner.timeline.travel(rows[0]!.tick);
    expect([runner.state.control.step, runner.state.control.instructions]).toEqual([0, first + 1]);
    expect(rows.map((each) => each.instruction)).toEqual([first + 1, first + 2, first + 3, first + 4]);
  }
});

test('the strip tells families and phases tick by tick where there is room, with names', async () => {
  const session = ran(curlewText, demoProgram('quay watch'));
  const strip = (await session.soFar.strip(0, Infinity, 1000))!;
  expect([strip.from, strip.to, strip.forms.length]).toEqual([0, 50, 50]);
  expect(strip.names.map((each) => each.tick)).toEqual([0, 8, 16, 23, 29, 35, 42, 46]);
  const machine = machineNamed('curlew');
  const mnemonics = [...strip.forms].map((each) => machine.forms[each]!.mnemonic);
  expect(mnemonics.slice(6, 18)).toEqual(['LOAD', 'LOAD', ...Array(8).fill('ADD'), 'STORE', 'STORE']);
  expect([...strip.phases.slice(8, 16)]).toEqual([0, 0, 1, 0, 0, 2, 2, 2]);
});

test('the strip marks output, input, calls and what came from outside, at every zoom', async () => {
  const gannet = demoMachines.find((each) => each.name === 'Gannet')!.text;
  const session = ran(gannet, demoProgram('harbour log'), { inputs: [111, 46] });
  const { runner } = session.run.current!;
  const has = (marks: Uint8Array, bit: number): boolean => marks.some((each) => (each & bit) !== 0);
  for (const columns of [5, 50, 5000]) {
    const { marks } = (await session.soFar.strip(0, Infinity, columns))!;
    expect([WROTE, TOOK].map((each) => has(marks, each))).toEqual([true, true]);
  }
  const fine = (await session.soFar.strip(0, Infinity, 4000))!;
  expect([CALLED, CAME_BACK].map((each) => has(fine.marks, each))).toEqual([true, true]);
  expect(has(fine.marks, FROM_OUTSIDE)).toBe(false);
  runner.timeline.travel(100);
  runner.timeline.edit({ kind: 'register', register: 3, value: 1 });
  runner.begin();
  runner.run(100_000);
  const later = (await session.soFar.strip(50, 150, 100))!;
  // The column that ends with tick 100.
  expect([...later.marks.entries()].filter(([, each]) => each & FROM_OUTSIDE).map(([column]) => column)).toEqual([49]);
});

test('what stands in a column is what stands there tick by tick, in a long run too', async () => {
  const session = ran(curlewText, LONG, { ticks: 3_000_000 });
  const strip = (await session.soFar.strip(0, Infinity, 300))!;
  const { runner } = session.run.current!;
  for (const column of [3, 150, 299]) {
    runner.timeline.travel(Math.round(((column + 1) * strip.to) / 300));
    expect(strip.forms[column]).toBe(runner.state.control.form?.index ?? -1);
  }
  expect(await new Session(scheduler).soFar.strip(0, 10, 10)).toBeUndefined();
});

test('each character of the output knows who wrote it, wherever the run stands', () => {
  const session = ran(curlewText, demoProgram('over the sill'));
  const { runner } = session.run.current!;
  const { output } = runner.state.control;
  expect(output).toBe('37\n0\n128\n');
  const tickOf = (at: number) => session.soFar.wrote(at)!.tick;
  expect([tickOf(0), tickOf(2)]).toEqual([tickOf(1), tickOf(1)]);
  expect(tickOf(3)).toBeGreaterThan(tickOf(2));
  expect(session.soFar.wrote(5)!.sentence).toMatch(/^Written by TRAP showNumber on line 18, tick \d+\.$/);
  expect(session.soFar.wrote(output.length)).toBeUndefined();
  runner.timeline.travel(tickOf(3));
  expect(session.soFar.wrote(3)!.tick).toBe(runner.ticks);
  expect(session.soFar.wrote(5)).toBeUndefined();
});

import { curlewText, demoProgram } from '../testing/demo';
import type { TrialRow } from '../trials/judge/row';
import { emptySet, NO_SETS, type SetTable, type TrialSet } from '../trials/sets/table';
import { CALLED_OFF, hashOf, keyOfSet, TrialBench, type Reached } from './trialBench';

/** Every look at the clock takes 5 ms, and messages come between slices of their own accord. */
function trialBench(source: string): TrialBench {
  let now = 0;
  const bench = new TrialBench({
    now: () => (now += 5),
    later: (_, act) => {
      const timer = setImmediate(act);
      return () => clearImmediate(timer);
    },
  });
  expect(bench.use({ text: curlewText, bases: {}, parts: {}, baseTexts: {} } as never).problems).toEqual([]);
  bench.take(source);
  return bench;
}

const entries = (list: Readonly<Record<string, string>>) => Object.entries(list).map(([place, text]) => ({ place, text }));
const set = (name: string, given: Readonly<Record<string, string>>, expected: Readonly<Record<string, string>> = {}): TrialSet => ({
  ...{ ...emptySet(name), given: entries(given), expected: entries(expected) },
});
const tableOf = (...sets: TrialSet[]): SetTable => ({ ...NO_SETS, base: 16, sets });
const nothing = (): void => undefined;
const quay = demoProgram('quay watch');
const two = tableOf(set('calm', { level: '3B', rise: '2C' }, { later: '67' }), set('storm', { level: 'C0', rise: '90' }, { later: '51' }));

it('tells what a program is to whoever chooses places in it: what it asks for first, and nothing of one with errors', () => {
  const bench = trialBench(quay);
  const { facts, problems } = bench.take(quay);
  expect(problems.filter((each) => each.grade === 'error')).toEqual([]);
  expect(facts?.places.slice(0, 2)).toEqual(['level', 'rise']);
  expect(facts?.places).toEqual(expect.arrayContaining(['ACC', 'C']));
  expect(new Set(facts?.places).size).toBe(facts?.places.length);
  expect(bench.take('LAOD 3')).toMatchObject({ facts: undefined, problems: [{ line: 1 }] });
  expect(bench.check(two)).toEqual([[], []]);
  expect(bench.column('ACC', 16)).toEqual({ wrong: 'The program has errors.' });
});

it('says how an entry is read in the base of the table, and what is wrong with one', () => {
  const bench = trialBench(quay);
  expect(bench.reading('given', 'level', '21', 16)).toEqual({ says: '0x21 = 33. In decimal it would be 21.', wrong: false });
  expect(bench.reading('given', 'level', '1FF', 16).wrong).toBe(true);
  expect(bench.reading('given', 'level', '21 -1', 16)).toEqual({
    says: '2 values, up to M[0x41]: 0x21 = 33 (in decimal it would be 21); 0xFF = 255',
    wrong: false,
  });
  expect(bench.reading('expected', 'later', '21, any', 16)).toMatchObject({ says: expect.stringMatching(/; any$/), wrong: false });
  expect(bench.reading('given', 'levle', '1', 16)).toMatchObject({ wrong: true, says: expect.stringMatching(/level/) as string });
  expect(bench.reading('given', 'level', '  ', 16)).toEqual({ says: '', wrong: false });
  expect(bench.column('level', 16)).toEqual({ width: 8, kind: 'place' });
  expect(bench.column('nowhere', 16)).toHaveProperty('wrong');
  expect(bench.check(tableOf(set('a', { level: 'zz' }), set('b', { level: '1' }))).map((each) => each.length)).toEqual([1, 0]);
});

it('runs the sets that are asked for, in their order, slice by slice; the next thing calls the one before off', async () => {
  const bench = trialBench(quay);
  const told: (readonly TrialRow[])[] = [];
  const heard: number[] = [];
  const rows = (made: readonly TrialRow[], done: number): void => {
    told.push(made);
    heard.push(done);
  };
  await expect(bench.run(two, [1, 0], rows)).resolves.toBe('done');
  expect(told.flat().map((each) => [each.name, each.verdict])).toEqual([
    ['storm', 'differs'],
    ['calm', 'holds'],
  ]);
  expect(heard.at(-1)).toBe(2);
  expect(heard).toEqual(heard.toSorted((a, b) => a - b));
  const many = tableOf(...Array.from({ length: 200 }, (_, at) => set(`set ${at}`, { level: String(at % 90) })));
  const all = many.sets.map((_, at) => at);
  const first = bench.run(many, all, nothing);
  const second = bench.run(two, [0], nothing);
  await expect(Promise.all([first, second])).resolves.toEqual([CALLED_OFF, 'done']);
  const third = bench.run(many, all, nothing);
  bench.callOff();
  await expect(third).resolves.toBe(CALLED_OFF);
});

it('runs a set on another text of the program, and one row with everything', async () => {
  const bench = trialBench(quay);
  const told: TrialRow[] = [];
  await bench.run(two, [0], (made) => void told.push(...made), quay.replace('ADD   rise', 'SUB   rise'));
  expect(told[0]).toMatchObject({ name: 'calm', verdict: 'differs' });
  expect(bench.row(two, 0)?.flags.find((each) => each.by !== undefined)?.by).toMatch(/, line \d+/);
  expect(bench.row(two, 7)).toBeUndefined();
});

it('looks for what no set has tried, says which sets it could not run or not look at to their end, and proposes one', async () => {
  const long = trialBench(
    'start LOAD #0\nmore INC\n JUMPNZ more\n LOAD turns\n ADD #1\n STORE turns\n JUMPNZ start\n HALT\nturns .cells 0',
  );
  const reached = (await long.reached(
    { ...tableOf(set('on', {}), set('off', { ACC: 'x' })), mostTicks: 900_000 },
    [0, 1],
    nothing,
  )) as Reached;
  expect(reached).toMatchObject({ cut: ['on'], left: ['off'], mostLooked: 500_000 });
  const bench = trialBench(quay);
  const parts: number[] = [];
  const found = (await bench.reached(two, [0, 1], (part) => void parts.push(part))) as Reached;
  expect(found).toMatchObject({ cut: [], left: [] });
  expect(parts.every((each) => each > 0 && each < 1)).toBe(true);
  const target = found.untried.flatMap((each) => each.targets)[0]!;
  const proposed = await bench.propose(two, target, nothing);
  expect(proposed).toHaveProperty('set');
});

it('says where two sets part, and why it cannot', async () => {
  const bench = trialBench(quay);
  await expect(bench.part(two, 0, { set: 1 }, nothing)).resolves.toMatchObject({
    sentence: expect.stringMatching(/other|different|same/i) as string,
  });
  await expect(bench.part(two, 0, { set: 0 }, nothing)).resolves.toMatchObject({ parts: false });
  await expect(bench.part(two, 0, { set: 0, source: 'LAOD' }, nothing)).resolves.toEqual({ wrong: 'The other program has errors.' });
  await expect(bench.part(two, 0, { set: 9 }, nothing)).resolves.toHaveProperty('wrong');
});

it('gives the run of a set as a file, at its end or at a tick, and its first instructions for a sheet', () => {
  const bench = trialBench(quay);
  const file = (tick?: number): { ticks?: number } =>
    JSON.parse((bench.fileFor(two, 0, tick) as { text: string }).text) as { ticks?: number };
  expect(JSON.stringify(file(3))).not.toBe(JSON.stringify(file()));
  expect(bench.fileFor(tableOf(set('x', { level: 'zz' })), 0, undefined)).toHaveProperty('wrong');
  const { columns, rows, more } = bench.trace(two, 0);
  expect(columns).toContain('ACC');
  expect(rows[0]?.text).toMatch(/^LOAD/);
  expect(more).toBe(false);
  expect(bench.flow()).toBeDefined();
});

it('keys tell texts and sets apart, and names of sets do not count', () => {
  expect(hashOf('a')).toMatch(/^[0-9a-f]{16}$/);
  expect(hashOf('a')).not.toBe(hashOf('b'));
  const one = set('a', { level: '1' });
  expect(keyOfSet({ ...one, name: 'b', purpose: 'else' })).toBe(keyOfSet(one));
  expect(keyOfSet(set('a', { level: '2' }))).not.toBe(keyOfSet(one));
});

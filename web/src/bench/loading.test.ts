/** What is typed, loaded on the bench: what is told of it, and that it is shown in one go with the run that it makes. */
import 'fake-indexeddb/auto';
import type { View } from '@zettak/core/session/protocol';
import { becomePage, benchOn, demoText, draftDocument, machineDocument, type OnBench } from '../testing/bench';
import { until } from '../testing/page';

jest.mock('../app/tab', () => ({ startTab: () => ({ id: 'this', before: undefined, isAlive: () => true }) }));
jest.mock('../session/engine', () => jest.requireActual<typeof import('../testing/bench')>('../testing/bench').benchEngine());
becomePage();

const bench = {} as OnBench;

beforeAll(async () => {
  const documents = [
    machineDocument('curlew', 'Curlew'),
    draftDocument('program', 'quay-watch', demoText('programs/quay-watch.asm'), 'curlew'),
    draftDocument('program', 'half-done', 'start LOAD #7\n STORE kept\n STOER kept\n HALT\nkept .room 1\n', 'curlew'),
  ];
  Object.assign(bench, await benchOn('loading', documents));
});
beforeEach(async () => {
  await bench.openProgram('quay-watch');
  await until(() => view()?.status === 'ready');
});
afterAll(() => bench.useDocument.getState().draft?.close());

const view = (): View | undefined => bench.useRun.getState().view;
const text = () => bench.useText.getState();
const typed = (source: string): void => bench.useText.setState({ source });

test('a program with mistakes is opened and told at their lines, and nobody is told that it was not loaded', async () => {
  await bench.openProgram('half-done');
  await until(() => view() !== undefined);
  expect(text().listing.problems.find((each) => each.grade === 'error')).toMatchObject({ line: 3 });
  expect({ message: text().message, offersPart: text().offersPart }).toEqual({ message: undefined, offersPart: false });
  expect(view()?.status).toBe('empty');
});

test('whoever loads a text with mistakes is told, with the first of them and their number', async () => {
  typed('start LOAD #7\n STOER kept\n JUMP nowhere\n HALT\n');
  expect(await bench.load({ clear: false })).toBe(false);
  expect(text().message).toMatch(/^Nothing was loaded\. Line 2: .* There are \d+ errors\.$/);
  expect(text().offersPart).toBe(true);
  expect(view()?.status).toBe('ready');
  typed('start HALT\n');
  expect(await bench.load({ clear: false })).toBe(true);
  expect({ message: text().message, offersPart: text().offersPart }).toEqual({ message: undefined, offersPart: false });
});

test('the part before a mistake is loaded where that is asked for, and told as such', async () => {
  typed('start LOAD #7\n INC\n STOER kept\n HALT\n');
  expect(await bench.load({ clear: false, unfinished: true })).toBe(true);
  expect(text().message).toBe('The part before line 3 is loaded. The run stops where something is missing.');
});

test('listing, shape and run of a text come in one go: at no moment is one of another text than the others', async () => {
  const seen: string[] = [];
  const stop = bench.useRun.subscribe(({ view: now, labels }) => {
    const name = [...(labels[0]?.values() ?? [])][0];
    if (now) seen.push(`${text().listed.split(' ')[0]} ${name}`);
  });
  for (const name of ['first', 'second', 'third']) {
    typed(`${name} HALT\n`);
    expect(await bench.load({ clear: true })).toBe(true);
    await until(() => view()?.status === 'ready');
  }
  stop();
  expect(seen.length).toBeGreaterThanOrEqual(3);
  for (const each of seen.filter((one) => /^(first|second|third)/.test(one))) expect(each).toMatch(/^(\w+) \1$/);
});

test('cells of code, room and data are known once they are loaded', async () => {
  typed('start LOAD level\n STORE kept\n HALT\nlevel .cells 9\nkept .room 2\n');
  await bench.load({ clear: true });
  const { rooms, code, labels, dataLabels } = bench.useRun.getState();
  const [level] = [...dataLabels[0]!].filter(([, name]) => name === 'level');
  const [kept] = [...dataLabels[0]!].filter(([, name]) => name === 'kept');
  expect(rooms).toEqual([{ space: 0, from: kept![0], to: kept![0] + 1 }]);
  expect(code.has(0) && !code.has(level![0]) && !code.has(kept![0])).toBe(true);
  expect([...labels[0]!.values()]).toContain('start');
  expect([...dataLabels[0]!.values()]).not.toContain('start');
});

test('every way of starting over ends at tick 0, and only two of them look at what is typed', async () => {
  typed('start LOAD #7\n HALT\n');
  for (const way of ['again', 'data', 'reload', 'clear'] as const) {
    bench.command('tick');
    await until(() => (view()?.ticks ?? 0) > 0);
    await bench.startOver(way);
    await until(() => view()?.ticks === 0);
    expect(text().listed.startsWith('start LOAD #7')).toBe(way === 'reload' || way === 'clear');
  }
});

test('of views that come while an act goes on the newest is shown when it is done, also where the act fails', async () => {
  const shown: number[] = [];
  const stop = bench.useRun.subscribe(({ view: now }) => void shown.push(now?.ticks ?? -1));
  const one = (ticks: number): View => ({ ...view()!, ticks, moved: false });
  await bench.withItsView(async () => {
    bench.takeView(one(5));
    await bench.withItsView(() => Promise.resolve(bench.takeView(one(6))));
    bench.takeView(one(7));
    expect(shown).toEqual([]);
  });
  const failing = bench.withItsView(() => {
    bench.takeView(one(8));
    return Promise.reject(new Error('it went wrong'));
  });
  await expect(failing).rejects.toThrow('it went wrong');
  bench.takeView(one(9));
  stop();
  expect(shown).toEqual([7, 8, 9]);
});

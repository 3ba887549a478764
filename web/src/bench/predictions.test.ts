/** What a class says before a step, judged against a real run. */
import 'fake-indexeddb/auto';
import type { View } from '@zettak/core/session/protocol';
import { becomePage, benchOn, demoText, draftDocument, machineDocument, type OnBench } from '../testing/bench';
import { until } from '../testing/page';

jest.mock('../app/tab', () => ({ startTab: () => ({ id: 'this', before: undefined, isAlive: () => true }) }));
jest.mock('../session/engine', () => jest.requireActual<typeof import('../testing/bench')>('../testing/bench').benchEngine());
becomePage();

const bench = {} as OnBench;
let stopWatching: () => void = () => undefined;

beforeAll(async () => {
  const documents = [
    machineDocument('curlew', 'Curlew'),
    draftDocument('program', 'quay-watch', demoText('programs/quay-watch.asm'), 'curlew'),
    draftDocument('program', 'short', 'start LOAD #7\n HALT\n', 'curlew'),
  ];
  Object.assign(bench, await benchOn('predictions', documents));
  stopWatching = bench.watchPredictions();
});
beforeEach(async () => {
  await bench.openProgram('short');
  await bench.openProgram('quay-watch');
  bench.command('start');
  await until(() => view()?.status === 'ready' && view()?.ticks === 0);
});
afterAll(() => {
  stopWatching();
  bench.useDocument.getState().draft?.close();
});

const view = (): View | undefined => bench.useRun.getState().view;
const all = () => bench.usePredictions.getState();
const idOf = (place: string): number => all().list.find((each) => each.place === place)!.id;
const step = async (): Promise<void> => {
  const { ticks } = view()!;
  bench.command('instruction');
  await until(() => (view()?.ticks ?? 0) > ticks);
};

test('what is said is read at once, in the base of its field, or refused with a reason', async () => {
  bench.addPrediction('ACC');
  await bench.sayOf(idOf('ACC'), '9E', 16);
  expect(all().list[0]).toMatchObject({ place: 'ACC', value: 158, reading: expect.stringMatching(/^is .*158/) as string });
  await bench.sayOf(idOf('ACC'), '9E', 10);
  expect(all().list[0]).toMatchObject({ value: undefined });
  expect(all().list[0]!.reading).not.toMatch(/^is /);
  await bench.sayOf(idOf('ACC'), '  ', 10);
  expect(all().list[0]).toMatchObject({ value: undefined, reading: '' });
});

test('agreement and difference are told after the step, with what came, and counted once', async () => {
  for (const each of ['ACC', 'PC', 'Z']) bench.addPrediction(each);
  bench.addPrediction('ACC');
  expect(all().list.map((each) => each.place)).toEqual(['ACC', 'PC', 'Z']);
  await bench.sayOf(idOf('ACC'), '158', 10);
  await bench.sayOf(idOf('PC'), '1', 10);
  await step();
  await until(() => all().judged.length === 2);
  const found = Object.fromEntries(all().judged.map((each) => [each.place, each]));
  expect(found['ACC']).toMatchObject({ said: '158', right: true, tick: view()!.ticks });
  expect(found['PC']).toMatchObject({ said: '1', right: false, came: expect.stringMatching(/2/) as string });
  expect({ right: all().right, wrong: all().wrong }).toEqual({ right: 1, wrong: 1 });
  // Said once, judged once.
  await step();
  await new Promise((resolve) => setTimeout(resolve, 30));
  expect(all().judged.length).toBe(2);
  expect(all().list.every((each) => each.text === '' && each.value === undefined)).toBe(true);
  bench.countAnew();
  expect({ places: all().list.length, judged: all().judged.length, right: all().right }).toEqual({ places: 3, judged: 0, right: 0 });
});

test('going back judges nothing, and neither does another program', async () => {
  await step();
  await step();
  bench.addPrediction('ACC');
  await bench.sayOf(idOf('ACC'), '1', 10);
  const { ticks } = view()!;
  bench.command('instructionBack');
  await until(() => (view()?.ticks ?? ticks) < ticks);
  await new Promise((resolve) => setTimeout(resolve, 30));
  expect(all().judged).toEqual([]);
  await bench.openProgram('short');
  await until(() => view()?.status === 'ready');
  expect(all()).toMatchObject({ list: [], judged: [], right: 0, wrong: 0 });
});

test('a place that is dropped is not judged; of two entries the later counts', async () => {
  bench.addPrediction('ACC');
  bench.addPrediction('PC');
  await Promise.all([bench.sayOf(idOf('ACC'), '1', 10), bench.sayOf(idOf('ACC'), '158', 10)]);
  expect(all().list.find((each) => each.place === 'ACC')?.value).toBe(158);
  await bench.sayOf(idOf('PC'), '2', 10);
  bench.dropPrediction(idOf('PC'));
  await step();
  await until(() => all().judged.length > 0);
  expect(all().judged.map((each) => each.place)).toEqual(['ACC']);
});

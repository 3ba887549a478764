/** Views as the bench takes them: whole where the run stands still, words and marks now and then while it is quick. */
import 'fake-indexeddb/auto';
import type { View } from '@zettak/core/session/protocol';
import { becomePage, benchOn, demoText, draftDocument, machineDocument, type OnBench } from '../testing/bench';
import { until } from '../testing/page';

jest.mock('../app/tab', () => ({ startTab: () => ({ id: 'this', before: undefined, isAlive: () => true }) }));
jest.mock('../session/engine', () => jest.requireActual<typeof import('../testing/bench')>('../testing/bench').benchEngine());
becomePage();

const bench = {} as OnBench;
const state = () => bench.useRun.getState();
const view = (): View | undefined => state().view;

beforeAll(async () => {
  const documents = [
    machineDocument('curlew', 'Curlew'),
    draftDocument('program', 'quay-watch', demoText('programs/quay-watch.asm'), 'curlew'),
    draftDocument('program', 'endless', 'again INCX\n ADD #3\n JUMP again\n', 'curlew'),
  ];
  Object.assign(bench, await benchOn('run', documents));
});
beforeEach(async () => {
  await bench.openProgram('endless');
  await bench.load({ clear: true });
  await until(() => view()?.status === 'ready');
});
afterEach(async () => {
  bench.command('pause');
  await until(() => view()?.status !== 'running');
});
afterAll(() => bench.useDocument.getState().draft?.close());

/** What the bench shows while it runs at a speed for so many ms: ticks of the picture, of its words and of its marks. */
async function pictures(speed: 'full' | 2, ms: number): Promise<readonly { ticks: number; told: number; marked: number }[]> {
  const seen: { ticks: number; told: number; marked: number }[] = [];
  const stop = bench.useRun.subscribe(({ view: now, told, marked }) => {
    if (now?.status === 'running') seen.push({ ticks: now.ticks, told: told!.ticks, marked: marked!.ticks });
  });
  bench.setSpeed(speed);
  bench.command('run');
  await new Promise((resolve) => setTimeout(resolve, ms));
  stop();
  return seen;
}

test('words and marks of a quick run are of pictures a little while ago, never both new at once', async () => {
  const seen = await pictures('full', 1500);
  bench.command('pause');
  await until(() => view()?.status === 'paused');
  expect(seen.length).toBeGreaterThan(5);
  const later = seen.filter(({ ticks, told, marked }) => told < ticks || marked < ticks);
  expect(later.length).toBeGreaterThan(seen.length / 3);
  for (const { ticks, told, marked } of seen) {
    expect(told).toBeLessThanOrEqual(ticks);
    expect(marked).toBeLessThanOrEqual(ticks);
  }
});

test('where a run stands still everything is of the same view, and so it is behind a pause', async () => {
  for (const each of [state().told, state().marked, state().still]) expect(each).toBe(view());
  await pictures('full', 400);
  bench.command('pause');
  await until(() => view()?.status === 'paused');
  for (const each of [state().told, state().marked, state().still]) expect(each).toBe(view());
  bench.command('tick');
  const before = view()!.ticks;
  await until(() => view()!.ticks === before + 1);
  for (const each of [state().told, state().marked]) expect(each).toBe(view());
});

test('what stands in words is there from the first picture of a run on, also of another program', async () => {
  const missing: string[] = [];
  const stop = bench.useRun.subscribe(({ view: now, told, marked }) => {
    if (now && (!told || !marked)) missing.push(now.status);
  });
  await pictures('full', 250);
  await bench.openProgram('quay-watch');
  await until(() => view()?.status === 'ready');
  await pictures('full', 250);
  stop();
  expect(missing).toEqual([]);
});

test('a run that is given up takes its views with it, and what was held back for later does not come up again', async () => {
  await pictures('full', 250);
  bench.command('pause');
  await until(() => view()?.status === 'paused');
  bench.forgetView();
  expect(state()).toMatchObject({ view: undefined, still: undefined, told: undefined, marked: undefined, motion: undefined });
  await new Promise((resolve) => setTimeout(resolve, 400));
  expect(state().told).toBe(state().view);
});

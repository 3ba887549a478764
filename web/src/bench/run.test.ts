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
    { ...machineDocument('plover', 'Plover'), id: 'draft-machine', versions: [] },
    draftDocument('program', 'of-a-draft', ' HALT\n', 'draft-machine'),
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

/** So many pictures of a run at full speed: ticks of each, of its words and of its marks. How soon they come is the computer's. */
async function pictures(count: number): Promise<readonly { ticks: number; told: number; marked: number }[]> {
  const seen: { ticks: number; told: number; marked: number }[] = [];
  const stop = bench.useRun.subscribe(({ view: now, told, marked }) => {
    if (now?.status === 'running') seen.push({ ticks: now.ticks, told: told!.ticks, marked: marked!.ticks });
  });
  bench.setSpeed('full');
  bench.command('run');
  await until(() => seen.length >= count);
  stop();
  return seen;
}

test('words and marks of a quick run are of this picture or an earlier one, and all are of the last when it pauses', async () => {
  const seen = await pictures(12);
  bench.command('pause');
  await until(() => view()?.status === 'paused');
  for (const { ticks, told, marked } of seen) expect([told <= ticks, marked <= ticks]).toEqual([true, true]);
  expect([state().told, state().marked]).toEqual([view(), view()]);
});

test('a run that is too fast to be described says so, and not that nothing has moved', async () => {
  const words = (): string =>
    view()!
      .lastSentence.map((each) => each.text)
      .join('');
  expect(words()).toBe('The program is loaded. Nothing has moved yet.');
  await pictures(4);
  const quick = words();
  bench.command('pause');
  await until(() => view()?.status === 'paused');
  for (const each of [quick, words()]) expect(each).not.toContain('Nothing has moved');
});

test('stepping a changed text at the start loads it first; later the older program goes on, and a note says so', async () => {
  bench.useText.setState({ source: 'start LOAD #7\n HALT\n' });
  await bench.proceed('instruction');
  await until(() => view()!.ticks > 0);
  expect(view()!.loaded).toBe('start LOAD #7\n HALT\n');
  bench.useText.setState({ source: 'start LOAD #9\n HALT\n' });
  await bench.proceed('tick');
  const { ticks } = view()!;
  expect(bench.useText.getState().note).toMatch(/still holds the older program/);
  await bench.load({ clear: true });
  bench.useText.setState({ source: 'start LAOD #9\n' });
  await until(() => view()!.ticks === 0);
  await bench.proceed('tick');
  expect([ticks > 0, view()!.ticks]).toEqual([true, 0]);
  expect(bench.useText.getState().message).toMatch(/^Nothing was loaded\. Line 1/);
});

test('a program whose machine has no version leaves nothing of the program before on the bench', async () => {
  await bench.openProgram('quay-watch');
  await until(() => view()?.status === 'ready' && state().labels.some((each) => each.size > 0));
  await bench.openProgram('of-a-draft');
  expect(bench.useDocument.getState().failure).toMatch(/has no version yet/);
  expect([view(), state().labels, state().routines]).toEqual([undefined, [], []]);
  await bench.proceed('tick');
  await bench.engine.run.command('tick');
  expect(view()).toBeUndefined();
});

test('the script of one program does not drive the devices of the next', async () => {
  await bench.openProgram('quay-watch');
  expect(await bench.engine.run.setScript('at 3: ACC = 0x20')).toEqual([]);
  await bench.openProgram('endless');
  await until(() => view()?.status === 'ready');
  await bench.engine.startOver('data');
  await bench.engine.run.command('instruction');
  await until(() => view()!.ticks > 0);
  const made = await bench.engine.files.keepRun('');
  expect('text' in made && (JSON.parse(made.text) as { script: string }).script).toBe('');
});

test('where a run stands still everything is of the same view, and so it is behind a pause', async () => {
  for (const each of [state().told, state().marked, state().still]) expect(each).toBe(view());
  await pictures(4);
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
  await pictures(3);
  await bench.openProgram('quay-watch');
  await until(() => view()?.status === 'ready');
  bench.command('run');
  await until(() => view()?.status === 'halted');
  stop();
  expect(missing).toEqual([]);
});

test('a run that is given up takes its views with it, and what was held back for later does not come up again', async () => {
  await pictures(3);
  bench.command('pause');
  await until(() => view()?.status === 'paused');
  bench.forgetView();
  expect(state()).toMatchObject({ view: undefined, still: undefined, told: undefined, marked: undefined, motion: undefined });
  await new Promise((resolve) => setTimeout(resolve, 400));
  expect(state().told).toBe(state().view);
});

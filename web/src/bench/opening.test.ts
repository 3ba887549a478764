/** Programs put on the bench, one after the other, over the engine's side of it and a keeper of documents without a page. */
import 'fake-indexeddb/auto';
import type { View } from '@zettak/core/session/protocol';
import { keepIn, type Client } from '../documents/client';
import { openLessonDocuments } from '../documents/lessonClient';
import { becomePage, demoText, draftDocument, machineDocument } from '../testing/bench';
import { until } from '../testing/page';

jest.mock('../app/tab', () => ({ startTab: () => ({ id: 'this', before: undefined, isAlive: () => true }) }));
jest.mock('../session/engine', () => jest.requireActual<typeof import('../testing/bench')>('../testing/bench').benchEngine());
becomePage();

const program = (id: string, of: string) => draftDocument('program', id, demoText(`programs/${id}.asm`), of);
const documents = [
  machineDocument('curlew', 'Curlew'),
  machineDocument('plover', 'Plover'),
  draftDocument('machine', 'bare', ''),
  program('quay-watch', 'curlew'),
  program('flood-sum', 'plover'),
  draftDocument('program', 'adrift', '; drifting', 'bare'),
];

// Loaded once there is as much of a page as they look at when they begin.
type Bench = typeof import('./opening') & typeof import('./run') & typeof import('./document') & typeof import('./text');
const bench = {} as Bench;
/** ms that the server takes for versions of a machine. */
const slow: Record<string, number> = {};

beforeAll(async () => {
  const { client } = await openLessonDocuments('bench', documents);
  const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
  const hesitant: Client = {
    ...client,
    version: async (kind, id, number) => {
      await wait(slow[id] ?? 0);
      return client.version(kind, id, number);
    },
  };
  keepIn(hesitant);
  Object.assign(bench, await import('./opening'), await import('./run'), await import('./document'), await import('./text'));
});
beforeEach(() => Object.keys(slow).forEach((each) => delete slow[each]));
afterAll(() => bench.useDocument.getState().draft?.close());

const view = (): View | undefined => bench.useRun.getState().view;
const lies = () => ({ program: bench.useDocument.getState().program?.id, machine: bench.useDocument.getState().machineName });

test('a program is opened with its machine, and is ready to run', async () => {
  await bench.openProgram('quay-watch');
  await until(() => view()?.status === 'ready');
  expect(lies()).toEqual({ program: 'quay-watch', machine: 'Curlew' });
  expect(bench.useText.getState().listing.problems).toEqual([]);
  expect(bench.useDocument.getState().help.names.length).toBeGreaterThan(0);
});

test('the one that was opened last is opened where none is named', async () => {
  await bench.openProgram('flood-sum');
  await until(() => view()?.status === 'ready');
  expect(lies()).toEqual({ program: 'flood-sum', machine: 'Plover' });
  await bench.openProgram(undefined);
  expect(lies()).toEqual({ program: 'flood-sum', machine: 'Plover' });
});

test('a run stands where it stood when its program comes back', async () => {
  await bench.openProgram('quay-watch');
  await until(() => view()?.status === 'ready');
  for (let tick = 1; tick <= 3; tick++) {
    bench.command('tick');
    await until(() => view()?.ticks === tick);
  }
  await until(() => sessionStorage.getItem('zettak.run.quay-watch') !== null);
  await bench.openProgram('flood-sum');
  await until(() => view()?.ticks === 0);
  await bench.openProgram('quay-watch');
  await until(() => view()?.ticks === 3);
  bench.command('start');
  await until(() => view()?.ticks === 0);
});

test('of two that are opened one after the other the later lies on the bench, on its machine, however slow the first one’s is', async () => {
  for (const late of [0, 5, 30, 120]) {
    await bench.openProgram('quay-watch');
    slow.curlew = late;
    slow.plover = late / 3;
    await bench.openProgram('flood-sum');
    slow.curlew = late;
    const first = bench.openProgram('quay-watch');
    await until(() => lies().program === 'quay-watch');
    await Promise.all([first, bench.openProgram('flood-sum')]);
    await new Promise((resolve) => setTimeout(resolve, late * 2));
    expect(lies()).toEqual({ program: 'flood-sum', machine: 'Plover' });
    await until(() => view()?.status === 'ready');
    expect(view()?.registers.length).toBe(bench.useDocument.getState().machine?.registers.length);
    expect(bench.useText.getState().source).toBe(demoText('programs/flood-sum.asm'));
  }
});

test('a run that another screen hands over is taken, once', async () => {
  await bench.openProgram('quay-watch');
  bench.command('instruction');
  await until(() => (view()?.ticks ?? 0) > 3 && view()?.status !== 'running');
  const { ticks } = view()!;
  await until(() => sessionStorage.getItem('zettak.run.quay-watch') !== null);
  sessionStorage.setItem('zettak.open.flood-sum', '{"a":');
  await bench.openProgram('flood-sum');
  await until(() => bench.useText.getState().message !== undefined);
  expect(sessionStorage.getItem('zettak.open.flood-sum')).toBeNull();
  sessionStorage.setItem('zettak.open.quay-watch', sessionStorage.getItem('zettak.run.quay-watch')!);
  sessionStorage.removeItem('zettak.run.quay-watch');
  await bench.openProgram('quay-watch');
  await until(() => view()?.ticks === ticks);
  expect(sessionStorage.getItem('zettak.open.quay-watch')).toBeNull();
});

test('a program that is gone, and one whose machine has no version, end in a sentence; the next one is opened as ever', async () => {
  await bench.openProgram('nowhere');
  expect(bench.useDocument.getState().failure).toBe('There is no program “nowhere”. Choose another above.');
  await bench.openProgram('adrift');
  expect(bench.useDocument.getState().failure).toBe('The machine bare has no version yet. Open it under Machines and save one.');
  // Its text is there, and not on the machine of the program before.
  expect(bench.useText.getState().source).toBe('; drifting');
  expect(bench.useDocument.getState().machine).toBeUndefined();
  await bench.openProgram('flood-sum');
  expect(bench.useDocument.getState().failure).toBeUndefined();
  expect(bench.useDocument.getState().machine).toBeDefined();
  await until(() => view()?.status === 'ready');
});

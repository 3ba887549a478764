/** Links to a tick: what one bench gives away, another opens. */
import 'fake-indexeddb/auto';
import type { View } from '@zettak/core/session/protocol';
import { becomePage, benchOn, demoText, draftDocument, machineDocument, type OnBench } from '../testing/bench';
import { until } from '../testing/page';

jest.mock('../app/tab', () => ({ startTab: () => ({ id: 'this', before: undefined, isAlive: () => true }) }));
jest.mock('../session/engine', () => jest.requireActual<typeof import('../testing/bench')>('../testing/bench').benchEngine());
becomePage();

const bench = {} as OnBench;
const replaced: string[] = [];

beforeAll(async () => {
  const documents = [
    machineDocument('curlew', 'Curlew'),
    draftDocument('program', 'quay-watch', demoText('programs/quay-watch.asm'), 'curlew'),
    draftDocument('program', 'other', 'start LOAD #1\n HALT\n', 'curlew'),
  ];
  Object.assign(bench, await benchOn('link', documents));
  history.replaceState = (_state, _title, to) => void replaced.push(String(to));
});
beforeEach(async () => {
  at('/bench', '');
  await bench.openProgram('quay-watch');
  bench.command('start');
  await until(() => view()?.status === 'ready' && view()?.ticks === 0);
  bench.say(undefined);
  replaced.length = 0;
});
afterAll(() => bench.useDocument.getState().draft?.close());

const view = (): View | undefined => bench.useRun.getState().view;
const said = (): string => bench.useText.getState().message ?? '';
const at = (pathname: string, hash: string): void =>
  void Object.assign(location, { pathname, hash, href: `http://localhost${pathname}${hash}` });
const linkAt = async (ticks: number): Promise<string> => {
  for (let tick = view()!.ticks + 1; tick <= ticks; tick++) {
    bench.command('tick');
    await until(() => view()?.ticks === tick);
  }
  at('/bench/quay-watch', '');
  const made = await bench.linkHere('quay-watch');
  if ('refused' in made) throw new Error(made.refused);
  return made.address;
};

test('a link leads to the program and its tick, and stands in the address once', async () => {
  const address = await linkAt(9);
  expect(address).toMatch(/^http:\/\/localhost\/bench\/quay-watch#run=[\w-]+$/);
  bench.command('start');
  await until(() => view()?.ticks === 0);
  at('/bench/quay-watch', address.slice(address.indexOf('#')));
  await bench.followLink();
  await until(() => view()?.ticks === 9);
  expect(replaced).toEqual(['/bench/quay-watch']);
});

test('in a folder of any file server the path stands behind the mark, and so does the link', async () => {
  await linkAt(4);
  at('/lesson/index.html', '#/bench/quay-watch');
  const made = await bench.linkHere('quay-watch');
  expect(made).toEqual({
    address: expect.stringMatching(/^http:\/\/localhost\/lesson\/index\.html#\/bench\/quay-watch\?run=[\w-]+$/) as string,
  });
  bench.command('start');
  await until(() => view()?.ticks === 0);
  const { address } = made as { address: string };
  at('/lesson/index.html', address.slice(address.indexOf('#')));
  await bench.followLink();
  await until(() => view()?.ticks === 4);
  expect(replaced).toEqual(['/lesson/index.html#/bench/quay-watch']);
});

test('a link of another program, a torn one and rubbish end in a sentence, and the run stands where it stood', async () => {
  const address = await linkAt(5);
  const whole = address.slice(address.indexOf('#'));
  for (const hash of [whole.slice(0, -20), '#run=AAAA', '#run=_-_-', `#run=${'x'.repeat(3000)}`]) {
    bench.say(undefined);
    at('/bench/quay-watch', hash);
    await bench.followLink();
    expect(said()).not.toBe('');
    expect(view()?.ticks).toBe(5);
  }
  await bench.openProgram('other');
  await until(() => view()?.status === 'ready' && view()?.ticks === 0);
  at('/bench/other', whole);
  await bench.followLink();
  expect(said()).not.toBe('');
});

test('an address without a link, or with something else behind the mark, does nothing', async () => {
  await linkAt(3);
  for (const hash of ['', '#', '#part-2', '#run=', '#run=!!']) {
    at('/bench/quay-watch', hash);
    await bench.followLink();
  }
  expect({ ticks: view()?.ticks, said: said(), replaced }).toEqual({ ticks: 3, said: '', replaced: [] });
});

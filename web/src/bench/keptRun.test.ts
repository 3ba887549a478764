import type { View } from '@zettak/core/session/protocol';
import { KeptRun } from './keptRun';

jest.mock('../session/engine', () => ({ engine: { files: { keepRun: () => Promise.resolve({ text: 'a run of seven ticks' }) } } }));

const held = new Map<string, string>();
beforeEach(() => {
  held.clear();
  jest.useFakeTimers();
  Object.assign(globalThis, {
    sessionStorage: {
      getItem: (name: string) => held.get(name) ?? null,
      setItem: (name: string, text: string) => void held.set(name, text),
      removeItem: (name: string) => void held.delete(name),
    },
  });
});
afterEach(() => jest.useRealTimers());

const view = (parts: Partial<View>): View => ({ status: 'ready', ticks: 7, inputs: [], handed: [], ...parts }) as View;

/** A run of seven ticks that stood still for long enough. */
async function keptOnce(): Promise<KeptRun> {
  const run = new KeptRun('tide');
  run.keepSoon(view({}));
  await jest.advanceTimersByTimeAsync(500);
  return run;
}

test('a run that stands still is kept; at its start it is forgotten', async () => {
  const run = await keptOnce();
  expect(run.text).toBe('a run of seven ticks');
  run.keepSoon(view({ ticks: 0 }));
  expect(run.text).toBeUndefined();
});

test('a machine without a program, as while a text has an error, does not make a run be forgotten', async () => {
  const run = await keptOnce();
  run.keepSoon(view({ status: 'empty', ticks: 0 }));
  await jest.advanceTimersByTimeAsync(500);
  expect(run.text).toBe('a run of seven ticks');
});

test('nothing is kept under the name of a program that has left the bench', async () => {
  const run = new KeptRun('tide');
  run.keepSoon(view({}));
  run.close();
  await jest.advanceTimersByTimeAsync(500);
  expect(run.text).toBeUndefined();
});

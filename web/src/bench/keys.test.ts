/** Keys of the bench: one table, changed by whoever presses them. */
import type * as KeyTable from './keys';
import type * as LooksOf from './looks';
import type * as Run from './run';

const store = new Map<string, string>();
Object.assign(globalThis, {
  localStorage: { getItem: (key: string) => store.get(key) ?? null, setItem: (key: string, text: string) => void store.set(key, text) },
  matchMedia: () => ({ matches: true }),
});
Object.assign(globalThis, { window: globalThis });

const asked: unknown[][] = [];
jest.mock('../session/engine', () => ({
  engine: new Proxy(
    {},
    {
      get: (_, part) =>
        new Proxy(
          {},
          {
            get:
              (__, name) =>
              (...all: unknown[]) =>
                void asked.push([part, name, ...all]),
          },
        ),
    },
  ),
}));

type Keys = typeof KeyTable & typeof Run & typeof LooksOf;
async function loaded(): Promise<Keys> {
  jest.resetModules();
  return { ...(await import('./keys')), ...(await import('./run')), ...(await import('./looks')) };
}
const pressed = (key: string, shiftKey = false): Pick<KeyboardEvent, 'key' | 'shiftKey'> => ({ key, shiftKey });
const editor = { toggleBreakpoint: () => false } as unknown as Parameters<Keys['KEYS'][number]['act']>[0];

beforeEach(() => {
  store.clear();
  asked.length = 0;
});

test('no two acts are on one key, and each is shown and named', async () => {
  const { KEYS } = await loaded();
  const names = KEYS.map((each) => `${each.shift ? 'shift ' : ''}${each.key}`);
  expect(new Set(names).size).toBe(KEYS.length);
  expect(new Set(KEYS.map((each) => each.shown)).size).toBe(KEYS.length);
  expect(new Set(KEYS.map((each) => each.does)).size).toBe(KEYS.length);
});

test('shift tells arrows and Home apart, and makes no other letter of a sign that needs it', async () => {
  const { actFor } = await loaded();
  expect(actFor(pressed('ArrowRight'))?.does).toBe('to the end of the instruction');
  expect(actFor(pressed('ArrowRight', true))?.does).toBe('over: calls and traps as one step');
  expect(actFor(pressed('+', true))?.does).toBe('faster');
  expect(actFor(pressed('+'))?.does).toBe('faster');
  expect(actFor(pressed('ArrowUp'))).toBeUndefined();
  expect(actFor(pressed('x'))).toBeUndefined();
});

test('another key is put in its place and remembered; the old one does nothing then', async () => {
  const first = await loaded();
  const tick = first.actFor(pressed('.'))!;
  expect(first.changeKey(tick, pressed('PageDown'))).toBeUndefined();
  expect(first.actFor(pressed('.'))).toBeUndefined();
  const second = await loaded();
  expect(second.actFor(pressed('PageDown'))?.does).toBe('one tick');
  const again = second.actFor(pressed('PageDown'))!;
  expect(second.shownKey(again, second.useChangedKeys.getState().changed)).toBe('PageDown');
  expect(second.changeKey(again, pressed('ArrowUp'))).toBeUndefined();
  expect(second.shownKey(again, second.useChangedKeys.getState().changed)).toBe('↑');
  // Back to the one that it comes with: nothing is changed any more.
  expect(second.changeKey(again, pressed('.'))).toBeUndefined();
  expect(second.useChangedKeys.getState().changed).toEqual({});
});

test('a key that is taken, or keeps its own meaning, is refused with what it does', async () => {
  const { actFor, changeKey, useChangedKeys, resetKeys } = await loaded();
  const tick = actFor(pressed('.'))!;
  expect(changeKey(tick, pressed('f'))).toBe('f is taken: to the end of the phase.');
  expect(changeKey(tick, pressed(' '))).toBe('space is taken: run or pause.');
  expect(changeKey(tick, pressed('ArrowLeft', true))).toBe('⇧← is taken: back over calls and traps.');
  expect(changeKey(tick, pressed('Escape'))).toBe('Escape keeps its own meaning.');
  expect(useChangedKeys.getState().changed).toEqual({});
  // The key of an act that has got another one is free.
  expect(changeKey(actFor(pressed('f'))!, pressed('g'))).toBeUndefined();
  expect(changeKey(tick, pressed('f'))).toBeUndefined();
  expect(actFor(pressed('f'))?.does).toBe('one tick');
  resetKeys();
  expect(actFor(pressed('f'))?.does).toBe('to the end of the phase');
});

test.each(['{"a":', '7', '[1]', JSON.stringify({ '.': '', f: 3 })])(
  'rubbish that was kept, %s, leaves the keys as they come',
  async (text) => {
    store.set('zettak.keys', text);
    const { actFor } = await loaded();
    expect(actFor(pressed('.'))?.does).toBe('one tick');
    expect(actFor(pressed('f'))?.does).toBe('to the end of the phase');
  },
);

test('speeds go up and down one by one, and stay where there is no other', async () => {
  const { actFor, useRun } = await loaded();
  const { speed } = useRun.getState();
  actFor(pressed('+'))!.act(editor);
  const faster = useRun.getState().speed;
  expect(faster).not.toBe(speed);
  expect(asked).toEqual([['run', 'setSpeed', faster]]);
  actFor(pressed('-'))!.act(editor);
  expect(useRun.getState().speed).toBe(speed);
  for (let press = 0; press < 20; press++) actFor(pressed('+'))!.act(editor);
  expect(useRun.getState().speed).toBe('full');
  for (let press = 0; press < 20; press++) actFor(pressed('-'))!.act(editor);
  expect(Number(useRun.getState().speed)).toBeLessThan(2);
});

test('commands go to the engine as they are named', async () => {
  const { actFor } = await loaded();
  for (const key of ['.', ',', 'ArrowRight', 'ArrowLeft', 'f', 'o', 'Home']) actFor(pressed(key))!.act(editor);
  expect(asked.map((each) => each[2])).toEqual(['tick', 'back', 'instruction', 'instructionBack', 'phase', 'output', 'start']);
});

test('a key for the room and one for writing turn them on and off', async () => {
  const { actFor, useLooks } = await loaded();
  actFor(pressed('p'))!.act(editor);
  expect(useLooks.getState().projecting).toBe(true);
  actFor(pressed('w'))!.act(editor);
  expect(useLooks.getState()).toMatchObject({ projecting: false, writing: true });
  actFor(pressed('w'))!.act(editor);
  expect(useLooks.getState().writing).toBe(false);
});

import type * as LayoutOf from './layout';
import type * as LooksOf from './looks';

const store = new Map<string, string>();
Object.assign(globalThis, {
  localStorage: { getItem: (key: string) => store.get(key) ?? null, setItem: (key: string, text: string) => void store.set(key, text) },
});
type Layout = typeof LayoutOf;
type Looks = typeof LooksOf;
/** As a page that is loaded anew with what the browser remembers. */
async function loaded(): Promise<Layout & Looks> {
  jest.resetModules();
  return { ...(await import('./layout')), ...(await import('./looks')) };
}
const kept = (name: string): unknown => JSON.parse(store.get(`zettak.${name}`) ?? 'null');

beforeEach(() => store.clear());

test('columns, heights and folds are remembered over a reload', async () => {
  const before = await loaded();
  before.setColumns('watching', [20, 50, 30]);
  before.setColumns('writing', [25, 25, 25, 25]);
  before.setProgramHeights([60, 40]);
  before.setDockHeight('tool', 44);
  before.setFolded(true);
  before.setWraps(true);
  const after = (await loaded()).useLayout.getState();
  expect(after).toMatchObject({
    watching: [20, 50, 30],
    writing: [25, 25, 25, 25],
    program: [60, 40],
    tool: 44,
    folded: true,
    wraps: true,
  });
  expect(after.wake).toBe(before.PLAIN.wake);
});

test('a page that is folded up says no shares, and none are taken', async () => {
  const { setColumns, setDockHeight, useLayout, PLAIN } = await loaded();
  setColumns('watching', [NaN, NaN, NaN]);
  setColumns('watching', [-3, 60, 43]);
  setDockHeight('wake', 0);
  setDockHeight('wake', 99);
  expect(useLayout.getState()).toMatchObject({ watching: PLAIN.watching, wake: PLAIN.wake });
});

test.each([
  ['no JSON', '{"watching":'],
  ['a number', '7'],
  ['too few columns', JSON.stringify({ watching: [50, 50] })],
  ['a word for a share', JSON.stringify({ watching: ['a', 'b', 'c'], writing: [1, 2, 3, 4], program: [1, 2] })],
])('what was kept and is no layout, %s, is the bench as it comes', async (_, text) => {
  store.set('zettak.layout', text);
  store.set('zettak.layouts', text);
  const { useLayout, PLAIN } = await loaded();
  expect(useLayout.getState()).toMatchObject(PLAIN);
  expect(useLayout.getState().named).toEqual({});
});

test('layouts are kept under names, taken, replaced and dropped; those that are none are passed over', async () => {
  const first = await loaded();
  first.setFolded(true);
  first.keepLayout('first lesson');
  first.resetLayout();
  expect(first.useLayout.getState().folded).toBe(false);
  first.takeLayout('first lesson');
  expect(first.useLayout.getState().folded).toBe(true);
  first.takeLayout('nowhere');
  expect(first.useLayout.getState().folded).toBe(true);
  store.set('zettak.layouts', JSON.stringify({ ...(kept('layouts') as object), broken: { watching: 3 } }));
  const second = await loaded();
  expect(Object.keys(second.useLayout.getState().named)).toEqual(['first lesson']);
  second.setWraps(true);
  second.keepLayout('first lesson');
  expect(second.useLayout.getState().named['first lesson']).toMatchObject({ wraps: true });
  expect(second.useLayout.getState().named['first lesson']).not.toHaveProperty('named');
  second.dropLayout('first lesson');
  expect(kept('layouts')).toEqual({});
});

test('what a lesson does without is of one machine alone', async () => {
  const { setHidden, useLayout } = await loaded();
  setHidden('curlew', ['X', 'memory']);
  setHidden('gannet', ['flags']);
  setHidden('curlew', []);
  expect(useLayout.getState().hidden).toEqual({ curlew: [], gannet: ['flags'] });
});

test('the foot turns between the run so far and the tool that stood there last; a folded one is opened first', async () => {
  const { turnDock, chooseDock, useLooks, setFolded, useLayout } = await loaded();
  turnDock();
  expect(useLooks.getState().dock).toBe('stops');
  chooseDock('counts');
  turnDock();
  expect(useLooks.getState().dock).toBe('wake');
  turnDock();
  expect(useLooks.getState().dock).toBe('counts');
  setFolded(true);
  turnDock();
  expect(useLayout.getState().folded).toBe(false);
  expect(useLooks.getState().dock).toBe('counts');
  expect((await loaded()).useLooks.getState().dock).toBe('counts');
});

test('writing ends the setting for a room, which is never remembered', async () => {
  const first = await loaded();
  first.setProjecting(true);
  first.setWriting(true);
  expect(first.useLooks.getState()).toMatchObject({ writing: true, projecting: false });
  first.setProjecting(true);
  expect((await loaded()).useLooks.getState()).toMatchObject({ writing: true, projecting: false });
});

const binary = { radix: 2, base: 16 } as Parameters<Looks['shownAs']>[0];
const octal = { radix: 2, base: 8 } as typeof binary;
const decimal = { radix: 10, base: 10 } as typeof binary;

test.each([
  ['bits, hexadecimal', binary, ['hex', 'dec', 'bin', 'char'], 'hex'],
  ['bits, octal', octal, ['oct', 'hex', 'dec', 'bin', 'char'], 'oct'],
  ['decimal digits', decimal, ['dec', 'char'], 'dec'],
] as const)('a machine of %s is shown in its own base first', async (_, machine, all, own) => {
  const { shownAs, chosenBase } = await loaded();
  expect(shownAs(machine)).toEqual(all);
  expect(chosenBase(machine, undefined)).toBe(own);
  // Chosen on another machine.
  expect(chosenBase(machine, 'oct')).toBe(own);
  expect(chosenBase(machine, 'char')).toBe('char');
});

test('numbers without a mark are read in the base that a panel shows; characters have none of their own', async () => {
  const { baseRead } = await loaded();
  expect(['hex', 'dec', 'bin', 'char'].map((each) => baseRead(binary, each as 'hex'))).toEqual([16, 10, 2, 16]);
  expect(baseRead(octal, 'char')).toBe(8);
  expect(baseRead(decimal, 'hex')).toBe(10);
});

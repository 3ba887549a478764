import type { DocumentDetail } from '@zettak/api/documents';
import { Draft, type SaveState } from './drafts';
import { isAway, isBack } from './keptAnswers';
import type { Tab } from '../app/tab';
import type { Pending, Unsaved } from './unsaved';

interface Saved {
  text: string;
  revision: number;
}

const detail = ({ text, revision }: Saved): DocumentDetail => ({
  id: 'tide',
  kind: 'program',
  name: 'tide',
  machine: 'curlew',
  program: null,
  revision,
  updatedAt: '',
  removedAt: null,
  versions: [],
  draft: text,
});

/** A server with one document, and a browser's database. */
function world(saved: Saved) {
  const stored = new Map<string, Pending>();
  const unsaved: Unsaved = {
    of: async (kind, id) =>
      [...stored].filter(([name]) => name.startsWith(`draft.${kind}.${id}`)).map(([name, pending]) => ({ name, pending })),
    put: async (name, pending) => void stored.set(name, pending),
    drop: async (name) => void stored.delete(name),
  };
  let reachable = true;
  let refusal: { status: number; detail: string } | undefined;
  const calls: Saved[] = [];
  Object.assign(globalThis, {
    fetch: async (_path: string, init: { method: string; body: string }) => {
      if (!reachable) throw new TypeError('network');
      if (init.method === 'GET') return { ok: true, status: 200, json: async () => detail(saved) };
      if (refusal) return { ok: false, status: refusal.status, json: async () => ({ type: 'about:blank', title: '', ...refusal }) };
      const change = JSON.parse(init.body) as Saved;
      calls.push(change);
      const problem = {
        type: 'about:blank',
        title: '',
        status: 409,
        detail: 'saved elsewhere',
        text: saved.text,
        revision: saved.revision,
      };
      if (change.revision !== saved.revision) return { ok: false, status: 409, json: async () => problem };
      Object.assign(saved, { text: change.text, revision: change.revision + 1 });
      return { ok: true, status: 200, json: async () => detail(saved) };
    },
  });
  return {
    saved,
    stored,
    unsaved,
    calls,
    cut: () => (reachable = false),
    mend: () => ((reachable = true), (refusal = undefined)),
    refuse: (status: number, detail: string) => (refusal = { status, detail }),
  };
}

/** Tabs that are open; a tab that is reloaded is another load of the same tab. */
const alive = new Set<string>();
let loads = 0;
function load(before?: Tab): Tab {
  if (before) alive.delete(before.id);
  const id = `load${loads++}`;
  alive.add(id);
  return { id, before: before?.id, isAlive: (other) => alive.has(other) };
}

async function open({ saved, unsaved }: Pick<ReturnType<typeof world>, 'saved' | 'unsaved'>, tab = load()) {
  const states: SaveState[] = [];
  const draft = await Draft.open('program', detail(saved), (state) => states.push(state), { tab, unsaved });
  return { draft, states, last: () => states.at(-1) };
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

const pass = (ms: number): Promise<void> => jest.advanceTimersByTimeAsync(ms);

test('what is typed and taken back before it was sent is saved, and nothing is left behind', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { draft, last } = await open(here);
  draft.change('ab');
  draft.change('a');
  await pass(1000);
  expect(last()).toEqual({ kind: 'saved' });
  expect([here.stored.size, here.calls.length]).toEqual([0, 0]);
});

test('what is typed is stored beside the page at once, and on the server shortly after', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { saved, stored } = here;
  const { draft, last } = await open(here);
  draft.change('ab');
  expect([...stored.values()]).toEqual([{ text: 'ab', revision: 1, at: Date.now() }]);
  expect(saved.text).toBe('a');
  await pass(600);
  expect([saved, last(), stored.size]).toEqual([{ text: 'ab', revision: 2 }, { kind: 'saved' }, 0]);
});

test('fast typing is sent once', async () => {
  const here = world({ text: '', revision: 1 });
  const { calls } = here;
  const { draft } = await open(here);
  for (const text of ['H', 'HA', 'HAL', 'HALT']) {
    draft.change(text);
    await pass(100);
  }
  await pass(600);
  expect(calls.map((each) => each.text)).toEqual(['HALT']);
});

test('without a server the text stays beside the page, and is sent when the server is back', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { saved, stored, cut, mend } = here;
  const { draft, last } = await open(here);
  cut();
  draft.change('kept');
  await pass(600);
  expect([last(), stored.size]).toEqual([{ kind: 'unreachable' }, 1]);
  mend();
  await pass(3100);
  expect([saved.text, last()]).toEqual(['kept', { kind: 'saved' }]);
});

test('a text that was opened without the server is compared with what that has when it is back', async () => {
  const here = world({ text: 'newer', revision: 3 });
  const before = await open({ ...here, saved: { text: 'as it was seen last', revision: 2 } });
  const same = await open({ ...here, saved: { text: 'newer', revision: 2 } }, load());
  isAway(1);
  isBack();
  await pass(100);
  expect(before.last()).toEqual({ kind: 'conflict', theirs: 'newer', revision: 3 });
  expect([same.states, same.draft.revision]).toEqual([[], 3]);
  before.draft.close();
  same.draft.close();
});

test('after a reload the unsent text wins over the older one of the server', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { saved, cut, mend } = here;
  cut();
  const tab = load();
  (await open(here, tab)).draft.change('typed before the reload');
  await pass(600);
  mend();
  const again = await open(here, load(tab));
  expect(again.draft.text).toBe('typed before the reload');
  await pass(100);
  expect(saved.text).toBe('typed before the reload');
});

test('a draft saved elsewhere is not overwritten; either text can be chosen', async () => {
  for (const choice of ['mine', 'theirs'] as const) {
    const here = world({ text: 'a', revision: 1 });
    const { saved } = here;
    const { draft, last } = await open(here);
    Object.assign(saved, { text: 'from another page', revision: 5 });
    draft.change('from here');
    await pass(600);
    expect(last()).toEqual({ kind: 'conflict', theirs: 'from another page', revision: 5 });
    expect(saved.text).toBe('from another page');
    await draft.resolve(choice, 'from another page', 5);
    const chosen = choice === 'mine' ? 'from here' : 'from another page';
    expect([saved.text, draft.text, last()]).toEqual([chosen, chosen, { kind: 'saved' }]);
  }
});

test('a save whose answer was lost is recognised as done', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { saved } = here;
  const { draft, last } = await open(here);
  Object.assign(saved, { text: 'same', revision: 2 });
  draft.change('same');
  await pass(600);
  expect([last(), draft.revision]).toEqual([{ kind: 'saved' }, 2]);
});

test('two tabs: what one saves, as often as it likes, leaves the other’s text alone, over a reload too', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { saved, stored } = here;
  const [tabA, tabB] = [load(), load()];
  const [a, b] = [await open(here, tabA), await open(here, tabB)];
  a.draft.change('A1');
  await pass(600);
  b.draft.change('typed in B');
  await pass(600);
  expect(b.last()?.kind).toBe('conflict');
  a.draft.change('A2');
  await pass(600);
  expect(saved.text).toBe('A2');
  // A tab that is opened beside them begins with what is saved, not with what B has under its hands.
  expect((await open(here)).draft.text).toBe('A2');
  const again = await open(here, load(tabB));
  expect(again.draft.text).toBe('typed in B');
  await pass(600);
  expect([again.last()?.kind, saved.text]).toEqual(['conflict', 'A2']);
  await again.draft.resolve('theirs', 'A2', saved.revision);
  expect(stored.size).toBe(0);
});

test('a tab that was closed with unsaved text leaves it to the next one that opens the document', async () => {
  const here = world({ text: 'a', revision: 1 });
  const { cut, mend } = here;
  cut();
  const tab = load();
  (await open(here, tab)).draft.change('left behind');
  await pass(600);
  alive.delete(tab.id);
  mend();
  expect((await open(here)).draft.text).toBe('left behind');
});

test.each([
  [429, 'Too many requests came from this address.'],
  [500, 'The server made a mistake.'],
  [507, 'The disk is full, so nothing could be saved.'],
])('a save refused with %i is told truly and tried again with growing pauses', async (status, detail) => {
  const here = world({ text: 'a', revision: 1 });
  const { saved, calls, refuse, mend } = here;
  const { draft, last } = await open(here);
  refuse(status, detail);
  const asked = jest.spyOn(globalThis, 'fetch');
  draft.change('b');
  await pass(600);
  expect(last()).toEqual({ kind: 'refused', sentence: `${detail} It is kept in this browser and tried again.` });
  await pass(30_000);
  // After 2, 4, 8 and 16 seconds.
  expect(asked).toHaveBeenCalledTimes(5);
  mend();
  await pass(60_000);
  expect([saved.text, last()?.kind, calls.length]).toEqual(['b', 'saved', 1]);
});

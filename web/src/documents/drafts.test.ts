import type { DocumentDetail } from '@zettak/api/documents';
import { Draft, type SaveState } from './drafts';
import type { Tab } from '../app/tab';

interface Saved {
  text: string;
  revision: number;
}

const detail = ({ text, revision }: Saved): DocumentDetail => ({
  id: 'tide',
  kind: 'program',
  name: 'tide',
  machine: 'curlew',
  revision,
  updatedAt: '',
  versions: [],
  draft: text,
});

/** A server with one document, and a browser's storage. */
function world(saved: Saved) {
  const stored = new Map<string, string>();
  let reachable = true;
  let refusal: { status: number; detail: string } | undefined;
  const calls: Saved[] = [];
  Object.assign(globalThis, {
    localStorage: {
      getItem: (key: string) => stored.get(key) ?? null,
      setItem: (key: string, value: string) => void stored.set(key, value),
      removeItem: (key: string) => void stored.delete(key),
      key: (at: number) => [...stored.keys()][at] ?? null,
      get length() {
        return stored.size;
      },
    },
    fetch: async (_path: string, init: { body: string }) => {
      if (!reachable) throw new TypeError('network');
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

function open(saved: Saved, tab = load()) {
  const states: SaveState[] = [];
  const draft = new Draft('program', 'tide', detail(saved), (state) => states.push(state), tab);
  return { draft, states, last: () => states.at(-1) };
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

const pass = (ms: number): Promise<void> => jest.advanceTimersByTimeAsync(ms);

test('what is typed is stored beside the page at once, and on the server shortly after', async () => {
  const { saved, stored } = world({ text: 'a', revision: 1 });
  const { draft, last } = open(saved);
  draft.change('ab');
  expect([...stored.values()].map((each) => JSON.parse(each))).toEqual([{ text: 'ab', revision: 1, at: Date.now() }]);
  expect(saved.text).toBe('a');
  await pass(600);
  expect([saved, last(), stored.size]).toEqual([{ text: 'ab', revision: 2 }, { kind: 'saved' }, 0]);
});

test('fast typing is sent once', async () => {
  const { saved, calls } = world({ text: '', revision: 1 });
  const { draft } = open(saved);
  for (const text of ['H', 'HA', 'HAL', 'HALT']) {
    draft.change(text);
    await pass(100);
  }
  await pass(600);
  expect(calls.map((each) => each.text)).toEqual(['HALT']);
});

test('without a server the text stays beside the page, and is sent when the server is back', async () => {
  const { saved, stored, cut, mend } = world({ text: 'a', revision: 1 });
  const { draft, last } = open(saved);
  cut();
  draft.change('kept');
  await pass(600);
  expect([last(), stored.size]).toEqual([{ kind: 'unreachable' }, 1]);
  mend();
  await pass(3100);
  expect([saved.text, last()]).toEqual(['kept', { kind: 'saved' }]);
});

test('after a reload the unsent text wins over the older one of the server', async () => {
  const { saved, cut, mend } = world({ text: 'a', revision: 1 });
  cut();
  const tab = load();
  open(saved, tab).draft.change('typed before the reload');
  await pass(600);
  mend();
  const again = open(saved, load(tab));
  expect(again.draft.text).toBe('typed before the reload');
  await pass(100);
  expect(saved.text).toBe('typed before the reload');
});

test('a draft saved elsewhere is not overwritten; either text can be chosen', async () => {
  for (const choice of ['mine', 'theirs'] as const) {
    const { saved } = world({ text: 'a', revision: 1 });
    const { draft, last } = open(saved);
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
  const { saved } = world({ text: 'a', revision: 1 });
  const { draft, last } = open(saved);
  Object.assign(saved, { text: 'same', revision: 2 });
  draft.change('same');
  await pass(600);
  expect([last(), draft.revision]).toEqual([{ kind: 'saved' }, 2]);
});

test('two tabs: what one saves, as often as it likes, leaves the other’s text alone, over a reload too', async () => {
  const { saved, stored } = world({ text: 'a', revision: 1 });
  const [tabA, tabB] = [load(), load()];
  const [a, b] = [open(saved, tabA), open(saved, tabB)];
  a.draft.change('A1');
  await pass(600);
  b.draft.change('typed in B');
  await pass(600);
  expect(b.last()?.kind).toBe('conflict');
  a.draft.change('A2');
  await pass(600);
  expect(saved.text).toBe('A2');
  // A tab that is opened beside them begins with what is saved, not with what B has under its hands.
  expect(open(saved).draft.text).toBe('A2');
  const again = open(saved, load(tabB));
  expect(again.draft.text).toBe('typed in B');
  await pass(600);
  expect([again.last()?.kind, saved.text]).toEqual(['conflict', 'A2']);
  await again.draft.resolve('theirs', 'A2', saved.revision);
  expect(stored.size).toBe(0);
});

test('a tab that was closed with unsaved text leaves it to the next one that opens the document', async () => {
  const { saved, cut, mend } = world({ text: 'a', revision: 1 });
  cut();
  const tab = load();
  open(saved, tab).draft.change('left behind');
  await pass(600);
  alive.delete(tab.id);
  mend();
  expect(open(saved).draft.text).toBe('left behind');
});

test.each([
  [429, 'Too many requests came from this address.'],
  [500, 'The server made a mistake.'],
  [507, 'The disk is full, so nothing could be saved.'],
])('a save refused with %i is told truly and tried again with growing pauses', async (status, detail) => {
  const { saved, calls, refuse, mend } = world({ text: 'a', revision: 1 });
  const { draft, last } = open(saved);
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

test('rubbish in the storage is passed over', () => {
  const { saved, stored } = world({ text: 'a', revision: 1 });
  stored.set('zettak.draft.program.tide', '{"text":5');
  expect(open(saved).draft.text).toBe('a');
});

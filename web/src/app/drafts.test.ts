import type { DocumentDetail } from '@zettak/api/documents';
import { Draft, type SaveState } from './drafts';

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
  const calls: Saved[] = [];
  Object.assign(globalThis, {
    localStorage: {
      getItem: (key: string) => stored.get(key) ?? null,
      setItem: (key: string, value: string) => void stored.set(key, value),
      removeItem: (key: string) => void stored.delete(key),
    },
    fetch: async (_path: string, init: { body: string }) => {
      if (!reachable) throw new TypeError('network');
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
  return { saved, stored, calls, cut: () => (reachable = false), mend: () => (reachable = true) };
}

function open(saved: Saved) {
  const states: SaveState[] = [];
  const draft = new Draft('program', 'tide', detail(saved), (state) => states.push(state));
  return { draft, states, last: () => states.at(-1) };
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

const pass = (ms: number): Promise<void> => jest.advanceTimersByTimeAsync(ms);

test('what is typed is stored beside the page at once, and on the server shortly after', async () => {
  const { saved, stored } = world({ text: 'a', revision: 1 });
  const { draft, last } = open(saved);
  draft.change('ab');
  expect([...stored.values()]).toEqual([JSON.stringify({ text: 'ab', revision: 1 })]);
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
  open(saved).draft.change('typed before the reload');
  await pass(600);
  mend();
  const again = open(saved);
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

test('rubbish in the storage is passed over', () => {
  const { saved, stored } = world({ text: 'a', revision: 1 });
  stored.set('zettak.draft.program.tide', '{"text":5');
  expect(open(saved).draft.text).toBe('a');
});

import 'fake-indexeddb/auto';
import { createStore, set, type UseStore } from 'idb-keyval';
import { BrowserUnsaved } from './unsaved';

const small = new Map<string, string>();
let count = 0;
let store: UseStore;
let unsaved: BrowserUnsaved;

beforeEach(() => {
  small.clear();
  // What `Object.keys` finds in a browser's storage.
  const storage = new Proxy(
    {
      getItem: (name: string) => small.get(name) ?? null,
      setItem: (name: string, text: string) => void small.set(name, text),
      removeItem: (name: string) => void small.delete(name),
    },
    { ownKeys: () => [...small.keys()], getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }) },
  );
  Object.defineProperty(globalThis, 'localStorage', { configurable: true, value: storage });
  store = createStore(`test${count++}`, 'drafts');
  unsaved = new BrowserUnsaved(store);
});

const pending = (text: string, at = 1) => ({ text, revision: 3, at });

test('texts are found by their document, whichever tab they belong to', async () => {
  await unsaved.put('draft.program.quay#a', pending('one'));
  await unsaved.put('draft.program.quay#b', pending('two'));
  await unsaved.put('draft.program.quay-watch#a', pending('another document'));
  await unsaved.put('draft.machine.quay#a', pending('a machine'));
  await unsaved.drop('draft.program.quay#a');
  expect(await unsaved.of('program', 'quay')).toEqual([{ name: 'draft.program.quay#b', pending: pending('two') }]);
});

test('the last of many changes is what is kept', async () => {
  const all = Array.from({ length: 40 }, (_, at) => unsaved.put('draft.program.quay#a', pending(`text ${at}`)));
  await Promise.all(all);
  expect(await unsaved.of('program', 'quay')).toEqual([{ name: 'draft.program.quay#a', pending: pending('text 39') }]);
});

test('a page that is left before its text is safe loses nothing: the next one takes it along', async () => {
  void unsaved.put('draft.program.quay#a', pending('typed at the last moment'));
  unsaved.leave();
  expect([...small.keys()]).toEqual(['zettak.draft.program.quay#a']);
  const next = new BrowserUnsaved(store);
  expect(await next.of('program', 'quay')).toEqual([{ name: 'draft.program.quay#a', pending: pending('typed at the last moment') }]);
  expect(small.size).toBe(0);
  await next.drop('draft.program.quay#a');
  next.leave();
  expect([small.size, await next.of('program', 'quay')]).toEqual([0, []]);
});

test('texts that an earlier edition kept are taken along, rubbish is passed over', async () => {
  small.set('zettak.draft.program.quay', JSON.stringify({ text: 'old', revision: 2 }));
  small.set('zettak.draft.program.sill#x', '{"text":5');
  await set('draft.program.quay#z', { text: 5 }, store);
  expect(await unsaved.of('program', 'quay')).toEqual([{ name: 'draft.program.quay', pending: { text: 'old', revision: 2, at: 0 } }]);
  expect([await unsaved.of('program', 'sill'), small.size]).toEqual([[], 0]);
});

test('without a database the text is still there for the server, and nothing throws', async () => {
  const broken = new BrowserUnsaved(() => Promise.reject(new Error('no database')));
  await broken.put('draft.program.quay#a', pending('kept nowhere'));
  expect(await broken.of('program', 'quay')).toEqual([]);
  broken.leave();
  expect([...small.keys()]).toEqual(['zettak.draft.program.quay#a']);
});

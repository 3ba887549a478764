/** Documents of a lesson in this browser: what the lesson brings, what a student makes of it, and the same answers as a server's. */
import 'fake-indexeddb/auto';
import type { BackupDocument } from '@zettak/api/backup';
import { Refused } from './client';
import { openLessonDocuments } from './lessonClient';

const at = '2026-11-02T08:00:00.000Z';
const plain = { machine: null, program: null, revision: 1, createdAt: at, updatedAt: at, removedAt: null, versions: [] };
const version = { number: 1, text: 'bits: 8', machineVersion: null, language: 1, createdAt: at };
const brought = (text: string): BackupDocument[] => [
  { ...plain, id: 'gauge', kind: 'machine', name: 'Gauge', draft: 'bits: 8', versions: [version] },
  { ...plain, id: 'work', kind: 'program', name: 'Quay', machine: 'gauge', draft: text },
];
const later = (): Date => new Date('2026-11-03T09:30:00.000Z');
let lesson = 0;
const fresh = (): string => `lesson-${++lesson}`;
const refusal = async (doing: Promise<unknown>): Promise<Refused> => {
  const refused = await doing.then(
    () => undefined,
    (error: unknown) => error,
  );
  expect(refused).toBeInstanceOf(Refused);
  return refused as Refused;
};

test('what a lesson brings is there as on a server: lists without texts, one with its text, a version by its number', async () => {
  const { client } = await openLessonDocuments(fresh(), brought('HALT'));
  expect((await client.list('program')).map((each) => each.id)).toEqual(['work']);
  expect((await client.list('program'))[0]).not.toHaveProperty('draft');
  expect(await client.get('program', 'work')).toMatchObject({ draft: 'HALT', machine: 'gauge', revision: 1 });
  expect(await client.version('machine', 'gauge', 1)).toMatchObject({ document: 'gauge', text: 'bits: 8', language: 1 });
  expect(await refusal(client.version('machine', 'gauge', 2))).toMatchObject({ status: 404 });
  expect(await refusal(client.get('machine', 'work'))).toMatchObject({ status: 404, detail: 'There is no machine “work” in this lesson.' });
});

test('a save raises the revision, is told, and is there when the lesson is opened again', async () => {
  const name = fresh();
  const opened = await openLessonDocuments(name, brought('HALT'), { now: later });
  const told: string[][] = [];
  opened.onSaved = (...all) => told.push([...all]);
  const saved = await opened.client.saveDraft('program', 'work', { text: 'LOAD 3', revision: 1 });
  expect(saved).toMatchObject({ draft: 'LOAD 3', revision: 2, updatedAt: later().toISOString() });
  expect(told).toEqual([['program', 'work', 'LOAD 3']]);
  const { client } = await openLessonDocuments(name, brought('HALT'));
  expect(await client.get('program', 'work')).toMatchObject({ draft: 'LOAD 3', revision: 2 });
});

test('a save over a newer state is refused with that state, also where another tab has made it', async () => {
  const name = fresh();
  const [one, other] = [await openLessonDocuments(name, brought('HALT')), await openLessonDocuments(name, brought('HALT'))];
  await one.client.saveDraft('program', 'work', { text: 'first', revision: 1 });
  const refused = await refusal(other.client.saveDraft('program', 'work', { text: 'second', revision: 1 }));
  expect(refused).toMatchObject({ status: 409, current: { revision: 2, text: 'first' } });
  expect(refused.message).toMatch(/Nothing was overwritten/);
  expect((await other.client.saveDraft('program', 'work', { text: 'third', revision: 2 })).revision).toBe(3);
  expect(await refusal(one.client.keepVersion('program', 'work', 1))).toMatchObject({ status: 409, current: { text: 'third' } });
});

test('a newer lesson replaces what nobody has changed here, and leaves one’s own work', async () => {
  const [untouched, changed] = [fresh(), fresh()];
  for (const name of [untouched, changed]) await openLessonDocuments(name, brought('HALT'));
  await (await openLessonDocuments(changed, brought('HALT'))).client.saveDraft('program', 'work', { text: 'mine', revision: 1 });
  const draft = async (name: string, text: string, over = false): Promise<string> =>
    (await (await openLessonDocuments(name, brought(text), { over })).client.get('program', 'work')).draft;
  expect(await draft(untouched, 'NEWER')).toBe('NEWER');
  expect(await draft(changed, 'NEWER')).toBe('mine');
  expect(await draft(changed, 'NEWER')).toBe('mine');
  // A page that follows has no work of its own.
  expect(await draft(changed, 'NEWER', true)).toBe('NEWER');
});

test('a version is kept once, of a text that is another one than the last', async () => {
  const { client } = await openLessonDocuments(fresh(), brought('HALT'), { now: later });
  expect(await client.keepVersion('machine', 'gauge', 1)).toMatchObject({ number: 1 });
  await client.saveDraft('machine', 'gauge', { text: 'bits: 16', revision: 1 });
  expect(await client.keepVersion('machine', 'gauge', 2)).toMatchObject({ number: 2, text: 'bits: 16', language: 1 });
  expect((await client.get('machine', 'gauge')).versions.map((each) => each.number)).toEqual([1, 2]);
});

test('what is made here has an id of its own, and the machine of the program that it belongs to', async () => {
  const { client } = await openLessonDocuments(fresh(), brought('HALT'), { now: later });
  const made = await Promise.all(['High Water', 'High water!', '§'].map((name) => client.create('program', { name, text: '' })));
  expect(made.map((each) => each.id)).toEqual(['high-water', 'high-water-2', 'untitled']);
  expect(await client.create('trial', { name: 'sets', text: '', program: 'work' })).toMatchObject({ machine: 'gauge', program: 'work' });
  expect(await refusal(client.create('trial', { name: 'sets', text: '', program: 'nowhere' }))).toMatchObject({ status: 404 });
});

test('what is removed is out of the lists, and comes back', async () => {
  const { client } = await openLessonDocuments(fresh(), brought('HALT'), { now: later });
  await client.remove('program', 'work');
  expect(await client.list('program')).toEqual([]);
  expect((await client.removed('program')).map((each) => each.removedAt)).toEqual([later().toISOString()]);
  await client.bringBack('program', 'work');
  expect(await client.removed('program')).toEqual([]);
  expect(await client.list('program')).toHaveLength(1);
});

test('five results are remembered, the newest first, and told; a backup holds what a student would take along', async () => {
  const opened = await openLessonDocuments(fresh(), brought('HALT'), { now: later });
  const told: string[] = [];
  opened.onResults = (rows) => told.push(rows);
  for (const key of ['a', 'b', 'c', 'd', 'e', 'f', 'b']) await opened.client.keepResults('work', key, `rows of ${key}`);
  expect((await opened.client.results('work')).map((each) => each.key)).toEqual(['b', 'f', 'e', 'd', 'c']);
  expect(told).toHaveLength(7);
  const { documents } = await opened.client.backup();
  expect(documents.map((each) => each.id)).toEqual(['gauge', 'work']);
  expect(documents[1]).not.toHaveProperty('given');
  expect(await refusal(opened.client.restore({ format: 'zettak backup', version: 1, documents: [] }))).toMatchObject({ status: 403 });
});

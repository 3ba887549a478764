import { spawn } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'libsql';
import { DatabaseProblem, openDatabase } from './database';
import { createDocumentStore, type DocumentStore } from '../documents/store';

const root = join(__dirname, '../../..');
const migrations = join(root, 'server/drizzle');
const folder = mkdtempSync(join(tmpdir(), 'zettak-database-'));
afterAll(() => rmSync(folder, { recursive: true }));

let number = 0;
const fresh = (): string => join(folder, `${number++}.sqlite`);
const opened = (file: string) => {
  const database = openDatabase(file, migrations);
  return { database, store: createDocumentStore(database, () => new Date(0)) };
};
const machine = (store: DocumentStore, name = 'Avocet') => store.create('machine', { name, text: 'machine: Avocet' });

/** A file with one machine in it, changed by the driver alone. */
function prepared(change: string): string {
  const file = fresh();
  const { database, store } = opened(file);
  machine(store);
  database.close();
  const client = new Sqlite(file);
  client.exec(change);
  client.close();
  return file;
}

test.each<[string, () => string, RegExp]>([
  [
    'is no database',
    () => (writeFileSync(join(folder, 'text.sqlite'), 'tide '.repeat(400)), join(folder, 'text.sqlite')),
    /text\.sqlite is no database/,
  ],
  ['is a folder', () => folder, /cannot be opened for writing/],
  [
    'is newer than this program',
    () => prepared("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 9e15)"),
    /another version of Zettak/,
  ],
  ['had another history', () => prepared("UPDATE __drizzle_migrations SET hash = 'other'"), /another version of Zettak/],
  ['lacks a column', () => prepared('ALTER TABLE documents RENAME COLUMN draft TO text'), /lacks the column documents\.draft/],
  [
    'belongs to another program',
    () => {
      const file = fresh();
      const client = new Sqlite(file);
      client.exec('CREATE TABLE tides (level INTEGER)');
      client.close();
      return file;
    },
    /tables of another program \(tides\)/,
  ],
])('a file that %s is refused in a sentence, and stays as it is', (_, make, sentence) => {
  const file = make();
  const before = file === folder ? '' : readFileSync(file).toString('latin1');
  expect(() => openDatabase(file, migrations)).toThrow(DatabaseProblem);
  expect(() => openDatabase(file, migrations)).toThrow(sentence);
  if (file !== folder) expect(readFileSync(file).toString('latin1')).toBe(before);
});

test('a full disk refuses the save, and what was saved before stays; with room again it goes on', () => {
  const { database, store } = opened(fresh());
  const { id } = machine(store);
  const pages = Number(database.pragma('page_count'));
  database.pragma(`max_page_count = ${pages + 2}`);
  const save = () => store.saveDraft('machine', id, { text: 'x'.repeat(100_000), revision: 1 });
  expect(save).toThrow('The disk is full, so nothing could be saved. Make room on it.');
  expect(store.get('machine', id).draft).toBe('machine: Avocet');
  database.pragma('max_page_count = 1000000');
  expect(save().revision).toBe(2);
  database.close();
});

test('a database file that is deleted or moved under a running server refuses saves', () => {
  const file = fresh();
  const { database, store } = opened(file);
  const { id } = machine(store);
  renameSync(file, `${file}.away`);
  expect(() => store.saveDraft('machine', id, { text: 'more', revision: 1 })).toThrow(/moved or deleted\. Nothing can be saved/);
  renameSync(`${file}.away`, file);
  expect(store.saveDraft('machine', id, { text: 'more', revision: 1 }).revision).toBe(2);
  database.close();
});

test('after a stop the file alone is the whole database: a copy of it has everything', () => {
  const file = fresh();
  const { database, store } = opened(file);
  machine(store);
  database.close();
  const copy = fresh();
  copyFileSync(file, copy);
  const again = opened(copy);
  expect(again.store.list('machine').map((each) => each.name)).toEqual(['Avocet']);
  again.database.close();
});

test('200 saves at once are all there; of those that start from one revision one wins', async () => {
  const { database, store } = opened(fresh());
  const ids = Array.from({ length: 200 }, (_, at) => machine(store, `Bird ${at}`).id);
  await Promise.all(ids.map(async (id, at) => (await null, store.saveDraft('machine', id, { text: `text ${at}`, revision: 1 }))));
  expect(ids.map((id) => store.get('machine', id).draft)).toEqual(ids.map((_, at) => `text ${at}`));
  const outcomes = await Promise.allSettled(
    ids.map(async (_, at) => (await null, store.saveDraft('machine', ids[0]!, { text: `${at}`, revision: 2 }))),
  );
  expect(outcomes.filter((each) => each.status === 'fulfilled')).toHaveLength(1);
  database.close();
});

test('5,000 programs are listed with one query', () => {
  const { database, store } = opened(fresh());
  const { id } = machine(store);
  const now = '2026-01-01T00:00:00.000Z';
  database.write(() => {
    for (let at = 0; at < 5000; at++) {
      const entry = { id: `p${at}`, kind: 'program', name: `P ${at}`, machine: id, draft: '', revision: 1, createdAt: now, updatedAt: now };
      database.queries.run(insertion(entry));
      if (at % 2 === 0) database.queries.run(`INSERT INTO versions VALUES ('p${at}', 1, '', NULL, '${now}', 1)`);
    }
  });
  const prepare = jest.spyOn(Sqlite.prototype, 'prepare');
  const list = store.list('program');
  expect(prepare).toHaveBeenCalledTimes(1);
  prepare.mockRestore();
  expect(list.map((each) => [each.id, each.versions.length])).toEqual(
    Array.from({ length: 5000 }, (_, at) => [`p${at}`, at % 2 === 0 ? 1 : 0]),
  );
  database.close();
});

const insertion = (entry: Record<string, unknown>): string =>
  `INSERT INTO documents (id, kind, name, machine, draft, revision, created_at, updated_at) VALUES (${Object.values(entry)
    .map((each) => (typeof each === 'number' ? each : `'${String(each)}'`))
    .join(', ')})`;

/** Saves one draft after another until it is killed; says each revision that was acknowledged. */
const SAVER = `
const address = process.argv[1];
let revision = Number(process.argv[2]);
for (;;) {
  const response = await fetch(address, { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ text: 'text ' + (revision + 1), revision }) });
  if (!response.ok) continue;
  revision = (await response.json()).revision;
  process.stdout.write(revision + '\\n');
}`;

const kills = Number(process.env.ZETTAK_KILLS ?? 3);

test(
  `a server killed in the middle of saves, ${kills} times, loses no acknowledged save`,
  async () => {
    const file = fresh();
    let known = 0;
    for (let turn = 0; turn < kills; turn++) {
      const env = { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: file, PORT: '0' };
      const server = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, stdio: ['ignore', 'pipe', 'inherit'] });
      const address = await new Promise<string>((resolve) => {
        server.stdout.on('data', (text) => /http:\S+/.exec(String(text)) && resolve(/http:\S+/.exec(String(text))![0]));
      });
      const path = `${address}/api/machines/plover`;
      const present = (await (await fetch(path)).json()) as { revision: number; draft: string };
      expect(present.revision).toBeGreaterThanOrEqual(known);
      if (known > 0) expect(present.draft).toBe(`text ${present.revision}`);
      known = present.revision;
      const saver = spawn(process.execPath, ['--input-type=module', '-e', SAVER, `${path}/draft`, String(known)], {
        stdio: ['ignore', 'pipe', 'ignore'],
      });
      await new Promise<void>((resolve) => {
        saver.stdout.on('data', (text) => {
          known = Math.max(known, ...String(text).trim().split('\n').map(Number));
          if (known > present.revision + 5 + turn) resolve();
        });
      });
      server.kill('SIGKILL');
      saver.kill('SIGKILL');
      await new Promise((resolve) => server.on('exit', resolve));
    }
    const { database, store } = opened(file);
    expect(store.get('machine', 'plover').revision).toBeGreaterThanOrEqual(known);
    database.close();
  },
  120_000 + kills * 5000,
);

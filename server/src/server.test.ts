import type { AddressInfo } from 'node:net';
import { request as rawRequest, type Server } from 'node:http';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import { createApp } from './app';
import { openDatabase, type Database } from './database';
import { createDocumentStore } from './documents/store';
import { seed } from './seed';

const root = join(__dirname, '../..');
const migrations = join(root, 'server/drizzle');
const folder = mkdtempSync(join(tmpdir(), 'zettak-server-'));
let database: Database;
let server: Server;
let base: string;
const log = pino({ level: 'silent' });

function listen(file: string): Promise<void> {
  database = openDatabase(file, migrations);
  const store = createDocumentStore(database, () => new Date(0));
  seed(store, join(root, 'demo'));
  server = createApp({ store, log, pages: join(folder, 'pages'), hosts: ['localhost', '127.0.0.1'] }).listen(0, '127.0.0.1');
  return new Promise((resolve) => {
    server.once('listening', () => {
      base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
      resolve();
    });
  });
}

function shut(): void {
  server.closeAllConnections();
  server.close();
  database.$client.close();
}

beforeAll(() => listen(join(folder, 'test.sqlite')));
afterAll(() => {
  shut();
  rmSync(folder, { recursive: true });
});

async function call(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
  const init = { method, headers: { ...(body !== undefined && { 'content-type': 'application/json' }), ...headers } };
  const response = await fetch(base + path, {
    ...init,
    ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  });
  const type = response.headers.get('content-type') ?? '';
  return {
    status: response.status,
    type,
    headers: response.headers,
    body: type.includes('json') ? await response.json() : await response.text(),
  };
}

test('a new database holds the demo course, each with a first version', async () => {
  const machines = await call('GET', '/api/machines');
  const programs = await call('GET', '/api/programs');
  const course = JSON.parse(readFileSync(join(__dirname, '../../demo/course.json'), 'utf8')) as {
    name: string;
    programs: { name: string }[];
  }[];
  expect(machines.body.map((each: { id: string; versions: { number: number }[] }) => [each.id, each.versions[0]!.number])).toEqual(
    course.map((each) => [each.name.toLowerCase(), 1]),
  );
  expect(programs.body.map((each: { name: string; machine: string }) => [each.name, each.machine])).toEqual(
    course.flatMap((each) => each.programs.map((program) => [program.name, each.name.toLowerCase()])),
  );
});

test('the database runs in WAL mode with foreign keys on', () => {
  expect(database.$client.pragma('journal_mode', { simple: true })).toBe('wal');
  expect(database.$client.pragma('foreign_keys', { simple: true })).toBe(1);
});

test('a draft is saved over its revision; an older revision is refused and told the newer text', async () => {
  const { body: created } = await call('POST', '/api/programs', { name: 'Draft test', text: 'HALT', machine: 'curlew' });
  const saved = await call('PUT', `/api/programs/${created.id}/draft`, { text: 'HALT ; one', revision: created.revision });
  expect(saved).toMatchObject({ status: 200, body: { draft: 'HALT ; one', revision: 2 } });
  const late = await call('PUT', `/api/programs/${created.id}/draft`, { text: 'HALT ; two', revision: 1 });
  expect(late).toMatchObject({ status: 409, body: { text: 'HALT ; one', revision: 2 } });
  expect(late.type).toContain('application/problem+json');
  expect((await call('GET', `/api/programs/${created.id}`)).body.draft).toBe('HALT ; one');
});

test('a faulty machine is kept as a draft and refused as a version', async () => {
  const { body: created } = await call('POST', '/api/machines', { name: 'Broken', text: 'machine: [' });
  expect((await call('PUT', `/api/machines/${created.id}/draft`, { text: 'machine: X', revision: 1 })).status).toBe(200);
  const refused = await call('POST', `/api/machines/${created.id}/versions`, { revision: 2 });
  expect(refused).toMatchObject({ status: 422, body: { detail: expect.stringMatching(/^Line 1:/) } });
});

test('a version never changes, is numbered, and an unchanged draft makes no second one', async () => {
  const { body: machine } = await call('GET', '/api/machines/curlew');
  const again = await call('POST', '/api/machines/curlew/versions', { revision: machine.revision });
  expect(again.body.number).toBe(1);
  const { body: saved } = await call('PUT', '/api/machines/curlew/draft', { text: `${machine.draft}\n# more`, revision: machine.revision });
  const second = await call('POST', '/api/machines/curlew/versions', { revision: saved.revision });
  expect(second.body.number).toBe(2);
  expect((await call('GET', '/api/machines/curlew/versions/1')).body.text).toBe(machine.draft);
});

test('two documents of one name get ids of their own', async () => {
  const entry = { name: 'Ebb & Flood!', text: '', machine: 'curlew' };
  const ids = [await call('POST', '/api/programs', entry), await call('POST', '/api/programs', entry)].map((each) => each.body.id);
  expect(ids).toEqual(['ebb-flood', 'ebb-flood-2']);
});

test.each<[string, string, string, unknown, number, RegExp]>([
  ['an unknown machine', 'GET', '/api/machines/nothing', undefined, 404, /no machine “nothing”/],
  ['an unknown path', 'GET', '/api/nothing', undefined, 404, /Nothing answers/],
  ['a program without a machine', 'POST', '/api/programs', { name: 'x', text: '' }, 400, /machine/],
  ['a program for no machine', 'POST', '/api/programs', { name: 'x', text: '', machine: 'none' }, 404, /no machine/],
  ['an empty name', 'POST', '/api/programs', { name: '  ', text: '', machine: 'curlew' }, 400, /name/],
  ['a name with right-to-left marks', 'POST', '/api/programs', { name: 'a\u202eb', text: '', machine: 'curlew' }, 400, /control/],
  ['a body that is no JSON', 'POST', '/api/programs', '{', 400, /no JSON/],
  ['an unknown field', 'POST', '/api/programs', { name: 'x', text: '', machine: 'curlew', extra: 1 }, 400, /extra/],
  ['a text over the limit', 'POST', '/api/programs', { name: 'x', text: 'a'.repeat(1_000_001), machine: 'curlew' }, 400, /at most/],
  ['a body over the limit', 'POST', '/api/programs', { name: 'x', text: 'a'.repeat(5_000_000), machine: 'curlew' }, 413, /longer/],
  ['a version that is no number', 'GET', '/api/machines/curlew/versions/x', undefined, 404, /number/],
])('%s is a problem with a sentence', async (_, method, path, body, status, words) => {
  const answer = await call(method, path, body);
  expect(answer).toMatchObject({ status, body: { status, detail: expect.stringMatching(words) } });
  expect(answer.type).toContain('application/problem+json');
});

test('other host names and other origins are refused', async () => {
  const status = await new Promise((resolve) => {
    rawRequest(`${base}/api/machines`, { headers: { host: 'harbour.example' } }, (response) => resolve(response.statusCode)).end();
  });
  expect(status).toBe(403);
  expect(
    (await call('POST', '/api/programs', { name: 'x', text: '', machine: 'curlew' }, { origin: 'http://harbour.example' })).status,
  ).toBe(403);
});

test('the content security policy allows no script from text', async () => {
  const policy = (await call('GET', '/api/health')).headers.get('content-security-policy')!;
  expect(policy).toContain("script-src 'self' 'wasm-unsafe-eval';");
  expect(policy).not.toContain("'unsafe-eval'");
});

test('texts of the course are kept for a machine, changed, and taken out; a part’s name is its own', async () => {
  const entry = { name: 'doubling', text: '.routine twice\nSHL\nRET\n.end', machine: 'curlew' };
  expect((await call('POST', '/api/parts', { name: 'x', text: '' })).body.detail).toMatch(/a part names its machine/);
  const { body } = await call('POST', '/api/parts', entry);
  expect(body).toMatchObject({ id: 'doubling', kind: 'part', machine: 'curlew', draft: entry.text });
  expect(await call('POST', '/api/parts', { ...entry, name: 'Doubling' })).toMatchObject({ status: 422 });
  expect(await call('POST', '/api/parts', { ...entry, machine: 'plover' })).toMatchObject({ status: 201, body: { id: 'doubling-2' } });
  expect((await call('PUT', '/api/parts/doubling/draft', { text: 'x', revision: 1 })).body).toMatchObject({ draft: 'x', revision: 2 });
  expect((await call('GET', '/api/snippets/doubling')).status).toBe(404);
  for (const id of ['doubling', 'doubling-2']) expect((await call('DELETE', `/api/parts/${id}`)).status).toBe(204);
  expect((await call('DELETE', '/api/parts/doubling')).status).toBe(404);
  expect((await call('DELETE', '/api/programs/quay-watch')).status).toBe(404);
  expect((await call('GET', '/api/programs/quay-watch')).status).toBe(200);
});

test('everything is there again after a restart, and the course is not seeded twice', async () => {
  const before = (await call('GET', '/api/programs')).body;
  shut();
  await listen(join(folder, 'test.sqlite'));
  expect((await call('GET', '/api/programs')).body).toEqual(before);
});

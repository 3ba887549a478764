import { connect, type AddressInfo } from 'node:net';
import { spawn } from 'node:child_process';
import { request as rawRequest, type Server } from 'node:http';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import { createApp, LIMITS, KEPT_ALIVE } from './http/app';
import { startChecker } from './checking/checker';
import { openDatabase, type Database } from './database/database';
import type { DocumentStore } from './documents/store';
import { startServices, type Services } from './services';

const root = join(__dirname, '../..');
const migrations = join(root, 'server/drizzle');
const folder = mkdtempSync(join(tmpdir(), 'zettak-server-'));
/** As in use, but for how often one document is saved. */
const TEST_LIMITS = { ...LIMITS, perDocument: 20 };
let database: Database;
let store: DocumentStore;
let server: Server;
let base: string;
const log = pino({ level: 'silent' });
const threads = join(root, 'server/dist');
let services: Services;

function listen(file: string): Promise<void> {
  database = openDatabase(file, migrations);
  services = startServices({ database, now: () => new Date(0), log, demo: join(root, 'demo'), threads });
  store = services.store;
  server = createApp({
    ...services,
    pages: join(folder, 'pages'),
    hosts: ['localhost', '127.0.0.1'],
    limits: TEST_LIMITS,
  }).listen(0, '127.0.0.1');
  server.keepAliveTimeout = KEPT_ALIVE;
  return new Promise((resolve) => {
    server.once('listening', () => {
      base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
      resolve();
    });
  });
}

async function shut(): Promise<void> {
  server.closeAllConnections();
  server.close();
  await services.close();
  database.close();
}

beforeAll(() => listen(join(folder, 'test.sqlite')));
afterAll(async () => {
  await shut();
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
  expect(database.pragma('journal_mode')).toBe('wal');
  expect(database.pragma('synchronous')).toBe(2);
  expect(database.pragma('foreign_keys')).toBe(1);
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

test('a version remembers the language that it was read in, and lists call a machine as its document does', async () => {
  const { body: curlew } = await call('GET', '/api/machines/curlew/versions/1');
  expect(curlew.language).toBe(2);
  const old = curlew.text.replace(/^machine: Curlew$/m, 'machine: Curlew-old\nlanguage: 1');
  const { body: created } = await call('POST', '/api/machines', { name: 'anything', text: old });
  const { body: kept } = await call('POST', `/api/machines/${created.id}/versions`, { revision: created.revision });
  expect(kept).toMatchObject({ number: 1, language: 1 });
  expect((await call('GET', `/api/machines/${created.id}`)).body.name).toBe('Curlew-old');
  const later = await call('POST', '/api/machines', { name: 'later', text: old.replace('language: 1', 'language: 9') });
  const refused = await call('POST', `/api/machines/${later.body.id}/versions`, { revision: 1 });
  expect(refused).toMatchObject({
    status: 422,
    body: { detail: expect.stringMatching(/language 9; this program knows languages up to 2/) },
  });
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
  ['a version in another notation', 'GET', '/api/machines/curlew/versions/0x1', undefined, 404, /number/],
  ['a file that no page has', 'GET', '/assets/nope.js', undefined, 404, /Nothing stands at \/assets\/nope\.js/],
])('%s is a problem with a sentence', async (_, method, path, body, status, words) => {
  const answer = await call(method, path, body);
  expect(answer).toMatchObject({ status, body: { status, detail: expect.stringMatching(words) } });
  expect(answer.type).toContain('application/problem+json');
});

test('a page lies at the root, whatever path is asked for', async () => {
  const pages = join(folder, 'pages');
  mkdirSync(pages, { recursive: true });
  writeFileSync(join(pages, 'index.html'), '<head><script src="./assets/index.js"></script></head>');
  for (const path of ['/', '/bench/quay-watch', '/%22%3E%3Cb%3E'])
    expect(await (await fetch(base + path)).text()).toBe('<head><script src="/assets/index.js"></script></head>');
  rmSync(pages, { recursive: true });
});

test('a body in an unknown charset is refused as such', async () => {
  const answer = await call('POST', '/api/programs', '{}', { 'content-type': 'application/json; charset=tide' });
  expect(answer).toMatchObject({ status: 415, body: { detail: 'The body must be JSON in UTF-8.' } });
});

test('a class behind one address saves 200 drafts at once, again and again, and none is refused', async () => {
  expect(LIMITS.perAddress).toBeGreaterThanOrEqual(200 * 30 * 2);
  const entry = { name: 'Class', text: '', machine: 'curlew' };
  const ids = database.write(() => Array.from({ length: 200 }, () => store.create('program', entry).id));
  for (const revision of [1, 2]) {
    const answers = await Promise.all(ids.map((id) => call('PUT', `/api/programs/${id}/draft`, { text: `text ${revision}`, revision })));
    expect(new Set(answers.map((each) => each.status))).toEqual(new Set([200]));
  }
}, 30_000);

test('one document is not saved without end, and the refusal says how long to wait', async () => {
  const { body: created } = await call('POST', '/api/programs', { name: 'Hammered', text: '', machine: 'curlew' });
  const save = () => call('PUT', `/api/programs/${created.id}/draft`, { text: '', revision: 0 });
  const answers = await Promise.all(Array.from({ length: TEST_LIMITS.perDocument + 3 }, save));
  const refused = answers.filter((each) => each.status === 429);
  expect(refused).toHaveLength(3);
  expect(refused[0]).toMatchObject({ body: { detail: expect.stringMatching(/from this address.*Nothing is lost/) } });
  expect(Number(refused[0]!.headers.get('retry-after'))).toBeGreaterThan(0);
});

function started(env: Record<string, string>): Promise<{ code: number | null; error: string }> {
  const process_ = spawn(process.execPath, [join(root, 'server/dist/main.js')], {
    env: { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: join(folder, 'start.sqlite'), ...env },
  });
  let error = '';
  process_.stderr.on('data', (text) => (error += String(text)));
  return new Promise((resolve) => process_.on('exit', (code) => resolve({ code, error })));
}

test.each<[string, Record<string, string>, RegExp]>([
  ['a level of the log that is none', { LOG_LEVEL: 'loud' }, /^LOG_LEVEL is “loud”; it is one of: trace, .*silent\.\n$/],
  ['an empty port', { PORT: '' }, /^PORT is “”; a port is a whole number/],
  ['a port in another notation', { PORT: '0x12' }, /^PORT is “0x12”/],
  ['a root without Zettak', { ZETTAK_ROOT: tmpdir() }, /^ZETTAK_ROOT is “.*no server\/drizzle in it/],
  [
    'an address that others reach',
    { ZETTAK_HOST: '0.0.0.0' },
    /^ZETTAK_HOST is “0\.0\.0\.0”, which other computers reach, and there is no passphrase/,
  ],
  ['a database that is none', { ZETTAK_DATABASE: join(root, 'package.json') }, /package\.json is no database/],
])('%s ends the start with one sentence', async (_, env, sentence) => {
  const { code, error } = await started(env);
  expect(error).toMatch(sentence);
  expect(error.trim().split('\n')).toHaveLength(1);
  expect(code).toBe(1);
});

test('two host headers are refused', async () => {
  const { port } = server.address() as AddressInfo;
  const answer = await new Promise<string>((resolve) => {
    const socket = connect(port, '127.0.0.1', () =>
      socket.write('GET /api/health HTTP/1.1\r\nHost: localhost\r\nHost: harbour.example\r\n\r\n'),
    );
    socket.once('data', (data) => (resolve(String(data)), socket.destroy()));
  });
  expect(answer).toMatch(/^HTTP\/1\.1 400 [\s\S]*A request names one host\./);
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
});

test('what is removed leaves the shelf, comes back, and is gone only when it is deleted for good', async () => {
  const machine = (await call('POST', '/api/machines', { name: 'Stint', text: 'machine: Stint\n' })).body;
  const program = (await call('POST', '/api/programs', { name: 'ebb', text: '; ebb', machine: machine.id })).body;
  await call('POST', '/api/parts', { name: 'ebbing', text: '', machine: machine.id });
  await call('POST', `/api/programs/${program.id}/versions`, { revision: 1 });
  expect(await call('DELETE', `/api/machines/${machine.id}`)).toMatchObject({
    status: 422,
    body: { detail: '“ebb” is for this machine. Remove what is for it first.' },
  });
  expect(await call('DELETE', `/api/programs/${program.id}?for=good`)).toMatchObject({ status: 422 });
  expect(await call('DELETE', `/api/programs/${program.id}`)).toMatchObject({ status: 204 });
  expect(await call('DELETE', `/api/machines/${machine.id}`)).toMatchObject({ status: 204 });
  const ids = async (path: string): Promise<string[]> => (await call('GET', path)).body.map((each: { id: string }) => each.id);
  expect(await ids('/api/programs')).not.toContain(program.id);
  expect(await ids('/api/programs?all=yes')).toContain(program.id);
  // A program that comes back brings its machine.
  expect((await call('POST', `/api/programs/${program.id}/back`)).body).toMatchObject({ removedAt: null, draft: '; ebb' });
  expect(await ids('/api/machines')).toContain(machine.id);
  await call('DELETE', `/api/programs/${program.id}`);
  await call('DELETE', `/api/machines/${machine.id}`);
  expect(await call('DELETE', `/api/machines/${machine.id}?for=good`)).toMatchObject({ status: 422 });
  expect(await call('DELETE', `/api/programs/${program.id}?for=good`)).toMatchObject({ status: 204 });
  expect(await call('DELETE', `/api/machines/${machine.id}?for=good`)).toMatchObject({ status: 204 });
  expect(await call('GET', `/api/machines/${machine.id}`)).toMatchObject({ status: 404 });
  // What the course kept for it is gone with it.
  expect(await call('GET', '/api/parts/ebbing')).toMatchObject({ status: 404 });
});

test('a backup holds everything; put back it adds what is missing, and overwrites nothing', async () => {
  const machine = (await call('POST', '/api/machines', { name: 'Godwit', text: 'machine: Godwit\n' })).body;
  const program = (await call('POST', '/api/programs', { name: 'flood', text: 'first', machine: machine.id })).body;
  await call('POST', `/api/programs/${program.id}/versions`, { revision: 1 });
  const backup = (await call('GET', '/api/backup')).body;
  const whatOf = (body: { restored: { what: string }[] }) => [...new Set(body.restored.map((each) => each.what))];
  expect(whatOf((await call('POST', '/api/backup', backup)).body)).toEqual(['same']);
  await call('PUT', `/api/programs/${program.id}/draft`, { text: 'second', revision: 1 });
  const beside = (await call('POST', '/api/backup', backup)).body.restored.find((each: { what: string }) => each.what === 'beside');
  expect(beside).toMatchObject({ id: 'flood-2', name: 'flood (from backup)' });
  expect((await call('GET', '/api/programs/flood-2')).body).toMatchObject({ draft: 'first', versions: [{ number: 1 }] });
  expect((await call('GET', `/api/programs/${program.id}`)).body.draft).toBe('second');
  for (const each of ['flood-2', program.id]) {
    await call('DELETE', `/api/programs/${each}`);
    await call('DELETE', `/api/programs/${each}?for=good`);
  }
  expect((await call('POST', '/api/backup', backup)).body.restored).toContainEqual({ id: program.id, name: 'flood', what: 'added' });
  expect((await call('GET', `/api/programs/${program.id}/versions/1`)).body).toMatchObject({ text: 'first' });
  expect(await call('POST', '/api/backup', { ...backup, format: 'other' })).toMatchObject({
    status: 400,
    body: { detail: expect.stringMatching(/no backup of Zettak/) },
  });
  const lost = backup.documents
    .filter((each: { kind: string }) => each.kind === 'program')
    .slice(0, 1)
    .map((each: object) => ({ ...each, id: 'lost', machine: 'nowhere' }));
  expect(await call('POST', '/api/backup', { ...backup, documents: lost })).toMatchObject({ status: 422 });
});

test('everything is there again after a restart, and the course is not seeded twice', async () => {
  const before = (await call('GET', '/api/programs')).body;
  await shut();
  await listen(join(folder, 'test.sqlite'));
  expect((await call('GET', '/api/programs')).body).toEqual(before);
});

test('a machine is read on another thread: meanwhile others are answered, and what takes too long is given up', async () => {
  const text = readFileSync(join(root, 'demo/machines/gannet.yaml'), 'utf8');
  const forms = Array.from(
    { length: 800 },
    (_, at) => `  OP${at}: {forms: [{write: 'OP${at}', code: single opcode=15 detail=7, execute: 'halt'}]}`,
  );
  const large = text.replace('\ninstructions:\n', `\ninstructions:\n${forms.join('\n')}\n`);
  let answered = 0;
  const reading = services.checker.machineErrors({ text: large, bases: {} });
  const ended = reading.then(() => true);
  for (let open = true; open && answered < 1000;) {
    expect((await fetch(`${base}/api/health`)).status).toBe(200);
    answered++;
    open = !(await Promise.race([ended, new Promise<false>((resolve) => setImmediate(() => resolve(false)))]));
  }
  expect((await reading).length).toBeGreaterThan(0);
  expect(answered).toBeGreaterThan(3);
  const hasty = startChecker(join(threads, 'machineErrors.js'), { patience: 1 });
  await expect(hasty.machineErrors({ text: large, bases: {} })).rejects.toMatchObject({
    message: expect.stringMatching(/takes too long/) as string,
  });
  await hasty.close();
  expect(await services.checker.machineErrors({ text: 'based on: Gannet\nmachine: Skua\n', bases: { gannet: text } })).toEqual([]);
}, 60_000);

test('sets belong to one program, go with it, and come back with a backup', async () => {
  const machine = (await call('GET', '/api/machines')).body[0];
  const program = (await call('POST', '/api/programs', { name: 'sluice', text: ' HALT', machine: machine.id })).body;
  expect(await call('POST', '/api/trials', { name: 'sluice', text: '', machine: machine.id })).toMatchObject({ status: 400 });
  expect(await call('POST', '/api/programs', { name: 'x', text: '', machine: machine.id, program: program.id })).toMatchObject({
    status: 400,
  });
  expect(await call('POST', '/api/trials', { name: 'x', text: '', program: 'nowhere' })).toMatchObject({ status: 404 });
  const sets = await call('POST', '/api/trials', { name: 'sluice', text: 'zettak: sets', program: program.id });
  expect(sets).toMatchObject({ status: 201, body: { kind: 'trial', program: program.id, machine: machine.id } });
  expect(await call('POST', '/api/trials', { name: 'again', text: '', program: program.id })).toMatchObject({
    status: 422,
    body: { detail: 'This program has its sets already.' },
  });
  const backup = (await call('GET', '/api/backup')).body;
  await call('DELETE', `/api/programs/${program.id}`);
  expect(await call('DELETE', `/api/programs/${program.id}?for=good`)).toMatchObject({ status: 204 });
  expect(await call('GET', `/api/trials/${sets.body.id}`)).toMatchObject({ status: 404 });
  const back = (await call('POST', '/api/backup', backup)).body.restored;
  expect(back.filter((each: { what: string }) => each.what === 'added').map((each: { name: string }) => each.name)).toEqual([
    'sluice',
    'sluice',
  ]);
  await call('PUT', `/api/trials/${sets.body.id}/draft`, { text: 'another', revision: sets.body.revision });
  expect((await call('POST', '/api/backup', backup)).body.restored).toContainEqual({ id: sets.body.id, name: 'sluice', what: 'left out' });
  expect((await call('GET', `/api/trials/${sets.body.id}`)).body.draft).toBe('another');
});

test('results are kept of the newest states of a program, and go with it', async () => {
  const machine = (await call('GET', '/api/machines')).body[0];
  const program = (await call('POST', '/api/programs', { name: 'weir', text: ' HALT', machine: machine.id })).body;
  const keyOf = (state: number): string => `abcdef0${state}`;
  for (let state = 0; state < 8; state++)
    expect(await call('PUT', `/api/results/${program.id}/${keyOf(state)}`, { rows: `[${state}]` })).toMatchObject({ status: 204 });
  await call('PUT', `/api/results/${program.id}/${keyOf(7)}`, { rows: '["again"]' });
  const kept = (await call('GET', `/api/results/${program.id}`)).body;
  expect(kept).toHaveLength(5);
  expect(kept).toContainEqual({ key: keyOf(7), rows: '["again"]', createdAt: expect.any(String) });
  expect(await call('PUT', `/api/results/${program.id}/no%20key`, { rows: '' })).toMatchObject({ status: 400 });
  expect(await call('PUT', `/api/results/nowhere/${keyOf(1)}`, { rows: '' })).toMatchObject({ status: 404 });
  expect(await call('PUT', `/api/results/${machine.id}/${keyOf(1)}`, { rows: '' })).toMatchObject({ status: 404 });
  expect(await call('PUT', `/api/results/${program.id}/${keyOf(1)}`, { rows: 'x'.repeat(3_600_000) })).toMatchObject({ status: 400 });
  await call('DELETE', `/api/programs/${program.id}`);
  await call('DELETE', `/api/programs/${program.id}?for=good`);
  expect((await call('GET', `/api/results/${program.id}`)).body).toEqual([]);
});

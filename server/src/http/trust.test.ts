import { spawn } from 'node:child_process';
import { closeSync, copyFileSync, mkdirSync, mkdtempSync, openSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync } from 'node:zlib';
import express from 'express';
import Sqlite from 'libsql';
import { Together } from '../database/together';
import { DatabaseProblem } from '../database/database';
import { createAttempts } from '../access/attempts';
import { testServer, type TestServer } from '../testing/server';
import { compressedFiles } from './compressed';

const ID = 'quay-count';
const STUDENT = { 'x-zettak-student': 'student-token-of-bench-40' };
let server: TestServer;
beforeAll(async () => {
  server = await testServer();
}, 60_000);
afterAll(() => server.close());

test('every save of a batch is answered, also where its transaction cannot begin', async () => {
  const problem = new DatabaseProblem('Another program is using the database.');
  const busy = new Together({ free: () => Promise.reject(problem), write: (act) => act() });
  const moved = new Together({
    free: () => Promise.resolve(),
    write: () => {
      throw problem;
    },
  });
  for (const each of [busy, moved]) {
    const saves = await Promise.allSettled([each.add(() => 1), each.add(() => 2), each.add(() => 3)]);
    expect(saves.map((one) => one.status === 'rejected' && one.reason === problem)).toEqual([true, true, true]);
  }
});

test('while another program writes, saves wait, the server answers, and nothing is lost', async () => {
  const link = (await server.call('POST', `/api/assignments/${ID}/link`)).body.token as string;
  const file = server.database.pragma('database_list');
  const list = server.database.queries.all<{ file: string }>('PRAGMA database_list');
  expect([file, list.length]).toEqual([0, 1]);
  const other = new Sqlite(list[0]!.file);
  other.exec('BEGIN IMMEDIATE');
  const saves = [1, 2, 3].map((at) =>
    server.call('PUT', '/api/work/draft', { content: `draft ${at}` }, { ...STUDENT, 'x-zettak-link': link }),
  );
  const course = server.call('POST', '/api/courses', { name: 'waits' });
  let answered = 0;
  for (const each of [...saves, course]) void each.then(() => answered++);
  for (let turn = 0; turn < 3; turn++) expect((await server.call('GET', '/api/health')).status).toBe(200);
  expect(answered).toBe(0);
  other.exec('COMMIT');
  other.close();
  expect((await Promise.all([...saves, course])).map((each) => each.status)).toEqual([204, 204, 204, 201]);
});

test('verdicts that the database refused are saved later, and “check again” takes what seems to run', async () => {
  const { handIns } = server.services;
  const finish = handIns.finish;
  let refused = 0;
  handIns.finish = (finished) => {
    if (refused++ < 2) throw new DatabaseProblem('The disk is full.');
    return finish(finished);
  };
  await server.call('POST', `/api/assignments/${ID}/checks`);
  await server.checked(ID);
  expect(refused).toBeGreaterThan(2);
  handIns.finish = finish;
  server.database.queries.run("UPDATE checks SET state = 'running'");
  await server.call('POST', `/api/assignments/${ID}/checks`);
  await server.checked(ID);
  expect(server.database.queries.all("SELECT * FROM checks WHERE state != 'done'")).toEqual([]);
}, 60_000);

test.each([
  ['a NUL', '{"name":"tide\\u0000gauge"}', /NUL/],
  ['bytes that are not UTF-8', Buffer.from([0x7b, 0x22, 0xff, 0xfe, 0x22, 0x7d]), /UTF-8/],
])('%s in a text is refused with a sentence, and never cut', async (_, body, says) => {
  const response = await fetch(`${server.base}/api/courses`, { method: 'POST', headers: { 'content-type': 'application/json' }, body });
  expect([response.status, await response.text()]).toEqual([422, expect.stringMatching(says)]);
});

test('a backslash before “u0000” is a text like any other', async () => {
  const { status, body } = await server.call('POST', '/api/courses', '{"name":"a \\\\u0000 b"}');
  expect([status, body.name]).toEqual([201, 'a \\u0000 b']);
});

test('one page too many is refused before its stream begins, and leaves nothing behind', async () => {
  const { token } = (await server.call('POST', '/api/share')).body as { token: string };
  const { sharing } = server.services;
  const leaves = Array.from({ length: 250 }, () => sharing.follow(token, { send: () => undefined, isBusy: () => false }));
  const refused = await server.call('GET', '/api/work/follow/events', undefined, { 'x-zettak-link': token });
  expect(refused).toMatchObject({ status: 503, body: { detail: expect.stringMatching(/no room/) as string } });
  leaves.forEach((leave) => leave());
});

test('answers are compressed for whoever takes that, and streams of events are not', async () => {
  const answer = await fetch(`${server.base}/api/assignments/${ID}/matrix`, { headers: { 'accept-encoding': 'gzip' } });
  expect(answer.headers.get('content-encoding')).toBe('gzip');
  const abort = new AbortController();
  const stream = await fetch(`${server.base}/api/assignments/${ID}/events`, {
    headers: { 'accept-encoding': 'gzip' },
    signal: abort.signal,
  });
  expect(stream.headers.get('content-encoding')).toBeNull();
  abort.abort();
});

test('pages are sent as the build has compressed them, with their type, for as long as a browser likes', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zettak-pages-'));
  mkdirSync(join(folder, 'assets'));
  const text = 'export const tide = 158;\n'.repeat(100);
  writeFileSync(join(folder, 'assets/a.js'), text);
  writeFileSync(join(folder, 'assets/a.js.br'), brotliCompressSync(text));
  writeFileSync(join(folder, 'assets/b.js'), text);
  const app = express().use(compressedFiles(folder)).use(express.static(folder));
  const held: Server = createServer(app).listen(0, '127.0.0.1');
  await new Promise((resolve) => held.once('listening', resolve));
  const at = `http://127.0.0.1:${(held.address() as AddressInfo).port}`;
  const got = async (path: string, encoding: string) => {
    const { headers, ...rest } = await fetch(at + path, { headers: { 'accept-encoding': encoding } }).then(async (each) => ({
      headers: each.headers,
      text: await each.text(),
    }));
    return [headers.get('content-encoding'), headers.get('content-type'), headers.get('vary'), rest.text === text];
  };
  expect(await got('/assets/a.js', 'br')).toEqual(['br', 'text/javascript; charset=utf-8', 'Accept-Encoding', true]);
  expect(await got('/assets/a.js', 'identity')).toEqual([null, 'text/javascript; charset=utf-8', 'Accept-Encoding', true]);
  expect(await got('/assets/b.js', 'br')).toEqual([null, 'text/javascript; charset=utf-8', 'Accept-Encoding', true]);
  held.close();
  held.closeAllConnections();
  rmSync(folder, { recursive: true });
});

test('wrong passphrases cost longer and longer, by address; a browser that signed in before has a count of its own', () => {
  let time = 0;
  const secret = { get: () => undefined, set: () => undefined, secret: () => 'ab' };
  const attempts = createAttempts({ settings: secret, now: () => new Date(time), secure: false });
  const from = (ip: string, cookie?: string) => ({ ip, socket: { remoteAddress: ip }, headers: { cookie } }) as never;
  const school = from('10.1.2.3');
  const waits = Array.from({ length: 16 }, () => {
    attempts.made(school);
    return attempts.secondsToWait(school);
  });
  expect(waits).toEqual([0, 0, 0, 0, 1, 2, 4, 8, 16, 32, 64, 128, 256, 300, 300, 300]);
  expect([attempts.secondsToWait(from('10.9.9.9')), attempts.secondsToWait(from('127.0.0.1'))]).toEqual([0, 0]);
  let cookie = '';
  attempts.succeeded(from('10.9.9.9'), { cookie: (name: string, value: string) => void (cookie = `${name}=${value}`) } as never);
  const proxied = { ip: '127.0.0.1', socket: { remoteAddress: '127.0.0.1' }, headers: { 'x-forwarded-for': '10.1.2.3' } } as never;
  for (let turn = 0; turn < 8; turn++) attempts.made(proxied);
  expect(attempts.secondsToWait(proxied)).toBe(8);
  expect(attempts.secondsToWait(from('10.1.2.3', cookie))).toBe(0);
  expect(
    attempts.secondsToWait(
      from(
        '10.1.2.3',
        cookie.replace(/.$/, (each) => (each === 'A' ? 'B' : 'A')),
      ),
    ),
  ).toBe(300);
  time += 300_000;
  expect(attempts.secondsToWait(school)).toBe(0);
});

test('a server whose log has no room goes on answering', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zettak-full-'));
  const held = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => held.once('listening', resolve));
  const { port } = held.address() as AddressInfo;
  await new Promise((resolve) => held.close(resolve));
  const root = join(__dirname, '../../..');
  const env = { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: join(folder, 'full.sqlite'), PORT: String(port), LOG_LEVEL: 'trace' };
  const full = openSync('/dev/full', 'w');
  copyFileSync(join(root, '.cache/filled.sqlite'), join(folder, 'full.sqlite'));
  const child = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, stdio: ['ignore', full, full] });
  const ended = new Promise((resolve) => child.once('exit', resolve));
  const health = (): Promise<number> =>
    fetch(`http://127.0.0.1:${port}/api/health`).then(
      (each) => each.status,
      () => 0,
    );
  for (let turn = 0; turn < 400 && (await health()) === 0; turn++) await new Promise((resolve) => setTimeout(resolve, 50));
  for (let turn = 0; turn < 300; turn++) expect(await health()).toBe(200);
  child.kill('SIGTERM');
  await ended;
  closeSync(full);
  rmSync(folder, { recursive: true });
});

const DOCUMENT = {
  ...{ id: 'tern', kind: 'machine', name: 'Tern', machine: null, program: null, draft: '', revision: 1 },
  ...{ createdAt: '2026-11-26', updatedAt: '2026-11-26', removedAt: null, versions: [] as object[] },
};
const VERSION = { number: 1, text: '', machineVersion: null, language: 1, createdAt: '2026-11-26' };
const SETS = { ...DOCUMENT, kind: 'trial', machine: 'tern', program: 'p' };

test.each([
  ['a doubled id', [DOCUMENT, DOCUMENT], /two documents “tern”/],
  ['a doubled version', [{ ...DOCUMENT, versions: [VERSION, VERSION] }], /“Tern” has two versions 1/],
  ['a program without its machine', [{ ...DOCUMENT, kind: 'program' }], /“Tern” names no machine/],
  ['sets without a program', [{ ...SETS, program: null }], /name no program/],
  ['two documents of sets for one program', [DOCUMENT, { ...SETS, id: 'a' }, { ...SETS, id: 'b' }], /two documents of data sets/],
])('a backup with %s is refused in a sentence', async (_, documents, says) => {
  const { status, body } = await server.call('POST', '/api/backup', { format: 'zettak backup', version: 1, documents });
  expect([status, body.detail]).toEqual([400, expect.stringMatching(says)]);
  expect(body.detail).toMatch(/Nothing was put back/);
});

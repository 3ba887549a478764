import { createServer } from 'node:http';
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, extname, join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { enter as enterAs, linkFrom as linkOf, OWN, write } from './classroom';
import { byId, chooseFile, press, ready, sharedHarness, textOf, until } from './support';

const PASSPHRASE = 'seven herring gulls';
const harness = sharedHarness({ passphrase: PASSPHRASE, name: 'harbour.class' });
const folder = mkdtempSync(join(tmpdir(), 'zettak-hand-in-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const root = join(__dirname, '..');
const enter = (): Promise<Page> => enterAs(harness, PASSPHRASE);
const linkFrom = (teacher: Page): Promise<string> => linkOf(harness, teacher);

/** Rows that are far down are not drawn until somebody looks for them. */
async function row(teacher: Page, label: string, pattern: RegExp): Promise<void> {
  await teacher.click(byId('find-label'), { count: 3 });
  await teacher.keyboard.type(label);
  await until(teacher, `[data-hand-in="${label}"]`, pattern);
}

/** Files that a page saves come here. */
async function downloads(page: Page): Promise<string> {
  const client = await page.createCDPSession();
  await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: folder, browserContextId: page.browserContext().id });
  return folder;
}

async function downloaded(pattern: RegExp): Promise<string> {
  for (let turn = 0; turn < 200; turn++) {
    const found = readdirSync(folder).find((each) => pattern.test(each));
    if (found) return join(folder, found);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`Nothing like ${pattern} was saved; there is: ${readdirSync(folder).join(', ')}`);
}

test('everything but a student’s own page asks for the passphrase, and a wrong one is refused', async () => {
  const page = await harness.open('/bench');
  await page.waitForSelector(byId('sign-in'));
  await page.type(byId('passphrase'), 'not this one');
  await page.click(byId('enter'));
  await until(page, byId('sign-in'), /That is not the passphrase/);
  const student = await harness.open('/w/quay-count', { apart: true });
  await until(student, byId('work-failure'), /opened by the link/);
});

test('whoever signs out leaves nothing behind: the door is shown, and the browser has forgotten what it saw', async () => {
  const page = await enter();
  await page.goto(`${harness.address}/programs`);
  await page.waitForSelector(byId('sign-out'));
  const seen = (): Promise<number> =>
    page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          const asked = indexedDB.open('zettak-answers');
          asked.onsuccess = () => {
            const { result } = asked;
            if (!result.objectStoreNames.contains('answers')) return resolve(0);
            const count = result.transaction('answers').objectStore('answers').count();
            count.onsuccess = () => resolve(count.result);
          };
        }),
    );
  while ((await seen()) === 0) await new Promise((resolve) => setTimeout(resolve, 50));
  await Promise.all([page.waitForNavigation(), page.click(byId('sign-out'))]);
  await page.waitForSelector(byId('sign-in'));
  expect([await seen(), await page.evaluate(() => sessionStorage.length)]).toEqual([0, 0]);
  expect(await page.evaluate(async () => (await fetch('/api/programs')).status)).toBe(401);
});

test('a student writes, tries and hands in under a name that is not local; the teacher sees it come', async () => {
  const teacher = await enter();
  const student = await harness.open(await linkFrom(teacher), { apart: true });
  await until(student, byId('task'), /Count those that reach the quay edge.*3 lines of the program are given.*checked with 4 more sets/s);
  await until(student, byId('plain-http'), /comes over plain HTTP/);
  expect(await student.evaluate(() => [location.hash, window.isSecureContext, crypto.subtle === undefined])).toEqual(['', false, true]);
  await student.click(byId('to-bench'));
  await ready(student);
  await write(student, OWN.replace('JUMPC below', 'JUMPN below'));
  await until(student, byId('save-state'), /^saved$/);
  await student.$$eval('nav a', (links) => links.find((each) => each.textContent === 'Task')!.click());
  await student.waitForSelector(byId('try-shown'));
  await student.click(byId('try-shown'));
  await until(student, byId('shown-sets'), /✓ calm.*✓ spring tide.*✗ just the edge.*count: expected 2, came 3/s);
  expect(await textOf(student, byId('task'))).not.toMatch(/low water/);
  await student.type(byId('work-label'), 'bench 40');
  await student.click(byId('hand-in'));
  await until(student, byId('work-said'), /Handed in as bench 40/);
  await until(student, byId('receipts'), /bench 40no\. 1/);
  await row(teacher, 'bench 40', /✓✓✗.*4 of 7/);
  await teacher.click('[data-hand-in="bench 40"]');
  await until(teacher, byId('mistake'), /With JUMPC in place of JUMPN/);
  // Again, and better: the earlier one is kept.
  await student.goto(`${harness.address}/w/quay-count/bench`);
  await ready(student);
  await write(student, OWN);
  await until(student, byId('save-state'), /^saved$/);
  await student.goto(`${harness.address}/w/quay-count/task`);
  await student.waitForSelector(`${byId('hand-in')}:not(:disabled)`);
  await student.click(byId('hand-in'));
  await until(student, byId('receipts'), /no\. 2.*no\. 1/s);
  await row(teacher, 'bench 40', /2nd.*7 of 7/);
  const bundle = await teacher.evaluate(async () => {
    const { rows } = (await (await fetch('/api/assignments/quay-count/matrix')).json()) as { rows: { id: number; label: string }[] };
    const { id } = rows.find((each) => each.label === 'bench 40')!;
    return JSON.parse(((await (await fetch(`/api/hand-ins/${id}`)).json()) as { bundle: string }).bundle) as {
      journal: { what: string }[];
    };
  });
  expect(new Set(bundle.journal.map((each) => each.what))).toEqual(new Set(['opened', 'edited', 'assembled', 'tried', 'handed in']));
});

test('without the server a hand-in becomes a file, which the teacher brings in later', async () => {
  const teacher = await enter();
  const student = await harness.open(await linkFrom(teacher), { apart: true });
  await student.waitForSelector(byId('task'));
  await downloads(student);
  await student.type(byId('work-label'), 'bench 41');
  await harness.stopServer();
  await student.click(byId('hand-in'));
  await until(student, byId('work-said'), /saved as “bench 41\.hand-in\.json”/);
  const file = await downloaded(/^bench 41\.hand-in\.json$/);
  await harness.startServer();
  await teacher.reload();
  await teacher.waitForSelector('[data-hand-in="bench 02"]', { timeout: 30_000 });
  await chooseFile(teacher, byId('bring-files'), file);
  await until(teacher, byId('bring'), /One hand-in was found.*The labels of 1 are clear: bench 41/s);
  await teacher.click(byId('bring-send'));
  await teacher.waitForSelector(byId('bring'), { hidden: true });
  await row(teacher, 'bench 41', /0 of 7/);
  expect(await textOf(teacher, '[data-hand-in="bench 41"]')).not.toMatch(/changed since/);
  writeFileSync(file, readFileSync(file, 'utf8').replace('LOADX #0', 'LOADX #1').replace('bench 41', 'bench 42'));
  await chooseFile(teacher, byId('bring-files'), file);
  await teacher.waitForSelector(byId('bring-send'));
  await teacher.click(byId('bring-send'));
  await teacher.waitForSelector(byId('bring'), { hidden: true });
  await row(teacher, 'bench 42', /changed since hand-in/);
});

test('after its end an assignment can still be handed in, which is late; before its opening nothing is shown', async () => {
  const teacher = await enter();
  const set = (times: { opensAt: string | null; closesAt: string | null }): Promise<unknown> =>
    teacher.evaluate(async (change) => {
      const { revision } = (await (await fetch('/api/assignments/quay-count')).json()) as { revision: number };
      const headers = { 'content-type': 'application/json', 'x-zettak': '1' };
      return (await fetch('/api/assignments/quay-count', { method: 'PUT', headers, body: JSON.stringify({ revision, ...change }) })).status;
    }, times);
  const link = await linkFrom(teacher);
  expect(await set({ opensAt: '2999-01-01T00:00:00Z', closesAt: null })).toBe(200);
  const early = await harness.open(link, { apart: true });
  await until(early, byId('not-open'), /Quay count opens/);
  expect(await set({ opensAt: null, closesAt: '2020-01-01T00:00:00Z' })).toBe(200);
  const late = await harness.open(link, { apart: true });
  await until(late, byId('task'), /what comes now is late/);
  await late.type(byId('work-label'), 'bench 43');
  await late.click(byId('hand-in'));
  await until(late, byId('receipts'), /bench 43.*late/);
  await row(teacher, 'bench 43', /late/);
  expect(await set({ opensAt: null, closesAt: null })).toBe(200);
});

const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.json': 'application/json',
  '.svg': 'image/svg+xml',
};

test('a lesson in a folder: any file server serves it, the whole bench works, and goes on working without it', async () => {
  const teacher = await enter();
  const files = await teacher.evaluate(
    async () => (await (await fetch('/api/courses/harbour-watch/files')).json()) as Record<string, string>,
  );
  // What a teacher has pinned to the bench comes along.
  const bench = { notes: [{ text: 'Mind the edge.', at: { kind: 'panel', panel: 'flags' } }], hidden: ['memory'] };
  files['quay-count/bench.json'] = JSON.stringify(bench);
  files['course.json'] = files['course.json']!.replace('"frame":', '"bench": "quay-count/bench.json", "frame":');
  const course = join(folder, 'course');
  for (const [path, text] of Object.entries(files)) {
    mkdirSync(dirname(join(course, path)), { recursive: true });
    writeFileSync(join(course, path), text);
  }
  const site = join(folder, 'site');
  const made = spawnSync(process.execPath, [join(root, 'cli/dist/zettak.js'), 'lesson', course, '--out', join(site, 'deep/lesson')]);
  expect(made.stdout.toString()).toMatch(/Harbour watch, one task/);
  const lesson = readFileSync(join(site, 'deep/lesson/lesson.json'), 'utf8');
  for (const secret of ['between the bases', 'low water', 'JUMPC below']) expect(lesson).not.toContain(secret);
  const server = createServer((request, response) => {
    const path = join(site, decodeURIComponent(new URL(request.url!, 'http://x').pathname), request.url!.endsWith('/') ? 'index.html' : '');
    if (!path.startsWith(site) || !existsSync(path) || extname(path) === '') return void response.writeHead(404).end();
    response.writeHead(200, { 'content-type': TYPES[extname(path)] ?? 'application/octet-stream' }).end(readFileSync(path));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = `http://localhost:${(server.address() as AddressInfo).port}/deep/lesson/`;
  const page = await harness.open('/w/none', { apart: true });
  await downloads(page);
  await page.goto(address);
  await until(page, byId('task'), /Count those that reach the quay edge/);
  await page.click(byId('to-bench'));
  await ready(page);
  await until(page, byId('notes-flags'), /Mind the edge\./);
  expect(await page.$('[aria-label="Memory"]')).toBeNull();
  // A link to here works in a folder, too, where the path stands behind the “#”.
  await press(page, '.', '.', '.');
  await until(page, byId('ticks'), /^3$/);
  await page.evaluate(() => Object.defineProperty(navigator, 'clipboard', { value: undefined, configurable: true }));
  await page.click(byId('tool-keep'));
  await page.click(byId('copy-link'));
  const link = await until(page, byId('kept-told'), /\/deep\/lesson\/#\/bench\/[\w-]+\?run=[\w-]+$/);
  const other = await page.browserContext().newPage();
  await other.goto(/http\S+$/.exec(link)![0]);
  await until(other, byId('ticks'), /^3$/);
  await other.close();
  await write(page, OWN);
  await until(page, byId('save-state'), /^saved$/);
  await page.waitForFunction(async () => (await navigator.serviceWorker.ready).active?.state === 'activated', { timeout: 30_000 });
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await page.goto(`${address}#/task`);
  await page.reload();
  await page.waitForSelector(byId('try-shown'));
  await page.click(byId('try-shown'));
  await until(page, byId('shown-sets'), /✓ calm.*✓ spring tide.*✓ just the edge/s);
  await page.type(byId('work-label'), 'bench 44');
  await page.click(byId('save-hand-in'));
  await downloaded(/^bench 44\.hand-in\.json$/);
}, 180_000);

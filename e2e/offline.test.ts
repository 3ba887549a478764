/** Over TLS under a name that is not local: the pages are kept for times without a network, and a newer build is offered. */
import { spawnSync } from 'node:child_process';
import { createHash, X509Certificate } from 'node:crypto';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { enter, linkFrom, OWN, write } from './classroom';
import { byId, editorText, kept, ready, startHarness, until, type Harness } from './support';

const PASSPHRASE = 'seven herring gulls';
const NAME = 'harbour.class';
const root = join(__dirname, '..');
const folder = mkdtempSync(join(tmpdir(), 'zettak-offline-'));

/** Pages that a test can put a newer build over. */
function ownPages(): string {
  const own = join(folder, 'zettak');
  mkdirSync(join(own, 'server'), { recursive: true });
  symlinkSync(join(root, 'server/drizzle'), join(own, 'server/drizzle'));
  symlinkSync(join(root, 'demo'), join(own, 'demo'));
  cpSync(join(root, 'web/dist'), join(own, 'web/dist'), { recursive: true });
  return own;
}

function certificate(): { cert: string; key: string; sum: string } {
  const [cert, key] = [join(folder, 'cert.pem'), join(folder, 'key.pem')];
  const { status, stderr } = spawnSync('openssl', [
    ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1', '-nodes', '-days', '2'],
    ...['-keyout', key, '-out', cert, '-subj', `/CN=${NAME}`, '-addext', `subjectAltName=DNS:${NAME}`],
  ]);
  if (status !== 0) throw new Error(`openssl: ${String(stderr)}`);
  const { publicKey } = new X509Certificate(readFileSync(cert));
  const sum = createHash('sha256')
    .update(publicKey.export({ type: 'spki', format: 'der' }))
    .digest('base64');
  return { cert, key, sum };
}

let harness: Harness;
let pages = '';
beforeAll(async () => {
  pages = ownPages();
  harness = await startHarness({ passphrase: PASSPHRASE, name: NAME, tls: certificate(), folder: pages });
}, 60_000);
afterAll(async () => {
  await harness.close();
  rmSync(folder, { recursive: true, force: true });
});

test('a student goes on without the server; a newer build is offered and takes nothing away', async () => {
  const teacher = await enter(harness, PASSPHRASE);
  const [cookie] = await teacher.browserContext().cookies();
  expect(cookie).toMatchObject({ secure: true, httpOnly: true, sameSite: 'Strict' });
  const link = await linkFrom(harness, teacher);
  const page = await harness.open(link, { apart: true });
  await until(page, byId('task'), /Count those that reach the quay edge/);
  expect(new URL(page.url()).protocol).toBe('https:');
  expect(await page.evaluate(() => window.isSecureContext)).toBe(true);
  await page.click(byId('to-bench'));
  await ready(page);
  await write(page, OWN);
  await until(page, byId('save-state'), /^saved$/);
  await kept(page);

  await harness.stopServer();
  await page.reload();
  await ready(page);
  expect(await editorText(page)).toContain(OWN.split('\n').at(-2)!.trim());

  // Another build of the pages, whose worker keeps its files under another name.
  const shell = join(pages, 'web/dist/shell.js');
  writeFileSync(shell, readFileSync(shell, 'utf8').replace(/(const VERSION = \["[0-9a-f]{8})/, '$1ffff'));
  await harness.startServer();
  await page.reload();
  await ready(page);
  await page.waitForSelector(byId('newer'), { timeout: 30_000 });
  const names = (): Promise<string[]> => page.evaluate(() => caches.keys());
  expect((await names()).filter((each) => each.startsWith('zettak')).length).toBe(2);
  await page.evaluate(() => Object.assign(window, { before: true }));
  await Promise.all([page.waitForNavigation(), page.click(byId('newer'))]);
  await ready(page);
  expect(await page.evaluate(() => 'before' in window)).toBe(false);
  expect(await editorText(page)).toContain(OWN.split('\n').at(-2)!.trim());
  await page.waitForFunction(async () => (await caches.keys()).filter((each) => each.startsWith('zettak')).length === 1);
  expect(await page.$(byId('newer'))).toBeNull();
  expect(harness.errors).toEqual([]);
}, 150_000);

/** The shelves of machines and programs, as a teacher keeps them. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import type { ElementHandle, Page } from 'puppeteer-core';
import { byId, kept, press, ready, rewrite, rewriteDocument, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();
const folder = mkdtempSync(join(tmpdir(), 'zettak-files-'));
afterAll(() => rmSync(folder, { recursive: true }));

const plover = readFileSync(join(__dirname, '../demo/machines/plover.yaml'), 'utf8');

function file(name: string, content: string | Uint8Array): string {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
}

async function give(page: Page, testId: string, ...files: string[]): Promise<void> {
  const input = (await page.waitForSelector(byId(testId))) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(...files);
}

async function act(page: Page, id: string, action: string): Promise<void> {
  await page.waitForSelector(byId(`actions-${id}`));
  await page.click(byId(`actions-${id}`));
  await page.waitForSelector(byId(`actions-${id}-${action}`), { visible: true });
  // It may be on its way to its place still.
  await page.$eval(byId(`actions-${id}-${action}`), (each) => (each as HTMLElement).click());
}

const cards = (page: Page): Promise<string[]> =>
  page.$$eval('[data-card]', (list) => list.map((each) => (each as HTMLElement).dataset.card!));

test('a machine is searched, written once more, derived, renamed, removed, brought back, and deleted for good', async () => {
  const page = await harness.open('/machines');
  await until(page, '[data-card=curlew]', /words of 8 bits, 7 registers, 32 instructions[\s\S]*version 1[\s\S]*for 5 programs/);
  await page.type(byId('search'), 'ov');
  await until(page, byId('found'), /^1 of 4$/);
  expect(await cards(page)).toEqual(['plover']);
  await act(page, 'plover', 'duplicate');
  await until(page, byId('machine-name'), /^Plover-2$/);
  await page.goto(`${harness.address}/machines`);
  await act(page, 'dunlin', 'derive');
  await until(page, byId('machine-name'), /^Dunlin-changed$/);
  await until(page, byId('problem-count'), /none|0 errors/);
  await until(page, byId('outline'), /inherited/);
  await page.goto(`${harness.address}/machines`);
  await act(page, 'plover-2', 'rename');
  await page.waitForSelector(byId('rename-entry'));
  await page.click(byId('rename-entry'), { count: 3 });
  await page.keyboard.type('Snipe');
  await page.keyboard.press('Enter');
  await until(page, '[data-card=plover-2] h2', /^Snipe$/);
  const draft = await page.evaluate(() =>
    fetch('/api/machines/plover-2').then(async (each) => ((await each.json()) as { draft: string }).draft),
  );
  expect(draft).toBe(plover.replace('machine: Plover', 'machine: Snipe'));
  // Programs keep their machine on the shelf.
  await act(page, 'curlew', 'remove');
  await until(page, '[role=alert]', /and 4 more are for this machine\. Remove what is for it first\./);
  await act(page, 'plover-2', 'remove');
  await page.waitForFunction(() => !document.querySelector('[data-card=plover-2]'));
  expect(await page.evaluate(() => document.activeElement?.getAttribute('data-testid'))).toBe('search');
  await page.click(byId('undo-remove'));
  await page.waitForSelector('[data-card=plover-2]');
  await act(page, 'plover-2', 'remove');
  await page.waitForFunction(() => !document.querySelector('[data-card=plover-2]'));
  await page.waitForSelector(`${byId('removed')} button`);
  await page.click(`${byId('removed')} button`);
  await until(page, byId('removed'), /Snipe/);
  await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[data-testid=removed] button')].find((each) => each.textContent === 'Delete …')?.click(),
  );
  await page.waitForSelector(byId('destroy'));
  await page.click(byId('destroy'));
  await page.waitForFunction(() => !document.querySelector('[data-testid=removed]'));
  expect(await page.evaluate(() => fetch('/api/machines/plover-2').then((each) => each.status))).toBe(404);
});

test('files are taken in, several at once; what cannot be is told file by file, and nothing else is lost', async () => {
  const page = await harness.open('/machines');
  await page.waitForSelector('[data-card=plover]');
  await give(
    page,
    'import',
    file('good.yaml', plover.replace('machine: Plover', 'machine: Godwit')),
    file('same.yaml', plover),
    file('faulty.yaml', plover.replace('machine: Plover', 'machine: Faulty').replace('rule: zero', 'rule: zerro')),
    file('two.yaml', 'machine: Two\n---\nmachine: Other\n'),
    file('later.yaml', 'machine: Later\nlanguage: 999\n'),
    file('tabs.yaml', 'machine: Tabs\nword:\n\tbits: 8\n'),
    file('empty.yaml', ''),
    file('huge.yaml', `machine: Huge\n${'# remark\n'.repeat(600_000)}`),
    file('picture.yaml', new Uint8Array([137, 80, 78, 71, 0, 0, 13])),
    file('program.asm', ' HALT\n'),
    file('broken.zip', new Uint8Array([80, 75, 3, 4, 1, 2])),
    file(
      'all.zip',
      zipSync({ 'machines/Whimbrel.yaml': strToU8(plover.replace('machine: Plover', 'machine: Whimbrel')), 'readme.md': strToU8('no') }),
    ),
  );
  const said = await until(page, byId('taken'), /Whimbrel/);
  for (const words of [
    /good\.yaml: taken as Godwit, version 1\./,
    /same\.yaml: taken as Plover-2, version 1\./,
    /faulty\.yaml: taken as Faulty, with 1 error\. Line \d+: flags, Z, rule: one of these words is expected here/,
    /two\.yaml: taken as Two, with 1 error\. Line \d+: .*second document|two\.yaml: taken as Two, with 1 error/,
    /later\.yaml: taken as Later, with 1 error\. Line 2: .*999/,
    /tabs\.yaml: taken as Tabs, with 1 error\. Line 3: .*tab/i,
    /empty\.yaml: It is empty\./,
    /huge\.yaml: It has 5\.4 MB; a machine or program has at most 1 MB\./,
    /picture\.yaml: It is no text\./,
    /program\.asm: A machine’s file ends in \.yaml/,
    /broken\.zip: It is no ZIP that can be read\./,
    /all\.zip|Whimbrel\.yaml: taken as Whimbrel, version 1\./,
  ])
    expect(said).toMatch(words);
  await page.waitForFunction(() => document.querySelectorAll('[data-card]').length >= 11);
  expect(await cards(page)).toEqual(expect.arrayContaining(['godwit', 'faulty', 'whimbrel']));
  await until(page, '[data-card=faulty] [data-verdict="1"]', /1 error in the draft/);
});

test('a backup is made and put back after a look at what would come; nothing is overwritten', async () => {
  const page = await harness.open('/programs');
  await page.waitForSelector('[data-card=foghorn]');
  const backup = await page.evaluate(() => fetch('/api/backup').then((each) => each.text()));
  const path = file('backup.json', backup);
  await act(page, 'foghorn', 'remove');
  await page.waitForFunction(() => !document.querySelector('[data-card=foghorn]'));
  for (const query of ['', '?for=good']) await page.evaluate((more) => fetch(`/api/programs/foghorn${more}`, { method: 'DELETE' }), query);
  await page.click(byId('backup'));
  await give(page, 'restore-file', file('other.json', '{"format": "other"}'));
  await until(page, `${byId('backup-window')} [role=alert]`, /other\.json: This is no backup of Zettak\./);
  await give(page, 'restore-file', path);
  await until(page, byId('restore-preview'), /^2 of \d+ documents would come\. Nothing that is here is overwritten\.$/);
  await page.click(byId('restore'));
  await until(page, byId('backup-window'), /2 came back, 0 stand beside what is here/);
  await page.keyboard.press('Escape');
  await page.waitForSelector('[data-card=foghorn]');
});

test('programs are compared, and moved to a newer version of their machine after a look at what that changes', async () => {
  const page = await harness.open('/programs');
  await until(page, '[data-card=foghorn]', /Plover 1[\s\S]*9 of 200 cells[\s\S]*not run yet/);
  await act(page, 'foghorn', 'duplicate');
  await page.waitForSelector('[data-card=foghorn-2]');
  await act(page, 'foghorn-2', 'compare');
  await page.waitForSelector(`${byId('compared')} .cm-content`);
  await until(page, byId('compare'), /They say the same/);
  await page.select(byId('compare-with'), 'flood-sum');
  await page.waitForSelector(`${byId('compared')} .cm-changedLine`);
  await page.keyboard.press('Escape');
  await page.evaluate(async () => {
    const { draft, revision } = (await (await fetch('/api/machines/plover')).json()) as { draft: string; revision: number };
    const send = (method: string, path: string, body: unknown) =>
      fetch(`/api/machines/plover${path}`, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    const text = draft.replace('ACC <- ACC - MDR ; flags Z N C', 'ACC <- ACC - MDR\n          compare ACC ; flags Z N');
    await send('PUT', '/draft', { text, revision });
    await send('POST', '/versions', { revision: revision + 1 });
  });
  await page.reload();
  await until(page, '[data-card=foghorn]', /Plover 1, newest 2/);
  await act(page, 'foghorn', 'move');
  await until(page, byId('move-preview'), /The program .+\./);
  await until(page, byId('move'), /SUB address leaves C alone now/);
  await page.click(byId('do-move'));
  await until(page, '[data-card=foghorn]', /Plover 2 · version 2/);
});

test('two pages with one machine: the later save is told, and shown what differs; nothing is overwritten', async () => {
  const [one, other] = [await harness.open('/machines/gannet'), await harness.open('/machines/gannet')];
  for (const page of [one, other]) await until(page, byId('problem-count'), /none|error/);
  const text = readFileSync(join(__dirname, '../demo/machines/gannet.yaml'), 'utf8');
  await rewriteDocument(one, text.replace('title: status word', 'title: word of flags'));
  await until(one, byId('save-state'), /^saved$/);
  await rewriteDocument(other, text.replace('title: link register', 'title: way back'));
  await until(other, byId('save-state'), /saved elsewhere meanwhile/);
  await other.click(byId('show-difference'));
  await other.waitForSelector(`${byId('difference')} .cm-changedLine`);
  expect(await textOf(other, byId('difference'))).toMatch(/word of flags[\s\S]*way back/);
  await other.keyboard.press('Escape');
  await other.evaluate(() => [...document.querySelectorAll('button')].find((each) => each.textContent === 'Take the other')?.click());
  await until(other, byId('save-state'), /^saved$/);
  await other.waitForFunction(() => /word of flags/.test(document.querySelector('.document')?.textContent ?? ''));
});

test('a program whose machine has no version yet can be read, and leads to its machine; with a version it runs', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await page.evaluate(
    async (text) => {
      const post = (path: string, body: unknown): Promise<unknown> =>
        fetch(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
      await post('/api/machines', { name: 'Knot', text });
      await post('/api/programs', { name: 'ebb', machine: 'knot', text: '; in the ebb\n        HALT\n' });
    },
    plover.replace('machine: Plover', 'machine: Knot'),
  );
  await page.goto(`${harness.address}/bench/ebb`);
  await until(page, '[role=alert]', /The machine Knot has no version yet/);
  await until(page, byId('text-alone'), /^; in the ebb/);
  expect(await page.$eval(byId('load'), (each) => (each as HTMLButtonElement).disabled)).toBe(true);
  await page.click(byId('open-machine'));
  await page.waitForSelector(`${byId('save-version')}:not([disabled])`);
  await page.click(byId('save-version'));
  await until(page, byId('said'), /Saved as version 1\./);
  await page.goto(`${harness.address}/bench/ebb`);
  await ready(page);
  expect(await page.$(byId('text-alone'))).toBeNull();
});

test('an example that is pinned to an instruction tells when it no longer holds', async () => {
  const page = await harness.open('/machines/curlew');
  await page.waitForSelector('[data-part="instructions / SHL"]');
  await page.click('[data-part="instructions / SHL"]');
  await page.waitForSelector(byId('pin'));
  await page.click(byId('pin'));
  await page.waitForSelector(`${byId('examples')} [data-holds=true]`);
  await until(page, byId('broken-examples'), /1 pinned example, all hold/);
  await page.click('[data-testid=ticks-execute] .cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('a');
  await page.keyboard.up('Control');
  await page.keyboard.sendCharacter('ACC <- ACC >> 1 ; flags Z N C V P');
  await until(page, byId('broken-examples'), /1 no longer holds[\s\S]*SHL ACC is 0x/);
  await page.click('[data-part="registers / X"]');
  await page.waitForSelector('[data-part-editor="registers / X"]');
  await page.click(`${byId('broken-examples')} button`);
  await until(page, byId('instruction-name'), /^SHL$/);
  await page.waitForSelector(`${byId('examples')} [data-holds=false]`);
});

test('while the server is away work goes on in the browser, and is saved when it is back', async () => {
  const page = await harness.open('/machines/dunlin');
  await page.waitForSelector('[data-part="registers / ACC"]');
  await harness.stopServer();
  await page.click('[data-part="registers / ACC"]');
  await page.waitForSelector('[data-part-editor="registers / ACC"] [data-field=title]');
  await page.click('[data-part-editor] [data-field=title]', { count: 3 });
  await page.keyboard.type('what is summed up');
  await until(page, '[data-part="registers / ACC"]', /what is summed up/);
  await until(page, byId('save-state'), /server not reached, kept in this browser/);
  await harness.startServer();
  await until(page, byId('save-state'), /^saved$/);
  expect(await page.evaluate(() => fetch('/api/machines/dunlin').then((each) => each.text()))).toContain('what is summed up');
});

test('without the server a screen shows what was seen last, or says why it shows nothing, and is fresh when it is back', async () => {
  const page = await harness.open('/programs');
  await kept(page);
  await until(page, byId('found'), /^\d+ programs$/);
  await page.click('nav a[href="/machines"]');
  await until(page, byId('found'), /^\d+ machines$/);
  await harness.stopServer();
  await page.click('nav a[href="/programs"]');
  await until(page, byId('seen-last'), /The server cannot be reached\. This is what the browser saw of it last, .*:\d\d;/);
  await until(page, byId('found'), /^\d+ programs$/);
  await page.click('nav a[href="/class"]');
  await until(page, '[role=alert]', /The server cannot be reached\. This page goes on by itself when it is back\./);
  await page.click(byId('try-again'));
  await until(page, '[role=alert]', /The server cannot be reached/);
  await harness.startServer();
  await page.waitForFunction(() => !document.querySelector('[role=alert], [data-testid=seen-last]'));
});

/** The browser has kept what the server answered there. */
const seen = (page: Page, path: string): Promise<unknown> =>
  page.waitForFunction(
    (wanted) =>
      new Promise((done) => {
        const open = indexedDB.open('zettak-answers');
        open.onsuccess = () => {
          const found = open.result.transaction('answers').objectStore('answers').getKey(wanted);
          found.onsuccess = () => (open.result.close(), done(found.result !== undefined));
        };
      }),
    { polling: 50 },
    path,
  );

test('a bench that is loaded anew without the server opens as it was seen last; what is written there is saved when it is back', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await kept(page);
  await seen(page, '/api/machines/curlew/versions/1');
  await harness.stopServer();
  await page.reload();
  await ready(page);
  await until(page, byId('seen-last'), /The server cannot be reached/);
  await press(page, 'ArrowRight');
  await until(page, byId('ticks'), /^8$/);
  await rewrite(page, 'start   HALT   ; written without the server\n');
  await until(page, byId('save-state'), /server not reached, kept in this browser/);
  await harness.startServer();
  await until(page, byId('save-state'), /^saved$/);
  await page.waitForFunction(() => !document.querySelector('[data-testid=seen-last]'));
  expect(await page.evaluate(() => fetch('/api/programs/quay-watch').then((each) => each.text()))).toContain('written without the server');
});

test('a bench that is come back to while the server is away keeps its run, and the notice goes when it is back', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await press(page, '.', '.');
  await until(page, byId('ticks'), /^2$/);
  await page.click(byId('screens'));
  await page.waitForSelector('[role=menuitem]');
  const [machines] = await page.$$('::-p-xpath(//*[@role="menuitem"][contains(., "Machines")])');
  await machines!.click();
  await until(page, byId('found'), /^\d+ machines$/);
  await harness.stopServer();
  await page.click('nav a[href^="/bench"]');
  await until(page, byId('seen-last'), /The server cannot be reached/);
  await until(page, byId('ticks'), /^2$/);
  await harness.startServer();
  await page.waitForFunction(() => !document.querySelector('[data-testid=seen-last]'));
  await until(page, byId('ticks'), /^2$/);
});

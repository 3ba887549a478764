import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import type { Page } from 'puppeteer-core';
import { byId, chooseFile, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();
const folder = mkdtempSync(join(tmpdir(), 'zettak-class-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function openClass(): Promise<Page> {
  const page = await harness.open('/class');
  await page.waitForSelector('[data-hand-in="bench 02"] .cell.differs', { timeout: 30_000 });
  await page.waitForFunction(() => !document.querySelector('[data-testid=left]'), { timeout: 30_000 });
  return page;
}

const labels = (page: Page): Promise<(string | undefined)[]> =>
  page.$$eval('[data-hand-in]', (rows) => rows.map((each) => (each as HTMLElement).dataset.handIn));

const CELLS = (label: string): string => `[data-hand-in="${label}"] td`;

test('a class at a glance: verdicts with signs, mistakes in groups, the first difference in words', async () => {
  const page = await openClass();
  expect((await textOf(page, CELLS('bench 02'))).trim()).toBe('✗✗✓✓✗✗✗');
  expect(await textOf(page, CELLS('bench 06'))).toBe('∞'.repeat(7));
  expect(await textOf(page, CELLS('bench 08'))).toMatch(/does not assemble: 1 error, line 11/);
  await page.click('[data-group="base 96 0x96"]');
  await until(page, byId('counts'), /^3 of 24 in/);
  expect(await labels(page)).toEqual(['bench 04', 'bench 12', 'bench 20']);
  await until(page, byId('difference'), /In “calm” count became 2; 0 was expected\./);
  expect(await textOf(page, byId('mistake'))).toBe('With 0x96 in place of 96 on line 3, 7 of 7 sets hold; as it is, 2.');
  expect(await textOf(page, byId('parts'))).toMatch(/At instruction \d+ it parts from the teacher's\. Here JUMPC below on line 9/);
  await until(page, '.hand-in-text .here', /edge {4}= 96/);
});

test('rows are chosen by keys, sorted, searched; Enter opens the run on the bench at the instruction where it parts', async () => {
  const page = await openClass();
  await page.focus(byId('matrix'));
  await page.keyboard.press('Home');
  await page.waitForSelector('tr.chosen[data-hand-in="bench 01"]');
  for (let turn = 0; turn < 5; turn++) await page.keyboard.press('ArrowDown');
  await page.waitForSelector('tr.chosen[data-hand-in="bench 06"]');
  await until(page, byId('first-difference'), /bench 06/);
  await page.waitForSelector(byId('hand-in-text'));
  await page.click('[data-sort=holds]');
  expect((await labels(page))[0]).toBe('bench 01');
  await page.click('[data-sort=holds]');
  expect((await labels(page)).at(-1)).toBe('bench 24');
  await page.type(byId('find-label'), '06');
  await page.waitForFunction(() => document.querySelectorAll('[data-hand-in]').length === 1);
  await page.focus(byId('matrix'));
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => location.pathname.startsWith('/bench/'));
  await until(page, byId('ticks'), /^34$/);
  await until(page, '.program .cm-executing', /CMPX/);
});

test('a remark is said to a whole group, and stands on the printed pages of all of it', async () => {
  const page = await openClass();
  await page.click('[data-group="halt"]');
  await until(page, byId('first-difference'), /Said to all 2 with this mistake/);
  await page.type(byId('remark'), 'What lies behind the last line?');
  await page.click(byId('remark-group'));
  await page.waitForSelector(`${byId('remark-group')}:disabled`);
  await page.goto(`${harness.address}/class/quay-count/pages`);
  await until(page, '[data-page="bench 05"]', /0 of 7 points.*What lies behind the last line\?/s);
  await until(page, '[data-page="bench 18"]', /What lies behind the last line\?/);
  expect(await textOf(page, '[data-page="bench 01"]')).not.toMatch(/What lies behind/);
  const csv = await page.evaluate(async () => (await fetch('/api/assignments/quay-count/marks.csv')).text());
  expect(csv.match(/What lies behind the last line\?/g)!.length).toBe(2);
});

test('programs that are alike after renaming are shown side by side', async () => {
  const page = await openClass();
  await page.click('[data-group="alike 0"]');
  await until(page, byId('alike-with'), /bench 19, side by side/);
  await page.click(`${byId('alike-with')} button`);
  await until(page, byId('alike-window'), /bench 07 beside bench 19.*JUMPC low/s);
  expect(
    await page.$$eval(`${byId('alike-window')} [role=textbox]`, (sides) => sides.map((each) => each.getAttribute('aria-label'))),
  ).toEqual(['bench 07', 'bench 19']);
});

test('a ZIP of sixty is taken in: labels by their names, unclear ones asked for in one table', async () => {
  const page = await openClass();
  const program = await page.evaluate(async () => ((await (await fetch('/api/hand-ins/1')).json()) as { source: string }).source);
  const files = Object.fromEntries(
    Array.from({ length: 60 }, (_, at) => [
      `Week 3/bench_${at + 101}.asm`,
      strToU8(at % 3 === 0 ? program.replace('JUMPC', 'JUMPZ') : program),
    ]),
  );
  const zip = join(folder, 'sixty.zip');
  writeFileSync(zip, zipSync({ ...files, 'Week 3/mine/program.asm': strToU8(program), 'Week 3/readme.pdf': strToU8('x') }));
  await chooseFile(page, byId('bring-files'), zip);
  await until(page, byId('bring'), /61 hand-ins were found\. The labels of 60 are clear/);
  expect(await textOf(page, byId('bring'))).toMatch(/readme\.pdf is no program/);
  const fields = await page.$$(`${byId('labels')} input`);
  expect(fields.length).toBe(1);
  await fields[0]!.click({ count: 3 });
  await page.keyboard.type('bench 99');
  await page.click(byId('bring-send'));
  await until(page, byId('said'), /61 hand-ins are here/);
  await until(page, byId('counts'), /85 in; 574 trials checked|85 in; 58\d trials checked/);
  await until(page, byId('groups'), /23JUMPZ where JUMPC is to be asked/);
  await page.type(byId('find-label'), '99');
  await until(page, byId('matrix'), /bench 99/);
});

test('a hostile ZIP is told: links, bombs, too many files, paths upward; nothing of it runs or leaves its place', async () => {
  const page = await openClass();
  const count = (await labels(page)).length;
  const told = async (name: string, bytes: Uint8Array): Promise<string> => {
    const path = join(folder, name);
    writeFileSync(path, bytes);
    await chooseFile(page, byId('bring-files'), path);
    await page.waitForSelector(byId('bring'));
    const text = await textOf(page, byId('bring'));
    await page.keyboard.press('Escape');
    await page.waitForSelector(byId('bring'), { hidden: true });
    return text;
  };
  expect(await told('bomb.zip', zipSync({ 'bomb.asm': [new Uint8Array(30_000_000), { level: 9 }] }))).toMatch(/bomb\.asm is too large/);
  const many = Object.fromEntries(Array.from({ length: 10_000 }, (_, at) => [`b${at}.asm`, strToU8('HALT')]));
  expect(await told('many.zip', zipSync(many, { level: 0 }))).toMatch(/holds 10,000 files; at most 2,000 are read/);
  const link = zipSync({ 'link.asm': [strToU8('/etc/passwd'), { os: 3, attrs: 0xa1ff << 16 }] });
  expect(await told('link.zip', link)).toMatch(/link\.asm is a link to another file/);
  expect(await told('none.zip', strToU8('PK, but no ZIP'))).toMatch(/no ZIP that can be read/);
  const up = zipSync({ '../../<img src=x onerror=alert(1)>.asm': strToU8('<script>alert(1)</script>') });
  expect(await told('up.zip', up)).toMatch(/One name does not say whose it is/);
  expect((await labels(page)).length).toBe(count);
});

test('an assignment is made of a program, gets an end, and is deleted', async () => {
  const page = await openClass();
  await page.click(byId('class-menu'));
  await page.waitForSelector(byId('class-menu-new'), { visible: true });
  await page.click(byId('class-menu-new'));
  await page.waitForSelector(byId('new-assignment'));
  await page.waitForFunction((where) => document.querySelectorAll(`${where} option`).length > 5, {}, byId('new-program'));
  await page.select(byId('new-program'), 'highest-water');
  await page.type(byId('new-problem'), 'Find the highest water.');
  await page.click(byId('make-assignment'));
  await until(page, byId('facts'), /highest water.*Find the highest water\..*Curlew, version 1/s);
  await until(page, byId('matrix'), /Bring in files/);
  await page.click(byId('settings'));
  await page.waitForSelector(byId('assignment-settings'));
  await page.type(byId('setting-cells'), '40');
  await page.$eval(byId('setting-closes'), (field) => {
    const input = field as HTMLInputElement;
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(input, '2026-12-01T18:00');
    input.dispatchEvent(new Event('input', { bubbles: true }));
  });
  await page.click(byId('save-settings'));
  await until(page, byId('facts'), /at most 40 cells.*closes/s);
  await page.click(byId('class-menu'));
  await page.waitForSelector(byId('class-menu-drop'), { visible: true });
  await page.click(byId('class-menu-drop'));
  await page.waitForSelector(byId('sure-act'));
  await page.click(byId('sure-act'));
  await until(page, byId('facts'), /Quay count/);
});

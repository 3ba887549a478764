/** A teacher who enters and makes a link, a student who writes between the given lines. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, editorText, paste, until, type Harness } from './support';

const SOLUTION = readFileSync(join(__dirname, '../demo/programs/quay-count.asm'), 'utf8');
/** What stands between the lines that the frame gives: the first, and the last four. */
export const OWN = SOLUTION.split('\n').slice(1, -5).join('\n');

/** Replaces what is one's own in a program with given lines. */
export async function write(page: Page, text: string): Promise<void> {
  await page.waitForSelector('.cm-content');
  const lines = (await editorText(page)).split('\n').length;
  await page.focus('.cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('Home');
  await page.keyboard.up('Control');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Home');
  await page.keyboard.down('Shift');
  for (let line = 2; line < lines - 4; line++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('End');
  await page.keyboard.up('Shift');
  await paste(page, text);
  await until(page, '.cm-content', /showNumber/);
}

/** The class screen, behind the passphrase. */
export async function enter(harness: Pick<Harness, 'open'>, passphrase: string): Promise<Page> {
  const page = await harness.open('/class');
  await page.waitForSelector(byId('sign-in'));
  await page.type(byId('passphrase'), passphrase);
  await page.click(byId('enter'));
  await page.waitForSelector('[data-hand-in="bench 02"]', { timeout: 30_000 });
  return page;
}

/** A new link for students, without the server's address. */
export async function linkFrom(harness: Pick<Harness, 'address'>, teacher: Page): Promise<string> {
  await teacher.click(byId('hand-in-link'));
  await teacher.waitForSelector(byId('make-link'));
  await teacher.click(byId('make-link'));
  await teacher.waitForSelector(byId('link'));
  const link = await teacher.$eval(byId('link'), (field) => (field as HTMLInputElement).value);
  await teacher.keyboard.press('Escape');
  await teacher.waitForSelector(byId('link-window'), { hidden: true });
  return link.slice(harness.address.length);
}

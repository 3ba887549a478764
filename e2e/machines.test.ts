import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, loadProgram, marks, press, ready, registers, rewriteDocument, sharedHarness, showFace, textOf, until } from './support';

const curlew = readFileSync(join(__dirname, '../demo/machines/curlew.yaml'), 'utf8');
const harness = sharedHarness();

const swap = (text: string, from: string, to: string): string => {
  if (!text.includes(from)) throw new Error(`The demo machine has no ${from}`);
  return text.replace(from, to);
};

async function saveVersion(page: Page, text: string): Promise<void> {
  await rewriteDocument(page, text);
  await until(page, byId('problem-count'), /none/);
  await page.click(byId('save-version'));
  await page.waitForSelector(byId('keep-version'));
  await page.click(byId('keep-version'));
  await until(page, byId('said'), /Saved as version \d+\./);
}

/** From anywhere to Curlew, by its card on the shelf. */
async function openMachine(page: Page): Promise<void> {
  // Beside the controls of the bench the names of the screens are in a menu.
  await page.click(byId('screens'));
  await page.waitForSelector(byId('screens-/machines'), { visible: true });
  await page.click(byId('screens-/machines'));
  await page.waitForSelector('[data-card=curlew] a');
  await page.click('[data-card=curlew] a');
  await until(page, byId('version'), /version/);
}

/** Opens the bench from the machines page, and takes the version it offers. */
async function takeOffered(page: Page): Promise<void> {
  await page.click('a[href="/bench"]');
  await page.waitForSelector(byId('use-newer'));
  await page.click(byId('use-newer'));
  await page.waitForFunction(() => !document.querySelector('[data-testid=use-newer]'));
  await ready(page);
}

test.each<[string, string, RegExp]>([
  ['text that is not YAML', 'machine: [Curlew\n  x', /Line \d+, column \d+\. This is not YAML/],
  [
    'an unknown register in a tick',
    swap(curlew, 'ACC <- value ; flags Z N', 'ACX <- value ; flags Z N'),
    /Line \d+, column 11\. This machine has no “ACX”\. Did you mean ACC\?/,
  ],
  [
    'two instructions on one opcode',
    swap(curlew, 'opcode=0x26', 'opcode=0x12'),
    /0x12 means two things: LOAD \{address\} and STORE \{address\}/,
  ],
  ['an empty document', '\n', /The document is empty/],
])('%s ends in a sentence with a place; the draft is kept and makes no version', async (_, text, words) => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('version'), /version/);
  await rewriteDocument(page, text);
  await until(page, byId('machine-problems'), words);
  expect(await page.$eval(byId('save-version'), (each) => (each as HTMLButtonElement).disabled)).toBe(true);
  await until(page, byId('save-state'), /^saved$/);
  await page.reload();
  await until(page, byId('machine-problems'), words);
  await rewriteDocument(page, curlew);
  await until(page, byId('problem-count'), /none/);
  await until(page, byId('save-state'), /^saved$/);
});

test('a style with a condition that comes late begins a sheet, so that no other one is looked at again', async () => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('version'), /version/);
  await rewriteDocument(page, '\n');
  await until(page, byId('machine-problems'), /The document is empty/);
  const begins = await page.$$eval('style[data-emotion=css]', (all) =>
    all.map((each) => (each as HTMLStyleElement).sheet!.cssRules[0]!.constructor.name),
  );
  expect(begins.length).toBeGreaterThan(2);
  expect(begins.slice(1)).not.toContain('CSSStyleRule');
  await rewriteDocument(page, curlew);
  await until(page, byId('save-state'), /^saved$/);
});

test('the opcode map shows every form in its place, and a press goes to its instruction', async () => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('opcode-map'), /54 used, 202 free/);
  expect(await page.$$eval('[data-testid=opcode-map] .grid button:not(.free)', (list) => list.length)).toBe(54);
  await page.click('[data-testid=opcode-map] [aria-label^="0x61: RET"]');
  await until(page, byId('instruction-name'), /^RET$/);
  await showFace(page, 'text');
  await page.waitForFunction(() => /RET:/.test(document.querySelector('.document .cm-content')?.textContent ?? ''));
  expect(await page.evaluate(() => document.activeElement?.classList.contains('cm-content'))).toBe(true);
});

test('a clash of two opcodes is mended by one press', async () => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('version'), /version/);
  await rewriteDocument(page, swap(curlew, 'opcode=0x26', 'opcode=0x12'));
  await until(page, byId('machine-problems'), /0x12 means two things.*Give STORE 0x15/);
  await page.click('.mend');
  await until(page, byId('problem-count'), /none/);
});

test('a problem is mended by one press where it has a mend', async () => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('version'), /version/);
  await rewriteDocument(page, swap(curlew, "write: 'ADD #{value}'", 'write: ADD #{value}'));
  await until(page, byId('machine-problems'), /takes “#\{value\}” as a remark/);
  await page.click('.mend');
  await until(page, byId('problem-count'), /none/);
});

test('changed ticks of an instruction change what the bench shows and does', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await page.type(byId('entry'), '77');
  await page.keyboard.press('Enter');
  await until(page, byId('queue'), /77/);
  await openMachine(page);

  await saveVersion(page, swap(curlew, 'ACC <- ACC << 1 ; flags Z N C V P', 'MDR <- ACC\n          ACC <- ACC + MDR ; flags Z N C V H P'));
  await takeOffered(page);
  await until(page, byId('queue'), /77/);
  await loadProgram(page, 'LOAD #0x21\nSHL\nHALT\n');
  await ready(page);
  await press(page, 'ArrowRight', '.', '.', '.', '.');
  await until(page, byId('ticks'), /^10$/);
  expect(await textOf(page, byId('phases'))).toContain('4MDR←ACC5ACC←ACC+MDR');
  expect((await registers(page)).MDR).toBe('21');
  await press(page, '.');
  await until(page, byId('status'), /Paused after tick 5 of 5, SHL/);
  expect((await registers(page)).ACC).toBe('42');
  expect(await textOf(page, byId('sentence'))).toContain('The ALU adds 21 in MDR to 21 in ACC');
});

test('a cycle in which PC moves at the end changes what the marks show', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await loadProgram(page, 'LOAD #1\nADD #2\nHALT\n');
  await ready(page);
  await press(page, 'ArrowRight', '.', '.', '.', '.', '.');
  await until(page, byId('ticks'), /^11$/);
  expect(await marks(page)).toEqual({ executing: 2, next: 3 });
  await openMachine(page);

  const late = swap(
    swap(
      swap(curlew, 'IR.op <- M[MAR], PC <- PC + 1', 'IR.op <- M[MAR]'),
      'MAR <- PC\n      IR.low <- M[MAR], PC <- PC + 1',
      'MAR <- MAR + 1\n      IR.low <- M[MAR]',
    ),
    '  execute:\n    phase: Execute\n',
    '  execute:\n    phase: Execute\n  finish:\n    phase: Execute\n    ticks: |\n      PC <- next\n',
  );
  await saveVersion(page, late);
  await takeOffered(page);
  await press(page, 'ArrowRight', '.', '.', '.', '.', '.', '.');
  await until(page, byId('ticks'), /^13$/);
  expect(await marks(page)).toEqual({ executing: 2, next: 2 });
  await press(page, '.');
  await until(page, byId('status'), /Paused after tick 7 of 7, ADD/);
  expect(await marks(page)).toEqual({ executing: 2, next: 3 });
});

test('the page runs no script that did not come from the server, and does not try to', async () => {
  const page = await harness.open('/');
  await page.evaluateOnNewDocument(() => {
    const breaches: string[] = [];
    addEventListener('securitypolicyviolation', ({ blockedURI }) => breaches.push(blockedURI));
    Object.assign(globalThis, { breaches });
  });
  const breaches = (): Promise<unknown> => page.evaluate(() => (globalThis as unknown as { breaches: unknown }).breaches);
  await page.goto(`${harness.address}/machines/curlew`);
  await until(page, byId('version'), /version/);
  expect(await breaches()).toEqual([]);
  await page.addScriptTag({ content: 'window.slippedIn = true;' }).catch(() => undefined);
  expect(await breaches()).toEqual(['inline']);
  expect(await page.evaluate(() => 'slippedIn' in window)).toBe(false);
});

test('the reference card of a machine stands on two sheets of paper at most, and is reached from the machine', async () => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('version'), /version/);
  await page.click(byId('open-card'));
  await until(page, byId('card'), /JUMP\{c\} address[\s\S]*JUMPZ 5[\s\S]*JUMPNZ JUMPNC/);
  expect(await textOf(page, byId('card'))).toMatch(/1 where the result is 0[\s\S]*askLevel[\s\S]*read number, into ACC/);
  const pdf = Buffer.from(await page.pdf({ preferCSSPageSize: true })).toString('latin1');
  expect(pdf.match(/\/Type\s*\/Page\b/g)!.length).toBeLessThanOrEqual(2);
  await page.goto(page.url().replace('curlew', 'nothing-there'));
  await until(page, '[role=alert]', /There is no machine “nothing-there”/);
});

test('parts are moved, written once more, removed and brought back; remarks stay, and the text is the only truth', async () => {
  const page = await harness.open('/machines/curlew');
  await until(page, byId('outline'), /accumulator[\s\S]*JUMP/);
  const text = (): Promise<string> =>
    page.evaluate(() => fetch('/api/machines/curlew').then(async (each) => ((await each.json()) as { draft: string }).draft));
  const before = await text();
  await page.click('[data-part="registers / X"]');
  await page.click('[data-act=duplicate]');
  await until(page, '[aria-current=true]', /^X2/);
  await until(page, byId('problem-count'), /0 errors, 1 other/);
  await page.keyboard.down('Alt');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.up('Alt');
  await page.waitForFunction(() => document.activeElement?.getAttribute('data-part') === 'registers / X2');
  await until(page, byId('save-state'), /^saved$/);
  const moved = await text();
  expect(moved.indexOf('  X2:')).toBeLessThan(moved.indexOf('  X: '));
  expect(moved.match(/#.*/g)).toEqual(before.match(/#.*/g));
  await page.keyboard.press('Delete');
  await page.waitForFunction(() => !document.querySelector('[data-part="registers / X2"]'));
  for (let times = 0; times < 3; times++) {
    await page.keyboard.down('Control');
    await page.keyboard.press('z');
    await page.keyboard.up('Control');
  }
  await until(page, byId('problem-count'), /none/);
  await until(page, byId('save-state'), /^saved$/);
  expect(await text()).toBe(before);
  // A name is followed everywhere; one that is taken is refused by name, before anything changes.
  await page.click('[data-part="registers / ACC"]');
  await page.click('[data-act=rename]');
  await page.waitForSelector(byId('new-name'));
  await page.keyboard.press('End');
  await page.keyboard.type('U');
  await until(page, byId('touches'), /^\d\d places name it, and follow$/);
  await page.keyboard.press('Enter');
  await until(page, '[aria-current=true]', /^ACCU/);
  await until(page, byId('problem-count'), /none/);
  await page.waitForFunction(() => document.activeElement?.getAttribute('data-part') === 'registers / ACCU');
  await page.keyboard.press('F2');
  await page.waitForSelector(byId('new-name'));
  // The old name stands selected: what is typed takes its place.
  await page.keyboard.type('PC');
  await until(page, byId('touches'), /There is a part “PC” already/);
  await page.keyboard.press('Enter');
  await until(page, `${byId('outline')} [role=alert]`, /There is a part “PC” already/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => document.activeElement?.getAttribute('data-part') === 'registers / ACCU');
  await until(page, byId('save-state'), /^saved$/);
  expect(await text()).toMatch(/ACCU <- ACCU \+ value/);
  await rewriteDocument(page, before);
  await until(page, byId('save-state'), /^saved$/);
  await rewriteDocument(page, `${before}\nregisters: [`);
  await until(page, byId('outline'), /parts can be looked at only/);
  expect(await page.$$eval('[data-act]', (list) => list.every((each) => (each as HTMLButtonElement).disabled))).toBe(true);
  await rewriteDocument(page, before);
  await until(page, byId('problem-count'), /none/);
  await until(page, byId('save-state'), /^saved$/);
});

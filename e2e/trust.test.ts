/** What must not be lost, frozen, mistaken or left dead, in the browser. */
import type { Page } from 'puppeteer-core';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { byId, chooseSpeed, loadProgram, marks, press, ready, rewrite, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();
const curlew = readFileSync(join(__dirname, '../demo/machines/curlew.yaml'), 'utf8');

async function post(path: string, body: object): Promise<{ id: string; revision: number }> {
  const response = await fetch(`${harness.address}/api/${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  expect(response.status).toBe(201);
  return (await response.json()) as { id: string; revision: number };
}

async function bench(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await ready(page);
  return page;
}

const cell = (page: Page, place: string): Promise<string> => textOf(page, `[data-place="${place}"]`);

test('a machine whose numbers may have letters behind them is written for like any other', async () => {
  const text = curlew.replace('machine: Curlew', 'machine: Lapwing').replace(/\nassembly:\n/, '\nassembly:\n  letters: {h: 16}\n');
  const letters = text.includes('letters:') ? text : `${text}\nassembly:\n  letters: {h: 16}\n`;
  const machine = await post('machines', { name: 'Lapwing', text: letters });
  await post(`machines/${machine.id}/versions`, { revision: machine.revision });
  const program = await post('programs', { name: 'letters', text: 'LOAD #37h\nHALT', machine: machine.id });
  const page = await bench(program.id);
  await press(page, 'w');
  await until(page, byId('facts'), /Starts at 0x00/);
  await page.waitForSelector('.settings, [data-testid=settings]').catch(() => undefined);
  expect(await page.$('.program .cm-content')).not.toBeNull();
  await press(page, 'w');
  await press(page, 'ArrowRight');
  await until(page, byId('ticks'), /^6$/);
});

test('at 60 and 30 ticks a second the page stays alive: it pauses, steps and answers', async () => {
  const page = await bench('harbour-log');
  for (const speed of ['60', '30']) {
    await chooseSpeed(page, speed);
    await press(page, 'Space');
    await new Promise((resolve) => setTimeout(resolve, 2500));
    await press(page, 'Space');
    await until(page, byId('status'), /^Paused/);
    const ticks = Number((await textOf(page, byId('ticks'))).replaceAll(',', ''));
    expect(ticks).toBeGreaterThan(20);
    await press(page, '.');
    await until(page, byId('ticks'), new RegExp(`^${(ticks + 1).toLocaleString('en-US')}$`));
  }
});

test('while the run is in a part its lines are marked there, and none of the program’s own', async () => {
  await post('parts', { name: 'doubling', machine: 'curlew', text: '.routine twice\n SHL\n RET\n.end' });
  const page = await bench('quay-watch');
  await loadProgram(page, ' LOAD #3\n CALL twice\n HALT\n.include "doubling"\n');
  const part = byId('part-lines doubling');
  await page.waitForSelector(`${part}[data-state=closed]`);
  await press(page, 'ArrowRight', 'ArrowRight');
  await page.waitForSelector(`${part}[data-state=open] li.next`);
  expect(await textOf(page, `${part} li.next`)).toMatch(/^2.*SHL/);
  expect(await marks(page)).toEqual({ executing: 2 });
  await press(page, 'b', 'ArrowRight');
  await page.waitForFunction(() => document.querySelector('.program .cm-executing') === null);
  await page.waitForSelector(`${part} li.executing`);
  await press(page, 'Home');
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /breakpoint on line 2 of the part “doubling”, before SHL/);
});

test('a shorter program leaves no cell of the longer one behind', async () => {
  const page = await bench('quay-watch');
  await loadProgram(page, ' LOAD #1\n LOAD #2\n LOAD #3\n HALT\n');
  expect(await cell(page, 'M 5')).toBe('03');
  await loadProgram(page, ' LOAD #1\n HALT\n');
  expect(await cell(page, 'M 5')).toBe('··');
  await loadProgram(page, ' LOAD #1\n');
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /the program's text ended at 0x01, line 1/);
});

test('pieces over each other load nothing, and a lone name offers two ways out', async () => {
  const page = await bench('quay-watch');
  const before = await cell(page, 'M 0');
  await rewrite(page, ' HALT\n.origin 0\n LOAD #1\n');
  await until(page, byId('problems'), /lies over cell 0, which line 1 has filled/);
  await page.click(byId('load'));
  await until(page, byId('outcome'), /Nothing was loaded\. Line 3/);
  expect(await cell(page, 'M 0')).toBe(before);
  await rewrite(page, ' LOAD #1\nRTN\n HALT\n');
  await until(page, byId('problems'), /“RTN” is no operation of this machine, and nothing uses it as a name/);
  expect(await page.$$eval('.mend', (list) => list.map((each) => each.textContent))).toEqual(['Write RET', 'Write RTN:']);
  // What is saved by now is what the next one opens.
  await loadProgram(page, ' HALT\n');
  await until(page, byId('save-state'), /^saved$/);
});

test('what one tab saves leaves the text of another alone, over a reload too', async () => {
  const [a, b] = [await bench('quay-watch'), await bench('quay-watch')];
  const type = async (page: Page, text: string): Promise<void> => {
    await page.bringToFront();
    await rewrite(page, text);
  };
  await type(a, '; A once\n HALT\n');
  await until(a, byId('save-state'), /^saved$/);
  await type(b, '; typed in B\n HALT\n');
  await until(b, byId('save-state'), /saved elsewhere/);
  await type(a, '; A twice\n HALT\n');
  await until(a, byId('save-state'), /^saved$/);
  await b.bringToFront();
  await b.reload();
  await b.waitForFunction(() => document.querySelector('.cm-content')?.textContent?.includes('typed in B'));
  await until(b, byId('save-state'), /saved elsewhere/);
  await b.evaluate(() => [...document.querySelectorAll('button')].find((each) => each.textContent === 'Take the other')!.click());
  await until(b, byId('save-state'), /^saved$/);
});

test('a refused save says why, is kept, and is tried again until it is taken', async () => {
  const page = await bench('quay-watch');
  await page.setRequestInterception(true);
  let refusals = 2;
  page.on('request', (request) => {
    if (request.method() !== 'PUT' || refusals-- <= 0) return void request.continue();
    const problem = {
      type: 'about:blank',
      title: 'Not saved',
      status: 507,
      detail: 'The disk is full, so nothing could be saved. Make room on it.',
    };
    void request.respond({ status: 507, contentType: 'application/problem+json', body: JSON.stringify(problem) });
  });
  await rewrite(page, '; for a full disk\n HALT\n');
  await until(page, byId('save-state'), /not saved/);
  await until(page, '.program [role=alert]', /The disk is full.*kept in this browser and tried again/);
  await until(page, byId('save-state'), /^saved$/);
});

test('free cells are there before they are written; values are read in the panel’s base, and back before they are taken', async () => {
  const page = await bench('quay-watch');
  await loadProgram(page, ' LOAD #1\n HALT\n.origin 0x80\nfree .room 3\n');
  await page.click('[data-place="M 128"]');
  await until(page, byId('place-reading'), /read as hex/);
  await page.type(byId('place-value'), '42');
  await until(page, byId('place-reading'), /is 0x42 = 66/);
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.querySelector('[data-place="M 128"]')?.textContent === '42');
});

test('cells by hand go on past the last one that is shown', async () => {
  const page = await bench('quay-watch');
  await press(page, 'w');
  await page.evaluate(() => [...document.querySelectorAll('button')].find((each) => each.textContent === 'By hand')!.click());
  await page.waitForSelector('[data-hand="11"] input');
  await page.focus('[data-hand="11"] input');
  await page.keyboard.type('07');
  await until(page, '[data-hand="11"]', /is 7 = 0x07/);
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.activeElement?.closest('tr')?.getAttribute('data-hand') === '12');
  await page.keyboard.type('08');
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.activeElement?.closest('tr')?.getAttribute('data-hand') === '13');
  await until(page, '[data-hand="12"]', /by hand|the program has/);
});

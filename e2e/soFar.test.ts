/** The run so far: one strip of all of it, made longer and shorter by wheel and keys, dragged, pressed; and the list of its instructions. */
import type { Page } from 'puppeteer-core';
import { byId, chooseSpeed, loadProgram, press, ready, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

async function ran(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /Halted/);
  await page.waitForSelector(`${byId('so-far-canvas')}[data-drawn^="0:"]`);
  return page;
}

const shown = (page: Page): Promise<number[]> =>
  page.$eval(byId('so-far-canvas'), (each) => [Number((each as HTMLElement).dataset['from']), Number((each as HTMLElement).dataset['to'])]);

const box = async (page: Page) => (await (await page.$(byId('so-far-canvas')))!.boundingBox())!;

test('all of it at first; wheel and keys show less, a drag moves, a press goes there', async () => {
  const page = await ran('mean-level');
  const ticks = Number((await textOf(page, byId('ticks'))).replace(/,/g, ''));
  expect(await shown(page)).toEqual([0, ticks]);
  const { x, y, width, height } = await box(page);
  await page.mouse.move(x + width / 2, y + height / 2);
  await page.mouse.wheel({ deltaY: -200 });
  await page.waitForFunction(
    (where, all) => Number(document.querySelector<HTMLElement>(where)!.dataset['to']) < all,
    {},
    byId('so-far-canvas'),
    ticks,
  );
  const [from, to] = (await shown(page)) as [number, number];
  expect(Math.abs((from + to) / 2 - ticks / 2)).toBeLessThan(2);
  await page.mouse.move(x + width * 0.6, y + 8);
  await page.mouse.down();
  await page.mouse.move(x + width * 0.3, y + 8, { steps: 4 });
  await page.mouse.up();
  expect((await shown(page))[0]).toBeGreaterThan(from);
  await page.focus(byId('so-far-canvas'));
  for (const key of ['0', '+', '+', '+'] as const) await page.keyboard.press(key);
  const near = (await shown(page)) as [number, number];
  expect(near[1] - near[0]).toBeLessThan(ticks / 7);
  await page.keyboard.press('Home');
  expect((await shown(page))[0]).toBe(0);
  await page.keyboard.press('ArrowRight');
  expect((await shown(page))[0]).toBeGreaterThan(0);
  await page.keyboard.press('Enter');
  await page.waitForFunction((where, all) => Number(document.querySelector(where)!.textContent) < all, {}, byId('ticks'), ticks);
  await page.click(byId('so-far-whole'));
  expect(await shown(page)).toEqual([0, ticks]);
  await page.mouse.click(x + width - 1, y + 8);
  await until(page, byId('ticks'), new RegExp(`^${ticks}$`));
});

test('the strip is drawn: colours of families stand in it, and where the run is', async () => {
  const page = await ran('mean-level');
  const colours = await page.$eval(byId('so-far-canvas'), (each) => {
    const canvas = each as HTMLCanvasElement;
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
    const found = new Set<string>();
    for (let at = 0; at < data.length; at += 4) if (data[at + 3] === 255) found.add(`${data[at]},${data[at + 1]},${data[at + 2]}`);
    return [...found];
  });
  // Address, data and now, as the theme has them.
  expect(colours).toEqual(expect.arrayContaining(['10,110,124', '163,69,5', '162,33,107']));
});

test('as a list each instruction says what it changed and why, and is gone to', async () => {
  const page = await ran('quay-watch');
  await page.click(`${byId('so-far-look')} label:nth-of-type(2)`);
  await until(page, '[data-instruction="8"]', /0x0D\s*HALT/);
  await page.$eval(byId('so-far-list'), (each) => each.scrollTo(0, 0));
  await until(page, '[data-instruction="2"]', /0x02ADD riseACC C9.*ALU adds/);
  await page.click('[data-instruction="2"] button');
  await until(page, byId('ticks'), /^16$/);
  await page.waitForSelector('[data-instruction="2"].here');
  await page.reload();
  await page.waitForSelector(byId('so-far-list'));
});

test('a long run opens as a whole, and its list goes to any place', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await loadProgram(
    page,
    'start LOAD #0\nmore INC\n STORE kept\n JUMPNZ more\n LOAD rounds\n INC\n STORE rounds\n JUMPNZ start\n HALT\nkept .room 1\nrounds .cells 0',
  );
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /Halted after 1\d\d,\d{3} instructions/);
  await page.waitForSelector(`${byId('so-far-canvas')}[data-drawn^="0:"]`);
  await page.click(`${byId('so-far-look')} label:nth-of-type(2)`);
  await page.waitForSelector('[data-instruction] .address');
  await page.$eval(byId('so-far-list'), (each) => each.scrollTo(0, each.scrollHeight / 2));
  await page.waitForFunction(() =>
    [...document.querySelectorAll<HTMLElement>('[data-instruction]')].some(
      (each) => Number(each.dataset['instruction']) > 90_000 && each.querySelector('.address'),
    ),
  );
});

test('a character of the output tells which instruction wrote it, by mouse and by keys', async () => {
  const page = await ran('over-the-sill');
  await until(page, byId('output'), /37\s*0\s*128/);
  const { x, y } = (await (await page.$(byId('output')))!.boundingBox())!;
  // The first letters of the second line.
  await page.mouse.click(x + 15, y + 4 + 30);
  await until(page, byId('written-by'), /Written by TRAP showNumber on line 18, tick \d+/);
  expect(await textOf(page, `${byId('output')} mark`)).toBe('0');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await page.waitForFunction((where) => document.querySelector(`${where} mark`)?.textContent === '7', {}, byId('output'));
  const told = await until(page, byId('written-by'), /tick \d+/);
  await page.keyboard.press('Enter');
  await until(page, byId('ticks'), new RegExp(`^${/tick (\d+)/.exec(told)![1]}$`));
});

test('a link leads back to the run, what it was given and its tick', async () => {
  const page = await harness.open('/bench/highest-water');
  await ready(page);
  await press(page, 'ArrowRight');
  await until(page, byId('ticks'), /^6$/);
  await press(page, '.');
  await until(page, byId('ticks'), /^7$/);
  await page.evaluate(() => Object.defineProperty(navigator, 'clipboard', { value: undefined, configurable: true }));
  await page.click(byId('tool-keep'));
  await page.click(byId('copy-link'));
  const address = await until(page, byId('kept-told'), /\/bench\/highest-water#run=[\w-]+$/);
  const other = await harness.open('/bench/foghorn');
  await ready(other);
  await other.goto(address);
  await until(other, byId('ticks'), /^7$/);
  expect(new URL(other.url()).hash).toBe('');
  await other.goto(`${harness.address}/bench/highest-water#run=rubbish`);
  await until(other, 'body', /says nothing that could be opened/);
});

test('single keys go to the keyboard one by one, and Escape gives them back', async () => {
  const page = await harness.open('/bench/harbour-log');
  await ready(page);
  await page.click(byId('single-keys'));
  await page.waitForSelector(byId('key-place'));
  await page.keyboard.press('e');
  await until(page, byId('key-place'), /last e/);
  await page.keyboard.press('.');
  await page.waitForFunction((where) => document.querySelectorAll(`${where} li`).length === 2, {}, byId('queue'));
  expect(await textOf(page, byId('ticks'))).toBe('0');
  await page.keyboard.press('Escape');
  await page.waitForSelector(byId('entry'));
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('output'), /log: e\./);
});

test('the run and the listing go on paper by themselves: the bench stays off it', async () => {
  const page = await ran('mean-level');
  await page.click(`${byId('so-far-look')} label:nth-of-type(2)`);
  await page.click(byId('print-run'));
  await page.waitForSelector(`${byId('paper-run')} tbody tr`);
  const rows = (): Promise<string[]> =>
    page.$$eval(`${byId('paper-run')} tbody tr`, (list) => list.map((each) => (each as HTMLElement).innerText));
  const all = await rows();
  expect(await textOf(page, byId('paper'))).toContain(`of ${all.length};`);
  expect(all[0]).toMatch(/LOADX #0/);
  await page.click(byId('paper-from'), { count: 3 });
  await page.keyboard.type('2');
  await page.click(byId('paper-to'), { count: 3 });
  await page.keyboard.type('3');
  await page.waitForFunction((where) => document.querySelectorAll(`${where} tbody tr`).length === 2, {}, byId('paper-run'));
  expect(await rows()).toEqual(all.slice(1, 3));
  await page.keyboard.press('Backspace');
  await page.keyboard.type('x');
  await until(page, byId('paper-sheet'), /Give a first and a last instruction/);
  await page.emulateMediaType('print');
  const seen = await page.evaluate(() => [
    getComputedStyle(document.querySelector('#root')!).display,
    document.querySelector('[data-testid=paper-sheet]')!.checkVisibility(),
    document.querySelector('[data-testid=print-paper]')!.checkVisibility(),
  ]);
  expect(seen).toEqual(['none', true, false]);
  await page.emulateMediaType('screen');
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=paper]'));
  await press(page, 'w');
  await page.click(byId('tool-code'));
  await page.click(byId('print-listing'));
  await until(page, `${byId('paper-sheet')} .listing`, /LOADX\s+#0/);
  expect(await textOf(page, `${byId('paper-sheet')} .listing tr:nth-of-type(6)`)).toMatch(/^6\s*00\s*[0-9A-F]{2} [0-9A-F]{2}\s*start/);
});

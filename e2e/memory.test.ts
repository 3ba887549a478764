/** Windows on memory: gone through, typed into, pasted and filled, taken back, searched, following the run. */
import type { Page } from 'puppeteer-core';
import { byId, press, ready, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

async function memoryOf(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await ready(page);
  await page.click(byId('tool-memory'));
  await page.waitForSelector(`${byId('cells')} td.head`);
  return page;
}

/** What cells show from an address on. */
const cells = (page: Page, from: number, count: number): Promise<string[]> =>
  page.evaluate(
    (first: number, many: number) =>
      Array.from({ length: many }, (_, at) => document.querySelector(`.cells td[data-at="${first + at}"]`)?.textContent ?? 'out of sight'),
    from,
    count,
  );

const shows = (page: Page, from: number, values: string[]): Promise<unknown> =>
  page.waitForFunction(
    (first: number, wanted: string[]) =>
      wanted.every((each, at) => document.querySelector(`.cells td[data-at="${first + at}"]`)?.textContent === each),
    {},
    from,
    values,
  );

async function goTo(page: Page, text: string): Promise<void> {
  await page.click(byId('go-to'), { count: 3 });
  await page.type(byId('go-to'), text);
  await page.keyboard.press('Enter');
}

test('values are typed where they stand: read before they are taken, Enter and Tab go on, Escape gives up, undo takes back', async () => {
  const page = await memoryOf('quay-watch');
  await goTo(page, 'level');
  await until(page, byId('cell-told'), /^0x40 level, as loaded, 0x9E = 158 = −98 signed/);
  await page.focus('.cells table');
  await page.keyboard.type('21');
  await until(page, byId('cell-told'), /is 0x21 = 33\. In decimal it would be 21\./);
  // Rows that are scrolled leave what is typed open, and nothing is taken of it yet.
  await page.$eval(byId('cells'), (each) => each.scrollTo(0, 88));
  await page.waitForFunction(() => !document.querySelector('.cells td[data-at="0"]'));
  expect(await page.$eval(byId('cell-entry'), (each) => (each as HTMLInputElement).value)).toBe('21');
  await page.keyboard.press('Enter');
  await shows(page, 0x40, ['21']);
  await page.keyboard.type('0d10');
  await page.keyboard.press('Tab');
  await page.keyboard.type('"ebb"');
  await page.keyboard.press('Enter');
  await shows(page, 0x40, ['21', '0A', '65', '62', '62']);
  await page.keyboard.type('999');
  await page.keyboard.press('Enter');
  await until(page, byId('cell-told'), /0x999|does not fit|2457|0 to 255/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=cell-entry]'));
  await page.keyboard.down('Control');
  for (let step = 0; step < 3; step++) await page.keyboard.press('z');
  await page.keyboard.up('Control');
  await shows(page, 0x40, ['9E', '2B']);
  await page.keyboard.down('Control');
  await page.keyboard.down('Shift');
  await page.keyboard.press('z');
  await page.keyboard.up('Shift');
  await page.keyboard.up('Control');
  await shows(page, 0x40, ['21', '2B']);
});

/** As a spreadsheet gives it. */
const paste = (page: Page, text: string): Promise<void> =>
  page.evaluate((content) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', content);
    document.querySelector('.cells table')!.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, text);

test('many cells are pasted from a spreadsheet, chosen and filled; what does not fit changes nothing; a choice is copied', async () => {
  const page = await memoryOf('quay-watch');
  await goTo(page, '50');
  await until(page, byId('cell-told'), /^0x50/);
  await paste(page, '1\t2\t3\r\n4\t5\t6');
  await shows(page, 0x50, ['01', '02', '03', '04', '05', '06']);
  await until(page, byId('cell-told'), /6 cells pasted, read as hex/);
  await paste(page, '1\tdog\t3');
  await until(page, byId('cell-told'), /^Value 2, line 1: “dog” is no number/);
  expect(await cells(page, 0x50, 3)).toEqual(['01', '02', '03']);
  await goTo(page, 'F8');
  await until(page, byId('cell-told'), /^0xF8/);
  await paste(page, Array.from({ length: 300 }, () => '1').join('\n'));
  await until(page, byId('cell-told'), /^300 cells do not fit: 8 are left/);
  await goTo(page, '60');
  await until(page, byId('cell-told'), /^0x60/);
  await page.focus('.cells table');
  await page.keyboard.down('Shift');
  for (let step = 0; step < 3; step++) await page.keyboard.press('ArrowRight');
  await page.keyboard.up('Shift');
  await until(page, byId('cell-told'), /4 cells chosen/);
  await page.keyboard.type('AA');
  await page.keyboard.down('Control');
  await page.keyboard.press('Enter');
  await page.keyboard.up('Control');
  await shows(page, 0x60, ['AA', 'AA', 'AA', 'AA', '··']);
  const copied = await page.evaluate(() => {
    const clipboardData = new DataTransfer();
    document.querySelector('.cells table')!.dispatchEvent(new ClipboardEvent('copy', { clipboardData, bubbles: true, cancelable: true }));
    return clipboardData.getData('text/plain');
  });
  expect(copied).toBe('AA\tAA\tAA\tAA');
});

test('values and characters are found in a memory of 65,536 cells; a window follows writes; another shows every reading', async () => {
  const page = await memoryOf('two-gates');
  await page.select(byId('follow'), 'writes');
  // The fourth instruction is the first that stores.
  for (let step = 0; step < 4; step++) await press(page, 'ArrowRight');
  await page.waitForSelector(`${byId('cells')} td.written[data-at="${0xdeff}"]`);
  await goTo(page, 'D000');
  await until(page, byId('cell-told'), /^0xD000/);
  await page.focus('.cells table');
  await page.keyboard.type('"ebb"');
  await page.keyboard.press('Enter');
  await shows(page, 0xd000, ['0065', '0062', '0062']);
  await goTo(page, '0');
  await until(page, byId('cell-told'), /^0x0000/);
  await page.type(byId('find'), '"ebb"');
  await page.keyboard.press('Enter');
  await until(page, byId('cell-told'), /3 cells chosen/);
  await shows(page, 0xd000, ['0065', '0062', '0062']);
  await page.click(byId('find'), { count: 3 });
  await page.type(byId('find'), 'BEEF');
  await page.keyboard.press('Enter');
  await until(page, byId('cell-told'), /No cell of this memory holds BEEF/);
  await page.click(byId('add-window'));
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=memory-window]').length === 2);
  await page.click(`${byId('memory-window')}:nth-child(2) ${byId('as-list')} [data-part=control]`);
  await until(page, `${byId('memory-window')}:nth-child(2) thead`, /unsigned.*signed.*bits.*character.*name/);
  await page.reload();
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=memory-window]').length === 2);
  await until(page, `${byId('memory-window')}:nth-child(2) thead`, /unsigned/);
  await page.click(`${byId('memory-window')}:nth-child(2) ${byId('close-window')}`);
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=memory-window]').length === 1);
  await page.click(byId('codes'));
  await until(page, byId('code-chart'), /0A {2}10LF/);
  await page.keyboard.press('Escape');
});

test('cells tell code, data, stack, free room and what a hand typed apart, and the whole is walked by keys', async () => {
  const page = await memoryOf('over-the-sill');
  await page.focus('.cells table');
  await page.waitForSelector('.cells td.code[data-at="0"]');
  await press(page, 'ArrowRight');
  await page.focus('.cells table');
  await page.keyboard.press('End');
  await until(page, byId('cell-told'), /^0xFF/);
  await page.keyboard.press('Home');
  await until(page, byId('cell-told'), /^0x00/);
  await goTo(page, 'SP');
  await until(page, byId('cell-told'), /^0xF0|^0xEF/);
  await page.waitForSelector('.cells td.stack');
  await page.focus('.cells table');
  await page.keyboard.type('7');
  await page.keyboard.press('Enter');
  await page.waitForSelector('.cells td.by-hand');
  expect(await textOf(page, '.cells td.by-hand')).toBe('07');
});

test('heat shows how often the run came to a cell, in shades and in words', async () => {
  const page = await memoryOf('mean-level');
  await press(page, 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await page.click(byId('heat'));
  await page.waitForSelector('.cells td.heat1[data-at="0"]');
  await goTo(page, '0');
  await until(page, byId('cell-told'), /executed 1×, read 1×/);
  await page.select(byId('speed'), 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /Halted/);
  await goTo(page, '6');
  await until(page, byId('cell-told'), /executed 4×, read 4×/);
  await goTo(page, 'high');
  await until(page, byId('cell-told'), /written \d×/);
  await page.click(byId('heat'));
  await page.waitForFunction(() => !document.querySelector('.cells td[class*=heat]'));
});

test('two cells are shown and typed as one number, in either order; what is typed goes into both, as one step back', async () => {
  const page = await memoryOf('quay-watch');
  const [high, low] = await cells(page, 0x40, 2);
  await page.select(byId('pairs'), 'high first');
  await shows(page, 0x40, [`${high}${low}`]);
  expect(await cells(page, 0x41, 1)).toEqual(['out of sight']);
  await page.select(byId('pairs'), 'low first');
  await shows(page, 0x40, [`${low}${high}`]);
  // Its second cell leads to the pair.
  await goTo(page, '41');
  await until(page, byId('cell-told'), /^0x40 level/);
  await page.focus('.cells table');
  await page.keyboard.type('1234');
  await until(page, byId('cell-told'), /is 0x1234 = 4660/);
  await page.keyboard.press('Enter');
  await shows(page, 0x40, ['1234']);
  await until(page, byId('cell-told'), /^0x42/);
  await page.select(byId('pairs'), 'each');
  await shows(page, 0x40, ['34', '12']);
  await page.select(byId('pairs'), 'high first');
  await page.click('[data-testid=as-list] [data-part=control]');
  await page.waitForFunction(() => /3412\s*13330/.test(document.querySelector('.cells td[data-at="64"]')?.closest('tr')?.innerText ?? ''));
  await page.focus('.cells table');
  await page.keyboard.down('Control');
  await page.keyboard.press('z');
  await page.keyboard.up('Control');
  await shows(page, 0x40, [`${high}${low}`]);
});

test('the cell that a selector points at is marked, with its bank, before anything is read there', async () => {
  const page = await harness.open('/bench/gauge-table');
  await ready(page);
  // P0 has its address after the first instruction; the access comes later.
  await press(page, 'ArrowRight');
  await page.click(byId('tool-memory'));
  await page.waitForSelector(byId('cells'));
  const data = await page.$eval(
    '[aria-label="Memory of this window"]',
    (each) => [...(each as HTMLSelectElement).options].find((one) => /data/i.test(one.text))!.value,
  );
  await page.select('[aria-label="Memory of this window"]', data);
  const marked = await page.waitForSelector('.cells td.pointed');
  await marked!.hover();
  await until(page, byId('pointed-cell'), /^0:0x[0-9A-F]{2} .*P[0-3].* points? here/);
});

/** Pieces of a window that are wider than their columns. */
const cutOff = (page: Page): Promise<string[]> =>
  page.$$eval('.cells :is(th, td)', (found) =>
    found.filter((each) => each.scrollWidth > each.clientWidth).map((each) => `${each.className}: ${each.textContent}`),
  );

test('columns are as wide as what stands in them, in every base, as cells and as a list', async () => {
  const page = await memoryOf('two-gates');
  await page.focus('.cells table');
  // Small names are the widest characters.
  await page.keyboard.type('FFFF 0 16 16 16 16 16 16 16 16 16 16 16 16 16 16');
  await page.keyboard.press('Enter');
  await shows(page, 0, ['FFFF', '0000', '0016']);
  for (const form of ['cells', 'list'])
    for (const [base, first] of Object.entries({ dec: '65535', bin: '1111111111111111', char: '·', hex: 'FFFF' })) {
      await page.$$eval(
        '[aria-label="Base of this window"] label',
        (all, wanted) => (all as HTMLElement[]).find((each) => each.textContent === wanted)!.click(),
        base,
      );
      await goTo(page, '0');
      await shows(page, 0, [first]);
      expect([form, base, await cutOff(page)]).toEqual([form, base, []]);
      if (base === 'hex') await page.click(`${byId('as-list')} [data-part=control]`);
    }
});

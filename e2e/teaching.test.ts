/** In front of a class: the drawing without a letter over another, counts, notes, what is pointed at, sentences on request, pictures to take along. */
import type { Page } from 'puppeteer-core';
import { byId, press, ready, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

async function bench(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await ready(page);
  return page;
}

/** Words and values of the drawing that lie over each other; tokens on their way are no labels. */
const overlaps = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const texts = [...document.querySelectorAll('svg.datapath text:not(.token-text)')].filter((each) => each.textContent?.trim());
    const boxes = texts.map((each) => {
      const { left, right, top, bottom } = each.getBoundingClientRect();
      // Letters fill about two thirds of their line.
      const rim = (bottom - top) / 6;
      return { words: each.textContent, left: left + 1, right: right - 1, top: top + rim, bottom: bottom - rim };
    });
    return boxes.flatMap((a, at) =>
      boxes
        .slice(at + 1)
        .filter((b) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom)
        .map((b) => `“${a.words}” over “${b.words}”`),
    );
  });

test('in the drawings of all machines no label lies over another, whatever they show', async () => {
  for (const program of ['quay-watch', 'flood-sum', 'two-gates', 'sill-lamps']) {
    const page = await bench(program);
    const found = new Set<string>(await overlaps(page));
    for (let tick = 0; tick < 12; tick++) {
      await press(page, '.');
      await new Promise((resolve) => setTimeout(resolve, 50));
      for (const each of await overlaps(page)) found.add(each);
    }
    expect(Number(await textOf(page, byId('ticks')))).toBeGreaterThan(1);
    expect([program, ...found]).toEqual([program]);
    await page.close();
  }
});

test('control words light where they act', async () => {
  const page = await bench('quay-watch');
  await press(page, '.', '.');
  await until(page, '[data-control=memory]', /^read$/);
  await until(page, '[data-control=PC]', /^PC \+ 1$/);
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, '[data-control=alu]', /add/);
  expect(await page.$('[data-control=memory]')).toBeNull();
});

test('the run is counted up to now: instructions, phases, memory, branches, and each line beside the source', async () => {
  const page = await bench('highest-of-five');
  await page.click(byId('tool-counts'));
  await until(page, byId('counts'), /Nothing has run yet/);
  for (let step = 0; step < 12; step++) await press(page, 'ArrowRight');
  await until(page, byId('counts'), /^12 instructions/);
  await page.waitForSelector(`${byId('counts')} .recharts-bar-rectangle`);
  await until(page, byId('branches'), /JUMP/);
  await page.waitForFunction(
    (all) =>
      [...document.querySelectorAll('.cm-counts .count')].reduce((sum, each) => sum + parseInt(each.textContent ?? '', 10), 0) === all,
    {},
    12,
  );
  // Back in the run the counts follow.
  await press(page, 'ArrowLeft');
  await until(page, byId('counts'), /^11 instructions/);
  await page.click(byId('tool-wake'));
  await page.waitForFunction(() => document.querySelectorAll('.cm-counts .count').length === 0);
});

test('a note is pinned to a line and to a panel, comes with its line, and is still there after a reload', async () => {
  const page = await bench('quay-watch');
  await press(page, 'ArrowRight', 'ArrowRight');
  await page.click(byId('tool-notes'));
  await page.waitForSelector(byId('note-text'));
  await page.type(byId('note-text'), 'Which is larger?');
  await page.click(byId('note-add'));
  await until(page, byId('notes-now'), /Which is larger\?/);
  await page.type(byId('note-text'), 'C is the borrow.');
  await page.select(byId('note-place'), 'flags');
  await page.click(byId('note-add'));
  await until(page, byId('notes-flags'), /borrow/);
  await press(page, 'ArrowRight');
  await page.waitForFunction(() => !document.querySelector('[data-testid=notes-now]'));
  const ticks = await textOf(page, byId('ticks'));
  // A run is kept once it has stood still for a moment.
  await page.waitForFunction((tick) => sessionStorage.getItem('zettak.run.quay-watch')?.match(/"tick": *(\d+)/)?.[1] === tick, {}, ticks);
  await page.reload();
  await until(page, byId('notes-flags'), /borrow/);
  // The run is put back after its notes, to where it stood.
  await until(page, byId('ticks'), new RegExp(`^${ticks}$`));
  await until(page, byId('status'), /Paused/);
  await press(page, 'ArrowLeft');
  await until(page, byId('notes-now'), /Which is larger\?/);
  await page.click('[aria-label="Take the note “C is the borrow.” away"]');
  await page.waitForFunction(() => !document.querySelector('[data-testid=notes-flags]'));
});

test('an instruction that is pointed at in the listing or in memory is shown field by field', async () => {
  const page = await bench('quay-watch');
  await (await page.waitForSelector('.cm-address [data-points="2"]'))!.hover();
  await until(page, byId('pointed-ruler'), /ADD rise.*33.*41.*address = 0x41 rise/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=pointed-ruler]'));
  // By keyboard, from the second cell of an instruction; data have no fields.
  await page.focus('.memory');
  await page.keyboard.press('ArrowRight');
  await page.waitForFunction(() => document.activeElement?.matches('td[data-cell]'));
  await page.keyboard.press('ArrowRight');
  await until(page, byId('pointed-ruler'), /address = 0x40 level|LOAD level/);
  await (await page.$('td[data-cell="64"]'))!.hover();
  await page.waitForFunction(() => !document.querySelector('[data-testid=pointed-ruler]'));
});

test('an address or a name that is pointed at in a sentence says what its cell holds; a register says where it points', async () => {
  const page = await bench('quay-watch');
  await press(page, 'ArrowRight');
  await until(page, byId('sentence'), /from level went to ACC/);
  await (await page.waitForSelector(`${byId('sentence')} .piece.name`))!.hover();
  await until(page, byId('pointed-cell'), /^0x40 level, as loaded, MAR points here, 0x9E = 158/);
  await page.mouse.move(4, 4);
  await page.waitForFunction(() => !document.querySelector('[data-testid=pointed-cell]'));
  // A step ends what is told: it would be of the tick before.
  await (await page.$(`${byId('sentence')} .piece.name`))!.hover();
  await page.waitForSelector(byId('pointed-cell'));
  await press(page, '.');
  await page.waitForFunction(() => !document.querySelector('[data-testid=pointed-cell]'));
  await press(page, ',');
  const title = await page.$eval('[data-value=MAR]', (each) => each.closest('tr')!.title);
  expect(title).toMatch(/points at M\[0x40\], level, which holds 0x9E/);
  expect(await page.$$eval('.memory td.pointed', (each) => each.map((cell) => cell.getAttribute('data-cell')))).toEqual(['64']);
});

test('on request sentences name the flags that are left alone and give numbers as they are said; a branch is told before it comes', async () => {
  const page = await bench('quay-watch');
  await press(page, 'l');
  await page.click(`${byId('tell-untouched')} [data-part=control]`);
  await page.click(`${byId('tell-spoken')} [data-part=control]`);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[role=dialog]'));
  await press(page, 'ArrowRight');
  await until(page, byId('sentence'), /9E hex nine E from level went to ACC.*Left alone: C 0, V 0, H 0, P 0\./);
  const branching = await harness.open('/bench/highest-of-five');
  await ready(branching);
  for (let step = 0; step < 12; step++) {
    const before = await textOf(branching, byId('ticks'));
    await press(branching, 'ArrowRight');
    await branching.waitForFunction((text: string) => document.querySelector('[data-testid=ticks]')!.textContent !== text, {}, before);
    if (/JUMP\w+ .*(will be taken|falls through)/.test(await textOf(branching, byId('coming')).catch(() => ''))) return;
  }
  throw new Error('No branch was told before it came');
});

test('the drawing is saved as a picture that stands for itself, the control table as CSV', async () => {
  const page = await bench('quay-watch');
  await press(page, 'ArrowRight');
  await page.evaluate(() => {
    const saved: string[] = [];
    Object.assign(window, { saved });
    const make = URL.createObjectURL.bind(URL);
    URL.createObjectURL = (blob: Blob) => {
      void blob.text().then((text) => saved.push(text));
      return make(blob);
    };
    HTMLAnchorElement.prototype.click = () => undefined;
  });
  for (const action of ['save-drawing', 'control']) {
    await page.click(byId('program-actions'));
    await page.waitForSelector(byId(`program-actions-${action}`), { visible: true });
    await page.click(byId(`program-actions-${action}`));
  }
  await page.waitForFunction(() => (window as unknown as { saved: string[] }).saved.length === 2);
  const [svg, csv] = await page.evaluate(() => (window as unknown as { saved: string[] }).saved);
  const read = await page.evaluate((text) => {
    const picture = new DOMParser().parseFromString(text, 'image/svg+xml');
    return {
      broken: picture.querySelector('parsererror')?.textContent,
      words: picture.documentElement.textContent,
      styled: picture.querySelectorAll('text[style*="font-size"]').length,
      classes: picture.querySelectorAll('[class]').length,
    };
  }, svg!);
  expect(read.broken).toBeUndefined();
  expect(read.words).toMatch(/ACC.*9E/);
  expect(read.styled).toBeGreaterThan(10);
  expect(read.classes).toBe(0);
  expect(csv).toMatch(/^instruction,tick,phase,transfers,read,write,PC \+ 1/);
});

test('letters grow with the room, and Enter at an edge folds the state away and brings it back as wide as it was', async () => {
  const page = await bench('quay-watch');
  const height = (): Promise<number> => page.$eval(byId('sentence'), (each) => each.getBoundingClientRect().height);
  const small = await height();
  const before = await page.$eval('[aria-label=State]', (each) => Math.round(each.getBoundingClientRect().width));
  const asBefore = (): Promise<unknown> =>
    page.waitForFunction(
      (wide: number) => Math.abs(document.querySelector('[aria-label=State]')!.getBoundingClientRect().width - wide) < 4,
      {},
      before,
    );
  await page.setViewport({ width: 1920, height: 1080 });
  await page.waitForFunction(
    (before: number) => document.querySelector('[data-testid=sentence]')!.getBoundingClientRect().height > 1.25 * before,
    {},
    small,
  );
  const cut = await page.evaluate(
    () => document.documentElement.scrollWidth > innerWidth || document.documentElement.scrollHeight > innerHeight,
  );
  expect(cut).toBe(false);
  await page.setViewport({ width: 1280, height: 800 });
  await asBefore();
  await page.focus(byId('edge-state'));
  await page.waitForSelector(`${byId('edge-state')}[data-focus]`);
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.querySelector('[aria-label=State]')!.getBoundingClientRect().width < 4);
  await page.keyboard.press('Enter');
  await asBefore();
});

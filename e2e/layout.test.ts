/** How the bench is laid out: its foot, its edges, layouts for lessons, the view for a room; and what stands there to be looked at. */
import type { Page } from 'puppeteer-core';
import { answered, byId, chooseSpeed, press, ready, rewrite, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

async function bench(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await ready(page);
  return page;
}

/** Width and height of an element, rounded. */
const sizeOf = (page: Page, selector: string): Promise<{ width: number; height: number }> =>
  page.$eval(selector, (each) => {
    const { width, height } = each.getBoundingClientRect();
    return { width: Math.round(width), height: Math.round(height) };
  });

/** Some steps by keys, once the edge has noticed that it has the focus; each from where the last one has led. */
async function moveEdge(page: Page, edge: string, key: 'ArrowUp' | 'ArrowRight'): Promise<void> {
  await page.focus(byId(edge));
  await page.waitForSelector(`${byId(edge)}[data-focus]`);
  for (let times = 0; times < 4; times++) {
    await page.keyboard.press(key);
    await answered(page);
  }
}

const click = (page: Page, label: string): Promise<void> =>
  page.$$eval(
    '[role=dialog] button, [role=dialog] label',
    (all, words) => (all as HTMLElement[]).find((each) => each.textContent?.trim() === words)?.click(),
    label,
  );

test('whatever is opened at the foot, the drawing stays; the foot is folded, as high as one wants, and remembered', async () => {
  const page = await bench('quay-watch');
  const drawn = async (): Promise<boolean> => (await sizeOf(page, '[aria-label="What happens"] svg')).height > 100;
  for (const tool of ['stops', 'watch', 'memory', 'say', 'calls', 'devices', 'past', 'keep', 'counts', 'notes', 'wake']) {
    await page.click(byId(`tool-${tool}`));
    await page.waitForSelector(`${byId(`tool-${tool}`)}[aria-selected=true]`);
    expect(await drawn()).toBe(true);
  }
  await press(page, 'r');
  await page.waitForSelector(byId('stops'));
  const before = await sizeOf(page, byId('dock'));
  await moveEdge(page, 'edge-foot', 'ArrowUp');
  await page.waitForFunction(
    (height: number) => document.querySelector('[data-testid=dock]')!.clientHeight > height + 10,
    {},
    before.height,
  );
  const higher = await sizeOf(page, byId('dock'));
  expect(await drawn()).toBe(true);
  await page.reload();
  await page.waitForSelector(byId('stops'));
  expect(Math.abs((await sizeOf(page, byId('dock'))).height - higher.height)).toBeLessThan(4);
  await page.click(byId('fold-dock'));
  await page.waitForFunction(() => document.querySelector('[data-testid=dock]')!.clientHeight < 45);
  await press(page, 'r');
  await page.waitForFunction(() => document.querySelector('[data-testid=dock]')!.clientHeight > 100);
  await press(page, 'r');
  await page.waitForSelector(byId('wake'));
});

test('panels are made wider by keys, kept under a name, put back as they come, and taken again', async () => {
  const page = await bench('quay-watch');
  const program = (): Promise<number> => sizeOf(page, 'section.program').then((each) => each.width);
  const before = await program();
  await moveEdge(page, 'edge-ticks', 'ArrowRight');
  await page.waitForFunction((width: number) => document.querySelector('section.program')!.clientWidth > width + 10, {}, before);
  // It has come to rest, and is remembered so.
  let rest = 0;
  for (let width = await program(); width !== rest; width = await program()) {
    rest = width;
    await new Promise((done) => setTimeout(done, 120));
  }
  const wide = await program();
  await page.click(byId('layout-button'));
  await page.waitForSelector(byId('layout-name'));
  await page.type(byId('layout-name'), 'long lines');
  await page.keyboard.press('Enter');
  await until(page, byId('layouts'), /long lines/);
  await page.click(byId('reset-layout'));
  await page.waitForFunction((width: number) => Math.abs(document.querySelector('section.program')!.clientWidth - width) < 4, {}, before);
  await click(page, 'Use');
  await page.waitForFunction((width: number) => Math.abs(document.querySelector('section.program')!.clientWidth - width) < 4, {}, wide);
  await click(page, '×');
  await page.waitForFunction(() => document.querySelector('[data-testid=layouts]')?.textContent === '');
  await page.keyboard.press('Escape');
});

test('panels that a small window has squeezed have their room again when it grows', async () => {
  const page = await bench('quay-watch');
  const widths = (): Promise<number[]> =>
    Promise.all(['section.program', '[aria-label=State]'].map((each) => sizeOf(page, each).then(({ width }) => width)));
  const before = await widths();
  const state = before[1]!;
  for (const [width, height] of [
    [500, 500],
    [300, 300],
  ] as const) {
    await page.setViewport({ width, height });
    await page.waitForFunction((least: number) => document.querySelector('[aria-label=State]')!.clientWidth !== least, {}, state);
    await page.setViewport({ width: 1280, height: 800 });
    await page.waitForFunction((wide: number) => Math.round(document.querySelector('[aria-label=State]')!.clientWidth) === wide, {}, state);
    expect(await widths()).toEqual(before);
  }
});

test('tools for writing stand beside the source, and the drawing stays; long lines go on below', async () => {
  const page = await bench('quay-watch');
  await press(page, 'w');
  await until(page, '.tool', /LOAD address/);
  expect((await sizeOf(page, '[aria-label="What happens"] svg')).height).toBeGreaterThan(100);
  await press(page, 'w');
  await page.waitForFunction(() => !document.querySelector('[aria-label="Tools for writing"]'));
  const lines = (): Promise<number> => sizeOf(page, '.program .cm-line').then((each) => each.height);
  const low = await lines();
  await press(page, 'l');
  await page.waitForSelector(byId('wraps'));
  await click(page, 'Long lines of the program go on below');
  await page.waitForFunction((height: number) => document.querySelector('.program .cm-line')!.clientHeight > 1.5 * height, {}, low);
});

test('marks of lines stand in a margin of their own, over no letter of a line', async () => {
  const page = await bench('quay-watch');
  await press(page, 'ArrowRight', '.');
  await page.waitForSelector('.cm-badge.executing');
  const overlaps = await page.evaluate(() => {
    const badges = [...document.querySelectorAll('.cm-badge')].map((each) => each.getBoundingClientRect());
    const texts = [...document.querySelectorAll('.program .cm-content, .program .cm-address, .program .cm-break')].map((each) =>
      each.getBoundingClientRect(),
    );
    return badges.filter((one) => texts.some((other) => one.right > other.left + 1 && one.left < other.right - 1)).length;
  });
  expect(overlaps).toBe(0);
});

test('the instruction in hand is told field by field, with gaps for what has not come yet', async () => {
  const page = await bench('quay-watch');
  await press(page, 'ArrowRight', '.', '.');
  await until(page, byId('in-hand'), /33.*not decoded yet/);
  await press(page, '.');
  await until(page, byId('in-hand'), /33.*ADD.*··.*not fetched yet/);
  await press(page, '.', '.');
  await until(page, byId('in-hand'), /33.*ADD.*41.*address = 0x41 rise/);
  expect(await page.$eval(byId('in-hand'), (each) => each.getAttribute('aria-label'))).toBe('Instruction in hand: ADD rise');
});

test('values are watched: as they are, as they were before the last command, and why one means nothing', async () => {
  const page = await bench('quay-watch');
  await page.click(byId('tool-watch'));
  for (const text of ['ACC', 'later', 'ACX + 1', 'ACC > 0xC0']) {
    await page.waitForSelector(byId('watch-text'));
    await page.type(byId('watch-text'), text);
    await page.keyboard.press('Enter');
    await page.waitForSelector(`[data-watch="${text}"]`);
  }
  await page.keyboard.press('Escape');
  await page.$eval(byId('watch-text'), (each) => (each as HTMLElement).blur());
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, '[data-watch=ACC]', /ACC0xC9 = 201 = −550x9E = 158 = −98/);
  await until(page, '[data-watch="ACC > 0xC0"]', /10/);
  await until(page, '[data-watch="ACX + 1"]', /no “ACX”/);
  await until(page, '[data-watch=later]', /the same/);
  await press(page, 'ArrowRight');
  await until(page, '[data-watch=later]', /0xC9 = 201/);
  await page.waitForFunction(() => /"tick": 2\d/.test(sessionStorage.getItem('zettak.run.quay-watch') ?? ''));
  await page.reload();
  await until(page, '[data-watch=later]', /0xC9 = 201/);
  await page.click('[aria-label="Watch ACX + 1 no more"]');
  await page.waitForFunction(() => !document.querySelector('[data-watch="ACX + 1"]'));
});

test('for a room: what a class looks at, larger, with the console; keys go on working, and the bench comes back as it was', async () => {
  const page = await bench('highest-water');
  await press(page, 'ArrowRight', '.', '.');
  await press(page, 'p');
  await page.waitForSelector(byId('projector'));
  await until(page, byId('current-lines'), /now|executing/);
  const digits = await page.$$eval('[aria-label="What happens"] svg text', (all) =>
    all.filter((each) => /^[0-9A-F]{2}$/.test(each.textContent ?? '')).map((each) => each.getBoundingClientRect().height),
  );
  expect(Math.max(...digits)).toBeGreaterThanOrEqual(28);
  const sentence = await page.$eval(byId('sentence'), (each) => each.getBoundingClientRect().height / each.getClientRects().length);
  expect(sentence).toBeGreaterThanOrEqual(30);
  expect(await page.$(byId('dock'))).toBeNull();
  await chooseSpeed(page, 'full').catch(() => undefined);
  await press(page, 'Space');
  await until(page, byId('waiting'), /wants a number/);
  await page.keyboard.type('7');
  await page.keyboard.press('Enter');
  await until(page, byId('output'), /level\?/);
  await page.keyboard.press('Escape');
  await page.click(byId('leave-projector'));
  await page.waitForSelector(byId('dock'));
  expect(await textOf(page, byId('ticks'))).not.toBe('0');
});

test('a first lesson does without some registers, on its own machine only', async () => {
  const page = await bench('quay-watch');
  await press(page, 'l');
  await page.waitForSelector(byId('lesson'));
  for (const name of ['MAR', 'MDR', 'X', 'SP', 'flags']) await click(page, name);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-value=SP]'));
  const shown = await page.$$eval('[data-testid=registers] b[data-value]', (all) => all.map((each) => (each as HTMLElement).dataset.value));
  expect(shown).toEqual(['PC', 'IR', 'ACC']);
  expect(await page.$(byId('flags'))).toBeNull();
  const other = await bench('foghorn');
  expect(await other.$(byId('flags'))).not.toBeNull();
  // What is no layout is passed over.
  for (const rubbish of ['{', '[]', '{"watching":[1],"hidden":null}', '{"wake":"high"}']) {
    await page.evaluate((text) => localStorage.setItem('zettak.layout', text), rubbish);
    await page.reload();
    await page.waitForSelector('[data-value=SP]');
  }
});

test('a key is given another one, which is refused where it is taken; the list is printed by itself; they come back as they come', async () => {
  const page = await bench('quay-watch');
  await press(page, '?');
  const cap = `[data-key="."] button`;
  await page.waitForSelector(cap);
  await page.click(cap);
  await page.keyboard.press('b');
  await until(page, '[role=dialog] [role=alert]', /b is taken: breakpoint where PC points\./);
  await page.keyboard.press('k');
  await until(page, cap, /^k$/);
  await page.emulateMediaType('print');
  const printed = await page.evaluate(() =>
    ['#root', '[data-testid=keys]'].map((each) => document.querySelector(each)!.getBoundingClientRect().height),
  );
  expect(printed[0]).toBe(0);
  expect(printed[1]).toBeGreaterThan(400);
  await page.emulateMediaType('screen');
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=keys]'));
  await page.keyboard.press('k');
  await until(page, byId('ticks'), /^1$/);
  await page.reload();
  await until(page, byId('ticks'), /^[01]$/);
  const before = Number(await textOf(page, byId('ticks')));
  await page.keyboard.press('k');
  await until(page, byId('ticks'), new RegExp(`^${before + 1}$`));
  await press(page, '?');
  await page.waitForSelector(byId('reset-keys'));
  await page.click(byId('reset-keys'));
  await until(page, cap, /^\.$/);
});

test('the drawing and the registers stay where they are while the words above them change', async () => {
  const page = await bench('highest-of-five');
  const tops = (): Promise<number[]> =>
    page.$$eval(`${byId('datapath')}, ${byId('registers')}`, (all) => all.map((each) => Math.round(each.getBoundingClientRect().top)));
  const COUNT = 20;
  const walk = async (): Promise<string[]> => {
    const seen: string[] = [];
    for (let tick = 1; tick <= COUNT; tick++) {
      await press(page, '.');
      await until(page, byId('ticks'), new RegExp(`^${tick}$`));
      seen.push(String(await tops()));
    }
    return seen;
  };
  // What is needed once has its room from then on.
  await walk();
  await press(page, 'Home');
  await until(page, byId('ticks'), /^0$/);
  const seen = await walk();
  const often = Math.max(...seen.map((each) => seen.filter((other) => other === each).length));
  // A sentence of four lines may still take more.
  expect(often).toBeGreaterThanOrEqual(COUNT - 4);
});

/** At each speed: half of one, or as many as somebody wants to wait. */
const seconds = Number(process.env.ZETTAK_SPEED_SECONDS ?? 0.5);

test(
  'at every speed the run goes on, the page answers, and a pause is one',
  async () => {
    const page = await bench('mean-level');
    await rewrite(page, 'start   INC\n        JUMP start\n');
    await page.click(byId('load'));
    await page.waitForFunction(() => !document.querySelector('[data-testid=older]'));
    await page.keyboard.press('Escape');
    const speeds = await page.$$eval(`${byId('speed')} option`, (all) => all.map((each) => (each as HTMLOptionElement).value));
    for (const speed of speeds) {
      await chooseSpeed(page, speed);
      const before = await textOf(page, byId('ticks'));
      await press(page, 'Space');
      await until(page, byId('run'), /Pause/);
      await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
      await until(page, byId('ticks'), new RegExp(`^(?!${before}$)`));
      // Something else is looked at meanwhile, and it answers.
      await page.click(byId('tool-stops'));
      await page.waitForSelector(byId('stops'));
      await page.click(byId('tool-wake'));
      await press(page, 'Space');
      await until(page, byId('run'), /Run/);
      await until(page, byId('status'), /Paused/);
      const stood = await textOf(page, byId('ticks'));
      await new Promise((resolve) => setTimeout(resolve, 120));
      expect(await textOf(page, byId('ticks'))).toBe(stood);
    }
  },
  (240 + 12 * seconds) * 1000,
);

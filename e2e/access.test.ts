/** Screens as people find them who cannot see them, or see them badly: nothing serious is found on any, by day and by night. */
import { readFileSync } from 'node:fs';
import type { AxeResults, RunOptions } from 'axe-core';
import type { Page } from 'puppeteer-core';
import { byId, press, sharedHarness, until } from './support';

const harness = sharedHarness();
const axe = readFileSync(require.resolve('axe-core/axe.min.js'), 'utf8');

interface Axe {
  run(where: Document | string, options: RunOptions): Promise<AxeResults>;
}

/** `within`: the part of the page that is new since it was looked at last. */
async function looked(page: Page, options: RunOptions, within?: string): Promise<string[]> {
  const look = (): Promise<AxeResults> =>
    page.evaluate((where, wanted) => (globalThis as unknown as { axe: Axe }).axe.run(where ?? document, wanted), within, options);
  // What is looked at stands still; where it moved all the same it is looked at once more.
  await page.waitForFunction(() => !document.querySelector('[aria-busy=true]'));
  const { violations } = await look().catch(async () => {
    await new Promise((resolve) => setTimeout(resolve, 1000));
    return look();
  });
  return violations
    .filter((each) => each.impact === 'serious' || each.impact === 'critical')
    .map((each) => `${each.id}: ${each.nodes.map((node) => node.html.slice(0, 140)).join(' | ')}`);
}

const byDay = (page: Page, within?: string): Promise<string[]> => looked(page, { resultTypes: ['violations'] }, within);

/** By day and by night, when the colours are others and all else is the same. */
async function serious(page: Page, within?: string): Promise<string[]> {
  const ground = (): Promise<string> => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const night = (on: boolean): Promise<boolean> => page.evaluate((dark) => document.documentElement.classList.toggle('dark', dark), on);
  const found = await byDay(page, within);
  const light = await ground();
  await night(true);
  expect(await ground()).not.toBe(light);
  const later = await looked(page, { resultTypes: ['violations'], runOnly: ['color-contrast'] }, within);
  await night(false);
  return [...found, ...later.map((each) => `by night, ${each}`)];
}

/** Notes, in a page, what the browser has seen move that nobody had moved: a press meant for one thing would meet another. */
function noteMoves(): void {
  const moved: string[] = [];
  Object.assign(globalThis, { moved });
  type Shift = PerformanceEntry & { sources: readonly { node: Node | null; previousRect: DOMRect; currentRect: DOMRect }[] };
  // Letters that come late on a slow computer move what was laid out without them.
  let lettered = 0;
  document.fonts.addEventListener('loadingdone', () => (lettered = performance.now() + 60));
  new PerformanceObserver((list) => {
    for (const { sources, startTime } of list.getEntries() as Shift[])
      for (const { node, previousRect, currentRect } of sources)
        // What a screen is about is named in its bar when it is known.
        if (startTime > lettered && node instanceof Element && !node.closest('header:has(nav)'))
          moved.push(`${node.outerHTML.slice(0, 90)} from ${previousRect.y} to ${currentRect.y}`);
  }).observe({ type: 'layout-shift', buffered: true });
}

/** A browser tells of a move some pictures later. */
const moved = (page: Page): Promise<string[]> =>
  page.evaluate(async () => {
    await new Promise((resolve) => setTimeout(() => requestAnimationFrame(() => setTimeout(resolve, 50)), 250));
    return (globalThis as unknown as { moved: string[] }).moved;
  });

async function opened(path: string, waitFor: string): Promise<Page> {
  const page = await harness.open('/api/health');
  await page.evaluateOnNewDocument(noteMoves);
  await page.setBypassCSP(true);
  await page.goto(harness.address + path);
  await page.waitForSelector(waitFor);
  await page.evaluate(axe);
  return page;
}

test.each<[string, string]>([
  ['/machines', '[data-card=dunlin] svg'],
  ['/programs', '[data-card="gauge-table"] svg'],
  ['/machines/new', byId('make')],
  ['/machines/gannet/card', byId('card')],
  ['/trials/quay-watch', '[data-set=calm]'],
  ['/trials/quay-watch/sheet', byId('flow')],
  ['/class/quay-count/pages', '[data-page="bench 24"]'],
])('%s', async (path, waitFor) => {
  const page = await opened(path, waitFor);
  expect(await moved(page)).toEqual([]);
  expect(await serious(page)).toEqual([]);
});

test('the class: a group, its windows, and the page of a student', async () => {
  const page = await opened('/class/quay-count', byId('hand-in-text'));
  await page.waitForFunction(() => !document.querySelector('[data-testid=left]'), { timeout: 60_000 });
  expect(await moved(page)).toEqual([]);
  await page.click('[data-group^="branch"]');
  await page.waitForSelector(byId('parts'));
  expect(await serious(page)).toEqual([]);
  for (const [press, window] of [
    [byId('settings'), 'assignment-settings'],
    [byId('hand-in-link'), 'link-window'],
  ] as const) {
    await page.click(press);
    await page.waitForSelector(byId(window));
    expect(await serious(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await page.waitForSelector(byId(window), { hidden: true });
  }
  const token = await page.evaluate(async () => {
    const answer = await fetch('/api/assignments/quay-count/link', { method: 'POST', headers: { 'x-zettak': '1' } });
    return ((await answer.json()) as { token: string }).token;
  });
  const student = await opened(`/w/quay-count#${token}`, byId('task'));
  await student.click(byId('try-shown'));
  await until(student, byId('shown-sets'), /✗/);
  expect(await serious(student)).toEqual([]);
});

test('the bench: its tools, the room, writing, the layout, the keys', async () => {
  const page = await opened('/bench/harbour-log', '[data-testid=in-hand]');
  await until(page, byId('status'), /Ready to run/);
  await press(page, 'ArrowRight', 'ArrowRight', '.');
  expect(await serious(page)).toEqual([]);
  for (const tool of ['stops', 'watch', 'give', 'memory', 'say', 'calls', 'devices', 'past', 'keep', 'counts', 'notes']) {
    await page.click(byId(`tool-${tool}`));
    await page.waitForSelector(`${byId(`tool-${tool}`)}[aria-selected=true]`);
    expect(await byDay(page, byId('dock'))).toEqual([]);
  }
  await press(page, 'p');
  await page.waitForSelector(byId('projector'));
  expect(await serious(page)).toEqual([]);
  await press(page, 'p');
  // Behind a window, and beside what is for writing, all is as it was.
  const tools = '[aria-label="Tools for writing"]';
  await press(page, 'w');
  await page.waitForSelector(tools);
  expect(await serious(page, tools)).toEqual([]);
  await press(page, 'w');
  for (const [key, shown] of [
    ['l', byId('layout')],
    ['?', byId('keys')],
  ] as const) {
    await press(page, key);
    await page.waitForSelector(shown);
    expect(await serious(page, '[role=dialog]')).toEqual([]);
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !document.querySelector('[role=dialog]'));
  }
});

test('every editor of a part, and the text', async () => {
  const page = await opened('/machines/gannet', '[data-part="instructions / ADD"]');
  expect(await moved(page)).toEqual([]);
  const parts = ['machine', 'cycle', 'entry', 'system', 'spaces / M', 'registers / R', 'registers / SR', 'flags / V', 'conditions / Z'];
  const found: string[] = [];
  for (const part of [...parts, 'traps / 1', 'devices / lamps', 'formats / branch', 'instructions / ADD']) {
    await page.click(`[data-part="${part}"]`);
    await page.waitForSelector(`[data-part-editor="${part}"]`);
    if (part === 'instructions / ADD') await page.waitForSelector(byId('try-it'));
    for (const each of await serious(page, `[data-part-editor="${part}"]`)) found.push(`${part}: ${each}`);
  }
  await page.click('[data-testid=face] label:nth-of-type(2)');
  await page.waitForFunction(() => document.querySelector('[data-testid=part-editor]') === null);
  for (const each of await serious(page)) found.push(`text: ${each}`);
  expect(found).toEqual([]);
});

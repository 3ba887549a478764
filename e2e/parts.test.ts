/** The editor of each sort of part: what is done there stands in the machine's text, and nothing else of it changes. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, rewriteDocument, sharedHarness, showFace, textOf, until } from './support';

const harness = sharedHarness();
const textFor = (name: string): string => readFileSync(join(__dirname, `../demo/machines/${name}.yaml`), 'utf8');

const draft = (page: Page, id: string): Promise<string> =>
  page.evaluate((machine) => fetch(`/api/machines/${machine}`).then(async (each) => ((await each.json()) as { draft: string }).draft), id);

/** Opens a machine as the demo has it, at one of its parts. */
async function opened(id: string, part: string): Promise<Page> {
  const page = await harness.open(`/machines/${id}`);
  await page.waitForSelector(byId('face'));
  if ((await draft(page, id)) !== textFor(id)) {
    await rewriteDocument(page, textFor(id));
    await until(page, byId('save-state'), /^saved$/);
    await showFace(page, 'parts');
  }
  await choose(page, part);
  return page;
}

async function choose(page: Page, part: string): Promise<void> {
  await page.waitForSelector(`[data-part="${part}"]`);
  await page.click(`[data-part="${part}"]`);
  await page.waitForSelector(`[data-part-editor="${part}"]`);
}

/** Waits until the machine's text holds this. */
async function written(page: Page, id: string, words: string): Promise<string> {
  for (let times = 0; times < 100; times++) {
    const text = await draft(page, id);
    if (text.includes(words)) return text;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error(`The text of ${id} never held ${words}; it is\n${(await draft(page, id)).slice(0, 1500)}`);
}

/** The lines by which two texts differ, old and new. */
function differing(before: string, after: string): [string[], string[]] {
  const [old, now] = [before.split('\n'), after.split('\n')];
  return [old.filter((each) => !now.includes(each)), now.filter((each) => !old.includes(each))];
}

test.each<[string, string, string, string, string]>([
  ['curlew', 'registers / SP', 'start', '0xE8', '  SP:  {title: stack pointer, role: stack pointer, bits: 8, start: 0xE8}'],
  ['curlew', 'stacks / S', 'from', '0xC0', '  S: {title: stack, pointer: SP, space: M, from: 0xC0, to: 0xEF, grows: down}'],
  ['dunlin', 'ports', 'count', '12', 'ports: {name: PORT, title: ports, count: 12}'],
])('%s, %s: %s typed as %s', async (id, part, key, value, line) => {
  const page = await opened(id, part);
  const field = `[data-part-editor] [data-field="${key}"]`;
  await page.waitForSelector(field);
  await page.click(field, { count: 3 });
  await page.keyboard.type(value);
  const after = await written(page, id, line);
  const [old, now] = differing(textFor(id), after);
  expect(now).toEqual([line]);
  expect(old).toHaveLength(1);
  await page.keyboard.down('Control');
  for (let times = 0; times < 8 && (await page.$eval(field, (each) => (each as HTMLInputElement).value)) === value; times++) {
    await page.keyboard.press('z');
    await new Promise((resolve) => setTimeout(resolve, 80));
  }
  await page.keyboard.up('Control');
  expect(await page.$eval(field, (each) => (each as HTMLInputElement).value)).not.toBe(value);
});

test.each<[string, string, string, string, string]>([
  ['curlew', 'flags / C', 'subtract', 'no borrow', '  C: {title: carry or borrow, rule: carry, subtract: no borrow}'],
  ['plover', 'traps / 2', 'service', 'write signed', '  2: {name: showNumber, service: write signed, argument: ACC}'],
])('%s, %s: %s chosen as %s', async (id, part, key, value, line) => {
  const page = await opened(id, part);
  await page.waitForSelector(`[data-part-editor] [data-field="${key}"]`);
  await page.select(`[data-part-editor] [data-field="${key}"]`, value);
  const [, now] = differing(textFor(id), await written(page, id, line));
  expect(now).toEqual([line]);
});

test('a field that is emptied and left is taken out; one that was folded away is put in', async () => {
  const page = await opened('curlew', 'registers / X');
  const field = '[data-part-editor] [data-field=bits]';
  await page.click(field, { count: 3 });
  await page.keyboard.press('Backspace');
  await page.keyboard.press('Tab');
  await written(page, 'curlew', '  X:   {title: index register, role: index}');
  await page.click(`${byId('more-properties')} button`);
  await page.waitForSelector('[data-part-editor] [data-field=start]', { visible: true });
  await page.click('[data-part-editor] [data-field=start]');
  await page.keyboard.type('3');
  await written(page, 'curlew', '  X:   {title: index register, role: index, start: 3}');
});

test('an edge of a format is moved by keys; fields are added, named, and taken away', async () => {
  const page = await opened('gannet', 'formats / page');
  await page.waitForSelector('[data-part-editor] [data-edge="0"]');
  await page.focus('[data-part-editor] [data-edge="0"]');
  await page.keyboard.press('ArrowRight');
  await written(page, 'gannet', '  page:   opcode 5, target 11 page');
  // Its instructions fix opcodes that fit still.
  await page.focus('[data-part-editor] [data-edge="0"]');
  await page.keyboard.press('ArrowLeft');
  await written(page, 'gannet', '  page:   opcode 4, target 12 page');
  await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[data-testid=format-ruler] button')]
      .find((each) => each.textContent?.trim() === 'field')
      ?.click(),
  );
  await written(page, 'gannet', '  page:   opcode 4, target 12 page, address 1');
  await until(page, byId('format-sum'), /17 bits: no whole number of cells of 16 bits/);
  await page.waitForSelector(`${byId('field-editor')} input`);
  await page.click(`${byId('field-editor')} input`, { count: 3 });
  await page.keyboard.type('detail');
  await written(page, 'gannet', '  page:   opcode 4, target 12 page, detail 1');
  await page.click('[aria-label="Remove the field detail"]');
  await written(page, 'gannet', '  page:   opcode 4, target 12 page\n');
  await until(page, byId('format-sum'), /16 bits: 1 cell of 16/);
});

test('named rows: one is added, named, given a value and taken away', async () => {
  const page = await opened('dunlin', 'devices / switches');
  const rows = byId('rows-lines');
  await page.waitForSelector(rows);
  await page.evaluate((where) => [...document.querySelectorAll<HTMLElement>(`${where} button`)].at(-1)?.click(), rows);
  await written(page, 'dunlin', 'lines: {gate: 0, float: 1, fog: 2, test: 3, name2: 0}');
  await page.waitForSelector('[aria-label="Line: name2"]');
  await page.click('[aria-label="Line: name2"]', { count: 3 });
  await page.keyboard.type('buoy');
  await page.keyboard.press('Enter');
  await written(page, 'dunlin', 'test: 3, buoy: 0}');
  await until(page, byId('problem-count'), /error|none|other/);
  await page.waitForSelector('[aria-label="Remove buoy"]');
  await page.click('[aria-label="Remove buoy"]');
  await written(page, 'dunlin', 'lines: {gate: 0, float: 1, fog: 2, test: 3}}');
});

test('the cycle is written on a line of its phases, and its ticks are completed by names', async () => {
  const page = await opened('plover', 'cycle');
  await until(page, '[data-part-editor] ol', /Fetch[\s\S]*MAR ← PC[\s\S]*Decode[\s\S]*Execute[\s\S]*PC ← next/);
  await page.click('[data-testid=ticks-ticks] .cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('End');
  await page.keyboard.up('Control');
  await page.keyboard.press('Enter');
  await page.keyboard.type('MD');
  await page.waitForSelector('.cm-tooltip-autocomplete');
  await until(page, '.cm-tooltip-autocomplete', /MDR/);
  // What is offered is taken a moment after it is shown, so that nobody takes it unseen.
  await new Promise((resolve) => setTimeout(resolve, 200));
  await page.keyboard.press('Tab');
  await page.keyboard.type(' <- ACC');
  await written(page, 'plover', '      IR.cell <- M[MAR]\n      MDR <- ACC\n');
  await until(page, '[data-part-editor] ol', /MDR ← ACC/);
});

test('the system program is edited with its listing beside, and its mistakes stand with it', async () => {
  const page = await opened('gannet', 'system');
  await until(page, byId('system-listing'), /E108 {2}7000 +HALT|E10[0-9A-F] /);
  await until(page, byId('memory-map'), /system program: 0xE100 to 0xE1FF, 256 cells/);
  const source = '[data-part-editor] textarea';
  await page.focus(source);
  await page.evaluate((where) => {
    const area = document.querySelector<HTMLTextAreaElement>(where)!;
    area.setSelectionRange(area.value.indexOf('HALT'), area.value.indexOf('HALT') + 4);
  }, source);
  await page.keyboard.type('HALTE');
  await until(page, byId('machine-problems'), /HALTE/);
  await page.click(`${byId('machine-problems')} button`);
  expect(await page.$('[data-part-editor=system]')).not.toBeNull();
});

test('parts that a machine has not yet are added, and the opcode map takes the colour that a family is given', async () => {
  const page = await opened('plover', 'machine');
  await page.click(byId('add-other'));
  await page.waitForSelector(byId('add-other-families'), { visible: true });
  await page.$eval(byId('add-other-families'), (each) => (each as HTMLElement).click());
  await page.waitForSelector('[data-part-editor=families]');
  await page.waitForSelector('[data-part-editor] [data-testid^=rows] > button:last-child');
  await page.click('[data-part-editor] [data-testid^=rows] > button:last-child');
  // The first family that has no line of its own yet.
  await page.waitForSelector('[aria-label^="Colour of "]');
  const family = await page.$eval(
    '[aria-label^="Colour of "]',
    (each) => each.getAttribute('aria-label')?.slice('Colour of '.length) ?? '',
  );
  expect(textFor('plover')).toContain(`family: ${family}\n`);
  await page.select('[aria-label^="Colour of "]', 'plum');
  await page.click('[aria-label^="Sign of "]');
  await page.keyboard.type('*');
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=opcode-map] .plum[data-sign="*"]').length > 10);
  await choose(page, 'words');
  await page.click(`${byId('more-properties')} button`);
  await page.waitForSelector('[data-part-editor] [data-field=registers]', { visible: true });
  await page.click('[data-part-editor] [data-field=registers]');
  await page.keyboard.type('What it holds');
  await written(page, 'plover', 'registers: What it holds');
  await page.click(byId('add-other'));
  await page.waitForSelector(byId('add-other-stacks'), { visible: true });
  await page.$eval(byId('add-other-stacks'), (each) => (each as HTMLElement).click());
  await until(page, byId('machine-problems'), /SP/);
  await page.waitForSelector('[data-part="stacks / S"][aria-current=true]');
});

test('a flag shows its rule in words and an example in columns; coverage and versions stand with the whole', async () => {
  const page = await opened('curlew', 'flags / V');
  await until(page, byId('flag-rule'), /1 where the result, read with its sign, does not fit[\s\S]*carries[\s\S]*does not fit 8 bits/);
  await choose(page, 'machine');
  await until(page, byId('coverage'), /5 programs[\s\S]*instructions that no program uses: .*ROTL/);
  await page.click(byId('since-version'));
  await until(page, byId('since'), /Nothing that a program can tell/);
  await page.keyboard.press('Escape');
  await page.keyboard.press('?');
  await until(page, byId('keys'), /Ctrl S[\s\S]*save a version/);
});

test('a machine that is based on another writes over what it inherits, and says so', async () => {
  const page = await harness.open('/machines');
  await page.waitForSelector(byId('actions-plover'));
  await page.click(byId('actions-plover'));
  await page.waitForSelector(byId('actions-plover-derive'), { visible: true });
  await page.$eval(byId('actions-plover-derive'), (each) => (each as HTMLElement).click());
  await until(page, byId('machine-name'), /^Plover-changed$/);
  await page.waitForSelector('[data-part="registers / ACC"][data-inherited]');
  await choose(page, 'registers / ACC');
  const field = '[data-part-editor] [data-field=title]';
  await page.waitForSelector(field);
  await page.click(field, { count: 3 });
  await page.keyboard.type('what is summed up');
  await until(page, '[data-part="registers / ACC"]', /what is summed up \(changed here\)/);
  const text = await written(page, 'plover-changed', 'registers: {ACC: {title: what is summed up}}');
  expect(text).not.toContain('role');
  expect(await textOf(page, byId('problem-count'))).toMatch(/none|0 errors/);
});

/** The middle of an element on the page. */
const middle = (page: Page, selector: string): Promise<{ x: number; y: number }> =>
  page.$eval(selector, (each) => {
    const { left, top, width, height } = each.getBoundingClientRect();
    return { x: left + width / 2, y: top + height / 2 };
  });

test('an edge of a format is dragged by the mouse, digit by digit, and all of it is taken back at once', async () => {
  const page = await opened('gannet', 'formats / three');
  const wide = (): Promise<number[]> =>
    page.$$eval('[data-testid=format-ruler] button[aria-pressed]', (all) => all.map((each) => Number(each.lastElementChild?.textContent)));
  const before = await wide();
  const edge = await middle(page, '[data-edge="1"]');
  const digit = await page.$eval(byId('format-ruler'), (each) => (each.firstElementChild as HTMLElement).clientWidth / 16);
  await page.mouse.move(edge.x, edge.y);
  await page.mouse.down();
  // However slowly it is dragged, it is one movement.
  for (const step of [1, 1.5, 2]) {
    await page.mouse.move(edge.x + step * digit, edge.y);
    await new Promise((resolve) => setTimeout(resolve, 700));
  }
  await page.mouse.up();
  await page.waitForFunction(
    (width: string) =>
      document.querySelectorAll('[data-testid=format-ruler] button[aria-pressed]')[1]?.lastElementChild?.textContent === width,
    {},
    String((before[1] ?? 0) + 2),
  );
  expect(await wide()).toEqual(before.map((each, at) => (at === 1 ? each + 2 : at === 2 ? each - 2 : each)));
  await page.click(byId('undo'));
  await page.waitForFunction(
    (width: string) =>
      document.querySelectorAll('[data-testid=format-ruler] button[aria-pressed]')[1]?.lastElementChild?.textContent === width,
    {},
    String(before[1]),
  );
  expect(await wide()).toEqual(before);
});

test('a part that is dragged onto another takes its place, in the list and in the text', async () => {
  const page = await opened('curlew', 'registers / X');
  const names = (): Promise<string[]> =>
    page.$$eval('[data-part^="registers / "]', (all) => all.map((each) => (each as HTMLElement).dataset.part?.split(' / ')[1] ?? ''));
  const before = await names();
  await page.evaluate(() => {
    const [from, to] = ['X', 'PC'].map((name) => document.querySelector(`[data-part="registers / ${name}"]`));
    const dataTransfer = new DataTransfer();
    const tell = (goal: Element | null | undefined, type: string): boolean | undefined =>
      goal?.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer }));
    tell(from, 'dragstart');
    // Only where it can be let go.
    if (tell(document.querySelector('[data-part="flags / Z"]'), 'dragover') === undefined) throw new Error('no flag');
    if (tell(to, 'dragover') === false) tell(to, 'drop');
  });
  await page.waitForFunction(() => document.querySelector('[data-part^="registers / "]')?.getAttribute('data-part') === 'registers / X');
  expect(await names()).toEqual(['X', ...before.filter((each) => each !== 'X')]);
  await until(page, byId('save-state'), /^saved$/);
  const after = await draft(page, 'curlew');
  expect(after.split('\n').sort()).toEqual(textFor('curlew').split('\n').sort());
  expect(after.indexOf('\n  X:')).toBeLessThan(after.indexOf('\n  PC:'));
});

/** Machines defined on the screen, from the start to a program's output: once by mouse, once by keyboard, never by their text. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { KeyInput, Page } from 'puppeteer-core';
import { byId, chooseSpeed, press, ready, rewrite, sharedHarness, showFace, textOf, until } from './support';

const harness = sharedHarness();

/** The most presses and entries that a machine of ten instructions may take. */
const MOST_ACTS = 150;

/** Counts what a person does: presses of the mouse or of a key, and entries into fields. */
class Hand {
  acts = 0;
  constructor(readonly page: Page) {}

  async click(selector: string): Promise<void> {
    this.acts++;
    await this.page.waitForSelector(selector, { visible: true });
    await this.page.click(selector);
  }

  /** Replaces what a field holds. */
  async enter(selector: string, text: string): Promise<void> {
    this.acts++;
    await this.page.waitForSelector(selector, { visible: true });
    await this.page.click(selector, { count: 3 });
    await this.page.keyboard.type(text);
  }

  async choose(selector: string, value: string): Promise<void> {
    this.acts++;
    await this.page.waitForSelector(selector);
    await this.page.select(selector, value);
  }

  async key(...keys: KeyInput[]): Promise<void> {
    for (const key of keys) {
      this.acts++;
      await this.page.keyboard.press(key);
    }
  }

  async type(text: string): Promise<void> {
    this.acts++;
    await this.page.keyboard.type(text);
  }

  /** With the tabulator to the first control that fits. */
  async tabTo(selector: string): Promise<void> {
    for (let times = 0; times < 60; times++) {
      if (await this.page.evaluate((wanted) => document.activeElement?.matches(wanted) ?? false, selector)) return;
      await this.key('Tab');
    }
    const stands = await this.page.evaluate(() => document.activeElement?.outerHTML.slice(0, 200));
    throw new Error(`The tabulator never came to ${selector}; it stands at ${stands}`);
  }

  /** Ticks of the instruction that is chosen, each on a line. */
  async ticks(lines: readonly string[]): Promise<void> {
    await this.click('[data-testid=ticks-execute] .cm-content');
    await this.writeTicks(lines);
  }

  async writeTicks(lines: readonly string[]): Promise<void> {
    this.acts++;
    for (const [at, line] of lines.entries()) {
      if (at > 0) await this.page.keyboard.press('Enter');
      await this.page.keyboard.sendCharacter(line);
    }
  }
}

/** Nothing is wrong with what has been typed up to now. */
async function sound(page: Page): Promise<void> {
  await page.waitForSelector(`${byId('findings')}[aria-busy=false]`);
  await until(page, byId('problem-count'), /none|0 errors/);
}

async function runOnBench(page: Page, program: string, output: RegExp): Promise<void> {
  await ready(page);
  await rewrite(page, program);
  await page.click(byId('load'));
  await page.waitForFunction(() => !document.querySelector('[data-testid=older]'));
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /^Halted/);
  await until(page, byId('output'), output);
}

test('a decimal machine of ten instructions by mouse, from the start to its output, without its text', async () => {
  const page = await harness.open('/machines');
  const hand = new Hand(page);
  await hand.click(byId('new-machine'));
  await hand.click('label:has([data-answer=digits])');
  await hand.click('label:has([data-answer=end])');
  await hand.enter(byId('start-name'), 'Turnstone');
  await hand.click(byId('make'));
  await until(page, byId('version'), /^version 1$/);
  await sound(page);
  const add = async (cell: number, name: string, format: string, title: string, ticks: readonly string[]): Promise<void> => {
    await hand.click(`[data-cell="${cell}"]`);
    await hand.enter(`${byId('take-code')} input`, name);
    await hand.choose(`${byId('take-code')} select`, format);
    await hand.click(byId('new-here'));
    await until(page, byId('instruction-name'), new RegExp(`^${name}$`));
    await hand.enter('[data-part-editor] [data-field=title]', title);
    await hand.ticks(ticks);
    await sound(page);
  };
  // Of three digits the first says what to do, so a code stands for ten cells.
  await add(70, 'ADD', 'place', 'add a cell to the accumulator', ['MAR <- address', 'ACC <- ACC + M[MAR] ; flags Z N']);
  await add(80, 'GET', 'place', 'bring a cell into the accumulator', ['MAR <- address', 'ACC <- M[MAR] ; flags Z N']);
  await add(90, 'JUMP', 'jump', 'go on at an address', ['PC <- address']);
  await add(0, 'TWICE', 'alone', 'double the accumulator', ['ACC <- ACC + ACC ; flags Z N']);
  expect(await page.$$eval('[data-part^="instructions / "]', (list) => list.length)).toBe(10);
  expect(hand.acts).toBeLessThanOrEqual(MOST_ACTS);
  await hand.click(byId('save-version'));
  await until(page, byId('changes'), /ADD address, GET address, JUMP address and TWICE are new\./);
  await until(page, byId('save-window'), /All of them stay as they are/);
  await hand.click(byId('keep-version'));
  await until(page, byId('said'), /Saved as version 2/);
  await hand.click(byId('open-bench'));
  expect(hand.acts).toBeLessThanOrEqual(MOST_ACTS);
  await runOnBench(page, '        GET     n\n        TWICE\n        ADD     n\n        SHOW\n        HALT\nn       .cells  14\n', /42/);
});

test('a machine of twenty instructions by keyboard, from the start to its output, without its text and without a mouse', async () => {
  const page = await harness.open('/machines/new');
  const hand = new Hand(page);
  await page.waitForFunction(() => !(document.querySelector('[data-testid=make]') as HTMLButtonElement | null)?.disabled);
  await hand.tabTo('[data-answer=bits]');
  await hand.tabTo('[data-answer=one]');
  await hand.tabTo('[data-answer=accumulator]');
  await hand.tabTo('[data-answer=fetch]');
  await hand.tabTo('[data-testid=start-name]');
  await hand.type('Whimbrel');
  await hand.key('Enter');
  await until(page, byId('version'), /^version 1$/);
  await sound(page);
  await hand.tabTo('[data-part]');
  // To the last instruction: there new ones come.
  for (let times = 0; times < 40; times++) {
    if (await page.$('[data-part="instructions / HALT"][aria-current=true]')) break;
    await hand.key('ArrowDown');
    await page.waitForFunction(() => document.activeElement?.getAttribute('aria-current') === 'true');
  }
  const add = async (name: string, format: string, ticks: string): Promise<void> => {
    await hand.key('Insert');
    await page.waitForSelector(byId('new-name'));
    await hand.type(name);
    await hand.key('Enter');
    await page.waitForFunction((wanted) => document.activeElement?.getAttribute('data-part') === `instructions / ${wanted}`, {}, name);
    await hand.key('Enter');
    await page.waitForFunction(() => document.activeElement?.matches('[data-part-editor] *'));
    if (format !== 'alone') {
      await hand.tabTo('[data-field=write]');
      await hand.key('End');
      await hand.type(format === 'value' ? ' {value}' : ' {address}');
      await hand.tabTo('[data-testid=form-format]');
      await hand.type(format.slice(0, 1));
    }
    await hand.tabTo('[data-testid=ticks-execute] .cm-content');
    await page.keyboard.sendCharacter(ticks);
    hand.acts++;
    await sound(page);
    // What is offered is closed first.
    for (let times = 0; times < 3 && !(await page.evaluate(() => document.activeElement?.hasAttribute('data-part'))); times++)
      await hand.key('Escape');
    await page.waitForFunction((wanted) => document.activeElement?.getAttribute('data-part') === `instructions / ${wanted}`, {}, name);
  };
  await add('ADD', 'place', 'ACC <- ACC + M[address] ; flags Z N');
  await add('LESS', 'place', 'ACC <- ACC - M[address] ; flags Z N');
  await add('GET', 'place', 'ACC <- M[address] ; flags Z N');
  await add('ADDN', 'value', 'ACC <- ACC + value ; flags Z N');
  await add('ANDN', 'value', 'ACC <- ACC & value ; flags Z N');
  await add('ORN', 'value', 'ACC <- ACC | value ; flags Z N');
  await add('JUMP', 'jump', 'PC <- address');
  await add('JUMPZ', 'jump', 'if Z = 1: PC <- address');
  await add('JUMPN', 'jump', 'if N = 1: PC <- address');
  await add('NOT', 'alone', 'ACC <- ~ACC ; flags Z N');
  await add('LEFT', 'alone', 'ACC <- ACC << 1 ; flags Z N');
  await add('RIGHT', 'alone', 'ACC <- ACC >> 1 ; flags Z N');
  await add('MORE', 'alone', 'ACC <- ACC + 1 ; flags Z N');
  await add('ZERO', 'alone', 'ACC <- 0 ; flags Z N');
  expect(await page.$$eval('[data-part^="instructions / "]', (list) => list.length)).toBe(20);
  await page.keyboard.down('Control');
  await hand.key('s');
  await page.keyboard.up('Control');
  await page.waitForSelector(byId('keep-version'));
  await page.waitForFunction(() => document.activeElement?.getAttribute('data-testid') === 'keep-version');
  await hand.key('Enter');
  await until(page, byId('said'), /Saved as version 2/);
  await hand.tabTo('[data-testid=open-bench]');
  await hand.key('Enter');
  await runOnBench(
    page,
    '        ZERO\n        ADDN    5\n        LEFT\n        MORE\n        ORN     0x20\n        SHOW\n        HALT\n',
    /43/,
  );
});

test('a code that is taken is refused by name, another is given, taken back and given again; a mend is pressed', async () => {
  const page = await harness.open('/machines/plover');
  await page.waitForSelector('[data-part="instructions / WRITE"]');
  await page.click('[data-part="instructions / WRITE"]');
  const code = '[data-fixed=detail]';
  await page.waitForSelector(code);
  await page.click(code, { count: 3 });
  await page.keyboard.type('100');
  await until(page, byId('machine-problems'), /9100 means two things: READ and WRITE share it/);
  await page.click('.grid .clash');
  await until(page, byId('decoded'), /READ/);
  await page.click(code, { count: 3 });
  await page.keyboard.type('250');
  await sound(page);
  const undo = async (way: 'z' | 'y'): Promise<void> => {
    await page.keyboard.down('Control');
    await page.keyboard.press(way);
    await page.keyboard.up('Control');
  };
  for (let times = 0; times < 12 && !/200/.test(await page.$eval(code, (each) => (each as HTMLInputElement).value)); times++) {
    await undo('z');
    await new Promise((resolve) => setTimeout(resolve, 120));
  }
  expect(await page.$eval(code, (each) => (each as HTMLInputElement).value)).toBe('200');
  for (let times = 0; times < 12 && !/250/.test(await page.$eval(code, (each) => (each as HTMLInputElement).value)); times++) {
    await undo('y');
    await new Promise((resolve) => setTimeout(resolve, 120));
  }
  expect(await page.$eval(code, (each) => (each as HTMLInputElement).value)).toBe('250');
  await page.click(code, { count: 3 });
  await page.keyboard.type('999');
  await until(page, byId('machine-problems'), /9999 means two things: WRITE and HALT share it/);
});

test('an instruction is tried at every key press, on values that somebody sets, and drawn', async () => {
  const page = await harness.open('/machines/curlew');
  await page.waitForSelector('[data-part="instructions / ADD"]');
  await page.click('[data-part="instructions / ADD"]');
  await page.waitForSelector('[data-form="2"]');
  await page.click('[data-form="2"]');
  await page.waitForSelector('[aria-label="ACC before"]');
  const set = async (label: string, value: string): Promise<void> => {
    await page.click(`[aria-label="${label}"]`, { count: 3 });
    await page.keyboard.type(value);
  };
  await set('ACC before', '5A');
  await set('M[5] before', 'B7');
  await until(page, '[data-after=ACC]', /^11$/);
  for (const flag of ['C1', 'P1', 'H1', 'Z0', 'N0', 'V0']) await page.waitForSelector(`[data-flag-after=${flag}]`);
  await until(page, byId('cases'), /each flag once 0 and once 1/);
  await page.click(byId('try-case'));
  await until(page, '[data-after=ACC]', /^00$/);
  // Another tick, and it does something else at once.
  await page.click('[data-testid=ticks-execute] .cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('End');
  await page.keyboard.up('Control');
  await page.keyboard.press('Enter');
  await page.keyboard.sendCharacter('ACC <- 0x77');
  await until(page, '[data-after=ACC]', /^77$/);
  await until(page, byId('tick-count'), /9 ticks in all/);
  await page.keyboard.sendCharacter(' + QX');
  await until(page, byId('machine-problems'), /This machine has no “QX”/);
  await page.waitForSelector('[data-testid=ticks-execute] .cm-lintRange-error');
  expect(await textOf(page, '[data-testid=ticks-execute] .cm-lintRange-error')).toBe('QX');
  await until(page, byId('try-it'), /as the machine was before the present errors/);
  for (let times = 0; times < 5; times++) await page.keyboard.press('Backspace');
  await sound(page);
  await page.click(byId('show-drawing'));
  await page.waitForSelector(`${byId('drawing')} svg.datapath`);
  for (let times = 0; times < 7; times++) await page.click(byId('drawn-on'));
  await until(page, byId('drawn-tick'), /after tick 8 of 9/);
  await until(page, byId('drawing'), /The ALU adds/);
});

test('what is changed on the screen stands in the text, remarks and blank lines as they were; what is changed there shows here', async () => {
  const page = await harness.open('/machines/curlew');
  const text = (): Promise<string> =>
    page.evaluate(() => fetch('/api/machines/curlew').then(async (each) => ((await each.json()) as { draft: string }).draft));
  await page.waitForSelector('[data-part="registers / X"]');
  const before = await text();
  await page.click('[data-part="registers / X"]');
  await page.waitForSelector('[data-part-editor="registers / X"] [data-field=title]');
  await page.click('[data-part-editor] [data-field=title]', { count: 3 });
  await page.keyboard.type('index of levels');
  await until(page, '[data-part="registers / X"]', /index of levels/);
  await until(page, byId('save-state'), /^saved$/);
  const after = await text();
  expect(after).not.toBe(before);
  expect(after.match(/#.*/g)).toEqual(before.match(/#.*/g));
  expect(after.split('\n').length).toBe(before.split('\n').length);
  await showFace(page, 'text');
  await page.waitForFunction(() => /index of levels/.test(document.querySelector('.document .cm-content')?.textContent ?? ''));
  await rewrite(page, before);
  await showFace(page, 'parts');
  await until(page, '[data-part="registers / X"]', /index register/);
});

test('a register that is renamed is followed into the programs of the course when a version is kept', async () => {
  const page = await harness.open('/machines/dunlin');
  await page.waitForSelector('[data-part="registers / R"]');
  await page.click('[data-part="registers / R"]');
  await page.click('[data-act=rename]');
  await page.waitForSelector(byId('new-name'));
  await page.keyboard.type('Q');
  await until(page, byId('touches'), /places name it, and follow; so do, with the next version, .*sill lamps/);
  await page.keyboard.press('Enter');
  await page.waitForSelector('[data-part="registers / Q"][aria-current=true]');
  await sound(page);
  await page.click(byId('save-version'));
  await until(page, byId('consequences'), /does not assemble any more/);
  await until(page, byId('save-window'), /The new names are written into .*sill lamps/);
  await page.click(byId('keep-version'));
  await until(page, byId('said'), /Saved as version 2\. \d programs follow its new names\./);
  const program = await page.evaluate(() =>
    fetch('/api/programs/sill-lamps').then(async (each) => ((await each.json()) as { draft: string }).draft),
  );
  const was = readFileSync(join(__dirname, '../demo/programs/sill-lamps.asm'), 'utf8');
  expect(program).not.toBe(was);
  expect(program.replace(/\bQ(\d)/g, 'R$1')).toBe(was);
});

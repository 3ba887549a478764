import type { Page } from 'puppeteer-core';
import { byId, loadProgram, press, registers, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

async function bench(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await until(page, byId('status'), /Ready to run/);
  return page;
}

const shifted = async (page: Page, key: 'ArrowRight' | 'ArrowUp' | 'ArrowLeft' | 'ArrowDown' | 'Home'): Promise<void> => {
  await page.keyboard.down('Shift');
  await page.keyboard.press(key);
  await page.keyboard.up('Shift');
};

const tool = async (page: Page, name: string): Promise<void> => {
  await page.waitForSelector(byId(`tool-${name}`));
  await page.click(byId(`tool-${name}`));
};

const choose = async (page: Page, label: string, text: string, kind = 'button'): Promise<void> => {
  await page.$$eval(
    `${label} ${kind}`,
    (list, words) => (list as HTMLElement[]).find((each) => each.textContent?.includes(words as string))!.click(),
    text,
  );
};

test('over, into, out and back over by key, with the call chain and why it stopped', async () => {
  const page = await bench('mean-level');
  await tool(page, 'stops');
  await page.type(byId('until'), 'PC = halve');
  await page.keyboard.press('Enter');
  await until(page, byId('status'), /PC = halve holds/);
  await until(page, byId('crumbs'), /main › halve/);
  await page.click(byId('command-out'));
  await until(page, byId('stop-sentence'), /Returned from halve; next is line 22\./);
  const ticks = await textOf(page, byId('ticks'));
  await shifted(page, 'ArrowRight');
  await until(page, byId('stop-sentence'), /Stepped over; next is line 23\./);
  await shifted(page, 'ArrowLeft');
  await page.waitForFunction((id, wanted) => document.querySelector(id)?.textContent === wanted, {}, byId('ticks'), ticks);
  await press(page, 'ArrowRight');
  await until(page, byId('crumbs'), /main › halve/);
  await shifted(page, 'ArrowUp');
  await until(page, byId('stop-sentence'), /Returned from halve; next is line 23\./);
});

test('a breakpoint on a change stops with before and after; disabled it does not; a print-point writes into the wake', async () => {
  const page = await bench('quay-watch');
  await tool(page, 'stops');
  await page.type(byId('stop-text'), 'later');
  await page.click(byId('stop-add'));
  await page.waitForSelector('[data-stop="after a change of later"]');
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('stop-sentence'), /later went from 0x00 to 0xC9 by STORE later on line 8, tick 23\./);
  await until(page, '[data-stop="after a change of later"] .hits', /1 hit/);
  await page.click('[data-stop="after a change of later"] input[type=checkbox]');
  await page.select(byId('stop-kind'), 'line');
  await page.type(byId('stop-text'), '9');
  await page.click(byId('stop-add'));
  await page.type('[data-stop="before the line 9"] input.value', 'ACC + 1');
  await page.click(byId('start-over-button'));
  await page.click(byId('start-again'));
  await until(page, byId('ticks'), /^0$/);
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted/);
  await tool(page, 'wake');
  await until(page, '.wake .printed', /ACC \+ 1 = 0xCA/);
});

test('breakpoints are there again after a reload, and one is taken away by its button', async () => {
  const page = await bench('quay-watch');
  await tool(page, 'stops');
  await page.select(byId('stop-kind'), 'condition');
  await page.type(byId('stop-text'), 'ACX = 1');
  await page.click(byId('stop-add'));
  await until(page, '[data-stop="when this begins to hold ACX = 1"]', /no “ACX”\. Did you mean ACC\?/);
  await page.reload();
  await until(page, byId('status'), /Ready to run/);
  await tool(page, 'stops');
  await page.waitForSelector('[data-stop="when this begins to hold ACX = 1"]');
  await choose(page, '[data-stop="when this begins to hold ACX = 1"]', '×');
  await page.waitForFunction(() => !document.querySelector('[data-stop="when this begins to hold ACX = 1"]'));
});

test('a program that polls reads idle, a key ends that; a script makes the keyboard late and polls are counted', async () => {
  const page = await bench('harbour-log');
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('status'), /Idle: polling keys/);
  await page.type(byId('entry'), 'ebb.');
  await page.keyboard.press('Enter');
  await until(page, byId('status'), /Halted/);
  await until(page, byId('output'), /log: ebb\./);
  await tool(page, 'devices');
  await page.type(byId('script'), 'keyz is not ready until 30 reads, then as it is');
  await page.click(byId('use-script'));
  await until(page, byId('script-problems'), /Line 1: There is no device “keyz”\. Did you mean keys\?/);
  await page.$eval(byId('script'), (field) => (field as HTMLTextAreaElement).select());
  await page.type(byId('script'), 'keys is not ready until 30 reads, then as it is');
  await page.click(byId('use-script'));
  await until(page, byId('ticks'), /^0$/);
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted/);
  await until(page, '[data-device=keys]', /keysready3040|keysnot ready3040|30/);
});

test('the past is asked when a cell was written and when a condition held, and goes there', async () => {
  const page = await bench('mean-level');
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted/);
  await tool(page, 'past');
  await page.type(byId('ask-place'), 'low');
  await page.keyboard.press('Enter');
  const told = await until(page, byId('answer'), /low was last written by tick \d+/);
  await until(page, byId('ticks'), new RegExp(`^${/tick (\d+)/.exec(told)![1]}$`));
  await page.type(byId('ask-condition'), 'X = 2');
  await page.keyboard.press('Enter');
  await until(page, byId('answer'), /X = 2 holds after tick/);
  await page.click(byId('ask-next'));
  await page.type(byId('to-tick'), '17');
  await page.keyboard.press('Enter');
  await until(page, byId('ticks'), /^17$/);
});

test('a moment is kept, survives a reload like the run itself, is compared and put back', async () => {
  const page = await bench('quay-watch');
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, byId('ticks'), /^16$/);
  await tool(page, 'keep');
  await page.type(byId('note'), 'after ADD');
  await choose(page, byId('bases'), 'dec', 'label');
  await until(page, `${byId('bases')} label[data-state=checked]`, /^dec$/);
  await page.click(byId('keep-moment'));
  await choose(page, byId('bases'), 'hex', 'label');
  await page.waitForSelector('[data-snapshot="after ADD"]');
  // Pressed twice before the first answer is here: neither takes the place of another.
  await page.$eval(byId('keep-moment'), (button) => {
    (button as HTMLButtonElement).click();
    (button as HTMLButtonElement).click();
  });
  await page.waitForFunction(() => document.querySelectorAll('[data-snapshot="tick 16"]').length === 2);
  await page.waitForFunction(() => /"tick": 16/.test(sessionStorage.getItem('zettak.run.quay-watch') ?? ''));
  await page.reload();
  await until(page, byId('ticks'), /^16$/);
  await press(page, 'Home');
  await until(page, byId('ticks'), /^0$/);
  await tool(page, 'keep');
  await page.waitForSelector('[data-snapshot="after ADD"]');
  await choose(page, '[data-snapshot="after ADD"]', 'Compare');
  await until(page, byId('compared'), /ACCC900|ACC.*C9/);
  await choose(page, '[data-snapshot="after ADD"]', 'Put back');
  await until(page, byId('ticks'), /^16$/);
  await until(page, `${byId('bases')} label[data-state=checked]`, /^dec$/);
});

test('what can be done with a value: a register and a cell are set, stopped at, written into the wake, and asked about', async () => {
  const page = await bench('quay-watch');
  const menu = async (opener: () => Promise<void>, name: string): Promise<void> => {
    await opener();
    await until(page, `${byId('place-menu')}`, new RegExp(name));
  };
  const register = (name: string) => (): Promise<void> => choose(page, byId('registers'), name);
  const cell = (name: string) => (): Promise<void> => page.click(`${byId('memory')} td[title^="${name},"]`);
  await press(page, 'ArrowRight');
  await menu(register('ACC'), 'ACC');
  await page.type(byId('place-value'), '0x1FF');
  await page.keyboard.press('Enter');
  await until(page, byId('place-refused'), /511 does not fit into 8 bits/);
  await page.$eval(byId('place-value'), (field) => (field as HTMLInputElement).select());
  await page.type(byId('place-value'), '0x42');
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => !document.querySelector('[data-testid=place-menu]'));
  expect((await registers(page)).ACC).toBe('42');
  await menu(cell('later'), 'later, M');
  await page.click(byId('place-change'));
  await menu(cell('later'), 'later, M');
  await page.click(byId('place-print'));
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('stop-sentence'), /later went from 0x00 to 0x\w\w by STORE later on line 8/);
  await until(page, '.wake .printed', /M\[0x[\dA-F]+\] = \d+/);
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted/);
  await menu(cell('later'), 'later, M');
  await page.click(byId('place-last'));
  await until(page, byId('outcome'), /was last written by tick 23\./);
  await until(page, byId('ticks'), /^23$/);
  await page.focus('.memory');
  for (const key of ['ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowLeft', 'Enter'] as const) await page.keyboard.press(key);
  await until(page, byId('place-menu'), /^(\w+, )?M\[0x[\dA-F]+\]/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=place-menu]'));
  await until(page, byId('ticks'), /^23$/);
  await menu(() => page.click(byId('flag-menu')), '^[A-Z]set to');
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=place-menu]'));
});

test('a run stops by itself after as many ticks as allowed, and goes on; the limit stays after a reload', async () => {
  const page = await bench('quay-watch');
  await tool(page, 'stops');
  await page.type(byId('budget'), '20x');
  await page.waitForSelector(`${byId('budget')}[aria-invalid=true]`);
  await page.keyboard.press('Backspace');
  await page.waitForSelector(`${byId('budget')}[aria-invalid=false]`);
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('ticks'), /^20$/);
  await until(page, byId('stop-sentence'), /20 ticks/);
  await page.click(byId('run'));
  await until(page, byId('ticks'), /^40$/);
  await page.waitForFunction(() => /"tick": 40/.test(sessionStorage.getItem('zettak.run.quay-watch') ?? ''));
  await page.reload();
  await until(page, byId('ticks'), /^40$/);
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted/);
});

test('the system program opens when the run enters it, takes a breakpoint, and folds again', async () => {
  const page = await bench('highest-of-five');
  expect(await page.$(`${byId('system-lines')}[data-state=open]`)).toBeNull();
  await page.select(byId('speed'), 'full');
  await tool(page, 'stops');
  await page.type(byId('until'), 'PC > 0xE000');
  await page.keyboard.press('Enter');
  await until(page, byId('status'), /PC > 0xE000 holds/);
  await page.waitForSelector(`${byId('system-lines')}[data-state=open] li.next`);
  // What comes next is in sight, once the page has been painted.
  await page.waitForFunction(() => {
    const [line, list] = [
      document.querySelector('[data-testid=system-lines] li.next'),
      document.querySelector('[data-testid=system-lines] ol'),
    ];
    const [inner, outer] = [line!.getBoundingClientRect(), list!.getBoundingClientRect()];
    return inner.top >= outer.top - 1 && inner.bottom <= outer.bottom + 1;
  });
  const next = await textOf(page, `${byId('system-lines')} li.next`);
  expect(next).toMatch(/^\d+E1[\dA-F]{2}/);
  await page.click(`${byId('system-lines')} li.next button`);
  await page.waitForSelector(`${byId('system-lines')} li.next button[aria-pressed=true]`);
  await press(page, 'Home');
  await page.waitForSelector(`${byId('system-lines')}[data-state=closed]`);
  await page.click(byId('run'));
  await until(page, byId('status'), /breakpoint on line \d+ of the system program/);
  expect(await textOf(page, `${byId('system-lines')} li.next`)).toBe(next);
});

test('starting over says what will be lost before it is', async () => {
  const page = await bench('quay-watch');
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted/);
  await shifted(page, 'Home');
  await until(page, byId('start-over'), /The run of 50 ticks so far, with its way back, is forgotten.*All memory goes/s);
  await page.click(byId('start-data'));
  await until(page, byId('ticks'), /^0$/);
});

test('remarks on a run are counted, told, and lead to their tick', async () => {
  const page = await bench('quay-watch');
  await page.evaluate(() => localStorage.removeItem('zettak.run-tool'));
  await press(page, 'w');
  await loadProgram(page, ' LOAD 0x80\nHALT');
  await press(page, 'ArrowRight', 'ArrowRight');
  await page.waitForSelector(byId('remarks-count'));
  await page.click(byId('remarks-count'));
  await until(page, byId('run-remarks'), /Line 1, LOAD 0x80 at 0x00: read cell 0x80, which nothing has ever written\./);
  await choose(page, byId('run-remarks'), 'tick');
  await until(page, byId('ticks'), /^7$/);
});

test('long runs are done by the compiled executor in the worker, under the page’s own policy; travel stays at hand', async () => {
  const page = await bench('quay-watch');
  await loadProgram(
    page,
    'start LOAD #0\nouter STORE n\n LOAD #0\ninner INC\n JUMPNZ inner\n LOAD n\n INC\n JUMPNZ outer\n LOAD m\n INC\n STORE m\n CMP #40\n JUMPNZ start\n HALT\nn .cells 0\nm .cells 0\n',
  );
  await page.select(byId('speed'), 'full');
  await page.click(byId('run'));
  await until(page, byId('status'), /Halted after 5,\d\d\d,\d\d\d instructions/);
  await tool(page, 'calls');
  await page.waitForSelector('[data-long-runs=compiled]');
  await tool(page, 'past');
  await page.type(byId('to-tick'), '1234567');
  await page.keyboard.press('Enter');
  await until(page, byId('ticks'), /^1,234,567$/);
});

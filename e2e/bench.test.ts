import {
  byId,
  chooseSpeed,
  editorText,
  flags,
  loadProgram,
  marks,
  press,
  ready,
  registers,
  rewrite,
  saved,
  sharedHarness,
  textOf,
  until,
  programAction,
} from './support';

const harness = sharedHarness();

test('runs to the wait, takes a typed value, and shows the output', async () => {
  const page = await harness.open('/bench/highest-water');
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('waiting'), /askLevel wants a number for ACC: −128 to 255/);
  expect(await page.evaluate(() => document.activeElement?.getAttribute('data-testid'))).toBe('entry');
  for (const [at, value] of ['120', '0x9E', '90', '0'].entries()) {
    await page.keyboard.type(value);
    await page.keyboard.press('Enter');
    await page.waitForFunction((count) => document.querySelectorAll('[data-testid=queue] li.used').length === count, {}, at + 1);
  }
  await until(page, byId('output'), /highest: 158/);
  expect(await textOf(page, byId('status'))).toMatch(/^Halted after \d+ instructions, \d+ ticks\.$/);
});

test('while a program waits and nothing is typed, step keys are the bench’s; then they are typed', async () => {
  const page = await harness.open('/bench/highest-water');
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('waiting'), /askLevel/);
  await page.waitForFunction(() => document.activeElement?.getAttribute('data-testid') === 'entry');
  const ticks = Number((await textOf(page, byId('ticks'))).replace(/\D/g, ''));
  for (const key of ['.', '.', ','] as const) await page.keyboard.press(key);
  await until(page, byId('ticks'), new RegExp(`^${(ticks - 1).toLocaleString('en-US')}$`));
  expect(await page.$eval(byId('entry'), (field) => (field as HTMLInputElement).value)).toBe('');
  await press(page, '.', '.');
  await until(page, byId('waiting'), /askLevel/);
  await page.focus(byId('entry'));
  await page.keyboard.type('158');
  expect(await page.$eval(byId('entry'), (field) => (field as HTMLInputElement).value)).toBe('158');
});

test('a wrong number is refused with its reason, and the reading of a right one is shown before it is taken', async () => {
  const page = await harness.open('/bench/highest-water');
  await ready(page);
  await page.type(byId('entry'), '58');
  await until(page, byId('reading'), /0x3A = 58/);
  await page.type(byId('entry'), 'x');
  await until(page, byId('reading'), /“58x” is no number/);
  await page.keyboard.press('Backspace');
  await page.keyboard.type('9');
  await until(page, byId('reading'), /589 does not fit into 8 bits: -128 to 255/);
  await page.keyboard.press('Enter');
  expect(await page.$$eval(`${byId('queue')} li`, (list) => list.length)).toBe(0);
});

const ADD_BY_TICK = [
  ['MAR←PC', '02', '02', '9E', '1240', '9E'],
  ['IR.op←M[MAR], PC←PC+1', '03', '02', '9E', '3340', '9E'],
  ['33 = ADD', '03', '02', '9E', '3340', '9E'],
  ['MAR←PC', '03', '03', '9E', '3340', '9E'],
  ['IR.low←M[MAR], PC←PC+1', '04', '03', '9E', '3341', '9E'],
  ['MAR←address', '04', '41', '9E', '3341', '9E'],
  ['MDR←M[MAR]', '04', '41', '2B', '3341', '9E'],
  ['ACC←ACC+MDR', '04', '41', '2B', '3341', 'C9'],
] as const;

test('ticks through one instruction, each register as the document says, and steps back to the first state', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  const first = { registers: await registers(page), flags: await flags(page), memory: await textOf(page, byId('memory')) };
  await press(page, 'ArrowRight');
  await until(page, byId('status'), /tick 8 of 8, LOAD/);
  for (const [at, [text, PC, MAR, MDR, IR, ACC]] of ADD_BY_TICK.entries()) {
    await press(page, '.');
    await until(page, byId('ticks'), new RegExp(`^${9 + at}$`));
    expect(await registers(page)).toMatchObject({ PC, MAR, MDR, IR, ACC });
    expect(await textOf(page, `${byId('phases')} [aria-current=step] .text`)).toBe(text);
  }
  // What has come since then stands beside it.
  expect(await textOf(page, byId('phases'))).toContain('33 = ADD41 = address');
  expect(await flags(page)).toBe('Z0 N1 C0 V0 H1 P1');
  expect(await marks(page)).toEqual({ executing: 7, next: 8 });
  expect(await textOf(page, byId('sentence'))).toContain('The ALU adds 2B in MDR to 9E in ACC');
  await page.click('[data-flag=N]');
  await until(page, byId('why'), /1001 1110.*0010 1011.*1100 1001.*N = 1: set by ADD rise at 0x02, tick 16/);
  await press(page, ',');
  await until(page, byId('ticks'), /^15$/);
  await press(page, ...new Array<','>(15).fill(','));
  await until(page, byId('ticks'), /^0$/);
  expect({ registers: await registers(page), flags: await flags(page), memory: await textOf(page, byId('memory')) }).toEqual(first);
});

test('the executing mark and PC: next part during an instruction', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  expect(await marks(page)).toEqual({ next: 6 });
  await press(page, '.', '.');
  await until(page, byId('ticks'), /^2$/);
  expect(await marks(page)).toMatchObject({ executing: 6 });
  await press(page, '.', '.', '.');
  await until(page, byId('ticks'), /^5$/);
  expect(await marks(page)).toEqual({ executing: 6, next: 7 });
});

test('a broken line shows its error in place, the machine keeps the older program, and a mend puts it right', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await rewrite(page, 'start   LOAD #5\n        ADD #3A\n        HALT\n');
  await until(page, byId('problems'), /Line 2, column 14\. “3A” is no number here\. A hexadecimal number starts with 0x: 0x3A\./);
  await page.waitForSelector('.cm-lintRange-error');
  expect(await textOf(page, '.cm-lintRange-error')).toBe('3A');
  await until(page, byId('older'), /holds an older program/);
  await page.click(byId('load'));
  await until(page, byId('outcome'), /Nothing was loaded\. Line 2:/);
  expect((await registers(page)).PC).toBe('00');
  await rewrite(page, 'start   LOAD #5\n        ADD #0x3A\n        HALT\n');
  await until(page, byId('facts'), /Starts at 0x00, last cell 0x04/);
  await page.keyboard.down('Control');
  await page.keyboard.press('Enter');
  await page.keyboard.up('Control');
  await page.waitForFunction(() => !document.querySelector('[data-testid=older]'));
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, byId('registers'), /ACC.*3F/);
  await saved(page);
});

test('addresses and object words stand beside the source as one types', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await rewrite(page, '.origin 0x20\nLOAD #7\nlevel .cells 1, 2, 3\n');
  await until(page, '.cm-words', /1F 07.*01 02…/);
  expect(await textOf(page, '.cm-address')).toMatch(/20.*22/);
});

test('after a reload text, breakpoints and undo are there again', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await rewrite(page, 'start LOAD #1\n      STORE 0x80\n      HALT\n');
  await saved(page);
  await new Promise((resolve) => setTimeout(resolve, 600));
  await page.keyboard.type('; a remark');
  await page.waitForSelector('.breakpoint');
  const second = (await page.$$('.cm-break .breakpoint'))[1]!;
  await second.click();
  await saved(page);
  await page.reload();
  await ready(page);
  expect(await editorText(page)).toBe('start LOAD #1\n      STORE 0x80\n      HALT\n; a remark');
  expect(await page.$$eval('.breakpoint.on', (list) => list.map((each) => each.textContent))).toEqual(['2']);
  await page.focus('.cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('z');
  await page.keyboard.up('Control');
  await page.waitForFunction(() => /HALT$/.test(document.querySelector('.cm-content')!.textContent!));
  await chooseSpeed(page, 'full');
  await page.click(byId('load'));
  await press(page, 'Space');
  await until(page, byId('status'), /Paused at the breakpoint on line 2, before STORE 0x80\./);
});

test('a text typed just before a reload is not lost, even unsaved', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await rewrite(page, 'HALT ; typed at the last moment');
  await page.reload();
  await until(page, '.cm-content', /typed at the last moment/);
});

test('an endless loop runs at full speed and still answers at once', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await loadProgram(page, 'loop ADD #1\n JUMP loop\n');
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /(Running|Runs in circles).*, tick .*\d{2},\d{3}/);
  await page.focus('.cm-content');
  await page.keyboard.press('End');
  await page.keyboard.type(' ; still alive');
  await until(page, '.cm-content', /still alive/);
  await press(page, 'Space');
  await until(page, byId('status'), /^Paused after tick/);
  const ticks = await textOf(page, byId('ticks'));
  await press(page, ',');
  await page.waitForFunction((before) => document.querySelector('[data-testid=ticks]')!.textContent !== before, {}, ticks);
  await page.evaluate(() => new Promise((resolve) => setTimeout(resolve, 150)));
  expect(Number((await textOf(page, byId('ticks'))).replaceAll(',', ''))).toBe(Number(ticks.replaceAll(',', '')) - 1);
});

test.each<[string, string, RegExp]>([
  ['an undefined opcode', 'LOAD #1\nlevel .cells 0x7F\n', /0x7F at 0x02 is no instruction\. The run walked into the data of line 2/],
  ['a run past the end', 'LOAD #1\n', /the program's text ended at 0x01, line 1, .* Is a halt missing\?/],
  ['an unknown service', 'TRAP 77\n', /Stopped on line 1, 0x00 TRAP 77: it asks for service 0x4D.*It has: 0x01 askLevel/],
])('%s stops in a sentence, and the page goes on', async (_, source, words) => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await loadProgram(page, source);
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  expect(await until(page, byId('sentence'), /Stopped/)).toMatch(words);
  await press(page, 'Home');
  await until(page, byId('ticks'), /^0$/);
});

test('a program of random characters is a list of problems, nothing more', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await rewrite(page, '\u202e §$%& "\\q\n<img src=x onerror=alert(1)> 0x 9Z\n.cells ,,\n::: = = =\n"');
  await until(page, byId('problems'), /Line 1.*Line 2.*Line 3/);
  await rewrite(page, 'HALT\n');
  await until(page, byId('facts'), /last cell 0x00/);
  // The tests behind this one open the same program.
  await saved(page);
});

test('a click in the wake travels, and the future stays to be seen', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await loadProgram(page, 'LOAD #1\nADD #2\nADD #3\nHALT\n');
  await ready(page);
  await press(page, 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await until(page, byId('ticks'), /^18$/);
  await page.click('[data-tick="6"]');
  await until(page, byId('ticks'), /^6$/);
  expect((await registers(page)).ACC).toBe('01');
  expect(await page.$$eval('.instruction.ahead', (list) => list.length)).toBe(2);
  await press(page, 'ArrowRight');
  await until(page, byId('registers'), /ACC.*03/);
});

test('before a branch executes, the bench says what will happen and why', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await loadProgram(page, 'LOAD #1\nJUMPZ 0\nHALT\n');
  await ready(page);
  await press(page, 'ArrowRight', '.', '.', '.', '.', '.');
  await until(page, byId('coming'), /Next: Falls through, because Z is 0\./);
  await press(page, '.');
  await until(page, byId('sentence'), /Fell through to the next instruction, because Z is 0\./);
});

test('values change only when their tokens have arrived', async () => {
  const page = await harness.open('/bench/quay-watch', { motion: true });
  await rewrite(page, 'LOAD #0x5A\nHALT\n');
  await page.click(byId('load'));
  await ready(page);
  await press(page, '.', '.', '.', '.', '.');
  await until(page, byId('ticks'), /^5$/);
  await press(page, '.');
  const during = await page.waitForFunction(
    () =>
      document.querySelectorAll('[data-testid=tokens] .token').length > 0 &&
      document.querySelector('[data-testid=ticks]')!.textContent === '5'
        ? document.querySelector('[data-register=ACC]')!.textContent
        : false,
    { polling: 'raf', timeout: 3000 },
  );
  expect(await during.jsonValue()).toMatch(/^00/);
  await until(page, byId('ticks'), /^6$/);
  expect(await textOf(page, '[data-register=ACC]')).toMatch(/^5A/);
});

test('every command has a button and a key, listed under “?”', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await press(page, '?');
  const list = await until(page, byId('keys'), /Keys of the bench/);
  for (const words of ['run or pause', 'one tick', 'one tick back', 'end of the instruction', 'start of the run', 'breakpoint'])
    expect(list).toContain(words);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=keys]'));
  await page.click(byId('command-tick'));
  await until(page, byId('ticks'), /^1$/);
  await page.keyboard.press('Home');
  await until(page, byId('ticks'), /^0$/);
});

test('a killed server loses nothing: what was typed is kept, marked, and saved when it is back', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await harness.stopServer();
  await rewrite(page, 'HALT ; typed without a server\n');
  await until(page, byId('save-state'), /server not reached, kept in this browser/);
  await page.click(byId('load'));
  await press(page, '.');
  await until(page, byId('ticks'), /^1$/);
  await harness.startServer();
  await saved(page);
  const answer = await page.evaluate(() => fetch('/api/programs/quay-watch').then((each) => each.json() as Promise<{ draft: string }>));
  expect(answer.draft).toBe('HALT ; typed without a server\n');
});

test('two pages with one program: the later save asks instead of overwriting', async () => {
  const one = await harness.open('/bench/quay-watch');
  const two = await harness.open('/bench/quay-watch', { apart: true });
  await Promise.all([ready(one), ready(two)]);
  await rewrite(one, 'HALT ; from page one\n');
  await until(one, byId('save-state'), /^saved$/);
  await rewrite(two, 'HALT ; from page two\n');
  await until(two, '[role=alert]', /saved from another page too/);
  const choices = await two.$$('[role=alert] button');
  await choices[2]!.click();
  await until(two, '.cm-content', /from page one/);
});

test('a new program is created, named, and opened', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await programAction(page, 'new');
  await page.waitForSelector('input[aria-label="Name of the new program"]');
  await page.keyboard.type('Fog horn');
  await page.keyboard.press('Enter');
  await until(page, '.cm-content', /Fog horn/);
  expect(page.url()).toMatch(/\/bench\/fog-horn$/);
});

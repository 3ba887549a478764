/** Journeys through the tools for writing: what an author of programs does between the first line and the run. */
import type { Page } from 'puppeteer-core';
import { byId, editorText, loadProgram, press, ready, registers, rewrite, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

/** A program of its own for each test, with the first version of a demo program as its text. */
async function write(program: string, tool?: string): Promise<Page> {
  const { address } = harness;
  const get = async <T>(path: string): Promise<T> => (await (await fetch(address + path)).json()) as T;
  const { machine, name } = await get<{ machine: string; name: string }>(`/api/programs/${program}`);
  const { text } = await get<{ text: string }>(`/api/programs/${program}/versions/1`);
  const body = JSON.stringify({ name, machine, text });
  const made = await fetch(`${address}/api/programs`, { method: 'POST', body, headers: { 'content-type': 'application/json' } });
  const { id } = (await made.json()) as { id: string };
  const page = await harness.open(`/bench/${id}`);
  await ready(page);
  await page.click(byId('write'));
  await page.waitForSelector('.tools');
  if (tool) await page.click(byId(`tool-${tool}`));
  return page;
}

/** Puts a text into a field at once, as a paste does. */
async function put(page: Page, field: string, text: string): Promise<void> {
  await page.focus(field);
  await page.keyboard.sendCharacter(text);
}

const problems = (page: Page): Promise<string> => textOf(page, byId('problems')).catch(() => '');
/** Waits until the text in the editor matches. */
async function untilText(page: Page, pattern: RegExp): Promise<void> {
  for (let turn = 0; turn < 400; turn++) {
    if (pattern.test(await editorText(page))) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`The editor never had ${pattern}; it has:\n${await editorText(page)}`);
}

/** What is offered can be taken a moment after it has appeared, so that no key is taken for it by mistake. */
const settled = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 150));

/** Puts the cursor behind the first place where a text stands in the editor. */
async function cursorAt(page: Page, text: string): Promise<void> {
  await page.focus('.cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('Home');
  await page.keyboard.up('Control');
  const before = (await editorText(page)).split(text)[0]!;
  const lines = before.split('\n');
  for (let at = 1; at < lines.length; at++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Home');
  await page.keyboard.press('Home');
  for (let at = 0; at < lines.at(-1)!.length; at++) await page.keyboard.press('ArrowRight');
}

test('an operation is found in the palette, inserted in its column, and its blank is filled', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'start\n');
  await page.type(byId('find-operation'), 'add +x');
  await until(page, '.tool', /ADD address\+X/);
  await page.focus('.cm-content');
  await page.click('[data-offer="ADD address+X"]');
  await untilText(page, /^start\n {8}ADD {4}address\+X$/m);
  await page.keyboard.type('0x40');
  await untilText(page, /^ {8}ADD {4}0x40\+X$/m);
});

test('operations and names are offered while typing; Tab takes them, Enter begins a new line', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'level   .cells 9\nstart   ');
  await page.keyboard.type('LOADX');
  await page.waitForSelector('.cm-tooltip-autocomplete');
  await until(page, '.cm-tooltip-autocomplete', /LOADX #value/);
  await until(page, '.cm-completionInfo', /bring a value into the index register/);
  await settled();
  await page.keyboard.press('Tab');
  await untilText(page, /start {3}LOADX {2}#value/);
  await page.keyboard.type('3');
  await page.keyboard.press('Enter');
  await page.keyboard.type('        LOAD  le');
  await until(page, '.cm-tooltip-autocomplete', /level/);
  await settled();
  await page.keyboard.press('Tab');
  await page.keyboard.type('\n        HALT\n        TRAP  showN');
  await until(page, '.cm-tooltip-autocomplete', /showNumber/);
  await page.keyboard.press('Escape');
  expect(await editorText(page)).toMatch(/LOADX {2}#3\n +LOAD {2}level\n +HALT\n +TRAP {2}showN$/);
});

test('a mistake is underlined, explained in the list, and mended by one press', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'start LAOD #5\n HALT');
  await until(page, byId('problems'), /Line 1, column 7\. This machine has no operation “LAOD”\. Did you mean LOAD\?/);
  expect(await page.$$eval('.cm-lintRange-error', (list) => list.map((each) => each.textContent))).toEqual(['LAOD']);
  await page.click(`${byId('problems')} .mend`);
  await untilText(page, /start LOAD #5/);
  await until(page, byId('facts'), /3 cells used/);
});

test('words are explained where one points at them', async () => {
  const page = await write('quay-watch');
  const place = await page.$eval('.cm-content .cm-line:nth-child(9)', (line) => {
    const range = document.createRange();
    const walker = document.createTreeWalker(line, NodeFilter.SHOW_TEXT);
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      if (!node.textContent!.includes('CMP')) continue;
      range.selectNodeContents(node);
      const { x, y, height } = range.getBoundingClientRect();
      return { x: x + 6, y: y + height / 2 };
    }
    return { x: 0, y: 0 };
  });
  await page.mouse.move(place.x, place.y);
  await until(page, '.word-help', /CMP #value: .* Cells: .*, value\./);
});

test('a name goes to its definition, its uses are told, and it is renamed everywhere and back by one undo', async () => {
  const page = await write('quay-watch', 'names');
  await until(page, '[data-name="rise"]', /0x41/);
  await cursorAt(page, 'rise          ;');
  await page.keyboard.press('F12');
  await page.keyboard.press('F2');
  await page.waitForSelector(byId('rename'));
  await page.keyboard.down('Control');
  await page.keyboard.press('a');
  await page.keyboard.up('Control');
  await page.keyboard.type('add');
  await page.keyboard.press('Enter');
  await until(page, byId('outcome'), /“add” is an operation of this machine\./);
  await page.keyboard.down('Control');
  await page.keyboard.press('a');
  await page.keyboard.up('Control');
  await page.keyboard.type('swell');
  await page.keyboard.press('Enter');
  await untilText(page, /ADD {3}swell[\s\S]*swell {4}\.cells 43/);
  await until(page, '[data-name="swell"]', /17.*7/s);
  await page.focus('.cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('z');
  await page.keyboard.up('Control');
  await untilText(page, /ADD {3}rise[\s\S]*rise {4}\.cells 43/);
  await page.click('[data-name="over"] th button');
  await page.keyboard.down('Control');
  await page.keyboard.press('a');
  await page.keyboard.up('Control');
  await page.keyboard.type('above\n');
  await untilText(page, /STORE above/);
});

test('the origin shows both readings of a number without a mark, and is written with the one chosen', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'start LOAD n\n HALT\nn .cells 7');
  await page.type(byId('origin'), '20');
  const told = await until(page, byId('origin-readings'), /hexadecimal/);
  expect(told).toBe('decimal: cell 20 = 0x14hexadecimal: cell 32 = 0x20');
  await page.click(`${byId('origin-readings')} button:nth-child(2)`);
  await untilText(page, /^ +\.origin 0x20\nstart/);
  await until(page, byId('facts'), /Starts at 0x20/);
  expect(await page.$eval(byId('origin'), (each) => (each as HTMLInputElement).value)).toBe('0x20');
});

test('the base of unmarked numbers is chosen per program, and said', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'start LOAD #10\n HALT');
  await page.select(byId('base'), '16');
  await untilText(page, /\.base +16\nstart/);
  await until(page, byId('facts'), /Unmarked numbers are read in base 16/);
  await until(page, '.cm-words', /1F 10/);
});

test('columns are put in order by one press', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'start LOAD #1 ; one\nHALT');
  await page.click(byId('columns'));
  await untilText(page, /^start {3}LOAD {2}#1 {2}; one\n {8}HALT$/);
});

test('parts are taken in, snippets inserted, and the lines of a frame stay', async () => {
  const page = await write('quay-watch', 'course');
  await rewrite(page, 'start LOAD #8\n CALL half\n HALT\n');
  await until(page, byId('problems'), /No line defines “half”/);
  await page.click('[data-course="halving"] > button');
  await untilText(page, /\.include "halving"/);
  await until(page, byId('facts'), /Starts at 0x00/);
  await page.click('[data-course="count down"] > button');
  await untilText(page, /again {3}DEC/);
  await page.click('[data-course="read, work, write"] > button');
  await page.waitForFunction(() => /read-work-write-\d+$/.test(location.pathname));
  await untilText(page, /; Only the middle is yours/);
  await until(page, byId('status'), /Ready to run/);
  await cursorAt(page, 'STORE level');
  await page.keyboard.type('x');
  await until(page, byId('outcome'), /This line is given by the course and stays as it is/);
  expect(await editorText(page)).not.toMatch(/x/);
  await cursorAt(page, '; your instructions');
  await page.keyboard.type('ADD #1 ');
  await untilText(page, /ADD #1 ; your instructions/);
  await page.click(byId('unfreeze'));
  await cursorAt(page, 'STORE level');
  await page.keyboard.type('yy');
  await untilText(page, /yySTORE level/);
});

test('a selection is kept for the course and used by another program; it can be taken out again', async () => {
  const page = await write('quay-watch', 'course');
  await rewrite(page, '.routine twice\nSHL\nRET\n.end');
  await page.select(byId('keep-kind'), 'part');
  await page.type(byId('keep-name'), 'doubling');
  await page.keyboard.press('Enter');
  await until(page, '[data-course="doubling"]', /include/);
  await rewrite(page, 'start LOAD #4\n CALL twice\n HALT\n.include "doubling"\n');
  await until(page, byId('facts'), /Starts at 0x00/);
  await page.click(byId('load'));
  await press(page, 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await page.waitForFunction(() => document.querySelector('[data-value=ACC]')?.textContent === '08');
  await page.click('[data-course="doubling"] [data-part=trigger]');
  const out = (): Promise<void> =>
    page.$$eval('[data-course="doubling"] [data-part=content] button', (list) => (list.at(-1) as HTMLElement).click());
  await out();
  await until(page, '[data-course="doubling"]', /Really take/);
  await out();
  await until(page, byId('problems'), /The course has no part “doubling”/);
});

test('object code goes out and comes back as a program, and a pasted listing is cleaned before it is taken', async () => {
  const page = await write('quay-watch', 'code');
  await page.click(byId('show-hex'));
  const hex = await until(page, byId('shown-code'), /:00000001FF/);
  expect(hex).toMatch(/^:0E0000001240334126423BC03DC02643390F/);
  await page.select(byId('in-format'), 'hex');
  await put(page, byId('pasted'), hex.replace('1240', '1241'));
  await page.click(byId('look'));
  await until(page, byId('preview'), /The checksum is/);
  await page.$eval(byId('pasted'), (each) => (each as HTMLTextAreaElement).select());
  await put(page, byId('pasted'), hex);
  await page.click(byId('look'));
  await until(page, byId('preview'), /16 cells, as a program[\s\S]*start_00 LOAD +cell_40/);
  await page.click(byId('take'));
  await untilText(page, /start_00 LOAD +cell_40/);
  await until(page, byId('facts'), /16 cells used/);
  await page.click(byId('show-listing'));
  const listing = await until(page, byId('shown-code'), /00 +12 40 +1 +start_00/);
  await rewrite(page, '; nothing');
  await page.select(byId('in-format'), 'listing');
  await page.$eval(byId('pasted'), (each) => (each as HTMLTextAreaElement).select());
  await put(page, byId('pasted'), listing);
  await page.click(byId('look'));
  await until(page, byId('preview'), /Cleaned[\s\S]*start_00 LOAD/);
  await page.click(byId('take'));
  await until(page, byId('facts'), /16 cells used/);
});

test('cells are entered by hand with next and previous, decoded, compared, kept over a load and put back', async () => {
  const page = await write('quay-watch', 'hand');
  await until(page, byId('agreement'), /16 of 16 cells agree with the program\./);
  await until(page, '[data-hand="0"]', /LOAD level/);
  await page.click('[data-hand="1"] input');
  await page.keyboard.type('41');
  await page.keyboard.press('Enter');
  await page.keyboard.type('zz');
  await until(page, '[data-hand="2"]', /0 to FF/);
  await page.keyboard.press('Escape');
  await page.keyboard.press('ArrowUp');
  await until(page, byId('agreement'), /15 of 16 cells agree with the program; not 0x01/);
  await until(page, '[data-hand="0"]', /LOAD rise/);
  await page.click(byId('load'));
  await until(page, '[data-hand="1"]', /the program has 40/);
  expect(await page.$eval('[data-cell="1"]', (each) => `${each.className} ${each.textContent}`)).toMatch(/by-hand.* 41/);
  await press(page, 'ArrowRight');
  await until(page, byId('ticks'), /^8$/);
  expect((await registers(page)).ACC).toBe('2B');
  await page.click(byId('put-back'));
  await until(page, byId('agreement'), /16 of 16/);
});

test('one instruction is done at once, kept as source if wanted, and its mistake is told', async () => {
  const page = await write('quay-watch', 'hand');
  await page.waitForSelector(byId('one'));
  await page.type(byId('one'), 'LAOD #7\n');
  await until(page, byId('one-told'), /Did you mean LOAD/);
  await page.$eval(byId('one'), (each) => (each as HTMLInputElement).select());
  await page.type(byId('one'), 'LOAD #7');
  await page.click(byId('one-keep'));
  await cursorAt(page, 'HALT');
  await page.focus(byId('one'));
  await page.keyboard.press('Enter');
  await until(page, byId('one-told'), /Done: LOAD #7, 2 cells, at 0x00\./);
  await page.waitForFunction(() => document.querySelector('[data-value=ACC]')?.textContent === '07');
  await untilText(page, /HALT\n {8}LOAD #7/);
});

test('with errors nothing is loaded and it is said; the finished part runs, and stops where something is missing', async () => {
  const page = await write('quay-watch');
  await rewrite(page, 'start LOAD n\n ADD #1\n LAOD #2\n HALT\nn .cells 9');
  await page.select(byId('speed'), 'full');
  await page.click(byId('load'));
  await until(page, byId('outcome'), /Nothing was loaded\. Line 3: This machine has no operation/);
  await page.click(byId('load-part'));
  await until(page, byId('outcome'), /The part before line 3 is loaded/);
  await until(page, byId('status'), /[Bb]reakpoint|before/);
  expect((await registers(page)).ACC).toBe('0A');
  expect((await registers(page)).PC).toBe('04');
});

test('versions are kept, compared and duplicated', async () => {
  const page = await write('over-the-sill', 'versions');
  await rewrite(page, 'start LOAD #1\n HALT\n');
  await page.click(byId('keep-version'));
  await until(page, byId('versions'), /Keep this as version 2/);
  await rewrite(page, 'start LOAD #2\n HALT\n');
  await page.click(byId('compare'));
  await page.waitForSelector('.difference .cm-changedLine');
  expect(await page.$$eval('.difference .cm-changedLine', (list) => list.at(-1)!.textContent)).toMatch(/LOAD #2/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => {
    const { x, y } = document.querySelector('[data-testid=duplicate]')!.getBoundingClientRect();
    return document.elementFromPoint(x + 5, y + 5)?.closest('[data-testid=duplicate]') !== null;
  });
  await page.click(byId('duplicate'));
  await page.waitForFunction(
    () =>
      location.pathname.endsWith('over-the-sill-2-2') &&
      document.querySelector<HTMLSelectElement>('[data-testid=program-choice]')?.selectedOptions[0]?.textContent === 'over the sill 2',
  );
  await untilText(page, /start LOAD #2/);
});

test('a warning is told, switched off, and stays off after a reload', async () => {
  const page = await write('quay-watch', 'checks');
  await rewrite(page, 'start LOAD #1\n JUMP 3\n HALT');
  await until(page, byId('problems'), /in the middle of the instruction on line 2/);
  await until(page, byId('facts'), /2 warnings/);
  await page.click(byId('check-jump-into-middle'));
  await page.waitForFunction(() => !/middle of/.test(document.querySelector('[data-testid=problems]')?.textContent ?? ''));
  await page.reload();
  await until(page, byId('facts'), /Starts at 0x00/);
  expect(await problems(page)).not.toMatch(/middle/);
});

test('the line of the cursor and its cells are marked, and a cell leads to its line', async () => {
  const page = await write('quay-watch');
  await cursorAt(page, 'CMP');
  await page.waitForFunction(() => document.querySelectorAll('.memory .at-cursor').length === 2);
  expect(await page.$$eval('.memory .at-cursor', (list) => list.map((each) => (each as HTMLElement).dataset.cell))).toEqual(['6', '7']);
  const cell = await page.$('[data-cell="65"]');
  await cell!.click({ count: 2 });
  await page.waitForFunction(() => document.querySelector('.memory .at-cursor')?.getAttribute('data-cell') === '65');
});

test('declared places are listed with place, base and unit', async () => {
  const page = await write('quay-watch', 'names');
  await rewrite(page, '.input level, decimal, "cm"\n.output deep = 0x50, hex\nstart LOAD level\n STORE 0x50\n HALT\nlevel .cells 9\n');
  const told = await until(page, byId('declared'), /deep/);
  expect(told).toBe('Given and foundlevel, input at 0x05, decimal, in cm 1deep, output at 0x50, hex 2');
});

test('a routine’s border is seen beside its lines, and its name at its cells', async () => {
  const page = await write('quay-watch');
  await loadProgram(page, 'start CALL half\n HALT\n .routine half\nagain SHR\n RET\n .end\n');
  expect(await page.$$eval('.program .cm-routine', (list) => list.map((each) => each.textContent))).toEqual([
    ' .routine half',
    'again SHR',
    ' RET',
    ' .end',
  ]);
  expect(await page.$eval('[data-cell="3"]', (each) => (each as HTMLElement).title)).toMatch(/^half, cell 0x03: .*; in half$/);
});

test('a load keeps breakpoints on their lines and what was queued', async () => {
  const page = await write('highest-water');
  await cursorAt(page, 'start');
  await page.keyboard.down('Alt');
  await page.keyboard.press('b');
  await page.keyboard.up('Alt');
  const broken = await textOf(page, '.breakpoint.on');
  await page.keyboard.press('Home');
  await page.keyboard.type('\n');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.type('; one more line');
  await page.click(byId('load'));
  await page.waitForFunction(() => !document.querySelector('[data-testid=older]'));
  expect(Number(await textOf(page, '.breakpoint.on'))).toBe(Number(broken) + 1);
});

test('every control of every tool has a name, and the tools are walked with arrow keys', async () => {
  const page = await write('quay-watch');
  await page.focus(byId('tool-insert'));
  const seen: string[] = [];
  for (let turn = 0; turn < 7; turn++) {
    seen.push(await page.$eval('[role=tab][aria-selected=true]', (each) => each.textContent ?? ''));
    await new Promise((resolve) => setTimeout(resolve, 120));
    const nameless = await page.$$eval('button, input, select, textarea, a, [role=textbox]', (list) =>
      list
        .filter((each) => !(each.getAttribute('aria-label') || each.textContent?.trim() || each.closest('label')?.textContent?.trim()))
        .map((each) => each.outerHTML.slice(0, 120)),
    );
    expect(nameless).toEqual([]);
    await page.keyboard.press('ArrowRight');
    await page.waitForFunction(
      (before) => document.querySelector('[role=tab][aria-selected=true]')?.textContent !== before,
      {},
      seen.at(-1)!,
    );
  }
  expect(seen).toEqual(['Insert', 'Names', 'Checks', 'Code', 'By hand', 'Course', 'Versions']);
});

test('a program of another machine brings other tools: a decimal machine has no bytes to write', async () => {
  const page = await write('flood-sum', 'code');
  expect(await textOf(page, '.formats')).not.toMatch(/Intel HEX|binary/);
  await until(page, '.tool', /CSV carries them/);
  await page.click(byId('show-csv'));
  await until(page, byId('shown-code'), /space,bank,address,value/);
  await loadProgram(page, 'start READ\n WRITE\n HALT');
  await page.click(byId('tool-insert'));
  await until(page, '.tool', /JUMPZ address/);
});

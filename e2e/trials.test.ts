/** Trials as a teacher uses them: sets typed, pasted, taken in; run, compared, proposed; to the bench and back; the record sheet. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, chooseFile, press, registers, saved, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

const cell = (row: number, column: number): string => `[data-cell="${row}:${column}"]`;
const valueOf = (page: Page, selector: string): Promise<string> =>
  page.$eval(selector, (entry) => (entry as Partial<HTMLInputElement>).value ?? entry.textContent ?? '');

/** An entry becomes a field when it is entered. */
async function enter(page: Page, selector: string): Promise<void> {
  await page.waitForSelector(selector);
  await page.focus(selector);
  await page.waitForFunction((where) => document.activeElement === document.querySelector(`input${where}`), {}, selector);
}

async function opened(path: string, waitFor = '[data-set]'): Promise<Page> {
  const page = await harness.open(path);
  await page.waitForSelector(waitFor);
  return page;
}

/** Types into a cell over what stands there, and goes on with a key. */
async function type(page: Page, selector: string, text: string, key: 'Enter' | 'Tab' = 'Enter'): Promise<void> {
  await enter(page, selector);
  await page.$eval(selector, (field) => (field as HTMLInputElement).select());
  await page.keyboard.type(text);
  await page.keyboard.press(key);
}

const runAll = async (page: Page, pattern: RegExp): Promise<void> => {
  await page.waitForSelector(`${byId('run-all')}:not(:disabled)`);
  await page.click(byId('run-all'));
  await until(page, byId('summary'), pattern);
};

const verdict = (page: Page, name: string): Promise<string> => textOf(page, `[data-set="${name}"] .verdict`);

const paste = async (page: Page, selector: string, text: string): Promise<void> => {
  await enter(page, selector);
  await page.$eval(
    selector,
    (field, pasted) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', pasted);
      field.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    },
    text,
  );
};

test('all sets of the demo hold; one that does not is marked in its very cell, and undo takes it back', async () => {
  const page = await opened('/trials/quay-watch');
  await runAll(page, /5 of 5 hold/);
  expect(await page.$$eval('[data-set] .ticks', (list) => list.map((each) => each.textContent))).toEqual(['50', '50', '50', '50', '50']);
  await type(page, cell(1, 3), '24');
  await until(page, '[data-set="spring tide"] .verdict', /was: holds/);
  await runAll(page, /4 of 5 hold/);
  expect(await verdict(page, 'spring tide')).toContain('1 differs');
  expect(await page.$$eval('[data-differs]', (list) => list.map((each) => each.textContent))).toEqual(['24→ 25']);
  await page.click('[data-set="spring tide"] .ticks');
  await until(page, byId('row-said'), /later: expected 24, came 25\./);
  await until(page, '[data-set="spring tide"] .by', /SHR, line 12/);
  await page.click(byId('undo-sets'));
  await page.waitForFunction((where) => document.querySelector(where)?.textContent === '25', {}, cell(1, 3));
  await runAll(page, /5 of 5 hold/);
  await saved(page);
});

test('a set is written by keyboard alone, an entry says how it is read, and all is there after a reload', async () => {
  const page = await opened('/trials/quay-watch');
  await type(page, byId('new-set'), 'from the gauge');
  await page.waitForSelector('[data-set="from the gauge"]');
  await page.focus(cell(5, -1));
  await page.keyboard.type('typed by hand');
  await page.keyboard.press('Tab');
  await page.keyboard.type('21 7');
  await until(page, byId('reading'), /level: 2 values, up to M\[0x41\]: 0x21 = 33 \(in decimal it would be 21\); 0x07 = 7/);
  await page.keyboard.press('Backspace');
  await page.keyboard.press('Backspace');
  await until(page, byId('reading'), /level: 0x21 = 33\. In decimal it would be 21\./);
  await page.keyboard.press('Tab');
  await page.keyboard.type('1G');
  await until(page, byId('reading'), /rise: “1G” is no number/);
  await page.keyboard.press('Enter');
  await until(page, '[data-set="from the gauge"] .verdict', /cannot be read/);
  await page.click('[data-set="from the gauge"] .verdict');
  await until(page, byId('chosen-set'), /rise \(given\): “1G” is no number/);
  await type(page, cell(5, 2), '-1', 'Tab');
  await page.waitForFunction(() => !document.querySelector('[data-set="from the gauge"] .wrong'));
  await page.focus(cell(5, 2));
  await page.keyboard.press('ArrowUp');
  await page.waitForFunction(() => (document.activeElement as HTMLElement).dataset['cell'] === '4:2');
  await saved(page);
  await page.reload();
  await page.waitForSelector('[data-set="from the gauge"]');
  expect(await valueOf(page, cell(5, 1))).toBe('21');
  expect(await valueOf(page, cell(5, -1))).toBe('typed by hand');
  await page.click('[data-set="from the gauge"] .verdict');
  await page.click(byId('remove-set'));
  await page.waitForFunction(() => !document.querySelector('[data-set="from the gauge"]'));
  await saved(page);
});

test('rows of a spreadsheet are pasted over cells and past the end, and undone as one', async () => {
  const page = await opened('/trials/over-the-sill');
  await paste(page, cell(1, 1), '11\t12\t13\r\n21\t22\t23\r\n31\t32\t33\r\n');
  await page.waitForSelector(cell(3, 1));
  expect(await Promise.all([cell(1, 1), cell(2, 2), cell(3, 3)].map((each) => valueOf(page, each)))).toEqual(['11', '22', '33']);
  await until(page, byId('said'), /3 rows pasted/);
  await page.click(byId('undo-sets'));
  await page.waitForFunction((where) => !document.querySelector(where), {}, cell(3, 1));
  expect(await valueOf(page, cell(1, 1))).toBe('10');
  // The next one begins with these sets.
  await saved(page);
});

test('sets come from a file, and what cannot be taken is told with its line', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zettak-sets-'));
  const file = (name: string, text: string | Buffer): string => {
    writeFileSync(join(folder, name), text);
    return join(folder, name);
  };
  const page = await opened('/trials/foghorn');
  const csv = file(
    'more.csv',
    'set,given blasts,colour,expected output\r\nfive blasts,5,blue,"""5\\n4\\n3\\n2\\n1\\n"""\r\n,9,,\r\nsilent,0,,any\r\n',
  );
  await chooseFile(page, byId('import-sets'), csv);
  await until(page, byId('said'), /more\.csv: 1 added, 1 replaced\. Line 1: Not understood and left out: “colour”.*And 1 more/);
  await runAll(page, /3 of 3 hold/);
  await chooseFile(page, byId('import-sets'), file('latin.csv', Buffer.from('set,given blasts\r\nsp\xe4t,5\r\n', 'latin1')));
  await until(page, byId('said'), /not written in UTF-8/);
  await chooseFile(page, byId('import-sets'), file('other.yaml', 'zettak: sets\nversion: 1\nsets: [{nam: x}]'));
  await until(page, byId('said'), /other\.yaml, line 3: Set 1, name: this is missing/);
  expect(await page.$$eval('[data-set]', (list) => list.length)).toBe(3);
});

test('results are kept with the text that they came of, and told as old when it changes', async () => {
  const page = await opened('/trials/flood-sum');
  await runAll(page, /2 of 2 hold/);
  await page.reload();
  await page.waitForSelector('[data-set]');
  await until(page, byId('summary'), /2 of 2 hold/);
  const change = (from: string, to: string) =>
    page.evaluate(
      async (before, after) => {
        const document = await (await fetch('/api/programs/flood-sum')).json();
        const body = JSON.stringify({ text: document.draft.replace(before, after), revision: document.revision });
        await fetch('/api/programs/flood-sum/draft', { method: 'PUT', body, headers: { 'content-type': 'application/json' } });
        window.dispatchEvent(new Event('focus'));
      },
      from,
      to,
    );
  await change('ADD   sum', 'SUB   sum');
  await until(page, byId('summary'), /results of an earlier text/);
  expect(await verdict(page, 'two readings')).toContain('was: holds');
  await page.click(byId('run-again'));
  await change('SUB   sum', 'ADDD  sum');
  await until(page, byId('program-errors'), /does not assemble, so no set is run\. Line \d+/);
  await change('ADDD  sum', 'ADD   sum ; as before');
  await until(page, byId('summary'), /2 of 2 hold/);
});

test('what was never tried is told, beside the source too, and a set is proposed that tries it', async () => {
  const page = await opened('/trials/over-the-sill');
  await page.click('[data-set="the day"] .verdict');
  await page.click(byId('remove-set'));
  // The notice moves what stands below it.
  await until(page, byId('said'), /taken out/);
  await page.click('[data-set="just wet"] .verdict');
  await page.click(byId('remove-set'));
  await page.waitForFunction(() => document.querySelectorAll('[data-set]').length === 1);
  await page.click(byId('look-reached'));
  await until(page, byId('never-tried'), /JUMPNC show.*never taken/);
  await page.click(byId('beside-source'));
  await until(page, '[data-line="16"]', /JUMPNC show.*never taken/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[role=dialog]'));
  await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('[data-untried=branch] button')][0]?.click());
  await until(page, byId('propose'), /Propose “taken” at line 16/);
  await page.click(byId('propose'));
  await until(page, byId('said'), /is proposed after [\d,]+ tries/);
  await page.waitForFunction(() => document.querySelectorAll('[data-set]').length === 2);
  await page.waitForFunction(
    () => !/JUMPNC show[^0]*never taken/.test(document.querySelector('[data-testid="never-tried"]')?.textContent ?? ''),
  );
});

test('two sets part where a branch decides otherwise; from there to the bench', async () => {
  const page = await opened('/trials/falling-water');
  await page.click('[data-set="risen"] .verdict');
  await page.select(byId('beside'), 'set fallen');
  await until(page, byId('parting'), /then JUMPN risen goes different ways/);
  expect(await textOf(page, '[data-side="risen"]')).toMatch(/LOAD nothing/);
  await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('[data-side="risen"] button')][0]?.click());
  await page.waitForFunction(() => location.pathname === '/bench/falling-water');
  await until(page, byId('status'), /[Pp]aused|after/);
  await press(page, 'ArrowRight');
  await until(page, byId('sentence'), /risen|jump|Jump|goes/);
});

test('a row is opened on the bench at its end; a run of the bench becomes a set that holds', async () => {
  const page = await opened('/trials/quay-watch');
  await page.click('[data-set="spring tide"] .verdict');
  await page.waitForSelector(`${byId('onto-bench')}:not(:disabled)`);
  await page.click(byId('onto-bench'));
  await page.waitForFunction(() => location.pathname === '/bench/quay-watch');
  await until(page, byId('status'), /Halted after 8 instructions/);
  expect((await registers(page))['ACC']).toBe('32');
  await page.click(byId('tool-keep'));
  await page.click(byId('keep-as-set'));
  await until(page, byId('kept-told'), /Kept as the set “from the bench”/);
  await page.goto(`${harness.address}/trials/quay-watch`);
  await page.waitForSelector('[data-set="from the bench"]');
  await runAll(page, /6 of 6 hold/);
  expect(await valueOf(page, cell(5, 1))).toBe('0xB7');
});

test('the calculator’s result, and what came, become what is expected', async () => {
  const page = await opened('/trials/quay-watch');
  await page.click('[data-set="sign turns"] .verdict');
  await page.waitForSelector(byId('sum-a'));
  await page.type(byId('sum-a'), '68');
  await page.type(byId('sum-b'), '38');
  await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[data-testid=calculator] button')].find((each) => each.textContent === 'later')!.click(),
  );
  await page.waitForFunction((where) => document.querySelector(where)?.textContent === '0xA0', {}, cell(3, 3));
  await runAll(page, /of 6 hold|of 5 hold/);
  expect(await verdict(page, 'sign turns')).toContain('differs');
  await page.click(byId('take-over'));
  await until(page, '[data-set="sign turns"] .verdict', /^\s*holds/);
  expect(await valueOf(page, cell(3, 3))).toBe('9F');
});

test('a program that never halts says so in every row, and a long run is called off at once', async () => {
  const page = await harness.open('/programs');
  const made = await page.evaluate(async () => {
    const post = async (path: string, body: object) =>
      (await fetch(path, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } })).json();
    // A cell and ACC together count to 65,536 and on: no state comes back for long.
    const text =
      'start INC\n JUMPNZ start\n LOAD high\n INC\n STORE high\n JUMPNZ start\n LOAD third\n INC\n STORE third\n JUMP start\nhigh .cells 0\nthird .cells 0';
    const program = await post('/api/programs', { name: 'round and round', text, machine: 'curlew' });
    const sets = Array.from({ length: 40 }, (_, at) => `  - {name: s${at}, given: {ACC: ${at}}}`).join('\n');
    await post('/api/trials', {
      name: 'round',
      text: `zettak: sets\nversion: 1\nmost ticks: 100000000\nsets:\n${sets}\n`,
      program: program.id,
    });
    return program.id as string;
  });
  await page.goto(`${harness.address}/trials/${made}`);
  await page.waitForSelector(`${byId('run-all')}:not(:disabled)`);
  await page.click(byId('run-all'));
  await until(page, byId('work'), /running … \d+ of 40/);
  await page.click(byId('call-off'));
  await until(page, byId('said'), /Called off/);
  await page.waitForSelector(`${byId('run-all')}:not(:disabled)`);
  await type(page, cell(0, 1), '7');
  await saved(page);
});

test('the record sheet: its parts in the chosen order, printed', async () => {
  const page = await opened('/trials/quay-watch');
  await page.click(byId('run-all'));
  await until(page, byId('summary'), /hold/);
  await page.click(byId('record-sheet'));
  await page.waitForSelector(byId('flow'));
  await page.type(byId('sheet-label'), 'bench 07');
  await page.focus(byId('sheet-problem'));
  await until(page, byId('sheet'), /bench 07/);
  const parts = () => page.$$eval('[data-sheet-part]', (list) => list.map((each) => (each as HTMLElement).dataset['sheetPart']));
  expect(await parts()).toEqual(['problem', 'method', 'flow', 'listing', 'sets', 'results', 'flags']);
  await page.click('[aria-label="Results earlier"]');
  await page.click(byId('part-flow'));
  await page.waitForFunction(() => !document.querySelector('[data-sheet-part=flow]'));
  expect(await parts()).toEqual(['problem', 'method', 'listing', 'results', 'sets', 'flags']);
  expect(await textOf(page, byId('sheet-results'))).toMatch(/calm67A7/);
  expect(await textOf(page, '[data-sheet-part=method]')).toContain('lines 6-8, from start LOAD level');
  await page.click(byId('part-trace sheet'));
  await page.click(byId('part-trace key'));
  await page.waitForSelector('[data-sheet-part="trace key"] td');
  const filled = (part: string) =>
    page.$$eval(`[data-sheet-part="${part}"] td.mono`, (cells) => cells.filter((each) => each.textContent !== '').length);
  await page.waitForFunction(() => document.querySelectorAll('[data-sheet-part="trace sheet"] tbody tr').length === 8);
  expect([await filled('trace sheet'), await filled('trace key')]).toEqual([12, 96]);
  const pdf = Buffer.from(await page.pdf({ preferCSSPageSize: true })).toString('latin1');
  expect(pdf.match(/\/Type\s*\/Page\b/g)!.length).toBeGreaterThanOrEqual(1);
  expect(pdf).toMatch(/MediaBox\s*\[\s*0 0 59[45]/);
  await page.reload();
  await until(page, byId('sheet'), /bench 07/);
  // What nobody has written is asked for, and not printed.
  const other = await opened('/trials/flood-sum');
  await runAll(other, /2 of 2 hold/);
  await other.click(byId('record-sheet'));
  await other.waitForSelector('[data-sheet-part=problem]');
  const problem = () => other.$eval('[data-sheet-part=problem]', (each) => each.checkVisibility());
  expect(await problem()).toBe(true);
  await other.emulateMediaType('print');
  expect(await problem()).toBe(false);
  expect(await other.$$eval('[data-testid=sheet-results] thead th', (all) => all.map((each) => each.textContent))).toEqual([
    ...['set', 'output', 'sum', 'instructions', 'ticks', 'verdict'],
  ]);
});

test('without the server what is typed is kept, and goes there when it is back', async () => {
  const page = await opened('/trials/two-gates');
  await harness.stopServer();
  await type(page, byId('new-set'), 'while it was away');
  await until(page, byId('save-state'), /kept in this browser/);
  await runAll(page, /\d of 2 hold/);
  await until(page, byId('said'), /stand here, and are not kept/);
  await harness.startServer();
  await saved(page);
  await page.reload();
  await page.waitForSelector('[data-set="while it was away"]');
});

test('two programs part at the first instruction that is another, and either side goes to the bench', async () => {
  const page = await opened('/trials/flood-sum');
  await page.click('[data-set="none"] .verdict');
  await page.select(byId('beside'), 'program falling-water');
  await until(page, byId('parting'), /then JUMPZ done here and STORE first there/);
  await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('[data-side="falling water"] button')][0]?.click());
  await page.waitForFunction(() => location.pathname === '/bench/falling-water');
  await until(page, byId('ticks'), /^[1-9]/);
});

test('what a class says first is expected in a set from then on', async () => {
  const page = await harness.open('/bench/quay-watch');
  await until(page, byId('status'), /Ready to run/);
  await page.click(byId('tool-say'));
  await page.type(byId('predict-place'), 'later');
  await page.keyboard.press('Enter');
  await page.waitForSelector('[data-prediction=later] input');
  await page.type('[data-prediction=later] input', 'C9');
  await page.waitForFunction(() =>
    [...document.querySelectorAll('[data-testid=pin-set] option')].some((each) => each.textContent?.includes('calm')),
  );
  await page.select(byId('pin-set'), 'said first');
  await page.click(byId('pin'));
  await until(page, byId('pin-told'), /“said first” expects 0d201 in later/);
  await page.goto(`${harness.address}/trials/quay-watch`);
  await page.waitForSelector('[data-set="said first"]');
  await page.waitForSelector(`${byId('run-all')}:not(:disabled)`);
  await page.click(byId('run-all'));
  await until(page, '[data-set="said first"] .verdict', /holds/);
  await page.click(byId('only-chosen'));
});

test('sets that cannot be read are told, and not written over until a file replaces them', async () => {
  const page = await harness.open('/programs');
  const id = await page.evaluate(async () => {
    const post = async (path: string, body: object) =>
      (await fetch(path, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } })).json();
    const program = await post('/api/programs', { name: 'worn sheet', text: ' HALT', machine: 'curlew' });
    const trial = await post('/api/trials', { name: 'worn sheet', text: 'zettak: sets\nversion: 7', program: program.id });
    return { program: program.id as string, trial: trial.id as string };
  });
  await page.goto(`${harness.address}/trials/${id.program}`);
  await until(page, '[role=alert]', /cannot be read\. version: this file was made by a later version/);
  await type(page, byId('new-set'), 'fresh');
  await until(page, byId('said'), /import a file that replaces them first/);
  const kept = () => page.evaluate(async (trial) => (await (await fetch(`/api/trials/${trial}`)).json()).draft as string, id.trial);
  expect(await kept()).toBe('zettak: sets\nversion: 7');
  const folder = mkdtempSync(join(tmpdir(), 'zettak-sets-'));
  writeFileSync(join(folder, 'whole.yaml'), 'zettak: sets\nversion: 1\nsets:\n  - name: whole\n');
  await chooseFile(page, byId('import-sets'), join(folder, 'whole.yaml'));
  await page.waitForSelector('[data-set=whole]');
  await saved(page);
  expect(await kept()).toContain('name: whole');
});

test('a program that is not there leaves nothing of another one on the screen', async () => {
  const page = await opened('/trials/quay-watch');
  await page.goto(`${harness.address}/trials/nowhere`);
  await until(page, '[role=alert]', /There is no program “nowhere”/);
  expect(await page.$('[data-set]')).toBeNull();
});

test('what is typed into a row that is scrolled away is taken, not lost', async () => {
  const page = await opened('/trials/two-gates');
  await paste(page, byId('new-set'), Array.from({ length: 80 }, (_, at) => `many ${at}`).join('\n'));
  await page.waitForFunction(() => document.querySelector('[data-testid=set-room]')!.scrollHeight > 3000);
  const scroll = (top: number): Promise<void> => page.$eval(byId('set-room'), (room, where) => void (room.scrollTop = where), top);
  await scroll(0);
  await enter(page, cell(1, -1));
  await page.$eval(cell(1, -1), (field) => (field as HTMLInputElement).select());
  await page.keyboard.type('kept all the same');
  await scroll(3000);
  await page.waitForFunction(() => !document.querySelector('[data-cell="1:-1"]'));
  await scroll(0);
  await page.waitForSelector(cell(1, -1));
  expect(await valueOf(page, cell(1, -1))).toBe('kept all the same');
});

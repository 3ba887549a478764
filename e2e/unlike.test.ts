/** Machines as unlike as they get, on the one bench: nothing on it may know which machine it shows. */
import { byId, chooseSpeed, flags, loadProgram, press, ready, registers, rewrite, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

test('a decimal machine shows decimal digits everywhere and offers no other base', async () => {
  const page = await harness.open('/bench/foghorn');
  await ready(page);
  expect(await page.$$eval('[data-testid=bases] label', (list) => list.map((each) => each.textContent))).toEqual(['dec', 'char']);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /^Halted after 21 instructions/);
  expect(await textOf(page, byId('output'))).toMatch(/3\s+2\s+1/);
  expect(await registers(page)).toMatchObject({ PC: '006', IR: '9999', ACC: '0000' });
  expect(await textOf(page, byId('facts'))).toMatch(/Starts at 000, last cell 008/);
  expect(
    await page.$$eval('b[data-value]', (list) => list.map((each) => each.textContent).filter((each) => /[^0-9]/.test(each ?? ''))),
  ).toEqual([]);
});

test('a decimal number is asked for in its own range, and hexadecimal is refused', async () => {
  const page = await harness.open('/bench/flood-sum');
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('waiting'), /askNumber wants a number for ACC: −5000 to 9999/);
  await page.keyboard.type('0x1F');
  await until(page, byId('reading'), /is no number. Write decimal digits/);
});

test('traps through memory are stepped like any other code, with the names of the system program', async () => {
  const page = await harness.open('/bench/harbour-log');
  await ready(page);
  await press(page, 'ArrowRight', '.', '.', '.');
  await press(page, '.', '.', '.');
  await until(page, byId('sentence'), /The trap went to system\.sayText; it will come back to/);
  // What the next tick reads is in sight in memory too, below the head of the table.
  await press(page, '.', '.');
  await page.waitForFunction(() => {
    const [cell, head, outer] = ['.memory td.read', '.memory thead th', '.memory'].map((each) =>
      document.querySelector(each)?.getBoundingClientRect(),
    );
    return cell && cell.top >= head!.bottom - 1 && cell.bottom <= outer!.bottom;
  });
  expect(await page.$$eval('.phase h3', (list) => list.map((each) => each.textContent))).toEqual(['Fetch', 'Decode', 'Execute', 'Trap']);
  await page.type(byId('entry'), 'calm.');
  await until(page, byId('reading'), /5 characters/);
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /^Halted/);
  expect(await textOf(page, byId('output'))).toBe('log: calm.');
  await press(page, 'Home');
  await until(page, byId('ticks'), /^0$/);
});

test('two memories with banks stand side by side, and each can be looked at', async () => {
  const page = await harness.open('/bench/decimal-levels');
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /^Halted/);
  await page.select(byId('space'), '1');
  const cell = (bank: number, at: number): Promise<string> => textOf(page, `[data-place="DATA ${bank * 64 + at}"]`);
  expect(await Promise.all([0, 1, 2].map((at) => cell(2, at)))).toEqual(['1', '3', '2']);
  expect(await page.$eval('[data-place="DATA 0"]', (each) => each.getAttribute('title'))).toMatch(/^level, cell 0x00: 0x8/);
  expect(await page.$eval('[data-place="DATA 64"]', (each) => each.getAttribute('title'))).toMatch(/^rise, cell 0x00: 0x3/);
  expect((await registers(page)).P3).toBe('03');
  expect(await flags(page)).toMatch(/^C\d Z\d G0$/);
});

test.each(['plover', 'gannet', 'dunlin'])('the machine %s is read without a problem and listed with its instructions', async (id) => {
  const page = await harness.open(`/machines/${id}`);
  await until(page, byId('problem-count'), /none/);
  await until(page, byId('opcode-map'), /[\d,]+ used, [\d,]+ free/);
  expect(await page.$$eval('[data-part^="instructions / "]', (list) => list.length)).toBeGreaterThan(10);
});

test('a machine of one’s own: begun empty, given an instruction, saved as a version, and running a program on the bench', async () => {
  const page = await harness.open('/machines/new');
  await page.waitForSelector(byId('make-empty'));
  await page.click(byId('make-empty'));
  await until(page, byId('version'), /no version yet/);
  await page.click(byId('open-bench'));
  await until(page, byId('said'), /Save a version first/);
  await page.waitForSelector('[data-cell="17"]');
  await page.click('[data-cell="17"]');
  await page.type('[aria-label="Name of a new instruction at 0x11"]', 'stop');
  await page.click(byId('new-here'));
  await until(page, byId('instruction-name'), /^STOP$/);
  await page.type('[data-testid=ticks-execute] .cm-content', 'halt');
  await until(page, byId('problem-count'), /none|0 errors/);
  await page.click(byId('save-version'));
  await until(page, byId('said'), /Saved as version 1/);
  await page.click(byId('open-bench'));
  // It is greeted by a program that runs; a text without any is no mistake, and the machine stays in sight.
  await ready(page);
  await rewrite(page, '; nothing yet\n');
  await until(page, byId('outcome'), /Nothing is written yet/);
  expect(await page.$$('.cm-lintRange-error')).toEqual([]);
  await page.reload();
  await until(page, byId('status'), /No program is loaded/);
  expect((await registers(page)).PC).toBe('00');
  expect(await textOf(page, byId('datapath'))).toMatch(/MAR/);
  await loadProgram(page, 'STOP\n');
  await ready(page);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /^Halted after 1 instruction/);
});

test('switches are set by hand on the bench, and the run follows them', async () => {
  const page = await harness.open('/bench/sill-lamps');
  await ready(page);
  await page.click(`${byId('switches-switches')} button:nth-child(1)`);
  // In the drawing, too, by keyboard.
  await page.$eval(`${byId('datapath')} [role=switch][aria-label^="switches: fog"]`, (each) => (each as SVGElement).focus());
  await page.keyboard.press('Enter');
  await until(page, byId('switches-switches'), /● gate.*○ float.*● fog/);
  expect(await flags(page)).toMatch(/G1/);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('status'), /^Halted/);
  expect((await registers(page)).ACC).toBe('C');
  const lamps = await page.$$eval(`${byId('datapath')} title`, (all) => all.map((each) => each.textContent ?? ''));
  expect(lamps.filter((each) => / on$/.test(each) && !/gate|fog|float|test/.test(each))).toHaveLength(2);
});

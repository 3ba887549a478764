import { byId, chooseSpeed, loadProgram, press, ready, registers, rewrite, sharedHarness, textOf, until, programAction } from './support';

const harness = sharedHarness();

test('memory is read in four bases, and pointing at a cell tells all of them', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  const level = (): Promise<string> => textOf(page, '[data-cell="64"]');
  const seen: string[] = [];
  for (const base of ['hex', 'dec', 'bin', 'char']) {
    await page.evaluate(
      (words) =>
        [...document.querySelectorAll<HTMLElement>('[data-testid=bases] label')].find((each) => each.textContent === words)!.click(),
      base,
    );
    await page.waitForFunction(
      (words) => document.querySelector('[data-testid=bases] label[data-state=checked]')!.textContent === words,
      {},
      base,
    );
    seen.push(await level());
  }
  expect(seen).toEqual(['9E', '158', '10011110', '·']);
  expect(await page.$eval('[data-cell="64"]', (each) => (each as HTMLElement).title)).toBe(
    'level, cell 0x40: 0x9E = 158 = −98 signed = 1001 1110',
  );
  expect(await page.$eval('[data-cell="66"]', (each) => (each as HTMLElement).title)).toContain('never written');
  // After a press with the mouse the keys are the bench's; arrows within the bases stay theirs.
  await page.click('[data-testid=bases] label:nth-of-type(2)');
  await page.keyboard.press('.');
  await until(page, byId('ticks'), /^1$/);
  await page.focus('[data-testid=bases] input:checked');
  await page.keyboard.press('ArrowRight');
  await until(page, '[data-testid=bases] label[data-state=checked]', /^bin$/);
  await page.keyboard.press('.');
  await until(page, byId('ticks'), /^2$/);
});

test('whatever a tick wrote is marked in memory, and whatever it read too', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await press(page, 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await until(page, byId('ticks'), /^23$/);
  expect(await page.$eval('[data-cell="66"]', (each) => each.className)).toContain('written');
  expect(await textOf(page, '[data-cell="66"]')).toBe('C9');
  await press(page, ',', ',');
  await until(page, byId('ticks'), /^21$/);
  expect(await textOf(page, '[data-cell="66"]')).toBe('··');
});

test('a changed register shows its old value struck beside the new', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, byId('ticks'), /^16$/);
  expect(await page.$$eval(`${byId('registers')} s`, (list) => list.map((each) => each.textContent))).toEqual(['9E']);
});

test('values queued beforehand are taken in order, and one can be taken out again', async () => {
  const page = await harness.open('/bench/highest-water');
  await ready(page);
  for (const value of ['10', '20', '0']) {
    await page.type(byId('entry'), value);
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => (document.querySelector('[data-testid=entry]') as HTMLInputElement).value === '');
  }
  await page.click('[aria-label="Take 20 out of the queue"]');
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=queue] li').length === 2);
  await chooseSpeed(page, 'full');
  await press(page, 'Space');
  await until(page, byId('output'), /highest: 10/);
  expect(await page.$$eval(`${byId('queue')} li.used`, (list) => list.length)).toBe(2);
});

test('a run at an even pace ticks by itself and stops at the halt', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await loadProgram(page, 'LOAD #2\nHALT\n');
  await ready(page);
  await chooseSpeed(page, '30');
  await press(page, 'Space');
  await until(page, byId('status'), /Halted after 2 instructions, 10 ticks\./);
  expect((await registers(page)).ACC).toBe('02');
});

test('the speed changes by key', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  const speed = (): Promise<string> => page.$eval(byId('speed'), (each) => (each as HTMLSelectElement).value);
  await press(page, '+', '+');
  await page.waitForFunction(() => (document.querySelector('[data-testid=speed]') as HTMLSelectElement).value === '12');
  await press(page, '-');
  await page.waitForFunction(() => (document.querySelector('[data-testid=speed]') as HTMLSelectElement).value === '6');
  expect(await speed()).toBe('6');
});

test('b sets a breakpoint where PC points, and the run pauses there each time round', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await loadProgram(page, 'LOAD #0\nagain ADD #1\nJUMP again\n');
  await ready(page);
  await press(page, 'ArrowRight');
  await until(page, byId('ticks'), /^6$/);
  await press(page, 'b');
  await page.waitForSelector('.breakpoint.on');
  await chooseSpeed(page, 'full');
  for (const value of ['01', '02', '03']) {
    await press(page, 'Space');
    await page.waitForFunction((wanted) => document.querySelector('b[data-value=ACC]')!.textContent === wanted, {}, value);
    await until(page, byId('status'), /Paused at the breakpoint on line 2, before ADD #1\./);
  }
  await press(page, 'b');
  await page.waitForFunction(() => !document.querySelector('.breakpoint.on'));
});

test('breakpoints move with their lines', async () => {
  const page = await harness.open('/bench/over-the-sill');
  await ready(page);
  await rewrite(page, 'LOAD #0\nHALT\n');
  await page.waitForFunction(() => document.querySelectorAll('.cm-break .breakpoint').length >= 2);
  await (await page.$$('.cm-break .breakpoint'))[1]!.click();
  await page.waitForSelector('.breakpoint.on');
  await page.focus('.cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('Home');
  await page.keyboard.up('Control');
  await page.keyboard.type('; a new first line\n');
  await page.waitForFunction(() => document.querySelector('.breakpoint.on')?.textContent === '3');
});

test('night colours are chosen once and kept', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await page.click('[aria-label="Night colours"]');
  const dark = (): Promise<boolean> => page.evaluate(() => document.documentElement.classList.contains('dark'));
  expect(await dark()).toBe(true);
  await page.reload();
  await ready(page);
  expect(await dark()).toBe(true);
});

test('a program is kept as a version, and memory can be cleared', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await rewrite(page, 'LOAD #9\nSTORE 0x90\nHALT ; kept\n');
  await programAction(page, 'keep');
  await until(page, byId('outcome'), /Kept as version 2\./);
  await page.click(byId('load'));
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, '[data-cell="144"]', /09/);
  await page.click(byId('load'));
  await until(page, byId('ticks'), /^0$/);
  expect(await textOf(page, '[data-cell="144"]')).toBe('09');
  await programAction(page, 'clear');
  await page.waitForFunction(
    () => !document.querySelector('[data-cell="144"]') || document.querySelector('[data-cell="144"]')!.textContent === '··',
  );
});

test('an unknown program is told, and another can be chosen', async () => {
  const page = await harness.open('/bench/no-such-program');
  await until(page, '[role=alert]', /There is no program “no-such-program”/);
  await page.select(byId('program-choice'), 'quay-watch');
  await ready(page);
  expect(page.url()).toMatch(/quay-watch$/);
});

test('every control has a name, and every screen a heading order that can be walked', async () => {
  for (const path of ['/bench/quay-watch', '/machines/curlew']) {
    const page = await harness.open(path);
    await page.waitForSelector('.cm-content');
    const nameless = await page.$$eval('button, input, select, a, [role=textbox]', (list) =>
      list
        .filter((each) => {
          const label = each.getAttribute('aria-label') ?? each.textContent?.trim() ?? '';
          const labels = [...((each as HTMLInputElement).labels ?? [])].map((label) => label.textContent ?? '');
          const labelled = [each.closest('label')?.textContent ?? '', ...labels].join('').trim();
          return label === '' && labelled === '';
        })
        .map((each) => each.outerHTML.slice(0, 120)),
    );
    expect(nameless).toEqual([]);
    await page.waitForFunction(() => document.querySelectorAll('h2').length > 1);
    const levels = await page.$$eval('h1, h2, h3', (list) => list.map((each) => Number(each.tagName[1])));
    for (const [place, level] of levels.entries()) expect(level).toBeLessThanOrEqual((levels[place - 1] ?? 0) + 1);
  }
});

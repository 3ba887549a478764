/** Registers, stacks and what a class says before a step. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, press, ready, registers, rewrite, sharedHarness, textOf, until } from './support';

const harness = sharedHarness();

async function bench(program: string): Promise<Page> {
  const page = await harness.open(`/bench/${program}`);
  await ready(page);
  return page;
}

test('readings of the registers are chosen and remembered, never run out of the panel, and a value is typed over where it stands', async () => {
  const page = await bench('quay-watch');
  await page.click(byId('register-columns'));
  for (const column of ['before', 'start', 'character']) await page.click(`[data-column=${column}]`);
  await until(page, byId('registers'), /hex.*dec.*signed.*char.*before.*at start/);
  await press(page, 'ArrowRight', 'ArrowRight');
  await page.waitForFunction(() => document.querySelector('[data-value=ACC]')?.textContent === 'C9');
  const acc = await page.$eval('[data-value=ACC]', (each) => [...each.closest('tr')!.cells].map((cell) => cell.textContent));
  expect(acc.slice(1)).toEqual([expect.stringContaining('C9'), '201', '−55', '·', '9E', '00']);
  const out = await page.$$eval('[data-testid=registers] tr > *', (all) => {
    const { right } = document.querySelector('[aria-label=State]')!.getBoundingClientRect();
    return all.filter((each) => each.getBoundingClientRect().right > right + 1).length;
  });
  expect(out).toBe(0);
  // An instruction is no number with a sign.
  expect(await page.$eval('[data-value=IR]', (each) => [...each.closest('tr')!.cells].slice(2, 4).map((cell) => cell.textContent))).toEqual(
    ['', ''],
  );
  await page.click('[data-value=X]', { count: 2 });
  await page.waitForSelector(`${byId('entry-X')} input`);
  await page.keyboard.type('21');
  await until(page, byId('entry-X'), /is 0x21 = 33\. In decimal it would be 21\./);
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.querySelector('[data-value=X]')?.textContent === '21');
  await page.reload();
  await until(page, byId('registers'), /at start/);
});

test('registers and cells of thirty-two bits stand apart, and nothing runs out of their panels', async () => {
  const page = await harness.open('/api/health');
  const program = await page.evaluate(
    async (machine, text) => {
      const post = async (path: string, body: object): Promise<{ id: string; revision: number }> => {
        const answer = await fetch(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
        return (await answer.json()) as { id: string; revision: number };
      };
      const { id, revision } = await post('/api/machines', { name: 'Whinchat', text: machine });
      await post(`/api/machines/${id}/versions`, { revision });
      return (await post('/api/programs', { name: 'wide values', text, machine: id })).id;
    },
    readFileSync(join(__dirname, '../core/src/testing/machines/whinchat.yaml'), 'utf8'),
    '  ADD R2, R0, #-6\n  MULS R10, R2, R2\n  SUB R10, R2, R10\n  PUSH R10\n  STOP\n',
  );
  await page.goto(`${harness.address}/bench/${program}`);
  await ready(page);
  for (let tick = 0; tick < 24; tick++) {
    await press(page, '.');
    const out = await page.$$eval('[data-testid=registers] tr > *', (all) => {
      const half = all[0]!.closest('table')!.getBoundingClientRect();
      return all
        .filter((each) => each.getBoundingClientRect().width > 0)
        .filter((each) => {
          const row = each.parentElement!.getBoundingClientRect();
          return each.getBoundingClientRect().right > row.right + 1 || row.right > half.right + 1;
        })
        .map((each) => each.parentElement!.textContent);
    });
    expect(out).toEqual([]);
    const close = await page.$$eval(
      '[data-testid=memory] tbody tr',
      (rows) =>
        rows.filter((row) => {
          const cells = [...row.querySelectorAll('td')].map((cell) => {
            const range = document.createRange();
            range.selectNodeContents(cell);
            return range.getBoundingClientRect();
          });
          return cells.some((each, at) => at > 0 && each.left - cells[at - 1]!.right < 6);
        }).length,
    );
    expect(close).toBe(0);
  }
  await until(page, byId('registers'), /R10FFFFFFD6/);
  await page.close();
});

test('what lies on the stack is told, what was taken off still shows, the line to come back to is marked', async () => {
  const page = await bench('over-the-sill');
  await rewrite(
    page,
    'start   LOAD  #7\n        PUSH\n        CALL  away\n        HALT\n        .routine away\n        INC\n        RET\n        .end\n',
  );
  await page.click(byId('load'));
  await ready(page);
  await page.keyboard.press('Escape');
  await page.click(byId('tool-calls'));
  await press(page, 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await until(page, byId('stack-S'), /0xEE05top, return address of away, to line 4/);
  await until(page, byId('stack-S'), /0xEF07/);
  await until(page, byId('calls'), /away called on line 3, comes back to line 4/);
  await page.waitForSelector('.cm-badge.returns');
  await press(page, 'ArrowRight', 'ArrowRight');
  await until(page, byId('stack-S'), /taken off, still there/);
  await until(page, byId('routines'), /away/);
  await page.click('[aria-label="Stop at away"]');
  await page.waitForSelector('[aria-label="Stop at away"][aria-pressed=true]');
});

test('a class says what the next step brings: agreement and difference are shown and counted; the calculator works it out', async () => {
  const page = await bench('quay-watch');
  await page.click(byId('tool-say'));
  await page.waitForSelector(byId('predict-choice'));
  for (const place of ['PC', 'ACC', 'N']) {
    await page.select(byId('predict-choice'), place);
    await page.waitForSelector(`[data-prediction=${place}]`);
  }
  await page.type('[data-prediction=PC] input', '2');
  await page.type('[data-prediction=ACC] input', '21');
  await until(page, '[data-prediction=ACC]', /is 0x21 = 33\. In decimal it would be 21\./);
  await page.type('[data-prediction=N] input', 'x');
  await until(page, '[data-prediction=N]', /“x” is no number/);
  await page.click('[data-prediction=N] input', { count: 3 });
  await page.type('[data-prediction=N] input', '1');
  await until(page, '[data-prediction=N]', /is/);
  await page.click(byId('predict-step'));
  await until(page, byId('say-first'), /Said right: 2 of 3/);
  await until(page, byId('judged'), /PC is 0x02, as said.*ACC is 0x9E; said was 21.*N is/);
  await page.type(byId('sum-a'), '9E');
  await page.type(byId('sum-b'), 'AB');
  await until(page, byId('sum'), /carried.*1001 1110.*1010 1011.*0100 10014973/);
  await until(page, byId('calculator'), /Exactly it is 329/);
  await page.click(`${byId('sum-double')} [data-part=control]`);
  await until(page, byId('sum'), /0000 0001 0100 10010149329/);
  await page.$$eval(`${byId('calculator')} button`, (all) => all.find((each) => each.textContent === 'ACC')?.click());
  await until(page, '[data-prediction=ACC]', /too|fit|0 to 255/);
  await page.click(`${byId('sum-double')} [data-part=control]`);
  await until(page, byId('sum'), /73/);
  await page.$$eval(`${byId('calculator')} button`, (all) => all.find((each) => each.textContent === 'ACC')?.click());
  await until(page, '[data-prediction=ACC]', /is 0x49 = 73/);
  await press(page, 'ArrowRight');
  await until(page, byId('say-first'), /Said right: 2 of 4/);
  expect((await registers(page)).ACC).toMatch(/C9/);
  expect(await textOf(page, byId('judged'))).toMatch(/^ACC is 0xC9; said was 0x49/);
});

test('everything is given in one place, and given once more after a start from the beginning', async () => {
  const page = await bench('quay-watch');
  await page.click(byId('tool-give'));
  await page.waitForSelector(byId('give-place'));
  const give = async (place: string, value: string): Promise<void> => {
    for (const [field, text] of [
      ['give-place', place],
      ['give-value', value],
    ] as const) {
      await page.click(byId(field), { count: 3 });
      await page.keyboard.type(text);
    }
    await page.keyboard.press('Enter');
  };
  await give('nowhere', '3');
  await until(page, byId('give-said'), /nowhere/);
  await give('X', '5');
  await until(page, byId('given-by-hand'), /X = 5 hex/);
  await give('level', '300');
  await until(page, byId('give-said'), /768 does not fit/);
  await page.select(byId('give-base'), '10');
  // The second value goes into the cell behind.
  await give('level', '33 44');
  await until(page, byId('given-by-hand'), /X = 5 hex.*level = 33 44 decimal/);
  await page.type(`${byId('give-queue')} input`, '7');
  await page.keyboard.press('Enter');
  await until(page, byId('queue'), /7/);
  const held = (): Promise<unknown> =>
    page.waitForFunction(
      () =>
        document.querySelector('[data-value=X]')?.textContent === '05' &&
        document.querySelector<HTMLInputElement>('[data-given=level] input')?.value === '0x21' &&
        document.querySelector<HTMLInputElement>('[data-given=rise] input')?.value === '44',
    );
  await held();
  await page.click(byId('load'));
  await page.waitForFunction(() => document.querySelector('[data-value=X]')?.textContent === '00');
  await page.click(byId('give-again'));
  await held();
});

test('a program is given what it declares, read in its base before it is taken; what it finds stands at every stop; literals tell their readings', async () => {
  const page = await bench('quay-watch');
  await until(page, '[data-found=over]', /nothing yet/);
  const where = await page.evaluate(() => {
    const line = [...document.querySelectorAll('.cm-line')].find((each) => each.textContent?.includes('= 0xC0'))!;
    const token = [...line.querySelectorAll('span')].find((each) => each.textContent?.includes('0xC0'))!;
    const { x, y } = token.getBoundingClientRect();
    return { x: x + 8, y: y + 8 };
  });
  await page.mouse.move(where.x - 60, where.y);
  await page.mouse.move(where.x, where.y, { steps: 4 });
  await until(page, '.word-help', /0xC0 = 192 = −64 signed = 1100 0000/);
  await page.click('[data-given=level] input', { count: 3 });
  await page.keyboard.type('21');
  await until(page, '[data-given=level]', /is 0x21 = 33\. In decimal it would be 21\./);
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.querySelector<HTMLInputElement>('[data-given=level] input')!.value === '0x21');
  await page.click('[data-given=rise] input', { count: 3 });
  await page.keyboard.type('300');
  await page.keyboard.press('Enter');
  await until(page, '[data-given=rise] .refused', /300/);
  await page.keyboard.press('Escape');
  await page.click(byId('entry'));
  await page.keyboard.type('5');
  await page.keyboard.press('Enter');
  await until(page, byId('queue'), /5/);
  await press(page, 'Escape');
  await page.select(byId('speed'), 'full');
  await press(page, 'Space');
  await until(page, byId('stop-sentence'), /Halted after 8 instructions.*1 of the 1 inputs was left over\./);
  // 33 + 43 − 192, round the byte.
  await until(page, '[data-found=over]', /140cm/);
});

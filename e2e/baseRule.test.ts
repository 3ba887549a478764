/** One rule for numbers on every field of the bench: unmarked ones in the base that stands beside the field, marked ones as marked; and how an entry is read is said before it is taken. */
import type { Page } from 'puppeteer-core';
import { byId, press, ready, sharedHarness, until } from './support';

const harness = sharedHarness();

interface Field {
  readonly name: string;
  /** The base that the field says. */
  readonly base: 10 | 16;
  /** Gives the selector of the field, once it is there. */
  readonly open: (page: Page) => Promise<string>;
  /** Where the reading stands. */
  readonly says: string;
}

/** On Curlew, whose panels are hex; its queue and the program's own numbers are decimal. */
const FIELDS: readonly Field[] = [
  {
    ...{ name: 'a register', base: 16, says: byId('place-reading') },
    open: async (page) => {
      await page.evaluate(() =>
        [...document.querySelectorAll<HTMLElement>(`[data-testid=registers] th button`)]
          .find((each) => each.textContent === 'ACC')!
          .click(),
      );
      return byId('place-value');
    },
  },
  {
    ...{ name: 'the queue', base: 10, says: byId('reading') },
    open: async () => byId('entry'),
  },
  {
    ...{ name: 'a prediction', base: 16, says: '[data-prediction=level] [role=status]' },
    open: async (page) => {
      await page.click(byId('tool-say'));
      await page.type(byId('predict-place'), 'level');
      await page.keyboard.press('Enter');
      return '[data-prediction=level] input';
    },
  },
  {
    ...{ name: 'any place that is given a value', base: 16, says: byId('give-said') },
    open: async (page) => {
      await page.click(byId('tool-give'));
      await page.waitForSelector(byId('give-place'));
      await page.type(byId('give-place'), 'rise');
      return byId('give-value');
    },
  },
  {
    ...{ name: 'what the program is given, in the base that it declares', base: 10, says: '[data-given=rise]' },
    open: async () => '[data-given=rise] input',
  },
];

const readings = (text: string, base: number): RegExp => {
  const marked = /^0[xbd]/.test(text);
  const value = marked ? { x: 16, b: 2, d: 10 }[text[1] as 'x' | 'b' | 'd'] : base;
  const number = parseInt(marked ? text.slice(2) : text, value);
  return new RegExp(
    `0x${number.toString(16).toUpperCase().padStart(2, '0')} = ${number}\\b${marked ? '' : `.*In ${base === 10 ? 'hex' : 'decimal'} it would be`}`,
  );
};

test.each(FIELDS)('$name: $base', async ({ base, open, says }) => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  const field = await open(page);
  await page.waitForSelector(field);
  for (const text of ['21', '0x21', '0b101', '0d33']) {
    await page.focus(field);
    await page.$eval(field, (each) => (each as HTMLInputElement).select());
    await page.keyboard.type(text);
    await until(page, says, readings(text, base));
  }
});

test('bits of a value are turned by a press, and the fields of a register have their names', async () => {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await press(page, 'ArrowRight');
  await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>(`[data-testid=registers] th button`)].find((each) => each.textContent === 'IR')!.click(),
  );
  await until(page, byId('bits'), /op.*low/);
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => !document.querySelector('[data-testid=place-menu]'));
  await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>(`[data-testid=registers] th button`)].find((each) => each.textContent === 'ACC')!.click(),
  );
  await page.waitForSelector('[data-bit="0"]');
  await page.click('[data-bit="0"]');
  await page.waitForSelector('[data-bit="0"][aria-pressed=true]');
  await page.waitForFunction(() => document.querySelector('[data-value=ACC]')?.textContent === '9F');
  await page.click('[data-bit="7"]');
  await page.waitForFunction(() => document.querySelector('[data-value=ACC]')?.textContent === '1F');
});

test('a packed word stands bit by bit under the names of its flags, fixed ones grey', async () => {
  const page = await harness.open('/bench/highest-of-five');
  await ready(page);
  const bits = () =>
    page.$$eval('[data-packed=SR] span', (list) =>
      list.map((each) => `${each.textContent!.trim()}${each.className === 'fixed' ? '' : '!'}`),
    );
  expect((await bits()).slice(-5)).toEqual(['0', 'N0!', 'Z0!', 'C0!', 'V0!']);
  await press(page, 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await page.waitForFunction(() => document.querySelector('[data-packed=SR]')?.textContent?.includes('Z1'));
});

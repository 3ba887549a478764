/** A run of a million instructions as a strip and as a list: how soon they stand there, and how they scroll. */
import type { Page } from 'puppeteer-core';
import { loadProgram, press, ready, startHarness } from '../e2e/support';

const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);

/** Loops in loops: a little over a million instructions. */
const MILLION = `start LOAD #0
more INC
 STORE kept
 JUMPNZ more
 LOAD rounds
 INC
 STORE rounds
 JUMPNZ start
 LOAD third
 INC
 STORE third
 CMP #6
 JUMPNZ start
 HALT
kept .room 1
rounds .cells 0
third .cells 0`;

const frames = (page: Page, selector: string, by: number): Promise<number[]> =>
  page.$eval(
    selector,
    async (room, step) => {
      const times: number[] = [];
      let last = performance.now();
      for (let at = 0; at < 180; at++) {
        room.scrollTop += step;
        await new Promise((resolve) => requestAnimationFrame(resolve));
        const now = performance.now();
        times.push(now - last);
        last = now;
      }
      return times.slice(5).sort((a, b) => a - b);
    },
    by,
  );

const harness = await startHarness();
try {
  const page = await harness.open('/bench/quay-watch');
  await ready(page);
  await loadProgram(page, MILLION);
  await page.select('[data-testid=speed]', 'full');
  await page.click('[data-testid=tool-stops]');
  await press(page, 'Space');
  await page.waitForFunction(() => /Halted/.test(document.querySelector('[data-testid=status]')?.textContent ?? ''), { timeout: 60_000 });
  say('the run', await page.$eval('[data-testid=status]', (each) => each.textContent ?? ''));
  const opened = await page.evaluate(async () => {
    const from = performance.now();
    document.querySelector<HTMLElement>('[data-testid=tool-wake]')!.click();
    while (!document.querySelector('[data-testid=so-far-canvas][data-drawn^="0:"]')) await new Promise((resolve) => setTimeout(resolve, 2));
    return performance.now() - from;
  });
  say('opened in the run so far', `${opened.toFixed(0)} ms, aim 300`);
  const listed = await page.evaluate(async () => {
    const from = performance.now();
    document.querySelector<HTMLElement>('[data-testid=so-far-look] label:nth-of-type(2)')!.click();
    while (!document.querySelector('[data-instruction] .address')) await new Promise((resolve) => setTimeout(resolve, 2));
    return performance.now() - from;
  });
  say('opened as a list', `${listed.toFixed(0)} ms`);
  const times = await frames(page, '[data-testid=so-far-list]', 150);
  say('the list scrolled, frame', `median ${times[87]!.toFixed(1)} ms, worst ${times.at(-1)!.toFixed(1)} ms, aim 33`);
} finally {
  await harness.close();
}

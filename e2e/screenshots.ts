/** Makes docs/screenshots from the demo data: one picture of each main view. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, chooseSpeed, press, ready, startHarness, until } from './support';

const folder = join(process.env.ZETTAK_ROOT ?? process.cwd(), 'docs/screenshots');
mkdirSync(folder, { recursive: true });
const harness = await startHarness();

async function shoot(page: Page, name: string): Promise<void> {
  await page.evaluate(() => document.fonts.ready);
  await new Promise((resolve) => setTimeout(resolve, 250));
  await page.screenshot({ path: `${folder}/${name}.png` as `${string}.png` });
}

try {
  const bench = await harness.open('/bench/quay-watch');
  await ready(bench);
  await press(bench, 'ArrowRight', '.', '.', '.', '.', '.', '.', '.', '.');
  await until(bench, byId('ticks'), /^16$/);
  await shoot(bench, 'bench');

  const waiting = await harness.open('/bench/highest-water');
  await ready(waiting);
  await chooseSpeed(waiting, 'full');
  await press(waiting, 'Space');
  await until(waiting, byId('waiting'), /wants a number/);
  await waiting.keyboard.type('120');
  await waiting.keyboard.press('Enter');
  await until(waiting, byId('output'), /level\? level\?/);
  await until(waiting, byId('waiting'), /wants a number/);
  await waiting.keyboard.type('0x9E');
  await until(waiting, byId('reading'), /158/);
  await shoot(waiting, 'bench-waiting');

  const gannet = await harness.open('/bench/highest-of-five');
  await ready(gannet);
  for (let count = 0; count < 42; count++) await press(gannet, 'ArrowRight');
  await press(gannet, '.', '.', '.', '.', '.');
  await until(gannet, byId('sentence'), /system\.keep3/);
  await shoot(gannet, 'bench-gannet');

  const running = await harness.open('/bench/mean-level');
  await ready(running);
  await press(running, 'r');
  await running.waitForSelector(byId('stop-text'));
  await running.type(byId('stop-text'), 'high');
  await running.click(byId('stop-add'));
  await running.select(byId('stop-kind'), 'condition');
  await running.type(byId('stop-text'), 'X = 3');
  await running.click(byId('stop-add'));
  await running.waitForSelector('[data-stop="when this begins to hold X = 3"]');
  await running.type('[data-stop="when this begins to hold X = 3"] input.value', 'M[low]');
  await chooseSpeed(running, 'full');
  await press(running, 'Space');
  await until(running, byId('stop-sentence'), /high went from 0x00/);
  await press(running, 'Space');
  await until(running, byId('stop-sentence'), /high went from 0x01/);
  await shoot(running, 'bench-running');

  const value = await harness.open('/bench/over-the-sill');
  await ready(value);
  for (let count = 0; count < 7; count++) await press(value, 'ArrowRight');
  await value.click(`${byId('memory')} td[title^="noon,"]`);
  await until(value, byId('place-menu'), /noon/);
  await shoot(value, 'bench-value');

  const devices = await harness.open('/bench/harbour-log');
  await ready(devices);
  await press(devices, 'r');
  await devices.waitForSelector(byId('tool-devices'));
  await devices.click(byId('tool-devices'));
  await devices.type(byId('script'), 'keys is not ready until 30 reads, then as it is\ninput "ebb"');
  await devices.click(byId('use-script'));
  await chooseSpeed(devices, 'full');
  await press(devices, 'Space');
  await until(devices, byId('status'), /Idle: polling keys/);
  await press(devices, 'Space');
  await until(devices, byId('status'), /Paused/);
  await shoot(devices, 'bench-devices');

  const writing = await harness.open('/bench/mean-level');
  await ready(writing);
  await writing.click(byId('write'));
  await until(writing, '.tool', /LOAD address/);
  await writing.focus('.program .cm-content');
  for (let line = 1; line < 9; line++) await writing.keyboard.press('ArrowDown');
  await shoot(writing, 'bench-writing');

  const shelf = await harness.open('/machines');
  await shelf.waitForFunction(() => document.querySelectorAll('[data-card] svg[role=img]').length === 4);
  await shoot(shelf, 'machines');
  const start = await harness.open('/machines/new');
  await start.waitForSelector(byId('make'));
  await shoot(start, 'machine-start');
  const machine = await harness.open('/machines/curlew');
  await machine.waitForSelector('[data-part="instructions / ADD"]');
  await machine.click('[data-part="instructions / ADD"]');
  await machine.waitForSelector('[data-form="2"]');
  await machine.click('[data-form="2"]');
  await until(machine, byId('cases'), /each flag once 0 and once 1/);
  await machine.$eval(byId('part-editor'), (each) => each.scrollTo(0, 300));
  await shoot(machine, 'machine');
  const card = await harness.open('/machines/gannet/card');
  await until(card, byId('card'), /sayNumber/);
  await shoot(card, 'card');
} finally {
  await harness.close();
}

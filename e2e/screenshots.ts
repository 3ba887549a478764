/** Makes docs/screenshots from the demo data: one picture of each main view. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { byId, chooseSpeed, editorText, press, ready, rewrite, startHarness, until } from './support';

const folder = join(process.env.ZETTAK_ROOT ?? process.cwd(), 'docs/screenshots');
mkdirSync(folder, { recursive: true });
const harness = await startHarness();

async function shoot(page: Page, name: string): Promise<void> {
  await page.evaluate(() => document.fonts.ready);
  await new Promise((resolve) => setTimeout(resolve, 250));
  await page.screenshot({ path: `${folder}/${name}.png` as `${string}.png` });
}

try {
  const shelf = await harness.open('/programs');
  await shelf.waitForSelector('[data-card=foghorn]');
  await shelf.waitForFunction(() => document.querySelectorAll('[data-card] svg[role=img]').length >= 13);
  await shoot(shelf, 'programs');

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
  await shoot(running, 'bench-stops');

  const fault = await harness.open('/bench/over-the-sill');
  await ready(fault);
  const text = (await editorText(fault)).replace(/^\s*HALT.*$/gm, '');
  await rewrite(fault, text);
  await fault.click(byId('load'));
  await fault.waitForFunction(() => !document.querySelector('[data-testid=older]'));
  await fault.keyboard.press('Escape');
  await chooseSpeed(fault, 'full');
  await press(fault, 'Space');
  await until(fault, byId('status'), /Stopped/);
  await press(fault, 'r');
  await fault.waitForSelector(byId('wake'));
  await shoot(fault, 'bench-fault');

  const room = await harness.open('/bench/mean-level');
  await ready(room);
  await room.click('[aria-label="Night colours"]');
  for (let count = 0; count < 7; count++) await press(room, 'ArrowRight');
  await press(room, '.', '.', '.', '.', '.', '.', '.', '.', 'p');
  await room.waitForSelector(byId('projector'));
  // Nothing is pointed at.
  await room.mouse.move(640, 300);
  await shoot(room, 'bench-projector');
  await room.click(byId('leave-projector'));
  await room.click('[aria-label="Day colours"]');

  const dunlin = await harness.open('/bench/decimal-levels');
  await ready(dunlin);
  for (let count = 0; count < 9; count++) await press(dunlin, 'ArrowRight');
  await press(dunlin, '.', '.', '.', '.');
  // A window on its data, each of its banks behind the other.
  await dunlin.click(byId('tool-memory'));
  await dunlin.waitForSelector(byId('cells'));
  await dunlin.select(byId('window-space'), '1');
  await until(dunlin, byId('cells'), /1:00/);
  await shoot(dunlin, 'bench-dunlin');

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
  const clash = await harness.open('/machines/plover');
  await clash.waitForSelector('[data-part="instructions / WRITE"]');
  await clash.click('[data-part="instructions / WRITE"]');
  await clash.waitForSelector('[data-fixed=detail]');
  await clash.click('[data-fixed=detail]', { count: 3 });
  await clash.keyboard.type('100');
  await until(clash, byId('machine-problems'), /9100 means two things/);
  await clash.click('.grid .clash');
  await until(clash, byId('decoded'), /means/);
  await shoot(clash, 'machine-clash');
  const trials = await harness.open('/trials/highest-water');
  await trials.waitForSelector('[data-set="falling"]');
  await trials.focus('[data-cell="2:2"]');
  await trials.keyboard.press('Backspace');
  await trials.$eval('[data-cell="2:2"]', (field) => (field as HTMLInputElement).select());
  await trials.keyboard.type('60');
  await trials.keyboard.press('Enter');
  await trials.click(byId('run-all'));
  await until(trials, byId('summary'), /4 of 5 hold/);
  await trials.click('[data-set="falling"] .verdict');
  await until(trials, byId('row-said'), /expected 60/);
  await trials.click(byId('look-reached'));
  await until(trials, byId('never-tried'), /never 1/);
  await trials.$eval(byId('set-room'), (room) => room.scrollTo(0, 0));
  await shoot(trials, 'trials');
  const parted = await harness.open('/trials/falling-water');
  await parted.waitForSelector('[data-set="risen"]');
  await parted.click(byId('run-all'));
  await until(parted, byId('summary'), /3 of 3 hold/);
  await parted.click('[data-set="risen"] .verdict');
  await parted.select(byId('beside'), 'set fallen');
  await parted.waitForSelector(byId('parting'));
  await shoot(parted, 'trials-part');
  const sheet = await harness.open('/trials/highest-water/sheet');
  await sheet.waitForSelector(byId('flow'));
  await sheet.$eval('[data-sheet-part=flow]', (each) => each.scrollIntoView());
  await shoot(sheet, 'sheet');

  const atClass = await harness.open('/class/quay-count');
  await atClass.waitForSelector('[data-group="base 96 0x96"]', { timeout: 60_000 });
  await atClass.waitForFunction(() => !document.querySelector('[data-testid=left]'), { timeout: 60_000 });
  await atClass.click('[data-hand-in="bench 03"]');
  await until(atClass, byId('mistake'), /JUMPC in place of JUMPN/);
  await atClass.waitForSelector('.hand-in-text .here');
  await shoot(atClass, 'class');
  await atClass.click('[data-group="base 96 0x96"]');
  await until(atClass, byId('counts'), /^3 of 24/);
  await until(atClass, byId('mistake'), /0x96 in place of 96/);
  await atClass.type(byId('remark'), 'Which number is 96 here, and which is meant? Look at how the bench shows line 3.');
  await atClass.waitForSelector('.hand-in-text .here');
  await shoot(atClass, 'class-group');
  const token = await atClass.evaluate(async () => {
    const headers = { 'x-zettak': '1' };
    return ((await (await fetch('/api/assignments/quay-count/link', { method: 'POST', headers })).json()) as { token: string }).token;
  });
  const task = await harness.open(`/w/quay-count#${token}`, { apart: true });
  await task.waitForSelector(byId('task'));
  await task.type(byId('work-label'), 'bench 25');
  await task.click(byId('try-shown'));
  await until(task, byId('shown-sets'), /✗/);
  await task.click(byId('hand-in'));
  await until(task, byId('receipts'), /bench 25/);
  await shoot(task, 'class-student');

  const shared = await harness.open('/bench/quay-watch');
  await ready(shared);
  await shared.click(byId('program-actions'));
  await shared.waitForSelector(byId('program-actions-share'), { visible: true });
  await shared.click(byId('program-actions-share'));
  await shared.waitForSelector(byId('share-link'));
  const link = await shared.$eval(byId('share-link'), (field) => (field as HTMLInputElement).value);
  const follower = await harness.open(link.slice(harness.address.length), { apart: true });
  await until(follower, byId('follow-bar'), /follows/);
  for (let done = 0; done < 4; done++) await press(shared, 'ArrowRight');
  await until(shared, byId('status'), /tick \d+ of \d+, CMP/);
  await until(follower, byId('status'), /tick \d+ of \d+, CMP/);
  await shoot(follower, 'class-follow');

  const card = await harness.open('/machines/gannet/card');
  await until(card, byId('card'), /sayNumber/);
  await shoot(card, 'card');
} finally {
  await harness.close();
}

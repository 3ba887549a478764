/** In the browser: from key press to fresh listing, and the size of what a page loads. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import type { Page } from 'puppeteer-core';
import { startHarness, ready, rewrite } from '../e2e/support';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);

const scripts = readdirSync(join(root, 'web/dist/assets')).filter((each) => each.endsWith('.js'));
const gzipped = (names: string[]): number =>
  names.reduce((sum, each) => sum + gzipSync(readFileSync(join(root, 'web/dist/assets', each))).length, 0);
const isWorker = (name: string): boolean => name.includes('worker');
say('JavaScript of the page, gzipped', `${(gzipped(scripts.filter((each) => !isWorker(each))) / 1000).toFixed(0)} kB`);
say('JavaScript of the worker, gzipped', `${(gzipped(scripts.filter(isWorker)) / 1000).toFixed(0)} kB`);

/** Milliseconds of the page's thread for each of so many rounds. */
async function costOf(page: Page, rounds: number, act: () => Promise<void>): Promise<string> {
  const before = await page.metrics();
  await act();
  const after = await page.metrics();
  const of = (key: 'TaskDuration' | 'ScriptDuration' | 'LayoutDuration' | 'RecalcStyleDuration'): string =>
    ((((after[key] ?? 0) - (before[key] ?? 0)) * 1000) / rounds).toFixed(1);
  return `${of('TaskDuration')} ms in all, script ${of('ScriptDuration')}, layout ${of('LayoutDuration')}, style ${of('RecalcStyleDuration')}`;
}

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly pid: number;
  readonly tid: number;
  readonly ts: number;
  readonly dur?: number;
  readonly args?: { readonly name?: string };
}

/** Ms from the key that asks for a pause, as the browser stamps it, to the picture that says so. */
async function pauseAnswered(page: Page): Promise<number> {
  const answered = await page.evaluateHandle(() => {
    const answer = new Promise<number>((resolve) => {
      const status = document.querySelector('[data-testid=status]')!;
      let asked = 0;
      addEventListener('keydown', ({ timeStamp }) => (asked = timeStamp), { capture: true, once: true });
      const observer = new MutationObserver(() => {
        if (asked === 0 || !/Paused/.test(status.textContent)) return;
        observer.disconnect();
        requestAnimationFrame(() => setTimeout(() => resolve(performance.now() - asked)));
      });
      observer.observe(status, { subtree: true, childList: true, characterData: true });
    });
    return { answer };
  });
  await page.keyboard.press('Space');
  return await answered.evaluate(({ answer }) => answer);
}

/** Tasks of the busiest page in a trace. */
function tasksOfPage(events: readonly TraceEvent[]): TraceEvent[] {
  const tasks = events.filter((each) => each.ph === 'X' && each.name.endsWith('RunTask'));
  const mains = events.filter((each) => each.name === 'thread_name' && each.args?.name === 'CrRendererMain');
  const busy = (each: TraceEvent): number =>
    tasks.filter(({ pid, tid }) => pid === each.pid && tid === each.tid).reduce((sum, { dur = 0 }) => sum + dur, 0);
  const main = mains.toSorted((a, b) => busy(b) - busy(a))[0]!;
  return tasks.filter((each) => each.pid === main.pid && each.tid === main.tid);
}

/** What a free run costs the page's thread, in ms for each picture: the middle and the worst of a hundred. */
async function freeRun(page: Page, speed: string, seconds: number): Promise<string> {
  await page.select('[data-testid=speed]', speed);
  await page.keyboard.press('Space');
  await pause(1000);
  await page.tracing.start({ categories: ['toplevel'] });
  await pause(seconds * 1000);
  const trace = JSON.parse(Buffer.from((await page.tracing.stop())!).toString()) as { traceEvents: TraceEvent[] };
  const paused = await pauseAnswered(page);
  const own = tasksOfPage(trace.traceEvents);
  const begin = Math.min(...own.map((each) => each.ts));
  const rate = Math.min(30, speed === 'full' ? 30 : Number(speed));
  const pictures = new Map<number, number>();
  for (const { ts, dur = 0 } of own) {
    const at = Math.floor(((ts - begin) / 1e6) * rate);
    pictures.set(at, (pictures.get(at) ?? 0) + dur / 1000);
  }
  const sorted = [...pictures.values()].sort((a, b) => a - b);
  const { JSHeapUsedSize = 0 } = await page.metrics();
  const of = (share: number): string => sorted[Math.floor((sorted.length - 1) * share)]!.toFixed(1);
  return `median ${of(0.5)} ms, 99th of a hundred ${of(0.99)}; pause answered in ${paused.toFixed(0)} ms; heap ${(JSHeapUsedSize / 1e6).toFixed(0)} MB`;
}

const STEPS = 40;

/** What leaps through all cells cost the page's thread, in ms for each: the middle of them, and all that a step takes on the average. */
async function scrollThrough(page: Page): Promise<string> {
  await page.tracing.start({ categories: ['toplevel', 'blink.user_timing'] });
  await page.evaluate(async (steps) => {
    const cells = document.querySelector('[data-testid=cells]')!;
    for (let step = 1; step <= steps; step++) {
      performance.mark('leap');
      cells.scrollTop = (cells.scrollHeight / steps) * step;
      await new Promise((resolve) => requestAnimationFrame(resolve));
    }
    performance.mark('leap');
  }, STEPS);
  const { traceEvents } = JSON.parse(Buffer.from((await page.tracing.stop())!).toString()) as { traceEvents: TraceEvent[] };
  const leaps = traceEvents.filter((each) => each.name === 'leap').map((each) => each.ts);
  const own = tasksOfPage(traceEvents);
  const costs = leaps
    .slice(1)
    .map((to, at) => own.reduce((sum, { ts, dur = 0 }) => sum + Math.max(0, Math.min(ts + dur, to) - Math.max(ts, leaps[at]!)) / 1000, 0));
  const sorted = costs.toSorted((a, b) => a - b);
  const mean = costs.reduce((sum, each) => sum + each, 0) / costs.length;
  return `median ${sorted[Math.floor(sorted.length / 2)]!.toFixed(1)} ms, mean ${mean.toFixed(1)} ms`;
}

/** From Enter to the cell being told, in ms. */
async function foundIn(page: Page): Promise<number> {
  await page.type('[data-testid=go-to]', 'FFF0');
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => /^0xFFF0/.test(document.querySelector('[data-testid=cell-told]')?.textContent ?? ''));
  await page.focus('.cells table');
  await page.keyboard.type('BEEF');
  await page.keyboard.press('Enter');
  await page.click('[data-testid=go-to]', { count: 3 });
  await page.keyboard.type('0');
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => /^0x0000/.test(document.querySelector('[data-testid=cell-told]')?.textContent ?? ''));
  await page.type('[data-testid=find]', 'BEEF');
  return page.evaluate(async () => {
    const told = document.querySelector('[data-testid=cell-told]')!;
    const found = new Promise<number>((resolve) => {
      const start = performance.now();
      new MutationObserver((_, observer) => {
        if (!/^0xFFF0/.test(document.querySelector('[data-testid=cell-told]')?.textContent ?? '')) return;
        observer.disconnect();
        resolve(performance.now() - start);
      }).observe(told.parentElement!, { subtree: true, childList: true, characterData: true });
    });
    document.querySelector<HTMLInputElement>('[data-testid=find]')!.form!.requestSubmit();
    return found;
  });
}

const ENDLESS = `start   PUT   R1, #0
again   ADD   R1, R1, #1
        ADD   R2, R1, R2
        STORE R2, [R4 + 0]
        LOAD  R3, [R4 + 0]
        JUMP  again
`;

const harness = await startHarness();
try {
  for (const program of ['quay-watch', 'highest-of-five', 'two-gates']) {
    const page = await harness.open(`/bench/${program}`, { motion: true });
    await ready(page);
    say(`${program}: the bench is ready, since the page began`, `${(await page.evaluate(() => performance.now())).toFixed(0)} ms`);
    await page.keyboard.press('ArrowRight');
    await pause(1000);
    const stepped = await costOf(page, 12, async () => {
      for (let tick = 0; tick < 12; tick++) {
        await page.keyboard.press('.');
        await pause(750);
      }
    });
    say(`${program}: a stepped tick with its movement`, stepped);
    await page.emulateMediaFeatures([{ name: 'prefers-reduced-motion', value: 'reduce' }]);
    const still = await costOf(page, 12, async () => {
      for (let tick = 0; tick < 12; tick++) {
        await page.keyboard.press(tick % 2 === 0 ? ',' : '.');
        await pause(300);
      }
    });
    say(`${program}: a stepped tick without movement`, still);
    await page.close();
  }
  const free = await harness.open('/bench/two-gates');
  await ready(free);
  await rewrite(free, ENDLESS);
  await free.click('[data-testid=load]');
  await ready(free);
  await free.keyboard.press('Escape');
  for (const speed of ['6', '12', '30', '60', 'full'])
    say(`free running, ${speed} ticks a second: a picture`, await freeRun(free, speed, Number(process.env.ZETTAK_SPEED_SECONDS ?? 4)));
  await free.click('[data-testid=tool-memory]');
  await free.waitForSelector('[data-testid=cells]');
  await free.select('[data-testid=follow]', 'writes');
  await free.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  say('a window on 65,536 cells follows a run of 30 ticks a second', await freeRun(free, '30', 4));
  say('65,536 cells scrolled through, a leap of 1,638', await scrollThrough(free));
  say('a value found at the far end of 65,536 cells', `${(await foundIn(free)).toFixed(1)} ms`);
  await free.close();
  const page = await harness.open('/bench/two-gates');
  await ready(page);
  // A program that fills 1,000 lines: routines with calls and loops, 30 in 100 lines blank or remark.
  const lines = ['start   CALL  work0', '        HALT'];
  for (let turn = 0; lines.length < 985; turn++) {
    lines.push(
      `; routine ${turn}`,
      '',
      `        .routine work${turn}`,
      '        PUSH  R5',
      `        PUT   R1, #${turn % 30}`,
      'again   ADD   R1, R1, #-1',
    );
    lines.push('        JUMPNZ again', `        CALL  work${turn + 1}`, '        POP   R5', '        RET', '        .end', '');
    lines.push('; and so on');
  }
  const last = lines.filter((each) => each.includes('.routine')).length;
  lines.push(`        .routine work${last}`, '        RET', '        .end');
  while (lines.length < 1000) lines.push('; the end');
  await rewrite(page, lines.join('\n'));
  await page.waitForFunction(() => /\d{3} cells used/.test(document.querySelector('[data-testid=facts]')?.textContent ?? ''));
  await page.keyboard.down('Control');
  await page.keyboard.press('Home');
  await page.keyboard.up('Control');
  const times = await page.evaluate(async () => {
    const content = document.querySelector<HTMLElement>('.cm-content')!;
    const found: number[] = [];
    for (let turn = 0; turn < 25; turn++) {
      const words = document.querySelector('.cm-words')!;
      const before = words.textContent;
      const start = performance.now();
      const fresh = new Promise<number>((resolve) => {
        const observer = new MutationObserver(() => {
          if (document.querySelector('.cm-words')!.textContent === before) return;
          observer.disconnect();
          resolve(performance.now() - start);
        });
        observer.observe(document.querySelector('.cm-gutters')!, { subtree: true, childList: true, characterData: true });
      });
      content.focus();
      document.execCommand('insertText', false, turn % 2 === 0 ? ' ADD R1, R1, #1\n' : ' RET\n');
      found.push(await Promise.race([fresh, new Promise<number>((resolve) => setTimeout(() => resolve(-1), 2000))]));
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
    return found.sort((a, b) => a - b);
  });
  if (times.includes(-1)) throw new Error('A listing never became fresh');
  say(
    'key press to fresh listing and problems, 1,000 lines',
    `median ${times[12]!.toFixed(1)} ms, worst of 25 ${times[24]!.toFixed(1)} ms`,
  );
} finally {
  await harness.close();
}

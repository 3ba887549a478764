/** In the browser: from a key press in a machine of 200 instructions to everything fresh, against the same in a machine of 20. */
import type { KeyInput, Page } from 'puppeteer-core';
import { byId, startHarness } from '../e2e/support';

const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);

/** A machine of so many instructions, all of one shape. */
function machineOf(count: number): string {
  const instructions = Array.from(
    { length: count },
    (_, at) => `  OP${at}:
    title: instruction number ${at} of many
    family: family ${at % 8}
    forms:
      - write: OP${at} {address}
        code: place opcode=${at + 1}
        execute: |
          MAR <- address
          MDR <- M[MAR]
          ACC <- ACC + MDR + ${at} ; flags Z N C V
`,
  );
  return `machine: Many${count}
word: {bits: 16}
spaces:
  M: {title: memory, cells: 4096}
registers:
  PC:  {role: program counter, bits: 12}
  IR:  {role: instruction}
  MAR: {role: memory address, bits: 12}
  MDR: {role: memory data}
  ACC: {role: accumulator}
flags:
  Z: {rule: zero}
  N: {rule: negative}
  C: {rule: carry}
  V: {rule: overflow}
formats:
  place: opcode 8, address 8
cycle:
  phases: [Fetch, Decode, Execute]
  first:
    phase: Fetch
    ticks: |
      MAR <- PC
      IR.cell <- M[MAR], PC <- PC + 1
  decode: {phase: Decode}
  execute: {phase: Execute}
instructions:
${instructions.join('')}`;
}

/** Milliseconds from each of some key presses until map, problems and the trial are those of the new text. */
async function presses(page: Page, selector: string, keys: readonly KeyInput[]): Promise<number[]> {
  await page.click(selector);
  await page.keyboard.press('End');
  await page.evaluate(() => {
    const held = window as unknown as { pressed: number };
    window.addEventListener('keydown', (event) => (held.pressed = event.timeStamp), { capture: true });
  });
  const times: number[] = [];
  for (const key of keys) {
    await page.keyboard.press(key);
    times.push(
      await page.evaluate(
        () =>
          new Promise<number>((resolve) => {
            const look = (): void => {
              const fresh = document.querySelector('[data-testid=findings]')?.getAttribute('aria-busy') === 'false';
              if (fresh && document.querySelector('[data-part-editor]') !== null)
                resolve(performance.now() - (window as unknown as { pressed: number }).pressed);
              else setTimeout(look, 1);
            };
            look();
          }),
      ),
    );
  }
  return times;
}

const shown = (times: readonly number[]): string => {
  const sorted = [...times].sort((a, b) => a - b);
  return `median ${sorted[sorted.length >> 1]?.toFixed(0)} ms, longest ${sorted.at(-1)?.toFixed(0)} ms`;
};

const harness = await startHarness();
try {
  for (const count of [20, 200]) {
    const page = await harness.open('/api/health');
    await page.evaluate(
      (text, name) =>
        fetch('/api/machines', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ name, text }) }),
      machineOf(count),
      `Many${count}`,
    );
    await page.goto(`${harness.address}/machines/many${count}`);
    const opened = await page.evaluate(() => performance.now());
    await page.waitForSelector('[data-part="instructions / OP10"]');
    await page.waitForSelector(`${byId('opcode-map')} [data-cell]`);
    say(
      `${count} instructions: the screen stands, after load`,
      `${(await page.evaluate((from) => performance.now() - from, opened)).toFixed(0)} ms`,
    );
    await page.click('[data-part="instructions / OP10"]');
    await page.waitForSelector(byId('try-it'));
    say(
      `${count} instructions: a key in a title`,
      shown(await presses(page, '[data-part-editor] [data-field=title]', [...'abcdefghijklmnopqrstuvwxyzabcdefghijklmn'] as KeyInput[])),
    );
    say(
      `${count} instructions: a key in a tick`,
      shown(
        await presses(
          page,
          '[data-testid=ticks-execute] .cm-line:last-child',
          Array.from({ length: 40 }, (_, at): KeyInput => (at % 2 === 0 ? '1' : 'Backspace')),
        ),
      ),
    );
    await page.close();
  }
} finally {
  await harness.close();
}

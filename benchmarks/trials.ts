/** Many sets of one program against the same instructions with no trial around them; and the table in the browser. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { assemble } from '@zettak/core/assembler/assemble';
import { readWholeMachine } from '@zettak/core/assembler/machines';
import { CompiledRun, UNGUARDED } from '@zettak/core/engine/compile/compiled';
import { createState, loadProgram } from '@zettak/core/engine/meaning/state';
import { Judge } from '@zettak/core/trials/judge/run';
import { emptySet, NO_SETS, writeTable, type TrialSet } from '@zettak/core/trials/sets/table';
import { startHarness } from '../e2e/support';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);
const middle = (list: readonly number[]): number => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!;

// ---- sets a second ----

/** About 10,000 instructions on each machine: a counting loop in a counting loop. */
const LOOPS: readonly { readonly machine: string; readonly source: string; readonly place: string }[] = [
  {
    machine: 'curlew',
    place: 'rounds',
    source:
      'start LOAD #0\nmore INC\n STORE kept\n CMP #250\n JUMPNZ more\n LOAD rounds\n SUB #1\n STORE rounds\n JUMPNZ start\n HALT\nkept .room 1\nrounds .cells 10\n',
  },
  {
    machine: 'gannet',
    place: 'rounds',
    source:
      'start LOAD R2, rounds\nmore ADD R1, R1, #1\n ADD R1, R1, #1\n ADD R1, R1, #1\n ADD R2, R2, #-1\n JUMPNZ more\n HALT\nrounds .cells 2000\n',
  },
];
const SETS = 1000;

function measure({ machine: name, source, place }: (typeof LOOPS)[number]): void {
  const { machine } = readWholeMachine(readFileSync(join(root, `demo/machines/${name}.yaml`), 'utf8'));
  const { program, problems } = assemble(machine!, source);
  if (!machine || !program) throw new Error(problems[0]?.sentence ?? 'no machine');
  const given = program.cells.find((each) =>
    program.symbols.some((symbol) => symbol.name === place && symbol.value === each.address),
  )!.value;
  const sets = Array.from({ length: SETS }, (_, at): TrialSet => ({
    ...{ ...emptySet(`set ${at}`), given: [{ place, text: String(given) }] },
    expected: [
      { place, text: 'any' },
      { place: 'ticks', text: 'any' },
    ],
  }));
  // As many instructions without a trial: one long run of the same loop, in leaps of the length of a set.
  const plain = (instructions: number): number => {
    const state = createState(machine);
    loadProgram(machine, state, program);
    const endless = assemble(machine, source.replace(' HALT', ' JUMP start')).program!;
    loadProgram(machine, state, endless);
    const run = CompiledRun.for(machine)!;
    run.attach(state);
    run.guard(UNGUARDED);
    state.marks.forEach((each) => each.fill(2));
    run.leap({ ticks: 1e9, instructions: 1000, depth: -1 });
    const from = performance.now();
    for (let left = instructions; left > 0;) {
      const before = state.control.instructions;
      if (run.leap({ ticks: 1e9, instructions: Math.min(left, 10_000), depth: -1 }) === 0) throw new Error('the loop cannot be leapt');
      left -= state.control.instructions - before;
    }
    return performance.now() - from;
  };
  const ratios: number[] = [];
  const speeds: number[] = [];
  for (let round = 0; round < 7; round++) {
    const judge = new Judge({ machine, program, table: { ...NO_SETS, sets } });
    const from = performance.now();
    const rows = sets.map((each) => judge.row(each));
    const took = performance.now() - from;
    const instructions = rows.reduce((sum, each) => sum + each.instructions, 0);
    if (rows.some((each) => each.verdict !== 'holds')) throw new Error(`a set does not hold: ${rows[0]!.ending}`);
    ratios.push(plain(instructions) / took);
    speeds.push((SETS / took) * 1000);
    if (round === 0) say(`${machine.name}: instructions of a set`, String(rows[0]!.instructions));
  }
  say(`${machine.name}: sets a second, assembled once`, middle(speeds).toFixed(0));
  say(`${machine.name}: the same instructions alone, to ${SETS} sets`, `${middle(ratios).toFixed(2)}, aim at least 0.70`);
}
LOOPS.forEach(measure);

// ---- the table ----

async function inBrowser(): Promise<void> {
  const harness = await startHarness();
  const tableOf = (count: number): string =>
    writeTable({
      ...{ ...NO_SETS },
      sets: Array.from({ length: count }, (_, at) => ({
        ...{ ...emptySet(`set ${at}`), purpose: 'to be scrolled by' },
        given: ['level', 'rise', 'ACC'].map((place) => ({ place, text: String(at % 200) })),
        expected: ['later', 'over', 'C'].map((place) => ({ place, text: 'any' })),
      })),
    });
  const page = await harness.open('/trials/quay-watch');
  const fill = async (count: number): Promise<void> => {
    await page.evaluate(async (text) => {
      const list = (await (await fetch('/api/trials')).json()) as { id: string; program: string; revision: number }[];
      const own = list.find((each) => each.program === 'quay-watch')!;
      await fetch(`/api/trials/${own.id}/draft`, {
        ...{ method: 'PUT', headers: { 'content-type': 'application/json' } },
        body: JSON.stringify({ text, revision: own.revision }),
      });
    }, tableOf(count));
    await page.reload();
    await page.waitForSelector('[data-set="set 3"]');
    await page.click('[data-testid=run-all]');
    await page.waitForFunction(
      (all) => document.querySelector('[data-testid=summary]')?.textContent?.includes(`of ${all} hold`),
      { timeout: 60_000 },
      count,
    );
  };
  await fill(200);
  await page.focus('[data-cell="2:1"]');
  const painted = await page.evaluate(async () => {
    const field = document.activeElement as HTMLInputElement;
    const times: number[] = [];
    const setter = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!;
    for (let key = 0; key < 60; key++) {
      const from = performance.now();
      setter.call(field, String(key));
      field.dispatchEvent(new Event('input', { bubbles: true }));
      await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
      times.push(performance.now() - from);
    }
    return times;
  });
  say('key press in a table of 200 sets, to painted', `median ${middle(painted).toFixed(1)} ms, aim 50`);
  await fill(2000);
  const frames = await page.evaluate(async () => {
    const room = document.querySelector('[data-testid=set-room]')!;
    const times: number[] = [];
    let last = performance.now();
    for (let at = 0; at < 240; at++) {
      room.scrollTop += 180;
      await new Promise((resolve) => requestAnimationFrame(resolve));
      const now = performance.now();
      times.push(now - last);
      last = now;
    }
    return times.slice(5);
  });
  say(
    'a table of 2,000 rows scrolled, frame',
    `median ${middle(frames).toFixed(1)} ms, worst ${Math.max(...frames).toFixed(1)} ms, aim 33`,
  );
  await harness.close();
}
await inBrowser();

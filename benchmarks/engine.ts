/** Tick executor and assembler, each beside a calibration loop of the same run. */
import { assemble } from '@zettak/core/assembler/assemble';
import { TickExecutor } from '@zettak/core/engine/meaning/interpret';
import { Runner } from '@zettak/core/engine/control/runner';
import { createState, loadProgram } from '@zettak/core/engine/meaning/state';
import { readWholeMachine } from '@zettak/core/assembler/machines';
import { parseDocument } from 'yaml';
import { coldReading, curlew, curlewText, gannetText, longProgram, LOOP, programFor, runByHand, wide } from './machines';

/** Median seconds of several runs. */
function time(act: () => void, runs = 5): number {
  const seconds = Array.from({ length: runs }, () => {
    const start = performance.now();
    act();
    return (performance.now() - start) / 1000;
  });
  return seconds.sort((a, b) => a - b)[runs >> 1]!;
}

/** Plain integer work, to compare computers by: steps a second. */
function calibrate(): number {
  const steps = 50_000_000;
  let sum = 0;
  const seconds = time(() => {
    sum += mix(steps);
  });
  if (sum === 0) throw new Error('The calibration loop was left out');
  return steps / seconds;
}

function mix(steps: number): number {
  let x = 1;
  for (let step = 0; step < steps; step++) x = (Math.imul(x, 1_103_515_245) + 12_345) | 0;
  return x;
}

const millions = (rate: number): string => `${(rate / 1e6).toFixed(2)} million/s`;
const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);

const calibration = calibrate();
say('calibration loop', millions(calibration));

const program = programFor(curlew, LOOP);
const ticks = 2_000_000;

const state = createState(curlew);
loadProgram(curlew, state, program);
const executor = new TickExecutor(curlew, state);
const silent =
  ticks /
  time(() => {
    for (let tick = 0; tick < ticks; tick++) executor.tick();
  });
say('tick executor, reports off', `${millions(silent)} ticks, ${(silent / calibration).toFixed(4)} of calibration`);

const runner = new Runner(curlew, program);
const told = 200_000;
const reported =
  told /
  time(() => {
    for (let tick = 0; tick < told; tick++) runner.tick();
  });
say('tick executor, reports and change records on', `${millions(reported)} ticks, ${(reported / calibration).toFixed(4)} of calibration`);

const image = new Array<number>(256).fill(0);
for (const { address, value } of program.cells) image[address] = value;
let check = 0;
const hand =
  20_000_000 /
  time(() => {
    check += runByHand(image, 20_000_000).check;
  });
say('hand-written switch interpreter, the same machine', `${millions(hand)} ticks, ${(hand / silent).toFixed(1)} times the executor`);
if (check === 0) throw new Error('The hand-written machine did nothing');

// The first presses of a key meet an assembler that the engine below has not made fast yet; a class hour meets the other.
for (const [lines, warming, runs] of [
  [1000, 0, 5],
  [1000, 100, 25],
  [50_000, 5, 15],
] as const) {
  const source = longProgram(lines);
  const problems = assemble(wide, source).problems.filter((each) => each.grade !== 'remark');
  if (problems.length > 0) throw new Error(`${problems[0]!.line}: ${problems[0]!.sentence}`);
  for (let turn = 0; turn < warming; turn++) assemble(wide, source);
  const assembling = time(() => void assemble(wide, source), runs);
  const splitting = time(() => void source.split('\n').map((each) => each.trim().split(/\s+/)), 25);
  say(
    `assembling ${lines.toLocaleString('en-US')} lines, all checks, ${warming > 0 ? 'warm' : 'cold'}`,
    `${(assembling * 1000).toFixed(1)} ms, ${Math.round(lines / assembling).toLocaleString('en-US')} lines/s, ${(assembling / splitting).toFixed(1)} times splitting it into words`,
  );
}

/** Reading, checking and resolving, system program included, beside parsing the same YAML and nothing else. */
function reading(name: string, text: string): void {
  const whole = time(() => void readWholeMachine(text), 25);
  const parsing = time(() => void parseDocument(text, { schema: 'failsafe' }), 25);
  say(`reading and checking ${name}, warm`, `${(whole * 1000).toFixed(1)} ms, ${(whole / parsing).toFixed(1)} times parsing its YAML`);
}

say('reading and checking Curlew, cold', `${coldReading.toFixed(0)} ms`);
reading('Curlew', curlewText);
reading('Gannet', gannetText);

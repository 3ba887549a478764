/** Long runs: the compiled executor beside the same machines written by hand in JavaScript and in C, and travelling in time. */
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { execFileSync } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compile } from '@zettak/core/engine/compile/compile';
import { PLAIN } from '@zettak/core/engine/compile/compiled';
import { readWatched } from '@zettak/core/engine/watch/conditions';
import { found } from '@zettak/core/engine/timeline/search';
import { Runner } from '@zettak/core/engine/control/runner';
import { readWholeMachine } from '@zettak/core/assembler/machines';
import type { Machine } from '@zettak/core/machine/model/machine';
import { runGannetByHand } from './byHand';
import { curlew, gannetText, LOOP, programFor, runByHand } from './machines';

const TICKS = 200_000_000;
const root = process.env.ZETTAK_ROOT ?? process.cwd();
const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);
const seconds = (act: () => void): number => {
  const from = performance.now();
  act();
  return (performance.now() - from) / 1000;
};
const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]!;

const gannet = readWholeMachine(gannetText).machine!;

const COUNT = `again LOAD n\n ADD #1\n STORE n\n CMP limit\n JUMPNZ again\n JUMP again\n .origin 0x80\nn .cells 0\nlimit .cells 77`;
const SHIFT = `start LOAD #255\nagain SHR\n JUMPNZ again\n JUMP start`;
const SUM = `start ADD R5, R0, #31
 ADD R1, R4, #0
next LOAD R2, [R1 + 0]
 ADD R3, R3, R2
 ADD R3, R3, #5
 STORE R3, [R1 + 1]
 ADD R1, R1, #1
 ADD R5, R5, #-1
 JUMPNZ next
 JUMP start`;

const CASES: readonly (readonly [name: string, machine: Machine, source: string])[] = [
  ['calls and flags', curlew, LOOP],
  ['counting in memory', curlew, COUNT],
  ['shifting', curlew, SHIFT],
  ['sums over a table', gannet, SUM],
];

/** The C program, or undefined where there is no compiler. */
function compiledC(): string | undefined {
  const out = join(mkdtempSync(join(tmpdir(), 'zettak-')), 'hand');
  try {
    execFileSync('cc', ['-O2', '-o', out, join(root, 'benchmarks/hand.c')]);
    return out;
  } catch {
    return undefined;
  }
}
const inC = compiledC();
if (!inC) say('C', 'no compiler here: left out');

const rate = (value: number): string => `${(value / 1e6).toFixed(0)} million ticks/s`;

function longRun(machine: Machine, source: string, prepare: (runner: Runner) => void = () => undefined): number {
  const runner = new Runner(machine, programFor(machine, source));
  prepare(runner);
  runner.begin();
  runner.run(20_000_000);
  if (runner.timeline.leaper.longRuns !== 'compiled') throw new Error('The compiled executor did not run');
  return TICKS / median([1, 2, 3].map(() => seconds(() => void runner.run(TICKS))));
}

for (const [name, machine, source] of CASES) {
  const program = programFor(machine, source);
  const cells: number[] = [];
  for (const part of program.system ? [program.system, program] : [program])
    for (const { address, value } of part.cells) cells[address] = value;
  const image = Array.from({ length: cells.length }, (_, at) => cells[at] ?? 0);
  const compiled = longRun(machine, source);
  const byHand = machine === curlew ? runByHand : runGannetByHand;
  byHand(image, 20_000_000);
  const hand = TICKS / median([1, 2, 3].map(() => seconds(() => void byHand(image, TICKS))));
  const c =
    inC &&
    median(
      [1, 2, 3].map(() =>
        Number(
          execFileSync(inC, [machine.name, String(TICKS * 4)], { input: image.map((value, at) => `${at} ${value}`).join('\n') })
            .toString()
            .split(' ')[0],
        ),
      ),
    );
  say(`${machine.name}, ${name}: compiled`, rate(compiled));
  say('  beside JavaScript by hand', `${rate(hand)}, ${(compiled / hand).toFixed(2)} times (aim 1.5)`);
  if (c) say('  beside C by hand, cc -O2', `${rate(c)}, ${(compiled / c).toFixed(2)} times (aim 0.5)`);
  const watched = longRun(machine, source, (runner) => {
    runner.breakpoints = [
      { id: 1, enabled: true, ignore: 0, on: { kind: 'address', address: machine === curlew ? 0xf8 : 0x8000 } },
      {
        id: 2,
        enabled: true,
        ignore: 0,
        on: { kind: 'change', place: { kind: 'cell', space: 0, address: machine === curlew ? 0xf9 : 0x8001 } },
      },
      { id: 3, enabled: true, ignore: 0, on: { kind: 'read', space: 0, address: machine === curlew ? 0xfa : 0x8002 } },
    ];
  });
  const counted = longRun(machine, source, (runner) => runner.count());
  say('  with breakpoints and watches', `${(compiled / watched).toFixed(2)} times slower (aim 1.3)`);
  const text = machine === curlew ? '(ACC = 7) & (M[0xF9] = 3)' : '(R3 = 7) & (M[0x8001] = 3)';
  const asked = longRun(machine, source, (runner) => {
    const condition = readWatched(machine, undefined, text);
    if ('refused' in condition) throw new Error(condition.refused.code);
    runner.breakpoints = [{ id: 1, enabled: true, ignore: 0, on: { kind: 'condition', condition } }];
  });
  say('  with a condition at every boundary', `${(compiled / asked).toFixed(2)} times slower (aim 1.3)`);
  say('  with counts', `${(compiled / counted).toFixed(2)} times slower (aim 2.5)`);
}

for (const machine of [curlew, gannet]) {
  const first = seconds(() => void compile(machine, PLAIN));
  const warm = median([1, 2, 3, 4, 5].map(() => seconds(() => void compile(machine, PLAIN))));
  const { bytes } = compile(machine, PLAIN)!;
  const host = (globalThis as unknown as { WebAssembly: { Module: new (bytes: Uint8Array) => object } }).WebAssembly;
  const making = median([1, 2, 3, 4, 5].map(() => seconds(() => void new host.Module(bytes))));
  say(
    `compiling ${machine.name}`,
    `${(first * 1000).toFixed(1)} ms cold, ${(warm * 1000).toFixed(1)} ms warm, and ${(making * 1000).toFixed(1)} ms for its module (aim 20)`,
  );
}

/** Counts a cell for ever in two bytes, so that nothing repeats soon; keeps a cell that was written once, at the start. */
const WALK = `start LOAD #7\n STORE once\nagain LOAD n\n INC\n STORE n\n JUMPNZ again\n LOAD m\n INC\n STORE m\n JUMPNZ again\n LOAD o\n INC\n STORE o\n JUMP again\n .origin 0x80\nn .cells 0\nm .cells 0\no .cells 0\nonce .cells 0`;

/** What is held is measured after everything that nobody holds is gone. */
setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

for (const instructions of [1e4, 1e6, 1e7]) {
  collect();
  const before = process.memoryUsage();
  const runner = new Runner(curlew, programFor(curlew, WALK));
  runner.begin();
  const ran = seconds(() => {
    while (runner.state.control.instructions < instructions) if (runner.run(500_000)) break;
  });
  collect();
  const after = process.memoryUsage();
  let x = 12_345;
  const jumps = Array.from({ length: 25 }, () => {
    x = (Math.imul(x, 1_103_515_245) + 12_345) >>> 0;
    const target = Math.floor((x / 2 ** 32) * runner.timeline.furthest);
    return seconds(() => runner.timeline.travel(target)) * 1000;
  });
  runner.timeline.travel(runner.timeline.furthest);
  const cell = (name: string) =>
    ({ kind: 'cell', space: 0, address: runner.program.symbols.find((each) => each.name === name)!.value }) as const;
  const ask = (name: string): number => {
    const place = cell(name);
    return seconds(() => {
      const tick = found(runner.timeline.searchBack({ kind: 'write', place }));
      if (tick === undefined) throw new Error(`${name} was never written`);
    });
  };
  const held = (after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers) / 1e6;
  say(
    `a run of ${instructions.toExponential(0)} instructions`,
    `${(ran * 1000).toFixed(0)} ms, ${held.toFixed(1)} MB more after collection than before (aim 64)`,
  );
  say('  travelling anywhere in it', `median ${median(jumps).toFixed(1)} ms, worst ${Math.max(...jumps).toFixed(1)} ms (aim 100)`);
  say(
    '  when was this cell last written',
    `${(ask('n') * 1000).toFixed(0)} ms lately, ${(ask('once') * 1000).toFixed(0)} ms at the start of the run (aim 1,000)`,
  );
}

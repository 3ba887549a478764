/** A class against the engine alone: many hand-ins checked by the server, many drafts saved at once, and what the server holds. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { assemble } from '@zettak/core/assembler/assemble';
import { readWholeMachine } from '@zettak/core/assembler/machines';
import { Judge } from '@zettak/core/trials/judge/run';
import { emptySet, NO_SETS, writeTable, type TrialSet } from '@zettak/core/trials/sets/table';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(64)} ${figure}\n`);
const at = (list: readonly number[], part: number): number =>
  list.toSorted((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * part))]!;
const folder = mkdtempSync(join(tmpdir(), 'zettak-class-'));

/** About 10,000 instructions: a counting loop in a counting loop. */
const RIGHT = `start LOAD #0
more INC
 STORE kept
 CMP #250
 JUMPNZ more
 LOAD rounds
 SUB #1
 STORE rounds
 JUMPNZ start
 LOAD kept
 STORE found
 HALT
kept .room 1
rounds .cells 10
found .room 1
`;
const ROUNDS = 10;
const SETS = Array.from({ length: 10 }, (_, index): TrialSet => ({
  ...emptySet(`set ${index + 1}`),
  given: [{ place: 'rounds', text: String(ROUNDS) }],
  expected: [{ place: 'found', text: '250' }],
  hidden: index > 4,
}));
const SETS_TEXT = writeTable({ ...NO_SETS, base: 10, sets: SETS });
const COUNT = 300;

/** Of a class: most are right, each in words of its own; some made a mistake. */
function handIn(index: number): string {
  const own = RIGHT.replaceAll('more', `more${index}`);
  switch (index % 10) {
    case 7:
      return own.replace('CMP #250', 'CMP #25');
    case 8:
      return own.replace('LOAD kept\n STORE found', 'LOAD rounds\n STORE found');
    case 9:
      return own.replace(' HALT\n', index % 20 === 9 ? '' : ' HULT\n');
    default:
      return own;
  }
}

interface Running {
  readonly child: ChildProcess;
  readonly address: string;
}

function started(name: string): Promise<Running> {
  const env = { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: join(folder, `${name}.sqlite`), PORT: '0' };
  const child = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  return new Promise((resolve) =>
    child.stdout!.on('data', (chunk: Buffer) => {
      const address = /http:\/\/\S+/.exec(chunk.toString())?.[0];
      if (address) resolve({ child, address });
    }),
  );
}

const memory = ({ child }: Running): number => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))![1]) / 1024;

async function ask<T>(
  { address }: Running,
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<T> {
  const response = await fetch(address + path, {
    method,
    headers: { 'content-type': 'application/json', ...headers },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
  const text = await response.text();
  return (text === '' ? undefined : JSON.parse(text)) as T;
}

async function assignmentOn(server: Running): Promise<string> {
  const machine = (await ask<{ id: string; name: string }[]>(server, 'GET', '/api/machines')).find((each) => each.name === 'Curlew')!;
  const program = await ask<{ id: string }>(server, 'POST', '/api/programs', { name: 'loops', text: RIGHT, machine: machine.id });
  await ask(server, 'POST', '/api/trials', { name: 'loops', text: SETS_TEXT, program: program.id });
  const course = await ask<{ id: string }>(server, 'POST', '/api/courses', { name: 'Measured' });
  return (await ask<{ id: string }>(server, 'POST', '/api/assignments', { course: course.id, name: 'Loops', program: program.id })).id;
}

async function untilVerdicts(server: Running, assignment: string): Promise<void> {
  for (;;) {
    const { rows } = await ask<{ rows: { checked?: unknown }[] }>(server, 'GET', `/api/assignments/${assignment}/matrix`);
    if (rows.every((each) => each.checked !== undefined)) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

async function untilChecked(server: Running, assignment: string): Promise<void> {
  for (;;) {
    const { progress } = await ask<{ progress: { waiting: number } }>(server, 'GET', `/api/assignments/${assignment}/matrix`);
    if (progress.waiting === 0) return;
    await new Promise((resolve) => setTimeout(resolve, 300));
  }
}

/** The same programs on the same sets with nothing around them, on one thread. */
function engineAlone(): number {
  const { machine } = readWholeMachine(readFileSync(join(root, 'demo/machines/curlew.yaml'), 'utf8'));
  const table = { ...NO_SETS, base: 10 as const, sets: SETS };
  const programs = Array.from({ length: COUNT }, (_, index) => assemble(machine!, handIn(index)).program).filter(
    (each) => each !== undefined,
  );
  const from = performance.now();
  for (const program of programs) {
    const judge = new Judge({ machine: machine!, program, table });
    for (const set of SETS) judge.row(set);
  }
  return performance.now() - from;
}

async function checking(server: Running): Promise<string> {
  const assignment = await assignmentOn(server);
  await untilChecked(server, 'quay-count');
  const entries = Array.from({ length: COUNT }, (_, index) => ({ label: `bench ${index + 1}`, text: handIn(index) }));
  const from = performance.now();
  await ask(server, 'POST', `/api/assignments/${assignment}/hand-ins`, { entries });
  await untilVerdicts(server, assignment);
  const first = performance.now() - from;
  await untilChecked(server, assignment);
  const second = performance.now() - from;
  const alone = engineAlone();
  say(
    `${COUNT} hand-ins × ${SETS.length} trials of 10,000 instructions, checked`,
    `verdicts ${(first / 1000).toFixed(2)} s (aim 5), with reasons ${(second / 1000).toFixed(2)} s`,
  );
  say('  the same trials with nothing around them, one thread', `${(alone / 1000).toFixed(2)} s; ratio ${(first / alone).toFixed(2)}`);
  return assignment;
}

const STUDENTS = 200;
const SECONDS = 12;
/** ms between two ticks of the shared bench. */
const TICK_EVERY = 250;

async function saving(server: Running, assignment: string): Promise<void> {
  const { token } = await ask<{ token: string }>(server, 'POST', `/api/assignments/${assignment}/link`);
  const times: number[] = [];
  let failed = 0;
  const leaving = new AbortController();
  const share = await ask<{ token: string }>(server, 'POST', '/api/share');
  const behind: number[] = [];
  let told = 0;
  const sentAt: number[] = [];
  const followers = Array.from({ length: STUDENTS }, async () => {
    const headers = { 'x-zettak-link': share.token };
    const response = await fetch(`${server.address}/api/work/follow/events`, { headers, signal: leaving.signal });
    for await (const chunk of response.body!)
      for (const [, tick] of Buffer.from(chunk as Uint8Array)
        .toString()
        .matchAll(/"tick":(\d+)/g)) {
        told++;
        const sent = sentAt[Number(tick)];
        if (sent !== undefined) behind.push(performance.now() - sent);
      }
  });
  await new Promise((resolve) => setTimeout(resolve, 1500));
  const until = performance.now() + SECONDS * 1000;
  const student = async (index: number): Promise<void> => {
    const headers = { 'x-zettak-link': token, 'x-zettak-student': `student-number-${String(index).padStart(8, '0')}` };
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 2000));
    while (performance.now() < until) {
      const from = performance.now();
      await ask(server, 'PUT', '/api/work/draft', { content: `${RIGHT}; ${from}` }, headers).catch(() => failed++);
      times.push(performance.now() - from);
      await new Promise((resolve) => setTimeout(resolve, 2000 - (performance.now() - from)));
    }
  };
  const teacher = async (): Promise<void> => {
    for (let tick = 1; performance.now() < until; tick++) {
      sentAt[tick] = performance.now();
      await ask(server, 'PUT', '/api/share', { tick }).catch(() => failed++);
      await new Promise((resolve) => setTimeout(resolve, TICK_EVERY));
    }
  };
  await Promise.all([teacher(), ...Array.from({ length: STUDENTS }, (_, index) => student(index))]);
  leaving.abort();
  await Promise.allSettled(followers);
  say(
    `${STUDENTS} drafts saved every 2 s, ${STUDENTS} pages following (${times.length} saves)`,
    `p50 ${at(times, 0.5).toFixed(1)} ms, p99 ${at(times, 0.99).toFixed(1)} ms (aim 100), ${failed} failed`,
  );
  say(
    `  a tick of the shared bench, four a second, at ${STUDENTS} pages (${told} told)`,
    `p50 ${at(behind, 0.5).toFixed(1)} ms, p99 ${at(behind, 0.99).toFixed(1)} ms`,
  );
}

async function holding(server: Running, assignment: string): Promise<void> {
  const before = memory(server);
  for (let from = 0; from < 9_600; from += 400) {
    const entries = Array.from({ length: 400 }, (_, index) => ({ label: `desk ${from + index}`, text: handIn(from + index) }));
    await ask(server, 'POST', `/api/assignments/${assignment}/hand-ins`, { entries });
  }
  await ask(server, 'DELETE', `/api/assignments/${assignment}/checks`);
  await untilChecked(server, assignment);
  const from = performance.now();
  await ask(server, 'GET', `/api/assignments/${assignment}/matrix`);
  const looked = performance.now() - from;
  say(
    'memory of the server after 10,000 hand-ins',
    `${memory(server).toFixed(0)} MB (before ${before.toFixed(0)}); the matrix ${looked.toFixed(0)} ms`,
  );
}

const server = await started('class');
const assignment = await checking(server);
await saving(server, assignment);
await holding(server, assignment);
server.child.kill();
rmSync(folder, { recursive: true, force: true });

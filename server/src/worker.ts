/**
 * Checks hand-ins for a server on this computer or another. What `zettak worker` starts. Names of checks come from the
 * queue, texts from the server; what came of a check goes to the server, again and again until it has it.
 */
import { Worker, type Job } from 'bullmq';
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import type { TicketEntry, WorkerWelcome } from '@zettak/api/worker';
import { isToken } from './access/tokens';
import { BUILD_HEADER, buildOf, OTHER_BUILD } from './checking/build';
import { queueAddress } from './checking/queueAddress';
import { startThreads, type Outcome } from './checking/threads';
import { join } from 'node:path';

function stop(sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}
const say = (sentence: string): void => void process.stdout.write(`${sentence}\n`);
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

const server = process.env.ZETTAK_SERVER ?? 'http://localhost:4870';
const token = process.env.ZETTAK_WORKER_TOKEN;
if (!URL.canParse(server)) stop(`“${server}” is no address of a server; it is like http://localhost:4870.`);
if (!isToken(token)) stop('ZETTAK_WORKER_TOKEN is to be the token that the server has: 22 to 64 letters, digits, “-” and “_”.');
if (!process.env.ZETTAK_QUEUE) stop('ZETTAK_QUEUE is to be the address of the queue that the server has, like redis://localhost:6379.');
const address = queueAddress(process.env.ZETTAK_QUEUE);
if ('wrong' in address) stop(address.wrong);
const wanted = process.env.ZETTAK_THREADS ?? '2';
if (!/^[1-9]\d?$/.test(wanted)) stop(`“${wanted}” threads: 1 to 99 are possible.`);
const build = buildOf(import.meta.dirname);

/** A server that refuses: trying again does not help. */
class Refused extends Error {
  constructor(
    readonly status: number,
    sentence: string,
  ) {
    super(sentence);
  }
}

/** Throws Refused where the server says no, and something else where it does not answer. */
async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  const response = await fetch(new URL(`/api/worker${path}`, server), {
    method,
    headers: { authorization: `Bearer ${token}`, [BUILD_HEADER]: build, 'content-type': 'application/json' },
    ...(body !== undefined && { body: JSON.stringify(body) }),
    signal: AbortSignal.timeout(20_000),
  });
  if (response.ok) return (await response.json()) as T;
  const { detail } = (await response.json().catch(() => ({}))) as { detail?: string };
  if (response.status >= 500 || response.status === 429) throw new Error(detail ?? `The server answered ${response.status}.`);
  throw new Refused(response.status, detail ?? `The server answered ${response.status}.`);
}

/** ms between tries, growing. */
const LONGEST_PAUSE = 5_000;

/** Asks until there is an answer; Refused ends it. */
async function untilAnswered<T>(act: () => Promise<T>): Promise<T> {
  let told = false;
  for (let wait = 200; ; wait = Math.min(LONGEST_PAUSE, wait * 2)) {
    try {
      const answer = await act();
      if (told) say(`${server} answers again.`);
      return answer;
    } catch (error) {
      if (error instanceof Refused) throw error;
      if (!told && wait > 800) {
        say(`${server} does not answer; trying again.`);
        told = true;
      }
      await pause(wait);
    }
  }
}

const MOST_KEPT = 8;
const texts = new Map<string, Promise<AssignmentTexts>>();

function textsOf(key: string): Promise<AssignmentTexts> {
  const known = texts.get(key);
  if (known) return known;
  const asked = untilAnswered(() => ask<AssignmentTexts>('GET', `/texts/${key}`));
  asked.catch(() => texts.delete(key));
  if (texts.size >= MOST_KEPT) texts.delete(texts.keys().next().value!);
  texts.set(key, asked);
  return asked;
}

const threads = startThreads({
  worker: join(import.meta.dirname, 'checkHandIn.js'),
  count: Number(wanted),
  lost: () => say('A check has ended its thread.'),
});

async function done({ data: ticket, id: entry }: Job<TicketEntry>): Promise<void> {
  try {
    const { source } = await untilAnswered(() => ask<{ source: string }>('POST', '/jobs', { ticket, entry }));
    const outcome: Outcome = await threads.check({
      ...{ key: ticket.key, texts: await textsOf(ticket.key), source, reasons: ticket.stage === 'reasons' },
    });
    await untilAnswered(() => ask('POST', '/verdicts', { ticket, outcome }));
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    // 410: done or called off meanwhile, which is no fault of anybody.
    if (error.status === 401 || error.status === 409) stop(error.message);
    if (error.status !== 410) say(`Hand-in ${ticket.handIn}: ${error.message}`);
  }
}

const welcome = await untilAnswered(() => ask<WorkerWelcome>('GET', '/')).catch((error: Error) => stop(error.message));
if (welcome.build !== build) stop(OTHER_BUILD);

const worker = new Worker<TicketEntry>(welcome.queue, done, {
  connection: { ...address, maxRetriesPerRequest: null },
  prefix: 'zettak',
  // One more than there are threads waits with its text at hand.
  concurrency: threads.count + 1,
  lockDuration: 10_000,
  stalledInterval: 5_000,
  maxStalledCount: 100,
  removeOnComplete: { count: 0 },
  removeOnFail: { count: 0 },
});
const state = { reached: true, ending: false };
worker.on('error', (error) => {
  if (state.reached && !state.ending) say(`The queue cannot be reached: ${error.message || 'no answer'}. Trying again.`);
  state.reached = false;
});
worker.on('ready', () => {
  if (!state.reached) say('The queue answers again.');
  state.reached = true;
});
say(`The worker is ready: checks for ${server}, with ${threads.count} thread${threads.count === 1 ? '' : 's'}.`);

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    if (state.ending) process.exit(1);
    state.ending = true;
    say('The worker ends when what it is at is done.');
    void worker
      .close()
      .then(() => threads.close())
      .finally(() => process.exit(0));
  });

/**
 * Checks of hand-ins on other computers: their names go through a queue (BullMQ over Redis), workers fetch the texts from
 * here and return what came of them. The rows of the database are the truth: what the queue loses is put into it again, and
 * what is told twice is written once.
 */
import { setTimeout } from 'node:timers/promises';
import { Queue } from 'bullmq';
import type { Logger } from 'pino';
import type { TicketEntry } from '@zettak/api/worker';
import type { CourseStore } from '../courses/store';
import type { HandInStore, Job, Ticket } from '../handIns/store';
import { HAS_CHANGED } from './givenUp';
import type { Jobs } from './jobs';
import type { QueueAddress } from './queueAddress';
import { Telling } from './telling';
import type { Outcome } from './threads';

/** What workers ask for. */
export interface Desk {
  readonly queue: string;
  /** Undefined where there is nothing to do any more. */
  begin(ticket: TicketEntry, entry: string): Job | undefined;
  /** Whether it was written; not where somebody else has told it already. */
  end(ticket: TicketEntry, outcome: Outcome): boolean;
}

export interface QueuedParts {
  readonly handIns: HandInStore;
  readonly courses: CourseStore;
  readonly log: Logger;
  readonly address: QueueAddress;
  /** Of this server alone, so that several can use one Redis. */
  readonly name: string;
}

/** ms after which a check that was begun and not ended waits again: longer than a worker takes for one, with some time for telling it. */
const LEASE = 150_000;
/** ms between two looks at what has become of things. */
const LOOK_EVERY = 2_000;
/** ms after which the queue is asked whether it still knows a check. */
const LOST = 5_000;
/** Checks that are in the queue at once, and ms after which one is put into it again. */
const MOST_SENT = 500;
const SENT_AGAIN = 30_000;
/** ms that the queue has to answer. */
const ANSWER = 3_000;
/** Of BullMQ: smaller is earlier. */
const PRIORITY: Readonly<Record<Ticket['stage'], number>> = { verdicts: 1, reasons: 2 };

/** Rejects where the queue does not answer soon. */
const within = async <T>(asked: Promise<T>): Promise<T> => {
  const silence = new AbortController();
  try {
    return await Promise.race([
      asked,
      setTimeout(ANSWER, undefined, { signal: silence.signal }).then(() => Promise.reject(new Error('the queue does not answer'))),
    ]);
  } finally {
    silence.abort();
  }
};

const nameOf = ({ handIn, key, stage }: TicketEntry): string => `${handIn}.${key}.${stage}`;

export function startQueuedJobs({ handIns, courses, log, address, name }: QueuedParts): Jobs & { readonly desk: Desk } {
  const queue = new Queue(name, {
    connection: { ...address, maxRetriesPerRequest: 1, enableOfflineQueue: false },
    prefix: 'zettak',
    defaultJobOptions: { removeOnComplete: true, removeOnFail: true },
  });
  /** By name, with the time: in the queue, and under way somewhere. */
  const sent = new Map<string, number>();
  const begun = new Map<string, { readonly at: number; readonly assignment: string; readonly entry?: string }>();
  const state = { closed: false, sending: false, again: false, looking: false, reached: true, hindrance: undefined as string | undefined };
  const telling = new Telling(handIns, () => state.hindrance);
  queue.on('error', (error) => {
    if (state.reached) log.warn({ error: error.message }, 'the queue cannot be reached; checks wait');
    state.reached = false;
  });

  /** Puts what waits into the queue; a name that is in it already is not put into it twice. */
  const send = async (): Promise<void> => {
    if (state.closed) return;
    if (state.sending) {
      state.again = true;
      return;
    }
    state.sending = true;
    try {
      do {
        state.again = false;
        const now = Date.now();
        for (const [each, at] of sent) if (now - at > SENT_AGAIN) sent.delete(each);
        const fresh = handIns.inState('waiting', MOST_SENT * 2).filter((each) => !sent.has(nameOf(each)));
        const chosen = fresh.slice(0, Math.max(0, MOST_SENT - sent.size));
        if (chosen.length === 0) break;
        await queue.addBulk(
          chosen.map(({ handIn, key, stage, tries }) => ({
            name: 'check',
            data: { handIn, key, stage },
            // One that comes back waits while its last try may still be in the queue under its own name.
            opts: { jobId: `${nameOf({ handIn, key, stage })}.${tries}`, priority: PRIORITY[stage] },
          })),
        );
        for (const each of chosen) sent.set(nameOf(each), now);
        state.reached = true;
      } while (state.again);
    } catch (error) {
      if (state.reached) log.warn({ error: (error as Error).message }, 'checks could not be put into the queue; they wait');
      state.reached = false;
    } finally {
      state.sending = false;
    }
  };

  /** Whether the queue knows nothing of an entry any more, though nobody has told what came of it. */
  const isGone = async (entry: string | undefined): Promise<boolean> =>
    entry !== undefined && (await queue.getJobState(entry).catch(() => undefined)) === 'unknown';

  /** Checks whose worker has not been heard of wait again. */
  const recall = async (): Promise<void> => {
    const now = Date.now();
    const running = handIns.inState('running', MOST_SENT * 2);
    const names = new Set(running.map(nameOf));
    for (const each of begun.keys()) if (!names.has(each)) begun.delete(each);
    for (const each of running) {
      const since = begun.get(nameOf(each));
      if (!since) begun.set(nameOf(each), { at: now, assignment: each.assignment });
      else if (now - since.at > LEASE || (now - since.at > LOST && (await isGone(since.entry)))) {
        handIns.release(each);
        begun.delete(nameOf(each));
      }
    }
  };

  const lookForWorkers = async (): Promise<void> => {
    const before = state.hindrance;
    try {
      const workers = await within(queue.getWorkersCount());
      state.reached = true;
      state.hindrance = workers > 0 ? undefined : 'No worker is there to check. Start one, on this computer or another: npx zettak worker';
    } catch {
      state.hindrance = 'The queue of checks (ZETTAK_QUEUE) cannot be reached. What has come in waits, and nothing is lost.';
    }
    if (state.hindrance !== before) telling.tellAll();
  };

  /** A queue that was emptied is filled again: an entry that is in it still is not put into it twice. */
  const refill = async (): Promise<void> => {
    if (sent.size === 0) return;
    const left = await queue.getJobCountByTypes('waiting', 'prioritized').catch(() => undefined);
    if (left === 0) sent.clear();
  };

  const look = async (): Promise<void> => {
    if (state.looking) return;
    state.looking = true;
    try {
      await lookForWorkers();
      await within(recall().then(refill).then(send));
    } catch (error) {
      if (state.reached) log.error({ error }, 'the state of the checks could not be looked at');
    } finally {
      state.looking = false;
    }
  };
  const looking = setInterval(() => void look(), LOOK_EVERY);
  void look();

  return {
    wake: () => void send(),
    progress: (assignment) => telling.progress(assignment),
    follow: (assignment, told) => telling.follow(assignment, told),
    desk: {
      queue: name,
      begin: (ticket, entry) => {
        const job = handIns.claimOne(ticket);
        sent.delete(nameOf(ticket));
        if (!job) return undefined;
        if (courses.texts(job.assignment).key !== job.key) {
          handIns.finish([{ ...ticket, sentence: HAS_CHANGED, again: false }]);
          return undefined;
        }
        begun.set(nameOf(ticket), { at: Date.now(), assignment: job.assignment, entry });
        return job;
      },
      end: (ticket, outcome) => {
        const written = handIns.finish([{ ...ticket, ...outcome }]) > 0;
        const known = begun.get(nameOf(ticket));
        begun.delete(nameOf(ticket));
        if (written && known) telling.tell(known.assignment);
        void send();
        return written;
      },
    },
    close: async () => {
      state.closed = true;
      clearInterval(looking);
      telling.close();
      await queue.close().catch(() => undefined);
    },
  };
}

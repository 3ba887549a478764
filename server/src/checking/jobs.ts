/**
 * Checks of hand-ins as jobs: rows of the database say what is to be done and what has come of it; threads do it. Nothing is
 * held here that a restart would lose.
 */
import { Piscina } from 'piscina';
import type { Logger } from 'pino';
import type { Progress } from '@zettak/api/matrix';
import type { CourseStore } from '../courses/store';
import type { Finished, HandInStore, Job } from '../handIns/store';
import type { HandInTask, HandInVerdict } from './checkHandIn';

export interface Jobs {
  /** There is something to do. */
  wake(): void;
  /** Told whenever something of an assignment has been checked; at most some times a second. Returns its undoing. */
  follow(assignment: string, told: (progress: Progress) => void): () => void;
  close(): Promise<void>;
}

export interface JobParts {
  readonly handIns: HandInStore;
  readonly courses: CourseStore;
  readonly log: Logger;
  /** The built file of `checkHandIn`. */
  readonly worker: string;
  readonly threads?: number;
  /** ms after which a check is given up. */
  readonly patience?: number;
}

const PATIENCE = 60_000;
/** ms between two tellings, and between two writings of what has been found. */
const TOLD_EVERY = 200;
const KEPT_EVERY = 40;
const MEGABYTES = 512;

/** Takes up what waits, begins with what an earlier server left, and goes on until it is closed. */
export function startJobs({ handIns, courses, log, worker, threads = 2, patience = PATIENCE }: JobParts): Jobs {
  const pool = new Piscina({
    ...{ filename: worker, minThreads: 0, maxThreads: threads, idleTimeout: 30_000 },
    resourceLimits: { maxOldGenerationSizeMb: MEGABYTES },
  });
  const followers = new Map<string, Set<(progress: Progress) => void>>();
  const changed = new Set<string>();
  const found: Finished[] = [];
  const state = {
    busy: 0,
    closed: false,
    again: false,
    keeping: undefined as NodeJS.Timeout | undefined,
    telling: undefined as NodeJS.Timeout | undefined,
  };

  const tell = (assignment: string): void => {
    changed.add(assignment);
    state.telling ??= setTimeout(() => {
      state.telling = undefined;
      for (const each of changed) {
        const own = followers.get(each);
        if (!own || own.size === 0) continue;
        try {
          const progress = handIns.progress(each);
          for (const told of own) told(progress);
        } catch {
          // It has been deleted meanwhile: nobody is told any more.
        }
      }
      changed.clear();
    }, TOLD_EVERY);
  };

  const keep = (): void => {
    clearTimeout(state.keeping);
    state.keeping = undefined;
    const kept = found.splice(0);
    if (kept.length === 0) return;
    try {
      handIns.finish(kept);
    } catch (error) {
      log.error({ error }, 'verdicts could not be kept; they are checked again after the next start');
    }
  };

  const one = async (job: Job): Promise<void> => {
    const done = await verdictOf(job);
    found.push(done);
    if (found.length >= 16) keep();
    else state.keeping ??= setTimeout(keep, KEPT_EVERY);
    tell(job.assignment);
  };

  const verdictOf = async ({ handIn, key, assignment, source, stage }: Job): Promise<Finished> => {
    const signal = AbortSignal.timeout(patience);
    try {
      const own = courses.texts(assignment);
      if (own.key !== key) return { handIn, key, sentence: 'The assignment has changed meanwhile.', again: false };
      const task: HandInTask = { ...own, source, reasons: stage === 'reasons' };
      const verdict = (await pool.run(task, { signal })) as HandInVerdict;
      return 'result' in verdict ? { handIn, key, result: verdict.result } : { handIn, key, sentence: verdict.wrong, again: false };
    } catch (error) {
      if (signal.aborted)
        return {
          handIn,
          key,
          sentence: `It was not checked after ${Math.round(patience / 1000)} seconds, so it is passed over.`,
          again: false,
        };
      log.warn({ error, handIn }, 'a check has ended its worker');
      return { handIn, key, sentence: 'Checking it has ended its worker again and again, so it is passed over.', again: true };
    }
  };

  const pump = (): void => {
    if (state.closed) return;
    const room = threads * 4 - state.busy;
    if (room <= 0) return;
    let jobs: Job[] = [];
    try {
      // What has been found and not kept yet counts as running: it is not taken twice.
      jobs = handIns.claim(room);
    } catch (error) {
      log.error({ error }, 'no checks could be taken up');
      setTimeout(pump, 1000).unref();
      return;
    }
    for (const job of jobs) {
      state.busy++;
      void one(job).finally(() => {
        state.busy--;
        if (state.busy === 0) keep();
        if (state.busy <= threads * 2) pump();
      });
    }
  };

  handIns.resume();
  pump();
  return {
    wake: pump,
    follow: (assignment, told) => {
      const own = followers.get(assignment) ?? new Set();
      followers.set(assignment, own);
      own.add(told);
      return () => {
        own.delete(told);
        if (own.size === 0) followers.delete(assignment);
      };
    },
    close: async () => {
      state.closed = true;
      keep();
      clearTimeout(state.telling);
      await pool.destroy();
    },
  };
}

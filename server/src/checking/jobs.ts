/**
 * Checks of hand-ins as jobs: rows of the database say what is to be done and what has come of it; threads of this process
 * do it. Nothing is held here that a restart would lose.
 */
import type { Logger } from 'pino';
import type { Progress } from '@zettak/api/matrix';
import type { CourseStore } from '../courses/store';
import type { Finished, HandInStore, Job } from '../handIns/store';
import { HAS_CHANGED } from './givenUp';
import { Telling } from './telling';
import { startThreads, type ThreadParts } from './threads';

export interface Jobs {
  /** There is something to do. */
  wake(): void;
  /** How far the checks of an assignment are. */
  progress(assignment: string): Progress;
  /** Told whenever something of an assignment has been checked; at most some times a second. Returns its undoing. */
  follow(assignment: string, told: (progress: Progress) => void): () => void;
  close(): Promise<void>;
}

export interface JobParts extends ThreadParts {
  readonly handIns: HandInStore;
  readonly courses: CourseStore;
  readonly log: Logger;
}

/** ms between two writings of what has been found, and how much is written at once. */
const KEPT_EVERY = 40;
const KEPT_AT_ONCE = 16;
/** ms until something is tried again that the database did not take. */
const AGAIN = 1000;

/** Takes up what waits, begins with what an earlier server left, and goes on until it is closed. */
export function startJobs({ handIns, courses, log, ...parts }: JobParts): Jobs {
  const threads = startThreads({ ...parts, lost: (error) => log.warn({ error }, 'a check has ended its worker') });
  const telling = new Telling(handIns);
  const found: Finished[] = [];
  const state = { busy: 0, closed: false, keeping: undefined as NodeJS.Timeout | undefined };

  const keep = (): void => {
    clearTimeout(state.keeping);
    state.keeping = undefined;
    const kept = found.splice(0);
    if (kept.length === 0) return;
    try {
      handIns.finish(kept);
    } catch (error) {
      if (!state.closed) {
        log.error({ error }, 'verdicts could not be saved; they are saved again soon');
        found.unshift(...kept);
        state.keeping = setTimeout(keep, AGAIN).unref();
      } else log.error({ error }, 'verdicts could not be saved; they are checked again after the next start');
    }
  };

  /** A job that could not be begun waits again, as soon as the database takes that. */
  const release = (job: Job): void => {
    if (state.closed) return;
    try {
      handIns.release(job);
      setTimeout(pump, AGAIN).unref();
    } catch {
      setTimeout(() => release(job), AGAIN).unref();
    }
  };

  const one = async ({ handIn, key, stage, assignment, source }: Job): Promise<void> => {
    const own = courses.texts(assignment);
    const outcome =
      own.key === key ? await threads.check({ ...own, source, reasons: stage === 'reasons' }) : { sentence: HAS_CHANGED, again: false };
    found.push({ handIn, key, stage, ...outcome });
    if (found.length >= KEPT_AT_ONCE) keep();
    else state.keeping ??= setTimeout(keep, KEPT_EVERY);
    telling.tell(assignment);
  };

  const pump = (): void => {
    if (state.closed) return;
    const room = threads.count * 4 - state.busy;
    if (room <= 0) return;
    let jobs: Job[] = [];
    try {
      // What has been found and not kept yet counts as running: it is not taken twice.
      jobs = handIns.claim(room);
    } catch (error) {
      log.error({ error }, 'no checks could be taken up');
      setTimeout(pump, AGAIN).unref();
      return;
    }
    for (const job of jobs) {
      state.busy++;
      void one(job)
        .catch((error: unknown) => {
          log.error({ error }, 'a check could not be begun; it is taken up again soon');
          release(job);
        })
        .finally(() => {
          state.busy--;
          if (state.busy === 0) keep();
          if (state.busy <= threads.count * 2) pump();
        });
    }
  };

  handIns.resume();
  pump();
  return {
    wake: pump,
    progress: (assignment) => telling.progress(assignment),
    follow: (assignment, told) => telling.follow(assignment, told),
    close: async () => {
      state.closed = true;
      keep();
      telling.close();
      await threads.close();
    },
  };
}

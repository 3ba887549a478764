/** Threads that check hand-ins, and what is said of a check that ends its thread or does not end. */
import { Piscina } from 'piscina';
import type { CheckedHandIn } from '@zettak/core/trials/handIns/check';
import type { HandInTask, HandInVerdict } from './checkHandIn';
import { ENDED_ITS_WORKER } from './givenUp';

/** What came of a check; one that ended its thread may be tried again. */
export type Outcome = { readonly result: CheckedHandIn } | { readonly sentence: string; readonly again: boolean };

export interface Threads {
  readonly count: number;
  /** Never rejects. */
  check(task: HandInTask): Promise<Outcome>;
  close(): Promise<void>;
}

export interface ThreadParts {
  /** The built file of `checkHandIn`. */
  readonly worker: string;
  readonly count?: number;
  /** ms after which a check is given up. */
  readonly patience?: number;
  /** A check has ended its thread. */
  readonly lost?: (error: unknown) => void;
}

export const PATIENCE = 60_000;
const MEGABYTES = 512;

/** Threads are started when they are needed, and end when they are not. */
export function startThreads({ worker, count = 2, patience = PATIENCE, lost }: ThreadParts): Threads {
  const pool = new Piscina({
    ...{ filename: worker, minThreads: 0, maxThreads: count, idleTimeout: 30_000 },
    resourceLimits: { maxOldGenerationSizeMb: MEGABYTES },
  });
  return {
    count,
    check: async (task) => {
      const signal = AbortSignal.timeout(patience);
      try {
        const verdict = (await pool.run(task, { signal })) as HandInVerdict;
        return 'result' in verdict ? verdict : { sentence: verdict.wrong, again: false };
      } catch (error) {
        if (signal.aborted)
          return { sentence: `It was not checked after ${Math.round(patience / 1000)} seconds, so it is passed over.`, again: false };
        lost?.(error);
        return { sentence: ENDED_ITS_WORKER, again: true };
      }
    },
    close: () => pool.destroy(),
  };
}

/** Reads machines away from the thread that answers requests, so that one large document keeps nobody else waiting. */
import { Piscina } from 'piscina';
import type { Problem } from '@zettak/core/text/diagnostic';
import { HttpProblem } from '../http/problem';
import type { MachineTexts } from './machineErrors';

export interface Checker {
  /** Errors in a document; none where it is a machine. */
  machineErrors(texts: MachineTexts): Promise<readonly Problem[]>;
  close(): Promise<void>;
}

/** A document that is not read after so many ms is given up. */
const PATIENCE = 20_000;
/** Documents that wait for a thread. */
const MOST_WAITING = 200;

/** `worker`: the built file of `machineErrors`. Threads are started when they are needed, and end when they are not. */
export function startChecker(worker: string, { patience = PATIENCE } = {}): Checker {
  const pool = new Piscina({ filename: worker, minThreads: 0, maxThreads: 2, idleTimeout: 30_000, maxQueue: MOST_WAITING });
  return {
    async machineErrors(texts) {
      if (pool.queueSize >= MOST_WAITING) throw new HttpProblem(503, 'Too many machines are being read just now. Try again in a moment.');
      const signal = AbortSignal.timeout(patience);
      return pool.run(texts, { signal }).catch((error: unknown) => {
        if (signal.aborted) throw new HttpProblem(422, 'Reading this document takes too long, so no version was made. Make it smaller.');
        throw error;
      }) as Promise<readonly Problem[]>;
    },
    close: () => pool.destroy(),
  };
}

/** Small writes of many people in one transaction. Each is answered once that transaction is safe, or has failed. */
import type { Database } from './database';

/** ms that a write waits for others. */
const WAIT = 6;

interface Act {
  /** Writes, and gives what answers the caller once all is safe. An error is the caller's alone. */
  readonly run: () => (() => void) | undefined;
  readonly fail: (error: unknown) => void;
}

export class Together {
  private waiting: Act[] = [];
  private timer: NodeJS.Timeout | undefined;

  constructor(private readonly database: Pick<Database, 'write' | 'free'>) {}

  /**
   * Resolves when what was written is safe. Rejects with what `act` throws, which touches no other's, or with why the
   * transaction failed. An act that throws has written nothing.
   */
  add<T>(act: () => T): Promise<T> {
    return new Promise((resolve, reject) => {
      const run = (): (() => void) | undefined => {
        try {
          const result = act();
          return () => resolve(result);
        } catch (error) {
          reject(error as Error);
          return undefined;
        }
      };
      this.waiting.push({ run, fail: reject });
      this.timer ??= setTimeout(() => void this.flush(), WAIT);
    });
  }

  private async flush(): Promise<void> {
    let acts: readonly Act[] = [];
    try {
      await this.database.free();
      acts = this.take();
      const settled = this.database.write(() => acts.map((each) => each.run()));
      settled.forEach((each) => each?.());
    } catch (error) {
      // An act that has its answer already ignores a second one.
      for (const each of acts.length > 0 ? acts : this.take()) each.fail(error);
    }
  }

  /** All that wait now; whoever comes later begins another transaction. */
  private take(): readonly Act[] {
    this.timer = undefined;
    return this.waiting.splice(0);
  }
}

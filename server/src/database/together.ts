/** Small writes of many people as one: each is answered once the transaction that it went with is safe. */
import type { Database } from './database';

/** ms that a write waits for others. */
const WAIT = 6;

export class Together {
  private waiting: (() => void)[] = [];
  /** Of the acts of one transaction. */
  private settled: (() => void)[] = [];
  private failed: ((error: unknown) => void)[] = [];
  private timer: NodeJS.Timeout | undefined;

  constructor(private readonly write: Database['write']) {}

  /** Resolves when what was written is safe; rejects with what `act` throws, which touches no other's. An act that throws has written nothing. */
  add<T>(act: () => T): Promise<T> {
    return new Promise((resolve, reject) => {
      this.waiting.push(() => {
        let result: T;
        try {
          result = act();
        } catch (error) {
          reject(error as Error);
          return;
        }
        this.settled.push(() => resolve(result));
        this.failed.push(reject);
      });
      this.timer ??= setTimeout(() => this.flush(), WAIT);
    });
  }

  private flush(): void {
    this.timer = undefined;
    const acts = this.waiting.splice(0);
    try {
      this.write(() => acts.forEach((act) => act()));
      this.settled.splice(0).forEach((each) => each());
    } catch (error) {
      this.failed.splice(0).forEach((each) => each(error));
    }
    this.settled = [];
    this.failed = [];
  }
}

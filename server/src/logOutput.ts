/** Where log lines go: written beside the requests. What cannot be written, as on a full disk, is dropped, and nobody waits for it. */
import { write } from 'node:fs';

/** Characters that may wait to be written. */
const MOST_WAITING = 1_000_000;

export class LogOutput {
  private waiting = '';
  private writing = false;

  /** `to`: a file descriptor that is open. */
  constructor(private readonly to: number) {}

  write(line: string): void {
    if (this.waiting.length + line.length <= MOST_WAITING) this.waiting += line;
    if (!this.writing) this.pump();
  }

  private pump(): void {
    if (this.waiting === '') return;
    const text = this.waiting;
    this.waiting = '';
    this.writing = true;
    write(this.to, text, () => {
      this.writing = false;
      this.pump();
    });
  }
}

/** What a command may do with the outside, and what its exit codes mean. */
import { readFileSync, readSync, writeFileSync } from 'node:fs';

/** Exit code: something in a file of the person's is wrong. */
export const PROBLEMS = 1;
/** Exit code: an option or a file name means nothing. */
export const WRONG_USE = 2;
/** Exit code: the run waits for an input that nobody can give. */
export const WAITING = 3;
/** Exit code: the run stopped at a fault. */
export const FAULT = 4;
/** Exit code: the run was proven never to halt. */
export const NEVER_HALTS = 5;
/** Exit code: the ticks or instructions that it may take are used up. */
export const BUDGET = 6;
/** Exit code: some sets of a trial do not hold. */
export const DIFFER = 7;

export interface Terminal {
  /** The text of a file, or undefined where it cannot be read. */
  read(file: string): string | undefined;
  /** The bytes of a file, or undefined where it cannot be read. */
  readBytes(file: string): Uint8Array | undefined;
  /** False where it cannot be written. */
  save(file: string, content: string | Uint8Array): boolean;
  write(line: string): void;
  /** What a program writes, as it runs. */
  stream?: (text: string) => void;
  /** A line from whoever sits there; undefined at the end. Only where somebody does. */
  ask?: () => string | undefined;
  /** To the error stream. */
  warn(line: string): void;
  /** Says why a call is wrong, and gives the exit code for it. */
  wrongUse(sentence: string): number;
}

const PAUSE = new Int32Array(new SharedArrayBuffer(4));

/** One line from the standard input, which is read as far as it is needed. */
function askLine(): string | undefined {
  const byte = Buffer.alloc(1);
  const bytes: number[] = [];
  for (;;) {
    let read: number;
    try {
      read = readSync(0, byte, 0, 1, null);
    } catch (error) {
      // A terminal that has nothing yet says so; somebody is still typing.
      if ((error as NodeJS.ErrnoException).code !== 'EAGAIN') return undefined;
      Atomics.wait(PAUSE, 0, 0, 20);
      continue;
    }
    if (read === 0) return bytes.length > 0 ? Buffer.from(bytes).toString('utf8') : undefined;
    if (byte[0] === 10) return Buffer.from(bytes).toString('utf8').replace(/\r$/, '');
    bytes.push(byte[0]!);
  }
}

export const processTerminal: Terminal = {
  read: (file) => {
    try {
      return readFileSync(file, 'utf8');
    } catch {
      return undefined;
    }
  },
  readBytes: (file) => {
    try {
      return new Uint8Array(readFileSync(file));
    } catch {
      return undefined;
    }
  },
  save: (file, content) => {
    try {
      writeFileSync(file, content);
      return true;
    } catch {
      return false;
    }
  },
  stream: (text) => void process.stdout.write(text),
  ...(process.stdin.isTTY && { ask: askLine }),
  write: (line) => void process.stdout.write(`${line}\n`),
  warn: (line) => void process.stderr.write(`${line}\n`),
  wrongUse: (sentence) => {
    process.stderr.write(`${sentence}\n`);
    return WRONG_USE;
  },
};

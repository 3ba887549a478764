/** What a command may do with the outside, and what its exit codes mean. */
import { readFileSync, writeFileSync } from 'node:fs';

export const PROBLEMS = 1;
export const WRONG_USE = 2;
export const WAITING = 3;
export const FAULT = 4;
export const BUDGET = 6;

export interface Terminal {
  /** The text of a file, or undefined where it cannot be read. */
  read(file: string): string | undefined;
  /** The bytes of a file, or undefined where it cannot be read. */
  readBytes(file: string): Uint8Array | undefined;
  /** False where it cannot be written. */
  save(file: string, content: string | Uint8Array): boolean;
  write(line: string): void;
  /** To the error stream. */
  warn(line: string): void;
  /** Says why a call is wrong, and gives the exit code for it. */
  wrongUse(sentence: string): number;
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
  write: (line) => void process.stdout.write(`${line}\n`),
  warn: (line) => void process.stderr.write(`${line}\n`),
  wrongUse: (sentence) => {
    process.stderr.write(`${sentence}\n`);
    return WRONG_USE;
  },
};

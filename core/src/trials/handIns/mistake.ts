/** What is wrong with a hand-in, as data and in sentences. Hand-ins with one key fall into one group. */
import { seenWords } from '../sets/output';
import type { MendKind, MendTry } from './mends';

export interface Mistake {
  /** The same for all that made it. */
  readonly key: string;
  /** For all that made it. */
  readonly sentence: string;
  /** For this one: what was measured. */
  readonly here: string;
  /** Of the hand-in's text, from 1. */
  readonly line?: number | undefined;
}

/** Letters of a text, or of what came, that are told in a sentence. */
export const MOST_WORDS = 60;

const upTo = (text: string, most = MOST_WORDS): string => (text.length > most ? `${text.slice(0, most)}…` : text);

const SAID: Readonly<Record<MendKind, (mend: MendTry) => string>> = {
  base: ({ was, meant }) => `number read in another base: ${was} where ${meant} is meant`,
  branch: ({ was, meant }) => `${was} where ${meant} is to be asked`,
  halt: ({ meant }) => `runs on behind its last instruction: ${meant} is missing`,
  return: ({ meant }) => `a routine does not come back: ${meant} is missing`,
  next: () => 'a jump one instruction off: PC taken for the current instruction, and it stands at the next',
  target: () => 'jumps to a fixed number, where the instruction does not stand',
  place: () => 'jumps to another place than is meant',
  mode: ({ was, meant }) => `${was} where ${meant} is meant`,
  operation: ({ was, meant }) => `${was} where ${meant} is meant`,
  name: () => 'takes another of its own data than is meant',
};

const KEYED: Readonly<Record<MendKind, (mend: MendTry) => string>> = {
  base: ({ was, meant }) => `base ${was} ${meant}`,
  branch: ({ was, meant }) => `branch ${was} ${meant}`,
  halt: () => 'halt',
  return: () => 'return',
  next: () => 'next',
  target: () => 'target',
  place: () => 'place',
  mode: ({ was, meant }) => `mode ${was} ${meant}`,
  operation: ({ was, meant }) => `operation ${was} ${meant}`,
  name: () => 'name',
};

function withMend({ kind, meant, was, line }: MendTry): string {
  if (kind === 'halt' || kind === 'return') return `With ${meant} behind line ${line}`;
  const what = kind === 'target' ? `a jump to ${meant}` : meant;
  return `With ${what} in place of ${was} on line ${line}`;
}

/** A mistake that is proven: with one change more sets hold. */
export function provenMistake(mend: MendTry, { before, after, sets }: { before: number; after: number; sets: number }): Mistake {
  return {
    key: KEYED[mend.kind](mend),
    sentence: SAID[mend.kind](mend),
    here: `${withMend(mend)}, ${after} of ${sets} sets hold; as it is, ${before}.`,
    line: mend.line,
  };
}

/** What was seen of a run, where no single change puts it right. */
export type Seen =
  | { readonly kind: 'assembly'; readonly code: string; readonly line: number; readonly sentence: string }
  | { readonly kind: 'too many cells'; readonly cells: number; readonly most: number }
  | { readonly kind: 'unread'; readonly sentence: string }
  | { readonly kind: 'leaves'; readonly line: number | undefined; readonly into: string }
  | {
      readonly kind: 'round';
      readonly instructions: number;
      readonly mnemonics: string;
      readonly ending: string;
      readonly line: number | undefined;
    }
  | { readonly kind: 'asks on'; readonly taken: number; readonly set: string }
  | { readonly kind: 'leaves over'; readonly taken: number; readonly wanted: number; readonly set: string }
  | { readonly kind: 'fault'; readonly fault: string; readonly ending: string; readonly line: number | undefined }
  | { readonly kind: 'out of ticks'; readonly most: number }
  | { readonly kind: 'decides'; readonly text: string; readonly mnemonic: string; readonly did: string; readonly line: number | undefined }
  /** An instruction that both have done has set it otherwise, and nothing else. */
  | { readonly kind: 'flag'; readonly flag: string; readonly text: string; readonly did: string; readonly line: number | undefined }
  | { readonly kind: 'differs'; readonly column: string; readonly set: string; readonly expected: string; readonly seen: string };

/** A mistake as far as it was seen. */
export function seenMistake(seen: Seen): Mistake {
  switch (seen.kind) {
    case 'assembly':
      return {
        key: `assembly ${seen.code}`,
        sentence: `does not assemble: ${upTo(seen.sentence, 90)}`,
        here: seen.sentence,
        line: seen.line,
      };
    case 'too many cells':
      return {
        key: 'cells',
        sentence: `takes more than ${seen.most} cells`,
        here: `It takes ${seen.cells} cells; at most ${seen.most} are asked for.`,
      };
    case 'unread':
      return { key: 'unread', sentence: 'a name that the sets ask for is missing', here: seen.sentence };
    case 'leaves':
      return {
        key: 'leaves',
        sentence: 'the run goes past its instructions',
        here: `${seen.line === undefined ? 'The run' : `Behind line ${seen.line} the run`} goes on into ${seen.into}.`,
        line: seen.line,
      };
    case 'round':
      return {
        key: `round ${seen.mnemonics}`,
        sentence: `never halts: round of ${seen.instructions} instruction${seen.instructions === 1 ? '' : 's'} (${upTo(seen.mnemonics)})`,
        here: seen.ending,
        line: seen.line,
      };
    case 'asks on':
      return {
        key: 'asks on',
        sentence: 'asks for more input than there is',
        here: `In “${seen.set}” it has taken ${seen.taken} and asks for one more.`,
      };
    case 'leaves over':
      return {
        key: 'leaves over',
        sentence: 'a request for input is missing',
        here: `In “${seen.set}” it takes ${seen.taken} of the inputs; the teacher's takes ${seen.wanted}.`,
      };
    case 'fault':
      return { key: `fault ${seen.fault}`, sentence: `stops by a fault: ${seen.fault}`, here: seen.ending, line: seen.line };
    case 'out of ticks':
      return {
        key: 'ticks',
        sentence: `not ended after ${seen.most.toLocaleString('en-US')} ticks`,
        here: `It had not ended after ${seen.most.toLocaleString('en-US')} ticks.`,
      };
    case 'decides':
      return {
        key: `decides ${seen.mnemonic}`,
        sentence: `${seen.mnemonic} is decided otherwise than in the teacher's`,
        here: `${seen.text}: ${seen.did}`,
        line: seen.line,
      };
    case 'flag':
      return {
        key: `flag ${seen.flag}`,
        sentence: `${seen.flag} is set otherwise than in the teacher's`,
        here: `${seen.text}: ${seen.did}`,
        line: seen.line,
      };
    case 'differs':
      return {
        key: `differs ${seen.column}`,
        sentence: `${upTo(seen.column)} comes out otherwise`,
        here: `In “${seen.set}” ${seen.column} became ${seenWords(seen, MOST_WORDS)}; ${upTo(seen.expected)} was expected.`,
      };
    default:
      return seen satisfies never;
  }
}

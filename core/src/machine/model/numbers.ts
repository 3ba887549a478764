/** How a person types numbers for a machine: with the letters behind them that its programs know. */
import { readNumber, type NumberRules } from '../../text/number';
import type { Machine } from './machine';

/** Reads a number without a sign; unmarked ones in `base`. Undefined where it is none. */
export const numberReader =
  ({ assembly, radix }: Pick<Machine, 'assembly' | 'radix'>, base = 10) =>
  (text: string): number | undefined =>
    readNumber(text, { base: radix === 10 ? 10 : base, suffixes: assembly.suffixes });

/** `D8h` begins with a letter and so is a name: `0D8h` is the number. Undefined where the word is no such thing. */
export function withLeadingZero(text: string, suffixes: NumberRules['suffixes']): string | undefined {
  if (!/^[A-Fa-f][0-9A-Fa-f_]*[A-Za-z]$/.test(text) || suffixes.get(text.at(-1)!.toLowerCase()) !== 16) return undefined;
  return readNumber(`0${text}`, { base: 10, suffixes }) === undefined ? undefined : `0${text}`;
}

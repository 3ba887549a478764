/** How a person types numbers for a machine: with the letters behind them that its programs know. */
import { BASE_WORDS, readNumber, shownNumber, withHexPrefix, type NumberRules } from '../../text/number';
import type { Machine } from './machine';

type Rules = Pick<Machine, 'assembly' | 'radix' | 'base' | 'declaresBase'>;

/** The base of unmarked numbers: the one that the machine declares, else decimal. */
export const usualBase = ({ radix, base, declaresBase }: Omit<Rules, 'assembly'>): number => (radix === 2 && declaresBase ? base : 10);

/** How numbers are read; unmarked ones in the usual base, or in the one that a panel shows. */
export const numberRules = (machine: Rules, base?: number): NumberRules => ({
  base: machine.radix === 10 ? 10 : (base ?? usualBase(machine)),
  suffixes: machine.assembly.suffixes,
});

/** A number as tables and files have it: marked in the base that the machine declares, else decimal. */
export const tableNumber = (machine: Rules, value: number, width: number): string =>
  machine.declaresBase && machine.base !== 10 ? shownNumber(value, width, machine) : String(value);

/** Reads a number without a sign; unmarked ones in `base`, else in the machine's usual one. Undefined where it is none. */
export const numberReader =
  (machine: Rules, base?: number) =>
  (text: string): number | undefined =>
    readNumber(text, numberRules(machine, base));

/** `D8h` begins with a letter and so is a name: `0D8h` is the number. Undefined where the word is no such thing. */
export function withLeadingZero(text: string, suffixes: NumberRules['suffixes']): string | undefined {
  if (!/^[A-Fa-f][0-9A-Fa-f_]*[A-Za-z]$/.test(text) || suffixes.get(text.at(-1)!.toLowerCase()) !== 16) return undefined;
  return readNumber(`0${text}`, { base: 10, suffixes }) === undefined ? undefined : `0${text}`;
}

/** How a number was read, in words, before it is taken: “0x21 = 33”, with a remark where its digits mean another value in another base. */
export interface EntryReading {
  readonly reads: string;
  /** “In decimal it would be 21.” */
  readonly remark?: string;
}

/** A value of `width` digits that was typed as `text` and read in `base`; unmarked text that another base reads, too, is remarked. */
export function entryReading(
  machine: Rules,
  width: number,
  { text, value, base }: { text: string; value: number; base: number },
): EntryReading {
  if (machine.radix === 10) return { reads: shownNumber(value, width, machine) };
  const shown = [...new Set([shownNumber(value, width, machine), ...(value > 9 ? [withHexPrefix(value, width)] : []), String(value)])];
  const typed = text.trim();
  const other = base === 10 ? 16 : 10;
  const otherwise = /^[0-9]+$/.test(typed) ? readNumber(typed, { base: other, suffixes: new Map() }) : undefined;
  const differs = otherwise !== undefined && otherwise !== value;
  return { reads: shown.join(' = '), ...(differs && { remark: `In ${BASE_WORDS[other]} it would be ${otherwise}.` }) };
}

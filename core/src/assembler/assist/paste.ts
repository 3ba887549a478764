/** A listing pasted from elsewhere, freed of line numbers, addresses and codes. */
import { programSpaceOf, type Machine } from '../../machine/model/machine';
import { digitsIn, power, shownDigits } from '../../text/number';
import type { Row } from '../../image/program';
import { isDirective } from '../read/directives';
import { templatesOf } from '../place/templates';
import { itemAt } from '../../text/itemAt';

export interface Cleaned {
  readonly text: string;
  /** Lines from which something was taken away. */
  readonly changed: number;
  /** By line of the text, from 1: the words that stood before it, without their marks; line numbers and addresses are among them. */
  readonly before: ReadonlyMap<number, readonly string[]>;
}

const LIKE_A_NUMBER = /^(?:0x)?[0-9A-Fa-f]+[:.)|]?$|^[|·]+$|^\+\d+$/;
const BANKED = /^\d{1,3}:[0-9A-Fa-f]+$/;

/** Where the codes of a listing are others than those that its lines come to here. */
export interface Compared {
  /** Lines whose codes are the same. */
  readonly same: number;
  readonly differences: readonly { readonly line: number; readonly sentence: string }[];
}

/** `rows`: of the cleaned text, assembled. Lines whose listing shows no codes, or not all of them, are passed over. */
export function compareCodes(machine: Machine, rows: readonly Row[], { before }: Cleaned): Compared {
  const { width } = programSpaceOf(machine);
  let same = 0;
  const differences: { line: number; sentence: string }[] = [];
  for (const { line, words, kind } of rows) {
    const listed = before.get(line) ?? [];
    if (kind !== 'code' || words.length === 0 || listed.length < words.length) continue;
    const made = words.map((each) => shownDigits(each, width, machine).toUpperCase());
    // The number of the line may stand behind the codes, or before them.
    const places = [listed.slice(-words.length), listed.slice(-words.length - 1, -1)];
    const alike = (codes: readonly string[]): number => codes.filter((each, at) => each === made[at]).length;
    // An address before fewer codes than there are would be taken for one of them.
    const fitting = places.filter(
      (codes) => codes.length === made.length && codes.every((each, at) => each.length === itemAt(made, at).length),
    );
    const [codes] = fitting.toSorted((one, other) => alike(other) - alike(one));
    if (!codes) continue;
    if (alike(codes) === made.length) same++;
    else differences.push({ line, sentence: `The listing has ${codes.join(' ')}, this machine makes ${made.join(' ')} of it.` });
  }
  return { same, differences };
}

/**
 * Undefined where the text does not look like a listing: fewer than half of its lines begin with a number. In front of
 * each line goes whatever reads as a line number, an address or a word of this machine; labels and operations stay.
 */
export function cleanListing(machine: Machine, text: string): Cleaned | undefined {
  const { mnemonics } = templatesOf(machine);
  const { width, addressWidth } = programSpaceOf(machine);
  const lengths = new Set([
    shownDigits(0, width, machine).length,
    shownDigits(0, addressWidth, machine).length,
    String(power(machine.radix, width) - 1).length,
  ]);
  const spaces = new Set(machine.spaces.length > 1 ? machine.spaces.map((each) => each.name) : []);
  const lines = text.replaceAll('\r\n', '\n').split('\n');
  const rows = digitsIn(lines.length, 10) + 2;
  /** Digits alone are a number of the listing; with letters only in the length of a word or an address. */
  const belongs = (word: string, first: boolean): boolean => {
    if (spaces.has(word) || BANKED.test(word)) return true;
    if (!LIKE_A_NUMBER.test(word) || mnemonics.has(word.toUpperCase())) return false;
    const digits = word.replace(/^0x/, '').replace(/\W+$/, '');
    if (/^\d+$/.test(digits)) return first || lengths.has(digits.length) || digits.length <= rows;
    return digits === '' || lengths.has(digits.length) || /\W$/.test(word) || word.startsWith('0x');
  };
  let changed = 0;
  let numbered = 0;
  let filled = 0;
  const cleaned = lines.map((line): { readonly text: string; readonly before: readonly string[] } => {
    if (line.trim() === '') return { text: '', before: [] };
    const before: string[] = [];
    filled++;
    let rest = line;
    let taken = 0;
    for (let match = /^\s*(\S+)/.exec(rest); match && belongs(itemAt(match, 1), taken === 0); match = /^\s*(\S+)/.exec(rest)) {
      const after = rest.slice(match[0].length);
      // What has an operation or a directive behind it is a label, whatever its letters.
      const next = /^\s*(\S+)/.exec(after)?.[1] ?? '';
      const named = !/^\d/.test(itemAt(match, 1)) && (mnemonics.has(next.toUpperCase()) || isDirective(next.toLowerCase()) || next === '=');
      if (named && taken > 0) break;
      rest = after;
      taken++;
      before.push(
        itemAt(match, 1)
          .replace(/^0x/i, '')
          .replace(/[:.)|]+$/, '')
          .toUpperCase(),
      );
    }
    if (taken > 0) numbered++;
    if (taken === 0) return { text: line.trimEnd(), before };
    changed++;
    // One blank parts the columns; more of them are indentation of the source.
    return { text: rest.replace(/^ {1,2}/, '').trimEnd(), before };
  });
  // What a short form stands for is told below it, with a “=” in front; the short form itself is enough.
  const kept = cleaned.filter((each) => !/^\s*=/.test(each.text));
  if (numbered * 2 < filled || numbered === 0) return undefined;
  return { text: kept.map((each) => each.text).join('\n'), changed, before: new Map(kept.map((each, at) => [at + 1, each.before])) };
}

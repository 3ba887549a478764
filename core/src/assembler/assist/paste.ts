/** A listing pasted from elsewhere, freed of line numbers, addresses and codes. */
import { programSpaceOf, type Machine } from '../../machine/model/machine';
import { digitsIn, power, shownDigits } from '../../text/number';
import { isDirective } from '../read/directives';
import { templatesOf } from '../place/templates';
import { itemAt } from '../../text/itemAt';

export interface Cleaned {
  readonly text: string;
  /** Lines from which something was taken away. */
  readonly changed: number;
}

const LIKE_A_NUMBER = /^(?:0x)?[0-9A-Fa-f]+[:.)|]?$|^[|·]+$|^\+\d+$/;
const BANKED = /^\d{1,3}:[0-9A-Fa-f]+$/;

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
  const cleaned = lines.map((line) => {
    if (line.trim() === '') return '';
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
    }
    if (taken > 0) numbered++;
    if (taken === 0) return line.trimEnd();
    changed++;
    // One blank parts the columns; more of them are indentation of the source.
    return rest.replace(/^ {1,2}/, '').trimEnd();
  });
  // What a short form stands for is told below it, with a “=” in front; the short form itself is enough.
  const kept = cleaned.filter((each) => !/^\s*=/.test(each));
  return numbered * 2 < filled || numbered === 0 ? undefined : { text: kept.join('\n'), changed };
}

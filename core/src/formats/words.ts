/** Words as people type them by hand: `40: 12 40 1F`, an address with a colon, words behind it, remarks behind “;”. */
import type { Machine, Space } from '../machine/model/machine';
import { power, readNumber, shownDigits } from '../text/number';
import { byAddress, refusalOf, type FormatProblem, type ReadCells, type SpaceCell } from './image';

export interface Typing {
  /** Where words go until an address is given. */
  readonly from?: number;
  /** How words without a mark are read; 16 on binary machines, 10 on decimal ones. */
  readonly base?: number;
}

const MOST_TOLD = 50;

/** Numbers one after another, each into the next cell; `40:` goes to a cell. Never throws. */
export function readWords(machine: Machine, space: Space, text: string, typing: Typing = {}): ReadCells {
  const rules = { base: typing.base ?? (machine.radix === 10 ? 10 : 16), suffixes: machine.assembly.suffixes };
  const problems: FormatProblem[] = [];
  const cells = new Map<number, SpaceCell>();
  let address = typing.from ?? 0;
  text.split('\n').forEach((line, index) => {
    for (const [, word, colon] of line.replace(/;.*/, '').matchAll(/([^\s,:]+)(:?)/g)) {
      // Digits of the base are digits first: in hexadecimal 0D00 and 0B11 are no decimal and no binary number.
      const value = readNumber(rules.base === 16 && /^[0-9A-Fa-f]+$/.test(word!) ? `0x${word!}` : word!, rules);
      const refused =
        value === undefined
          ? `“${word!.slice(0, 40)}” is no number in base ${rules.base}.`
          : refusalOf(machine, space, colon ? { address: value, value: 0 } : { address, value });
      if (refused !== undefined) {
        if (problems.length < MOST_TOLD) problems.push({ line: index + 1, sentence: refused });
        // The cell is passed over, so that what follows stays in its place.
        if (!colon) address++;
      } else if (colon) address = value!;
      else cells.set(address, { address: address++, value: value! });
    }
  });
  return { cells: byAddress([...cells.values()]), problems };
}

const PER_LINE = 8;

/** The cells as words that `readWords` reads again. */
export function writeWords(machine: Machine, space: Space, cells: readonly SpaceCell[]): string {
  const lines: string[] = [];
  let next = -1;
  let count = 0;
  for (const { address, value } of byAddress(cells)) {
    if (address !== next || count >= PER_LINE) {
      const digits = Math.max(space.addressWidth, address < power(machine.radix, space.addressWidth) ? 0 : 8);
      lines.push(`${shownDigits(address, digits, machine)}:`);
      count = 0;
    }
    lines[lines.length - 1] += ` ${shownDigits(value, space.width, machine)}`;
    next = address + 1;
    count++;
  }
  return [...lines, ''].join('\n');
}

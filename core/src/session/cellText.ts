/** Cells as people type, paste and look for them: numbers or quoted characters, one behind the other. */
import { explainEntry } from '../engine/meaning/entryProblems';
import { readEntry } from '../engine/meaning/services';
import type { Machine } from '../machine/model/machine';
import { numberReader } from '../machine/model/numbers';
import { itemAt } from '../text/itemAt';
import type { Memory } from './protocol';

/** More than any memory has. */
const MOST = 70_000;

export type ReadCells = { readonly values: readonly number[] } | { readonly refused: string };

/** Which of two cells beside each other has the high digits, where they are read as one number. */
export const PAIRINGS = ['high first', 'low first'] as const;
export type Pairing = (typeof PAIRINGS)[number];

/** Whether the cells of a memory can be read two by two: together they fit a number, and no pair lies in two banks. */
export const canPair = ({ width, cells }: Machine['spaces'][number], radix: number): boolean =>
  2 * width <= (radix === 2 ? 32 : 9) && cells % 2 === 0;

/** Two cells beside each other as one number. */
export function pairValue(first: number, second: number, { size, order }: { readonly size: number; readonly order: Pairing }): number {
  return order === 'high first' ? first * size + second : second * size + first;
}

/**
 * Values for cells of a space: numbers between blanks, tabs, commas or line ends, and characters in double quotes, a cell
 * each; with `order` numbers for two cells each. Unmarked numbers are read in `base`. The first that is none, or does not
 * fit, is told with its place in the text.
 */
export function readCells(machine: Machine, space: number, text: string, base: number, order?: Pairing): ReadCells {
  const cell = itemAt(machine.spaces, space).width;
  const width = order ? 2 * cell : cell;
  const size = machine.radix ** cell;
  const read = numberReader(machine, base);
  const values: number[] = [];
  const many = text.trim().split(/[\s,;]+/).length > 1;
  let row = 1;
  for (const line of text.split(/\r\n|\n|\r/)) {
    for (const [, quoted, word] of line.matchAll(/"([^"]*)"|([^\s,;"]+)/g)) {
      if (values.length >= MOST) return { refused: `No memory has more than ${MOST.toLocaleString('en-US')} cells.` };
      if (quoted !== undefined) {
        for (const each of quoted) values.push(each.codePointAt(0)!);
        continue;
      }
      const entry = readEntry(word!, { width, radix: machine.radix, suffixes: machine.assembly.suffixes, base }, read);
      if ('refused' in entry)
        return { refused: `${many ? `Value ${values.length / (order ? 2 : 1) + 1}, line ${row}: ` : ''}${explainEntry(entry.refused)}` };
      if (order) {
        const halves = [Math.floor(entry.value / size) % size, entry.value % size];
        values.push(...(order === 'high first' ? halves : halves.toReversed()));
      } else values.push(entry.value);
    }
    row++;
  }
  if (values.length === 0) return { refused: 'Type a number, or characters in double quotes.' };
  const wide = values.findIndex((each) => each >= size);
  return wide === -1
    ? { values }
    : { refused: `Value ${wide + 1} does not fit a cell of ${cell} ${machine.radix === 10 ? 'digits' : 'bits'}.` };
}

/** The first cell from `from` on, going round at the end, where so many cells hold what is looked for; undefined where none do. */
export function findCells({ cells }: Memory, values: readonly number[], from: number): number | undefined {
  const size = cells.length;
  const [first] = values;
  if (first === undefined || values.length > size) return undefined;
  const last = size - values.length;
  for (let turn = 0; turn < 2; turn++) {
    const end = turn === 0 ? last : Math.min(last, from - 1);
    for (let at = cells.indexOf(first, turn === 0 ? from : 0); at !== -1 && at <= end; at = cells.indexOf(first, at + 1)) {
      let same = 1;
      while (same < values.length && cells[at + same] === values[same]) same++;
      if (same === values.length) return at;
    }
  }
  return undefined;
}

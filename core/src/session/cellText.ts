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

/**
 * Values for cells of a space: numbers between blanks, tabs, commas or line ends, and characters in double quotes, a cell
 * each. Unmarked numbers are read in `base`. The first that is none, or does not fit, is told with its place in the text.
 */
export function readCells(machine: Machine, space: number, text: string, base: number): ReadCells {
  const { width } = itemAt(machine.spaces, space);
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
        return { refused: `${many ? `Value ${values.length + 1}, line ${row}: ` : ''}${explainEntry(entry.refused)}` };
      values.push(entry.value);
    }
    row++;
  }
  if (values.length === 0) return { refused: 'Type a number, or characters in double quotes.' };
  const wide = values.findIndex((each) => each >= machine.radix ** width);
  return wide === -1
    ? { values }
    : { refused: `Value ${wide + 1} does not fit a cell of ${width} ${machine.radix === 10 ? 'digits' : 'bits'}.` };
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

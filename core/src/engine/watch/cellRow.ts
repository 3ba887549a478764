/** Several values in one entry: of cells behind each other, as “3 -4 10”. */
import type { Machine } from '../../machine/model/machine';
import { itemAt } from '../../text/itemAt';
import type { EntryProblem } from '../meaning/entryProblems';
import type { Edit } from '../timeline/interventions';
import type { WatchedPlace } from './breakpoints';

/** Words between values that belong together. */
const TOGETHER = /\b(?:to|at\s+(?:most|least))\b/i;

/** The values of an entry: with commas between them; or, where each is one word, with blanks. */
export function valuesIn(text: string): string[] {
  const written = text.trim().replace(/-\s+/g, '-');
  if (written.includes(',')) return written.split(',').map((each) => each.trim());
  return TOGETHER.test(written) ? [written] : written.split(/\s+/);
}

/** Why so many values cannot stand from a place on; undefined where they can. A row of cells ends with its bank. */
export function noRoomFor(machine: Machine, place: WatchedPlace | Edit, count: number, written: string): EntryProblem | undefined {
  if (place.kind !== 'cell') return { code: 'no-cells', place: written };
  const { cells } = itemAt(machine.spaces, place.space);
  const left = cells - (place.address % cells);
  return count > left ? { code: 'past-the-end', place: written, values: count, cells: left } : undefined;
}

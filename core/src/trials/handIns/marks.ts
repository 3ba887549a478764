/** Points of a hand-in by the rule that a teacher sets; and marks as CSV (RFC 4180). */
import { z } from 'zod';
import { csvRow } from '../../formats/csv';
import type { CheckedHandIn } from './check';

const points = z.number().min(0).max(1000);

export const markRule = z.strictObject({
  /** Of a set that holds; by its name, others as the usual one. */
  each: points.default(1),
  sets: z.record(z.string().max(200), points).default({}),
  /** Of a program that assembles. */
  assembles: points.default(0),
  /** Of a program that holds everywhere within so many ticks in every set, or within so many cells. */
  ticks: z.strictObject({ most: z.number().int().min(1), points }).optional(),
  cells: z.strictObject({ most: z.number().int().min(1), points }).optional(),
});
export type MarkRule = z.infer<typeof markRule>;

/** A point a set. */
export const USUAL_RULE: MarkRule = { each: 1, sets: {}, assembles: 0 };

export interface Marks {
  readonly points: number;
  /** What could be had. */
  readonly of: number;
}

/** `sets`: names of all sets of the assignment, whether the hand-in could be run or not. */
export function marksOf(
  rule: MarkRule,
  sets: readonly string[],
  checked: Pick<CheckedHandIn, 'rows' | 'errors' | 'ticks' | 'cells'>,
): Marks {
  const worth = (set: string): number => (Object.hasOwn(rule.sets, set) ? rule.sets[set]! : rule.each);
  const holds = new Set(checked.rows.filter((each) => each.verdict === 'holds' || each.verdict === 'ran').map((each) => each.set));
  const all = sets.length > 0 && sets.every((each) => holds.has(each));
  const bonus = (limit: MarkRule['ticks'], came: number): number => (limit && all && came <= limit.most ? limit.points : 0);
  const got = sets.reduce((sum, each) => sum + (holds.has(each) ? worth(each) : 0), 0);
  return {
    points: got + (checked.errors ? 0 : rule.assembles) + bonus(rule.ticks, checked.ticks) + bonus(rule.cells, checked.cells),
    of: sets.reduce((sum, each) => sum + worth(each), 0) + rule.assembles + (rule.ticks?.points ?? 0) + (rule.cells?.points ?? 0),
  };
}

/** A row of marks: the newest hand-in of a label. */
export interface MarkRow extends Marks {
  readonly label: string;
  readonly arrivedAt: string;
  readonly late: boolean;
  readonly holds: number;
  readonly sets: number;
  readonly ticks: number;
  readonly cells: number;
  readonly mistake: string;
  readonly remark: string;
}

/** A file that spreadsheets open; a text that would be taken for a formula has a quote before it. */
export function marksCsv(rows: readonly MarkRow[]): string {
  const header = ['label', 'points', 'of', 'holds', 'sets', 'ticks', 'cells', 'arrived', 'late', 'mistake', 'remark'];
  const lines = rows.map((each) => [
    ...[each.label, each.points, each.of, each.holds, each.sets, each.ticks, each.cells, each.arrivedAt, each.late ? 'yes' : ''],
    ...[each.mistake, each.remark],
  ]);
  return [header, ...lines].map(csvRow).join('');
}

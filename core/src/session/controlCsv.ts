/** The control table of a machine as a file. */
import { controlTable } from '../engine/tell/control';
import { csvRow } from '../formats/csv';
import type { Machine } from '../machine/model/machine';

/** CSV (RFC 4180): a row for every tick of every written form, a column for every control word, 1 where the tick asks for it. */
export function controlCsv(machine: Machine): string {
  const { head, rows } = controlTable(machine);
  return [head, ...rows].map(csvRow).join('');
}

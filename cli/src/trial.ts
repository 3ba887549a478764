/** zettak trial MACHINE SOURCE SETS: runs every set of a file on a program, and tells which hold. */
import { Judge } from '@zettak/core/trials/judge/run';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import { sentencesOf, writeJunit, writeRowsCsv } from '@zettak/core/trials/sets/csv';
import { readTable } from '@zettak/core/trials/sets/table';
import { programIn } from './files';
import { DIFFER, PROBLEMS, type Terminal } from './terminal';

export interface TrialOptions {
  readonly json?: boolean;
  /** Files for the results. */
  readonly junit?: string;
  readonly csv?: string;
}

const SIGNS: Readonly<Record<TrialRow['verdict'], string>> = { holds: 'holds  ', differs: 'DIFFERS', ran: 'ran    ', unread: 'UNREAD ' };

/** Exit code: 0 all hold, 1 problems in machine, text or sets, 2 wrong use, 7 some differ. */
export function trial(terminal: Terminal, machineFile: string, sourceFile: string, setsFile: string, options: TrialOptions): number {
  const loaded = programIn(terminal, machineFile, sourceFile);
  if (typeof loaded === 'number') return loaded;
  const { machine, program } = loaded;
  const text = terminal.read(setsFile);
  if (text === undefined) return terminal.wrongUse(`${setsFile} cannot be read.`);
  const read = readTable(text);
  if ('problem' in read) {
    terminal.warn(`${setsFile}:${read.problem.line ?? 1}:1: error: ${read.problem.sentence}`);
    return PROBLEMS;
  }
  const { table } = read;
  const judge = new Judge({ machine, program, table });
  const rows = table.sets.map((each) => judge.row(each, { whole: options.json ?? false }));
  for (const [file, content] of [
    [options.junit, () => writeJunit(sourceFile, rows)],
    [options.csv, () => writeRowsCsv(rows)],
  ] as const)
    if (file !== undefined && !terminal.save(file, content())) return terminal.wrongUse(`${file} cannot be written.`);
  if (options.json) terminal.write(JSON.stringify({ machine: machine.name, rows }, undefined, 2));
  else tell(terminal, rows);
  if (rows.some((each) => each.verdict === 'unread')) return PROBLEMS;
  return rows.some((each) => each.verdict === 'differs') ? DIFFER : 0;
}

function tell(terminal: Terminal, rows: readonly TrialRow[]): void {
  for (const row of rows) {
    terminal.write(
      `${SIGNS[row.verdict]}  ${row.name}  ${row.verdict === 'unread' ? '' : `${row.instructions} instructions, ${row.ticks} ticks`}`.trimEnd(),
    );
    for (const sentence of sentencesOf(row)) terminal.write(`         ${sentence}`);
    for (const remark of row.remarks) terminal.write(`         ! ${remark}`);
  }
  const count = (verdict: TrialRow['verdict']): number => rows.filter((each) => each.verdict === verdict).length;
  const parts = [`${count('holds')} of ${rows.length} sets hold`, ...(count('differs') > 0 ? [`${count('differs')} differ`] : [])];
  if (count('ran') > 0) parts.push(`${count('ran')} expect nothing`);
  if (count('unread') > 0) parts.push(`${count('unread')} cannot be read`);
  terminal.write(`${parts.join(', ')}.`);
}

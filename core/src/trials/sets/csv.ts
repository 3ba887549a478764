/** Sets as CSV (RFC 4180): a row each under a header that names the columns; and rows pasted from a spreadsheet. */
import { csvRow, readCsv, withoutGuard } from '../../formats/csv';
import { emptySet, MOST_ENTRIES, MOST_SETS, MOST_TEXT, placesOf, withEntry, type TrialSet } from './table';
import { seenWords } from './output';
import type { TrialRow } from '../judge/row';

const OWN = ['set', 'for', 'script', 'hidden'] as const;

/** The sets under their header: `set, for, given level, …, expected later, …, script, hidden`. */
export function writeSetsCsv(sets: readonly TrialSet[]): string {
  const [given, expected] = [placesOf(sets, 'given'), placesOf(sets, 'expected')];
  const header = ['set', 'for', ...given.map((each) => `given ${each}`), ...expected.map((each) => `expected ${each}`), 'script', 'hidden'];
  const text = (list: TrialSet['given'], place: string): string => list.find((each) => each.place === place)?.text ?? '';
  const rows = sets.map((each) => [
    ...[each.name, each.purpose],
    ...given.map((place) => text(each.given, place)),
    ...expected.map((place) => text(each.expected, place)),
    ...[each.script, each.hidden ? 'yes' : ''],
  ]);
  return [header, ...rows].map(csvRow).join('');
}

export interface CsvProblem {
  /** From 1. */
  readonly line: number;
  readonly sentence: string;
}

export interface ReadSets {
  readonly sets: readonly TrialSet[];
  readonly problems: readonly CsvProblem[];
}

type Column = { readonly own: (typeof OWN)[number] } | { readonly of: 'given' | 'expected'; readonly place: string };

/** Columns may stand in any order; those that are unknown are told and passed over. Never throws. */
export function readSetsCsv(text: string): ReadSets {
  if (text.includes('\uFFFD') || text.includes('\0'))
    return { sets: [], problems: [{ line: 1, sentence: 'The file is not written in UTF-8. Save it again as “CSV UTF-8”.' }] };
  const problems: CsvProblem[] = [];
  const [header, ...rows] = readCsv(text);
  if (!header) return { sets: [], problems: [{ line: 1, sentence: 'The file is empty.' }] };
  if (header.fields.length > MOST_ENTRIES)
    return {
      sets: [],
      problems: [
        { line: header.line, sentence: `A file of sets has at most ${MOST_ENTRIES} columns; this one has ${header.fields.length}.` },
      ],
    };
  const columns = header.fields.map(columnOf);
  const unknown = header.fields.filter((each, at) => each !== '' && !columns[at]);
  if (!columns.some((each) => each && 'own' in each && each.own === 'set'))
    return {
      sets: [],
      problems: [
        {
          line: header.line,
          sentence: 'The first line names the columns: set, for, “given level”, “expected later”, script, hidden; “set” is missing.',
        },
      ],
    };
  if (unknown.length > 0)
    problems.push({
      line: header.line,
      sentence: `Not understood and left out: ${unknown.map((each) => `“${each.slice(0, 30)}”`).join(', ')}. Columns begin with “given” or “expected”.`,
    });
  const sets: TrialSet[] = [];
  for (const { line, fields } of rows) {
    if (sets.length >= MOST_SETS) {
      problems.push({ line, sentence: `A program has at most ${MOST_SETS} sets; the rest is left out.` });
      break;
    }
    const set = fields.reduce((made, field, at) => withColumn(made, columns[at], withoutGuard(field)), emptySet(''));
    if (set.name === '') problems.push({ line, sentence: 'The set has no name and is left out.' });
    else if (fields.some((each) => each.length > MOST_TEXT * 10))
      problems.push({ line, sentence: 'The set has a text that is too long and is left out.' });
    else if (sets.some((each) => each.name === set.name)) problems.push({ line, sentence: `A second set “${set.name}” is left out.` });
    else sets.push(set);
  }
  return { sets, problems };
}

function columnOf(name: string): Column | undefined {
  const own = OWN.find((each) => each === name.toLowerCase());
  if (own) return { own };
  const [, of, place] = /^(given|expected)\s+(.+)$/i.exec(name) ?? [];
  return of && place ? { of: of.toLowerCase() as 'given' | 'expected', place } : undefined;
}

function withColumn(set: TrialSet, column: Column | undefined, text: string): TrialSet {
  if (!column || text === '') return set;
  if ('of' in column) return { ...set, [column.of]: withEntry(set[column.of], column.place, text) };
  switch (column.own) {
    case 'set':
      return { ...set, name: text };
    case 'for':
      return { ...set, purpose: text };
    case 'script':
      return { ...set, script: text };
    case 'hidden':
      return { ...set, hidden: /^(yes|true|1|x)$/i.test(text) };
    default:
      return column.own satisfies never;
  }
}

/** Results as CSV: the verdict, the end, and each column expected and seen. */
export function writeRowsCsv(rows: readonly TrialRow[]): string {
  const columns = [...new Set(rows.flatMap((each) => each.seen.map((seen) => seen.column)))];
  const header = [
    'set',
    'verdict',
    'end',
    'instructions',
    'ticks',
    ...columns.flatMap((each) => [`expected ${each}`, `seen ${each}`]),
    'flags',
    'remarks',
  ];
  const lines = rows.map((row) => [
    ...[row.name, row.verdict, row.end ?? '', row.instructions, row.ticks],
    ...columns.flatMap((column) => {
      const seen = row.seen.find((each) => each.column === column);
      return [seen?.expected ?? '', seen?.seen ?? ''];
    }),
    row.flags.map(({ name, value }) => `${name}=${value}`).join(' '),
    [...row.problems.map((each) => `${each.place}: ${each.sentence}`), ...row.remarks].join(' '),
  ]);
  return [header, ...lines].map(csvRow).join('');
}

const escaped = (text: string): string =>
  text
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '�')
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .replace(/"/g, '&quot;');

/** Rows as JUnit XML: a test case a set; what differs is a failure, what cannot be read an error. */
export function writeJunit(suite: string, rows: readonly TrialRow[]): string {
  const failures = rows.filter((each) => each.verdict === 'differs').length;
  const errors = rows.filter((each) => each.verdict === 'unread').length;
  const cases = rows.map((row) => {
    const open = `  <testcase classname="${escaped(suite)}" name="${escaped(row.name)}"`;
    const said = sentencesOf(row).map(escaped);
    if (row.verdict === 'differs' || row.verdict === 'unread') {
      const tag = row.verdict === 'differs' ? 'failure' : 'error';
      return `${open}>\n    <${tag} message="${said[0] ?? ''}">${said.join('\n')}</${tag}>\n  </testcase>`;
    }
    return `${open}/>`;
  });
  return `<?xml version="1.0" encoding="UTF-8"?>\n<testsuite name="${escaped(suite)}" tests="${rows.length}" failures="${failures}" errors="${errors}" skipped="0">\n${cases.join('\n')}${cases.length > 0 ? '\n' : ''}</testsuite>\n`;
}

/** What is wrong with a row, a sentence each; empty where it holds. */
export function sentencesOf(row: TrialRow): string[] {
  return [
    ...row.problems.map(({ where, place, sentence }) =>
      where === 'script' ? `Script, line ${place}: ${sentence}` : `${where} ${place}: ${sentence}`,
    ),
    ...(row.shouldHalt ? [`It should have halted. ${row.ending}`] : []),
    ...row.seen.filter((each) => each.holds === false).map((each) => `${each.column}: expected ${each.expected}, came ${seenWords(each)}.`),
  ];
}

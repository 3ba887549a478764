/** Data sets of a program, with what is expected of each: types, and YAML 1.2 in and out. */
import { isNode, isScalar, LineCounter, parseDocument, stringify, visit, type Document } from 'yaml';
import { rewritten } from './rewrite';
import { z } from 'zod';
import { issueWords } from '../../text/issues';
import type { Base } from '../../text/number';

/** What a set gives to a place, or expects of one, as typed. */
export interface Entry {
  readonly place: string;
  readonly text: string;
}

/** One row of the trials. */
export interface TrialSet {
  readonly name: string;
  /** What it is for, in words. */
  readonly purpose: string;
  /** Values by place; `input` stands for the queue. What is not named is left as the program has it. */
  readonly given: readonly Entry[];
  /** Lines over time, other devices, readiness: in the language of scripts. */
  readonly script: string;
  readonly expected: readonly Entry[];
  /** Never shown to students. */
  readonly hidden: boolean;
}

/** One step of the method that a program follows, with the lines that do it. */
export interface MethodStep {
  readonly text: string;
  /** “7”, “7-12”, or nothing. */
  readonly lines: string;
}

/** Parts of a record sheet, in the order in which they stand unless somebody chose another. */
export const SHEET_PARTS = ['problem', 'method', 'flow', 'listing', 'sets', 'results', 'flags', 'trace sheet', 'trace key'] as const;
export type SheetPart = (typeof SHEET_PARTS)[number];

/** Those that stand on a sheet unless somebody chose others. */
export const USUAL_PARTS: readonly SheetPart[] = SHEET_PARTS.slice(0, 7);

export interface SheetTexts {
  /** Whose sheet it is: a bench number. */
  readonly label: string;
  readonly problem: string;
  readonly method: readonly MethodStep[];
  readonly parts: readonly SheetPart[];
}

export interface SetTable {
  /** Of unmarked values; the machine's usual one where nothing is said. */
  readonly base: Base | undefined;
  /** Most ticks of a run. */
  readonly mostTicks: number;
  readonly sets: readonly TrialSet[];
  readonly sheet: SheetTexts;
}

export const MOST_SETS = 5000;
export const MOST_ENTRIES = 200;
/** Characters of a name, a purpose, an entry; of a script. */
export const MOST_TEXT = 2000;
const MOST_SCRIPT = 20_000;
export const USUAL_MOST_TICKS = 1_000_000;
const GREATEST_MOST_TICKS = 100_000_000;

export const NO_SHEET: SheetTexts = { label: '', problem: '', method: [], parts: USUAL_PARTS };
export const NO_SETS: SetTable = { base: undefined, mostTicks: USUAL_MOST_TICKS, sets: [], sheet: NO_SHEET };

/** A set that gives nothing and expects nothing. */
export const emptySet = (name: string): TrialSet => ({ name, purpose: '', given: [], script: '', expected: [], hidden: false });

/** The name of the queue among places. */
export const INPUT = 'input';

const BASES: Readonly<Record<string, Base>> = { hex: 16, decimal: 10, binary: 2, octal: 8 };

/** How a base is called in a file. */
export const baseName = (base: Base): string => Object.keys(BASES).find((each) => BASES[each] === base)!;

const short = z.string().max(MOST_TEXT);

/** What stands for a key with nothing behind it. */
function nothing(empty: unknown): (found: unknown) => unknown {
  return (found) => (found === '' ? empty : found);
}

/** In the order in which they stand; an object would put numbers first. */
const entries = z
  .preprocess(nothing(new Map()), z.map(z.string().min(1).max(200), short))
  .refine((found) => found.size <= MOST_ENTRIES, { error: `at most ${MOST_ENTRIES} places` })
  .transform((found): Entry[] => [...found].map(([place, text]) => ({ place, text })));
const yes = z.string().transform((word) => /^(yes|true)$/i.test(word));

const setSchema = z.strictObject({
  name: z.string().trim().min(1).max(200),
  for: short.default(''),
  given: entries.default([]),
  script: z.string().max(MOST_SCRIPT).default(''),
  expected: entries.default([]),
  hidden: yes.default(false),
});

const sheetSchema = z.strictObject({
  label: short.default(''),
  problem: z.string().max(MOST_SCRIPT).default(''),
  method: z
    .array(z.strictObject({ text: short, lines: z.string().max(40).default('') }))
    .max(200)
    .default([]),
  parts: z
    .array(z.enum(SHEET_PARTS))
    .max(SHEET_PARTS.length)
    .default([...USUAL_PARTS]),
});

const tableSchema = z.strictObject({
  zettak: z.literal('sets', { error: 'a file of sets begins with “zettak: sets”' }),
  version: z.literal('1', { error: 'this file was made by a later version of Zettak' }),
  base: z.enum(['hex', 'decimal', 'binary', 'octal'], { error: 'base is hex, decimal, binary or octal' }).optional(),
  'most ticks': z
    .string()
    .regex(/^[1-9]\d{0,8}$/, { error: 'most ticks is a whole number of at least 1' })
    .transform(Number)
    .refine((count) => count <= GREATEST_MOST_TICKS, { error: `most ticks is at most ${GREATEST_MOST_TICKS}` })
    .default(USUAL_MOST_TICKS),
  sheet: sheetSchema.default({ ...NO_SHEET, method: [], parts: [...USUAL_PARTS] }),
  sets: z.preprocess(nothing([]), z.array(setSchema).max(MOST_SETS, { error: `a program has at most ${MOST_SETS} sets` })).default([]),
});

/** What is wrong with a file of sets: one sentence, with its line where that is known. */
export interface TableProblem {
  readonly line: number | undefined;
  readonly sentence: string;
}

export type ReadTable = { readonly table: SetTable } | { readonly problem: TableProblem };

/** Reads a file of sets; an empty text is a table without sets. Never throws. */
export function readTable(text: string): ReadTable {
  if (text.trim() === '') return { table: NO_SETS };
  const lines = new LineCounter();
  const document = parseDocument(text, { schema: 'failsafe', logLevel: 'error', uniqueKeys: true, lineCounter: lines });
  const [error] = document.errors;
  if (error) {
    const line = error.linePos?.[0].line;
    return { problem: { line, sentence: `The file of sets is not read: ${error.message.split(/ at line |\n/)[0]!.replace(/\.$/, '')}.` } };
  }
  const odd = keyWithoutName(document);
  if (odd !== undefined)
    return {
      problem: { line: lines.linePos(odd).line, sentence: 'A name is expected before the colon. Braces and brackets cannot stand there.' },
    };
  let plain: unknown;
  try {
    plain = plainOf(document.toJS({ maxAliasCount: 0, mapAsMap: true }));
  } catch {
    return { problem: { line: undefined, sentence: 'A file of sets has no anchors and aliases.' } };
  }
  const parsed = tableSchema.safeParse(plain);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    const words = issueWords(issue!);
    const where = words.startsWith(String(issue!.path[0])) ? '' : whereOf(issue!.path);
    const place = issue!.code === 'unrecognized_keys' ? [...issue!.path, issue!.keys[0]!] : issue!.path;
    return { problem: { line: lineOf(document, lines, place), sentence: `${where}${words}.` } };
  }
  const { base, sets, sheet, 'most ticks': mostTicks } = parsed.data;
  const read = sets.map(({ for: purpose, ...rest }): TrialSet => ({ ...rest, purpose }));
  const second = read.findIndex(({ name }, at) => read.findIndex((each) => each.name === name) < at);
  const twin = read[second];
  if (twin)
    return {
      problem: {
        line: lineOf(document, lines, ['sets', second]),
        sentence: `Two sets are called “${twin.name}”. Give one of them another name.`,
      },
    };
  return { table: { base: base && BASES[base], mostTicks, sets: read, sheet } };
}

/** Of the innermost part of a path that stands in the text. */
function lineOf(document: Document, lines: LineCounter, path: readonly PropertyKey[]): number | undefined {
  for (let length = path.length; length > 0; length--) {
    const node = document.getIn(path.slice(0, length), true);
    if (isNode(node) && node.range) return lines.linePos(node.range[0]).line;
  }
  return undefined;
}

/** Where a key begins that is not a name. */
function keyWithoutName(document: Document): number | undefined {
  let found: number | undefined;
  visit(document, {
    Pair: (_, { key }) => {
      if (isScalar(key) || !isNode(key)) return undefined;
      found = key.range?.[0] ?? 0;
      return visit.BREAK;
    },
  });
  return found;
}

/** Maps as objects, but those of places, whose order counts. */
function plainOf(found: unknown): unknown {
  if (Array.isArray(found)) return found.map(plainOf);
  if (!(found instanceof Map)) return found;
  return Object.fromEntries(
    [...found].map(([key, value]: [unknown, unknown]) => [String(key), key === 'given' || key === 'expected' ? value : plainOf(value)]),
  );
}

function whereOf(path: readonly PropertyKey[]): string {
  const [first, at, ...rest] = path;
  if (first === 'sets' && typeof at === 'number') return `Set ${at + 1}${rest.length > 0 ? `, ${rest.map(String).join(', ')}` : ''}: `;
  return path.length > 0 ? `${path.map(String).join(', ')}: ` : '';
}

const asMap = (list: readonly Entry[]): Map<string, string> => new Map(list.map(({ place, text }) => [place, text]));

/** The file that reads back as the same table; in the layout of the file `before`, with its comments, where that has any. */
export function writeTable({ base, mostTicks, sets, sheet }: SetTable, before = ''): string {
  const plain = {
    zettak: 'sets',
    version: '1',
    ...(base !== undefined && { base: baseName(base) }),
    ...(mostTicks !== USUAL_MOST_TICKS && { 'most ticks': String(mostTicks) }),
    ...written(sheet),
    sets: sets.map(({ name, purpose, given, script, expected, hidden }) => ({
      name,
      ...(purpose !== '' && { for: purpose }),
      ...(given.length > 0 && { given: asMap(given) }),
      ...(script !== '' && { script }),
      ...(expected.length > 0 && { expected: asMap(expected) }),
      ...(hidden && { hidden: 'yes' }),
    })),
  };
  return rewritten(before, plain) ?? stringify(plain, { schema: 'failsafe', lineWidth: 0 });
}

/** What somebody has written or chosen for the sheet; nothing of what it is anyhow. */
function written(sheet: SheetTexts): { readonly sheet?: Partial<SheetTexts> } {
  const own = Object.entries(sheet).filter(([key, value]) => JSON.stringify(value) !== JSON.stringify(NO_SHEET[key as keyof SheetTexts]));
  return own.length === 0 ? {} : { sheet: Object.fromEntries(own) };
}

/** A name that no set has yet: “calm”, “calm 2”. */
export function freeName(sets: readonly TrialSet[], wanted: string): string {
  const taken = new Set(sets.map((each) => each.name));
  for (let count = 1; ; count++) {
    const name = count === 1 ? wanted : `${wanted} ${count}`;
    if (!taken.has(name)) return name;
  }
}

/** Places in the order in which sets name them first. */
export function placesOf(sets: readonly TrialSet[], of: 'given' | 'expected'): string[] {
  const found = new Set<string>();
  for (const each of sets) for (const { place } of each[of]) found.add(place);
  return [...found];
}

export const entryOf = (list: readonly Entry[], place: string): string => list.find((each) => each.place === place)?.text ?? '';

/** The entries with another text for a place; an empty one takes it out. */
export function withEntry(list: readonly Entry[], place: string, text: string): readonly Entry[] {
  if (text === '') return list.filter((each) => each.place !== place);
  return list.some((each) => each.place === place)
    ? list.map((each) => (each.place === place ? { place, text } : each))
    : [...list, { place, text }];
}

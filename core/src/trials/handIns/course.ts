/**
 * A course as files: one `course.json` that names the others, texts as they are. With hidden sets and solutions for another
 * teacher; without them for students, for whom they are left out and not marked.
 */
import { z } from 'zod';
import { issueWords } from '../../text/issues';
import { readTable, writeTable } from '../sets/table';
import type { AssignmentTexts } from './assignment';
import { readLessonBench, type LessonBench } from './lessonBench';
import { markRule, USUAL_RULE } from './marks';
import { sha256Of } from './bundle';

const MOST_TEXT = 1_000_000;
const short = z.string().max(200);
const text = z.string().max(MOST_TEXT);
const path = z
  .string()
  .regex(/^[\w.-]+(\/[\w.-]+)*$/, { error: 'a path has letters, digits, dots and hyphens' })
  .max(200);
const named = z.array(z.strictObject({ name: short, file: path })).max(500);
const time = z.string().max(40).nullable().default(null);
const count = z.number().int().min(1).max(1_000_000_000).nullable().default(null);

const assignment = z.strictObject({
  id: z.string().regex(/^[a-z0-9-]{1,80}$/),
  name: short.min(1),
  problem: text.default(''),
  machine: z.strictObject({ name: short.min(1), version: z.number().int().min(1), language: z.number().int().min(1), file: path }),
  bases: named.default([]),
  parts: named.default([]),
  frame: path.optional(),
  solution: path.optional(),
  sets: path.optional(),
  bench: path.optional(),
  mostTicks: count,
  mostCells: count,
  opensAt: time,
  closesAt: time,
  marks: markRule.default(USUAL_RULE),
});

const manifest = z.strictObject({
  zettak: z.literal('course', { error: 'this is no course of Zettak' }),
  version: z.literal(1, { error: 'this course was made by a later version of Zettak' }),
  name: short.min(1),
  assignments: z.array(assignment).max(200),
});

export interface CourseAssignment {
  readonly id: string;
  readonly name: string;
  readonly problem: string;
  readonly machineName: string;
  readonly machineVersion: number;
  readonly texts: AssignmentTexts;
  readonly opensAt: string | null;
  readonly closesAt: string | null;
  readonly marks: z.infer<typeof markRule>;
  /** Notes and layout that come with it. */
  readonly bench?: LessonBench | undefined;
}

export interface CourseContent {
  readonly name: string;
  readonly assignments: readonly CourseAssignment[];
}

export const MANIFEST = 'course.json';

/** The files of a course by their paths. */
export function courseFiles({ name, assignments }: CourseContent): Record<string, string> {
  const files: Record<string, string> = {};
  const put = (file: string, content: string): string => {
    files[file] = content;
    return file;
  };
  const list = assignments.map(({ id, texts, machineName, machineVersion, ...rest }) => {
    const all = (kind: string, ending: string, of: Readonly<Record<string, string>>) =>
      Object.entries(of).map(([each, content], at) => ({ name: each, file: put(`${id}/${kind}-${at + 1}.${ending}`, content) }));
    return {
      ...{ id, name: rest.name, problem: rest.problem },
      machine: { name: machineName, version: machineVersion, language: texts.language, file: put(`${id}/machine.yaml`, texts.machine) },
      ...{ bases: all('base', 'yaml', texts.bases), parts: all('part', 'asm', texts.parts) },
      ...(texts.frame !== '' && { frame: put(`${id}/frame.asm`, texts.frame) }),
      ...(texts.solution !== '' && { solution: put(`${id}/solution.asm`, texts.solution) }),
      ...(texts.sets !== '' && { sets: put(`${id}/sets.yaml`, texts.sets) }),
      ...(rest.bench && { bench: put(`${id}/bench.json`, `${JSON.stringify(rest.bench, undefined, 2)}\n`) }),
      ...{ mostTicks: texts.mostTicks ?? null, mostCells: texts.mostCells ?? null },
      ...{ opensAt: rest.opensAt, closesAt: rest.closesAt, marks: rest.marks },
    };
  });
  put(MANIFEST, `${JSON.stringify({ zettak: 'course', version: 1, name, assignments: list }, undefined, 2)}\n`);
  return files;
}

/** A course from its files, or what is wrong with them. Paths that lead nowhere are told; others are not looked at. Never throws. */
export function readCourseFiles(files: Readonly<Record<string, string>>): { readonly course: CourseContent } | { readonly wrong: string } {
  const own = Object.hasOwn(files, MANIFEST) ? files[MANIFEST] : undefined;
  if (own === undefined) return { wrong: `There is no ${MANIFEST} in it, so it is no course.` };
  let found: unknown;
  try {
    found = JSON.parse(own);
  } catch {
    return { wrong: `${MANIFEST} is no JSON.` };
  }
  const parsed = manifest.safeParse(found);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    return { wrong: `${MANIFEST} cannot be read: ${issue!.path.map(String).join('.')}: ${issueWords(issue!)}.` };
  }
  const missing: string[] = [];
  const at = (file: string | undefined): string => {
    if (file === undefined) return '';
    if (!Object.hasOwn(files, file)) missing.push(file);
    return files[file] ?? '';
  };
  const all = (list: readonly { name: string; file: string }[]): Record<string, string> =>
    Object.fromEntries(list.map((each) => [each.name, at(each.file)]));
  const unread: string[] = [];
  const benchAt = (file: string | undefined): LessonBench | undefined => {
    const content = at(file);
    if (file === undefined || content === '') return undefined;
    const found = readLessonBench(content);
    if (!found) unread.push(file);
    return found;
  };
  const assignments = parsed.data.assignments.map(
    ({ machine, bases, parts, frame, solution, sets, bench, mostTicks, mostCells, ...rest }) => ({
      ...rest,
      bench: benchAt(bench),
      ...{ machineName: machine.name, machineVersion: machine.version },
      texts: {
        ...{ machine: at(machine.file), language: machine.language, bases: all(bases), parts: all(parts) },
        ...{ frame: at(frame), solution: at(solution), sets: at(sets) },
        ...(mostTicks !== null && { mostTicks }),
        ...(mostCells !== null && { mostCells }),
      },
    }),
  );
  if (missing.length > 0) return { wrong: `The course names ${missing[0]}, which is not in it.` };
  if (unread.length > 0) return { wrong: `${unread[0]} holds no notes and layout of a bench.` };
  return { course: { name: parsed.data.name, assignments } };
}

/** An assignment as students may have it: without solution and hidden sets; `hidden` says how many those are. */
export function forStudents(texts: AssignmentTexts): { readonly texts: AssignmentTexts; readonly hidden: number; readonly key: string } {
  const read = readTable(texts.sets);
  const table = 'table' in read ? read.table : undefined;
  const shown = table?.sets.filter((each) => !each.hidden) ?? [];
  const { mostTicks, mostCells, machine, bases, parts, frame } = texts;
  const sets = table ? writeTable({ ...table, sets: shown }) : '';
  const key = sha256Of(JSON.stringify([machine, bases, parts, frame, sets, mostTicks ?? null, mostCells ?? null])).slice(0, 32);
  return { texts: { ...texts, solution: '', sets }, hidden: (table?.sets.length ?? 0) - shown.length, key };
}

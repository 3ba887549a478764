/** What crosses HTTP for courses, assignments and hand-ins, in both directions. Shapes alone. */
import { z } from 'zod';
import { markRule } from '@zettak/core/trials/handIns/marks';
import { lessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { MOST_LABEL } from '@zettak/core/trials/handIns/labels';
import { id, MOST_TEXT, revision, text, title } from './documents';

export const MOST_HAND_INS = 10_000;
/** Hand-ins that one request may bring. */
export const MOST_AT_ONCE = 500;

export const newCourse = z.strictObject({ name: title });

const time = z.iso.datetime({ offset: true, error: 'a time is written as 2026-11-26T18:00:00Z' });
const problem = z.string().max(20_000, { error: 'a problem has at most 20,000 characters' });

/** An assignment is made of a program: the teacher's solution, its sets, its machine in the newest version. */
export const newAssignment = z.strictObject({
  course: id,
  name: title,
  program: id,
  problem: problem.default(''),
  frame: text.default(''),
  bench: lessonBench.optional(),
});

export const assignmentChange = z.strictObject({
  revision,
  name: title.optional(),
  problem: problem.optional(),
  frame: text.optional(),
  mostTicks: z.number().int().min(1).max(100_000_000).nullable().optional(),
  mostCells: z.number().int().min(1).max(10_000_000).nullable().optional(),
  opensAt: time.nullable().optional(),
  closesAt: time.nullable().optional(),
  marks: markRule.optional(),
  /** null: without notes and layout. */
  bench: lessonBench.nullable().optional(),
  /** Takes solution, sets and machine anew from the program that it was made of. */
  renew: z.boolean().default(false),
});

export const label = z
  .string()
  .trim()
  .min(1, { error: 'a hand-in needs a label' })
  .max(MOST_LABEL, { error: `a label has at most ${MOST_LABEL} characters` })
  .regex(/^[^\p{Cc}\p{Cf}]*$/u, { error: 'a label has no control characters' });

/** `text`: a program, or a bundle as JSON. */
export const newHandIns = z.strictObject({
  entries: z
    .array(z.strictObject({ label, file: z.string().max(400).default(''), text }))
    .min(1)
    .max(MOST_AT_ONCE, { error: `at most ${MOST_AT_ONCE} hand-ins come at once` }),
});

/** About a group of mistakes, by its key, or about one label. An empty text takes the remark away. */
export const newRemark = z.strictObject({
  of: z.enum(['group', 'label']),
  about: z.string().min(1).max(400),
  text: z.string().max(4000, { error: 'a remark has at most 4,000 characters' }),
});

/** Files of a course by their paths. */
export const courseFilesEntry = z.record(z.string().max(200), text);

export { MOST_TEXT };
export type NewAssignment = z.infer<typeof newAssignment>;
export type AssignmentChange = z.infer<typeof assignmentChange>;
export type NewHandIns = z.infer<typeof newHandIns>;
export type NewRemark = z.infer<typeof newRemark>;

/** What a teacher's bench gives to a lesson besides texts: notes that are pinned there, and how it is laid out. */
import { z } from 'zod';

const place = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('line'), line: z.number().int().min(1), words: z.string().max(1_000) }),
  z.strictObject({ kind: z.literal('tick'), mnemonic: z.string().max(80), step: z.number().int().min(0) }),
  z.strictObject({ kind: z.literal('panel'), panel: z.string().max(40) }),
]);

export const lessonBench = z.strictObject({
  notes: z
    .array(z.strictObject({ text: z.string().max(4_000), at: place }))
    .max(200)
    .default([]),
  /** As the bench keeps it, without what is of one machine; what a bench cannot read it leaves out. */
  layout: z.record(z.string().max(40), z.union([z.number(), z.boolean(), z.array(z.number()).max(20)])).default({}),
  /** Registers and panels that the lesson does without. */
  hidden: z.array(z.string().max(80)).max(200).default([]),
});
export type LessonBench = z.infer<typeof lessonBench>;

/** From JSON; undefined where it is none. */
export function readLessonBench(text: string | null): LessonBench | undefined {
  try {
    return lessonBench.safeParse(JSON.parse(text ?? '')).data;
  } catch {
    return undefined;
  }
}

/** As students may have it: a note of a line that is not in the frame would tell a line of the solution. */
export function benchForStudents(bench: LessonBench, frame: string): LessonBench {
  const given = new Set(frame.split('\n').map((each) => each.trim()));
  return { ...bench, notes: bench.notes.filter(({ at }) => at.kind !== 'line' || given.has(at.words.trim())) };
}

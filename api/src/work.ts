/** What a student gets of an assignment and gives in. Nothing here can hold a hidden set or a solution. */
import { z } from 'zod';
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import { benchForStudents, type LessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { text } from './documents';

/** Open to students: see `state` for what is in it. */
export interface PublicAssignment {
  readonly id: string;
  readonly name: string;
  readonly opensAt: string | null;
  readonly closesAt: string | null;
  /** before: it has not opened, and nothing but name and time is told. after: it is late, and can still be handed in. */
  readonly state: 'before' | 'open' | 'after';
  readonly content?: PublicContent;
}

export interface PublicContent {
  readonly problem: string;
  readonly machine: string;
  readonly machineName: string;
  readonly machineVersion: number;
  readonly language: number;
  readonly bases: Readonly<Record<string, string>>;
  readonly parts: Readonly<Record<string, string>>;
  readonly frame: string;
  /** Shown ones alone, as YAML. */
  readonly sets: string;
  readonly hidden: number;
  readonly mostTicks: number | null;
  readonly mostCells: number | null;
  /** Of what this student was given. */
  readonly key: string;
  /** Notes and layout for the bench. */
  readonly bench?: LessonBench;
}

/** What students get of an assignment. `texts`: as they may have them. */
export function contentOf(of: {
  readonly problem: string;
  readonly machineName: string;
  readonly machineVersion: number;
  readonly texts: AssignmentTexts;
  readonly hidden: number;
  readonly key: string;
  readonly bench?: LessonBench | undefined;
}): PublicContent {
  const { texts, bench, ...rest } = of;
  const { machine, language, bases, parts, frame, sets, mostTicks, mostCells } = texts;
  const shared = { machine, language, bases, parts, frame, sets, mostTicks: mostTicks ?? null, mostCells: mostCells ?? null };
  return { ...rest, ...shared, ...(bench && { bench: benchForStudents(bench, frame) }) };
}

/** A lesson as a static folder has it, in `lesson.json`. */
export interface StaticLesson {
  readonly zettak: 'lesson';
  readonly version: 1;
  readonly name: string;
  readonly assignments: readonly PublicAssignment[];
}

export const workDraft = z.strictObject({ content: text });
/** `bundle` as JSON text, so that its sum is over what the student's page made. */
export const workHandIn = z.strictObject({ bundle: text });

export interface Receipt {
  readonly zettak: 'receipt';
  readonly assignment: string;
  readonly name: string;
  readonly label: string;
  /** Which hand-in of this label, from 1. */
  readonly number: number;
  /** Of the bundle, SHA-256 in hex. */
  readonly hash: string;
  /** When it arrived, by the server's clock. */
  readonly arrivedAt: string;
  readonly late: boolean;
  /** HMAC-SHA-256 in hex over all other fields as JSON, with a key that only the server has. */
  readonly signature: string;
}

export const receipt = z.strictObject({
  zettak: z.literal('receipt'),
  assignment: z.string().max(80),
  name: z.string().max(80),
  label: z.string().max(80),
  number: z.number().int().min(1),
  hash: z.string().max(64),
  arrivedAt: z.string().max(40),
  late: z.boolean(),
  signature: z.string().regex(/^[0-9a-f]{64}$/),
});

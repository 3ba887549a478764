/** What crosses HTTP for machines and programs, in both directions. Shapes alone. */
import { z } from 'zod';
import { kinds } from './kinds';

/** Longest text of a draft, in characters. */
export const MOST_TEXT = 1_000_000;

export const id = z.string().regex(/^[a-z0-9-]{1,80}$/, { error: 'an id has small letters, digits and hyphens' });
export const title = z
  .string()
  .trim()
  .min(1, { error: 'a name is needed' })
  .max(80, { error: 'a name has at most 80 characters' })
  .regex(/^[^\p{Cc}\p{Cf}]*$/u, { error: 'a name has no control characters' });
export const text = z.string().max(MOST_TEXT, { error: `a text has at most ${MOST_TEXT} characters` });
export const revision = z.number().int().min(0);

/** A new document; `id` is chosen by the server from the name. All but machines name theirs, or the program that they are for. */
export const newDocument = z.strictObject({ name: title, text, machine: id.optional(), program: id.optional() });

/** Saves a draft over the revision it was made from; an older revision is refused with 409. */
export const draftChange = z.strictObject({ text, revision, name: title.optional() });

/** Makes a version of the draft at this revision. */
export const newVersion = z.strictObject({ revision });

export const versionSummary = z.object({ number: z.number().int().min(1), createdAt: z.string() });

export const documentSummary = z.object({
  id,
  kind: z.enum(kinds),
  name: z.string(),
  machine: z.string().nullable(),
  /** Of data sets: the program that they are for. */
  program: z.string().nullable(),
  revision,
  updatedAt: z.string(),
  /** When it was taken off the shelf; null of what stands there. */
  removedAt: z.string().nullable(),
  versions: z.array(versionSummary),
});

export const documentDetail = documentSummary.extend({ draft: z.string() });

export const versionDetail = versionSummary.extend({
  document: id,
  text: z.string(),
  machineVersion: z.number().int().nullable(),
  language: z.number().int(),
});

/** RFC 9457. */
export const problemDetail = z.object({ type: z.string(), title: z.string(), status: z.number().int(), detail: z.string() });

export type DocumentSummary = z.infer<typeof documentSummary>;
export type DocumentDetail = z.infer<typeof documentDetail>;
export type VersionDetail = z.infer<typeof versionDetail>;
export type NewDocument = z.infer<typeof newDocument>;
export type DraftChange = z.infer<typeof draftChange>;

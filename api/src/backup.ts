/** Everything that a server keeps, as one file; and what became of each part of it when it was put back. */
import { z } from 'zod';
import { id, revision, text, title } from './documents';
import { kinds } from './kinds';

export const backupVersion = z.strictObject({
  number: z.number().int().min(1).max(1_000_000_000),
  text,
  machineVersion: z.number().int().nullable(),
  language: z.number().int().min(1),
  createdAt: z.string().max(40),
});

export const backupDocument = z.strictObject({
  id,
  kind: z.enum(kinds),
  name: title,
  machine: id.nullable(),
  program: id.nullable().default(null),
  draft: text,
  revision,
  createdAt: z.string().max(40),
  updatedAt: z.string().max(40),
  removedAt: z.string().max(40).nullable(),
  versions: z.array(backupVersion).max(10_000),
});

/** The first of a list that comes twice. */
const doubled = <T>(list: readonly T[]): T | undefined => list.find((each, at) => list.indexOf(each) < at);

/** Why documents cannot all be put back; undefined where they can. */
function contradiction(documents: readonly z.infer<typeof backupDocument>[]): string | undefined {
  const twice = doubled(documents.map((each) => each.id));
  if (twice !== undefined) return `the backup holds two documents “${twice}”`;
  for (const { name, kind, machine, program, versions } of documents) {
    const number = doubled(versions.map((each) => each.number));
    if (number !== undefined) return `“${name}” has two versions ${number}`;
    if (kind !== 'machine' && machine === null) return `“${name}” names no machine`;
    if (kind === 'trial' && program === null) return `the data sets “${name}” name no program`;
  }
  const sets = documents.flatMap((each) => (each.kind === 'trial' ? [each.program] : []));
  const program = doubled(sets);
  return program === undefined ? undefined : `the program “${program}” has two documents of data sets`;
}

export const backup = z.strictObject({
  format: z.literal('zettak backup', { error: 'this is no backup of Zettak' }),
  version: z.literal(1, { error: 'this backup was made by a later version of Zettak' }),
  documents: z
    .array(backupDocument)
    .max(20_000)
    .superRefine((documents, context) => {
      const message = contradiction(documents);
      if (message !== undefined) context.addIssue({ code: 'custom', message: `${message}. Nothing was put back` });
    }),
});

/** same: it is there as it is; added: it was missing; beside: what is there is another, so it stands beside it under another id; left out: sets of a program that has others now. */
export interface Restored {
  readonly id: string;
  readonly name: string;
  readonly what: 'same' | 'added' | 'beside' | 'left out';
}

export type BackupDocument = z.infer<typeof backupDocument>;
export type Backup = z.infer<typeof backup>;

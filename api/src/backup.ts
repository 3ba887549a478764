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

export const backup = z.strictObject({
  format: z.literal('zettak backup', { error: 'this is no backup of Zettak' }),
  version: z.literal(1, { error: 'this backup was made by a later version of Zettak' }),
  documents: z.array(backupDocument).max(20_000),
});

/** same: it is there as it is; added: it was missing; beside: what is there is another, so it stands beside it under another id; left out: sets of a program that has others now. */
export interface Restored {
  readonly id: string;
  readonly name: string;
  readonly what: 'same' | 'added' | 'beside' | 'left out';
}

export type BackupDocument = z.infer<typeof backupDocument>;
export type Backup = z.infer<typeof backup>;

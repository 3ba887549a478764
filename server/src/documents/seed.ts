/** Puts the demo course into an empty database. Knows the files of the demo folder, and no machine. */
import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { z } from 'zod';
import type { DocumentStore } from './store';
import { LANGUAGE } from '@zettak/core/notation/parse';

const files = z.array(z.object({ file: z.string(), name: z.string(), sets: z.string().optional() }));
const course = z.array(
  z.object({
    machine: z.string(),
    name: z.string(),
    programs: files,
    parts: files.default([]),
    frames: files.default([]),
    snippets: files.default([]),
  }),
);

/** Does nothing where a machine exists already. Returns how many documents were made. */
export function seed(store: DocumentStore, folder: string): number {
  if (store.list('machine', 'all').length > 0 || !readdirSync(folder).includes('course.json')) return 0;
  const read = (file: string): string => readFileSync(join(folder, file), 'utf8');
  let made = 0;
  for (const { machine: file, name, programs, parts, frames, snippets } of course.parse(JSON.parse(read('course.json')))) {
    const machine = store.create('machine', { name, text: read(file) });
    store.keepVersion('machine', machine.id, { revision: machine.revision, language: LANGUAGE });
    for (const program of programs) {
      const created = store.create('program', {
        name: program.name || basename(program.file),
        text: read(program.file),
        machine: machine.id,
      });
      store.keepVersion('program', created.id, { revision: created.revision, language: LANGUAGE });
      if (program.sets !== undefined) store.create('trial', { name: created.name, text: read(program.sets), program: created.id });
      made++;
    }
    for (const [kind, list] of [
      ['part', parts],
      ['frame', frames],
      ['snippet', snippets],
    ] as const) {
      for (const each of list) store.create(kind, { name: each.name, text: read(each.file), machine: machine.id });
      made += list.length;
    }
    made++;
  }
  return made;
}

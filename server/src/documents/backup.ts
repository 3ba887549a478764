/** All documents as one value, and back. */
import { asc } from 'drizzle-orm';
import type { BackupDocument, Restored } from '@zettak/api/backup';
import type { Queries } from '../database/database';
import { documents, versions } from '../database/schema';
import { freeIdIn } from './ids';
import { StoreProblem } from './storeProblem';

export function backupOf(queries: Queries): BackupDocument[] {
  const all = queries.select().from(versions).orderBy(asc(versions.document), asc(versions.number)).all();
  const own = new Map<string, BackupDocument['versions']>();
  for (const { document, ...version } of all) own.set(document, [...(own.get(document) ?? []), version]);
  return queries
    .select()
    .from(documents)
    .all()
    .map((each) => ({ ...each, versions: own.get(each.id) ?? [] }));
}

/** Within a transaction. Machines first: the others name theirs, under the id that it has now. */
export function restoreInto(queries: Queries, entries: readonly BackupDocument[], now: string): Restored[] {
  const present = new Map(backupOf(queries).map((each) => [each.id, each]));
  const ids = new Map<string, string>();
  const rank = ({ kind }: BackupDocument): number => (kind === 'machine' ? 0 : kind === 'trial' ? 2 : 1);
  const order = [...entries].sort((a, b) => rank(a) - rank(b));
  return order.map((entry): Restored => {
    const program = entry.program === null ? null : (ids.get(entry.program) ?? entry.program);
    const machine = entry.machine === null ? null : (ids.get(entry.machine) ?? entry.machine);
    const known = present.get(entry.id);
    if (known && sameDocument(known, { ...entry, machine, program })) {
      ids.set(entry.id, entry.id);
      return { id: entry.id, name: entry.name, what: 'same' };
    }
    if (machine !== null && !present.has(machine) && ![...ids.values()].includes(machine))
      throw new StoreProblem('refused', `“${entry.name}” is for a machine that is neither here nor in the backup. Nothing was put back.`);
    if (program !== null && !present.has(program) && ![...ids.values()].includes(program))
      throw new StoreProblem('refused', `“${entry.name}” is for a program that is neither here nor in the backup. Nothing was put back.`);
    // A program has its sets once: where others are there now, these have no place.
    if (program !== null && [...present.values()].some((each) => each.program === program))
      return { id: entry.id, name: entry.name, what: 'left out' };
    const id = known ? freeIdIn(queries, entry.name) : entry.id;
    const name = known ? `${entry.name.slice(0, 64)} (from backup)` : entry.name;
    ids.set(entry.id, id);
    const { versions: own, ...document } = entry;
    queries
      .insert(documents)
      .values({ ...document, id, name, machine, program, updatedAt: known ? now : entry.updatedAt })
      .run();
    for (const version of own)
      queries
        .insert(versions)
        .values({ ...version, document: id })
        .run();
    return { id, name, what: known ? 'beside' : 'added' };
  });
}

/** Equal in what a person has written; revisions and times aside. */
function sameDocument(one: BackupDocument, other: BackupDocument): boolean {
  const written = ({ kind, name, machine, program, draft, versions: own }: BackupDocument): string =>
    JSON.stringify([kind, name, machine, program, draft, own.map((each) => [each.number, each.text, each.machineVersion, each.language])]);
  return written(one) === written(other);
}

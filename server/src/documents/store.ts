/** Documents in SQL: drafts with revisions, versions that never change. The only place with their queries. */
import { and, asc, desc, eq, sql } from 'drizzle-orm';
import type { CourseKind, DocumentDetail, DocumentSummary, DraftChange, Kind, NewDocument, VersionDetail } from '@zettak/api/documents';
import type { Database } from '../database';
import { HttpProblem } from '../problem';
import { documents, versions } from '../schema';

export type Clock = () => Date;

export interface DocumentStore {
  list(kind: Kind): DocumentSummary[];
  get(kind: Kind, id: string): DocumentDetail;
  create(kind: Kind, entry: NewDocument): DocumentDetail;
  saveDraft(kind: Kind, id: string, change: DraftChange): DocumentDetail;
  /** Keeps the draft for ever; a draft equal to the newest version makes no second one. */
  keepVersion(kind: Kind, id: string, revision: number): VersionDetail;
  version(kind: Kind, id: string, number: number): VersionDetail;
  remove(kind: CourseKind, id: string): void;
}

export function createDocumentStore(database: Database, now: Clock): DocumentStore {
  const stamp = (): string => now().toISOString();

  const versionsOf = (id: string): { number: number; createdAt: string }[] =>
    database
      .select({ number: versions.number, createdAt: versions.createdAt })
      .from(versions)
      .where(eq(versions.document, id))
      .orderBy(asc(versions.number))
      .all();

  const newestOf = (id: string) =>
    database.select().from(versions).where(eq(versions.document, id)).orderBy(desc(versions.number)).limit(1).get();

  const row = (kind: Kind, id: string) => {
    const found = database
      .select()
      .from(documents)
      .where(and(eq(documents.kind, kind), eq(documents.id, id)))
      .get();
    if (!found) throw new HttpProblem(404, `There is no ${kind} “${id}”.`);
    return found;
  };

  const detail = (kind: Kind, id: string): DocumentDetail => {
    const { draft, name, machine, revision, updatedAt } = row(kind, id);
    return { id, kind, name, machine, revision, updatedAt, draft, versions: versionsOf(id) };
  };

  const checkRevision = (kind: Kind, id: string, revision: number): void => {
    const current = row(kind, id);
    if (current.revision === revision) return;
    const detail = `This ${kind} was saved elsewhere meanwhile. Nothing was overwritten.`;
    throw new HttpProblem(409, detail, { revision: current.revision, text: current.draft });
  };

  /** Programs take parts in by name. */
  const refuseTwin = (name: string, machine: string): void => {
    const own = database
      .select()
      .from(documents)
      .where(and(eq(documents.kind, 'part'), eq(documents.machine, machine)))
      .all();
    const twin = own.find((each) => each.name.toLowerCase() === name.toLowerCase());
    if (twin) throw new HttpProblem(422, `The course has a part “${twin.name}” already.`);
  };

  return {
    list: (kind) => {
      const rows = database
        .select()
        .from(documents)
        .where(eq(documents.kind, kind))
        .orderBy(sql`rowid`)
        .all();
      return rows.map(({ id, name, machine, revision, updatedAt }) => ({
        id,
        kind,
        name,
        machine,
        revision,
        updatedAt,
        versions: versionsOf(id),
      }));
    },

    get: detail,

    create: (kind, { name, text, machine }) =>
      database.transaction(() => {
        if (kind !== 'machine') row('machine', machine ?? '');
        if (kind === 'part') refuseTwin(name, machine!);
        const id = freeId(name, (each) => database.select().from(documents).where(eq(documents.id, each)).get() !== undefined);
        const at = stamp();
        const entry = {
          id,
          kind,
          name,
          machine: kind === 'machine' ? null : machine!,
          draft: text,
          revision: 1,
          createdAt: at,
          updatedAt: at,
        };
        database.insert(documents).values(entry).run();
        return detail(kind, id);
      }),

    saveDraft: (kind, id, { text, revision, name }) =>
      database.transaction(() => {
        checkRevision(kind, id, revision);
        const change = { draft: text, revision: revision + 1, updatedAt: stamp(), ...(name && { name }) };
        database.update(documents).set(change).where(eq(documents.id, id)).run();
        return detail(kind, id);
      }),

    keepVersion: (kind, id, revision) =>
      database.transaction(() => {
        checkRevision(kind, id, revision);
        const { draft: text, machine } = row(kind, id);
        const newest = newestOf(id);
        if (newest?.text === text) return newest;
        const machineVersion = machine ? (newestOf(machine)?.number ?? null) : null;
        const entry = { document: id, number: (newest?.number ?? 0) + 1, text, machineVersion, createdAt: stamp() };
        database.insert(versions).values(entry).run();
        return entry;
      }),

    version: (kind, id, number) => {
      row(kind, id);
      const found = database
        .select()
        .from(versions)
        .where(and(eq(versions.document, id), eq(versions.number, number)))
        .get();
      if (!found) throw new HttpProblem(404, `The ${kind} “${id}” has no version ${number}.`);
      return found;
    },

    remove: (kind, id) =>
      database.transaction(() => {
        row(kind, id);
        database.delete(versions).where(eq(versions.document, id)).run();
        database.delete(documents).where(eq(documents.id, id)).run();
      }),
  };
}

/** The name in small letters and hyphens, with a number behind it where that is taken. */
function freeId(name: string, taken: (id: string) => boolean): string {
  const plain =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60) || 'untitled';
  for (let number = 1; ; number++) {
    const id = number === 1 ? plain : `${plain}-${number}`;
    if (!taken(id)) return id;
  }
}

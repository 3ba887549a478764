/** Documents in SQL: drafts with revisions, versions that never change. The only place with their queries. */
import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm';
import type { BackupDocument, Restored } from '@zettak/api/backup';
import type { DocumentDetail, DocumentSummary, DraftChange, NewDocument, VersionDetail } from '@zettak/api/documents';
import { courseKinds, type Kind } from '@zettak/api/kinds';
import { backupOf, restoreInto } from './backup';
import { freeIdIn } from './ids';
import { StoreProblem } from './storeProblem';
import type { Database } from '../database/database';
import { documents, versions } from '../database/schema';

export type Clock = () => Date;

/** What is kept of a draft besides its text. */
export interface Version {
  /** Of the draft that is meant. */
  readonly revision: number;
  /** Of machine documents. */
  readonly language: number;
  /** What the document is called in lists from now on. */
  readonly name?: string | undefined;
}

export interface DocumentStore {
  /** What stands on the shelf, or all, removed ones too. */
  list(kind: Kind, which?: 'shelf' | 'all'): DocumentSummary[];
  get(kind: Kind, id: string): DocumentDetail;
  create(kind: Kind, entry: NewDocument): DocumentDetail;
  saveDraft(kind: Kind, id: string, change: DraftChange): DocumentDetail;
  /** Keeps the draft for ever; one that says what the newest version says, for the same version of its machine, makes no second one. */
  keepVersion(kind: Kind, id: string, version: Version): VersionDetail;
  version(kind: Kind, id: string, number: number): VersionDetail;
  /** Taken off the shelf; refused for a machine that programs on the shelf are for. A removed one stays as it was. */
  remove(kind: Kind, id: string): void;
  /** Back on the shelf. */
  bringBack(kind: Kind, id: string): DocumentDetail;
  /**
   * Deleted for good, its versions with it, and with a machine the texts that the course keeps for it. Refused for a machine
   * that programs are for, removed ones too, and for what is on the shelf (texts of the course aside).
   */
  destroy(kind: Kind, id: string): void;
  /** Everything on the shelf and off it, with all versions. */
  backup(): BackupDocument[];
  /** Puts back what is missing; what is there with other contents gets a namesake beside it. Nothing is overwritten. */
  restore(entries: readonly BackupDocument[]): Restored[];
}

/** Documents in a database. Throws StoreProblem for what cannot be done, and then has changed nothing. */
export function createDocumentStore({ queries, write }: Database, now: Clock): DocumentStore {
  const stamp = (): string => now().toISOString();

  const versionsOf = (id: string): { number: number; createdAt: string }[] =>
    queries
      .select({ number: versions.number, createdAt: versions.createdAt })
      .from(versions)
      .where(eq(versions.document, id))
      .orderBy(asc(versions.number))
      .all();

  const newestOf = (id: string) =>
    queries.select().from(versions).where(eq(versions.document, id)).orderBy(desc(versions.number)).limit(1).get();

  const row = (kind: Kind, id: string) => {
    const found = queries
      .select()
      .from(documents)
      .where(and(eq(documents.kind, kind), eq(documents.id, id)))
      .get();
    if (!found) throw new StoreProblem('missing', `There is no ${kind} “${id}”.`);
    return found;
  };

  const detail = (kind: Kind, id: string): DocumentDetail => {
    const { draft, name, machine, program, revision, updatedAt, removedAt } = row(kind, id);
    return { id, kind, name, machine, program, revision, updatedAt, removedAt, draft, versions: versionsOf(id) };
  };

  const checkRevision = (kind: Kind, id: string, revision: number): void => {
    const current = row(kind, id);
    if (current.revision === revision) return;
    const detail = `This ${kind} was saved elsewhere meanwhile. Nothing was overwritten.`;
    throw new StoreProblem('changed', detail, { revision: current.revision, text: current.draft });
  };

  const refuseUsed = (id: string, onShelf: boolean): void => {
    const users = queries
      .select({ name: documents.name })
      .from(documents)
      .where(and(eq(documents.machine, id), eq(documents.kind, 'program'), onShelf ? isNull(documents.removedAt) : undefined))
      .all();
    const [first, ...more] = users;
    if (!first) return;
    const others = more.length === 0 ? '' : more.length === 1 ? ' and one more' : ` and ${more.length} more`;
    throw new StoreProblem(
      'refused',
      `“${first.name}”${others} ${more.length === 0 ? 'is' : 'are'} for this machine. Remove what is for it first.`,
    );
  };

  const drop = (id: string): void => {
    for (const ofIt of queries.select({ id: documents.id }).from(documents).where(eq(documents.program, id)).all()) drop(ofIt.id);
    queries.delete(versions).where(eq(versions.document, id)).run();
    queries.delete(documents).where(eq(documents.id, id)).run();
  };

  /** Programs take parts in by name. */
  const refuseTwin = (name: string, machine: string): void => {
    const own = queries
      .select()
      .from(documents)
      .where(and(eq(documents.kind, 'part'), eq(documents.machine, machine)))
      .all();
    const twin = own.find((each) => each.name.toLowerCase() === name.toLowerCase());
    if (twin) throw new StoreProblem('refused', `The course has a part “${twin.name}” already.`);
  };

  const refuseSecond = (program: string): void => {
    const found = queries.select({ id: documents.id }).from(documents).where(eq(documents.program, program)).get();
    if (found) throw new StoreProblem('refused', 'This program has its sets already.');
  };

  return {
    list: (kind, which = 'shelf') => {
      const { id, name, machine, program, revision, updatedAt, removedAt } = documents;
      const rows = queries
        .select({ id, name, machine, program, revision, updatedAt, removedAt, number: versions.number, createdAt: versions.createdAt })
        .from(documents)
        .leftJoin(versions, eq(versions.document, id))
        .where(and(eq(documents.kind, kind), which === 'shelf' ? isNull(documents.removedAt) : undefined))
        .orderBy(sql`${documents}.rowid`, asc(versions.number))
        .all();
      const found = new Map<string, DocumentSummary & { versions: { number: number; createdAt: string }[] }>();
      for (const { number, createdAt, ...own } of rows) {
        const summary = found.get(own.id) ?? { ...own, kind, versions: [] };
        found.set(own.id, summary);
        if (number !== null) summary.versions.push({ number, createdAt: createdAt! });
      }
      return [...found.values()];
    },

    get: detail,

    create: (kind, { name, text, program, ...rest }) =>
      write(() => {
        const machine = program === undefined ? rest.machine : (row('program', program).machine ?? undefined);
        if (program !== undefined) refuseSecond(program);
        if (kind !== 'machine') row('machine', machine ?? '');
        if (kind === 'part') refuseTwin(name, machine!);
        // Sets are called as their program, whose place in addresses they leave alone.
        const id = freeIdIn(queries, kind === 'trial' ? `sets ${name}` : name);
        const at = stamp();
        const entry = {
          id,
          kind,
          name,
          machine: kind === 'machine' ? null : machine!,
          program: program ?? null,
          draft: text,
          revision: 1,
          createdAt: at,
          updatedAt: at,
          removedAt: null,
        };
        queries.insert(documents).values(entry).run();
        return detail(kind, id);
      }),

    saveDraft: (kind, id, { text, revision, name }) =>
      write(() => {
        checkRevision(kind, id, revision);
        const change = { draft: text, revision: revision + 1, updatedAt: stamp(), ...(name && { name }) };
        queries.update(documents).set(change).where(eq(documents.id, id)).run();
        return detail(kind, id);
      }),

    keepVersion: (kind, id, { revision, language, name }) =>
      write(() => {
        checkRevision(kind, id, revision);
        if (name !== undefined) queries.update(documents).set({ name }).where(eq(documents.id, id)).run();
        const { draft: text, machine } = row(kind, id);
        const newest = newestOf(id);
        const machineVersion = machine ? (newestOf(machine)?.number ?? null) : null;
        if (newest?.text === text && newest.language === language && newest.machineVersion === machineVersion) return newest;
        const entry = { document: id, number: (newest?.number ?? 0) + 1, text, machineVersion, language, createdAt: stamp() };
        queries.insert(versions).values(entry).run();
        return entry;
      }),

    version: (kind, id, number) => {
      row(kind, id);
      const found = queries
        .select()
        .from(versions)
        .where(and(eq(versions.document, id), eq(versions.number, number)))
        .get();
      if (!found) throw new StoreProblem('missing', `The ${kind} “${id}” has no version ${number}.`);
      return found;
    },

    remove: (kind, id) =>
      write(() => {
        row(kind, id);
        if (kind === 'machine') refuseUsed(id, true);
        queries.update(documents).set({ removedAt: stamp() }).where(eq(documents.id, id)).run();
      }),

    bringBack: (kind, id) =>
      write(() => {
        const { machine } = row(kind, id);
        if (machine) queries.update(documents).set({ removedAt: null }).where(eq(documents.id, machine)).run();
        queries.update(documents).set({ removedAt: null }).where(eq(documents.id, id)).run();
        return detail(kind, id);
      }),

    destroy: (kind, id) =>
      write(() => {
        const { removedAt, name } = row(kind, id);
        const ofCourse = kind === 'trial' || (courseKinds as readonly Kind[]).includes(kind);
        if (removedAt === null && !ofCourse)
          throw new StoreProblem('refused', `“${name}” is on the shelf. Remove it first; then it can be deleted for good.`);
        if (kind === 'machine') {
          refuseUsed(id, false);
          const ofIt = queries.select({ id: documents.id }).from(documents).where(eq(documents.machine, id)).all();
          for (const text of ofIt) drop(text.id);
        }
        drop(id);
      }),

    backup: () => backupOf(queries),
    restore: (entries) => write(() => restoreInto(queries, entries, stamp())),
  };
}

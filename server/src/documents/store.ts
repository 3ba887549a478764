/** Documents in SQL: drafts with revisions, versions that never change. The only place with their queries. */
import { and, asc, desc, eq, like, or, sql } from 'drizzle-orm';
import type { DocumentDetail, DocumentSummary, DraftChange, NewDocument, VersionDetail } from '@zettak/api/documents';
import type { CourseKind, Kind } from '@zettak/api/kinds';
import type { Database } from '../database/database';
import { documents, versions } from '../database/schema';

export type Clock = () => Date;

/** Why a store refuses: there is no such document, it was changed meanwhile, or the change makes no sense. */
export class StoreProblem extends Error {
  constructor(
    readonly kind: 'missing' | 'changed' | 'refused',
    sentence: string,
    /** What the caller needs to go on. */
    readonly more: Readonly<Record<string, unknown>> = {},
  ) {
    super(sentence);
  }
}

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
  list(kind: Kind): DocumentSummary[];
  get(kind: Kind, id: string): DocumentDetail;
  create(kind: Kind, entry: NewDocument): DocumentDetail;
  saveDraft(kind: Kind, id: string, change: DraftChange): DocumentDetail;
  /** Keeps the draft for ever; a draft equal to the newest version makes no second one. */
  keepVersion(kind: Kind, id: string, version: Version): VersionDetail;
  version(kind: Kind, id: string, number: number): VersionDetail;
  remove(kind: CourseKind, id: string): void;
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
    const { draft, name, machine, revision, updatedAt } = row(kind, id);
    return { id, kind, name, machine, revision, updatedAt, draft, versions: versionsOf(id) };
  };

  const checkRevision = (kind: Kind, id: string, revision: number): void => {
    const current = row(kind, id);
    if (current.revision === revision) return;
    const detail = `This ${kind} was saved elsewhere meanwhile. Nothing was overwritten.`;
    throw new StoreProblem('changed', detail, { revision: current.revision, text: current.draft });
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

  return {
    list: (kind) => {
      const { id, name, machine, revision, updatedAt } = documents;
      const rows = queries
        .select({ id, name, machine, revision, updatedAt, number: versions.number, createdAt: versions.createdAt })
        .from(documents)
        .leftJoin(versions, eq(versions.document, id))
        .where(eq(documents.kind, kind))
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

    create: (kind, { name, text, machine }) =>
      write(() => {
        if (kind !== 'machine') row('machine', machine ?? '');
        if (kind === 'part') refuseTwin(name, machine!);
        const id = freeId(name, (plain) =>
          queries
            .select({ id: documents.id })
            .from(documents)
            .where(or(eq(documents.id, plain), like(documents.id, `${plain}-%`)))
            .all(),
        );
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
        if (newest?.text === text && newest.language === language) return newest;
        const machineVersion = machine ? (newestOf(machine)?.number ?? null) : null;
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
        queries.delete(versions).where(eq(versions.document, id)).run();
        queries.delete(documents).where(eq(documents.id, id)).run();
      }),
  };
}

/** The name in small letters and hyphens, with a number behind it where that is taken. */
function freeId(name: string, alike: (plain: string) => readonly { readonly id: string }[]): string {
  const plain =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60) || 'untitled';
  const taken = new Set(alike(plain).map((each) => each.id));
  let id = plain;
  for (let number = 2; taken.has(id); number++) id = `${plain}-${number}`;
  return id;
}

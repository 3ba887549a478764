/**
 * Documents of a lesson, kept in this browser alone: what a page works with that has no server of documents behind it. The
 * same questions and answers as the server's, so that no screen knows the difference.
 */
import { createStore, get, set, type UseStore } from 'idb-keyval';
import type { BackupDocument } from '@zettak/api/backup';
import type { DocumentDetail, DocumentSummary, VersionDetail } from '@zettak/api/documents';
import type { Kind } from '@zettak/api/kinds';
import type { Results } from '@zettak/api/results';
import { freeId, plainId } from '@zettak/core/text/ids';
import { Refused, type Client } from './client';

/** A document as it is kept; `given`: what the lesson brought, so that a newer state of it is told from one's own. */
interface Kept extends BackupDocument {
  readonly given?: string;
}

export interface LessonDocuments {
  readonly client: Client;
  /** Told of every text that is saved. */
  onSaved: (kind: Kind, id: string, text: string) => unknown;
  onResults: (rows: string) => void;
}

const NO_SERVER = 'A lesson keeps its documents in this browser; this can be done where it was made.';

function missing(kind: Kind, id: string): never {
  throw new Refused(404, `There is no ${kind} “${id}” in this lesson.`);
}

/** What of a kept document stands in lists. */
function summaryOf({ id, kind, name, machine, program, revision, updatedAt, removedAt, versions }: Kept): DocumentSummary {
  return {
    id,
    kind,
    name,
    machine,
    program,
    revision,
    updatedAt,
    removedAt,
    versions: versions.map(({ number, createdAt }) => ({ number, createdAt })),
  };
}

const detailOf = (kept: Kept): DocumentDetail => ({ ...summaryOf(kept), draft: kept.draft });

/**
 * Opens what this browser keeps of a lesson, and adds what the lesson brings anew: texts that nobody has changed here are
 * replaced, one's own work stays.
 */
export async function openLessonDocuments(
  lesson: string,
  brought: readonly BackupDocument[],
  {
    now = () => new Date(),
    over = false,
  }: { readonly now?: () => Date; /** What is brought counts over one's own work. */ readonly over?: boolean } = {},
): Promise<LessonDocuments> {
  const store = createStore(`zettak-lesson-${lesson}`, 'documents');
  const held = await heldIn(store, brought, over);
  const told: Pick<LessonDocuments, 'onSaved' | 'onResults'> = { onSaved: () => undefined, onResults: () => undefined };
  const rows: { results: readonly Results[] } = { results: [] };

  const find = (kind: Kind, id: string): Kept => {
    const found = held.get(id);
    return found?.kind === kind ? found : missing(kind, id);
  };
  /** Another tab may have saved meanwhile: what is kept counts. */
  const fresh = async (kind: Kind, id: string): Promise<Kept> => {
    const own = find(kind, id);
    const kept = await get<Kept>(id, store).catch(() => undefined);
    if (kept && kept.revision > own.revision) held.set(id, kept);
    return find(kind, id);
  };
  const put = async (kept: Kept): Promise<DocumentDetail> => {
    held.set(kept.id, kept);
    await set(kept.id, kept, store);
    await set('ids', [...held.keys()], store);
    return detailOf(kept);
  };

  const client: Client = {
    list: async (kind) => [...held.values()].filter((each) => each.kind === kind && each.removedAt === null).map(summaryOf),
    removed: async (kind) => [...held.values()].filter((each) => each.kind === kind && each.removedAt !== null).map(summaryOf),
    get: async (kind, id) => detailOf(await fresh(kind, id)),
    create: async (kind, { name, text, machine, program }) => {
      const at = now().toISOString();
      const id = freeId(plainId(name), held);
      const of = machine ?? (program === undefined ? undefined : find('program', program).machine) ?? null;
      const entry = { id, kind, name, machine: of, program: program ?? null, draft: text, revision: 1 };
      return put({ ...entry, createdAt: at, updatedAt: at, removedAt: null, versions: [] });
    },
    saveDraft: async (kind, id, { text, revision, name }) => {
      const kept = await fresh(kind, id);
      if (kept.revision !== revision)
        throw new Refused(409, 'This was saved elsewhere meanwhile. Nothing was overwritten.', {
          revision: kept.revision,
          text: kept.draft,
        });
      const saved = await put({
        ...kept,
        draft: text,
        revision: revision + 1,
        updatedAt: now().toISOString(),
        ...(name !== undefined && { name }),
      });
      told.onSaved(kind, id, text);
      return saved;
    },
    keepVersion: async (kind, id, revision) => {
      const kept = await fresh(kind, id);
      if (kept.revision !== revision)
        throw new Refused(409, 'This was saved elsewhere meanwhile.', { revision: kept.revision, text: kept.draft });
      const newest = kept.versions.at(-1);
      const { language = 1 } = newest ?? {};
      const version = {
        number: (newest?.number ?? 0) + 1,
        text: kept.draft,
        machineVersion: null,
        language,
        createdAt: now().toISOString(),
      };
      if (newest?.text !== kept.draft) await put({ ...kept, versions: [...kept.versions, version] });
      return versionOf(id, newest?.text === kept.draft ? newest : version);
    },
    version: async (kind, id, number) => {
      const found = find(kind, id).versions.find((each) => each.number === number);
      return found ? versionOf(id, found) : missing(kind, `${id}, version ${number}`);
    },
    remove: async (kind, id) => void (await put({ ...(await fresh(kind, id)), removedAt: now().toISOString() })),
    bringBack: async (kind, id) => put({ ...(await fresh(kind, id)), removedAt: null }),
    destroy: async (kind, id) => void (await put({ ...(await fresh(kind, id)), removedAt: now().toISOString() })),
    backup: async () => ({ format: 'zettak backup', version: 1, documents: [...held.values()].map(({ given: _, ...each }) => each) }),
    restore: () => Promise.reject(new Refused(403, NO_SERVER)),
    results: async () => [...rows.results],
    keepResults: async (_program, key, text) => {
      rows.results = [{ key, rows: text, createdAt: now().toISOString() }, ...rows.results.filter((each) => each.key !== key)].slice(0, 5);
      told.onResults(text);
    },
  };
  return Object.assign(told, { client });
}

const versionOf = (document: string, version: BackupDocument['versions'][number]): VersionDetail => ({ document, ...version });

async function heldIn(store: UseStore, brought: readonly BackupDocument[], over: boolean): Promise<Map<string, Kept>> {
  const ids = (await get<string[]>('ids', store).catch(() => undefined)) ?? [];
  const held = new Map<string, Kept>();
  for (const id of ids) {
    const kept = await get<Kept>(id, store).catch(() => undefined);
    if (kept) held.set(id, kept);
  }
  for (const each of brought) {
    const kept = held.get(each.id);
    const untouched = over || !kept || kept.draft === kept.given;
    if (kept && kept.given === each.draft && (!over || kept.draft === each.draft)) continue;
    const anew: Kept = untouched ? { ...each, revision: (kept?.revision ?? 0) + 1, given: each.draft } : { ...kept, given: each.draft };
    held.set(each.id, anew);
    await set(each.id, anew, store).catch(() => undefined);
  }
  await set('ids', [...held.keys()], store).catch(() => undefined);
  return held;
}

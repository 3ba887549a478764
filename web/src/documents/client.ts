/** Speaks HTTP with the server that this page came from; the only place that fetches (courses: courseClient). */
import { isAway, keptAnswers } from './keptAnswers';
import { AWAY } from './reachable';
import type { DocumentDetail, DocumentSummary, VersionDetail } from '@zettak/api/documents';
import type { Backup, Restored } from '@zettak/api/backup';
import type { Kind } from '@zettak/api/kinds';
import type { Results } from '@zettak/api/results';

/** The server answered with a problem. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly detail: string,
    /** With 409: what is saved now. */
    readonly current?: { readonly revision: number; readonly text: string },
  ) {
    super(detail);
  }
}

/** The server did not answer at all. */
export class Unreachable extends Error {}

/** Fields of an answer, as far as it is one of ours. */
const fieldsOf = (answer: unknown): Readonly<Record<string, unknown>> =>
  typeof answer === 'object' && answer !== null ? (answer as Record<string, unknown>) : {};

/** What the server keeps now, where it refused an older revision. */
function currentOf(answer: unknown): Refused['current'] {
  const { revision, text } = fieldsOf(answer);
  return typeof revision === 'number' && typeof text === 'string' ? { revision, text } : undefined;
}

/** ms after which the server counts as away: it gives up waiting for its database earlier, and says so. */
const PATIENCE = 30_000;

/** Asks the server. `more`: headers. Throws Refused with its sentence, or Unreachable. */
export async function call<T>(method: string, path: string, body?: unknown, more: Readonly<Record<string, string>> = {}): Promise<T> {
  let response: Response;
  try {
    const type: Record<string, string> = body === undefined ? {} : { 'content-type': 'application/json' };
    // No page of another origin can set this header; what is only asked for may come with the page already, which has none.
    const headers = { ...(method !== 'GET' && { 'x-zettak': '1' }), ...type, ...more };
    const signal = AbortSignal.timeout(PATIENCE);
    response = await fetch(path, { method, headers, signal, ...(body !== undefined && { body: JSON.stringify(body) }) });
  } catch {
    throw new Unreachable(AWAY);
  }
  const answer: unknown = response.status === 204 ? undefined : await response.json().catch(() => undefined);
  const understood = response.status === 204 || typeof answer === 'object';
  if (response.ok && understood) return answer as T;
  if (response.ok) throw new Unreachable('What answered is not the server of Zettak.');
  const { detail } = fieldsOf(answer);
  throw new Refused(response.status, typeof detail === 'string' ? detail : `The server answered ${response.status}.`, currentOf(answer));
}

/** Asks for something; while the server does not answer, what it answered last. */
async function read<T>(path: string): Promise<T> {
  try {
    const answer = await call<T>('GET', path);
    keptAnswers().keep(path, answer);
    return answer;
  } catch (error) {
    const kept = error instanceof Unreachable ? await keptAnswers().of(path) : undefined;
    if (!kept) throw error;
    isAway(kept.at);
    return kept.answer as T;
  }
}

/** A document as it was just saved is what is seen of it without the server. */
async function seen(kind: Kind, saving: Promise<DocumentDetail>): Promise<DocumentDetail> {
  const document = await saving;
  keptAnswers().keep(path(kind, document.id), document);
  return document;
}

const path = (kind: Kind, ...rest: (string | number)[]): string => ['/api', `${kind}s`, ...rest].map(String).join('/');

const server = {
  list: (kind: Kind): Promise<DocumentSummary[]> => read(path(kind)),
  /** Those that were removed and can be brought back. */
  removed: async (kind: Kind): Promise<DocumentSummary[]> =>
    (await read<DocumentSummary[]>(`${path(kind)}?all=yes`)).filter((each) => each.removedAt !== null),
  bringBack: (kind: Kind, id: string): Promise<DocumentDetail> => call('POST', path(kind, id, 'back')),
  destroy: (kind: Kind, id: string): Promise<void> => call('DELETE', `${path(kind, id)}?for=good`),
  backup: (): Promise<Backup> => call('GET', '/api/backup'),
  restore: (backup: Backup): Promise<{ restored: Restored[] }> => call('POST', '/api/backup', backup),
  results: (program: string): Promise<Results[]> => read(`/api/results/${program}`),
  keepResults: (program: string, key: string, rows: string): Promise<void> => call('PUT', `/api/results/${program}/${key}`, { rows }),
  get: (kind: Kind, id: string): Promise<DocumentDetail> => read(path(kind, id)),
  create: (kind: Kind, entry: { name: string; text: string; machine?: string; program?: string }): Promise<DocumentDetail> =>
    seen(kind, call('POST', path(kind), entry)),
  saveDraft: (kind: Kind, id: string, change: { text: string; revision: number; name?: string }): Promise<DocumentDetail> =>
    seen(kind, call('PUT', path(kind, id, 'draft'), change)),
  keepVersion: (kind: Kind, id: string, revision: number): Promise<VersionDetail> => call('POST', path(kind, id, 'versions'), { revision }),
  /** Machines and programs can be brought back afterwards; texts of the course cannot. */
  remove: (kind: Kind, id: string): Promise<void> => call('DELETE', path(kind, id)),
  version: (kind: Kind, id: string, number: number): Promise<VersionDetail> => read(path(kind, id, 'versions', number)),
};

/** What can be asked about documents, of whoever keeps them. */
export type Client = typeof server;

/** Who is asked: the server, or in a lesson this browser. Chosen once, before the first screen. */
const keeper: { client: Client } = { client: server };
export const keepIn = (client: Client): void => void (keeper.client = client);

/** Documents, wherever they are kept. */
export const client: Client = Object.fromEntries(
  (Object.keys(server) as (keyof Client)[]).map((name) => [
    name,
    (...of: never[]) => (keeper.client[name] as (...of: never[]) => unknown)(...of),
  ]),
) as Client;

/** Speaks HTTP with the server; the only place that fetches. Every answer goes through its schema. */
import { z } from 'zod';
import {
  documentDetail,
  documentSummary,
  problemDetail,
  versionDetail,
  type CourseKind,
  type DocumentDetail,
  type DocumentSummary,
  type Kind,
  type VersionDetail,
} from '@zettak/api/documents';

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

const conflict = z.object({ revision: z.number(), text: z.string() });

async function call<T>(schema: z.ZodType<T>, method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    const init = body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } };
    response = await fetch(path, { method, ...init });
  } catch {
    throw new Unreachable('The server cannot be reached.');
  }
  const answer: unknown = response.status === 204 ? undefined : await response.json().catch(() => undefined);
  if (response.ok) return schema.parse(answer);
  const problem = problemDetail.safeParse(answer);
  const current = conflict.safeParse(answer);
  const detail = problem.success ? problem.data.detail : `The server answered ${response.status}.`;
  throw new Refused(response.status, detail, current.success ? current.data : undefined);
}

const path = (kind: Kind, ...rest: (string | number)[]): string => ['/api', `${kind}s`, ...rest].map(String).join('/');

export const client = {
  list: (kind: Kind): Promise<DocumentSummary[]> => call(z.array(documentSummary), 'GET', path(kind)),
  get: (kind: Kind, id: string): Promise<DocumentDetail> => call(documentDetail, 'GET', path(kind, id)),
  create: (kind: Kind, entry: { name: string; text: string; machine?: string }): Promise<DocumentDetail> =>
    call(documentDetail, 'POST', path(kind), entry),
  saveDraft: (kind: Kind, id: string, change: { text: string; revision: number; name?: string }): Promise<DocumentDetail> =>
    call(documentDetail, 'PUT', path(kind, id, 'draft'), change),
  keepVersion: (kind: Kind, id: string, revision: number): Promise<VersionDetail> =>
    call(versionDetail, 'POST', path(kind, id, 'versions'), { revision }),
  remove: (kind: CourseKind, id: string): Promise<void> => call(z.undefined(), 'DELETE', path(kind, id)),
  version: (kind: Kind, id: string, number: number): Promise<VersionDetail> =>
    call(versionDetail, 'GET', path(kind, id, 'versions', number)),
};

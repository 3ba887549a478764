/** What tests of the bench’s own side put in place of a worker, a server and a page. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BackupDocument } from '@zettak/api/backup';
import { Session } from '@zettak/core/session/session';
import type { View } from '@zettak/core/session/protocol';
import { keepIn } from '../documents/client';
import { openLessonDocuments } from '../documents/lessonClient';
import { far, memory, scheduler } from './page';

const PARTS = ['texts', 'run', 'hand', 'past', 'counting', 'files', 'definition', 'soFar'];

/** The page's end of an engine, as `session/engine` has it: a session that answers later and shares nothing. */
export function benchEngine() {
  const session = new Session(scheduler);
  return {
    engine: far(session, PARTS),
    onView: (listener: (view: View) => void): Promise<void> =>
      Promise.resolve(session.subscribe((view) => listener(structuredClone(view)))),
    viewShown: () => session.shown(),
    onFailure: (): Promise<void> => Promise.resolve(),
  };
}

/** As much of a page as the bench looks at when it begins. */
export function becomePage(): void {
  Object.assign(globalThis, {
    ...{ localStorage: memory(), sessionStorage: memory(), addEventListener: () => undefined },
    ...{
      location: { pathname: '/bench', hash: '', href: 'http://localhost/bench' },
      history: { state: null, replaceState: () => undefined },
    },
    document: { hidden: true },
    matchMedia: () => ({ matches: true }),
  });
  Object.assign(globalThis, { window: globalThis });
}

export const demoText = (path: string): string => readFileSync(join(__dirname, '../../../demo', path), 'utf8');

const at = '2026-11-02T08:00:00.000Z';
const plain = { machine: null, program: null, revision: 1, createdAt: at, updatedAt: at, removedAt: null, versions: [] };

/** A machine of the demo with its first version. */
export function machineDocument(id: string, name: string): BackupDocument {
  const text = demoText(`machines/${id}.yaml`);
  const version = { number: 1, text, machineVersion: null, language: 1, createdAt: at };
  return { ...plain, id, kind: 'machine', name, draft: text, versions: [version] };
}

/** A document without versions, of a machine where it has one. */
export const draftDocument = (kind: BackupDocument['kind'], id: string, draft: string, machine: string | null = null): BackupDocument => ({
  ...{ ...plain, id, kind, name: id.replace('-', ' '), machine, draft },
});

/** The bench's own side on documents of a test's own; read once the page is there. */
export async function benchOn(name: string, documents: readonly BackupDocument[]) {
  keepIn((await openLessonDocuments(name, documents)).client);
  return {
    ...{ ...(await import('../bench/opening')), ...(await import('../bench/run')), ...(await import('../bench/document')) },
    ...{ ...(await import('../bench/text')), ...(await import('../bench/loading')), ...(await import('../bench/link')) },
    ...(await import('../bench/predictions')),
    engine: (await import('../session/engine')).engine,
  };
}
export type OnBench = Awaited<ReturnType<typeof benchOn>>;

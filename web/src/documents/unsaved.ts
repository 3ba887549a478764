/**
 * Texts that the server has not got yet, in the browser's database, under the document and the tab that they belong to.
 * What is still on its way there when a page is left goes to the browser's small storage, and is taken along from there.
 */
import { createStore, del, entries, set, type UseStore } from 'idb-keyval';
import type { Kind } from '@zettak/api/kinds';
import { forget, keep, keptNames, keptValue } from '../app/preferences';

export interface Pending {
  readonly text: string;
  readonly revision: number;
  /** When it was typed, in ms. */
  readonly at: number;
}

/** Each tab keeps its own text of a document, so that none can drop another's. */
const stem = (kind: Kind, id: string): string => `draft.${kind}.${id}`;
/** The name under which a tab keeps its text of a document. */
export const nameFor = (kind: Kind, id: string, tab: string): string => `${stem(kind, id)}#${tab}`;

/** The tab that a text belongs to; undefined for texts of before there were tabs. */
export const ownerOf = (name: string): string | undefined => name.split('#')[1];

export interface Unsaved {
  /** Every text of a document, whichever tab it belongs to. */
  of(kind: Kind, id: string): Promise<{ readonly name: string; readonly pending: Pending }[]>;
  /** Resolves when it is safe, or there was no room. */
  put(name: string, pending: Pending): Promise<void>;
  drop(name: string): Promise<void>;
}

/** Rubbish counts as nothing. */
function readPending(value: unknown): Pending | undefined {
  const { text, revision, at } = (value ?? {}) as Partial<Pending>;
  return typeof text === 'string' && typeof revision === 'number' ? { text, revision, at: typeof at === 'number' ? at : 0 } : undefined;
}

/** A database that does not answer for so many ms is left alone: what lies in it stays there. */
const PATIENCE = 3000;
async function patiently<T>(work: Promise<T>, otherwise: T): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<T>((resolve) => {
    timer = setTimeout(() => resolve(otherwise), PATIENCE);
  });
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}

export class BrowserUnsaved implements Unsaved {
  private readonly store: UseStore;
  /** Not safe yet. */
  private readonly onTheirWay = new Map<string, Pending>();
  private last: Promise<unknown> = Promise.resolve();

  constructor(store = createStore('zettak', 'drafts')) {
    this.store = store;
  }

  /** The page is being left: nothing more is written in time. */
  leave(): void {
    for (const [name, pending] of this.onTheirWay) keep(name, JSON.stringify(pending));
  }

  async of(kind: Kind, id: string): Promise<{ readonly name: string; readonly pending: Pending }[]> {
    await patiently(this.takeAlong(), undefined);
    const beginning = stem(kind, id);
    const all = await patiently(
      entries(this.store).catch(() => []),
      [],
    );
    return all.flatMap(([name, value]) => {
      const pending = typeof name === 'string' && (name === beginning || name.startsWith(`${beginning}#`)) && readPending(value);
      return pending ? [{ name, pending }] : [];
    });
  }

  put(name: string, pending: Pending): Promise<void> {
    this.onTheirWay.set(name, pending);
    return this.after(async () => {
      await set(name, pending, this.store);
      if (this.onTheirWay.get(name) === pending) this.onTheirWay.delete(name);
    });
  }

  drop(name: string): Promise<void> {
    this.onTheirWay.delete(name);
    return this.after(() => del(name, this.store));
  }

  /** One after another, so that the last word on a text is the last. Without room the server still gets it. */
  private after(act: () => Promise<void>): Promise<void> {
    const done = this.last.then(act).catch(() => undefined);
    this.last = done;
    return done;
  }

  private async takeAlong(): Promise<void> {
    for (const name of keptNames('draft.')) {
      const pending = readPending(keptValue(name));
      if (pending)
        await set(name, pending, this.store).then(
          () => forget(name),
          () => undefined,
        );
      else forget(name);
    }
  }
}

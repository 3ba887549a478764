/** Workers that the page’s first script has made already. */

const { begunWorkers } = globalThis as { readonly begunWorkers?: Readonly<Record<string, Worker>> };

/** The one that was begun under a name; undefined where none was, and the caller makes it. */
export const begunWorker = (name: string): Worker | undefined => begunWorkers?.[name];

/** The engine's worker. A file of its own: the server has pages begin with it, so that it is read and compiled while the page is. */
export const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });

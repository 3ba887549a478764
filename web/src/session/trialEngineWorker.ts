/** The worker that runs trials. A file of its own, with which pages of trials begin. */
export const worker = new Worker(new URL('./trialWorker.ts', import.meta.url), { type: 'module' });

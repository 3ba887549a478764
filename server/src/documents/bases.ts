/** The machines that others may be based on. */
import type { DocumentStore } from './store';

/** Newest versions of all machines by name in small letters, where a document is based on one. */
export function basesFor(text: string, store: DocumentStore): Record<string, string> {
  if (!/^based on:/m.test(text)) return {};
  const newest = store.list('machine').flatMap(({ id, name, versions }) => {
    const number = versions.at(-1)?.number;
    return number === undefined ? [] : [[name.toLowerCase(), store.version('machine', id, number).text] as const];
  });
  return Object.fromEntries(newest);
}

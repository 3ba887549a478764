/** Ids of documents, as they stand in addresses of pages: small letters, digits, hyphens, at most 60 of them. */

/** The name in small letters and hyphens. */
export const plainId = (name: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60) || 'untitled';

/** A plain id with a number behind it where it is taken. */
export function freeId(plain: string, taken: ReadonlySet<string> | ReadonlyMap<string, unknown>): string {
  let id = plain;
  for (let number = 2; taken.has(id); number++) id = `${plain}-${number}`;
  return id;
}

/** Ids of documents, as they stand in addresses of pages. */
import { eq, like, or } from 'drizzle-orm';
import type { Queries } from '../database/database';
import { documents } from '../database/schema';

/** The name in small letters and hyphens, with a number behind it where that is taken. */
export function freeIdIn(queries: Queries, name: string): string {
  const plain = plainId(name);
  const alike = queries
    .select({ id: documents.id })
    .from(documents)
    .where(or(eq(documents.id, plain), like(documents.id, `${plain}-%`)))
    .all();
  return freeId(
    plain,
    alike.map((each) => each.id),
  );
}

/** The name in small letters and hyphens. */
export const plainId = (name: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60) || 'untitled';

/** A plain id with a number behind it where it is taken. */
export function freeId(plain: string, others: readonly string[]): string {
  const taken = new Set(others);
  let id = plain;
  for (let number = 2; taken.has(id); number++) id = `${plain}-${number}`;
  return id;
}

/** Ids of documents, as they stand in addresses of pages. */
import { eq, like, or } from 'drizzle-orm';
import { freeId, plainId } from '@zettak/core/text/ids';
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
  return freeId(plain, new Set(alike.map((each) => each.id)));
}

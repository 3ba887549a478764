/** How much the link of an assignment takes: by student and in all. A class of sixty never meets these bounds. */
import { and, count, eq, isNotNull, sql } from 'drizzle-orm';
import { grouped } from '@zettak/core/text/number';
import type { Queries } from '../database/database';
import { handIns } from '../database/schema';
import { StoreProblem } from '../documents/storeProblem';

const MB = 1_000_000;
/** Hand-ins of one student, and their characters in all. */
export const MOST_OF_STUDENT = 200;
const MOST_SIZE_OF_STUDENT = 60 * MB;
/** Characters of all that came through one link. */
const MOST_SIZE_OF_ALL = 4000 * MB;

/** Throws a StoreProblem where a hand-in of so many characters has no room. Nothing is read but sizes. */
export function checkRoom(queries: Queries, assignment: string, { studentHash, bytes }: { studentHash: string; bytes: number }): void {
  const used = (which: ReturnType<typeof and>) =>
    queries
      .select({ count: count(), size: sql<number>`coalesce(sum(${handIns.size}), 0)` })
      .from(handIns)
      .where(which)
      .get()!;
  const own = used(and(eq(handIns.assignment, assignment), eq(handIns.studentHash, studentHash)));
  if (own.count >= MOST_OF_STUDENT)
    throw new StoreProblem('refused', `You have handed in ${grouped(MOST_OF_STUDENT)} times. Ask your teacher. Nothing was taken.`);
  if (own.size + bytes > MOST_SIZE_OF_STUDENT)
    throw new StoreProblem('refused', `Your hand-ins take ${MOST_SIZE_OF_STUDENT / MB} MB already. Ask your teacher. Nothing was taken.`);
  if (used(and(eq(handIns.assignment, assignment), isNotNull(handIns.studentHash))).size + bytes > MOST_SIZE_OF_ALL)
    throw new StoreProblem('refused', 'This assignment has no room for more hand-ins. Tell your teacher. Nothing was taken.');
}

/** What students reach: the assignment as they may see it, their drafts, their hand-ins and receipts. Tokens come here hashed. */
import { createHmac, timingSafeEqual } from 'node:crypto';
import { and, asc, eq, sql, type SQL } from 'drizzle-orm';
import { contentOf, type PublicAssignment, type Receipt } from '@zettak/api/work';
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import { readLessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { forStudents } from '@zettak/core/trials/handIns/course';
import { newToken, tokenHash } from '../access/tokens';
import type { Settings } from '../access/settings';
import type { Database } from '../database/database';
import { assignments, handIns, works } from '../database/schema';
import type { Clock } from '../documents/store';
import { StoreProblem } from '../documents/storeProblem';
import { arrivingBundle } from '../handIns/arriving';
import { checkRoom } from '../handIns/room';
import type { HandInStore } from '../handIns/store';

export interface WorkStore {
  /** A new link for an assignment; an earlier one ends. The token, which is kept nowhere. */
  link(assignment: string): string;
  unlink(assignment: string): void;
  /** What a student with the link may see. */
  assignment(token: string): PublicAssignment;
  draft(token: string, student: string): string | undefined;
  saveDraft(token: string, student: string, content: string): void;
  handIn(token: string, student: string, bundle: string): Receipt;
  /** Of one student, oldest first. */
  receipts(token: string, student: string): Receipt[];
  /** Whether a receipt is one that this server has signed. */
  isOurs(receipt: Receipt): boolean;
}

interface WorkParts {
  readonly database: Database;
  readonly handIns: HandInStore;
  readonly settings: Settings;
  readonly now: Clock;
}

export function createWorkStore({ database: { queries, write }, handIns: taken, settings, now }: WorkParts): WorkStore {
  const byToken = (token: string) => {
    const found = queries
      .select()
      .from(assignments)
      .where(eq(assignments.tokenHash, tokenHash(token)))
      .get();
    if (!found) throw new StoreProblem('missing', 'This link leads to no assignment. Ask for the present one.');
    return found;
  };

  const opened = (token: string) => {
    const found = byToken(token);
    if (stateOf(found, now()) === 'before') throw new StoreProblem('refused', `${found.name} has not opened yet.`);
    return found;
  };

  const signatureOf = (content: Omit<Receipt, 'signature'>): string =>
    createHmac('sha256', Buffer.from(settings.secret('receipts'), 'hex'))
      .update(JSON.stringify(content))
      .digest('hex');

  const signed = (content: Omit<Receipt, 'signature'>): Receipt => ({ ...content, signature: signatureOf(content) });

  const receipt = (
    { id, name, closesAt }: Pick<typeof assignments.$inferSelect, 'id' | 'name' | 'closesAt'>,
    { label, number, hash, arrivedAt }: Pick<Receipt, 'label' | 'number' | 'hash' | 'arrivedAt'>,
  ): Receipt => {
    const late = closesAt !== null && Date.parse(arrivedAt) > Date.parse(closesAt);
    return signed({ zettak: 'receipt', assignment: id, name, label, number, hash, arrivedAt, late });
  };

  const receiptsWhere = (own: typeof assignments.$inferSelect, which: SQL | undefined): Receipt[] =>
    queries
      .select({
        ...{ label: handIns.label, number: handIns.number, arrivedAt: handIns.arrivedAt },
        // A bundle's own sum is over more than its source.
        hash: sql<string>`coalesce(${handIns.bundleHash}, ${handIns.hash})`,
      })
      .from(handIns)
      .where(which)
      .orderBy(asc(handIns.id))
      .all()
      .map((each) => receipt(own, each));

  return {
    link: (assignment) =>
      write(() => {
        const token = newToken();
        const { changes } = queries
          .update(assignments)
          .set({ tokenHash: tokenHash(token) })
          .where(eq(assignments.id, assignment))
          .run();
        if (changes === 0) throw new StoreProblem('missing', `There is no assignment “${assignment}”.`);
        return token;
      }),

    unlink: (assignment) =>
      write(() => void queries.update(assignments).set({ tokenHash: null }).where(eq(assignments.id, assignment)).run()),

    assignment: (token) => {
      const found = byToken(token);
      const { id, name, problem, machineName, machineVersion, opensAt, closesAt } = found;
      const state = stateOf(found, now());
      if (state === 'before') return { id, name, opensAt, closesAt, state };
      const { texts, hidden, key } = forStudents(JSON.parse(found.texts) as AssignmentTexts);
      return {
        id,
        name,
        opensAt,
        closesAt,
        state,
        content: contentOf({ problem, machineName, machineVersion, texts, hidden, key, bench: readLessonBench(found.bench) }),
      };
    },

    draft: (token, student) => {
      const { id } = byToken(token);
      return queries
        .select({ content: works.content })
        .from(works)
        .where(and(eq(works.assignment, id), eq(works.studentHash, tokenHash(student))))
        .get()?.content;
    },

    saveDraft: (token, student, content) =>
      write(() => {
        const { id: assignment } = opened(token);
        const entry = { content, updatedAt: now().toISOString() };
        queries
          .insert(works)
          .values({ assignment, studentHash: tokenHash(student), ...entry })
          .onConflictDoUpdate({ target: [works.assignment, works.studentHash], set: entry })
          .run();
      }),

    handIn: (token, student, text) =>
      write(() => {
        const own = opened(token);
        const read = arrivingBundle(text);
        if ('wrong' in read) throw new StoreProblem('refused', read.wrong);
        if (read.bundle.assignment !== own.id)
          throw new StoreProblem('refused', 'This hand-in is for another assignment. Nothing was taken.');
        const studentHash = tokenHash(student);
        checkRoom(queries, own.id, { studentHash, bytes: text.length });
        const { ids } = taken.take(own.id, [read.arriving], studentHash);
        return receiptsWhere(own, eq(handIns.id, ids[0]!))[0]!;
      }),

    receipts: (token, student) => {
      const own = byToken(token);
      return receiptsWhere(own, and(eq(handIns.assignment, own.id), eq(handIns.studentHash, tokenHash(student))));
    },

    isOurs: ({ signature, ...content }) => {
      const expected = Buffer.from(signatureOf(content), 'hex');
      const given = Buffer.from(signature, 'hex');
      return expected.length === given.length && timingSafeEqual(expected, given);
    },
  };
}

function stateOf({ opensAt, closesAt }: { opensAt: string | null; closesAt: string | null }, now: Date): PublicAssignment['state'] {
  if (opensAt !== null && now.getTime() < Date.parse(opensAt)) return 'before';
  return closesAt !== null && now.getTime() > Date.parse(closesAt) ? 'after' : 'open';
}

/** What students reach: the assignment as they may see it, their drafts, their hand-ins and receipts. Tokens come here hashed. */
import { createHmac, timingSafeEqual } from 'node:crypto';
import { and, asc, eq, ne, isNotNull } from 'drizzle-orm';
import { contentOf, type PublicAssignment, type Receipt } from '@zettak/api/work';
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import { readBundle, sha256Of } from '@zettak/core/trials/handIns/bundle';
import { readLessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { forStudents } from '@zettak/core/trials/handIns/course';
import { newToken, tokenHash } from '../access/tokens';
import type { Settings } from '../access/settings';
import type { Database } from '../database/database';
import { assignments, handIns, works } from '../database/schema';
import type { Clock } from '../documents/store';
import { StoreProblem } from '../documents/storeProblem';
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

  const receiptsOf = ({ id, name, closesAt }: typeof assignments.$inferSelect, student: string): Receipt[] => {
    const own = queries
      .select({ id: handIns.id, label: handIns.label, bundle: handIns.bundle, source: handIns.source, arrivedAt: handIns.arrivedAt })
      .from(handIns)
      .where(and(eq(handIns.assignment, id), eq(handIns.studentHash, tokenHash(student))))
      .orderBy(asc(handIns.id))
      .all();
    const counts = new Map<string, number>();
    return own.map(({ label, bundle, source, arrivedAt }) => {
      const number = (counts.get(label) ?? 0) + 1;
      counts.set(label, number);
      const late = closesAt !== null && Date.parse(arrivedAt) > Date.parse(closesAt);
      const read = bundle === null ? undefined : readBundle(bundle);
      const hash = read && 'bundle' in read ? read.bundle.hash : sha256Of(source);
      return signed({ zettak: 'receipt', assignment: id, name, label, number, hash, arrivedAt, late });
    });
  };

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
        const read = readBundle(text);
        if ('wrong' in read) throw new StoreProblem('refused', read.wrong);
        const { label, source, assignment } = read.bundle;
        if (assignment !== own.id) throw new StoreProblem('refused', 'This hand-in is for another assignment. Nothing was taken.');
        const studentHash = tokenHash(student);
        const others = queries
          .select({ id: handIns.id })
          .from(handIns)
          .where(
            and(
              eq(handIns.assignment, own.id),
              eq(handIns.label, label),
              isNotNull(handIns.studentHash),
              ne(handIns.studentHash, studentHash),
            ),
          )
          .limit(1)
          .all();
        if (others.length > 0)
          throw new StoreProblem(
            'refused',
            `“${label}” has handed in from another browser. Choose your own label, or ask your teacher. Nothing was taken.`,
          );
        const { ids } = taken.take(own.id, [{ label, file: '', source, bundle: text }], studentHash);
        const receipts = receiptsOf(own, student);
        const at = queries
          .select({ id: handIns.id })
          .from(handIns)
          .where(and(eq(handIns.assignment, own.id), eq(handIns.studentHash, studentHash)))
          .orderBy(asc(handIns.id))
          .all()
          .findIndex((each) => each.id === ids[0]);
        return receipts[at]!;
      }),

    receipts: (token, student) => receiptsOf(byToken(token), student),

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

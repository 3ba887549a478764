/** Hand-ins and their checks in SQL. A check is a row from the moment its hand-in is taken; whoever works takes rows. */
import { and, asc, count, desc, eq, inArray, isNotNull, isNull, lt, sql, type SQL } from 'drizzle-orm';
import type { CheckState, HandInDetail, HandInRow, Progress } from '@zettak/api/matrix';
import { MOST_HAND_INS } from '@zettak/api/courses';
import { readBundle, sha256Of } from '@zettak/core/trials/handIns/bundle';
import { plainLabel } from '@zettak/core/trials/handIns/labels';
import type { CheckedHandIn } from '@zettak/core/trials/handIns/check';
import { claimsBroken } from '@zettak/core/trials/handIns/claims';
import { ENDED_ITS_WORKER } from '../checking/givenUp';
import type { Database } from '../database/database';
import { assignments, checks, handIns, handInTexts, labelChoices } from '../database/schema';
import type { Clock } from '../documents/store';
import { StoreProblem } from '../documents/storeProblem';
import { grouped } from '@zettak/core/text/number';
import type { BundleClaims } from './arriving';

export interface Arriving {
  readonly label: string;
  readonly file: string;
  readonly source: string;
  readonly bundle: { readonly text: string; readonly hash: string; readonly claims: BundleClaims } | undefined;
}

export interface Job {
  readonly handIn: number;
  readonly key: string;
  readonly assignment: string;
  readonly source: string;
  readonly tries: number;
  readonly stage: 'verdicts' | 'reasons';
}

/** Names a job, and how often it has been taken up. */
export type Ticket = Pick<Job, 'handIn' | 'key' | 'stage' | 'tries' | 'assignment'>;

/** What came of a job. */
export type Finished = Pick<Job, 'handIn' | 'key' | 'stage'> &
  ({ readonly result: CheckedHandIn } | { readonly sentence: string; readonly again: boolean });

export interface HandInStore {
  /** All of them or none; with each its check. Says how many were the same as before and are not taken twice. */
  take(assignment: string, arriving: readonly Arriving[], studentHash?: string): { readonly ids: readonly number[]; readonly same: number };
  /** The newest of each label; where one label came from several places, the newest of each of those. */
  rows(assignment: string): (HandInRow & { readonly hash: string })[];
  detail(id: number): HandInDetail & { readonly assignment: string };
  remove(id: number): void;
  /** Of its label the hand-ins from where this one came count, and no others. */
  choose(id: number): void;
  /** Fills in what hand-ins of an earlier database do not say of their bundles. */
  readOldBundles(): void;
  removeAll(assignment: string): void;
  /** Checks the newest of each label against the present state of the assignment; done ones too where `again`. */
  queue(assignment: string, again: boolean): void;
  /** Waiting checks of an assignment are not done. */
  callOff(assignment: string): void;
  progress(assignment: string): Progress;
  /** Takes up to so many waiting checks to work at. */
  claim(most: number): Job[];
  /** Up to so many checks in a state, in the order in which they are taken up. */
  inState(state: 'waiting' | 'running', most: number): Ticket[];
  /** Takes one check to work at, also from whoever had it and is gone. Undefined where it is done, called off, or was taken too often. */
  claimOne(ticket: Pick<Job, 'handIn' | 'key' | 'stage'>): Job | undefined;
  /** Whoever works at it has not been heard of: it waits again. */
  release(ticket: Pick<Job, 'handIn' | 'key' | 'stage'>): void;
  /** How many of them were written: one that somebody else has told already is not told again. */
  finish(finished: readonly Finished[]): number;
  /** After a start: what was being checked when the server ended waits again, unless it ended too many servers. */
  resume(): number;
}

/** A check is given up after so many workers have died of it, or so many servers. */
const MOST_TRIES = 3;
const MOST_STARTS = 50;
/** Hand-ins of one label. */
const MOST_OF_LABEL = 200;

const TICKET = { handIn: checks.handIn, key: checks.key, tries: checks.tries, stage: checks.stage, assignment: handIns.assignment };
/** Where a hand-in came from: a student's token, hashed; '' where the teacher brought it. */
const ORIGIN = sql<string>`coalesce(${handIns.studentHash}, '')`;
/** Verdicts before reasons, what came first before what came later. */
const FIRST = [desc(checks.stage), asc(checks.handIn)];

export function createHandInStore({ queries, write }: Database, now: Clock): HandInStore {
  const assignmentOf = (id: string) => {
    const found = queries
      .select({ key: assignments.key, closesAt: assignments.closesAt })
      .from(assignments)
      .where(eq(assignments.id, id))
      .get();
    if (!found) throw new StoreProblem('missing', `There is no assignment “${id}”.`);
    return found;
  };

  /** Of each label and origin: its first and its newest hand-in, in the order of the first. */
  const originsOf = (assignment: string) =>
    queries
      .select({ label: handIns.label, origin: ORIGIN, first: sql<number>`min(${handIns.id})`, newest: sql<number>`max(${handIns.id})` })
      .from(handIns)
      .where(eq(handIns.assignment, assignment))
      .groupBy(handIns.label, ORIGIN)
      .orderBy(sql`min(${handIns.id})`)
      .all();

  const newestIds = (assignment: string): number[] => originsOf(assignment).map((each) => each.newest);

  /** The newest hand-ins that stand beside those of their label that count: the first origin does, unless the teacher chose. */
  const besideIn = (assignment: string): ReadonlyMap<number, boolean> => {
    const chosen = queries.select().from(labelChoices).where(eq(labelChoices.assignment, assignment)).all();
    const origins = originsOf(assignment);
    // Where all hand-ins of the chosen origin were deleted, the first of the others counts again.
    const there = new Set(origins.map(({ label, origin }) => `${label}\n${origin}`));
    const counting = new Map(chosen.filter((each) => there.has(`${each.label}\n${each.origin}`)).map((each) => [each.label, each.origin]));
    return new Map(
      origins.map(({ label, origin, newest }) => {
        if (!counting.has(label)) counting.set(label, origin);
        return [newest, counting.get(label) !== origin];
      }),
    );
  };

  const countOf = (assignment: string): number =>
    queries.select({ count: count() }).from(handIns).where(eq(handIns.assignment, assignment)).get()!.count;

  const broken = (text: string | null, checked: CheckedHandIn | undefined): string[] => {
    const claims = text === null ? undefined : (JSON.parse(text) as BundleClaims);
    return claims && checked ? claimsBroken(claims, claims.whole, checked) : [];
  };

  const placeOf = ({ handIn, key, stage }: Pick<Job, 'handIn' | 'key' | 'stage'>): SQL | undefined =>
    and(eq(checks.handIn, handIn), eq(checks.key, key), eq(checks.stage, stage));

  const jobsWhere = (which: SQL | undefined, most: number): Job[] =>
    queries
      .select({ ...TICKET, source: handInTexts.source })
      .from(checks)
      .innerJoin(handIns, eq(handIns.id, checks.handIn))
      .innerJoin(handInTexts, eq(handInTexts.handIn, checks.handIn))
      .where(which)
      .orderBy(...FIRST)
      .limit(most)
      .all();

  /** Inside a transaction. */
  const taken = (job: Job): Job => {
    const tries = job.tries + 1;
    queries.update(checks).set({ state: 'running', tries }).where(placeOf(job)).run();
    return { ...job, tries };
  };

  const isLate = (closesAt: string | null, arrivedAt: string): boolean => closesAt !== null && Date.parse(arrivedAt) > Date.parse(closesAt);

  return {
    take: (assignment, arriving, studentHash) =>
      write(() => {
        const { key } = assignmentOf(assignment);
        if (countOf(assignment) + arriving.length > MOST_HAND_INS)
          throw new StoreProblem('refused', `An assignment takes at most ${grouped(MOST_HAND_INS)} hand-ins. Nothing was taken.`);
        const ids: number[] = [];
        let same = 0;
        for (const { label: written, file, source, bundle } of arriving) {
          const label = plainLabel(written);
          if (label === '') throw new StoreProblem('refused', 'A hand-in needs a label that can be read. Nothing was taken.');
          const newest = queries
            .select({ id: handIns.id, hash: handIns.hash, bundleHash: handIns.bundleHash, number: handIns.number })
            .from(handIns)
            .where(and(eq(handIns.assignment, assignment), eq(handIns.label, label), eq(ORIGIN, studentHash ?? '')))
            .orderBy(desc(handIns.id))
            .limit(1)
            .get();
          const hash = sha256Of(source);
          const isSame = newest?.hash === hash && newest.bundleHash === (bundle?.hash ?? null) && (bundle?.claims.whole ?? true);
          if (isSame) {
            same++;
            ids.push(newest.id);
            continue;
          }
          const number = (newest?.number ?? 0) + 1;
          if (number > MOST_OF_LABEL)
            throw new StoreProblem('refused', `“${label}” has handed in ${MOST_OF_LABEL} times already. Nothing was taken.`);
          const own = bundle && { bundleHash: bundle.hash, claims: JSON.stringify(bundle.claims) };
          const size = source.length + (bundle?.text.length ?? 0);
          const { id } = queries
            .insert(handIns)
            .values({
              assignment,
              label,
              hash,
              file,
              number,
              size,
              ...own,
              arrivedAt: now().toISOString(),
              ...(studentHash && { studentHash }),
            })
            .returning({ id: handIns.id })
            .get();
          queries
            .insert(handInTexts)
            .values({ handIn: id, source, bundle: bundle?.text ?? null })
            .run();
          queries.insert(checks).values({ handIn: id, key, state: 'waiting' }).run();
          ids.push(id);
        }
        return { ids, same };
      }),

    rows: (assignment) => {
      const { key, closesAt } = assignmentOf(assignment);
      const beside = besideIn(assignment);
      return queries
        .select({
          ...{
            id: handIns.id,
            label: handIns.label,
            file: handIns.file,
            arrivedAt: handIns.arrivedAt,
            hash: handIns.hash,
            number: handIns.number,
            claims: handIns.claims,
            studentHash: handIns.studentHash,
          },
          ...{ state: checks.state, sentence: checks.sentence, result: checks.result },
        })
        .from(handIns)
        .leftJoin(checks, and(eq(checks.handIn, handIns.id), eq(checks.key, key)))
        .where(inArray(handIns.id, [...beside.keys()]))
        .all()
        .map(({ claims, studentHash, result, state, sentence, ...rest }) => {
          const checked = result === null ? undefined : (JSON.parse(result) as CheckedHandIn);
          return {
            ...rest,
            ...{ late: isLate(closesAt, rest.arrivedAt), origin: studentHash === null ? ('teacher' as const) : ('link' as const) },
            ...{ beside: beside.get(rest.id) ?? false },
            ...{ state: (state ?? 'called off') as CheckState, sentence: sentence ?? '', broken: broken(claims, checked) },
            ...(checked && { checked }),
          };
        })
        .sort((a, b) => a.label.localeCompare(b.label, 'en', { numeric: true }) || Number(a.beside) - Number(b.beside));
    },

    detail: (id) => {
      const found = queries.select().from(handIns).where(eq(handIns.id, id)).get();
      if (!found) throw new StoreProblem('missing', `There is no hand-in ${id}.`);
      const { assignment, label, studentHash } = found;
      const { source, bundle } = queries.select().from(handInTexts).where(eq(handInTexts.handIn, id)).get()!;
      const { closesAt, key } = assignmentOf(assignment);
      const history = queries
        .select({ id: handIns.id, arrivedAt: handIns.arrivedAt, file: handIns.file, result: checks.result })
        .from(handIns)
        .leftJoin(checks, and(eq(checks.handIn, handIns.id), eq(checks.key, key)))
        .where(and(eq(handIns.assignment, assignment), eq(handIns.label, label), eq(ORIGIN, studentHash ?? '')))
        .orderBy(desc(handIns.id))
        .all()
        .map(({ result, ...rest }) => {
          const checked = result === null ? undefined : (JSON.parse(result) as CheckedHandIn);
          return { ...rest, late: isLate(closesAt, rest.arrivedAt), holds: checked?.holds, sets: checked?.rows.length ?? 0 };
        });
      return { id, label, source, bundle, history, assignment };
    },

    remove: (id) =>
      write(() => {
        queries.delete(handIns).where(eq(handIns.id, id)).run();
      }),

    choose: (id) =>
      write(() => {
        const found = queries
          .select({ assignment: handIns.assignment, label: handIns.label, origin: ORIGIN })
          .from(handIns)
          .where(eq(handIns.id, id))
          .get();
        if (!found) throw new StoreProblem('missing', `There is no hand-in ${id}.`);
        queries
          .insert(labelChoices)
          .values(found)
          .onConflictDoUpdate({ target: [labelChoices.assignment, labelChoices.label], set: { origin: found.origin } })
          .run();
      }),

    readOldBundles: () =>
      write(() => {
        const unread = queries
          .select({ id: handIns.id })
          .from(handIns)
          .innerJoin(handInTexts, eq(handInTexts.handIn, handIns.id))
          .where(and(isNotNull(handInTexts.bundle), isNull(handIns.claims)))
          .all();
        for (const { id } of unread) {
          const { bundle } = queries.select({ bundle: handInTexts.bundle }).from(handInTexts).where(eq(handInTexts.handIn, id)).get()!;
          const read = readBundle(bundle!);
          if ('wrong' in read) {
            queries
              .update(handIns)
              .set({ claims: JSON.stringify({ whole: false, results: [] } satisfies BundleClaims) })
              .where(eq(handIns.id, id))
              .run();
            continue;
          }
          const claims = JSON.stringify({ whole: read.whole, results: read.bundle.results } satisfies BundleClaims);
          queries.update(handIns).set({ bundleHash: read.bundle.hash, claims }).where(eq(handIns.id, id)).run();
        }
      }),

    removeAll: (assignment) =>
      write(() => {
        assignmentOf(assignment);
        queries.delete(handIns).where(eq(handIns.assignment, assignment)).run();
        queries.delete(labelChoices).where(eq(labelChoices.assignment, assignment)).run();
      }),

    queue: (assignment, again) =>
      write(() => {
        const { key } = assignmentOf(assignment);
        const fresh = { state: 'waiting', stage: 'verdicts', tries: 0, sentence: '', result: null } as const;
        for (const handIn of newestIds(assignment)) {
          const found = queries
            .select({ state: checks.state })
            .from(checks)
            .where(and(eq(checks.handIn, handIn), eq(checks.key, key)))
            .get();
          if (!found)
            queries
              .insert(checks)
              .values({ handIn, key, ...fresh })
              .run();
          else if (again || ['called off', 'failed'].includes(found.state))
            queries
              .update(checks)
              .set(fresh)
              .where(and(eq(checks.handIn, handIn), eq(checks.key, key)))
              .run();
        }
      }),

    callOff: (assignment) =>
      write(() => {
        const own = queries.select({ id: handIns.id }).from(handIns).where(eq(handIns.assignment, assignment));
        queries
          .update(checks)
          .set({ state: 'called off' })
          .where(and(inArray(checks.handIn, own), eq(checks.state, 'waiting')))
          .run();
      }),

    progress: (assignment) => {
      const { key } = assignmentOf(assignment);
      const ids = newestIds(assignment);
      const states = queries
        .select({ state: checks.state, count: count() })
        .from(checks)
        .where(and(inArray(checks.handIn, ids), eq(checks.key, key)))
        .groupBy(checks.state)
        .all();
      const of = (...wanted: CheckState[]): number =>
        states.filter((each) => wanted.includes(each.state)).reduce((sum, each) => sum + each.count, 0);
      return { waiting: of('waiting', 'running'), done: of('done', 'failed'), total: ids.length };
    },

    claim: (most) => {
      if (jobsWhere(eq(checks.state, 'waiting'), 1).length === 0) return [];
      return write(() => jobsWhere(eq(checks.state, 'waiting'), most).map(taken));
    },

    inState: (state, most) =>
      queries
        .select(TICKET)
        .from(checks)
        .innerJoin(handIns, eq(handIns.id, checks.handIn))
        .where(eq(checks.state, state))
        .orderBy(...FIRST)
        .limit(most)
        .all(),

    claimOne: (ticket) =>
      write(() => {
        const [job] = jobsWhere(and(placeOf(ticket), inArray(checks.state, ['waiting', 'running'])), 1);
        if (!job) return undefined;
        if (job.tries < MOST_TRIES) return taken(job);
        queries.update(checks).set({ state: 'failed', sentence: ENDED_ITS_WORKER }).where(placeOf(ticket)).run();
        return undefined;
      }),

    release: (ticket) =>
      write(() => {
        queries
          .update(checks)
          .set({ state: 'waiting' })
          .where(and(placeOf(ticket), eq(checks.state, 'running')))
          .run();
      }),

    finish: (finished) =>
      write(() => {
        let written = 0;
        for (const each of finished) {
          // One that was called off or taken anew meanwhile is told by whoever has it now.
          const place = and(placeOf(each), eq(checks.state, 'running'));
          if ('result' in each) {
            const next = each.result.open ? ({ state: 'waiting', stage: 'reasons' } as const) : ({ state: 'done' } as const);
            written += queries
              .update(checks)
              .set({ ...next, tries: 0, sentence: '', result: JSON.stringify(each.result) })
              .where(place)
              .run().changes;
          } else {
            const tries = queries.select({ tries: checks.tries }).from(checks).where(place).get()?.tries ?? 0;
            const state = each.again && tries < MOST_TRIES ? 'waiting' : 'failed';
            written += queries.update(checks).set({ state, sentence: each.sentence }).where(place).run().changes;
          }
        }
        return written;
      }),

    resume: () =>
      write(() => {
        const running = eq(checks.state, 'running');
        queries
          .update(checks)
          .set({ state: 'waiting' })
          .where(and(running, lt(checks.tries, MOST_STARTS)))
          .run();
        queries
          .update(checks)
          .set({ state: 'failed', sentence: 'The server has ended many times while it was checked, so it is passed over.' })
          .where(running)
          .run();
        return queries.select({ count: count() }).from(checks).where(eq(checks.state, 'waiting')).get()!.count;
      }),
  };
}

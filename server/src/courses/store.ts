/** Courses and assignments in SQL. An assignment keeps copies of its texts; its key changes when they do. */
import { createHash } from 'node:crypto';
import { and, asc, countDistinct, eq } from 'drizzle-orm';
import type { AssignmentChange, NewAssignment } from '@zettak/api/courses';
import type { AssignmentDetail, AssignmentSummary, CourseSummary, Remark } from '@zettak/api/matrix';
import { freeId, plainId } from '@zettak/core/text/ids';
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import type { CourseContent } from '@zettak/core/trials/handIns/course';
import { readLessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { markRule, USUAL_RULE } from '@zettak/core/trials/handIns/marks';
import type { Database } from '../database/database';
import { assignments, courses, handIns, remarks } from '../database/schema';
import type { Clock, DocumentStore } from '../documents/store';
import { StoreProblem } from '../documents/storeProblem';
import { basesFor } from '../documents/bases';

export interface CourseStore {
  list(): CourseSummary[];
  create(name: string): CourseSummary;
  rename(id: string, name: string): void;
  remove(id: string): void;
  assignment(id: string): AssignmentDetail;
  /** What hand-ins are checked against. */
  texts(id: string): { readonly key: string; readonly texts: AssignmentTexts };
  /** The texts that have a key; undefined where no assignment has them any more. */
  textsOf(key: string): AssignmentTexts | undefined;
  assign(entry: NewAssignment): AssignmentDetail;
  change(id: string, change: AssignmentChange): AssignmentDetail;
  drop(id: string): void;
  /** The whole course with its texts, but without hand-ins. */
  content(id: string): CourseContent;
  /** A course from elsewhere, beside those that are here. */
  add(content: CourseContent): CourseSummary;
  remarks(id: string): Remark[];
  remark(id: string, remark: Remark): void;
}

const keyOf = (texts: AssignmentTexts): string => createHash('sha256').update(JSON.stringify(texts)).digest('hex').slice(0, 32);

/** Throws StoreProblem for what cannot be done, and then has changed nothing. */
export function createCourseStore({ queries, write }: Database, documents: DocumentStore, now: Clock): CourseStore {
  const row = (id: string) => {
    const found = queries.select().from(assignments).where(eq(assignments.id, id)).get();
    if (!found) throw new StoreProblem('missing', `There is no assignment “${id}”.`);
    return found;
  };

  const course = (id: string) => {
    const found = queries.select().from(courses).where(eq(courses.id, id)).get();
    if (!found) throw new StoreProblem('missing', `There is no course “${id}”.`);
    return found;
  };

  const textsFrom = (
    program: string,
    frame: string,
  ): Pick<typeof assignments.$inferSelect, 'machine' | 'machineName' | 'machineVersion'> & { texts: AssignmentTexts } => {
    const source = documents.get('program', program);
    const machine = documents.get('machine', source.machine!);
    const number = machine.versions.at(-1)?.number;
    if (number === undefined)
      throw new StoreProblem('refused', `The machine ${machine.name} has no version yet. Open it under Machines and save one.`);
    const version = documents.version('machine', machine.id, number);
    const parts = documents.list('part').filter((each) => each.machine === machine.id);
    const sets = documents.list('trial').find((each) => each.program === program);
    return {
      ...{ machine: machine.id, machineName: machine.name, machineVersion: number },
      texts: {
        ...{ machine: version.text, language: version.language, bases: basesFor(version.text, documents) },
        parts: Object.fromEntries(parts.map((each) => [each.name, documents.get('part', each.id).draft])),
        ...{ frame, solution: source.draft, sets: sets ? documents.get('trial', sets.id).draft : '' },
      },
    };
  };

  const detail = (id: string): AssignmentDetail => {
    const { texts: kept, marks, bench, createdAt: _, tokenHash, ...rest } = row(id);
    const { frame, solution, sets, mostTicks, mostCells } = JSON.parse(kept) as AssignmentTexts;
    return {
      ...rest,
      ...{ frame, solution, sets, mostTicks: mostTicks ?? null, mostCells: mostCells ?? null },
      ...{ marks: markRule.parse(JSON.parse(marks)), bench: readLessonBench(bench) ?? null, linked: tokenHash !== null },
    };
  };

  const freeFor = (name: string, taken: readonly { readonly id: string }[]): string =>
    freeId(plainId(name), new Set(taken.map((each) => each.id)));
  const freeCourse = (name: string): string => freeFor(name, queries.select({ id: courses.id }).from(courses).all());
  const freeAssignment = (name: string): string => freeFor(name, queries.select({ id: assignments.id }).from(assignments).all());

  return {
    list: () => {
      const own = queries
        .select({
          ...{ id: assignments.id, course: assignments.course, name: assignments.name, machineName: assignments.machineName },
          ...{ machineVersion: assignments.machineVersion, opensAt: assignments.opensAt, closesAt: assignments.closesAt },
          handIns: countDistinct(handIns.label),
        })
        .from(assignments)
        .leftJoin(handIns, eq(handIns.assignment, assignments.id))
        .groupBy(assignments.id)
        .orderBy(asc(assignments.createdAt), asc(assignments.id))
        .all() satisfies AssignmentSummary[];
      const all = queries.select().from(courses).orderBy(asc(courses.createdAt), asc(courses.id)).all();
      return all.map(({ id, name }) => ({ id, name, assignments: own.filter((each) => each.course === id) }));
    },

    create: (name) =>
      write(() => {
        const id = freeCourse(name);
        queries.insert(courses).values({ id, name, createdAt: now().toISOString() }).run();
        return { id, name, assignments: [] };
      }),

    rename: (id, name) =>
      write(() => {
        course(id);
        queries.update(courses).set({ name }).where(eq(courses.id, id)).run();
      }),

    remove: (id) =>
      write(() => {
        course(id);
        queries.delete(courses).where(eq(courses.id, id)).run();
      }),

    assignment: detail,

    texts: (id) => {
      const { key, texts } = row(id);
      return { key, texts: JSON.parse(texts) as AssignmentTexts };
    },

    textsOf: (key) => {
      const found = queries.select({ texts: assignments.texts }).from(assignments).where(eq(assignments.key, key)).limit(1).get();
      return found && (JSON.parse(found.texts) as AssignmentTexts);
    },

    assign: ({ course: of, name, program, problem, frame, bench }) =>
      write(() => {
        course(of);
        const { texts, ...machine } = textsFrom(program, frame);
        const id = freeAssignment(name);
        const own = {
          ...machine,
          texts: JSON.stringify(texts),
          key: keyOf(texts),
          marks: JSON.stringify(USUAL_RULE),
          bench: bench ? JSON.stringify(bench) : null,
        };
        queries
          .insert(assignments)
          .values({ id, course: of, name, problem, program, ...own, revision: 1, createdAt: now().toISOString() })
          .run();
        return detail(id);
      }),

    change: (id, { revision, renew, frame, mostTicks, mostCells, marks, bench, ...plain }) =>
      write(() => {
        const before = row(id);
        if (before.revision !== revision)
          throw new StoreProblem('changed', 'This assignment was changed elsewhere meanwhile. Nothing was overwritten.');
        if (renew && before.program === null) throw new StoreProblem('refused', 'The program that this assignment was made of is gone.');
        const kept = JSON.parse(before.texts) as AssignmentTexts;
        const { texts: anew, ...machine } = renew ? textsFrom(before.program!, kept.frame) : { texts: kept };
        const texts: AssignmentTexts = {
          ...anew,
          frame: frame ?? kept.frame,
          mostTicks: mostTicks === undefined ? kept.mostTicks : (mostTicks ?? undefined),
          mostCells: mostCells === undefined ? kept.mostCells : (mostCells ?? undefined),
        };
        const given = Object.fromEntries(Object.entries(plain).filter(([, value]) => value !== undefined));
        queries
          .update(assignments)
          .set({
            ...given,
            ...machine,
            ...(marks && { marks: JSON.stringify(marks) }),
            ...(bench !== undefined && { bench: bench && JSON.stringify(bench) }),
            ...{ texts: JSON.stringify(texts), key: keyOf(texts), revision: revision + 1 },
          })
          .where(eq(assignments.id, id))
          .run();
        return detail(id);
      }),

    content: (id) => {
      const { name } = course(id);
      const own = queries
        .select()
        .from(assignments)
        .where(eq(assignments.course, id))
        .orderBy(asc(assignments.createdAt), asc(assignments.id))
        .all();
      return {
        name,
        assignments: own.map(({ texts, marks, bench, ...each }) => ({
          ...{ id: each.id, name: each.name, problem: each.problem, machineName: each.machineName, machineVersion: each.machineVersion },
          ...{
            texts: JSON.parse(texts) as AssignmentTexts,
            opensAt: each.opensAt,
            closesAt: each.closesAt,
            marks: markRule.parse(JSON.parse(marks)),
            bench: readLessonBench(bench),
          },
        })),
      };
    },

    add: ({ name, assignments: brought }) =>
      write(() => {
        const made = freeCourse(name);
        const at = now().toISOString();
        queries.insert(courses).values({ id: made, name, createdAt: at }).run();
        for (const { id: wanted, texts, marks, bench, machineName, ...rest } of brought) {
          const id = freeAssignment(wanted);
          const kept = {
            texts: JSON.stringify(texts),
            key: keyOf(texts),
            marks: JSON.stringify(marks),
            bench: bench ? JSON.stringify(bench) : null,
          };
          // The machine of that name that is here opens hand-ins on the bench; checking needs none.
          const machine = documents.list('machine').find((each) => each.name === machineName)?.id ?? plainId(machineName);
          const { name: own, problem, machineVersion, opensAt, closesAt } = rest;
          queries
            .insert(assignments)
            .values({
              ...{ id, course: made, name: own, problem, machine, machineName, machineVersion, opensAt, closesAt },
              ...kept,
              program: null,
              revision: 1,
              createdAt: at,
            })
            .run();
        }
        return { id: made, name, assignments: [] };
      }),

    drop: (id) =>
      write(() => {
        row(id);
        queries.delete(assignments).where(eq(assignments.id, id)).run();
      }),

    remarks: (id) =>
      queries.select({ of: remarks.of, about: remarks.about, text: remarks.text }).from(remarks).where(eq(remarks.assignment, id)).all(),

    remark: (id, { of, about, text }) =>
      write(() => {
        row(id);
        const place = and(eq(remarks.assignment, id), eq(remarks.of, of), eq(remarks.about, about));
        queries.delete(remarks).where(place).run();
        if (text.trim() !== '') queries.insert(remarks).values({ assignment: id, of, about, text }).run();
      }),
  };
}

/** Puts the demo course with its hand-ins into a database that has no course yet. Knows the files of the demo folder, and no machine. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { labelsOf } from '@zettak/core/trials/handIns/labels';
import { arrivingFrom } from '../handIns/arriving';
import type { HandInStore } from '../handIns/store';
import type { DocumentStore } from '../documents/store';
import type { CourseStore } from './store';

const classes = z.array(
  z.object({
    name: z.string(),
    assignments: z.array(
      z.object({
        name: z.string(),
        program: z.string(),
        problem: z.string(),
        frame: z.string(),
        handIns: z.string(),
        mostTicks: z.number().optional(),
      }),
    ),
  }),
);

interface Stores {
  readonly courses: CourseStore;
  readonly handIns: HandInStore;
  readonly store: DocumentStore;
}

/** Does nothing where there is a course, or where the program of an assignment is not on the shelf. */
export function seedCourses({ courses, handIns, store }: Stores, folder: string): void {
  const file = join(folder, 'class.json');
  if (!existsSync(file) || courses.list().length > 0) return;
  const programs = store.list('program');
  const read = (name: string): string => readFileSync(join(folder, name), 'utf8');
  for (const { name, assignments } of classes.parse(JSON.parse(read('class.json')))) {
    const own = assignments.flatMap((each) => {
      const program = programs.find((one) => one.name === each.program)?.id;
      return program === undefined ? [] : [{ ...each, program }];
    });
    if (own.length === 0) continue;
    const course = courses.create(name);
    for (const each of own) {
      const { id, revision } = courses.assign({
        course: course.id,
        name: each.name,
        program: each.program,
        problem: each.problem,
        frame: read(each.frame),
      });
      if (each.mostTicks !== undefined) courses.change(id, { revision, renew: false, mostTicks: each.mostTicks });
      const files = readdirSync(join(folder, each.handIns)).sort();
      const entries = labelsOf(files).map(({ file: path, label }) => ({ label, file: path, text: read(join(each.handIns, path)) }));
      const arrived = arrivingFrom({ entries });
      if ('arriving' in arrived) handIns.take(id, arrived.arriving);
    }
  }
}

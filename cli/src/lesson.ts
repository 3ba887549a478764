/**
 * zettak lesson: a course as a folder that any file server serves, with the whole bench and no server of ours. Hidden sets and
 * solutions are left out before anything is written.
 */
import { cpSync, existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import { contentOf, type StaticLesson } from '@zettak/api/work';
import { forStudents, MANIFEST, readCourseFiles, type CourseContent } from '@zettak/core/trials/handIns/course';
import { PROBLEMS, type Terminal } from './terminal';

const MOST_FILES = 5_000;
const MOST_BYTES = 100_000_000;

/** What a page in a folder may do: no more than it needs, and nothing from elsewhere. */
const POLICY =
  "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; worker-src 'self'; object-src 'none'; base-uri 'none'; form-action 'none'";

/** `course`: a ZIP, a folder, or its course.json. Exit code 0, 1 where it cannot be read, 2 where there are no pages or the folder is another's. */
export function lesson(terminal: Terminal, course: string, { out }: { readonly out: string }): number {
  const files = filesOf(course);
  if (!files) return terminal.wrongUse(`${course} cannot be read: name a course as a ZIP or a folder.`);
  const read = readCourseFiles(files);
  if ('wrong' in read) {
    terminal.warn(read.wrong);
    return PROBLEMS;
  }
  const pages = join(import.meta.dirname, '..', '..', 'web', 'dist');
  if (!existsSync(join(pages, 'index.html'))) return terminal.wrongUse('The pages are not built. Start Zettak once with npm start.');
  if (existsSync(out) && readdirSync(out).length > 0 && !existsSync(join(out, 'lesson.json')))
    return terminal.wrongUse(`${out} holds something else. Name an empty folder, or one with a lesson that this one replaces.`);
  rmSync(out, { recursive: true, force: true });
  mkdirSync(out, { recursive: true });
  // Plain file servers do not send the compressed copies.
  cpSync(pages, out, { recursive: true, filter: (each) => !each.includes('.vite') && !/\.(br|gz)$/.test(each) });
  const page = readFileSync(join(pages, 'index.html'), 'utf8');
  const head = `<meta http-equiv="Content-Security-Policy" content="${POLICY}" />\n    <meta name="zettak-lesson" content="./lesson.json" />`;
  writeFileSync(join(out, 'index.html'), page.replace('<meta charset="utf-8" />', `<meta charset="utf-8" />\n    ${head}`));
  writeFileSync(join(out, 'lesson.json'), JSON.stringify(lessonOf(read.course)));
  const count = read.course.assignments.length;
  terminal.write(`${out}: ${read.course.name}, ${count === 1 ? 'one task' : `${count} tasks`}. Any file server serves this folder.`);
  return 0;
}

/** The course as students may have it. */
export function lessonOf({ name, assignments }: CourseContent): StaticLesson {
  return {
    ...{ zettak: 'lesson', version: 1, name },
    assignments: assignments.map(({ id, problem, machineName, machineVersion, texts, bench, ...rest }) => ({
      ...{ id, name: rest.name, opensAt: null, closesAt: rest.closesAt, state: 'open' },
      content: contentOf({ problem, machineName, machineVersion, ...forStudents(texts), bench }),
    })),
  };
}

function filesOf(course: string): Record<string, string> | undefined {
  try {
    if (/\.zip$/i.test(course)) return textsIn(new Uint8Array(readFileSync(course)));
    const folder = course.endsWith(MANIFEST) ? course.slice(0, -MANIFEST.length) || '.' : course;
    return statSync(folder).isDirectory() ? filesIn(folder) : undefined;
  } catch {
    return undefined;
  }
}

function textsIn(bytes: Uint8Array): Record<string, string> {
  let sum = 0;
  const found = unzipSync(bytes, { filter: ({ originalSize }) => (sum += originalSize) <= MOST_BYTES });
  return Object.fromEntries(Object.entries(found).map(([name, content]) => [name, strFromU8(content)]));
}

function filesIn(folder: string): Record<string, string> {
  const found: Record<string, string> = {};
  const visit = (at: string): void => {
    for (const each of readdirSync(at, { withFileTypes: true })) {
      if (Object.keys(found).length > MOST_FILES) return;
      if (each.isDirectory()) visit(join(at, each.name));
      else if (each.isFile())
        found[relative(folder, join(at, each.name)).replaceAll('\\', '/')] = readFileSync(join(at, each.name), 'utf8');
    }
  };
  visit(folder);
  return found;
}

/** What a teacher does with a class: open, bring files in, check, remark, take a run to the bench. */
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import type { AssignmentChange, NewAssignment } from '@zettak/api/courses';
import type { HandInRow, Matrix, Progress } from '@zettak/api/matrix';
import { zipEntries } from '@zettak/core/formats/zipEntries';
import { readTable } from '@zettak/core/trials/sets/table';
import { textOf } from '../app/textOf';
import { keep, kept, tabMemory } from '../app/preferences';
import { client } from '../documents/client';
import { courseClient } from '../documents/courseClient';
import { trialEngine } from '../session/trialEngine';
import { saveFile } from '../ui/saveFile';
import { readHandIns, type FileAt } from './files';
import { sayHere, useClass } from './state';

const set = useClass.setState;
const get = useClass.getState;
const LAST = 'assignment';
/** Hand-ins in one request. */
const AT_ONCE = 200;

const following: { turn: number; leave: () => void; fetching: boolean; again: boolean } = {
  turn: 0,
  leave: () => undefined,
  fetching: false,
  again: false,
};

/** Without an id the assignment that was opened last, or the first. Returns the one that is shown. */
export async function openClass(id: string | undefined): Promise<void> {
  const turn = ++following.turn;
  following.leave();
  try {
    const courses = await courseClient.list();
    const all = courses.flatMap((each) => each.assignments);
    const wanted = id ?? kept(LAST);
    const found = all.find((each) => each.id === wanted) ?? (id === undefined ? all[0] : undefined);
    if (turn !== following.turn) return;
    set({
      courses,
      opened: true,
      failure: id !== undefined && !found ? `There is no assignment “${id}”. Choose another above.` : undefined,
    });
    if (!found) return set({ matrix: undefined, chosen: undefined, detail: undefined });
    if (get().matrix?.assignment.id !== found.id)
      set({ matrix: undefined, chosen: undefined, detail: undefined, group: undefined, find: '', show: 'all', said: undefined });
    const matrix = await courseClient.matrix(found.id);
    if (turn !== following.turn) return;
    keep(LAST, found.id);
    set({ matrix, progress: matrix.progress });
    if (get().chosen === undefined) choose(matrix.groups[0]?.members[0] ?? matrix.rows[0]?.id);
    following.leave = courseClient.follow(found.id, (progress) => turn === following.turn && progressed(progress));
  } catch (error) {
    if (turn === following.turn) set({ failure: textOf(error), opened: true });
  }
}

export function leaveClass(): void {
  following.turn++;
  following.leave();
}

function progressed(progress: Progress): void {
  set({ progress });
  void refresh();
}

/** One request at a time; what came meanwhile is fetched once more. */
export async function refresh(): Promise<void> {
  const id = get().matrix?.assignment.id;
  if (id === undefined) return;
  if (following.fetching) {
    following.again = true;
    return;
  }
  following.fetching = true;
  try {
    const matrix = await courseClient.matrix(id);
    if (get().matrix?.assignment.id !== id) return;
    set({ matrix, progress: matrix.progress });
    const { chosen } = get();
    if (chosen === undefined || !matrix.rows.some((each) => each.id === chosen)) choose(matrix.groups[0]?.members[0] ?? matrix.rows[0]?.id);
  } catch (error) {
    if (get().matrix?.assignment.id === id) set({ failure: textOf(error) });
  } finally {
    following.fetching = false;
    if (following.again) {
      following.again = false;
      void refresh();
    }
  }
}

/** Tells what a request was refused with, instead of throwing it away. */
async function asked<T>(act: () => Promise<T>): Promise<T | undefined> {
  try {
    const result = await act();
    set({ failure: undefined });
    return result;
  } catch (error) {
    set({ failure: textOf(error) });
    return undefined;
  }
}

export function choose(id: number | undefined): void {
  set({ chosen: id, ...(get().detail?.id !== id && { detail: undefined }) });
  if (id === undefined) return;
  const isChosen = (): boolean => get().chosen === id;
  courseClient.handIn(id).then(
    (detail) => isChosen() && set({ detail, failure: undefined }),
    (error: unknown) => isChosen() && set({ failure: textOf(error) }),
  );
}

/** Reads files; where every label is clear they are sent, else they are asked for first. */
export async function bringFiles(files: readonly FileAt[]): Promise<void> {
  if (files.length === 0) return;
  sayHere('Reading the files …');
  const brought = await readHandIns(files);
  sayHere('');
  set({ brought });
}

export async function sendBrought(labels: readonly string[]): Promise<void> {
  const { brought, matrix } = get();
  if (!brought || !matrix) return;
  const entries = brought.files.map(({ file, text }, at) => ({ label: labels[at]!, file: file.slice(-400), text }));
  let same = 0;
  for (let at = 0; at < entries.length; at += AT_ONCE) {
    const taken = await asked(() => courseClient.bring(matrix.assignment.id, { entries: entries.slice(at, at + AT_ONCE) }));
    if (!taken) return void refresh();
    same += taken.same;
    set({ said: `${Math.min(at + AT_ONCE, entries.length)} of ${entries.length} hand-ins taken.` });
  }
  const again = same === 0 ? '' : same === 1 ? ' One was here already.' : ` ${same} were here already.`;
  set({ brought: undefined, said: `${entries.length === 1 ? 'One hand-in is' : `${entries.length} hand-ins are`} here.${again}` });
  await refresh();
}

export const dropBrought = (): void => set({ brought: undefined });

export async function checkAgain(): Promise<void> {
  const { matrix } = get();
  if (matrix && (await asked(() => courseClient.check(matrix.assignment.id)))) await refresh();
}

export async function callOffChecks(): Promise<void> {
  const { matrix } = get();
  if (matrix && (await asked(() => courseClient.callOff(matrix.assignment.id)))) await refresh();
}

export async function remark(of: 'group' | 'label', about: string, text: string): Promise<void> {
  const { matrix } = get();
  if (!matrix) return;
  await asked(() => courseClient.remark(matrix.assignment.id, { of, about, text }));
  await refresh();
}

export async function removeHandIn(id: number, label: string): Promise<void> {
  await asked(() => courseClient.removeOne(id));
  set({ said: `The newest hand-in of ${label} is deleted for good.` });
  await refresh();
}

/** Of its label the hand-ins from where this one came count from now on. */
export async function countThis({ id, label }: Pick<HandInRow, 'id' | 'label'>): Promise<void> {
  const chosen = await asked(async () => (await courseClient.choose(id), true));
  if (!chosen) return;
  set({ said: `The other hand-in of ${label} counts now.` });
  await refresh();
}

export async function removeAllHandIns(): Promise<void> {
  const { matrix } = get();
  if (!matrix) return;
  await asked(() => courseClient.removeAll(matrix.assignment.id));
  set({ said: 'All hand-ins of this assignment are deleted for good.' });
  await refresh();
}

/** The course with its texts as one ZIP; hidden sets and solutions are in it, hand-ins are not. */
export async function saveCourse(): Promise<void> {
  const { matrix, courses } = get();
  const course = courses.find((each) => each.id === matrix?.assignment.course);
  const files = course && (await asked(() => courseClient.files(course.id)));
  if (!course || !files) return;
  saveFile(`${course.name}.zip`, zipSync(Object.fromEntries(Object.entries(files).map(([path, text]) => [path, strToU8(text)]))));
  set({
    said: 'The course is saved with its hidden sets and solutions: it is for teachers. “zettak lesson” makes a folder for students of it.',
  });
}

const MOST_COURSE = 30_000_000;

/** Takes in a course that was saved; the id of its first assignment. */
export async function takeCourse(file: File): Promise<string | undefined> {
  const unpacked = async (): Promise<Record<string, string>> => {
    if (file.size > MOST_COURSE) throw new Error('A course has at most 30 MB.');
    const bytes = new Uint8Array(await file.arrayBuffer());
    const entries = zipEntries(bytes);
    if (!entries || entries.length > 2_000 || entries.reduce((sum, each) => sum + each.size, 0) > MOST_COURSE)
      throw new Error('This is no ZIP of a course.');
    const found = unzipSync(bytes, { filter: ({ originalSize }) => originalSize <= MOST_COURSE });
    return Object.fromEntries(Object.entries(found).map(([path, content]) => [path, strFromU8(content)]));
  };
  const made = await asked(async () => courseClient.addFiles(await unpacked()));
  if (!made) return undefined;
  const courses = await courseClient.list();
  set({ courses });
  return courses.find((each) => each.id === made.id)?.assignments[0]?.id;
}

/** Returns the new assignment's id; undefined where it was refused, which is told. */
export async function makeAssignment(
  course: string | undefined,
  newCourse: string,
  entry: Omit<NewAssignment, 'course'>,
): Promise<string | undefined> {
  const made = await asked(async () => {
    const id = course ?? (await courseClient.create(newCourse)).id;
    return courseClient.assign({ ...entry, course: id });
  });
  return made?.id;
}

export async function changeAssignment(change: Omit<AssignmentChange, 'revision'>): Promise<boolean> {
  const { matrix } = get();
  if (!matrix) return false;
  const { id, revision } = matrix.assignment;
  const changed = await asked(() => courseClient.change(id, { ...change, revision }));
  if (changed) {
    set({ courses: await courseClient.list() });
    await refresh();
  }
  return changed !== undefined;
}

export async function dropAssignment(): Promise<boolean> {
  const { matrix } = get();
  if (!matrix || (await asked(async () => (await courseClient.drop(matrix.assignment.id), true))) === undefined) return false;
  following.leave();
  set({ matrix: undefined, chosen: undefined, detail: undefined });
  return true;
}

/**
 * A hand-in has no program on the shelf; while it is looked at on the bench it lies in one that is kept for that, a single one
 * for each assignment. Its id.
 */
async function lookedAt({ name, machine }: Matrix['assignment'], source: string): Promise<string> {
  const wanted = `${name.slice(0, 60)} (a hand-in)`;
  const found = (await client.list('program')).find((each) => each.name === wanted && each.machine === machine);
  if (!found) return (await client.create('program', { name: wanted, text: source, machine })).id;
  await client.saveDraft('program', found.id, { text: source, revision: found.revision });
  return found.id;
}

/** Hands a run over to the bench: the hand-in's, or the teacher's, before the instruction where they part. Returns the bench's address. */
export async function ontoBench(side: 'hand-in' | 'teacher'): Promise<string | undefined> {
  const { matrix, detail, chosen } = get();
  const row = matrix?.rows.find((each) => each.id === chosen);
  if (!matrix || !row || !detail || detail.id !== chosen) return undefined;
  const texts = await asked(() => courseClient.texts(matrix.assignment.id));
  const read = texts && readTable(texts.sets);
  if (!texts || !read || 'problem' in read) return undefined;
  const source = side === 'teacher' ? texts.solution : detail.source;
  await trialEngine.use({ text: texts.machine, language: texts.language, bases: texts.bases, parts: texts.parts });
  await trialEngine.take(source);
  const first = row.checked?.first;
  const at = Math.max(
    0,
    read.table.sets.findIndex((each) => each.name === first?.set),
  );
  const tick = side === 'teacher' ? first?.parts?.teacherTick : first?.parts?.tick;
  const file = await trialEngine.fileFor(read.table, at, tick);
  if ('wrong' in file) {
    sayHere(file.wrong);
    return undefined;
  }
  const program = await asked(() => lookedAt(matrix.assignment, source));
  if (program === undefined) return undefined;
  if (!tabMemory.keep(`open.${program}`, file.text)) {
    sayHere('The browser has no room to hand the run over.');
    return undefined;
  }
  // While such a run stands on the bench it is not shared with a class.
  if (read.table.sets[at]?.hidden) tabMemory.keep(`hidden.${program}`, 'yes');
  else tabMemory.forget(`hidden.${program}`);
  return `/bench/${program}`;
}

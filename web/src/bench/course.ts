/** What the course keeps for the machine on the bench: parts, frames, snippets. */
import type { DocumentDetail } from '@zettak/api/documents';
import { courseKinds, type CourseKind } from '@zettak/api/kinds';
import { client } from '../documents/client';
import { engine } from '../session/engine';
import { useDocument } from './document';
import { relist } from './text';

/** Looks up what there is for a machine, by its id. */
export async function fetchCourse(machine: string | null | undefined): Promise<DocumentDetail[]> {
  const lists = await Promise.all(courseKinds.map((kind) => client.list(kind)));
  const own = lists.flat().filter((each) => each.machine === machine);
  return Promise.all(own.map((each) => client.get(each.kind, each.id)));
}

/** Parts go to the assembler. */
export const sendParts = (course: readonly DocumentDetail[]): Promise<void> =>
  engine.texts.setParts(Object.fromEntries(course.flatMap((each) => (each.kind === 'part' ? [[each.name, each.draft]] : []))));

/** After something was kept or taken out. */
async function lookAgain(): Promise<void> {
  const machine = useDocument.getState().program?.machine;
  const course = await fetchCourse(machine);
  // A program of another machine has been opened meanwhile.
  if (useDocument.getState().program?.machine !== machine) return;
  await sendParts(course);
  useDocument.setState({ course });
  await relist();
}

/** Keeps a text with the course; a text of that kind and name is replaced. */
export async function keepForCourse(kind: CourseKind, name: string, text: string): Promise<string> {
  const { program, course } = useDocument.getState();
  if (!program?.machine) return '';
  const known = course.find((each) => each.kind === kind && each.name.toLowerCase() === name.toLowerCase());
  if (known) await client.saveDraft(kind, known.id, { text, revision: known.revision });
  else await client.create(kind, { name, text, machine: program.machine });
  await lookAgain();
  return known ? `The ${kind} “${known.name}” was replaced.` : `Kept as the ${kind} “${name}”.`;
}

/** Takes a text out of the course for good. */
export async function dropFromCourse({ kind, id }: DocumentDetail): Promise<void> {
  await client.remove(kind as CourseKind, id);
  await lookAgain();
}

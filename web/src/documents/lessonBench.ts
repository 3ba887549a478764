/**
 * Notes and layout of the bench, which this browser keeps: taken from there for an assignment, and put there for whoever works
 * at one.
 */
import { readLessonBench, type LessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { keep, kept, keptValue } from '../app/preferences';

export const LAYOUT = 'layout';
export const notesOf = (program: string): string => `notes.${program}`;
/** What an assignment brought last. */
const givenOf = (program: string): string => `bench.given.${program}`;

type Note = LessonBench['notes'][number];

interface KeptLayout {
  readonly hidden?: Readonly<Record<string, readonly string[]>>;
}

const keptNotes = (program: string): readonly Note[] => {
  const found = keptValue(notesOf(program));
  return Array.isArray(found) ? (found as readonly Note[]) : [];
};

const keptLayout = (): KeptLayout => {
  const found = keptValue(LAYOUT);
  return typeof found === 'object' && found !== null ? found : {};
};

/** What this bench has for a program on its machine; undefined where nothing is pinned, laid out or left out. */
export function benchFor(program: string, machine: string): LessonBench | undefined {
  const { hidden = {}, ...layout } = keptLayout();
  const notes = keptNotes(program).map(({ text, at }) => ({ text, at }));
  const bench = readLessonBench(JSON.stringify({ notes, layout, hidden: hidden[machine] ?? [] }));
  return bench && (bench.notes.length > 0 || bench.hidden.length > 0 || Object.keys(bench.layout).length > 0) ? bench : undefined;
}

/** “2 notes, the layout, without 3 parts”. */
export function wordsOf({ notes, layout, hidden }: LessonBench): string {
  const some = (count: number, one: string, more: string): string => (count === 1 ? one : `${count} ${more}`);
  return [
    ...(notes.length > 0 ? [some(notes.length, 'one note', 'notes')] : []),
    ...(Object.keys(layout).length > 0 ? ['the layout'] : []),
    ...(hidden.length > 0 ? [`without ${some(hidden.length, 'one part', 'parts')}`] : []),
  ].join(', ');
}

/** Puts on the bench what an assignment brings and has not brought yet. One's own notes and one's own layout stay. */
export function putBench(bench: LessonBench, program: string, machine: string): void {
  const given = JSON.stringify(bench);
  const before = kept(givenOf(program));
  if (before === given) return;
  const last = readLessonBench(before);
  const key = ({ text, at }: Note): string => JSON.stringify([text, at]);
  const brought = new Set([...(last?.notes ?? []), ...bench.notes].map(key));
  const own = keptNotes(program).filter((each) => !brought.has(key(each)));
  const notes = [...bench.notes, ...own].map(({ text, at }, index) => ({ id: index + 1, text, at }));
  keep(notesOf(program), JSON.stringify(notes));
  const { hidden = {}, ...layout } = keptLayout();
  const untouched = Object.keys(layout).length === 0 || JSON.stringify(layout) === JSON.stringify(last?.layout);
  keep(LAYOUT, JSON.stringify({ ...(untouched ? bench.layout : layout), hidden: { ...hidden, [machine]: bench.hidden } }));
  keep(givenOf(program), given);
}

/** Notes that a teacher pins to a line, to a tick of an instruction, or to a panel; kept with the program in this browser. */
import { create } from 'zustand';
import { keep, keptValue } from '../app/preferences';
import { notesOf } from '../documents/lessonBench';

export const NOTED_PANELS = ['program', 'console', 'ticks', 'memory', 'registers', 'flags'] as const;
export type NotedPanel = (typeof NOTED_PANELS)[number];

export type NotePlace =
  /** `words`: how the line read when it was noted, so that the note goes where the line goes. */
  | { readonly kind: 'line'; readonly line: number; readonly words: string }
  /** Position within the instruction, from 1; 0: the whole instruction. */
  | { readonly kind: 'tick'; readonly mnemonic: string; readonly step: number }
  | { readonly kind: 'panel'; readonly panel: NotedPanel };

export interface Note {
  readonly id: number;
  readonly text: string;
  readonly at: NotePlace;
}

interface NotesState {
  readonly program: string;
  readonly notes: readonly Note[];
}

function isNote(found: unknown): found is Note {
  const { id, text, at } = (found ?? {}) as Partial<Note>;
  if (typeof id !== 'number' || typeof text !== 'string' || typeof at !== 'object' || at === null) return false;
  switch (at.kind) {
    case 'line':
      return typeof at.line === 'number' && typeof at.words === 'string';
    case 'tick':
      return typeof at.mnemonic === 'string' && typeof at.step === 'number';
    case 'panel':
      return NOTED_PANELS.includes(at.panel);
    default:
      return false;
  }
}

export const useNotes = create<NotesState>()(() => ({ program: '', notes: [] }));

/** Those that are kept with a program; rubbish in the storage counts as none. */
export function openNotes(program: string): void {
  const found = keptValue(notesOf(program));
  useNotes.setState({ program, notes: Array.isArray(found) ? (found as unknown[]).filter(isNote) : [] });
}

function put(notes: readonly Note[]): void {
  useNotes.setState({ notes });
  keep(notesOf(useNotes.getState().program), JSON.stringify(notes));
}

export function pinNote(text: string, at: NotePlace): void {
  const { notes } = useNotes.getState();
  put([...notes, { id: Math.max(0, ...notes.map((each) => each.id)) + 1, text, at }]);
}
export const dropNote = (id: number): void => put(useNotes.getState().notes.filter((each) => each.id !== id));

/** Where a noted line stands in a text now: the nearest one that reads as it did, else the one of that number. */
export function lineNow({ line, words }: Extract<NotePlace, { kind: 'line' }>, text: string): number {
  const lines = text.split('\n').map((each) => each.trim());
  const same = lines.flatMap((each, at) => (each === words.trim() && words.trim() !== '' ? [at + 1] : []));
  return same.toSorted((a, b) => Math.abs(a - line) - Math.abs(b - line))[0] ?? line;
}

interface Moment {
  /** Line of the instruction that executes, from 1. */
  readonly line: number | undefined;
  readonly mnemonic: string | undefined;
  /** Of the tick just done. */
  readonly step: number;
  /** The text of the program. */
  readonly source: string;
}

/** The notes of lines and ticks that belong to a moment of the run. */
export function notesAt(notes: readonly Note[], { line, mnemonic, step, source }: Moment): Note[] {
  return notes.filter(({ at }) => {
    if (at.kind === 'line') return line !== undefined && lineNow(at, source) === line;
    return at.kind === 'tick' && at.mnemonic === mnemonic && (at.step === 0 || at.step === step);
  });
}

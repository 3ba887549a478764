/** A screen's hold on its editor: to go to a place, to change the text as one step of undo. Does nothing while there is none. */
import { redo, undo } from '@codemirror/commands';
import { EditorView } from '@codemirror/view';
import { createContext, useContext } from 'react';
import { toggleBreakpoint } from './programParts';

interface Edit {
  readonly span: { readonly start: number; readonly end: number };
  readonly text: string;
}

/** A change without what it would put back as it was, so that what is typed beside each other joins in one step of undo. */
function smallest(old: string, from: number, text: string): { from: number; to: number; insert: string } {
  let start = 0;
  const most = Math.min(old.length, text.length);
  while (start < most && old[start] === text[start]) start++;
  let end = 0;
  while (end < most - start && old.at(-1 - end) === text.at(-1 - end)) end++;
  return { from: from + start, to: from + old.length - end, insert: text.slice(start, text.length - end) };
}

export class EditorHandle {
  private held: EditorView | undefined;

  /** Undefined while there is none. */
  get view(): EditorView | undefined {
    return this.held;
  }

  readonly attach = (view: EditorView | undefined): void => {
    this.held = view;
  };

  /** Typing goes to the editor. */
  focus(): void {
    this.held?.focus();
  }

  /** Offsets in the text. */
  goToSpan(start: number, end: number): void {
    const { held } = this;
    if (!held) return;
    const { length } = held.state.doc;
    held.dispatch({ selection: { anchor: Math.min(start, length), head: Math.min(end, length) }, scrollIntoView: true });
    held.focus();
  }

  /** Offsets in the text; put in the middle, while typing goes on where it went. */
  showSpan(start: number, end: number): void {
    const { held } = this;
    if (!held || end > held.state.doc.length) return;
    held.dispatch({ selection: { anchor: start, head: end }, effects: EditorView.scrollIntoView(start, { y: 'center' }) });
  }

  /** Lines from 1; a line that is not there is passed over. */
  goToLine(line: number): void {
    const { held } = this;
    if (!held || line < 1 || line > held.state.doc.lines) return;
    const { from } = held.state.doc.line(line);
    held.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'center' }) });
    held.focus();
  }

  /** An offset in the text, put in the middle. */
  goToOffset(offset: number): void {
    this.held?.dispatch({ selection: { anchor: offset }, effects: EditorView.scrollIntoView(offset, { y: 'center' }) });
    this.held?.focus();
  }

  /**
   * All at once, as one step of undo. What is `typed` key by key becomes one step together, and what is done `on`, in one go
   * with the last edits, is part of their step however late it comes. Offsets are those of the text before.
   */
  applyEdits(edits: readonly Edit[], { typed = false, on = false } = {}): void {
    const { held } = this;
    if (!held) return;
    const changes = edits.map(({ span, text }) => smallest(held.state.doc.sliceString(span.start, span.end), span.start, text));
    held.dispatch({ changes, ...((typed || on) && { userEvent: on ? 'input.type.compose' : 'input.type' }) });
  }

  /** Takes the last change of the text back, or does it again; whether there was one. */
  turn(way: 'undo' | 'redo'): boolean {
    return this.held !== undefined && (way === 'undo' ? undo : redo)(this.held);
  }

  /** Replaces the whole text, so that undo brings the old one back. */
  replaceText(text: string): void {
    const { held } = this;
    if (!held || held.state.doc.toString() === text) return;
    held.dispatch({ changes: { from: 0, to: held.state.doc.length, insert: text } });
  }

  /** Sets or clears the breakpoint of a line; whether there is such a line. */
  toggleBreakpoint(line: number): boolean {
    const { held } = this;
    if (!held || !Number.isInteger(line) || line < 1 || line > held.state.doc.lines) return false;
    held.dispatch({ effects: toggleBreakpoint.of(held.state.doc.line(line).from) });
    return true;
  }
}

/** The editor of the screen around. */
export const EditorContext = createContext(new EditorHandle());
/** One for each screen, also before its editor is there. */
export const useEditor = (): EditorHandle => useContext(EditorContext);

/** The editor of a panel, found from outside: to go to a place, to change its text as one step of undo. */
import { EditorView } from '@codemirror/view';

export function editorIn(panel: string): EditorView | null {
  const found = document.querySelector<HTMLElement>(`${panel} .cm-editor`);
  return found && EditorView.findFromDOM(found);
}

export function goToSpan(panel: string, start: number, end: number): void {
  const view = editorIn(panel);
  if (!view) return;
  const { length } = view.state.doc;
  view.dispatch({ selection: { anchor: Math.min(start, length), head: Math.min(end, length) }, scrollIntoView: true });
  view.focus();
}

export function goToLine(panel: string, line: number): void {
  const view = editorIn(panel);
  if (!view || line < 1 || line > view.state.doc.lines) return;
  const { from } = view.state.doc.line(line);
  view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: 'center' }) });
  view.focus();
}

export function applyEdits(
  panel: string,
  edits: readonly { readonly span: { readonly start: number; readonly end: number }; readonly text: string }[],
): void {
  editorIn(panel)?.dispatch({ changes: edits.map(({ span, text }) => ({ from: span.start, to: span.end, insert: text })) });
}

/** Replaces the whole text, so that undo brings the old one back. */
export function replaceText(panel: string, text: string): void {
  const view = editorIn(panel);
  if (!view || view.state.doc.toString() === text) return;
  view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } });
}

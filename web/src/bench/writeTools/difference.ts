/** Two texts side by side with what differs marked; stretches that are the same are folded. */
import { MergeView } from '@codemirror/merge';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';

/** Two texts beside each other in `parent`; destroy it when it is closed. */
export function showDifference(parent: HTMLElement, before: string, after: string): MergeView {
  const extensions = [lineNumbers(), EditorView.editable.of(false), EditorState.readOnly.of(true)];
  return new MergeView({
    a: { doc: before, extensions },
    b: { doc: after, extensions },
    parent,
    collapseUnchanged: { margin: 3, minSize: 6 },
  });
}

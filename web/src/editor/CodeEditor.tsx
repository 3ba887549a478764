/** A text editor that keeps its undo across reloads. Knows no language; extensions are handed in. */
import './editor.css';
import { defaultKeymap, history, historyField, historyKeymap, indentLess } from '@codemirror/commands';
import { linter, lintKeymap } from '@codemirror/lint';
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
import { EditorState, type Extension } from '@codemirror/state';
import { drawSelection, EditorView, highlightSpecialChars, keymap, tooltips } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import { tabMemory } from '../app/preferences';

interface Parts {
  readonly text: string;
  /** Counts up when `text` has to replace what is typed. */
  readonly taken: number;
  /** Under this name undo is kept for this tab. */
  readonly name: string;
  readonly label: string;
  readonly extensions: Extension;
  readonly onChange: (text: string) => void;
  readonly onView: (view: EditorView | undefined) => void;
}

const undoName = (name: string): string => `undo.${name}`;
const fields = { history: historyField };

/** The state as it was left, where its text is still the present one. */
function startState(text: string, name: string, extensions: Extension): EditorState {
  try {
    const kept = JSON.parse(tabMemory.kept(undoName(name)) ?? 'null') as { doc?: string } | null;
    if (kept?.doc === text) return EditorState.fromJSON(kept, { extensions }, fields);
  } catch {
    // Nothing kept that can be read: a fresh state does.
  }
  return EditorState.create({ doc: text, extensions });
}

/** `onView` gets the editor when it is made, and undefined when it goes. */
export function CodeEditor({ text, taken, name, label, extensions, onChange, onView }: Parts) {
  const place = useRef<HTMLDivElement>(null);
  const change = useRef(onChange);
  change.current = onChange;

  useEffect(() => {
    const listener = EditorView.updateListener.of((update) => {
      if (update.docChanged) change.current(update.state.doc.toString());
    });
    const basics = [
      history(),
      drawSelection(),
      highlightSpecialChars(),
      // What opens over the text is not cut off where its panel ends.
      tooltips({ parent: document.body }),
      search({ top: true }),
      highlightSelectionMatches(),
      // Problems come from elsewhere. What dresses them stands here from the start: brought in with the first of them, it
      // would have the whole page laid out anew.
      linter(null),
      keymap.of([
        { key: 'Tab', run: insertBlanks, shift: indentLess },
        { key: 'Escape', run: (view) => (view.contentDOM.blur(), true) },
        ...defaultKeymap,
        ...historyKeymap,
        ...searchKeymap,
        ...lintKeymap,
      ]),
      EditorView.contentAttributes.of({
        'aria-label': label,
        tabindex: '0',
        spellcheck: 'false',
        autocorrect: 'off',
        autocapitalize: 'off',
      }),
      listener,
    ];
    const view = new EditorView({ state: startState(text, name, [basics, extensions]), parent: place.current! });
    onView(view);
    const keep = (): void => {
      // Without room undo ends at the reload.
      tabMemory.keep(undoName(name), JSON.stringify(view.state.toJSON(fields)));
    };
    window.addEventListener('pagehide', keep);
    return () => {
      keep();
      window.removeEventListener('pagehide', keep);
      onView(undefined);
      view.destroy();
    };
    // A new text taken from outside, another name or other extensions make a new editor.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [taken, name, extensions]);

  return <div ref={place} className="code" data-testid={`editor-${name.split('.')[0]}`} />;
}

/** To the next column of eight: assembly stands in columns. */
function insertBlanks({ state, dispatch }: EditorView): boolean {
  const { head } = state.selection.main;
  const column = head - state.doc.lineAt(head).from;
  dispatch(state.update(state.replaceSelection(' '.repeat(8 - (column % 8))), { scrollIntoView: true, userEvent: 'input' }));
  return true;
}

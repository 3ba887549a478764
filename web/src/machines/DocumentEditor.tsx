/** The editor of a machine's document. It stands there while parts are edited, too: it holds the undo of both. */
import { yaml } from '@codemirror/lang-yaml';
import { syntaxHighlighting } from '@codemirror/language';
import { setDiagnostics } from '@codemirror/lint';
import { Compartment } from '@codemirror/state';
import { keymap, lineNumbers, type EditorView } from '@codemirror/view';
import { useEffect, useMemo, useRef, useState } from 'react';
import { CodeEditor } from '../editor/CodeEditor';
import { colours, toEditorDiagnostics } from '../editor/programParts';
import { useDefined, useDefining } from './defining';

interface EditorParts {
  readonly name: string;
  readonly save: () => Promise<void>;
}

export function DocumentEditor({ name, save }: EditorParts) {
  const defining = useDefining();
  // Marks are shown where the text is.
  const look = useDefined((state) => (state.face === 'text' ? state.look : undefined));
  const face = useDefined((state) => state.face);
  const [view, setView] = useState<EditorView>();
  const [text] = useState(defining.state.text);
  const saving = useRef(save);
  saving.current = save;
  const attach = (now: EditorView | undefined): void => {
    defining.editor.attach(now);
    setView(now);
  };
  // What nobody sees is not read for its colours at every key press.
  const language = useMemo(() => new Compartment(), []);
  const extensions = useMemo(
    () => [
      ...[lineNumbers(), language.of([]), syntaxHighlighting(colours)],
      keymap.of([{ key: 'Mod-s', run: () => (void saving.current(), true) }]),
    ],
    [language],
  );
  useEffect(() => view?.dispatch({ effects: language.reconfigure(face === 'text' ? yaml() : []) }), [view, face, language]);
  useEffect(() => {
    if (face === 'text' && view && look && view.state.doc.toString() === look.text)
      view.dispatch(setDiagnostics(view.state, toEditorDiagnostics(look.problems, look.text.length)));
  }, [view, look, face]);
  return (
    <CodeEditor
      {...{ text, name, extensions }}
      taken={0}
      label="Machine document"
      onChange={(now) => defining.changed(now)}
      onView={attach}
    />
  );
}

/** The editor of a machine's document. */
import { yaml } from '@codemirror/lang-yaml';
import { syntaxHighlighting } from '@codemirror/language';
import { setDiagnostics } from '@codemirror/lint';
import { keymap, lineNumbers, type EditorView } from '@codemirror/view';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { MachineCheck } from '@zettak/core/session/protocol';
import { CodeEditor } from '../editor/CodeEditor';
import type { EditorHandle } from '../editor/handle';
import { colours, toEditorDiagnostics } from '../editor/programParts';

interface EditorParts {
  readonly text: string;
  readonly taken: number;
  readonly name: string;
  readonly check: (MachineCheck & { readonly text: string }) | undefined;
  readonly change: (text: string) => void;
  readonly save: () => Promise<void>;
  readonly editor: EditorHandle;
}

export function DocumentEditor({ text, taken, name, check, change, save, editor }: EditorParts) {
  const [view, setView] = useState<EditorView>();
  const saving = useRef(save);
  saving.current = save;
  const attach = (now: EditorView | undefined): void => {
    editor.attach(now);
    setView(now);
  };
  const extensions = useMemo(
    () => [lineNumbers(), yaml(), syntaxHighlighting(colours), keymap.of([{ key: 'Mod-s', run: () => (void saving.current(), true) }])],
    [],
  );
  useEffect(() => {
    if (view && check && view.state.doc.toString() === check.text)
      view.dispatch(setDiagnostics(view.state, toEditorDiagnostics(check.problems, check.text.length)));
  }, [view, check]);
  return <CodeEditor {...{ text, taken, name, extensions }} label="Machine document" onChange={change} onView={attach} />;
}

/** A machine as its document, with live problems beside it. Saving makes a version, which the bench then offers. */
import { yaml } from '@codemirror/lang-yaml';
import { syntaxHighlighting } from '@codemirror/language';
import { setDiagnostics } from '@codemirror/lint';
import { keymap, lineNumbers, type EditorView } from '@codemirror/view';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { DocumentDetail, DocumentSummary } from '@zettak/api/documents';
import type { Form, Machine } from '@zettak/core/machine/model/machine';
import { starter } from '@zettak/core/machine/document/starter';
import { patternText } from '@zettak/core/machine/model/opcodeMap';
import { client } from '../documents/client';
import { ProblemList } from '../editor/ProblemList';
import { CodeEditor } from '../editor/CodeEditor';
import { Draft, type SaveState } from '../documents/drafts';
import { engine } from '../session/engine';
import { ConflictBar, SaveMark } from '../documents/SaveMark';
import { Shell } from '../app/Shell';
import type { MachineCheck } from '@zettak/core/session/protocol';
import { kept } from '../app/preferences';
import { baseTexts } from '../documents/baseTexts';
import { EditorHandle } from '../editor/handle';
import { OpcodeMap } from './OpcodeMap';
import { colours, toEditorDiagnostics } from '../editor/programParts';

export function MachinesPage() {
  const { machine: wanted } = useParams();
  const [machines, setMachines] = useState<readonly DocumentSummary[]>();
  const [document, setDocument] = useState<DocumentDetail>();
  const [failure, setFailure] = useState<string>();
  const navigate = useNavigate();
  const id = wanted ?? machines?.[0]?.id;

  useEffect(() => {
    client.list('machine').then(setMachines, (error: Error) => setFailure(error.message));
  }, [wanted]);
  useEffect(() => {
    setDocument(undefined);
    setFailure(undefined);
    if (id) client.get('machine', id).then(setDocument, (error: Error) => setFailure(error.message));
  }, [id]);

  const create = async (name: string, text: string): Promise<void> => {
    try {
      const created = await client.create('machine', { name, text });
      await navigate(`/machines/${created.id}`);
    } catch (error) {
      setFailure((error as Error).message);
    }
  };

  return (
    <Shell
      title="Machines"
      controls={
        <>
          <label className="choice grow">
            <select
              aria-label="Machine"
              value={id ?? ''}
              onChange={(event) => void navigate(`/machines/${event.target.value}`)}
              data-testid="machine-choice"
            >
              {(machines ?? []).map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          </label>
          <button type="button" className="new-machine" data-testid="new-machine" onClick={() => void create('New machine', starter)}>
            New machine
          </button>
        </>
      }
    >
      {failure && (
        <p className="notice problem" role="alert">
          {failure}
        </p>
      )}
      {document && <Workshop key={document.id} document={document} duplicate={(text, name) => create(`${name} copy`, text)} />}
      {machines?.length === 0 && <p className="notice">There is no machine yet.</p>}
    </Shell>
  );
}

/** A text to begin with: what can be written on this machine, as remarks. */
const firstProgram = (name: string, machine: Machine | undefined): string =>
  [
    `; A program for ${name}. It can do:`,
    ...(machine?.forms ?? []).slice(0, 40).map((each) => `;   ${each.written.replace(/[{}]/g, '').padEnd(24)} ${each.title}`),
    '',
    'start:  ',
    '',
  ].join('\n');

function Workshop({ document, duplicate }: { document: DocumentDetail; duplicate: (text: string, name: string) => Promise<void> }) {
  const navigate = useNavigate();
  const [editor] = useState(() => new EditorHandle());
  const [saveState, setSaveState] = useState<SaveState>({ kind: 'saved' });
  const [draft, setDraft] = useState<Draft>();
  const [text, setText] = useState(document.draft);
  const [taken, setTaken] = useState(0);
  const [check, setCheck] = useState<MachineCheck & { readonly text: string }>();
  const [version, setVersion] = useState(document.versions.at(-1)?.number ?? 0);
  const [said, setSaid] = useState('');

  useEffect(() => {
    const made = new Draft('machine', document.id, document, setSaveState);
    setDraft(made);
    setText(made.text);
    setTaken((each) => each + 1);
    return () => made.close();
  }, [document]);
  useEffect(() => {
    let live = true;
    void baseTexts(text)
      .then((bases) => engine.texts.setBases(bases))
      .catch(() => undefined)
      .then(() => engine.texts.checkMachine(text))
      .then((each) => live && setCheck({ ...each, text }));
    return () => {
      live = false;
    };
  }, [text]);

  const change = useCallback(
    (now: string) => {
      setText(now);
      setSaid('');
      draft?.change(now);
    },
    [draft],
  );
  const save = useCallback(async (): Promise<void> => {
    if (!draft) return;
    try {
      await draft.flush();
      const kept = await client.keepVersion('machine', draft.id, draft.revision);
      setSaid(kept.number === version ? `Nothing has changed since version ${version}.` : `Saved as version ${kept.number}.`);
      setVersion(kept.number);
    } catch (error) {
      setSaid(`No version was made. ${(error as Error).message}`);
    }
  }, [draft, version]);

  /** To a program of this machine: the one opened last, the first, or a new one. */
  const openBench = async (): Promise<void> => {
    try {
      const programs = (await client.list('program')).filter((each) => each.machine === document.id);
      const last = kept('program');
      const found = programs.find((each) => each.id === last) ?? programs[0];
      if (!found && version === 0) return setSaid('Save a version first: the bench works with versions only.');
      const name = `first on ${document.name}`.slice(0, 60);
      const program =
        found ?? (await client.create('program', { name, text: firstProgram(document.name, check?.machine), machine: document.id }));
      await navigate(`/bench/${program.id}`);
    } catch (error) {
      setSaid((error as Error).message);
    }
  };

  const errors = check?.problems.filter((each) => each.grade === 'error').length ?? 0;
  return (
    <div className="workshop">
      <section className="panel document" aria-label="Machine document">
        <header>
          <h2>{document.name}</h2>
          <span className="hint" data-testid="version">
            {version > 0 ? `version ${version}` : 'no version yet'}
          </span>
          <SaveMark state={saveState} />
          <span className="said" role="status" data-testid="said">
            {said}
          </span>
          <button type="button" className="plain" onClick={() => void duplicate(text, document.name)}>
            Duplicate
          </button>
          <button
            type="button"
            className="load"
            onClick={() => void save()}
            disabled={errors > 0}
            title={errors > 0 ? 'A version needs a document without errors; the draft is kept.' : 'Save a version (Ctrl S)'}
            data-testid="save-version"
          >
            Save a version
          </button>
          <button type="button" className="plain" onClick={() => void openBench()} data-testid="open-bench">
            Open the bench
          </button>
        </header>
        <ConflictBar state={saveState} draft={draft} take={(theirs) => (setText(theirs), setTaken((each) => each + 1))} />
        {draft && <DocumentEditor {...{ text, taken, check, change, save, editor }} name={`machine.${document.id}`} />}
      </section>
      <Findings {...{ check, errors, editor }} />
    </div>
  );
}

interface EditorParts {
  readonly text: string;
  readonly taken: number;
  readonly name: string;
  readonly check: (MachineCheck & { readonly text: string }) | undefined;
  readonly change: (text: string) => void;
  readonly save: () => Promise<void>;
  readonly editor: EditorHandle;
}

function DocumentEditor({ text, taken, name, check, change, save, editor }: EditorParts) {
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

/** What is wrong, or what the machine amounts to. */
function Findings({ check, errors, editor }: { check: MachineCheck | undefined; errors: number; editor: EditorHandle }) {
  if (!check) return <aside className="panel findings" aria-label="Problems" />;
  const { problems, machine } = check;
  return (
    <aside className="panel findings" aria-label="Problems">
      <header>
        <h2>Problems</h2>
        <span className="hint" role="status" data-testid="problem-count">
          {problems.length === 0 ? 'none' : `${errors} ${errors === 1 ? 'error' : 'errors'}, ${problems.length - errors} other`}
        </span>
      </header>
      <ProblemList problems={problems} editor={editor} testId="machine-problems" />
      {machine && <OpcodeMap machine={machine} goTo={(form) => goToForm(editor, form)} />}
      {machine && <Summary machine={machine} />}
      {!machine && <p className="hint pad">The bench keeps the last version without errors. This draft is kept too, errors and all.</p>}
    </aside>
  );
}

/** Puts the cursor where the form is written. */
function goToForm(editor: EditorHandle, { written }: Form): void {
  const text = editor.view?.state.doc.toString() ?? '';
  const at = [`write: '${written}'`, `write: "${written}"`, `write: ${written}`]
    .map((each) => text.indexOf(each))
    .find((each) => each !== -1);
  if (at !== undefined) editor.goToOffset(at);
}

/** The machine in short: what it is made of, and every instruction with its first cell and tick count. */
function Summary({ machine }: { machine: Machine }) {
  const { cells } = machine.spaces[machine.programSpace]!;
  const families = [...new Set(machine.forms.map((each) => each.family))];
  return (
    <div className="summary" data-testid="summary">
      <p>
        {machine.radix === 10 ? `words of ${machine.wordWidth} digits` : `${machine.wordWidth}-bit words`}, {cells} cells,{' '}
        {machine.registers.length} registers, flags {machine.flags.map((each) => each.name).join(' ') || 'none'}, {machine.forms.length}{' '}
        written forms.
      </p>
      {machine.words.notes && <p className="notes">{machine.words.notes}</p>}
      {families.map((family) => (
        <table key={family}>
          <caption>{family}</caption>
          <tbody>
            {machine.forms
              .filter((each) => each.family === family)
              .map((form) => (
                <tr key={form.index} title={form.title}>
                  <td>{form.written.replace(/[{}]/g, '')}</td>
                  <td className="code-cell">{patternText(machine, form)}</td>
                  <td className="hint">{form.schedule.length} ticks</td>
                </tr>
              ))}
          </tbody>
        </table>
      ))}
    </div>
  );
}

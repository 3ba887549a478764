/** Ticks, one a line: names are completed, the very word that is wrong is marked. What is typed is written into the document. */
import {
  acceptCompletion,
  autocompletion,
  completeFromList,
  completionKeymap,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import { defaultKeymap } from '@codemirror/commands';
import { linter, setDiagnostics } from '@codemirror/lint';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView, keymap } from '@codemirror/view';
import { chakra } from '@chakra-ui/react';
import { memo, useCallback, useEffect, useRef } from 'react';
import type { Path } from '@zettak/core/machine/document/yaml';
import { problemsIn, useDefinedSame, useDefining, useSame, type DefiningState } from './defining';
import { useTyped } from './typed';

const Frame = chakra('div', {
  base: {
    border: '1px solid',
    borderColor: 'edge',
    borderRadius: '5px',
    bg: 'paper',
    '&:focus-within': { outline: '2px solid', outlineColor: 'focus' },
    '& .cm-editor.cm-focused': { outline: 'none' },
  },
});

/** There is room for one sentence, so that nothing below moves while somebody is typing. */
const Sentences = chakra('div', {
  base: {
    ...{ minHeight: '22px', fontSize: '13px', pt: '2px' },
    '& p': { color: 'ink2' },
    '& p.error': { color: 'problem' },
    '& .mend': { color: 'address', textDecoration: 'underline', ms: '6px', cursor: 'pointer' },
  },
});

/** What is wrong with ticks; its frame stays as it is from key to key. */
const Wrong = memo(function Wrong({ path }: { path: Path }) {
  return (
    <Sentences>
      <Told path={path} />
    </Sentences>
  );
});

function Told({ path }: { path: Path }) {
  const defining = useDefining();
  const problems = useDefinedSame((state) => problemsIn(state.look, path));
  return problems
    .filter((each) => each.grade !== 'remark')
    .slice(0, 3)
    .map((each) => (
      <p key={`${each.code} ${each.start}`} className={each.grade}>
        {each.sentence}
        {each.mend && (
          <button type="button" className="mend" onClick={() => defining.editor.applyEdits(each.mend?.edits ?? [])}>
            {each.mend.title}
          </button>
        )}
      </p>
    ));
}

/** Words of the notation, and what each is for. */
const WORDS: readonly (readonly [word: string, does: string])[] = [
  ['halt', 'stops the machine'],
  ['compare', 'computes for the flags only'],
  ['service', 'asks for a built-in trap'],
  ['enter', 'takes the ticks that enter a trap'],
  ['wait', 'waits for a device'],
  ['push', 'a value goes onto a stack'],
  ['pop', 'a value comes from a stack'],
  ['call', 'PC goes to a subroutine'],
  ['return', 'PC comes back'],
  ['if', 'a choice: if Z = 1: …'],
  ['else', 'the other way of a choice'],
  ['flags', 'sets these flags from the result'],
  ['next', 'where the instruction behind this one begins'],
  ['here', 'where this instruction began'],
  ['low(', 'the low digits of a value'],
  ['extend(', 'the sign repeated up to so many digits'],
  ['join(', 'digits side by side'],
  ['signed(', 'read with its sign'],
  ['rotl(', 'rotates left'],
  ['rotr(', 'rotates right'],
  ['asr(', 'shifts right and keeps the sign'],
];

/** What can stand in a tick on this machine; fields of the format too. */
function offers({ sound }: DefiningState, form: Parts['form']) {
  const machine = sound?.machine ?? sound?.clashing;
  const format = form && machine?.forms.filter((each) => each.mnemonic === form.name)[form.at]?.format;
  const option = (label: string, detail: string) => ({ label, detail: detail.slice(0, 40) });
  return [
    ...(machine?.registers ?? []).filter((each) => each.array === undefined).map((each) => option(each.name, each.title || 'register')),
    ...(machine?.arrays ?? []).map((each) => option(`${each.name}[`, 'registers by number')),
    ...(machine?.views ?? []).map((each) => option(`${each.name}[`, each.title || 'view')),
    ...(machine?.composites ?? []).map((each) => option(each.name, each.title || 'pair')),
    ...(machine?.flags ?? []).map((each) => option(each.name, `flag: ${each.title}`)),
    ...(machine?.spaces ?? []).map((each) => option(`${each.name}[`, each.title || 'memory')),
    ...(machine?.ports ? [option(`${machine.ports.name}[`, 'port')] : []),
    ...(machine?.devices ?? []).map((each) => option(each.name, each.title || each.kind)),
    ...(machine?.stacks ?? []).map((each) => option(each.name, each.title || 'stack')),
    ...[...(machine?.traps ?? []), ...(machine?.routines ?? [])].map((each) => option(each.name, 'trap')),
    ...(format?.fields ?? []).map((each) => option(each.name, `field of ${format?.name ?? ''}`)),
    ...WORDS.map(([word, does]) => option(word, does)),
  ];
}

interface Parts {
  readonly path: Path;
  readonly said: string;
  readonly label: string;
  /** Whose fields can be named: a form of an instruction. */
  readonly form?: { readonly name: string; readonly at: number };
}

interface PlaceProps {
  readonly place: React.Ref<HTMLDivElement>;
  readonly name: string;
  readonly focus: () => void;
}

/** Where the editor stands; as it is from key to key. */
const Place = memo(function Place({ place, name, focus }: PlaceProps) {
  return <Frame ref={place} className="ticks" data-testid={`ticks-${name}`} onClick={focus} />;
});

export function TicksEditor({ path, said, label, form }: Parts) {
  const defining = useDefining();
  const problems = useDefinedSame((state) => problemsIn(state.look, path));
  const { value, type, leave } = useTyped(path, said.replace(/\n$/, ''), {
    optional: false,
    // Ticks stand under “|”, one a line.
    toText: (text) => (text.trim() === '' ? '' : `${text.replace(/\s+$/gm, '')}\n`),
  });
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  /** The marks that the editor was told of last. */
  const marked = useRef('[]');
  const acts = useRef({ type, leave });
  acts.current = { type, leave };
  const fields = useRef(form);
  fields.current = form;
  useEffect(() => {
    const complete = (context: CompletionContext): CompletionResult | null | Promise<CompletionResult | null> =>
      completeFromList(offers(defining.state, fields.current))(context);
    const own: Extension = [
      EditorView.lineWrapping,
      linter(null),
      autocompletion({ override: [complete], icons: false, defaultKeymap: false, maxRenderedOptions: 40 }),
      keymap.of([
        // Enter begins the next tick; what is offered is taken with Tab.
        { key: 'Tab', run: acceptCompletion },
        ...completionKeymap.filter((each) => each.key !== 'Enter'),
        { key: 'Escape', run: (editor) => (editor.contentDOM.blur(), true) },
        ...defaultKeymap.filter((each) => each.key !== 'Mod-Enter'),
      ]),
      EditorView.contentAttributes.of({
        'aria-label': label,
        tabindex: '0',
        spellcheck: 'false',
        autocorrect: 'off',
        autocapitalize: 'off',
      }),
      EditorView.updateListener.of((update) => {
        if (
          update.docChanged &&
          update.transactions.some((each) => each.isUserEvent('input') || each.isUserEvent('delete') || each.isUserEvent('move'))
        )
          acts.current.type(update.state.doc.toString());
        if (update.focusChanged && !update.view.hasFocus) acts.current.leave();
      }),
    ];
    const made = new EditorView({ state: EditorState.create({ extensions: own }), parent: place.current! });
    view.current = made;
    marked.current = '[]';
    return () => made.destroy();
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [JSON.stringify(path), label]);
  // What the document says, where somebody has not just typed it.
  useEffect(() => {
    const held = view.current;
    if (held && held.state.doc.toString().trimEnd() !== value.trimEnd())
      held.dispatch({ changes: { from: 0, to: held.state.doc.length, insert: value } });
  }, [value, path]);
  useEffect(() => {
    const held = view.current;
    if (!held) return;
    const { length } = held.state.doc;
    const marks = problems.map((each) => {
      const from = Math.min(length, each.inside ?? 0);
      const to = Math.min(length, from + Math.max(1, each.end - each.start));
      return { from, to, severity: each.grade === 'error' ? ('error' as const) : ('warning' as const), message: each.sentence };
    });
    // An editor that is told anything measures itself: it is told of marks that are others than before.
    const said = JSON.stringify(marks);
    if (said === marked.current) return;
    marked.current = said;
    held.dispatch(setDiagnostics(held.state, marks));
  }, [problems, value]);
  const own = useSame(path);
  const focus = useCallback(() => view.current?.focus(), []);
  return (
    <>
      <Place {...{ place, focus }} name={String(path.at(-1))} />
      <Wrong path={own} />
    </>
  );
}

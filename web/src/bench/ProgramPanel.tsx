/** The program: source with its listing in the same rows, problems in place, and what the assembly amounts to. */
import { setDiagnostics } from '@codemirror/lint';
import { EditorView, keymap } from '@codemirror/view';
import { Prec, type Extension } from '@codemirror/state';
import { Eye, PencilLine } from 'lucide-react';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { Row } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { addressText } from '@zettak/core/engine/tell/names';
import { shownDigits } from '@zettak/core/text/number';
import { ProblemList } from '../ui/ProblemList';
import { CodeEditor } from '../editor/CodeEditor';
import { ConflictBar, SaveMark } from '../documents/SaveMark';
import {
  assemblyLanguage,
  breakLinesOf,
  listingParts,
  setBreakpoints,
  setListing,
  setRunMarks,
  toEditorDiagnostics,
  toggleBreakpoint,
} from '../editor/programParts';
import { applyEdits, editorIn, goToSpan } from '../editor/editors';
import { afterPaint } from '../ui/follow';
import { engine } from '../session/engine';
import { languageParts, type Knowledge } from '../editor/language';
import { PartLines, SystemLines } from './FoldedLines';
import { edit, load, runFinishedPart, say, setBreakLines, setCursorLine, setWriting, takeText, useBench } from './store';
import { valueText } from './write/NamesTab';
import { Settings } from './write/Settings';

/** Words shown beside a line; what is more is in memory. */
const LINE_WORDS = 2;

export const loadAndLeave = async (): Promise<void> => {
  if (await load({ clear: false })) (document.activeElement as HTMLElement | null)?.blur();
};

export function ProgramPanel() {
  const machine = useBench((state) => state.machine);
  const program = useBench((state) => state.program);
  const saveState = useBench((state) => state.saveState);
  const draft = useBench((state) => state.draft);
  const writing = useBench((state) => state.writing);
  const holdsOlder = useBench((state) => state.view !== undefined && state.view.loaded !== state.source);
  return (
    <section className="panel program" aria-label="Program">
      <header>
        <h2 className={holdsOlder ? 'sr-only' : ''}>Program</h2>
        {holdsOlder && (
          <span className="badge" data-testid="older">
            holds an older program
          </span>
        )}
        <button
          type="button"
          className="plain turn"
          aria-label={writing ? 'Watch: show the ticks again' : 'Write: tools for writing in place of the ticks'}
          aria-pressed={writing}
          onClick={() => setWriting(!writing)}
          title={writing ? 'Show the ticks again (w)' : 'Tools for writing in place of the ticks (w)'}
          data-testid="write"
          data-bench
        >
          {writing ? <Eye size={15} aria-hidden /> : <PencilLine size={15} aria-hidden />}
        </button>
        <button
          type="button"
          className="load"
          onClick={() => void loadAndLeave()}
          title="Assemble and load (Ctrl Enter)"
          data-testid="load"
        >
          Assemble and load
        </button>
      </header>
      <ConflictBar state={saveState} draft={draft} take={takeText} />
      {machine && writing && <Settings machine={machine} />}
      {machine && program && <SourceEditor machine={machine} programId={program.id} />}
      {machine && <PartLines machine={machine} />}
      {machine && <SystemLines machine={machine} />}
      <RenameBar />
      <Outcome />
    </section>
  );
}

function SourceEditor({ machine, programId }: { machine: Machine; programId: string }) {
  const taken = useBench((state) => state.taken);
  const [view, setView] = useState<EditorView>();
  // As one text, so that a machine with the same operations leaves the editor, its cursor and its focus alone.
  const mnemonics = [...new Set([...machine.forms, ...machine.shortForms].map((each) => each.mnemonic.toUpperCase()))].join(' ');
  const extensions = useMemo(
    (): Extension => [...editorExtensions(), languageParts(knowledge), assemblyLanguage(new Set(mnemonics.split(' ')))],
    [mnemonics],
  );
  useListing(view, machine);
  useMarks(view);
  useEffect(() => {
    view?.dispatch({ effects: setBreakpoints.of(useBench.getState().breakpoints) });
  }, [view]);
  useEffect(() => {
    const toggle = (event: Event): void => {
      const line = (event as CustomEvent<number>).detail;
      if (view && line >= 1 && line <= view.state.doc.lines)
        view.dispatch({ effects: toggleBreakpoint.of(view.state.doc.line(line).from) });
    };
    window.addEventListener('zettak:breakpoint', toggle);
    return () => window.removeEventListener('zettak:breakpoint', toggle);
  }, [view]);
  return (
    <CodeEditor
      text={useBench.getState().source}
      {...{ taken, extensions }}
      name={`program.${programId}`}
      label="Program source"
      onChange={(text) => edit(text)}
      onView={setView}
    />
  );
}

/** What the editor asks the bench. */
const knowledge: Knowledge = {
  help: () => useBench.getState().help,
  symbols: () => useBench.getState().symbols,
  unfrozen: () => useBench.getState().unfrozen,
  refused: () => say('This line is given by the course and stays as it is. “Course” lets you change such lines.'),
  showValue: (symbol) => {
    const { machine } = useBench.getState();
    return machine ? valueText(machine, symbol) : String(symbol.value);
  },
  goTo: (view, what) => void goToName(view, what),
  rename: (view) => void askForName(view),
};

/** To the definition, or from use to use. */
async function goToName(view: EditorView, what: 'definition' | 'uses'): Promise<void> {
  const offset = view.state.selection.main.head;
  const found = await engine.texts.occurrences(view.state.doc.toString(), offset);
  if (!found) return say('No name of this program stands at the cursor.');
  const list = found.list.filter((each) => each.defines === (what === 'definition'));
  const next = list.find((each) => each.span.start > offset) ?? list[0];
  if (!next) return say(what === 'uses' ? `“${found.name}” is never used.` : `“${found.name}” is defined elsewhere.`);
  goToSpan('.program', next.span.start, next.span.end);
  say(what === 'uses' ? `“${found.name}” is used on line ${list.map((each) => each.line).join(', ')}.` : undefined);
}

/** Opens the names with the field for the new name. */
async function askForName(view: EditorView): Promise<void> {
  const offset = view.state.selection.main.head;
  const text = view.state.doc.toString();
  const found = await engine.texts.occurrences(text, offset);
  if (!found) return say('No name of this program stands at the cursor.');
  useBench.setState({ renaming: { name: found.name, offset } });
}

const editorExtensions = (): Extension[] => [
  listingParts,
  Prec.highest(keymap.of([{ key: 'Mod-Enter', run: () => (void loadAndLeave(), true) }])),
  keymap.of([{ key: 'Alt-b', run: breakAtCursor }]),
  // Breakpoints move with their lines, so the engine is told after each change of either.
  breakpointReporter(),
  cursorReporter(),
];

function breakAtCursor(view: EditorView): boolean {
  view.dispatch({ effects: toggleBreakpoint.of(view.state.selection.main.head) });
  return true;
}

/** The line of the cursor is marked in memory too. */
const cursorReporter = (): Extension =>
  EditorView.updateListener.of(({ state, selectionSet, docChanged }) => {
    if (selectionSet || docChanged) setCursorLine(state.doc.lineAt(state.selection.main.head).number);
  });

const breakpointReporter = (): Extension =>
  EditorView.updateListener.of((update) => {
    const toggled = update.transactions.some((each) => each.effects.some((effect) => effect.is(toggleBreakpoint)));
    if (!update.docChanged && !toggled) return;
    const lines = breakLinesOf(update.state);
    if (lines.join() !== useBench.getState().breakpoints.join()) setBreakLines(lines);
  });

function useListing(view: EditorView | undefined, machine: Machine): void {
  const listing = useBench((state) => state.listing);
  const listed = useBench((state) => state.listed);
  // Before the paint, so that the listing does not wait for the one after.
  useLayoutEffect(() => {
    if (!view || view.state.doc.toString() !== listed) return;
    const { radix, spaces, programSpace } = machine;
    const address = (row: Row): string => {
      const space = spaces[row.space ?? programSpace]!;
      return shownDigits(row.address! % space.cells, space.addressWidth, radix);
    };
    const words = (row: Row): string => {
      if (row.kind === 'room') return '··';
      const { width } = spaces[row.space ?? programSpace]!;
      const most = width > 8 && radix === 2 ? Math.max(1, Math.floor((LINE_WORDS * 8) / width)) : LINE_WORDS;
      const shown = row.words.slice(0, most).map((each) => shownDigits(each, width, radix));
      return shown.join(' ') + (row.words.length > most ? '…' : '');
    };
    view.dispatch({ effects: setListing.of({ rows: listing.rows, address, words }) });
    view.dispatch(setDiagnostics(view.state, toEditorDiagnostics(listing.problems, view.state.doc.length)));
  }, [view, listing, listed, machine]);
}

function useMarks(view: EditorView | undefined): void {
  const current = useBench((state) => state.view !== undefined && state.view.loaded === state.source);
  const executing = useBench((state) => state.view?.executing?.line);
  const next = useBench((state) => (state.view?.status === 'halted' ? undefined : state.view?.next.line));
  const shown = useRef<number | undefined>(undefined);
  useEffect(() => {
    if (!view) return;
    view.dispatch({ effects: setRunMarks.of(current ? { executing, next } : { executing: undefined, next: undefined }) });
    const follow = executing ?? next;
    if (!current || follow === undefined || follow === shown.current || view.hasFocus || follow > view.state.doc.lines) return;
    shown.current = follow;
    afterPaint(() => showLine(view, follow));
  }, [view, executing, next, current]);
}

/** Only where the line is out of sight: else nothing has to be measured. */
function showLine(view: EditorView, line: number): void {
  if (line > view.state.doc.lines) return;
  const { from } = view.state.doc.line(line);
  const { top, bottom } = view.lineBlockAt(from);
  const { scrollTop, clientHeight } = view.scrollDOM;
  if (top >= scrollTop && bottom <= scrollTop + clientHeight) return;
  view.dispatch({ effects: EditorView.scrollIntoView(from, { y: 'nearest', yMargin: 60 }) });
}

/** The new name for the name at the cursor. */
function RenameBar() {
  const renaming = useBench((state) => state.renaming);
  const [name, setName] = useState('');
  useEffect(() => setName(renaming?.name ?? ''), [renaming]);
  if (!renaming) return null;
  const close = (): void => {
    useBench.setState({ renaming: undefined });
    editorIn('.program')?.focus();
  };
  const apply = async (): Promise<void> => {
    const { source } = useBench.getState();
    const result = await engine.texts.rename(source, renaming.offset, name.trim());
    if ('refused' in result) return say(result.refused);
    if (useBench.getState().source === source) applyEdits('.program', result.edits);
    say(undefined);
    close();
  };
  return (
    <form
      className="choices rename"
      onSubmit={(event) => {
        event.preventDefault();
        void apply();
      }}
    >
      <label>
        Rename “{renaming.name}” to{' '}
        <input
          autoFocus
          value={name}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Escape' && close()}
          data-testid="rename"
        />
      </label>
      <button type="submit" className="plain">
        everywhere
      </button>
      <button type="button" className="plain" onClick={close}>
        cancel
      </button>
    </form>
  );
}

/** Facts of a program that assembles; problems of one that does not. */
function Outcome() {
  const { problems, facts } = useBench((state) => state.listing);
  const message = useBench((state) => state.message);
  const note = useBench((state) => state.note);
  const offersPart = useBench((state) => state.offersPart);
  const saveState = useBench((state) => state.saveState);
  const machine = useBench((state) => state.machine);
  const hex = (value: number): string => (machine ? addressText(machine, value) : String(value));
  return (
    <div className="outcome" data-testid="outcome">
      <SaveMark state={saveState} />
      {message && (
        <p className="message" role="alert">
          {message}
        </p>
      )}
      {note && (
        <p className="told" role="status">
          {note}
        </p>
      )}
      {offersPart && (
        <button type="button" className="plain" onClick={() => void runFinishedPart()} data-testid="load-part">
          Run the finished part, up to the first error
        </button>
      )}
      {facts && (
        <p data-testid="facts">
          Starts at {hex(facts.start)}, last cell {hex(facts.last)}. {facts.used} cells used, {facts.free} free, {facts.names} names
          {facts.unusedNames.length > 0 ? `; never used: ${facts.unusedNames.slice(0, 4).join(', ')}.` : '.'}
          {facts.services.length > 0 && ` Services: ${facts.services.join(', ')}.`}
          {facts.outside.length > 0 && ` Goes outside to ${facts.outside.map(hex).join(', ')}.`}
          {facts.warnings > 0 && ` ${facts.warnings} ${facts.warnings === 1 ? 'warning' : 'warnings'}.`}
          {facts.base !== 10 && ` Unmarked numbers are read in base ${facts.base}.`}
        </p>
      )}
      {problems.length > 0 && <ProblemList problems={problems} editor=".program" testId="problems" />}
    </div>
  );
}

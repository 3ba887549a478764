/** The program: source with its listing in the same rows, problems in place, and what the assembly amounts to. */
import { setDiagnostics } from '@codemirror/lint';
import { EditorView, keymap } from '@codemirror/view';
import { Prec, type Extension } from '@codemirror/state';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Row } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/machine';
import { addressText } from '@zettak/core/engine/names';
import { shownDigits } from '@zettak/core/text/number';
import { ProblemList } from '../app/ProblemList';
import { CodeEditor } from '../app/CodeEditor';
import { ConflictBar, SaveMark } from '../app/SaveMark';
import {
  assemblyLanguage,
  breakLinesOf,
  listingParts,
  setBreakpoints,
  setListing,
  setRunMarks,
  toEditorDiagnostics,
  toggleBreakpoint,
} from './editorParts';
import { edit, load, setBreakLines, takeText, useBench } from './store';

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
  const holdsOlder = useBench((state) => state.view !== undefined && state.view.loaded !== state.source);
  return (
    <section className="panel program" aria-label="Program">
      <header>
        <h2>Program</h2>
        {holdsOlder && (
          <span className="badge" data-testid="older">
            holds an older program
          </span>
        )}
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
      {machine && program && <SourceEditor machine={machine} programId={program.id} />}
      <Outcome />
    </section>
  );
}

function SourceEditor({ machine, programId }: { machine: Machine; programId: string }) {
  const taken = useBench((state) => state.taken);
  const [view, setView] = useState<EditorView>();
  const mnemonics = useMemo(() => new Set(machine.forms.map((each) => each.mnemonic.toUpperCase())), [machine]);
  const extensions = useMemo((): Extension => [...editorExtensions(), assemblyLanguage(mnemonics)], [mnemonics]);
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

const editorExtensions = (): Extension[] => [
  listingParts,
  Prec.highest(keymap.of([{ key: 'Mod-Enter', run: () => (void loadAndLeave(), true) }])),
  keymap.of([{ key: 'Alt-b', run: breakAtCursor }]),
  // Breakpoints move with their lines, so the engine is told after each change of either.
  breakpointReporter(),
];

function breakAtCursor(view: EditorView): boolean {
  view.dispatch({ effects: toggleBreakpoint.of(view.state.selection.main.head) });
  return true;
}

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
  useEffect(() => {
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
    view.dispatch({ effects: EditorView.scrollIntoView(view.state.doc.line(follow).from, { y: 'nearest', yMargin: 60 }) });
  }, [view, executing, next, current]);
}

/** Facts of a program that assembles; problems of one that does not. */
function Outcome() {
  const { problems, facts } = useBench((state) => state.listing);
  const message = useBench((state) => state.message);
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
      {facts && (
        <p data-testid="facts">
          Starts at {hex(facts.start)}, last cell {hex(facts.last)}. {facts.used} cells used, {facts.free} free, {facts.names} names
          {facts.unusedNames.length > 0 ? `; never used: ${facts.unusedNames.slice(0, 4).join(', ')}.` : '.'}
        </p>
      )}
      {problems.length > 0 && <ProblemList problems={problems} editor=".program" testId="problems" />}
    </div>
  );
}

/** The editor of the program: its listing in the same rows, the marks of the run, breakpoints, what it knows of the language. */
import { setDiagnostics } from '@codemirror/lint';
import { EditorView, keymap } from '@codemirror/view';
import { Compartment, Prec, type Extension } from '@codemirror/state';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Row } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading, numberReader } from '@zettak/core/machine/model/numbers';
import { digitsIn, shownDigits } from '@zettak/core/text/number';
import { CodeEditor } from '../editor/CodeEditor';
import { useEditor, type EditorHandle } from '../editor/handle';
import { languageParts, type Knowledge } from '../editor/language';
import {
  assemblyLanguage,
  breakLinesOf,
  listingParts,
  showBreakpoints,
  setListing,
  setRunMarks,
  toEditorDiagnostics,
  toggleBreakpoint,
} from '../editor/programParts';
import { engine } from '../session/engine';
import { withNextPaint } from '../ui/follow';
import { useDocument } from './document';
import { load } from './loading';
import { isNothingYet } from './Outcome';
import { useLayout } from './layout';
import { setCursorLine } from './looks';
import { cellWords } from './memory/holds';
import { setBreakpoints, useRun } from './run';
import { readings } from './state/readings';
import { breakLines, withLines } from './breakpoints';
import { edit, say, useText } from './text';
import { valueText } from './writeTools/NamesTab';
import { itemAt } from '@zettak/core/text/itemAt';
import { spellingsOf } from '@zettak/core/machine/model/spellings';

/** Long lines scroll, or go on below. */
const wrapping = new Compartment();

/** Words shown beside a line; what is more is in memory. */
const LINE_WORDS = 2;

/** Loads the text; where that goes well the keys belong to the bench. */
export const loadAndLeave = async (): Promise<void> => {
  if (await load({ clear: false })) (document.activeElement as HTMLElement | null)?.blur();
};

/** `programId`: undo is kept under it for this tab. The screen's handle holds the editor while it is there. */
export function SourceEditor({ machine, programId }: { machine: Machine; programId: string }) {
  const taken = useText((state) => state.taken);
  const editor = useEditor();
  const [view, setView] = useState<EditorView>();
  // As one text, so that a machine with the same operations leaves the editor, its cursor and its focus alone.
  const mnemonics = useMemo(() => {
    const written = machine.forms.flatMap((each) => spellingsOf(each).map(({ operation }) => operation));
    return [...new Set([...written, ...machine.shortForms.map((each) => each.mnemonic)].map((each) => each.toUpperCase()))].join(' ');
  }, [machine]);
  const extensions = useMemo(
    (): Extension => [...editorExtensions(), languageParts(knowledgeOf(editor)), assemblyLanguage(new Set(mnemonics.split(' ')))],
    [mnemonics, editor],
  );
  const wraps = useLayout((state) => state.wraps);
  useEffect(() => view?.dispatch({ effects: wrapping.reconfigure(wraps ? EditorView.lineWrapping : []) }), [view, wraps]);
  useListing(view, machine);
  useMarks(view);
  useEffect(() => {
    view?.dispatch({ effects: showBreakpoints.of(breakLines(useRun.getState().breakpoints)) });
  }, [view]);
  const attach = (now: EditorView | undefined): void => {
    editor.attach(now);
    setView(now);
  };
  return (
    <CodeEditor
      text={useText.getState().source}
      {...{ taken, extensions }}
      name={`program.${programId}`}
      label="Program source"
      onChange={(text) => edit(text)}
      onView={attach}
    />
  );
}

/** What the editor asks the bench. */
const knowledgeOf = (editor: EditorHandle): Knowledge => ({
  help: () => useDocument.getState().help,
  symbols: () => useText.getState().symbols,
  unfrozen: () => useText.getState().unfrozen,
  refused: () => say('This line is given by the course and stays as it is. “Course” lets you change such lines.'),
  showValue: (symbol) => {
    const { machine } = useDocument.getState();
    return machine ? valueText(machine, symbol) : String(symbol.value);
  },
  holds: ({ kind, space, at, value }) => {
    const { machine } = useDocument.getState();
    const { view, routines } = useRun.getState();
    if (!machine || !view || kind !== 'label') return '';
    const place = { space: space ?? machine.programSpace, address: at ?? value };
    return cellWords(machine, { view, labels: [], routines }, place).join(', ');
  },
  readings: (written) => {
    const { machine } = useDocument.getState();
    const { base } = useText.getState().listing;
    const value = machine && numberReader(machine, base)(written);
    if (!machine || value === undefined) return undefined;
    const width = Math.max(machine.wordWidth, digitsIn(value, machine.radix));
    const { remark } = entryReading(machine, width, { text: written, value, base });
    return [`${written}: ${readings(value, width, machine)}`, remark].filter(Boolean).join('. ');
  },
  goTo: (view, what) => void goToName(view, what, editor),
  rename: (view) => void askForName(view),
});

/** To the definition, or from use to use. */
async function goToName(view: EditorView, what: 'definition' | 'uses', editor: EditorHandle): Promise<void> {
  const offset = view.state.selection.main.head;
  const found = await engine.texts.occurrences(view.state.doc.toString(), offset);
  if (!found) return say('No name of this program stands at the cursor.');
  const list = found.list.filter((each) => each.defines === (what === 'definition'));
  const next = list.find((each) => each.span.start > offset) ?? list[0];
  if (!next) return say(what === 'uses' ? `“${found.name}” is never used.` : `“${found.name}” is defined elsewhere.`);
  editor.goToSpan(next.span.start, next.span.end);
  say(what === 'uses' ? `“${found.name}” is used on line ${list.map((each) => each.line).join(', ')}.` : undefined);
}

/** Opens the names with the field for the new name. */
async function askForName(view: EditorView): Promise<void> {
  const offset = view.state.selection.main.head;
  const found = await engine.texts.occurrences(view.state.doc.toString(), offset);
  if (!found) return say('No name of this program stands at the cursor.');
  useText.setState({ renaming: { name: found.name, offset } });
}

const editorExtensions = (): Extension[] => [
  wrapping.of([]),
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
    const { breakpoints: stops } = useRun.getState();
    if (lines.join() !== breakLines(stops).join()) setBreakpoints(withLines(stops, lines));
  });

function useListing(view: EditorView | undefined, machine: Machine): void {
  const listing = useText((state) => state.listing);
  const listed = useText((state) => state.listed);
  // Before the paint, so that the listing does not wait for the one after.
  useLayoutEffect(() => {
    if (!view || view.state.doc.toString() !== listed) return;
    const { radix, spaces, programSpace } = machine;
    const address = ({ space = programSpace, address: at }: Row): string =>
      `${space === programSpace ? '' : `${itemAt(spaces, space).name} `}${placeDigits(machine, { space, address: at! })}`;
    const words = (row: Row): string => {
      if (row.kind === 'room') return '··';
      const { width } = itemAt(spaces, row.space ?? programSpace);
      const most = width > 8 && radix === 2 ? Math.max(1, Math.floor((LINE_WORDS * 8) / width)) : LINE_WORDS;
      const shown = row.words.slice(0, most).map((each) => shownDigits(each, width, machine));
      return shown.join(' ') + (row.words.length > most ? '…' : '');
    };
    view.dispatch({ effects: setListing.of({ rows: listing.rows, address, words }) });
    const problems = isNothingYet(listing.problems) ? [] : listing.problems;
    view.dispatch(setDiagnostics(view.state, toEditorDiagnostics(problems, view.state.doc.length)));
  }, [view, listing, listed, machine]);
}

function useMarks(view: EditorView | undefined): void {
  const loaded = useRun((state) => state.view?.loaded);
  const current = useText((state) => loaded === state.source);
  const executing = useRun((state) => state.marked?.executing?.line);
  const next = useRun((state) => (state.marked?.status === 'halted' ? undefined : state.marked?.next.line));
  const returns = useRun((state) => state.marked?.calls.at(-1)?.returnLine);
  const shown = useRef<number | undefined>(undefined);
  useEffect(() => {
    if (!view) return;
    view.dispatch({ effects: setRunMarks.of(current ? { executing, next, returns } : { executing: undefined, next: undefined }) });
    const follow = executing ?? next;
    if (!current || follow === undefined || follow === shown.current || view.hasFocus || follow > view.state.doc.lines) return;
    shown.current = follow;
    withNextPaint(() => showLine(view, follow));
  }, [view, executing, next, returns, current]);
}

/** Only where the line is out of sight: else nothing has to be measured. */
function showLine(view: EditorView, line: number): void {
  if (line > view.state.doc.lines) return;
  const { from } = view.state.doc.line(line);
  const { top, bottom } = view.lineBlockAt(from);
  const { scrollTop, clientHeight } = view.scrollDOM;
  // The line that comes next is in sight, too, where it is the one behind.
  if (top >= scrollTop && bottom + (bottom - top) <= scrollTop + clientHeight) return;
  view.dispatch({ effects: EditorView.scrollIntoView(from, { y: 'nearest', yMargin: 60 }) });
}

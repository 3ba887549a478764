/** CodeMirror pieces of the program editor: listing gutters, breakpoints, run marks, colours. Knows no machine. */
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { RangeSet, StateEffect, StateField, type EditorState, type Extension, type Transaction } from '@codemirror/state';
import { Decoration, EditorView, gutter, GutterMarker, type DecorationSet } from '@codemirror/view';
import type { Diagnostic } from '@codemirror/lint';
import { tags } from '@lezer/highlight';
import type { Row } from '@zettak/core/image/program';
import type { Problem } from '@zettak/core/text/diagnostic';

// ---- the listing beside the source ----

export interface ListingText {
  /** By line, from 0. */
  readonly rows: readonly Row[];
  readonly address: (row: Row) => string;
  readonly words: (row: Row) => string;
}

export const setListing = StateEffect.define<ListingText>();

const listingField = StateField.define<ListingText>({
  create: () => ({ rows: [], address: () => '', words: () => '' }),
  update: (value, transaction) => transaction.effects.reduce((now, each) => (each.is(setListing) ? each.value : now), value),
});

class TextMarker extends GutterMarker {
  constructor(
    readonly text: string,
    override readonly elementClass: string,
    /** The cell of the program space that it tells of. */
    readonly cell?: number,
  ) {
    super();
  }
  override eq(other: TextMarker): boolean {
    return this.text === other.text && this.elementClass === other.elementClass && this.cell === other.cell;
  }
  override toDOM(): Node {
    if (this.cell === undefined) return document.createTextNode(this.text);
    const shown = document.createElement('span');
    shown.textContent = this.text;
    shown.dataset.points = String(this.cell);
    return shown;
  }
}

const lineIndex = (view: EditorView, from: number): number => view.state.doc.lineAt(from).number - 1;

function listingGutter(name: 'address' | 'words', sample: string): Extension {
  return gutter({
    class: `cm-${name}`,
    lineMarker: (view, line) => {
      const listing = view.state.field(listingField);
      const row = listing.rows[lineIndex(view, line.from)];
      return row && row.kind !== 'none'
        ? new TextMarker(listing[name](row), `kind-${row.kind}`, row.kind === 'code' ? row.address : undefined)
        : null;
    },
    lineMarkerChange: (update) => update.transactions.some((each) => each.effects.some((effect) => effect.is(setListing))),
    initialSpacer: () => new TextMarker(sample, ''),
  });
}

// ---- how often each line was executed ----

/** By line, from 1, in short words; empty where nothing is counted. */
export const setLineCounts = StateEffect.define<ReadonlyMap<number, string>>();

const countsField = StateField.define<ReadonlyMap<number, string>>({
  create: () => new Map(),
  // A text that has changed since is not the one that was counted.
  update: (value, { effects, docChanged }) =>
    effects.reduce((now, each) => (each.is(setLineCounts) ? each.value : now), docChanged ? new Map<number, string>() : value),
});

const countsGutter = gutter({
  class: 'cm-counts',
  lineMarker: (view, line) => {
    const count = view.state.field(countsField).get(lineIndex(view, line.from) + 1);
    return count === undefined ? null : new TextMarker(count, 'count');
  },
  lineMarkerChange: (update) => update.startState.field(countsField) !== update.state.field(countsField),
});

// ---- breakpoints, which move with their lines ----

export const toggleBreakpoint = StateEffect.define<number>();
export const showBreakpoints = StateEffect.define<readonly number[]>();

class LineMarker extends GutterMarker {
  constructor(readonly broken: boolean) {
    super();
  }
  override eq(other: LineMarker): boolean {
    return this.broken === other.broken;
  }
}
const broken = new LineMarker(true);

const breakpointField = StateField.define<RangeSet<GutterMarker>>({
  create: () => RangeSet.empty,
  update(value, transaction) {
    let now = transaction.docChanged ? moved(value, transaction) : value;
    for (const effect of transaction.effects) {
      if (effect.is(toggleBreakpoint)) {
        const { from } = transaction.state.doc.lineAt(effect.value);
        let there = false;
        now.between(from, from, () => void (there = true));
        now = now.update(there ? { filter: (at) => at !== from } : { add: [broken.range(from)] });
      }
      if (effect.is(showBreakpoints)) {
        const { doc } = transaction.state;
        now = RangeSet.of(
          effect.value
            .filter((line) => line >= 1 && line <= doc.lines)
            .sort((a, b) => a - b)
            .map((line) => broken.range(doc.line(line).from)),
        );
      }
    }
    return now;
  },
});

/** A mark stays with the text of its line: a line put in before it takes it along, one typed into does not lose it. */
function moved(value: RangeSet<GutterMarker>, { changes, startState, newDoc }: Transaction): RangeSet<GutterMarker> {
  const places = new Set<number>();
  for (const marks = value.iter(); marks.value; marks.next()) {
    const empty = startState.doc.lineAt(marks.from).length === 0;
    places.add(newDoc.lineAt(changes.mapPos(marks.from, empty ? -1 : 1)).from);
  }
  return RangeSet.of([...places].sort((a, b) => a - b).map((from) => broken.range(from)));
}

/** Lines with a breakpoint, from 1, in the order of the text. */
export function breakLinesOf(state: EditorState): number[] {
  const lines = new Set<number>();
  const marks = state.field(breakpointField).iter();
  for (; marks.value; marks.next()) lines.add(state.doc.lineAt(marks.from).number);
  return [...lines];
}

class NumberMarker extends GutterMarker {
  constructor(
    readonly line: number,
    readonly broken: boolean,
  ) {
    super();
  }
  override eq(other: NumberMarker): boolean {
    return this.line === other.line && this.broken === other.broken;
  }
  override toDOM(): Node {
    const mark = document.createElement('button');
    mark.type = 'button';
    mark.tabIndex = -1;
    mark.textContent = String(this.line);
    mark.className = this.broken ? 'breakpoint on' : 'breakpoint';
    mark.title = this.broken ? `Remove the breakpoint on line ${this.line}` : `Pause before line ${this.line}`;
    mark.setAttribute('aria-label', mark.title);
    mark.setAttribute('aria-pressed', String(this.broken));
    return mark;
  }
}

const breakpointGutter = gutter({
  class: 'cm-break',
  lineMarker: (view, line) => {
    let on = false;
    view.state.field(breakpointField).between(line.from, line.from, () => void (on = true));
    return new NumberMarker(lineIndex(view, line.from) + 1, on);
  },
  lineMarkerChange: (update) => update.docChanged || update.startState.field(breakpointField) !== update.state.field(breakpointField),
  domEventHandlers: {
    mousedown: (view, line, event) => {
      view.dispatch({ effects: toggleBreakpoint.of(line.from) });
      event.preventDefault();
      return true;
    },
  },
});

// ---- where the run stands ----

export interface RunMarks {
  readonly executing: number | undefined;
  readonly next: number | undefined;
  /** Where the innermost call comes back to. */
  readonly returns?: number | undefined;
}

export const setRunMarks = StateEffect.define<RunMarks>();

/** The words beside a marked line, in a margin of their own; both of one line stand together. */
class BadgeMarker extends GutterMarker {
  constructor(readonly badges: readonly string[]) {
    super();
  }
  override eq(other: BadgeMarker): boolean {
    return this.badges.join() === other.badges.join();
  }
  override toDOM(): Node {
    const all = document.createElement('span');
    for (const kind of this.badges) {
      const badge = document.createElement('span');
      badge.className = `cm-badge ${kind} ${this.badges.length > 1 ? 'both' : ''}`;
      const both = this.badges.length > 1;
      badge.textContent = kind === 'next' ? (both ? '› PC' : '› PC: next') : kind === 'returns' ? '↩ return' : both ? 'now' : kind;
      badge.title =
        kind === 'next' ? 'PC: next' : kind === 'returns' ? 'return here: the innermost call comes back to this line' : 'executing';
      all.append(badge);
    }
    return all;
  }
}

const executingLine = Decoration.line({ class: 'cm-executing' });
const nextLine = Decoration.line({ class: 'cm-next' });

const marksField = StateField.define<{ readonly marks: RunMarks; readonly lines: DecorationSet }>({
  create: () => ({ marks: { executing: undefined, next: undefined }, lines: Decoration.none }),
  update(value, transaction) {
    let now = transaction.docChanged ? { ...value, lines: value.lines.map(transaction.changes) } : value;
    for (const effect of transaction.effects)
      if (effect.is(setRunMarks)) now = { marks: effect.value, lines: decorationsFor(transaction.state, effect.value) };
    return now;
  },
  provide: (field) => EditorView.decorations.from(field, (each) => each.lines),
});

function decorationsFor({ doc }: EditorState, { executing, next }: RunMarks): DecorationSet {
  const inside = (line: number | undefined): line is number => line !== undefined && line <= doc.lines;
  const marks = [
    ...(inside(executing) ? [executingLine.range(doc.line(executing).from)] : []),
    ...(inside(next) ? [nextLine.range(doc.line(next).from)] : []),
  ];
  return Decoration.set(marks, true);
}

const badgeGutter = gutter({
  class: 'cm-marks',
  lineMarker: (view, line) => {
    const { executing, next, returns } = view.state.field(marksField).marks;
    const number = lineIndex(view, line.from) + 1;
    const present = [...(number === executing ? ['executing'] : []), ...(number === next ? ['next'] : [])];
    const badges = present.length === 0 && number === returns ? ['returns'] : present;
    return badges.length > 0 ? new BadgeMarker(badges) : null;
  },
  lineMarkerChange: (update) => update.startState.field(marksField) !== update.state.field(marksField),
  // As wide as the words, whether they stand there or not: nothing moves when they come.
  initialSpacer: () => new BadgeMarker(['executing']),
});

// ---- colours ----

/** Words that are operations come from the machine. */
export function assemblyLanguage(mnemonics: ReadonlySet<string>): Extension {
  const language = StreamLanguage.define({
    name: 'assembly',
    languageData: { commentTokens: { line: ';' } },
    token(stream) {
      if (stream.eatSpace()) return null;
      if (stream.match(/^;.*/)) return 'comment';
      if (stream.match(/^"(?:\\.|[^"\\])*"?/) || stream.match(/^'(?:\\.|[^'\\])'/)) return 'string';
      if (stream.match(/^\.\w+/)) return 'meta';
      if (stream.match(/^[0-9]\w*/)) return 'number';
      const word = stream.match(/^[\p{L}_][\p{L}\p{M}\p{Nd}_]*(?:\.[\p{L}_][\p{L}\p{M}\p{Nd}_]*)?/u) as RegExpMatchArray | null;
      if (word) return mnemonics.has(word[0].toUpperCase()) ? 'keyword' : 'variableName';
      stream.next();
      return null;
    },
  });
  return [language, syntaxHighlighting(colours)];
}

export const colours = HighlightStyle.define([
  { tag: tags.comment, color: 'var(--z-colors-ink3)', fontStyle: 'italic' },
  { tag: tags.keyword, color: 'var(--z-colors-ink)', fontWeight: '700' },
  { tag: [tags.number, tags.string], color: 'var(--z-colors-data)' },
  { tag: tags.meta, color: 'var(--z-colors-ink2)', fontWeight: '700' },
  { tag: [tags.definition(tags.propertyName), tags.propertyName], color: 'var(--z-colors-address)' },
]);

/** The problem as the editor underlines it, with its mend as an action. */
export function toEditorDiagnostics(problems: readonly Problem[], length: number): Diagnostic[] {
  return problems.map(({ start, end, grade, sentence, mend }) => {
    const from = Math.min(start, length);
    const actions = mend && [
      {
        name: mend.title,
        apply: (view: EditorView) =>
          view.dispatch({ changes: mend.edits.map((each) => ({ from: each.span.start, to: each.span.end, insert: each.text })) }),
      },
    ];
    const severity = grade === 'remark' ? 'info' : grade;
    return { from, to: Math.min(Math.max(end, from + 1), length), severity, message: sentence, ...(actions && { actions }) };
  });
}

export const listingParts: Extension = [
  listingField,
  countsField,
  breakpointField,
  marksField,
  countsGutter,
  breakpointGutter,
  badgeGutter,
  listingGutter('address', '00'),
  listingGutter('words', '00 00'),
];

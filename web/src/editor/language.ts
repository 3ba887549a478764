/** What the program editor knows of the language on the bench: completion, hover help, names, frozen lines. */
import { isFrozen } from '@zettak/core/trials/handIns/frozen';
import {
  acceptCompletion,
  autocompletion,
  closeCompletion,
  moveCompletionSelection,
  snippet,
  snippetCompletion,
  startCompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import { Annotation, EditorState, Prec, type Extension, type Transaction } from '@codemirror/state';
import {
  Decoration,
  EditorView,
  hoverTooltip,
  keymap,
  ViewPlugin,
  type DecorationSet,
  type Tooltip,
  type ViewUpdate,
} from '@codemirror/view';
import type { LanguageHelp, Offer } from '@zettak/core/assembler/assist/help';
import type { ProgramSymbol } from '@zettak/core/image/program';
import { itemAt } from '@zettak/core/text/itemAt';

/** What the editor asks for while it is used; answers are those of the moment. */
export interface Knowledge {
  help(): LanguageHelp;
  symbols(): readonly ProgramSymbol[];
  unfrozen(): boolean;
  /** A change of a frozen line was refused. */
  refused(): void;
  /** To the definition of the name at a place, or to its uses. */
  goTo(view: EditorView, what: 'definition' | 'uses'): void;
  rename(view: EditorView): void;
  showValue(symbol: ProgramSymbol): string;
  /** What the cell of a label holds on the bench now; empty where nothing can be said. */
  holds(symbol: ProgramSymbol): string;
  /** A number as it is written, in every reading; undefined where it is none. */
  readings(written: string): string | undefined;
}

/** `LOAD #{value}` as a snippet whose blanks are filled one after another. */
export const templateOf = (written: string): string => written.replaceAll(/\{\s*([^}]*?)\s*\}/g, (_, name: string) => `\${${name}}`);

/** Inserts a written form at the cursor, in its column; its blanks are filled one after another. */
export function insertOffer(view: EditorView, { written, mnemonic }: Pick<Offer, 'written' | 'mnemonic'>): void {
  const { state } = view;
  const { from, to } = state.selection.main;
  const line = state.doc.lineAt(from);
  const before = line.text.slice(0, from - line.from);
  // An operation stands in its column: behind a label, or indented on a line of its own.
  const column = before.trim() === '' ? 8 : before.endsWith(' ') ? before.length : before.length + 1;
  const fresh = before.trim() !== '' && /\S+\s+\S/.test(before.trim());
  const lead = fresh ? `\n${' '.repeat(8)}` : ' '.repeat(Math.max(0, column - before.length));
  const rest = written.slice(mnemonic.length).trim();
  const text = rest === '' ? mnemonic : `${mnemonic.padEnd(6)} ${rest}`;
  const at = fresh ? line.to : from;
  snippet(lead + templateOf(text))(view, null, at, fresh ? at : to);
  view.focus();
}

function completions(knowledge: Knowledge): (context: CompletionContext) => CompletionResult | null {
  return (context) => {
    const line = context.state.doc.lineAt(context.pos);
    const before = line.text.slice(0, context.pos - line.from);
    // Nothing is offered in remarks and texts.
    if (/;/.test(before.replace(/"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])'/g, '')) || (before.match(/"/g) ?? []).length % 2 === 1) return null;
    const word = context.matchBefore(/[.\p{L}\p{M}\p{Nd}_]+$/u);
    if (!word && !context.explicit) return null;
    const from = word?.from ?? context.pos;
    const head = line.text.slice(0, from - line.from);
    const options =
      /^\s*(?:[\p{L}_][\p{L}\p{M}\p{Nd}_]*\s*:?\s+)?$/u.test(head) && !isOperand(head, knowledge)
        ? operations(knowledge)
        : names(knowledge);
    // What is complete as it stands needs no offer.
    const typed = word?.text.toUpperCase() ?? '';
    const near = options.filter((each) => each.label.toUpperCase().startsWith(typed));
    if (!context.explicit && near.length === 1 && itemAt(near, 0).label.toUpperCase() === typed) return null;
    return { from, options, validFor: /^[.\p{L}\p{M}\p{Nd}_]*$/u };
  };
}

/** The first word of the line is an operation already. */
const isOperand = (head: string, knowledge: Knowledge): boolean => {
  const first = /^\s*([.\p{L}\p{M}\p{Nd}_]+)/u.exec(head)?.[1]?.toUpperCase();
  return first !== undefined && knowledge.help().offers.some((each) => each.mnemonic.toUpperCase() === first);
};

const operations = (knowledge: Knowledge): Completion[] =>
  knowledge.help().offers.map(({ written, mnemonic, title, sentence }, at) => {
    const rest = written.slice(mnemonic.length).trim();
    const label = written.replace(/[{}]/g, '');
    const template = templateOf(rest === '' ? mnemonic : `${mnemonic.padEnd(6)} ${rest}`);
    return snippetCompletion(template, {
      label,
      detail: title,
      info: sentence,
      sortText: String(at).padStart(4, '0'),
      type: mnemonic.startsWith('.') ? 'namespace' : 'keyword',
    });
  });

const names = (knowledge: Knowledge): Completion[] => [
  ...knowledge.symbols().map((each): Completion => ({
    label: each.name,
    detail: knowledge.showValue(each),
    type: each.kind === 'label' ? 'variable' : 'constant',
    boost: 1,
  })),
  ...knowledge.help().names.map((each): Completion => ({ label: each.name, detail: each.says, type: 'property' })),
];

/** Enter always begins a new line; Tab takes what is offered. */
const completionKeys = Prec.highest(
  keymap.of([
    { key: 'Ctrl-Space', run: startCompletion },
    { key: 'Tab', run: acceptCompletion },
    { key: 'Escape', run: closeCompletion },
    { key: 'ArrowDown', run: moveCompletionSelection(true) },
    { key: 'ArrowUp', run: moveCompletionSelection(false) },
  ]),
);

const hover = (knowledge: Knowledge): Extension =>
  hoverTooltip((view, pos) => {
    const line = view.state.doc.lineAt(pos);
    const at = pos - line.from;
    const word = [...line.text.matchAll(/(?<![\p{L}\p{Nd}_])\.?[\p{L}_][\p{L}\p{M}\p{Nd}_.]*/gu)].find(
      (each) => each.index <= at && at <= each.index + each[0].length,
    );
    if (!word) return literalHelp(line, at, knowledge);
    const text = explain(word[0], knowledge);
    if (text.length === 0) return null;
    const dom = document.createElement('div');
    dom.className = 'word-help';
    for (const each of text.slice(0, 5)) {
      const row = document.createElement('p');
      row.textContent = each;
      dom.append(row);
    }
    return { pos: line.from + word.index, end: line.from + word.index + word[0].length, above: true, create: () => ({ dom }) };
  });

/** Every reading of a number that is pointed at. */
function literalHelp(line: { readonly from: number; readonly text: string }, at: number, { readings }: Knowledge): Tooltip | null {
  const number = [...line.text.matchAll(/(?<![\p{L}\p{Nd}_.])\d[\p{L}\p{Nd}_]*/gu)].find(
    (each) => each.index <= at && at <= each.index + each[0].length,
  );
  const remark = line.text.search(/;(?=(?:[^"]*"[^"]*")*[^"]*$)/);
  if (!number || (remark !== -1 && number.index > remark)) return null;
  const text = readings(number[0]);
  if (text === undefined) return null;
  const dom = document.createElement('div');
  dom.className = 'word-help';
  const row = document.createElement('p');
  row.textContent = text;
  dom.append(row);
  return { pos: line.from + number.index, end: line.from + number.index + number[0].length, above: true, create: () => ({ dom }) };
}

/** What can be said about a word: each form of an operation, a name with its value, a name of the machine. */
export function explain(word: string, knowledge: Pick<Knowledge, 'help' | 'symbols' | 'showValue' | 'holds'>): string[] {
  const key = word.toUpperCase();
  const { offers, names: machine } = knowledge.help();
  const forms = offers.filter((each) => each.mnemonic.toUpperCase() === key);
  if (forms.length > 0) return forms.map((each) => `${each.sentence}${each.encoding ? ` Cells: ${each.encoding}.` : ''}`);
  const symbol = knowledge.symbols().find((each) => each.name.toUpperCase() === key || each.name.toUpperCase().endsWith(`.${key}`));
  if (symbol) {
    const where = symbol.part === undefined ? `line ${symbol.line}` : `“${symbol.part}”`;
    const uses = symbol.uses.length > 0 ? `used on ${symbol.uses.join(', ')}` : 'not used';
    const holds = knowledge.holds(symbol);
    const now = holds === '' ? [] : [`Now: ${holds}.`];
    return [`${symbol.name}, ${symbol.kind}: ${knowledge.showValue(symbol)}. Defined on ${where}, ${uses}.`, ...now];
  }
  return machine.filter((each) => each.name.toUpperCase() === key).map((each) => `${each.name}: ${each.says}.`);
}

// ---- lines that a frame gives ----

export const passFrozen = Annotation.define<boolean>();

/** A new line may begin behind a frozen one, or before it; its own characters, and the break that ends it, stay. */
function touchesFrozen({ startState: { doc }, changes }: Transaction): boolean {
  let touches = false;
  changes.iterChanges((from, to, _, __, inserted) => {
    const text = inserted.toString();
    for (let line = doc.lineAt(from); !touches; line = doc.line(line.number + 1)) {
      if (isFrozen(line.text)) {
        const behind = from >= line.to && text.startsWith('\n');
        const before = to <= line.from && text.endsWith('\n');
        const apart = from > line.to || to < line.from;
        touches = !(behind || before || apart);
      }
      if (line.to >= to || line.number === doc.lines) return;
    }
  });
  return touches;
}

const frozenLine = Decoration.line({ class: 'cm-frozen', attributes: { title: 'given by the course' } });

function frozenLines(view: EditorView): DecorationSet {
  const marks = [];
  for (const { from, to } of view.visibleRanges) {
    for (let line = view.state.doc.lineAt(from); ; line = view.state.doc.line(line.number + 1)) {
      if (isFrozen(line.text)) marks.push(frozenLine.range(line.from));
      if (line.to >= to || line.number === view.state.doc.lines) break;
    }
  }
  return Decoration.set(marks);
}

const frozenMarks = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = frozenLines(view);
    }
    update(update: ViewUpdate): void {
      if (update.docChanged || update.viewportChanged) this.decorations = frozenLines(update.view);
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

const frozen = (knowledge: Knowledge): Extension => [
  frozenMarks,
  EditorState.transactionFilter.of((transaction) => {
    if (!transaction.docChanged || knowledge.unfrozen() || transaction.annotation(passFrozen)) return transaction;
    if (!transaction.isUserEvent('input') && !transaction.isUserEvent('delete') && !transaction.isUserEvent('move')) return transaction;
    if (!touchesFrozen(transaction)) return transaction;
    knowledge.refused();
    return [];
  }),
];

// ---- borders of routines ----

const borders = {
  first: Decoration.line({ class: 'cm-routine first' }),
  inside: Decoration.line({ class: 'cm-routine' }),
  last: Decoration.line({ class: 'cm-routine last' }),
};
/** A routine that begins further up than this is not looked for. */
const FAR_UP = 600;

function routineLines({ state: { doc }, visibleRanges }: EditorView): DecorationSet {
  const marks = [];
  for (const { from, to } of visibleRanges) {
    const top = doc.lineAt(from).number;
    let inside = false;
    for (let number = Math.max(1, top - FAR_UP); number <= doc.lines; number++) {
      const line = doc.line(number);
      if (line.from > to) break;
      const directive = /^[^;"]*?(?<![\p{L}\p{M}\p{Nd}_.])\.(routine|end)\b/iu.exec(line.text)?.[1]?.toLowerCase();
      const mark =
        directive === 'routine' ? borders.first : directive === 'end' && inside ? borders.last : inside ? borders.inside : undefined;
      inside = directive === 'routine' || (inside && directive !== 'end');
      if (mark && number >= top) marks.push(mark.range(line.from));
    }
  }
  return Decoration.set(marks, true);
}

const routineMarks = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = routineLines(view);
    }
    update(update: ViewUpdate): void {
      if (update.docChanged || update.viewportChanged) this.decorations = routineLines(update.view);
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

/** All of it. */
export const languageParts = (knowledge: Knowledge): Extension => [
  autocompletion({ override: [completions(knowledge)], defaultKeymap: false, icons: false, maxRenderedOptions: 60 }),
  completionKeys,
  hover(knowledge),
  frozen(knowledge),
  routineMarks,
  keymap.of([
    { key: 'F2', run: (view) => (knowledge.rename(view), true) },
    { key: 'F12', run: (view) => (knowledge.goTo(view, 'definition'), true) },
    { key: 'Shift-F12', run: (view) => (knowledge.goTo(view, 'uses'), true) },
  ]),
];

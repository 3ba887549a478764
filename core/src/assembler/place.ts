/** The first pass: gives every name its meaning and every line its address. */
import type { Form } from '../machine/machine';
import { programSpaceOf } from '../machine/machine';
import type { Span } from '../text/source';
import { readItems, itemCells, sizeOfItems, type Item } from './data';
import { VALUE_BASES } from './directives';
import { namesIn, readExpression, type Reader } from './expressions';
import { define, elsewhere } from './names';
import { parseStatement, wordOf, type Statement, type Word } from './syntax';
import { badValueIn, encodeOperands, matchOperands, type Operand, type ShortTemplate, type Template } from './templates';
import type { Token } from './tokens';
import { evaluate } from './values';
import { addressNow, find, keyOf, setAddress, spaceOf, type Placed, type Work } from './work';

const MOST_NESTING = 8;

export function placeLine(work: Work, statement: Statement): void {
  const { label, kind, meant } = statement;
  if (kind === 'wrong') {
    if (work.space === work.machine.programSpace) work.gaps.push(addressNow(work));
    if (meant && !find(work, meant.text, work.routine?.name)) define(work, statement, meant, { kind: 'label', value: null });
  }
  if (kind === 'constant') return defineConstant(work, statement);
  const directive = kind === 'directive' ? statement.operation!.key : undefined;
  if (directive) moveAddress(work, statement, directive);
  if (kind === 'operation') alignInstruction(work, statement);
  if (label) define(work, statement, label, { kind: 'label', value: addressNow(work), ...elsewhere(work) });
  if (kind === 'operation') placeInstruction(work, statement);
  if (directive) placeDirective(work, statement, directive);
}

function moveAddress(work: Work, statement: Statement, directive: string): void {
  if (directive === '.origin') setOrigin(work, statement);
  else if (directive === '.space') setSpace(work, statement);
  else if (directive === '.align') align(work, statement);
}

function placeDirective(work: Work, statement: Statement, directive: string): void {
  switch (directive) {
    case '.room':
      return placeRoom(work, statement);
    case '.cells':
    case '.text':
      return placeData(work, statement);
    case '.string':
      return placeStrings(work, statement);
    case '.fill':
      return placeFill(work, statement);
    case '.routine':
      return openRoutine(work, statement);
    case '.end':
      return closeRoutine(work, statement);
    case '.start':
      return setStart(work, statement);
    case '.input':
    case '.output':
      return declare(work, statement);
  }
}

function defineConstant(work: Work, statement: Statement): void {
  const reader = { tokens: statement.rest, at: 0 };
  const expression = readExpression(reader, work.problems);
  if (expression) noMore(work, reader);
  define(work, statement, statement.label!, { kind: 'constant', value: expression ? undefined : null, expression });
}

function setOrigin(work: Work, statement: Statement): void {
  const value = knownValue(work, statement);
  if (value === undefined) return;
  const { cells, name } = spaceOf(work);
  if (value >= 0 && value < cells) setAddress(work, value);
  else work.problems.push({ code: 'address-outside', grade: 'error', span: restSpan(statement), address: value, cells, space: name });
}

/** .space NAME, or .space NAME, bank: what follows goes there. */
function setSpace(work: Work, statement: Statement): void {
  const [name, comma] = statement.rest as [Token, Token | undefined];
  const names = work.machine.spaces.map((each) => each.name);
  const space = names.findIndex((each) => each.toUpperCase() === name.key);
  if (space === -1)
    return void work.problems.push({ code: 'unknown-space', grade: 'error', span: restSpan(statement), name: name.text, spaces: names });
  const after = statement.rest.slice(comma?.text === ',' ? 2 : 1);
  const bank = after[0]!.kind === 'end' ? 0 : knownValue(work, { ...statement, rest: after });
  if (bank === undefined) return;
  const greatest = work.machine.spaces[space]!.banks - 1;
  const what = `a bank of ${names[space]!}`;
  if (bank < 0 || bank > greatest) return outOfRange(work, restSpan(statement), { value: bank, least: 0, greatest, what });
  work.space = space;
  work.bank = bank;
}

const outOfRange = (work: Work, span: Span, range: { value: number; least: number; greatest: number; what: string }): void =>
  void work.problems.push({ code: 'value-out-of-range', grade: 'error', span, ...range });

function align(work: Work, statement: Statement): void {
  const { cells } = spaceOf(work);
  const value = knownValue(work, statement);
  if (value === undefined) return;
  if (value < 1 || value > cells)
    return outOfRange(work, restSpan(statement), { value, least: 1, greatest: cells, what: 'what addresses are aligned to' });
  const next = Math.ceil(addressNow(work) / value) * value;
  setAddress(work, Math.min(next, cells));
}

/** Instructions begin where the machine allows it; cells passed over are told. */
function alignInstruction(work: Work, { operation }: Statement): void {
  const { align } = work.machine.assembly;
  const from = addressNow(work);
  if (align === 1 || from % align === 0 || work.space !== work.machine.programSpace) return;
  const to = Math.ceil(from / align) * align;
  if (work.nesting === 0) work.problems.push({ code: 'aligned', grade: 'remark', span: operation!.span, of: align, from, to });
  setAddress(work, to);
}

/** The value behind a directive that moves addresses, which must be known by now. */
function knownValue(work: Work, statement: Statement): number | undefined {
  const reader = { tokens: statement.rest, at: 0 };
  const value = knownAt(work, statement, reader);
  return value !== undefined && noMore(work, reader) ? value : undefined;
}

function knownAt(work: Work, statement: Statement, reader: Reader): number | undefined {
  const expression = readExpression(reader, work.problems);
  if (!expression) return undefined;
  const routine = work.routine?.name;
  const unknown = namesIn(expression).find((each) => !find(work, each, routine) && each.toLowerCase() !== 'here');
  if (unknown === undefined) return evaluateNow(work, statement, () => evaluate(work, expression));
  work.problems.push({ code: 'not-yet-known', grade: 'error', span: expression.span, name: unknown, directive: statement.operation!.text });
  return undefined;
}

function evaluateNow<T>(work: Work, statement: Statement, act: () => T): T {
  work.user = statement;
  work.scope = work.routine?.name;
  work.here = addressNow(work);
  work.cellWidth = spaceOf(work).width;
  const result = act();
  work.user = undefined;
  return result;
}

const restSpan = ({ rest, span }: Statement): Span => ({ start: rest[0]?.start ?? span.start, end: span.end });

function noMore(work: Work, reader: Reader): boolean {
  const token = reader.tokens[reader.at]!;
  if (token.kind === 'end') return true;
  work.problems.push({ code: 'left-over', grade: 'error', span: wordOf(token).span, text: token.text });
  return false;
}

function place(work: Work, entry: Omit<Placed, 'address' | 'space' | 'routine'>): void {
  const { cells, name } = spaceOf(work);
  const from = addressNow(work);
  const last = from + entry.size - 1;
  if (last >= cells) {
    work.problems.push({ code: 'address-outside', grade: 'error', span: entry.statement.span, address: last, cells, space: name });
    return;
  }
  checkReserved(work, entry, { from, last });
  const { statement, kind, size, expanded, form, operands, fill } = entry;
  const address = work.bank * cells + from;
  work.placed.push({ statement, kind, address, space: work.space, size, routine: work.routine?.name, expanded, form, operands, fill });
  setAddress(work, last + 1);
}

/** Cells of the system program are not a program's own. */
function checkReserved(
  work: Work,
  { statement, size }: Pick<Placed, 'statement' | 'size'>,
  { from, last }: { from: number; last: number },
): void {
  const { system, programSpace } = work.machine;
  if (!system || work.isSystem || work.space !== programSpace || size === 0 || last < system.from || from > system.to) return;
  work.problems.push({ code: 'cells-reserved', grade: 'error', span: statement.span, from: system.from, to: system.to });
}

// ---- instructions ----

interface Known {
  readonly template?: Template;
  readonly short?: ShortTemplate;
  readonly operands: readonly Operand[];
  /** Inline data: what follows the written form. */
  readonly items?: readonly Item[] | undefined;
}

/** What a line means does not change from pass to pass. */
const matches = new WeakMap<Statement, Known | null>();

function placeInstruction(work: Work, statement: Statement, expanded?: Statement): void {
  if (work.space !== work.machine.programSpace) {
    const { name } = programSpaceOf(work.machine);
    work.problems.push({ code: 'instruction-outside', grade: 'error', span: statement.span, space: spaceOf(work).name, program: name });
  }
  let known = matches.get(statement);
  if (known === undefined) {
    known = match(work, statement);
    matches.set(statement, known);
  }
  if (known?.template) return placeForm(work, statement, { ...known, template: known.template }, expanded);
  if (known?.short) return expand(work, statement, known.short, known.operands);
  const candidates = work.templates.forms.get(statement.operation!.key) ?? [];
  explainMismatch(work, statement, candidates);
  work.gaps.push(addressNow(work));
  if (candidates[0]) place(work, { statement, kind: 'code', size: candidates[0].form.format.cells, fill: () => undefined });
}

function match(work: Work, statement: Statement): Known | null {
  const { operation, rest } = statement;
  for (const template of work.templates.forms.get(operation!.key) ?? []) {
    const { inline } = template.form;
    const found = matchOperands(work.templates, rest, template, inline !== undefined);
    if (!found) continue;
    if (!inline) return { template, operands: found.operands };
    // A comma may stand between operands and data.
    const from = rest[found.at]!.text === ',' && found.operands.length > 0 ? found.at + 1 : found.at;
    const items = readItems({ tokens: rest, at: from }, null, inline === 'string' ? work.machine.assembly.strings : undefined);
    if (items) return { template, operands: found.operands, items };
  }
  for (const short of work.templates.shorts.get(operation!.key) ?? []) {
    const found = matchOperands(work.templates, rest, short);
    if (found) return { short, operands: found.operands };
  }
  return null;
}

function placeForm(
  work: Work,
  statement: Statement,
  { template: { ladder }, operands, items }: Known & { readonly template: Template },
  expanded: Statement | undefined,
): void {
  let form: Form = ladder[0]!;
  if (ladder.length > 1) {
    const key = `${statement.unit.part ?? ''} ${statement.line} ${work.placed.length}`;
    form = ladder[Math.min(work.grown.get(key) ?? 0, ladder.length - 1)]!;
    if (form !== ladder.at(-1)) growing(work, statement, { form, operands, key, most: ladder.length - 1 });
  }
  const more = items ? sizeOfItems(items) : 0;
  const fill = (from: number): number[] | undefined => {
    const cells = encodeOperands(work, form, operands, from);
    if (!items) return cells;
    const data = itemCells(work, items, statement);
    return cells && data ? [...cells, ...data] : undefined;
  };
  place(work, { statement, kind: 'code', size: form.format.cells + more, form, operands, expanded, fill });
}

interface Tight {
  readonly form: Form;
  readonly operands: readonly Operand[];
  readonly key: string;
  readonly most: number;
}

function growing(work: Work, statement: Statement, { form, operands, key, most }: Tight): void {
  const address = addressNow(work);
  const routine = work.routine?.name;
  const fits = (): boolean => {
    const known = work.problems.length;
    Object.assign(work, { user: statement, scope: routine, here: address, cellWidth: programSpaceOf(work.machine).width });
    encodeOperands(work, form, operands, address);
    const tight = work.problems.slice(known).some((each) => each.code === 'value-out-of-range' || each.code === 'other-page');
    work.problems.length = known;
    return !tight;
  };
  work.growing.push({ key, most, fits });
}

const expansions = new WeakMap<Statement, Statement[]>();

/** The lines that a short form stands for, with the operands as they were written; problems are told where it stands. */
function expand(work: Work, statement: Statement, short: ShortTemplate, operands: readonly Operand[]): void {
  if (work.nesting >= MOST_NESTING) return;
  let lines = expansions.get(statement);
  if (!lines) {
    const written = new Map(operands.flatMap((each) => ('any' in each ? [[each.any, each.tokens] as const] : [])));
    lines = short.lines.map((line) =>
      parseStatement(statement, splice(line, written, statement.span), work.templates.mnemonics, work.problems),
    );
    expansions.set(statement, lines);
  }
  work.nesting++;
  for (const line of lines) {
    if (line.kind === 'operation') placeInstruction(work, line, line);
    else placeLine(work, line);
  }
  work.nesting--;
}

/** Holes in braces give way to what was written for them. */
function splice(line: readonly Token[], written: ReadonlyMap<string, readonly Token[]>, { start, end }: Span): Token[] {
  const tokens: Token[] = [];
  for (let at = 0; at < line.length; at++) {
    const token = line[at]!;
    const hole = token.text === '{' && line[at + 2]?.text === '}' ? written.get(line[at + 1]!.text) : undefined;
    if (hole) at += 2;
    tokens.push(...(hole ?? [token]).map((each) => ({ ...each, start, end })));
  }
  return tokens;
}

/** One problem: the value that cannot be read where the shape is right, else the forms that exist. */
function explainMismatch(work: Work, statement: Statement, candidates: readonly Template[]): void {
  const { rest, operation } = statement;
  for (const template of candidates) {
    const bad = badValueIn(rest, template);
    if (bad) return void work.problems.push(bad);
  }
  const shorts = work.templates.shorts.get(operation!.key) ?? [];
  const inOrder = candidates.flatMap((each) => each.ladder).sort((a, b) => a.index - b.index);
  const forms = [...inOrder, ...shorts.map((each) => each.form)].map((each) => each.written.replace(/[{}]/g, ''));
  const span = rest.length > 1 ? restSpan(statement) : operation!.span;
  const mend = missingMark(work, statement, candidates);
  const shared = { code: 'operands-do-not-fit', grade: 'error', span, mnemonic: operation!.text } as const;
  work.problems.push({ ...shared, forms: [...new Set(forms)], ...(mend && { mend }) });
}

/** One form asks for a mark that is missing in front of the operand: LOAD 5 where only LOAD #5 exists. */
function missingMark(work: Work, { rest }: Statement, candidates: readonly Template[]) {
  const fitting = candidates.flatMap(({ pieces, stops }) => {
    const [mark, ...others] = pieces;
    return typeof mark === 'string' && /^\W$/.test(mark) && matchOperands(work.templates, rest, { pieces: others, stops: stops.slice(1) })
      ? [mark]
      : [];
  });
  if (fitting.length !== 1 || rest.length < 2) return undefined;
  const at = rest[0]!.start;
  return { title: `Put ${fitting[0]!} before it`, edits: [{ span: { start: at, end: at }, text: fitting[0]! }] };
}

// ---- data ----

function placeRoom(work: Work, statement: Statement): void {
  const { cells } = spaceOf(work);
  const size = knownValue(work, statement);
  if (size === undefined) return;
  if (size < 0 || size > cells)
    outOfRange(work, restSpan(statement), { value: size, least: 0, greatest: cells, what: 'a number of cells' });
  else place(work, { statement, kind: 'room', size });
}

/** .cells and .text: values and texts, separated by commas. */
function placeData(work: Work, statement: Statement): void {
  placeItems(work, statement, readItems({ tokens: statement.rest, at: 0 }, work.problems));
}

function placeStrings(work: Work, statement: Statement): void {
  placeItems(work, statement, readItems({ tokens: statement.rest, at: 0 }, work.problems, work.machine.assembly.strings));
}

function placeItems(work: Work, statement: Statement, items: readonly Item[] | undefined): void {
  if (!items) return;
  place(work, { statement, kind: 'data', size: sizeOfItems(items), fill: () => itemCells(work, items, statement) });
}

/** .fill count, value */
function placeFill(work: Work, statement: Statement): void {
  const reader = { tokens: statement.rest, at: 0 };
  const size = knownAt(work, statement, reader);
  if (size === undefined) return;
  const { cells } = spaceOf(work);
  if (size < 0 || size > cells)
    return outOfRange(work, restSpan(statement), { value: size, least: 0, greatest: cells, what: 'a number of cells' });
  const separated = statement.rest[reader.at]!.text === ',';
  if (separated) reader.at++;
  const value = separated ? readExpression(reader, work.problems) : undefined;
  if ((separated && !value) || !noMore(work, reader)) return;
  const fill = (): number[] | undefined => {
    const [cell] = value ? (itemCells(work, [{ kind: 'value', expression: value }], statement) ?? []) : [0];
    return cell === undefined ? undefined : new Array<number>(size).fill(cell);
  };
  place(work, { statement, kind: 'data', size, fill });
}

// ---- routines, start, declared places ----

function openRoutine(work: Work, statement: Statement): void {
  const [name] = statement.rest as [Token];
  if (name.kind !== 'name' || statement.rest[1]!.kind !== 'end') {
    work.problems.push({ code: 'name-expected', grade: 'error', span: restSpan(statement), directive: '.routine' });
    return;
  }
  if (work.routine) work.problems.push({ code: 'routine-open', grade: 'error', span: statement.span, ...openOne(work.routine, statement) });
  work.routine = undefined;
  const word = wordOf(name);
  define(work, statement, word, { kind: 'label', value: addressNow(work), ...elsewhere(work) });
  const from = addressNow(work);
  work.routine = { name: name.text, unit: statement.unit, line: statement.line, span: statement.span, from, to: from, end: statement.line };
  work.routines.push(work.routine);
}

const openOne = ({ name, line }: { name: string; line: number }, { span }: Statement) => ({
  name,
  line,
  mend: { title: 'Write .end before it', edits: [{ span: { start: span.start, end: span.start }, text: '.end\n' }] },
});

function closeRoutine(work: Work, statement: Statement): void {
  const { routine } = work;
  if (!routine) return void work.problems.push({ code: 'end-without-routine', grade: 'error', span: statement.span });
  if (statement.rest[0]!.kind !== 'end') noMore(work, { tokens: statement.rest, at: 0 });
  routine.to = addressNow(work) - 1;
  routine.end = statement.line;
  work.routine = undefined;
}

function setStart(work: Work, statement: Statement): void {
  const reader = { tokens: statement.rest, at: 0 };
  const expression = readExpression(reader, work.problems);
  if (!expression || !noMore(work, reader)) return;
  if (work.begin) work.problems.push({ code: 'start-twice', grade: 'error', span: statement.span, line: work.begin.statement.line });
  else work.begin = { expression, statement };
}

/** .input name [= place] [, base] [, "unit"] */
function declare(work: Work, statement: Statement): void {
  const { rest } = statement;
  const way = statement.operation!.key === '.input' ? 'input' : 'output';
  const wrong = (token: Token): void =>
    void work.problems.push({ code: 'declaration-wrong', grade: 'error', span: wordOf(token).span, way, bases: VALUE_BASES });
  const [name] = rest as [Token];
  if (name.kind !== 'name') return wrong(name);
  const reader = { tokens: rest, at: 1 };
  let place: ReturnType<typeof readExpression>;
  if (rest[1]!.text === '=') {
    reader.at = 2;
    place = readExpression(reader, work.problems);
    if (!place) return;
  }
  let base: string = 'decimal';
  let unit = '';
  while (rest[reader.at]!.text === ',') {
    const token = rest[reader.at + 1]!;
    const known = token.kind === 'name' && VALUE_BASES.find((each) => each.toUpperCase() === token.key);
    if (known) base = known;
    else if (token.kind === 'text') unit = token.text.slice(1, -1);
    else return wrong(token);
    reader.at += 2;
  }
  if (!noMore(work, reader)) return;
  const word: Word = wordOf(name);
  const twice = work.declared.find((each) => each.way === way && keyOf(work, each.word.text) === keyOf(work, word.text));
  if (twice) work.problems.push({ code: 'name-twice', grade: 'error', span: word.span, name: word.text, line: twice.statement.line });
  else work.declared.push({ way, word, statement, place, base, unit });
}

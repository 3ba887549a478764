/** The first pass: gives every name its meaning and every line its address. */
import type { Span } from '../../text/source';
import { noMore, place, restSpan } from './cells';
import { itemCells, readItems, sizeOfItems, type Item } from './data';
import { VALUE_BASES } from '../read/directives';
import { namesIn, readExpression, type Expression, type Reader } from '../read/expressions';
import { placeInstruction } from './instructions';
import { define, elsewhere } from './names';
import { type Statement, type Word } from '../read/syntax';
import type { Token } from '../read/tokens';
import { evaluate } from './values';
import { addressNow, find, keyOf, setAddress, spaceOf, type Work } from './assembly';

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
  if (kind === 'operation') placeInstruction(work, statement, placeLine);
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
  const unknown = unknownIn(work, expression, work.routine?.name, new Set());
  if (unknown === undefined) return evaluateNow(work, statement, () => evaluate(work, expression));
  work.problems.push({ code: 'not-yet-known', grade: 'error', span: expression.span, name: unknown, directive: statement.operation!.text });
  return undefined;
}

/** A name that is not defined yet, in the value or in constants that it goes by. */
function unknownIn(work: Work, expression: Expression, routine: string | undefined, seen: Set<Expression>): string | undefined {
  if (seen.has(expression) || seen.size > MOST_CONSTANTS) return undefined;
  seen.add(expression);
  for (const name of namesIn(expression)) {
    const found = find(work, name, routine);
    if (!found && name.toLowerCase() !== 'here') return name;
    const behind = found?.expression && found.value === undefined ? unknownIn(work, found.expression, found.routine, seen) : undefined;
    if (behind !== undefined) return behind;
  }
  return undefined;
}
const MOST_CONSTANTS = 200;

function evaluateNow<T>(work: Work, statement: Statement, act: () => T): T {
  work.user = statement;
  work.scope = work.routine?.name;
  work.here = addressNow(work);
  work.cellWidth = spaceOf(work).width;
  const result = act();
  work.user = undefined;
  return result;
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
  const word = name;
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
    void work.problems.push({ code: 'declaration-wrong', grade: 'error', span: token.span, way, bases: VALUE_BASES });
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
  const word: Word = name;
  const twice = work.declared.find((each) => each.way === way && keyOf(work, each.word.text) === keyOf(work, word.text));
  if (twice) work.problems.push({ code: 'name-twice', grade: 'error', span: word.span, name: word.text, line: twice.statement.line });
  else work.declared.push({ way, word, statement, place, base, unit });
}

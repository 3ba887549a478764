/** The first pass: gives every name its meaning and every line its address. */
import type { Span } from '../../text/source';
import { noMore, place, restSpan } from './cells';
import { readItems, sizeOfItems, type Item } from './data';
import { VALUE_BASES } from '../read/directives';
import { namesIn, readExpression, type Expression } from '../read/expressions';
import { placeInstruction } from './instructions';
import { define, elsewhere } from './names';
import { type Statement, type Word } from '../read/syntax';
import type { Reader, Token } from '../read/tokens';
import { evaluate } from './values';
import { Content, find, keyOf, setSpot, spaceOf, type Placement, type Routine } from './assembly';
import { itemAt } from '../../text/itemAt';

/** Gives one statement its address and its names their meaning; problems are added. */
export function placeLine(placement: Placement, statement: Statement): void {
  const { label, kind, meant } = statement;
  if (kind === 'wrong') {
    if (placement.space === placement.machine.programSpace) placement.gaps.push(placement.address);
    if (meant && !find(placement, meant, placement.routine)) define(placement, statement, meant, { kind: 'label', value: null });
  }
  if (kind === 'constant') return defineConstant(placement, statement);
  const directive = kind === 'directive' ? statement.key : undefined;
  if (directive) moveAddress(placement, statement, directive);
  if (kind === 'operation') alignInstruction(placement, statement);
  if (label) define(placement, statement, label, { kind: 'label', value: placement.address, ...elsewhere(placement) });
  if (kind === 'operation') placeInstruction(placement, statement, placeLine);
  if (directive) placeDirective(placement, statement, directive);
}

function moveAddress(placement: Placement, statement: Statement, directive: string): void {
  if (directive === '.origin') setOrigin(placement, statement);
  else if (directive === '.space') setSpace(placement, statement);
  else if (directive === '.align') align(placement, statement);
}

function placeDirective(placement: Placement, statement: Statement, directive: string): void {
  switch (directive) {
    case '.room':
      return placeRoom(placement, statement);
    case '.cells':
    case '.text':
      return placeData(placement, statement);
    case '.string':
      return placeStrings(placement, statement);
    case '.fill':
      return placeFill(placement, statement);
    case '.routine':
      return openRoutine(placement, statement);
    case '.end':
      return closeRoutine(placement, statement);
    case '.start':
      return setStart(placement, statement);
    case '.input':
    case '.output':
      return declare(placement, statement);
  }
}

function defineConstant(placement: Placement, statement: Statement): void {
  const reader = statement.reader();
  const expression = readExpression(reader, placement.problems);
  if (expression) noMore(placement, reader);
  define(placement, statement, statement.label!, { kind: 'constant', value: expression ? undefined : null, expression });
}

function setOrigin(placement: Placement, statement: Statement): void {
  const value = knownValue(placement, statement);
  if (value === undefined) return;
  const { cells, name } = spaceOf(placement);
  placement.full = false;
  if (value >= 0 && value < cells) placement.address = value;
  else placement.problems.push({ code: 'address-outside', grade: 'error', span: restSpan(statement), address: value, cells, space: name });
}

/** .space NAME, or .space NAME, bank: what follows goes there. */
function setSpace(placement: Placement, statement: Statement): void {
  const reader = statement.reader();
  const name = reader.word();
  const names = placement.machine.spaces.map((each) => each.name);
  const space = names.findIndex((each) => each.toUpperCase() === name.key);
  if (space === -1)
    return void placement.problems.push({
      code: 'unknown-space',
      grade: 'error',
      span: restSpan(statement),
      name: name.text,
      spaces: names,
    });
  reader.at += reader.word(1).text === ',' ? 2 : 1;
  const bank = reader.isAtEnd ? 0 : knownValue(placement, statement, reader);
  if (bank === undefined) return;
  const greatest = itemAt(placement.machine.spaces, space).banks - 1;
  const what = `a bank of ${itemAt(names, space)}`;
  if (bank < 0 || bank > greatest) return outOfRange(placement, restSpan(statement), { value: bank, least: 0, greatest, what });
  setSpot(placement, space, bank);
}

const outOfRange = (placement: Placement, span: Span, range: { value: number; least: number; greatest: number; what: string }): void =>
  void placement.problems.push({ code: 'value-out-of-range', grade: 'error', span, ...range });

function align(placement: Placement, statement: Statement): void {
  const { cells } = spaceOf(placement);
  const value = knownValue(placement, statement);
  if (value === undefined) return;
  if (value < 1 || value > cells)
    return outOfRange(placement, restSpan(statement), { value, least: 1, greatest: cells, what: 'what addresses are aligned to' });
  const next = Math.ceil(placement.address / value) * value;
  placement.address = Math.min(next, cells);
}

/** Instructions begin where the machine allows it; cells passed over are told. */
function alignInstruction(placement: Placement, { operation }: Statement): void {
  const { align } = placement.machine.assembly;
  const from = placement.address;
  if (align === 1 || from % align === 0 || placement.space !== placement.machine.programSpace) return;
  const to = Math.ceil(from / align) * align;
  if (placement.nesting === 0) placement.problems.push({ code: 'aligned', grade: 'remark', span: operation!.span, of: align, from, to });
  placement.address = to;
}

/** The value behind a directive that moves addresses, which must be known by now. */
function knownValue(placement: Placement, statement: Statement, reader = statement.reader()): number | undefined {
  const value = knownAt(placement, statement, reader);
  return value !== undefined && noMore(placement, reader) ? value : undefined;
}

function knownAt(placement: Placement, statement: Statement, reader: Reader): number | undefined {
  const expression = readExpression(reader, placement.problems);
  if (!expression) return undefined;
  const unknown = unknownIn(placement, expression, placement.routine, new Set());
  if (unknown === undefined) return evaluateNow(placement, statement, () => evaluate(placement, expression));
  placement.problems.push({
    code: 'not-yet-known',
    grade: 'error',
    span: expression.span,
    name: unknown,
    directive: statement.key,
  });
  return undefined;
}

/** A name that is not defined yet, in the value or in constants that it goes by. */
function unknownIn(placement: Placement, expression: Expression, routine: Routine | undefined, seen: Set<Expression>): string | undefined {
  if (seen.has(expression) || seen.size > MOST_CONSTANTS) return undefined;
  seen.add(expression);
  for (const name of namesIn(expression)) {
    const found = find(placement, name, routine);
    if (!found && name.key !== 'HERE') return name.text;
    const behind = found?.expression && found.value === undefined ? unknownIn(placement, found.expression, found.routine, seen) : undefined;
    if (behind !== undefined) return behind;
  }
  return undefined;
}
const MOST_CONSTANTS = 200;

function evaluateNow<T>(placement: Placement, statement: Statement, act: () => T): T {
  placement.user = statement;
  placement.scope = placement.routine;
  placement.here = placement.address;
  placement.cellWidth = spaceOf(placement).width;
  const result = act();
  placement.user = undefined;
  return result;
}

// ---- data ----

function placeRoom(placement: Placement, statement: Statement): void {
  const { cells } = spaceOf(placement);
  const size = knownValue(placement, statement);
  if (size === undefined) return;
  if (size < 0 || size > cells)
    outOfRange(placement, restSpan(statement), { value: size, least: 0, greatest: cells, what: 'a number of cells' });
  else place(placement, statement, { kind: 'room', size, content: new Content() });
}

/** .cells and .text: values and texts, separated by commas. */
function placeData(placement: Placement, statement: Statement): void {
  placeItems(placement, statement, readItems(statement.reader(), placement.problems));
}

function placeStrings(placement: Placement, statement: Statement): void {
  placeItems(placement, statement, readItems(statement.reader(), placement.problems, placement.machine.assembly.strings));
}

function placeItems(placement: Placement, statement: Statement, items: readonly Item[] | undefined): void {
  if (!items) return;
  place(placement, statement, { kind: 'data', size: sizeOfItems(items), content: new Content(undefined, undefined, items) });
}

/** .fill count, value */
function placeFill(placement: Placement, statement: Statement): void {
  const reader = statement.reader();
  const size = knownAt(placement, statement, reader);
  if (size === undefined) return;
  const { cells } = spaceOf(placement);
  if (size < 0 || size > cells)
    return outOfRange(placement, restSpan(statement), { value: size, least: 0, greatest: cells, what: 'a number of cells' });
  const separated = reader.word().text === ',';
  if (separated) reader.at++;
  const value = separated ? readExpression(reader, placement.problems) : undefined;
  if ((separated && !value) || !noMore(placement, reader)) return;
  const expression = value ?? ({ kind: 'number', value: 0, text: '0', span: statement.span } as const);
  const items: Item[] = [{ kind: 'value', expression, times: size }];
  place(placement, statement, { kind: 'data', size, content: new Content(undefined, undefined, items) });
}

// ---- routines, start, declared places ----

function openRoutine(placement: Placement, statement: Statement): void {
  const [name] = statement.rest as [Token];
  if (name.kind !== 'name' || itemAt(statement.rest, 1).kind !== 'end') {
    placement.problems.push({ code: 'name-expected', grade: 'error', span: restSpan(statement), directive: '.routine' });
    return;
  }
  if (placement.routine)
    placement.problems.push({ code: 'routine-open', grade: 'error', span: statement.span, ...openOne(placement.routine, statement) });
  placement.routine = undefined;
  define(placement, statement, name, { kind: 'label', value: placement.address, ...elsewhere(placement) });
  const from = placement.address;
  const key = keyOf(placement, name);
  // Of two of one name, which is told, the names belong together.
  const names = (placement.routineNames.get(key) ?? new Map()) as Routine['names'];
  placement.routineNames.set(key, names);
  placement.routine = {
    key,
    names,
    name: name.text,
    unit: statement.unit,
    line: statement.line,
    span: statement.span,
    from,
    to: from,
    end: statement.line,
  };
  placement.routines.push(placement.routine);
}

const openOne = ({ name, line }: { name: string; line: number }, { span }: Statement) => ({
  name,
  line,
  mend: { title: 'Write .end before it', edits: [{ span: { start: span.start, end: span.start }, text: '.end\n' }] },
});

function closeRoutine(placement: Placement, statement: Statement): void {
  const { routine } = placement;
  if (!routine) return void placement.problems.push({ code: 'end-without-routine', grade: 'error', span: statement.span });
  noMore(placement, statement.reader());
  routine.to = placement.address - 1;
  routine.end = statement.line;
  placement.routine = undefined;
}

function setStart(placement: Placement, statement: Statement): void {
  const reader = statement.reader();
  const expression = readExpression(reader, placement.problems);
  if (!expression || !noMore(placement, reader)) return;
  if (placement.begin)
    placement.problems.push({ code: 'start-twice', grade: 'error', span: statement.span, line: placement.begin.statement.line });
  else placement.begin = { expression, statement };
}

/** .input name [= place] [, base] [, "unit"] */
function declare(placement: Placement, statement: Statement): void {
  const [name, next] = statement.rest as [Token, Token | undefined];
  const way = statement.key === '.input' ? 'input' : 'output';
  const wrong = (span: Span): void =>
    void placement.problems.push({ code: 'declaration-wrong', grade: 'error', span, way, bases: VALUE_BASES });
  if (name.kind !== 'name') return wrong(name.span);
  const reader = statement.reader();
  reader.at++;
  let place: ReturnType<typeof readExpression>;
  if (next?.text === '=') {
    reader.at++;
    place = readExpression(reader, placement.problems);
    if (!place) return;
  }
  let base: string = 'decimal';
  let unit = '';
  while (reader.word().text === ',') {
    reader.at++;
    const token = reader.word();
    const known = token.kind === 'name' && VALUE_BASES.find((each) => each.toUpperCase() === token.key);
    if (known) base = known;
    else if (token.kind === 'text') unit = token.text.slice(1, -1);
    else return wrong(reader.span);
    reader.at++;
  }
  if (!noMore(placement, reader)) return;
  const word: Word = name;
  const twice = placement.declared.find((each) => each.way === way && keyOf(placement, each.word) === keyOf(placement, word));
  if (twice) placement.problems.push({ code: 'name-twice', grade: 'error', span: word.span, name: word.text, line: twice.statement.line });
  else placement.declared.push({ way, word, statement, place, base, unit });
}

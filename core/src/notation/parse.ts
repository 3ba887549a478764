/** Reads one line of register-transfer notation into its syntax. Looks up no names. */
import { DECIMAL, readNumber, type NumberRules } from '../text/number';
import type { Span } from '../text/source';
import { ARROW, FLAGS, habitAt } from './habits';
import type { NotationProblem } from './problems';
import { isComparison, MIXED, NOT, STRENGTH } from './print';
import {
  MARKS,
  type ActionSyntax,
  type BinaryOperator,
  type ExprSyntax,
  type LogicOperator,
  type MarkWord,
  type TickSyntax,
  type UnaryOperator,
} from './syntax';
import { tokenize, type Token } from './tokens';

const MAX_DEPTH = 40;

class ParseStop extends Error {}

interface Reader {
  readonly text: string;
  readonly base: number;
  readonly tokens: readonly Token[];
  at: number;
  depth: number;
  readonly problems: NotationProblem[];
  readonly rules: NumberRules;
  /** What stands in brackets; and where the sign of each pair stands. */
  readonly bracketed: Set<ExprSyntax>;
  readonly signs: Map<ExprSyntax, Span>;
  /** Operations on bits beside a comparison, without brackets. */
  readonly mixed: { readonly operation: ExprSyntax & { kind: 'binary' }; readonly comparison: ExprSyntax }[];
}

const readerOf = (text: string, base: number, rules: NumberRules): Reader => ({
  ...{ text, base },
  tokens: tokenize(text, base),
  at: 0,
  depth: 0,
  problems: [],
  rules,
  bracketed: new Set(),
  signs: new Map(),
  mixed: [],
});

/** The language that documents are read in where they say nothing; beside bits, comparisons meant something else before. */
export const LANGUAGE = 2;

/** The first mistake ends the line: `tick` is then undefined and `problems` has one entry. Remarks may stand beside a tick. */
export function parseTick(text: string, base: number, language = LANGUAGE): { tick?: TickSyntax; problems: NotationProblem[] } {
  const reader = readerOf(text, base, DECIMAL);
  try {
    const actions = readActions(reader);
    const flags = readFlags(reader);
    if (peek(reader).kind !== 'end') fail(reader, 'a comma, “; flags …” or the end of the line');
    const span = { start: base, end: base + text.length };
    tellMixed(reader, language);
    return { problems: reader.problems, tick: { text: text.trim(), span, actions, flags } };
  } catch (error) {
    if (!(error instanceof ParseStop)) throw error;
    return { problems: reader.problems };
  }
}

/** An expression by itself, as a flag's formula is written. `base` is the offset of the text; numbers are read by the rules. */
export function parseExpr(
  text: string,
  base: number,
  rules: NumberRules = DECIMAL,
  language = LANGUAGE,
): { expr?: ExprSyntax; problems: NotationProblem[] } {
  const reader = readerOf(text, base, rules);
  try {
    const expr = readExpr(reader);
    if (peek(reader).kind !== 'end') fail(reader, 'the end of the line');
    tellMixed(reader, language);
    return { expr, problems: reader.problems };
  } catch (error) {
    if (!(error instanceof ParseStop)) throw error;
    return { problems: reader.problems };
  }
}

/** A comparison beside bits: meant are conditions, or brackets are missing. Up to language 1 it is told and read on. */
function tellMixed({ mixed, problems, signs }: Reader, language: number): void {
  const [first] = mixed;
  if (!first) return;
  const all = new Set(mixed.map((each) => each.operation));
  const words = { '&': 'and', '|': 'or' } as const;
  const bracket = {
    title: 'Put brackets round the bits',
    edits: [...all].flatMap(({ span }) => [
      { span: { start: span.start, end: span.start }, text: '(' },
      { span: { start: span.end, end: span.end }, text: ')' },
    ]),
  };
  // Two comparisons with a sign between them are two conditions.
  const conditions = mixed.some(({ comparison }) => comparison.kind === 'binary' && isComparison(comparison.left));
  const worded = [...all].flatMap((each) => {
    const word = each.operator === '&' || each.operator === '|' ? words[each.operator] : undefined;
    const span = signs.get(each);
    return word && span ? [{ span, text: word }] : [];
  });
  const meant = conditions && worded.length === all.size ? { title: `Write ${worded[0]?.text ?? ''}`, edits: worded } : undefined;
  problems.push({
    code: 'comparison-beside-bits',
    grade: language < 2 ? 'remark' : 'error',
    span: { start: first.comparison.span.start, end: first.comparison.span.end },
    operator: first.operation.operator,
    mend: meant ?? bracket,
    ...(meant && { others: [bracket] }),
  });
}

const peek = (reader: Reader): Token => reader.tokens[reader.at]!;
const isSign = (reader: Reader, sign: string): boolean => peek(reader).kind === 'sign' && peek(reader).text === sign;
const isWord = (reader: Reader, word: string): boolean => peek(reader).kind === 'name' && peek(reader).text === word;

function take(reader: Reader): Token {
  const token = peek(reader);
  if (token.kind !== 'end') reader.at++;
  return token;
}

function takeSign(reader: Reader, sign: string, expected = `“${sign}”`): Token {
  return isSign(reader, sign) ? take(reader) : fail(reader, expected);
}

function fail(reader: Reader, expected: string): never {
  const token = peek(reader);
  const habit = habitAt(reader, expected);
  if (habit) {
    reader.problems.push({ code: 'habit', grade: 'error', ...habit });
    throw new ParseStop();
  }
  const found = token.kind === 'end' ? 'the end of the line' : `“${token.text}”`;
  reader.problems.push({ code: 'tick-expected', grade: 'error', span: token.span, expected, found });
  throw new ParseStop();
}

/** actions := action (',' action)* */
function readActions(reader: Reader): ActionSyntax[] {
  const actions = [readAction(reader)];
  while (isSign(reader, ',')) {
    take(reader);
    actions.push(readAction(reader));
  }
  return actions;
}

/**
 * action := 'if' expr ':' actions ('else' actions)? | 'halt' | 'compare' expr | ('service' | 'enter') expr | 'wait' name
 *         | ('push' | 'pop') name | ('call' | 'return' | 'trap') expr? | place '<-' expr
 */
function readAction(reader: Reader): ActionSyntax {
  const { kind, text, span } = peek(reader);
  if (kind !== 'name') fail(reader, 'a register, a memory cell, “if”, “halt”, “service”, “compare” or a mark');
  const word = WORDS[text];
  if (!word) return readTransfer(reader);
  take(reader);
  const action = word(reader, text);
  return { ...action, span: { start: span.start, end: Math.max(span.end, reader.tokens[reader.at - 1]!.span.end) } } as ActionSyntax;
}

type Bare<T> = T extends unknown ? Omit<T, 'span'> : never;

const WORDS: Readonly<Record<string, (reader: Reader, word: string) => Bare<ActionSyntax>>> = Object.assign(
  Object.create(null) as Record<string, (reader: Reader, word: string) => Bare<ActionSyntax>>,
  {
    if: readIf,
    halt: () => ({ kind: 'halt' }),
    service: (reader: Reader) => ({ kind: 'service', number: readExpr(reader) }),
    compare: (reader: Reader) => ({ kind: 'compare', value: readExpr(reader) }),
    enter: (reader: Reader) => ({ kind: 'enter', cause: readExpr(reader) }),
    wait: (reader: Reader) => ({ kind: 'wait', name: readName(reader, 'the name of a device') }),
    push: readStack,
    pop: readStack,
    ...Object.fromEntries(MARKS.map((each) => [each, readMark])),
  },
);

function readTransfer(reader: Reader): ActionSyntax {
  const { start } = peek(reader).span;
  const target = readAtom(reader);
  takeSign(reader, '<-', ARROW);
  const value = readExpr(reader);
  return { kind: 'transfer', target, value, span: { start, end: value.span.end } };
}

function readName(reader: Reader, expected: string): string {
  return peek(reader).kind === 'name' ? take(reader).text : fail(reader, expected);
}

function readStack(reader: Reader, word: string): Bare<ActionSyntax> {
  return { kind: 'stack', way: word as 'push' | 'pop', name: readName(reader, 'the name of a stack') };
}

function readMark(reader: Reader, word: string): Bare<ActionSyntax> {
  const { kind, text } = peek(reader);
  const ends = kind === 'end' || (kind === 'sign' && (text === ',' || text === ';')) || (kind === 'name' && text === 'else');
  return { kind: 'mark', mark: word as MarkWord, ...(!ends && { place: readExpr(reader) }) };
}

function readIf(reader: Reader): Bare<ActionSyntax> {
  const condition = readExpr(reader);
  takeSign(reader, ':', '“:” after the condition');
  const then = deeper(reader, () => readActions(reader));
  let otherwise: ActionSyntax[] = [];
  if (isWord(reader, 'else')) {
    take(reader);
    otherwise = deeper(reader, () => readActions(reader));
  }
  return { kind: 'if', condition, then, otherwise };
}

/** flags := (';' 'flags' name+)? */
function readFlags(reader: Reader): { name: string; span: Span }[] {
  if (!isSign(reader, ';')) return [];
  take(reader);
  if (!isWord(reader, 'flags')) fail(reader, FLAGS);
  take(reader);
  const flags: { name: string; span: Span }[] = [];
  while (peek(reader).kind === 'name') {
    const { text, span } = take(reader);
    flags.push({ name: text, span });
  }
  if (flags.length === 0) fail(reader, 'the name of a flag');
  return flags;
}

/** The operator that comes, where one does. */
function operatorAt(reader: Reader): BinaryOperator | LogicOperator | undefined {
  const { kind, text } = peek(reader);
  if (kind === 'name') return text === 'and' || text === 'or' ? text : undefined;
  return kind === 'sign' && Object.hasOwn(STRENGTH, text) ? (text as BinaryOperator) : undefined;
}

/** expr := operand (operator operand)*, by binding strength, from the left; operand := 'not' expr | unary. */
function readExpr(reader: Reader, weakest = 1): ExprSyntax {
  return deeper(reader, () => {
    let left = isWord(reader, 'not') && weakest <= NOT ? readNot(reader) : readUnary(reader);
    for (;;) {
      const operator = operatorAt(reader);
      const strength = operator && STRENGTH[operator];
      if (!strength || strength < weakest) return left;
      const sign = take(reader);
      const right = readExpr(reader, strength + 1);
      const span = { start: left.span.start, end: right.span.end };
      left =
        operator === 'and' || operator === 'or'
          ? { kind: 'logic', operator, left, right, span }
          : { kind: 'binary', operator, left, right, span };
      reader.signs.set(left, sign.span);
      if (left.kind === 'binary') noteMixed(reader, left);
    }
  });
}

function noteMixed(reader: Reader, comparison: ExprSyntax & { kind: 'binary' }): void {
  if (!isComparison(comparison)) return;
  for (const side of [comparison.left, comparison.right]) {
    const beside = side.kind === 'binary' && !reader.bracketed.has(side);
    if (beside && MIXED.has(side.operator)) reader.mixed.push({ operation: side, comparison });
    // Of a chain of comparisons the last one tells how far it goes.
    const known = beside && isComparison(side) ? reader.mixed.findIndex((each) => each.comparison === side) : -1;
    if (known !== -1) reader.mixed[known] = { operation: reader.mixed[known]!.operation, comparison };
  }
}

function readNot(reader: Reader): ExprSyntax {
  const { start } = take(reader).span;
  const operand = readExpr(reader, NOT);
  return { kind: 'not', operand, span: { start, end: operand.span.end } };
}

/** unary := ('~' | '-') unary | atom */
function readUnary(reader: Reader): ExprSyntax {
  if (!isSign(reader, '~') && !isSign(reader, '-')) return readAtom(reader);
  const sign = take(reader);
  const operand = deeper(reader, () => readUnary(reader));
  const span = { start: sign.span.start, end: operand.span.end };
  return { kind: 'unary', operator: sign.text as UnaryOperator, operand, span };
}

/** atom := primary ('[' number (':' number)? ']')* */
function readAtom(reader: Reader): ExprSyntax {
  const { start } = peek(reader).span;
  let atom = readPrimary(reader);
  while (isSign(reader, '[')) {
    take(reader);
    const high = readExpr(reader);
    if (high.kind === 'number' && isSign(reader, ']')) {
      const digit = digitOf(high);
      atom = { kind: 'slice', operand: atom, high: digit, low: digit, span: { start, end: take(reader).span.end } };
      continue;
    }
    if (!isSign(reader, ':')) fail(reader, 'one digit or a slice with two plain numbers, such as [7] or [7:4]');
    atom = readSlice(reader, atom, high, start);
  }
  return atom;
}

/** primary := number | '(' expr ')' | name '(' expr (',' expr)* ')' | name ('.' name)? | name '[' (expr ',')? expr ']' */
function readPrimary(reader: Reader): ExprSyntax {
  const token = peek(reader);
  if (token.kind === 'number') return { kind: 'number', value: numberOf(reader, take(reader)), text: token.text, span: token.span };
  if (isSign(reader, '(')) {
    take(reader);
    const inner = readExpr(reader);
    takeSign(reader, ')');
    reader.bracketed.add(inner);
    return inner;
  }
  if (token.kind !== 'name') fail(reader, 'a name or a number');
  take(reader);
  if (isSign(reader, '.')) return readPart(reader, token);
  if (isSign(reader, '[')) return readBrackets(reader, token);
  if (isSign(reader, '(')) return readCall(reader, token);
  if (isWord(reader, 'holds')) return { kind: 'holds', name: token.text, span: { start: token.span.start, end: take(reader).span.end } };
  return { kind: 'name', name: token.text, span: token.span };
}

function readPart(reader: Reader, token: Token): ExprSyntax {
  take(reader);
  if (peek(reader).kind !== 'name') fail(reader, `the name of a part of ${token.text}`);
  const part = take(reader);
  return { kind: 'name', name: token.text, part: part.text, span: { start: token.span.start, end: part.span.end } };
}

function readCall(reader: Reader, token: Token): ExprSyntax {
  take(reader);
  const parts = [readExpr(reader)];
  while (isSign(reader, ',')) {
    take(reader);
    parts.push(readExpr(reader));
  }
  const { end } = takeSign(reader, ')').span;
  return { kind: 'call', name: token.text, parts, span: { start: token.span.start, end } };
}

function readBrackets(reader: Reader, { text: name, span: { start, end } }: Token): ExprSyntax {
  take(reader);
  const first = readExpr(reader);
  if (isSign(reader, ':')) return readSlice(reader, { kind: 'name', name, span: { start, end } }, first, start);
  const second = isSign(reader, ',') ? (take(reader), readExpr(reader)) : undefined;
  const close = takeSign(reader, ']').span.end;
  const places = second ? { bank: first, index: second } : { index: first };
  return { kind: 'index', name, ...places, span: { start, end: close } };
}

/** Stands before the colon of a slice whose high digit is read. */
function readSlice(reader: Reader, operand: ExprSyntax, high: ExprSyntax, start: number): ExprSyntax {
  take(reader);
  const low = readExpr(reader);
  const { end } = takeSign(reader, ']').span;
  if (high.kind === 'number' && low.kind === 'number') {
    return { kind: 'slice', operand, high: digitOf(high), low: digitOf(low), span: { start, end } };
  }
  reader.at -= 2;
  return fail(reader, 'a slice with two plain numbers, such as [7:4]');
}

/** Digits of a value are counted in decimal, whatever base its numbers are read in. */
export const digitOf = ({ value, text = '' }: ExprSyntax & { kind: 'number' }): number => readNumber(text) ?? value;

function numberOf(reader: Reader, token: Token): number {
  const value = readNumber(token.text, reader.rules);
  if (value !== undefined && value < 2 ** 32) return value;
  reader.problems.push({ code: 'bad-number', grade: 'error', span: token.span, text: token.text, base: reader.rules.base });
  throw new ParseStop();
}

function deeper<T>(reader: Reader, read: () => T): T {
  if (++reader.depth > MAX_DEPTH) {
    reader.problems.push({ code: 'too-deep', grade: 'error', span: peek(reader).span });
    throw new ParseStop();
  }
  const result = read();
  reader.depth--;
  return result;
}

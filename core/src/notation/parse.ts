/** Reads one line of register-transfer notation into its syntax. Looks up no names. */
import { readNumber } from '../text/number';
import type { Span } from '../text/source';
import type { NotationProblem } from './problems';
import type { ActionSyntax, BinaryOperator, ExprSyntax, TickSyntax, UnaryOperator } from './syntax';
import { tokenize, type Token } from './tokens';

/** Binding strength of the binary operators; a greater number binds tighter. */
const STRENGTH: Readonly<Record<BinaryOperator, number>> = {
  '=': 1,
  '!=': 1,
  '<': 1,
  '<=': 1,
  '>': 1,
  '>=': 1,
  '|': 2,
  '^': 2,
  '&': 3,
  '<<': 4,
  '>>': 4,
  '+': 5,
  '-': 5,
  '*': 6,
};
const MAX_DEPTH = 40;

class Stop extends Error {}

interface Reader {
  readonly tokens: readonly Token[];
  at: number;
  depth: number;
  readonly problems: NotationProblem[];
}

/** The first mistake ends the line: `tick` is then undefined and `problems` has one entry. */
export function parseTick(text: string, base: number): { tick?: TickSyntax; problems: NotationProblem[] } {
  const reader: Reader = { tokens: tokenize(text, base), at: 0, depth: 0, problems: [] };
  try {
    const actions = readActions(reader);
    const flags = readFlags(reader);
    if (peek(reader).kind !== 'end') fail(reader, 'a comma, “; flags …” or the end of the line');
    const span = { start: base, end: base + text.length };
    return { tick: { text: text.trim(), span, actions, flags }, problems: [] };
  } catch (error) {
    if (!(error instanceof Stop)) throw error;
    return { problems: reader.problems };
  }
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
  const found = token.kind === 'end' ? 'the end of the line' : `“${token.text}”`;
  reader.problems.push({ code: 'tick-expected', grade: 'error', span: token.span, expected, found });
  throw new Stop();
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

/** action := 'if' expr ':' actions ('else' actions)? | 'halt' | 'service' expr | 'compare' expr | place '<-' expr */
function readAction(reader: Reader): ActionSyntax {
  const { start } = peek(reader).span;
  if (isWord(reader, 'if')) return readIf(reader);
  if (isWord(reader, 'halt')) return { kind: 'halt', span: take(reader).span };
  if (isWord(reader, 'service')) {
    take(reader);
    const number = readExpr(reader);
    return { kind: 'service', number, span: { start, end: number.span.end } };
  }
  if (isWord(reader, 'compare')) {
    take(reader);
    const value = readExpr(reader);
    return { kind: 'compare', value, span: { start, end: value.span.end } };
  }
  if (peek(reader).kind !== 'name') fail(reader, 'a register, a memory cell, “if”, “halt”, “service” or “compare”');
  const target = readAtom(reader);
  takeSign(reader, '<-', 'the arrow “<-”');
  const value = readExpr(reader);
  return { kind: 'transfer', target, value, span: { start, end: value.span.end } };
}

function readIf(reader: Reader): ActionSyntax {
  const { start } = take(reader).span;
  const condition = readExpr(reader);
  takeSign(reader, ':', '“:” after the condition');
  const then = deeper(reader, () => readActions(reader));
  let otherwise: ActionSyntax[] = [];
  if (isWord(reader, 'else')) {
    take(reader);
    otherwise = deeper(reader, () => readActions(reader));
  }
  const end = (otherwise.at(-1) ?? then.at(-1)!).span.end;
  return { kind: 'if', condition, then, otherwise, span: { start, end } };
}

/** flags := (';' 'flags' name+)? */
function readFlags(reader: Reader): { name: string; span: Span }[] {
  if (!isSign(reader, ';')) return [];
  take(reader);
  if (!isWord(reader, 'flags')) fail(reader, '“flags” and the names of flags');
  take(reader);
  const flags: { name: string; span: Span }[] = [];
  while (peek(reader).kind === 'name') {
    const { text, span } = take(reader);
    flags.push({ name: text, span });
  }
  if (flags.length === 0) fail(reader, 'the name of a flag');
  return flags;
}

/** expr := unary (operator unary)*, by binding strength, from the left. */
function readExpr(reader: Reader, weakest = 1): ExprSyntax {
  return deeper(reader, () => {
    let left = readUnary(reader);
    for (;;) {
      const operator = peek(reader).kind === 'sign' ? (peek(reader).text as BinaryOperator) : undefined;
      const strength = operator && STRENGTH[operator];
      if (!operator || !strength || strength < weakest) return left;
      take(reader);
      const right = readExpr(reader, strength + 1);
      left = { kind: 'binary', operator, left, right, span: { start: left.span.start, end: right.span.end } };
    }
  });
}

/** unary := ('~' | '-') unary | atom */
function readUnary(reader: Reader): ExprSyntax {
  if (!isSign(reader, '~') && !isSign(reader, '-')) return readAtom(reader);
  const sign = take(reader);
  const operand = deeper(reader, () => readUnary(reader));
  const span = { start: sign.span.start, end: operand.span.end };
  return { kind: 'unary', operator: sign.text as UnaryOperator, operand, span };
}

/** atom := number | '(' expr ')' | name '(' expr (',' expr)* ')' | name ('.' name | '[' expr ']' | '[' number ':' number ']')? */
function readAtom(reader: Reader): ExprSyntax {
  const token = peek(reader);
  if (token.kind === 'number') return { kind: 'number', value: numberOf(reader, take(reader)), span: token.span };
  if (isSign(reader, '(')) {
    take(reader);
    const inner = readExpr(reader);
    takeSign(reader, ')');
    return inner;
  }
  if (token.kind !== 'name') fail(reader, 'a name or a number');
  take(reader);
  if (isSign(reader, '.')) return readPart(reader, token);
  if (isSign(reader, '[')) return readBrackets(reader, token);
  if (isSign(reader, '(')) return readCall(reader, token);
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

function readBrackets(reader: Reader, token: Token): ExprSyntax {
  take(reader);
  const index = readExpr(reader);
  if (!isSign(reader, ':')) {
    const { end } = takeSign(reader, ']').span;
    return { kind: 'index', name: token.text, index, span: { start: token.span.start, end } };
  }
  take(reader);
  const low = readExpr(reader);
  const { end } = takeSign(reader, ']').span;
  if (index.kind !== 'number' || low.kind !== 'number') {
    reader.at -= 2;
    fail(reader, 'a slice with two plain numbers, such as [7:4]');
  }
  const span = { start: token.span.start, end };
  return { kind: 'slice', name: token.text, high: index.value, low: low.value, span };
}

function numberOf(reader: Reader, token: Token): number {
  const value = readNumber(token.text);
  if (value !== undefined && value < 2 ** 32) return value;
  reader.problems.push({ code: 'bad-number', grade: 'error', span: token.span, text: token.text });
  throw new Stop();
}

function deeper<T>(reader: Reader, read: () => T): T {
  if (++reader.depth > MAX_DEPTH) {
    reader.problems.push({ code: 'too-deep', grade: 'error', span: peek(reader).span });
    throw new Stop();
  }
  const result = read();
  reader.depth--;
  return result;
}

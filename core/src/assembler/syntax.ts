/** Splits assembly lines into statements: label, operation, operands. Knows mnemonics only as a set of words. */
import { nearest } from '../text/nearest';
import { readNumber } from '../text/number';
import type { Span } from '../text/source';
import type { AssemblyProblem } from './problems';

export interface Token {
  readonly kind: 'name' | 'number' | 'character' | 'text' | 'sign' | 'directive' | 'end';
  readonly text: string;
  /** Code of a character literal, or characters of a text. */
  readonly codes?: readonly number[];
  readonly start: number;
  readonly end: number;
}

export type Expression = { readonly span: Span } & (
  | { readonly kind: 'number'; readonly value: number }
  | { readonly kind: 'name'; readonly name: string }
  | { readonly kind: 'negate'; readonly operand: Expression }
  | { readonly kind: 'sum'; readonly operator: '+' | '-'; readonly left: Expression; readonly right: Expression }
);

export interface Word {
  readonly text: string;
  readonly span: Span;
}

/** One line. `rest` are the tokens behind the operation, closed by an `end` token. */
export interface Statement {
  readonly line: number;
  readonly label?: Word;
  /** On a wrong line: the first word, which may have been meant as a label; using it causes no second problem. */
  readonly meant?: Word;
  readonly kind: 'blank' | 'operation' | 'directive' | 'constant' | 'wrong';
  readonly operation?: Word;
  readonly rest: readonly Token[];
  readonly span: Span;
}

const TOKEN =
  /[ \t\r]+|(;.*)|(\.[A-Za-z]\w*)|([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)?)|([0-9]\w*)|('(?:\\.|[^'\\\n])'|'''|'\\?)|("(?:\\.|[^"\\\n])*"?)|([\s\S])/y;
const ESCAPES: Readonly<Record<string, number>> = { n: 10, t: 9, r: 13, '0': 0, "'": 39, '"': 34, '\\': 92 };
const KINDS = ['', '', 'directive', 'name', 'number', 'character', 'text', 'sign'] as const;

/** A remark and blanks yield no token. Mistakes inside a token are reported at once. */
export function tokenizeLine(text: string, base: number, problems: AssemblyProblem[]): Token[] {
  const tokens: Token[] = [];
  TOKEN.lastIndex = 0;
  let end = text.length;
  while (TOKEN.lastIndex < text.length) {
    const at = TOKEN.lastIndex;
    const match = TOKEN.exec(text);
    if (!match) break;
    const group = match.findIndex((each, index) => index > 0 && each !== undefined);
    if (group === 1) {
      end = at;
      break;
    }
    if (group === -1) continue;
    const span = { start: base + at, end: base + TOKEN.lastIndex };
    const kind = KINDS[group] as Token['kind'];
    const quoted = kind === 'character' || kind === 'text';
    // A wrong text or character stays a token with a stand-in value, so that it causes no second problem.
    const codes = quoted ? (codesOf(match[0], kind, span, problems) ?? [0]) : undefined;
    tokens.push({ kind, text: match[0], ...span, ...(codes && { codes }) });
  }
  const stop = base + text.slice(0, end).trimEnd().length;
  tokens.push({ kind: 'end', text: '', start: stop, end: stop });
  return tokens;
}

function codesOf(text: string, kind: Token['kind'], span: Span, problems: AssemblyProblem[]): number[] | undefined {
  const mark = text[0]!;
  const closed = text.length > 1 && text.endsWith(mark) && text !== "'\\";
  if (!closed) {
    problems.push({ code: 'quote-open', grade: 'error', span, what: kind === 'text' ? 'text' : 'character' });
    return undefined;
  }
  const codes: number[] = [];
  const inner = text.slice(1, -1);
  for (let at = 0; at < inner.length; at++) {
    const escaped = inner[at] === '\\' && at + 1 < inner.length;
    const code = escaped ? ESCAPES[inner[++at]!] : inner.charCodeAt(at);
    if (code === undefined) {
      problems.push({ code: 'unknown-escape', grade: 'error', span, text: `\\${inner[at]}` });
      return undefined;
    }
    codes.push(code);
  }
  return codes;
}

const DIRECTIVES = ['.origin', '.cells', '.text', '.room', '.space'];

/** `mnemonics` are in capitals. statement := (label ':'?)? (operation … | '.directive' … | '=' …)? */
export function parseStatement(
  line: number,
  tokens: readonly Token[],
  mnemonics: ReadonlySet<string>,
  problems: AssemblyProblem[],
): Statement {
  const span = { start: tokens[0]!.start, end: tokens.at(-1)!.end };
  const isOperation = (token: Token | undefined): boolean => token?.kind === 'name' && mnemonics.has(token.text.toUpperCase());
  let at = 0;
  let label: Word | undefined;
  const [first, second] = tokens as [Token, Token | undefined];
  if (first.kind === 'name' && second?.text === ':') at = 2;
  else if (first.kind === 'name' && !isOperation(first) && startsAfterLabel(first, second, isOperation, mnemonics)) at = 1;
  if (at > 0) label = wordOf(first);
  const head = tokens[at]!;
  const rest = tokens.slice(at + 1);
  const meant = !label && head.kind === 'name' && !isOperation(head) ? wordOf(head) : undefined;
  const shared = { line, span, ...(label && { label }), ...(meant && { meant }) };
  if (head.kind === 'end') return { ...shared, kind: 'blank', rest: [] };
  if (head.text === '=' && label) return { ...shared, kind: 'constant', rest };
  if (head.kind === 'directive') return directive(shared, head, rest, problems);
  if (isOperation(head)) return { ...shared, kind: 'operation', operation: wordOf(head), rest };
  if (head.kind === 'name') {
    const near = nearest(head.text, [...mnemonics, ...DIRECTIVES]);
    const mend = near && { title: `Write ${near}`, edits: [{ span: wordOf(head).span, text: near }] };
    problems.push({
      code: 'unknown-operation',
      grade: 'error',
      span: wordOf(head).span,
      name: head.text,
      ...(near && { nearest: near }),
      ...(mend && { mend }),
    });
  } else {
    problems.push({ code: 'line-starts-wrong', grade: 'error', span: wordOf(head).span, text: head.text });
  }
  return { ...shared, kind: 'wrong', rest: [] };
}

function startsAfterLabel(
  first: Token,
  second: Token | undefined,
  isOperation: (token: Token | undefined) => boolean,
  mnemonics: ReadonlySet<string>,
): boolean {
  if (second?.kind === 'directive' || second?.text === '=' || isOperation(second)) return true;
  const misspelt = nearest(first.text, mnemonics) !== undefined;
  if (second?.kind === 'end') return !misspelt;
  return second?.kind === 'name' && !misspelt && nearest(second.text, mnemonics) !== undefined;
}

function directive(
  shared: Pick<Statement, 'line' | 'span' | 'label'>,
  head: Token,
  rest: readonly Token[],
  problems: AssemblyProblem[],
): Statement {
  const text = head.text.toLowerCase();
  const span = { start: head.start, end: head.end };
  if (DIRECTIVES.includes(text)) return { ...shared, kind: 'directive', operation: { text, span }, rest };
  const near = nearest(text, DIRECTIVES);
  const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
  problems.push({
    code: 'unknown-operation',
    grade: 'error',
    span,
    name: head.text,
    ...(near && { nearest: near }),
    ...(mend && { mend }),
  });
  return { ...shared, kind: 'wrong', rest: [] };
}

export const wordOf = (token: Token): Word => ({ text: token.text, span: { start: token.start, end: token.end } });

export interface Reader {
  readonly tokens: readonly Token[];
  at: number;
}

const MOST_TERMS = 200;

/**
 * expression := term (('+' | '-') term)*, up to the tokens `stop`, which belong to the written form. Undefined, with a problem told, where none stands. Leaves `reader` behind it.
 */
export function readExpression(reader: Reader, problems: AssemblyProblem[], stop: readonly string[] = []): Expression | undefined {
  const stops = (): boolean => stop.length > 0 && stop.every((each, at) => reader.tokens[reader.at + at]?.text.toUpperCase() === each);
  let left = readTerm(reader, problems);
  for (let count = 0; left && count < MOST_TERMS; count++) {
    const sign = reader.tokens[reader.at]!;
    if ((sign.text !== '+' && sign.text !== '-') || stops()) return left;
    reader.at++;
    const right = readTerm(reader, problems);
    if (!right) return undefined;
    left = { kind: 'sum', operator: sign.text, left, right, span: { start: left.span.start, end: right.span.end } };
  }
  return left;
}

/** term := ('-' | '+')* (number | character | name) */
function readTerm(reader: Reader, problems: AssemblyProblem[]): Expression | undefined {
  const { start } = reader.tokens[reader.at]!;
  let negative = false;
  for (; '+-'.includes(reader.tokens[reader.at]!.text || 'none'); reader.at++) {
    if (reader.tokens[reader.at]!.text === '-') negative = !negative;
  }
  const token = reader.tokens[reader.at]!;
  const atom = readAtom(token, problems);
  if (!atom) return undefined;
  reader.at++;
  return negative ? { kind: 'negate', operand: atom, span: { start, end: token.end } } : atom;
}

function readAtom(token: Token, problems: AssemblyProblem[]): Expression | undefined {
  const span = { start: token.start, end: token.end };
  if (token.kind === 'name') return { kind: 'name', name: token.text, span };
  if (token.kind === 'character') return { kind: 'number', value: token.codes![0]!, span };
  if (token.kind === 'number') {
    const value = readNumber(token.text);
    if (value !== undefined) return { kind: 'number', value, span };
    const hex = /^[0-9A-Fa-f]+$/.test(token.text) ? `0x${token.text.toUpperCase()}` : undefined;
    const mend = hex && { title: `Write ${hex}`, edits: [{ span, text: hex }] };
    problems.push({ code: 'bad-number', grade: 'error', span, text: token.text, ...(hex && { hex }), ...(mend && { mend }) });
    return undefined;
  }
  const found = token.kind === 'end' ? 'the line ends' : `“${token.text}” stands here`;
  problems.push({ code: 'value-expected', grade: 'error', span, found });
  return undefined;
}

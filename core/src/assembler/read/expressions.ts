/** Values as people write them, as a tree. */
import type { Span } from '../../text/source';
import type { AssemblyProblem } from '../problems';
import type { Reader, Spelled, Spelling } from './tokens';

export const OPERATORS = ['|', '^', '&', '<<', '>>', '+', '-', '*', '/', '%'] as const;
export type Operator = (typeof OPERATORS)[number];

/** A name where a value stands. */
export interface Name extends Spelling {
  readonly kind: 'name';
  readonly span: Span;
}

export type Expression = { readonly span: Span } & (
  | { readonly kind: 'number'; readonly value: number; readonly text: string }
  | Name
  | { readonly kind: 'unary'; readonly operator: '-' | '~'; readonly operand: Expression }
  | { readonly kind: 'binary'; readonly operator: Operator; readonly left: Expression; readonly right: Expression }
  /** Digits of a value that fit one cell, or those above them. */
  | { readonly kind: 'part'; readonly part: 'low' | 'high'; readonly operand: Expression }
);

/** How tightly each operator holds; a name of one operator only, so that `- -` and `<<` are no puzzle. */
const STRENGTH: ReadonlyMap<string, number> = new Map([
  ['|', 1],
  ['^', 2],
  ['&', 3],
  ['<<', 4],
  ['>>', 4],
  ['+', 5],
  ['-', 5],
  ['*', 6],
  ['/', 6],
  ['%', 6],
]);

const MOST_TERMS = 300;
const MOST_NESTING = 60;

const NOTHING: readonly string[] = [];

class ExpressionReader {
  private terms = 0;
  private nesting = 0;

  constructor(
    private readonly reader: Reader,
    private readonly problems: AssemblyProblem[] | null,
    private readonly stop: readonly string[],
  ) {}

  read(least: number): Expression | undefined {
    let left = this.term();
    while (left) {
      const sign = this.reader.word();
      const strength = sign.kind === 'sign' ? STRENGTH.get(sign.text) : undefined;
      if (strength === undefined || strength < least || (this.nesting === 0 && this.stops())) return left;
      this.reader.at++;
      const right = this.read(strength + 1);
      if (!right) return undefined;
      left = { kind: 'binary', operator: sign.text as Operator, left, right, span: { start: left.span.start, end: right.span.end } };
    }
    return undefined;
  }

  /** The tokens here belong to the written form. */
  private stops(): boolean {
    const { stop, reader } = this;
    return stop.length > 0 && stop.every((each, at) => reader.word(at).key === each);
  }

  /** term := ('-' | '+' | '~')* (number | character | name | '(' expression ')' | ('low' | 'high') '(' expression ')') */
  private term(): Expression | undefined {
    const { reader } = this;
    const word = reader.word();
    const { start } = reader;
    if (++this.terms > MOST_TERMS || this.nesting > MOST_NESTING) return this.wrong('too-long');
    if (word.kind === 'sign' && (word.text === '-' || word.text === '~' || word.text === '+')) {
      reader.at++;
      this.nesting++;
      const operand = this.term();
      this.nesting--;
      if (!operand || word.text === '+') return operand;
      return { kind: 'unary', operator: word.text, operand, span: { start, end: operand.span.end } };
    }
    const part = (word.key === 'LOW' || word.key === 'HIGH') && reader.word(1).text === '(';
    if (part || word.text === '(') {
      reader.at += part ? 2 : 1;
      this.nesting++;
      const inner = this.read(1);
      this.nesting--;
      if (!inner) return undefined;
      if (reader.word().text !== ')') return this.wrong('bracket');
      const span = { start, end: reader.end };
      reader.at++;
      return part ? { kind: 'part', part: word.key === 'LOW' ? 'low' : 'high', operand: inner, span } : { ...inner, span };
    }
    return atom(reader) ?? this.noAtom(word);
  }

  private noAtom({ kind, text }: Spelled): undefined {
    if (kind !== 'number') return this.wrong('value');
    const { span } = this.reader;
    // Decimal digits that are no number stand on a line of a smaller base.
    const marked = /^[0-9_]+$/.test(text) ? `0d${text}` : `0x${text.toUpperCase()}`;
    const hex = /^[0-9A-Fa-f_]+$/.test(text) ? marked : marksBefore(text);
    const mend = hex && { title: `Write ${hex}`, edits: [{ span, text: hex }] };
    this.problems?.push({ code: 'bad-number', grade: 'error', span, text, ...(hex && { hex }), ...(mend && { mend }) });
    return undefined;
  }

  private wrong(what: 'value' | 'bracket' | 'too-long'): undefined {
    if (!this.problems) return undefined;
    const { span } = this.reader;
    const { kind, text } = this.reader.word();
    const found = kind === 'end' ? 'the line ends' : `“${text}” stands here`;
    if (what === 'value') this.problems.push({ code: 'value-expected', grade: 'error', span, found });
    else if (what === 'bracket') this.problems.push({ code: 'bracket-open', grade: 'error', span, found });
    else this.problems.push({ code: 'value-too-long', grade: 'error', span });
    return undefined;
  }
}

/** A number whose base stands behind it, as with other machines, and how it is written here. */
function marksBefore(text: string): string | undefined {
  const [, hex, octal] = /^(?:([0-9A-F_]+)H|([0-7_]+)[OQ])$/.exec(text.toUpperCase()) ?? [];
  return hex !== undefined ? `0x${hex}` : octal !== undefined ? `0o${octal}` : undefined;
}

/**
 * Values with operators, up to the tokens `stop`, which belong to the written form. From strong to weak: `- ~` before
 * one value; `* / %`; `+ -`; `<< >>`; `&`; `^`; `|`. Undefined, with a problem told where `problems` is given, where
 * none stands. Leaves `reader` behind it.
 */
export function readExpression(
  reader: Reader,
  problems: AssemblyProblem[] | null,
  stop: readonly string[] = NOTHING,
): Expression | undefined {
  // Most operands are one number or one name.
  return (reader.word(1).kind === 'end' ? atom(reader) : undefined) ?? new ExpressionReader(reader, problems, stop).read(1);
}

/** A name, a number or a character; the reader is left behind it. */
function atom(reader: Reader): Expression | undefined {
  const { kind, text, key, value } = reader.word();
  if (kind !== 'name' && (value === undefined || (kind !== 'number' && kind !== 'character'))) return undefined;
  const { span } = reader;
  reader.at++;
  return kind === 'name' ? { kind, text, key, span } : { kind: 'number', value: value!, text, span };
}

/** Every name that a value is made of. */
export function namesIn(expression: Expression): Name[] {
  switch (expression.kind) {
    case 'name':
      return [expression];
    case 'number':
      return [];
    case 'unary':
    case 'part':
      return namesIn(expression.operand);
    case 'binary':
      return [...namesIn(expression.left), ...namesIn(expression.right)];
    default:
      return expression satisfies never;
  }
}

/** Tokens to statements: label, operation, operands. Knows mnemonics only as a set of words. */
import { hasLetters, nearest } from '../../text/nearest';
import type { NumberRules } from '../../text/number';
import type { Source, Span } from '../../text/source';
import { DIRECTIVE_NAMES, isDirective } from './directives';
import type { AssemblyProblem } from '../problems';
import { remarkMark } from './tokenize';
import { Reader, type Spelled, type Spelling, type Token, type Tokens } from './tokens';

export interface Word extends Spelling {
  readonly span: Span;
}

/** A text that is assembled: the program's own, or a part that it takes in. */
export interface Unit {
  readonly source: Source;
  /** Of a part: its name, and the line of the program that takes it in. */
  readonly part?: string;
  readonly line: number;
  /** What is added to the text's offsets to give spans. */
  readonly offset: number;
  /** Words of its lines. */
  readonly tokens: Tokens;
}

type StatementKind = 'blank' | 'operation' | 'directive' | 'constant' | 'wrong';

/** One line: a label, an operation, and what stands behind it. Its words are in the columns of its text. */
export class Statement {
  /** On a wrong line: the first word, which may have been meant as a label; using it causes no second problem. */
  meant: Word | undefined = undefined;
  /** The label is all that the line has, without a colon: perhaps no label at all. */
  alone = false;
  /** What an instruction was found to mean, which does not change from pass to pass; for whoever matches it. */
  found: object | null | undefined = undefined;

  constructor(
    readonly unit: Unit,
    readonly line: number,
    readonly rules: NumberRules,
    readonly kind: StatementKind,
    /** Places of its words: the first, the operation or what stands in its place, and behind the last. */
    private readonly first: number,
    private readonly head: number,
    readonly last: number,
  ) {}

  get start(): number {
    return this.unit.tokens.startOf(this.first);
  }

  get end(): number {
    return this.unit.tokens.endOf(this.last - 1);
  }

  get span(): Span {
    return { start: this.start, end: this.end };
  }

  get label(): Word | undefined {
    return this.isLabelled ? this.unit.tokens.at(this.first) : undefined;
  }

  get isLabelled(): boolean {
    return this.head > this.first;
  }

  private get operates(): boolean {
    return this.kind === 'operation' || this.kind === 'directive';
  }

  get operation(): Word | undefined {
    return this.operates ? this.unit.tokens.at(this.head) : undefined;
  }

  /** The operation as it is looked up: in capitals, a directive in small letters; empty where there is none. */
  get key(): string {
    return this.operates ? this.unit.tokens.wordAt(this.head).key : '';
  }

  /** Place of the first word behind the operation. */
  get behind(): number {
    return this.head + 1;
  }

  /** Whether nothing stands behind the operation. */
  get isBare(): boolean {
    return this.behind === this.last;
  }

  /** Reads what stands behind the operation. */
  reader(): Reader {
    return new Reader(this.unit.tokens, this.behind, this.last);
  }

  /** What stands behind the operation, closed by an `end` token; made anew at each request. */
  get rest(): Token[] {
    return this.unit.tokens.list(this.behind, this.last);
  }
}

export type Line = Pick<Statement, 'unit' | 'line' | 'rules'>;

/**
 * The last tokens of a text, from one place on, as a statement. `mnemonics` are in capitals.
 * statement := (label ':'?)? (operation … | '.directive' … | '=' …)?
 */
export function parseStatement(line: Line, from: number, mnemonics: ReadonlySet<string>, problems: AssemblyProblem[]): Statement {
  const { unit, line: number, rules } = line;
  const { tokens } = unit;
  const last = tokens.count;
  const first = tokens.wordAt(from);
  const operates = first.kind === 'name' && mnemonics.has(first.key);
  let at = from;
  if (first.kind === 'name') {
    const second = tokens.wordAt(from + 1);
    if (second.text === ':') at += 2;
    else if (operates) at += second.kind === 'directive' || second.text === '=' ? 1 : 0;
    else if (startsAfterLabel(first, second, mnemonics)) at += 1;
  }
  const head = tokens.wordAt(at);
  if (operates && at > from) nameIsOperation(tokens.at(from), head, at < last ? tokens.startOf(at) : tokens.endOf(last - 1), problems);
  if (head.kind === 'end') {
    const blank = new Statement(unit, number, rules, 'blank', from, last, last);
    blank.alone = last - from === 1;
    return blank;
  }
  const kind = kindOf(head, at > from, mnemonics);
  const statement = new Statement(unit, number, rules, kind, from, at, last);
  if (kind === 'wrong') {
    const [wrong, next] = [tokens.at(at), tokens.wordAt(at + 1)];
    problems.push(headProblem(wrong, next, mnemonics, problems.length < 200));
    if (at === from && head.kind === 'name') statement.meant = wrong;
  }
  return statement;
}

function kindOf(head: Spelled, labelled: boolean, mnemonics: ReadonlySet<string>): StatementKind {
  if (head.kind === 'name' && mnemonics.has(head.key)) return 'operation';
  if (head.kind === 'directive' && isDirective(head.key)) return 'directive';
  return head.text === '=' && labelled ? 'constant' : 'wrong';
}

/** What is wrong with a word where an operation should stand. */
function headProblem(head: Token, next: Spelled, mnemonics: ReadonlySet<string>, nearest: boolean): AssemblyProblem {
  if (head.kind === 'directive' || head.kind === 'name') return unknownWord(head, mnemonics, nearest);
  if (head.text === '=') return { code: 'constant-without-name', grade: 'error', span: head.span };
  if (/^(?:[#*!@%]|--)/.test(head.text + next.text)) return remarkMark(head.text === '-' ? '--' : head.text, head.start);
  return { code: 'line-starts-wrong', grade: 'error', span: head.span, text: head.text };
}

/** `halt:` alone is most likely the operation with a colon too much; before an operation it is only a poor name. */
function nameIsOperation({ text, span }: Word, head: Spelled, to: number, problems: AssemblyProblem[]): void {
  if (head.kind !== 'end') return void problems.push({ code: 'operation-as-label', grade: 'warning', span, name: text });
  const colon = { start: span.end, end: to };
  const mend = { title: 'Take the colon away', edits: [{ span: colon, text: '' }] };
  problems.push({ code: 'operation-with-colon', grade: 'error', span, name: text, mend });
}

function startsAfterLabel(first: Spelled, second: Spelled, mnemonics: ReadonlySet<string>): boolean {
  if (second.kind === 'directive' || second.text === '=' || (second.kind === 'name' && mnemonics.has(second.key))) return true;
  if (second.kind === 'end') return true;
  if (second.kind !== 'name' || first.text.includes('.')) return false;
  return !isMisspelt(first, mnemonics, 1) && isMisspelt(second, mnemonics, 2);
}

/** Names with digits of their own are names: add1 is no misspelt ADD. */
export const isMisspelt = ({ text }: { readonly text: string }, mnemonics: ReadonlySet<string>, limit: number): boolean => {
  const near = nearest(text, mnemonics, text.length <= 3 ? 1 : limit);
  return near !== undefined && (/\d/.test(near) || !/[\d_]/.test(text));
};

/** The one directive that a shorter one is the beginning of, as .str, or has the letters of in their order, as .org. */
function longerOf(text: string, ofLetters: boolean): string | undefined {
  const small = text.toLowerCase();
  const like = (each: string): boolean => each.startsWith(small.slice(0, 2)) && hasLetters(each, small);
  const all = DIRECTIVE_NAMES.filter((each) => (ofLetters ? like(each) : each.startsWith(small)));
  return text.length > 3 && all.length === 1 ? all[0] : undefined;
}

/** An operation, or a directive, that there is not. */
export function unknownWord(
  word: Pick<Token, 'span' | 'text' | 'key' | 'kind'>,
  mnemonics: ReadonlySet<string>,
  most = true,
): AssemblyProblem {
  const { span, text, key, kind } = word;
  const known = kind === 'directive' ? DIRECTIVE_NAMES : mnemonics;
  const plain = (): string | undefined => DIRECTIVE_NAMES.find((each) => each.slice(1) === text.toLowerCase());
  const near = most
    ? kind === 'directive'
      ? (longerOf(text, false) ?? nearest(key, known) ?? longerOf(text, true))
      : (plain() ?? nearest(text, known))
    : undefined;
  const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
  return { code: 'unknown-operation', grade: 'error', span, name: text, ...(near && { nearest: near }), ...(mend && { mend }) };
}

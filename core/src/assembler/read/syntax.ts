/** Tokens to statements: label, operation, operands. Knows mnemonics only as a set of words. */
import { nearest } from '../../text/nearest';
import type { NumberRules } from '../../text/number';
import type { Source, Span } from '../../text/source';
import { DIRECTIVE_NAMES, isDirective } from './directives';
import type { AssemblyProblem } from '../problems';
import { remarkMark, Token, type KeptTokens, type Spelling } from './tokens';
import { itemAt } from '../../text/itemAt';

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
  readonly kept: KeptTokens;
}

type StatementKind = 'blank' | 'operation' | 'directive' | 'constant' | 'wrong';

/** One line, which keeps its words in its text's columns: a label, an operation, and what stands behind it. */
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
    readonly start: number,
    readonly end: number,
    /** Of its words, in the text's columns: the first, the first behind the operation, and behind the last. */
    private readonly first: number,
    readonly behind: number,
    readonly last: number,
  ) {}

  get span(): Span {
    return { start: this.start, end: this.end };
  }

  private get operates(): boolean {
    return this.kind === 'operation' || this.kind === 'directive';
  }

  get label(): Word | undefined {
    return this.behind - this.first > (this.operates ? 1 : 0) ? this.unit.kept.at(this.first) : undefined;
  }

  get operation(): Word | undefined {
    return this.operates ? this.unit.kept.at(this.behind - 1) : undefined;
  }

  /** The operation as it is looked up: in capitals, a directive in small letters; empty where there is none. */
  get key(): string {
    return this.operates ? this.unit.kept.wordAt(this.behind - 1).key : '';
  }

  /** Whether nothing stands behind the operation. */
  get isBare(): boolean {
    return this.behind === this.last;
  }

  /** What stands behind the operation, closed by an `end` token; made anew at each request. */
  get rest(): Token[] {
    const tokens: Token[] = [];
    for (let at = this.behind; at < this.last; at++) tokens.push(this.unit.kept.at(at));
    tokens.push(Token.end(this.end));
    return tokens;
  }
}

export type Line = Pick<Statement, 'unit' | 'line' | 'rules'>;

/** `mnemonics` are in capitals. statement := (label ':'?)? (operation … | '.directive' … | '=' …)? */
export function parseStatement(line: Line, tokens: Token[], mnemonics: ReadonlySet<string>, problems: AssemblyProblem[]): Statement {
  const first = itemAt(tokens, 0);
  const second = tokens[1];
  const { unit, line: number, rules } = line;
  let at = 0;
  let label: Token | undefined;
  const operates = first.kind === 'name' && mnemonics.has(first.key);
  if (first.kind === 'name') {
    if (second!.text === ':') at = 2;
    else if (operates) at = second!.kind === 'directive' || second!.text === '=' ? 1 : 0;
    else if (startsAfterLabel(first, second!, mnemonics)) at = 1;
  }
  if (at > 0) label = first;
  const head = itemAt(tokens, at);
  if (operates && label) nameIsOperation(label, head, problems);
  const { end } = itemAt(tokens, tokens.length - 1);
  const made = (kind: StatementKind, operation?: Token): Statement => {
    const { kept } = unit;
    const from = kept.count;
    if (label) kept.keep(label);
    if (operation) kept.keep(operation);
    const behind = kept.count;
    for (let each = at + 1; each < tokens.length - 1; each++) kept.keep(itemAt(tokens, each));
    return new Statement(unit, number, rules, kind, first.start, end, from, behind, kept.count);
  };
  if (head.kind === 'end') {
    const blank = made('blank');
    blank.alone = label !== undefined && second!.kind === 'end';
    return blank;
  }
  if (head.kind === 'name' && mnemonics.has(head.key)) return made('operation', head);
  if (head.kind === 'directive' && isDirective(head.key)) return made('directive', head);
  if (head.text === '=' && label) return made('constant');
  if (head.kind === 'directive' || head.kind === 'name') problems.push(unknownWord(head, mnemonics, problems.length < 200));
  else if (head.text === '=') problems.push({ code: 'constant-without-name', grade: 'error', span: head.span });
  else if (/^(?:[#*!@%]|--)/.test(head.text + tokens[at + 1]!.text))
    problems.push(remarkMark(head.text === '-' ? '--' : head.text, head.start));
  else problems.push({ code: 'line-starts-wrong', grade: 'error', span: head.span, text: head.text });
  const wrong = made('wrong');
  wrong.meant = !label && head.kind === 'name' ? head : undefined;
  return wrong;
}

/** `halt:` alone is most likely the operation with a colon too much; before an operation it is only a poor name. */
function nameIsOperation({ text, span }: Word, head: Token, problems: AssemblyProblem[]): void {
  if (head.kind !== 'end') return void problems.push({ code: 'operation-as-label', grade: 'warning', span, name: text });
  const colon = { start: span.end, end: head.start };
  const mend = { title: 'Take the colon away', edits: [{ span: colon, text: '' }] };
  problems.push({ code: 'operation-with-colon', grade: 'error', span, name: text, mend });
}

function startsAfterLabel(first: Token, second: Token, mnemonics: ReadonlySet<string>): boolean {
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

/** An operation, or a directive, that there is not. */
export function unknownWord(word: Token, mnemonics: ReadonlySet<string>, most = true): AssemblyProblem {
  const { span, text, key, kind } = word;
  const known = kind === 'directive' ? DIRECTIVE_NAMES : mnemonics;
  const plain = (): string | undefined => DIRECTIVE_NAMES.find((each) => each.slice(1) === text.toLowerCase());
  const near = most ? (plain() ?? nearest(kind === 'directive' ? key : text, known)) : undefined;
  const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
  return { code: 'unknown-operation', grade: 'error', span, name: text, ...(near && { nearest: near }), ...(mend && { mend }) };
}

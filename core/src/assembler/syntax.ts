/** Tokens to statements: label, operation, operands. Knows mnemonics only as a set of words. */
import { nearest } from '../text/nearest';
import type { NumberRules } from '../text/number';
import type { Source, Span } from '../text/source';
import { DIRECTIVE_NAMES, isDirective } from './directives';
import type { AssemblyProblem } from './problems';
import type { Token } from './tokens';

export interface Word {
  readonly text: string;
  /** In capitals. */
  readonly key: string;
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
}

/** One line. `rest` are the tokens behind the operation, closed by an `end` token. */
export interface Statement {
  readonly unit: Unit;
  readonly line: number;
  readonly label?: Word;
  /** On a wrong line: the first word, which may have been meant as a label; using it causes no second problem. */
  readonly meant?: Word;
  /** The label is all that the line has, without a colon: perhaps no label at all. */
  readonly alone?: boolean;
  readonly kind: 'blank' | 'operation' | 'directive' | 'constant' | 'wrong';
  readonly operation?: Word;
  readonly rest: readonly Token[];
  readonly span: Span;
  readonly rules: NumberRules;
}

export type Line = Pick<Statement, 'unit' | 'line' | 'rules'>;

/** `mnemonics` are in capitals. statement := (label ':'?)? (operation … | '.directive' … | '=' …)? */
export function parseStatement(line: Line, tokens: Token[], mnemonics: ReadonlySet<string>, problems: AssemblyProblem[]): Statement {
  const first = tokens[0]!;
  const second = tokens[1];
  const { unit, line: number, rules } = line;
  let at = 0;
  let label: Word | undefined;
  const operates = first.kind === 'name' && mnemonics.has(first.key);
  if (first.kind === 'name') {
    if (second!.text === ':') at = 2;
    else if (operates) at = second!.kind === 'directive' || second!.text === '=' ? 1 : 0;
    else if (startsAfterLabel(first, second!, mnemonics)) at = 1;
  }
  if (at > 0) label = first;
  const head = tokens[at]!;
  if (operates && label) nameIsOperation(label, head, problems);
  const span = { start: first.start, end: tokens[tokens.length - 1]!.end };
  // An array of its own length: a long program keeps one for each line.
  const rest = tokens.slice(at + 1);
  if (head.kind === 'end')
    return label
      ? { unit, line: number, rules, span, label, kind: 'blank', rest: [], ...(second!.kind === 'end' && { alone: true }) }
      : { unit, line: number, rules, span, kind: 'blank', rest: [] };
  if (head.kind === 'name' && mnemonics.has(head.key)) {
    const operation = head;
    return label
      ? { unit, line: number, rules, span, label, kind: 'operation', operation, rest }
      : { unit, line: number, rules, span, kind: 'operation', operation, rest };
  }
  const meant = !label && head.kind === 'name' ? head : undefined;
  const shared = { unit, line: number, rules, span, ...(label && { label }), ...(meant && { meant }) };
  if (head.text === '=' && label) return { ...shared, kind: 'constant', rest };
  if (head.kind === 'directive') return directive(shared, head, rest, problems);
  if (head.kind === 'name') unknownOperation(head, head.text, mnemonics, problems);
  else if (head.text === '=') problems.push({ code: 'constant-without-name', grade: 'error', span: head.span });
  else problems.push({ code: 'line-starts-wrong', grade: 'error', span: head.span, text: head.text });
  return { ...shared, kind: 'wrong', rest: [] };
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
  if (second.kind !== 'name') return false;
  return !isMisspelt(first, mnemonics, 1) && isMisspelt(second, mnemonics, 2);
}

/** Names with digits of their own are names: add1 is no misspelt ADD. */
export const isMisspelt = ({ text }: { readonly text: string }, mnemonics: ReadonlySet<string>, limit: number): boolean => {
  const near = nearest(text, mnemonics, text.length <= 3 ? 1 : limit);
  return near !== undefined && (/\d/.test(near) || !/[\d_]/.test(text));
};

function directive(
  shared: Omit<Statement, 'kind' | 'rest' | 'operation'>,
  head: Token,
  rest: readonly Token[],
  problems: AssemblyProblem[],
): Statement {
  const span = { start: head.start, end: head.end };
  if (isDirective(head.key)) return { ...shared, kind: 'directive', operation: { text: head.key, key: head.key, span }, rest };
  unknownOperation(head, head.key, DIRECTIVE_NAMES, problems);
  return { ...shared, kind: 'wrong', rest: [] };
}

function unknownOperation(head: Token, word: string, known: Iterable<string>, problems: AssemblyProblem[]): void {
  const { span } = head;
  const near =
    problems.length < 200 ? (nearest(word, known) ?? DIRECTIVE_NAMES.find((each) => each.slice(1) === word.toLowerCase())) : undefined;
  const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
  const name = head.text;
  problems.push({ code: 'unknown-operation', grade: 'error', span, name, ...(near && { nearest: near }), ...(mend && { mend }) });
}

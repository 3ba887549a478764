/** Values and texts behind .cells, .text, .string and in instructions with data of their own. */
import type { StringMark } from '../../machine/model/machine';
import { power, unitOf } from '../../text/number';
import type { Span } from '../../text/source';
import { readExpression, type Expression } from '../read/expressions';
import type { Reader, TokenKind } from '../read/tokens';
import { itemAt } from '../../text/itemAt';
import type { AssemblyProblem } from '../problems';
import type { Statement } from '../read/syntax';
import { evaluate, inRange } from './values';
import type { Placement } from './assembly';

export type Item =
  /** Once, unless it says how often. */
  | { readonly kind: 'value'; readonly expression: Expression; readonly times?: number }
  | { readonly kind: 'text'; readonly codes: readonly number[]; readonly mark?: StringMark; readonly span: Span };

/** Values and texts separated by commas, to the end of the line; undefined, with a problem told, where something is wrong. */
export function readItems(reader: Reader, problems: AssemblyProblem[] | null, mark?: StringMark): Item[] | undefined {
  const items: Item[] = [];
  for (;;) {
    const word = reader.word();
    if (word.kind === 'text') {
      items.push({ kind: 'text', codes: word.codes!, ...(mark && { mark }), span: reader.span });
      reader.at++;
    } else {
      const expression = readExpression(reader, problems);
      if (!expression) return undefined;
      items.push({ kind: 'value', expression });
    }
    if (reader.isAtEnd) return items;
    const next = reader.word();
    if (next.text !== ',') {
      problems?.push(noComma(reader));
      return undefined;
    }
    reader.at++;
  }
}

const STARTS: ReadonlySet<TokenKind> = new Set(['number', 'name', 'character', 'text']);

/** What stands behind an item: the next one without a comma, or what does not belong there. */
function noComma(reader: Reader): AssemblyProblem {
  const { text, kind } = reader.word();
  const { span, at } = reader;
  if (!STARTS.has(kind)) return { code: 'left-over', grade: 'error', span, text };
  // As many as follow without a mark between them.
  const edits: { readonly span: Span; readonly text: string }[] = [];
  while (STARTS.has(reader.word().kind)) {
    const { end } = itemAt(reader.tokensFrom(reader.at - 1 - edits.length), edits.length);
    edits.push({ span: { start: end, end }, text: ',' });
    reader.at++;
  }
  reader.at = at;
  const mend = { title: edits.length > 1 ? 'Put commas between them' : `Put a comma before ${text}`, edits };
  return { code: 'comma-missing', grade: 'error', span, text, mend };
}

/** How many cells items take, texts a cell a character. */
export const sizeOfItems = (items: readonly Item[]): number =>
  items.reduce(
    (sum, each) => sum + (each.kind === 'value' ? (each.times ?? 1) : each.codes.length + (each.mark && each.mark.kind !== 'last' ? 1 : 0)),
    0,
  );

/** The cells; undefined, with problems told, where a value is wrong or does not fit. */
export function itemCells(placement: Placement, items: readonly Item[], statement: Statement): number[] | undefined {
  const { radix } = placement.machine;
  const size = power(radix, placement.cellWidth);
  const range = { least: -size / 2, greatest: size - 1, what: `a cell of ${placement.cellWidth} ${unitOf(radix)}`, size };
  const cells: number[] = [];
  let complete = true;
  const put = (value: number | undefined, span: Span, times = 1): void => {
    const fitting = value === undefined ? undefined : inRange(placement, value, { ...range, span });
    if (fitting === undefined) complete = false;
    else for (let turn = 0; turn < times; turn++) cells.push(fitting);
  };
  for (const item of items) {
    if (item.kind === 'value') put(evaluate(placement, item.expression), item.expression.span, item.times);
    else for (const code of marked(placement, item, statement)) put(code, item.span);
  }
  return complete ? cells : undefined;
}

/** The characters with what tells where they end. A text without characters has none to mark. */
function marked(placement: Placement, { codes, mark, span }: Item & { kind: 'text' }, statement: Statement): readonly number[] {
  switch (mark?.kind) {
    case undefined:
      return codes;
    case 'end':
      if (codes.includes(mark.value)) placement.problems.push({ code: 'end-inside-text', grade: 'error', span, value: mark.value });
      return [...codes, mark.value];
    case 'length':
      return [codes.length, ...codes];
    case 'last': {
      const last = codes.at(-1);
      if (last === undefined) placement.problems.push({ code: 'text-empty', grade: 'error', span: statement.span });
      return last === undefined ? [] : [...codes.slice(0, -1), last + power(placement.machine.radix, mark.digit)];
    }
    default:
      return mark satisfies never;
  }
}

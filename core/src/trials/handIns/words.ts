/** A program's lines as words with their places, for whoever changes one word and assembles again. */
import { tokenizeLine } from '../../assembler/read/tokenize';
import type { Token } from '../../assembler/read/tokens';
import { templatesOf, type Template } from '../../assembler/place/templates';
import { numberRules } from '../../machine/model/numbers';
import type { Machine } from '../../machine/model/machine';

/** One line with its words; their places count from the beginning of the text. */
export interface WordLine {
  /** From 1. */
  readonly line: number;
  readonly tokens: readonly Token[];
  /** The word that names the operation, where there is one. */
  readonly operation: Token | undefined;
  /** What stands behind it, up to the end of the line or the remark. */
  readonly operands: readonly Token[];
  /** Where the line's text ends. */
  readonly end: number;
}

/** Every line of a text. */
export function wordLines(machine: Machine, text: string): WordLine[] {
  const { mnemonics } = templatesOf(machine);
  const rules = numberRules(machine);
  let offset = 0;
  return text.split('\n').map((line, at): WordLine => {
    const tokens = tokenizeLine(line, offset, rules, []).filter((each) => each.kind !== 'end');
    const place = tokens.findIndex((each) => each.kind === 'name' && mnemonics.has(each.key));
    const end = offset + line.length;
    offset = end + 1;
    return { line: at + 1, tokens, operation: tokens[place], operands: place < 0 ? [] : tokens.slice(place + 1), end };
  });
}

/** What a written form has before and behind its only operand: `#` and nothing of `LOAD #{n}`; undefined of other forms. */
export function marksAround({ pieces }: Template): { readonly before: string; readonly behind: string } | undefined {
  const holes = pieces.flatMap((each, at) => (typeof each === 'string' ? [] : [at]));
  if (holes.length !== 1) return undefined;
  const texts = (list: typeof pieces): string => list.filter((each) => typeof each === 'string').join('');
  return { before: texts(pieces.slice(0, holes[0])), behind: texts(pieces.slice(holes[0]! + 1)) };
}

/** How an operation's operands are written: holes as `{}` between their marks. */
export const shapeOf = ({ pieces }: Template): string => pieces.map((each) => (typeof each === 'string' ? each : '{}')).join(' ');

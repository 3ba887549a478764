/** What can be said about a text without following its execution: unused names, numbers that read twice, open texts. */
import { effectsOf } from '../../machine/model/effects';
import { programSpaceOf } from '../../machine/model/machine';
import { otherReading, readNumber } from '../../text/number';
import { isUnused } from './facts';
import type { Filled } from '../place/fill';
import type { AssemblyProblem } from '../problems';
import type { Statement } from '../read/syntax';
import { takenAddresses } from './addressTaken';
import type { Spelled, Token } from '../read/tokens';
import type { Placement } from '../place/assembly';
import { itemAt } from '../../text/itemAt';

/** Told of every text, with errors or without. */
export function reviewNumbers(placement: Placement, chosen: ReadonlySet<Statement['unit']>): AssemblyProblem[] {
  const problems: AssemblyProblem[] = [];
  const lookAt = (statement: Statement): void => {
    const { unit, behind, last } = statement;
    if (unit.part !== undefined) return;
    for (let at = behind; at < last; at++) {
      const word = unit.tokens.wordAt(at);
      if (word.kind !== 'number' || word.value === undefined || word.text.length < 2) continue;
      const origin = statement.key === '.origin' && last - behind === 1 && !chosen.has(unit);
      const other = otherIn(placement, statement, word, origin);
      if (other !== undefined) problems.push(twoBases(statement, unit.tokens.at(at), other));
    }
  };
  for (const each of placement.statements) lookAt(each);
  if (placement.machine.radix === 10) return problems;
  for (const { form, operands = [], statement, expanded } of placement.placed) {
    if (!form || operands.length === 0 || expanded || chosen.has(statement.unit) || statement.unit.part !== undefined) continue;
    const { addressFields } = effectsOf(placement.machine, form);
    if (addressFields.size === 0) continue;
    for (const each of operands) {
      if (!('expression' in each) || each.expression.kind !== 'number' || !addressFields.has(each.field.name)) continue;
      const { start } = each.expression.span;
      const token = statement.rest.find((one) => one.start === start && one.kind === 'number');
      const other = token && otherIn(placement, statement, token.spelled, true);
      if (other !== undefined && !problems.some((one) => one.span.start === start)) problems.push(twoBases(statement, token!, other));
    }
  }
  return problems;
}

/** An address without a mark may be meant in hexadecimal as long as nobody has said otherwise. */
function otherIn({ machine }: Placement, { rules }: Statement, { text, value }: Spelled, address: boolean): number | undefined {
  const other = otherReading(text, rules);
  if (other !== undefined || !address || machine.radix === 10 || rules.base !== 10 || !/^[0-9_]+$/.test(text)) return other;
  const hex = readNumber(`0x${text}`);
  return hex === value || hex! >= programSpaceOf(machine).cells ? undefined : hex;
}

function twoBases({ rules }: Statement, { text, value, start, end }: Token, other: number): AssemblyProblem {
  const span = { start, end };
  const mend = { title: `Write 0x${text.toUpperCase()}`, edits: [{ span, text: `0x${text.toUpperCase()}` }] };
  const base = /^0[xX]/.test(text) ? 16 : /^0[bB]/.test(text) ? 2 : rules.base;
  return { code: 'two-bases', grade: 'remark', span, text, value: value!, other, base, ...(readNumber(`0x${text}`) === other && { mend }) };
}

/** Told of texts without errors. */
export const reviewNames = (placement: Placement, filled: Filled, start: number): AssemblyProblem[] => [
  ...unusedNames(placement, start),
  ...openTexts(placement, filled),
];

/** Words of a comment that speak about another routine on purpose. */
const SPEAKS_OF = /\b(?:see|calls?|called|uses?|used|like|unlike|as|for|with|before|after|from|by|to|than|returns?)\b/i;

/**
 * Comments that stand at the head or the end of a routine and name another one, and not their own: copied, most likely.
 * Routines are those that are declared as such, and labels that are called.
 */
export function reviewComments(placement: Placement, called: ReadonlySet<number>): AssemblyProblem[] {
  const own = placement.statements.find((each) => each.unit.part === undefined)?.unit;
  if (!own) return [];
  const { text, lineStarts } = own.source;
  const heads = new Map<number, string>();
  for (const { name, line, end, unit } of placement.routines) if (unit === own) heads.set(line, name).set(end, name);
  for (const { kind, word, unit, line, value, space, routine } of placement.names.values())
    if (kind === 'label' && unit === own && space === undefined && routine === undefined && called.has(value!)) heads.set(line, word.text);
  const names = new Map<string, string>();
  for (const each of heads.values()) if (each.length > 2) names.set(each.toUpperCase(), each);
  if (names.size < 2) return [];
  const lineAt = (line: number): string => text.slice(itemAt(lineStarts, line - 1), (lineStarts[line] ?? text.length + 1) - 1);
  const problems: AssemblyProblem[] = [];
  for (const [head, routine] of heads) {
    for (let line = head; line === head || (line > 0 && !heads.has(line) && /^\s*;/.test(lineAt(line))); line--) {
      const other = anotherIn(lineAt(line), routine, names);
      if (!other) continue;
      const start = itemAt(lineStarts, line - 1) + other.at;
      problems.push({
        code: 'comment-of-another',
        grade: 'remark',
        span: { start, end: start + other.name.length },
        name: other.name,
        routine,
      });
    }
  }
  return problems;
}

/** The first name of another routine in the comment of a line that does not name its own. */
function anotherIn(
  line: string,
  routine: string,
  names: ReadonlyMap<string, string>,
): { readonly name: string; readonly at: number } | undefined {
  const from = line.includes(';') ? /^(?:[^;"']|"[^"]*"|'[^']*')*;/.exec(line)?.[0].length : undefined;
  if (from === undefined) return undefined;
  const comment = line.slice(from);
  if (SPEAKS_OF.test(comment)) return undefined;
  const words = [...comment.matchAll(/[\p{L}\p{M}\p{Nd}_]+/gu)];
  if (words.some(([word]) => word.toUpperCase() === routine.toUpperCase())) return undefined;
  for (const { 0: word, index } of words) {
    const name = names.get(word.toUpperCase());
    if (name !== undefined) return { name, at: from + index };
  }
  return undefined;
}

function unusedNames(placement: Placement, start: number): AssemblyProblem[] {
  const problems: AssemblyProblem[] = [];
  for (const each of placement.names.values())
    if (each.kind !== 'machine' && isUnused(each, start))
      problems.push({ code: 'never-used', grade: 'remark', span: each.word.span, name: each.word.text });
  return problems;
}

/** A text whose address is passed on, without the value that ends it, and with another name behind it. */
function openTexts(placement: Placement, { cells }: Filled): AssemblyProblem[] {
  const { machine } = placement;
  const { strings } = machine.assembly;
  if (strings.kind !== 'end') return [];
  const taken = takenAddresses(placement);
  const texts = placement.placed.filter(
    ({ kind, statement, space, address, expanded }) =>
      kind === 'data' &&
      !expanded &&
      space === machine.programSpace &&
      taken.has(address) &&
      statement.rest.some((each) => each.kind === 'text'),
  );
  if (texts.length === 0) return [];
  const values = new Map(cells.filter((each) => each.space === machine.programSpace).map((each) => [each.address, each.value]));
  const labels = new Map(
    [...placement.names.values()].flatMap((each) =>
      each.kind === 'label' && each.space === undefined ? [[each.value, each.word.text] as const] : [],
    ),
  );
  return texts.flatMap(({ statement, address, size }): AssemblyProblem[] => {
    for (let at = address; ; at++) {
      const value = values.get(at);
      if (value === undefined || value === strings.value) return [];
      const name = at >= address + size ? labels.get(at) : undefined;
      if (name === undefined) continue;
      const last = statement.rest.at(-2)!;
      const mend = {
        title: `Write , ${strings.value} behind it`,
        edits: [{ span: { start: last.end, end: last.end }, text: `, ${strings.value}` }],
      };
      return [{ code: 'text-runs-on', grade: 'warning', span: { start: last.start, end: last.end }, name, end: strings.value, mend }];
    }
  });
}

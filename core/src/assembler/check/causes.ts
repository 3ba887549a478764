/** One cause, one sentence: of several errors in a line the one that the others come from, and at the word that is wrong. */
import { placeAt } from '../../text/source';
import { keyOf, type Placement } from '../place/assembly';
import { unknownWord, type Statement, type Unit } from '../read/syntax';
import type { AssemblyProblem } from '../problems';
import { isDirective } from '../read/directives';
import { spellingOf } from '../read/tokens';
import { itemAt } from '../../text/itemAt';

/** Where one of these stands, nothing else can be said of the line; the first counts most. */
const CAUSES: readonly AssemblyProblem['code'][] = [
  ...(['look-alike', 'quote-open', 'unknown-escape', 'not-one-character', 'remark-mark', 'line-starts-wrong', 'behind-label'] as const),
  ...(['unknown-operation', 'unknown-ending', 'lone-name'] as const),
];

/** A word of a short form may stand in several of the lines that it stands for, and is wrong once. */
export function once(problems: readonly AssemblyProblem[]): readonly AssemblyProblem[] {
  const told = new Set<string>();
  return problems.filter(({ code, grade, span }) => {
    const key = `${code} ${span.start}`;
    if (grade !== 'error' || !told.has(key)) {
      told.add(key);
      return true;
    }
    return false;
  });
}

/** Errors that come from another one of their line are left out; all else stays, in its order. */
export function withoutConsequences(units: readonly Unit[], problems: readonly AssemblyProblem[]): AssemblyProblem[] {
  const causing = problems.filter((each) => CAUSES.includes(each.code));
  if (causing.length === 0 || problems.length === 1) return [...problems];
  const lineOf = ({ span }: AssemblyProblem): string => {
    const at = Math.max(
      0,
      units.findLastIndex((each) => span.start >= each.offset),
    );
    const { source, offset } = itemAt(units, at);
    return `${at} ${placeAt(source, span.start - offset).line}`;
  };
  const byLine = new Map<string, AssemblyProblem>();
  for (const each of causing) {
    const line = lineOf(each);
    const other = byLine.get(line);
    if (!other || CAUSES.indexOf(each.code) < CAUSES.indexOf(other.code)) byLine.set(line, each);
  }
  return problems.filter((each) => each.grade !== 'error' || (byLine.get(lineOf(each)) ?? each) === each);
}

/** Where nothing uses a name and one like it is used again and again, the line that defines it is wrong, and not each use. */
export function atTheDefinition(placement: Placement, problems: readonly AssemblyProblem[]): AssemblyProblem[] {
  const uses = new Map<string, (AssemblyProblem & { code: 'unknown-name' })[]>();
  for (const each of problems) {
    if (each.code !== 'unknown-name' || each.nearest === undefined || each.name.length < 2) continue;
    const key = `${keyOf(placement, spellingOf(each.name))} ${each.nearest}`;
    uses.set(key, [...(uses.get(key) ?? []), each]);
  }
  const dropped = new Map<AssemblyProblem, AssemblyProblem | undefined>();
  for (const list of uses.values()) {
    const { name, nearest } = itemAt(list, 0);
    const definition = list.length > 1 ? placement.names.get(keyOf(placement, spellingOf(nearest!))) : undefined;
    if (!definition || definition.kind === 'machine' || definition.used || definition.uses.length > 0) continue;
    const { text, span } = definition.word;
    const mend = { title: `Write ${name}`, edits: [{ span, text: name }] };
    const told: AssemblyProblem = { code: 'misspelt-name', grade: 'error', span, name: text, meant: name, uses: list.length, mend };
    list.forEach((each, at) => dropped.set(each, at === 0 ? told : undefined));
  }
  return problems.flatMap((each): AssemblyProblem[] => (dropped.has(each) ? [dropped.get(each) ?? []].flat() : [each]));
}

/** A line begins with a word that others name: it is a label, and the word behind it is no operation. */
export function atTheWord(placement: Placement, problems: readonly AssemblyProblem[]): AssemblyProblem[] {
  if (!problems.some((each) => each.code === 'unknown-operation')) return [...problems];
  const { statements, templates } = placement;
  const named = new Map<string, number>();
  for (const { rest } of statements) for (const { kind, key } of rest) if (kind === 'name') named.set(key, (named.get(key) ?? 0) + 1);
  const wrong = new Map(statements.flatMap((each) => (each.meant ? [[each.meant.span.start, each] as const] : [])));
  const labelled = statements.filter((each) => each.kind === 'wrong' && each.isLabelled);
  const defined = new Set(statements.flatMap((each) => (each.kind !== 'wrong' && each.label ? [each.label.key] : [])));
  return problems.map((problem) => {
    const { start } = problem.span;
    const head = problem.code === 'unknown-operation' && defined.has(spellingOf(problem.name).key);
    const behind = head ? labelled.find(({ span }) => span.start < start && start < span.end) : undefined;
    if (behind && !named.has(behind.label!.key) && !hasColon(behind, start)) {
      // What was read as an operation is a label of the program, and nobody names the word before it: that was to be the operation.
      const { text, key, span } = behind.label!;
      return unknownWord({ text, key, span, kind: 'name' }, templates.mnemonics);
    }
    const statement = problem.code === 'unknown-operation' ? wrong.get(problem.span.start) : undefined;
    const word = statement?.rest[0];
    if (!statement || !word || word.kind === 'end') return problem;
    const own = statement.rest.filter((each) => each.kind === 'name' && each.key === statement.meant!.key).length;
    if ((named.get(statement.meant!.key) ?? 0) <= own) return problem;
    if (word.kind === 'name' || word.kind === 'directive') return unknownWord(word, templates.mnemonics);
    return strayMark(statement, templates.mnemonics);
  });
}

/** A label that an operation stands in the way of: whoever names it is not wrong, too. */
export function atTheLabel(problems: readonly AssemblyProblem[]): readonly AssemblyProblem[] {
  const labels = new Set(problems.flatMap((each) => (each.code === 'label-is-operation' ? [spellingOf(each.name).key] : [])));
  return problems.filter((each) => each.code !== 'name-is-operation' || !labels.has(spellingOf(each.name).key));
}

/** An ending is so long at most; what is longer is another word. */
const LONGEST_ENDING = 4;

/** Operations that end with a name of a field, as with a condition, which this one does not have. One letter more or less was a slip. */
export function atTheEnding({ machine }: Placement, problems: readonly AssemblyProblem[]): readonly AssemblyProblem[] {
  if (!problems.some((each) => each.code === 'unknown-operation')) return problems;
  const endings = machine.forms.flatMap(({ pieces, operands }) => {
    const [head, hole] = pieces;
    const field = hole && 'field' in hole ? operands.find((each) => each.name === hole.field) : undefined;
    if (!head || !('text' in head) || !field?.names || /\s/.test(head.text)) return [];
    return [{ head: head.text, names: [...field.names.values()].flat().filter((each) => each !== '') }];
  });
  const longest = endings.toSorted((a, b) => b.head.length - a.head.length);
  return problems.map((problem): AssemblyProblem => {
    if (problem.code !== 'unknown-operation') return problem;
    const { name, nearest, grade, span } = problem;
    const found = longest.find(({ head }) => name.length > head.length && name.toUpperCase().startsWith(head.toUpperCase()));
    const ending = found && name.slice(found.head.length);
    if (!found || ending!.length > LONGEST_ENDING) return problem;
    const slip = nearest?.toUpperCase().startsWith(found.head.toUpperCase()) && nearest.length > found.head.length;
    if (slip && nearest!.length !== name.length) return problem;
    return { code: 'unknown-ending', grade, span, name, head: found.head, ending: ending!, names: found.names };
  });
}

const hasColon = ({ unit, label }: Statement, head: number): boolean =>
  unit.source.text.slice(label!.span.end - unit.offset, head - unit.offset).includes(':');

/** Something else than a word stands behind a label; where a word follows that can stand there, the mark is too much. */
function strayMark({ meant, rest }: Statement, mnemonics: ReadonlySet<string>): AssemblyProblem {
  const [mark, next] = [itemAt(rest, 0), rest[1]];
  const operation = next?.kind === 'name' && mnemonics.has(next.key);
  const directive = next && isDirective(next.text.startsWith('.') ? next.key : `.${next.text.toLowerCase()}`);
  const fits = next && (operation || directive) && mark.kind === 'sign';
  const dotless = directive && next?.kind === 'name';
  const span = { start: mark.start, end: dotless ? next.start : mark.end };
  // The label and what comes behind it stay two words.
  const apart = mark.start === meant!.span.end && (dotless || mark.end === next?.start) ? ' ' : '';
  const mend = fits && {
    title: dotless ? `Write .${next.text}` : `Take “${mark.text}” away`,
    edits: [{ span, text: dotless ? `${apart}.` : apart }],
  };
  return { code: 'behind-label', grade: 'error', span: mark.span, name: meant!.text, text: mark.text, ...(mend && { mend }) };
}

/** One cause, one error: what is misspelt where it is defined is told there, and not wherever it is named. */
import { hasErrors } from '../../text/diagnostic';
import { placeAt, type Source } from '../../text/source';
import { nearest } from '../../text/nearest';
import type { MachineProblem } from './problems';
import { itemAt } from '../../text/itemAt';

interface Missing {
  /** What is named and is not there. */
  readonly name: string;
  readonly nearest: string | undefined;
}

function missingIn(problem: MachineProblem): Missing | undefined {
  switch (problem.code) {
    case 'unknown-name':
    case 'unknown-flag':
    case 'no-such-part':
    case 'unknown-service':
      return { name: problem.name, nearest: problem.nearest };
    case 'unknown-field':
      return { name: problem.field, nearest: problem.nearest };
    case 'unknown-format':
      return { name: problem.format, nearest: problem.nearest };
    case 'unknown-phase':
      return { name: problem.phase, nearest: problem.nearest };
    case 'unknown-place':
      return { name: itemAt(problem.text.replaceAll(/[{}\s]/g, '').split('.'), 0), nearest: problem.nearest };
    case 'bad-written-form':
      return { name: /^[\p{L}\p{Nd}_]*/u.exec(problem.written)![0], nearest: problem.mnemonic };
    default:
      return undefined;
  }
}

/** What a document defines, by name, whether or not its definitions could be read. */
export type Defined = ReadonlySet<string>;

/** Errors that come from others are left out; the order stays. */
export function rootCauses(source: Source, problems: readonly MachineProblem[], defined: Defined = new Set()): MachineProblem[] {
  if (!hasErrors(problems)) return [...problems];
  let told = withoutFollowers(
    source,
    problems.map((each) => barBefore(source, each) ?? each),
    defined,
  );
  const byName = new Map<string, MachineProblem[]>();
  for (const each of told) {
    const missing = missingIn(each);
    if (missing && missing.name.length > 1) byName.set(missing.name, [...(byName.get(missing.name) ?? []), each]);
  }
  for (const [name, list] of byName) {
    const near = list.length > 1 ? [...new Set(list.flatMap((each) => missingIn(each)!.nearest ?? []))] : [];
    const definition = near.filter((each) => each.length > 1).flatMap((each) => alone(source, each))[0];
    if (definition) told = instead(told, name, list, definition);
  }
  return neverGiven(source, told);
}

/** What digits without a use are called. */
const UNUSED = ['zero', 'any'];

/** A field that no form gives a value is wrong where it is defined, and not in each form. */
function neverGiven(source: Source, problems: readonly MachineProblem[]): MachineProblem[] {
  const forms = new Map<string, MachineProblem[]>();
  for (const each of problems) if (each.code === 'field-without-value') forms.set(each.field, [...(forms.get(each.field) ?? []), each]);
  let told = [...problems];
  for (const [field, list] of forms) {
    const near = nearest(field, UNUSED, 2);
    const [definition] = near || list.length > 1 ? alone(source, field) : [];
    if (!definition) continue;
    const span = { start: definition.start, end: definition.start + field.length };
    const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
    const once: MachineProblem = {
      ...{ code: 'field-never-given', grade: 'error', span, field },
      ...(near && { nearest: near }),
      ...(mend && { mend }),
    };
    told = told.flatMap((each) => (each === list[0] ? [once] : list.includes(each) ? [] : [each]));
  }
  return told;
}

/** Parts of a machine that others are made of: where one is wrong, what is made of it is wrong, too. */
const PARTS: ReadonlySet<string> = new Set(['bad-field-word', 'names-differ', 'no-such-part', 'field-with-gaps', 'bad-scale', 'bad-pair']);
const MADE: ReadonlySet<string> = new Set(['encodings-overlap', 'lengths-differ', 'forms-alike']);

function withoutFollowers(source: Source, problems: readonly MachineProblem[], defined: Defined): MachineProblem[] {
  const lines = source.text.split('\n');
  const lineOf = ({ span }: MachineProblem): string => lines[placeAt(source, span.start).line - 1] ?? '';
  const errors = problems.filter((each) => each.grade === 'error');
  const has = (codes: ReadonlySet<string>): boolean => errors.some((each) => codes.has(each.code));
  const [parts, part] = [has(PARTS), errors.some((each) => each.code === 'bad-part')];
  const meant = new Set(
    errors.flatMap((each) => (each.code === 'unknown-field' && each.nearest ? [`${each.span.start} ${each.nearest}`] : [])),
  );
  const twice = new Set(errors.flatMap((each) => (each.code === 'name-twice' ? [each.name] : [])));
  const follows = (each: MachineProblem): boolean => {
    if (each.grade !== 'error') return false;
    // Which of the two is meant is not known.
    if (each.code !== 'name-twice' && 'name' in each && twice.has(each.name)) return true;
    const others = errors.length > 1;
    switch (each.code) {
      case 'field-without-value':
        // A field that a form writes under another name is not missing there, too.
        return meant.has(`${each.span.start} ${each.field}`);
      case 'short-form-loops':
        // The instruction of that name is there, and cannot be read.
        return errors.some((other) => other.code === 'bad-written-form' && other.mnemonic === each.mnemonic);
      case 'more-without-ticks':
        return others;
      case 'flag-without-rule':
        return errors.some((other) => other !== each && lineOf(other).trimStart().startsWith(`${each.flag}:`));
      case 'unknown-part':
        return part;
      default: {
        const name = missingIn(each)?.name;
        return (MADE.has(each.code) && parts) || (name !== undefined && others && defined.has(name));
      }
    }
  };
  const left = problems.filter((each) => !follows(each));
  return hasErrors(left) ? left : [...problems];
}

/** Ticks on lines of their own without the bar that keeps them apart: YAML makes one line of them. */
function barBefore(source: Source, problem: MachineProblem): MachineProblem | undefined {
  if (problem.code !== 'tick-expected') return undefined;
  const lines = source.text.split('\n');
  const { line, column } = placeAt(source, problem.span.start);
  const own = itemAt(lines, line - 1);
  if (own.slice(0, column - 1).trim() !== '') return undefined;
  const indent = own.length - own.trimStart().length;
  for (let at = line - 2; at >= 0; at--) {
    const above = itemAt(lines, at);
    if (above.trim() === '' || above.length - above.trimStart().length >= indent) continue;
    const key = /^[\s-]*([\w ]+):\s*$/.exec(above)?.[1];
    if (key === undefined) return undefined;
    const start = itemAt(source.lineStarts, at) + above.trimEnd().length;
    const mend = { title: `Write ${key}: |`, edits: [{ span: { start, end: start }, text: ' |' }] };
    return { code: 'bar-missing', grade: 'error', span: { start: start - key.length - 1, end: start }, key, mend };
  }
  return undefined;
}

interface Definition {
  readonly name: string;
  readonly start: number;
}

/** A word that stands once in the whole document: it is defined there, and nothing names it. */
function alone({ text }: Source, name: string): Definition[] {
  const found = [
    ...text.matchAll(new RegExp(`(?<![\\p{L}\\p{Nd}_])${name.replaceAll(/[^\p{L}\p{Nd}_]/gu, '\\$&')}(?![\\p{L}\\p{Nd}_])`, 'gu')),
  ];
  return found.length === 1 ? [{ name, start: found[0]!.index }] : [];
}

function instead(
  problems: readonly MachineProblem[],
  name: string,
  list: readonly MachineProblem[],
  { name: misspelt, start }: Definition,
): MachineProblem[] {
  const span = { start, end: start + misspelt.length };
  const mend = { title: `Write ${name}`, edits: [{ span, text: name }] };
  const told: MachineProblem = { code: 'misspelt-definition', grade: 'error', span, name: misspelt, meant: name, uses: list.length, mend };
  const dropped = new Set<MachineProblem>(list);
  const first = list[0]!;
  return problems.flatMap((each): MachineProblem[] => {
    if (each === first) return [told];
    const follows =
      (each.code === 'field-without-value' && each.field === misspelt) || (each.code === 'field-with-gaps' && each.field === name);
    return dropped.has(each) || follows ? [] : [each];
  });
}

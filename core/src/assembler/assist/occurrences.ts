/** Where a name is defined and used in a text: for going there, for finding its uses, for renaming it everywhere. */
import type { Machine } from '../../machine/model/machine';
import { makeSource, type Span } from '../../text/source';
import type { Mend } from '../../text/diagnostic';
import { effectsOf } from '../../machine/model/effects';
import { itemAt } from '../../text/itemAt';
import { machineNames, trapNamed } from '../place/names';
import type { Statement } from '../read/syntax';
import { templatesOf } from '../place/templates';
import { readUnits } from '../read/units';
import { assemble } from '../assemble';
import { applyChanges } from '../../machine/document/edits';

export interface Occurrence {
  readonly span: Span;
  readonly line: number;
  readonly defines: boolean;
}

interface Spot extends Occurrence {
  readonly key: string;
  readonly text: string;
}

export interface Occurrences {
  /** As it stands at the place asked for. */
  readonly name: string;
  readonly list: readonly Occurrence[];
}

/** Every name of the text with the definition that it means; names of the machine and of parts have none here. */
function spotsOf(machine: Machine, text: string): Spot[] {
  const units = readUnits({
    source: makeSource('program', text),
    machine,
    templates: templatesOf(machine),
  });
  const keyOf = (name: string): string => (units.exact ? name : name.toUpperCase());
  const defined = new Set<string>();
  const routines: (string | undefined)[] = [];
  let routine: string | undefined;
  for (const statement of units.statements) {
    const directive = statement.operation?.key;
    if (directive === '.end') routine = undefined;
    routines.push(routine);
    if (statement.label) defined.add(keyOf(routine === undefined ? statement.label.text : `${routine}.${statement.label.text}`));
    const named = directive === '.routine' ? statement.rest[0] : undefined;
    if (named?.kind !== 'name') continue;
    routine = named.text;
    defined.add(keyOf(named.text));
  }
  const isTrap = asksForTrap(machine, units.exact);
  return units.statements.flatMap((statement, at) => spotsIn(statement, routines[at], { keyOf, defined, isTrap }));
}

/** Whether a line asks for a trap by its name, which is then no name of the program. */
function asksForTrap(machine: Machine, exact: boolean): (statement: Statement) => boolean {
  const { forms } = templatesOf(machine);
  return ({ key, rest }) => {
    const named = rest.filter((each) => each.kind === 'name');
    if (named.length !== 1 || trapNamed({ machine, exact }, itemAt(named, 0)) === undefined) return false;
    return (forms.get(key) ?? []).some(({ form }) => effectsOf(machine, form).requestFields.size > 0);
  };
}

function spotsIn(
  statement: Statement,
  routine: string | undefined,
  { keyOf, defined, isTrap }: { keyOf: (name: string) => string; defined: ReadonlySet<string>; isTrap: (statement: Statement) => boolean },
): Spot[] {
  const { label, rest, line, operation } = statement;
  const spots: Spot[] = [];
  const qualified = (name: string): string => (routine === undefined ? keyOf(name) : keyOf(`${routine}.${name}`));
  if (label) spots.push({ key: qualified(label.text), text: label.text, span: label.span, line, defines: true });
  if (isTrap(statement)) return spots;
  for (const [index, token] of rest.entries()) {
    if (token.kind !== 'name') continue;
    const key = defined.has(qualified(token.text)) ? qualified(token.text) : keyOf(token.text);
    const opens = operation?.key === '.routine' && index === 0;
    const span = { start: token.start, end: token.end };
    if (defined.has(key)) spots.push({ key: opens ? keyOf(token.text) : key, text: token.text, span, line, defines: opens });
  }
  return spots;
}

/** The name at an offset of the text, its definition and its uses; undefined where none stands. */
export function occurrencesAt(machine: Machine, text: string, offset: number): Occurrences | undefined {
  const spots = spotsOf(machine, text);
  const here = spots.find(({ span }) => span.start <= offset && offset <= span.end);
  if (!here) return undefined;
  const list = spots.filter((each) => each.key === here.key).map(({ span, line, defines }) => ({ span, line, defines }));
  return { name: here.text, list };
}

/** Why a name cannot have another one. */
export type RenameProblem =
  | { readonly code: 'no-name-here' }
  | { readonly code: 'no-name'; readonly name: string }
  | { readonly code: 'name-taken'; readonly name: string; readonly by: 'operation' | 'register' | 'name' }
  | { readonly code: 'defined-already'; readonly name: string }
  | { readonly code: 'meaning-changes'; readonly name: string; readonly line: number };

/** The sentence of a refusal. */
export function explainRename(problem: RenameProblem): string {
  switch (problem.code) {
    case 'no-name-here':
      return 'No name of this program stands here.';
    case 'no-name':
      return 'A name has letters, digits and _ only, and starts with a letter.';
    case 'name-taken':
      return `“${problem.name}” is ${problem.by === 'operation' ? 'an' : 'a'} ${problem.by} of this machine.`;
    case 'defined-already':
      return `“${problem.name}” is defined already.`;
    case 'meaning-changes':
      return `Line ${problem.line} would mean something else with “${problem.name}”. Choose another name.`;
    default:
      return problem satisfies never;
  }
}

/** The edits that give a name another one everywhere, or why it cannot have that one: no cell of the object code changes. */
export function renameAt(
  machine: Machine,
  text: string,
  { offset, name, parts }: { offset: number; name: string; parts?: ReadonlyMap<string, string> },
): { readonly edits: Mend['edits'] } | { readonly refused: RenameProblem } {
  const spots = spotsOf(machine, text);
  const here = spots.find(({ span }) => span.start <= offset && offset <= span.end);
  if (!here) return { refused: { code: 'no-name-here' } };
  if (!/^[\p{L}_][\p{L}\p{M}\p{Nd}_]*$/u.test(name)) return { refused: { code: 'no-name', name } };
  const { mnemonics, registers } = templatesOf(machine);
  const capitals = name.toUpperCase();
  if (mnemonics.has(capitals)) return { refused: { code: 'name-taken', name, by: 'operation' } };
  if (registers.has(capitals)) return { refused: { code: 'name-taken', name, by: 'register' } };
  const ground = { machine, templates: templatesOf(machine), statements: [], isSystem: false, exact: false };
  if (machineNames(ground, false).has(capitals)) return { refused: { code: 'name-taken', name, by: 'name' } };
  const own = spots.filter((each) => each.key === here.key);
  const scope = here.key.includes('.') ? here.key.slice(0, here.key.indexOf('.') + 1).toUpperCase() : '';
  const taken = spots.find((each) => each.key !== here.key && [capitals, scope + capitals].includes(each.key.toUpperCase()));
  if (taken) return { refused: { code: 'defined-already', name } };
  // A use from outside its routine keeps the routine's name before the dot; a routine takes its labels along.
  const edits = own.map(({ span, text: written }) => {
    const dot = written.indexOf('.');
    return { span: { start: span.start + dot + 1, end: span.end }, text: name };
  });
  const labels = spots.filter((each) => each.key.startsWith(`${here.key}.`) && each.text.includes('.'));
  const heads = labels.map(({ span, text: written }) => ({
    span: { start: span.start, end: span.start + written.indexOf('.') },
    text: name,
  }));
  const all = [...edits, ...heads].sort((a, b) => a.span.start - b.span.start);
  const after = applyChanges(text, all);
  const line = otherName(spots, spotsOf(machine, after)) ?? otherCell(machine, { before: text, after, parts });
  return line === undefined ? { edits: all } : { refused: { code: 'meaning-changes', name, line } };
}

/** The first line on which a name does not belong to the same definition in both texts. */
function otherName(before: readonly Spot[], after: readonly Spot[]): number | undefined {
  const [there, back] = [new Map<string, string>(), new Map<string, string>()];
  for (let at = 0; at < Math.max(before.length, after.length); at++) {
    const [old, now] = [before[at], after[at]];
    if (!old || !now || old.line !== now.line) return Math.min(old?.line ?? Infinity, now?.line ?? Infinity);
    if ((there.get(old.key) ?? now.key) !== now.key || (back.get(now.key) ?? old.key) !== old.key) return old.line;
    there.set(old.key, now.key);
    back.set(now.key, old.key);
  }
  return undefined;
}

/** The first line whose cells differ, or that no longer assembles; undefined where the text before did not assemble either. */
function otherCell(
  machine: Machine,
  { before, after, parts }: { before: string; after: string; parts: ReadonlyMap<string, string> | undefined },
): number | undefined {
  const old = assemble(machine, before, { ...(parts && { parts }) }).program;
  if (!old) return undefined;
  const { program, problems } = assemble(machine, after, { ...(parts && { parts }) });
  if (!program) return problems.find((each) => each.grade === 'error')?.line ?? 1;
  const changed = program.cells.find((each, at) => {
    const was = old.cells[at];
    return each.space !== was?.space || each.address !== was.address || each.value !== was.value;
  });
  return changed?.line ?? (program.start === old.start ? undefined : 1);
}

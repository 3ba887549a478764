/** The conditions of a document: what an instruction can ask for by a field, over registers and flags. */
import { checkExpr } from '../../notation/expressions';
import { parseExpr } from '../../notation/parse';
import type { Checking, ConditionCase, Scope } from '../../notation/scope';
import { someExpr, type Expr } from '../../notation/tree';
import { foldConstant } from '../model/foldConstant';
import type { Condition } from '../model/machine';
import type { Path } from '../document/yaml';
import { addProblem, report, type DocumentReading } from './reading';

const ALWAYS: Expr = { kind: 'literal', value: 1, width: 1 };

/** In the order of the document. One whose expression is wrong counts as holding always. */
export function resolveConditions(reading: DocumentReading, scope: Scope): Condition[] {
  const conditions: Condition[] = [];
  const taken = new Map<string, string>();
  for (const [name, { code, when, also = '', title }] of Object.entries(reading.document.conditions ?? {})) {
    const path = ['conditions', name];
    const twin = conditions.find((each) => each.code === code);
    if (twin)
      report(reading, [...path, 'code'], {
        code: 'condition-code-twice',
        codeValue: code,
        one: shownName(twin.names[0]),
        other: shownName(name),
      });
    const names = [
      name,
      ...also
        .trim()
        .split(/[\s,]+/)
        .filter((each) => each !== ''),
    ];
    for (const each of names) {
      const other = taken.get(each.toUpperCase());
      if (other !== undefined) report(reading, path, { code: 'condition-name-twice', name: each, other: shownName(other) });
      taken.set(each.toUpperCase(), name);
    }
    const expr = when === undefined ? ALWAYS : (lookExpr(reading, [...path, 'when'], scope) ?? ALWAYS);
    if (when !== undefined && neverHolds(expr))
      report(reading, [...path, 'when'], { code: 'condition-never-holds', name, text: when.trim() }, { grade: 'warning' });
    conditions.push({ names, title, code, when: expr, text: when?.trim() ?? 'always' });
  }
  return conditions;
}

const shownName = (name: string | undefined): string => (name ? name : 'the one without a name');

export const casesOf = (conditions: readonly Condition[]): ConditionCase[] =>
  conditions.map(({ names, code, when }) => ({ name: names[0] ?? '', code, when }));

/** An expression that looks at registers and flags and touches nothing; undefined with its problems told. */
export function lookExpr(reading: DocumentReading, path: Path, scope: Scope): Expr | undefined {
  const [line] = reading.yaml.linesOf(path);
  if (!line) return undefined;
  const { expr: syntax, problems } = parseExpr(line.text, line.offset, undefined, scope.language);
  const checking: Checking = { scope, problems };
  // That it is 0 or 1 is asked for as between conditions.
  const expr = syntax && checkExpr(checking, { kind: 'not', operand: syntax, span: syntax.span });
  problems.forEach((each) => addProblem(reading, each));
  if (expr?.kind !== 'binary') return undefined;
  const reads = READS.find(({ kind }) => someExpr(expr, (each) => each.kind === kind));
  if (reads) return void report(reading, path, { code: 'condition-reads', what: reads.what });
  return expr.left;
}

const READS = [
  { kind: 'cell', what: 'a memory cell' },
  { kind: 'port', what: 'a port' },
  { kind: 'latch', what: 'here, next, length or cause' },
] as const;

/** So many flags are tried through. */
const MOST_FLAGS = 12;

/** Whether no values of the flags make it true, as far as flags decide it. */
function neverHolds(expr: Expr): boolean {
  const flags = new Set<number>();
  const only = !someExpr(expr, (each) => {
    if (each.kind === 'flag') flags.add(each.flag);
    return !['flag', 'literal', 'binary', 'unary'].includes(each.kind);
  });
  if (!only || flags.size > MOST_FLAGS) return false;
  const list = [...flags];
  for (let values = 0; values < 2 ** list.length; values++) {
    const leaf = (each: Expr): number | undefined => (each.kind === 'flag' ? (values >> list.indexOf(each.flag)) & 1 : undefined);
    if (foldConstant(expr, leaf, 2) !== 0) return false;
  }
  return true;
}

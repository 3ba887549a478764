/** Programs follow when parts of their machine get other names: operations, registers, traps, devices. */
import type { Machine } from '../../machine/model/machine';
import { spellingsOf } from '../../machine/model/spellings';
import type { Mend } from '../../text/diagnostic';
import { makeSource } from '../../text/source';
import { templatesOf } from '../place/templates';
import { readUnits } from '../read/units';

/** What programs call by another name from now on: each old one with the new. */
export interface NewNames {
  readonly operations: readonly (readonly [old: string, name: string])[];
  readonly names: readonly (readonly [old: string, name: string])[];
}

const changed = (before: readonly string[], after: readonly string[]): [string, string][] =>
  before.length === after.length
    ? before.flatMap((old, at): [string, string][] => {
        const name = after[at] ?? old;
        return old === name || old === '' ? [] : [[old, name]];
      })
    : [];

/** Between a machine and the same one with other names: parts are the same by their places. */
export function newNames(before: Machine, after: Machine): NewNames {
  const named = ({ registers, arrays, composites, traps, routines, devices }: Machine): string[] =>
    [registers, arrays, composites, traps, routines, devices].flatMap((list) => list.map((each) => each.name));
  const operations = ({ forms, shortForms }: Machine): string[] => [
    ...forms.flatMap((each) => spellingsOf(each).map(({ operation }) => operation)),
    ...shortForms.map((each) => each.mnemonic),
  ];
  return { operations: changed(operations(before), operations(after)), names: changed(named(before), named(after)) };
}

/** The edits of a program for the machine as it was called; names that the program defines itself stay. */
export function followNames(before: Machine, text: string, { operations, names }: NewNames): Mend['edits'] {
  const [byOperation, byName] = [operations, names].map((list) => new Map(list.map(([old, name]) => [old.toUpperCase(), name]))) as [
    Map<string, string>,
    Map<string, string>,
  ];
  const { statements } = readUnits({ source: makeSource('program', text), machine: before, templates: templatesOf(before) });
  const own = new Set(statements.flatMap((each) => (each.label ? [each.label.key] : [])));
  return statements.flatMap(({ operation, rest, unit }) => {
    if (unit.part !== undefined) return [];
    const called = operation && byOperation.get(operation.key);
    const head = operation && called !== undefined ? [{ span: operation.span, text: called }] : [];
    const operands = rest.flatMap((token) => {
      if (token.kind !== 'name' || own.has(token.key)) return [];
      // lamps.horn begins with the name of its device.
      const [first = ''] = token.key.split('.');
      const name = byName.get(token.key) ?? byName.get(first);
      if (name === undefined) return [];
      const length = byName.has(token.key) ? token.key.length : first.length;
      return [{ span: { start: token.start, end: token.start + length }, text: name }];
    });
    return [...head, ...operands];
  });
}

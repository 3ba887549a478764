/** Addresses that a program uses as values: in data, and in operands that are neither jumped to nor looked into. */
import { effectsOf } from '../../machine/model/effects';
import { namesIn } from '../read/expressions';
import { find, type Work } from '../place/assembly';

const known = new WeakMap<Work, ReadonlySet<number>>();

export function takenAddresses(work: Work): ReadonlySet<number> {
  let taken = known.get(work);
  if (!taken) {
    taken = new Set(namesTaken(work));
    known.set(work, taken);
  }
  return taken;
}

function namesTaken(work: Work): number[] {
  const taken: number[] = [];
  const take = (name: string, routine: string | undefined): void => {
    const definition = find(work, name, routine);
    if (definition?.kind === 'label' && typeof definition.value === 'number') taken.push(definition.value);
  };
  for (const { form, operands, statement, routine, kind } of work.placed) {
    if (form && operands && operands.length > 0) {
      const { addressFields, targetFields } = effectsOf(work.machine, form);
      for (const each of operands) {
        if (!('expression' in each) || targetFields.has(each.field.name) || addressFields.has(each.field.name)) continue;
        if (each.expression.kind !== 'number') for (const name of namesIn(each.expression)) take(name, routine);
      }
    } else if (kind === 'data') {
      for (const token of statement.rest) if (token.kind === 'name') take(token.text, routine);
    }
  }
  // A constant may stand for an address too.
  for (const { expression, routine } of work.names.values())
    if (expression && expression.kind !== 'number') for (const name of namesIn(expression)) take(name, routine);
  return taken;
}

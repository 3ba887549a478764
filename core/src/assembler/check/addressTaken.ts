/** Addresses that a program uses as values: in data, and in operands that are neither jumped to nor looked into. */
import { effectsOf } from '../../machine/model/effects';
import { namesIn } from '../read/expressions';
import type { Spelling } from '../read/tokens';
import { find, type Placement, type Routine } from '../place/assembly';

const known = new WeakMap<Placement, ReadonlySet<number>>();

/** Addresses of the program space that some statement uses as a value; found once for each text. */
export function takenAddresses(placement: Placement): ReadonlySet<number> {
  let taken = known.get(placement);
  if (!taken) {
    taken = new Set(namesTaken(placement));
    known.set(placement, taken);
  }
  return taken;
}

function namesTaken(placement: Placement): number[] {
  const taken: number[] = [];
  const take = (name: Spelling, routine: Routine | undefined): void => {
    const definition = find(placement, name, routine);
    if (definition?.kind === 'label' && typeof definition.value === 'number') taken.push(definition.value);
  };
  for (const { form, operands, statement, routine, kind } of placement.placed) {
    if (form && operands && operands.length > 0) {
      const { addressFields, targetFields } = effectsOf(placement.machine, form);
      for (const each of operands) {
        if (!('expression' in each) || targetFields.has(each.field.name) || addressFields.has(each.field.name)) continue;
        if (each.expression.kind !== 'number') for (const name of namesIn(each.expression)) take(name, routine);
      }
    } else if (kind === 'data') {
      const { behind, last, unit } = statement;
      for (let at = behind; at < last; at++) {
        const word = unit.tokens.wordAt(at);
        if (word.kind === 'name') take(word, routine);
      }
    }
  }
  // A constant may stand for an address too.
  for (const { expression, routine } of placement.names.values())
    if (expression && expression.kind !== 'number') for (const name of namesIn(expression)) take(name, routine);
  return taken;
}

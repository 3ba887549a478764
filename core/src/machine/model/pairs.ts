/** Registers that are written and read as one, and what that one is called. */
import { itemAt } from '../../text/itemAt';
import type { Machine } from './machine';

export interface RegisterPair {
  readonly name: string;
  /** High first, two or more. */
  readonly registers: readonly number[];
}

/** Every pair of a machine: the named ones first, then those that a number in an instruction names. */
export function pairsOf({ composites, arrays }: Machine): RegisterPair[] {
  const named = composites.flatMap(({ name, packed, value }): RegisterPair[] => {
    if (packed || value.kind !== 'join') return [];
    const registers = value.parts.flatMap((each) => (each.kind === 'register' ? [each.register] : []));
    return registers.length > 1 && registers.length === value.parts.length ? [{ name, registers }] : [];
  });
  const numbered = arrays
    .filter((each) => each.scale > 1)
    .flatMap(({ first, count, scale, names, name }) =>
      Array.from({ length: count }, (_, at) => ({
        name: names[at]?.[0] ?? `${name}${at}`,
        registers: Array.from({ length: scale }, (_each, part) => first + scale * at + part),
      })),
    );
  const keys = new Set<string>();
  return [...named, ...numbered].filter(({ registers }) => {
    const key = registers.join();
    return keys.has(key) ? false : Boolean(keys.add(key));
  });
}

/** Registers taken together as a place: by the name that they have together, else by their own. */
export function pairOf(
  machine: Machine,
  pairs: readonly RegisterPair[],
  registers: readonly number[],
): RegisterPair & { readonly kind: 'pair' } {
  const key = registers.join();
  const known = pairs.find((each) => each.registers.join() === key);
  return { kind: 'pair', name: known?.name ?? registers.map((each) => itemAt(machine.registers, each).name).join(':'), registers };
}

/** What a successful assembly tells: where it starts, what it takes, which names it has. */
import type { Facts } from '../../image/program';
import { programSpaceOf } from '../../machine/model/machine';
import type { Filled } from '../place/fill';
import type { Definition, Placement } from '../place/assembly';

/** Names that texts define, those of parts included; not those that the machine has. */
export const ownNames = (placement: Placement): Definition[] => [...placement.names.values()].filter((each) => each.kind !== 'machine');

/** Where the program starts needs no other use; names of parts are there for whoever needs them. */
export const isUnused = ({ uses, used, value, unit, kind }: Definition, start: number): boolean =>
  uses.length === 0 && !used && !(kind === 'label' && value === start) && unit?.part === undefined;

/** Counts and places of an assembly without errors. */
export function factsOf(placement: Placement, { cells }: Filled, start: number, base: number): Facts {
  const { machine } = placement;
  const used = new Set<number>();
  let last = 0;
  for (const { space, address } of cells) {
    if (space !== machine.programSpace) continue;
    used.add(address);
    if (address > last) last = address;
  }
  const own = ownNames(placement);
  const unusedNames = own.filter((each) => isUnused(each, start)).map((each) => each.word.text);
  const reserved = machine.system ? machine.system.to - machine.system.from + 1 : 0;
  const free = programSpaceOf(machine).cells - used.size - reserved;
  return { start, last, used: used.size, free, names: own.length, unusedNames, outside: [], services: [], warnings: 0, base };
}

/** What a successful assembly tells: where it starts, what it takes, which names it has. */
import type { Facts } from '../../image/program';
import { programSpaceOf } from '../../machine/model/machine';
import type { Filled } from '../place/fill';
import type { Definition, Placement } from '../place/assembly';

/** Where the program starts needs no other use; names of parts are there for whoever needs them. */
export const isUnused = ({ uses, used, value, unit, kind }: Definition, start: number): boolean =>
  uses.length === 0 && !used && !(kind === 'label' && value === start) && unit?.part === undefined;

/** How many cells of a space have been given a value, and the last of them. */
function usedCells(cells: Filled['cells'], of: number): { readonly used: number; readonly last: number } {
  let last = -1;
  let used = 0;
  let inOrder = true;
  for (const { space, address } of cells) {
    if (space !== of) continue;
    used++;
    if (address > last) last = address;
    else inOrder = false;
  }
  // In a text that goes back to earlier addresses one cell may have been given two values.
  if (!inOrder) used = new Set(cells.filter((each) => each.space === of).map((each) => each.address)).size;
  return { used, last: Math.max(0, last) };
}

/** Counts and places of an assembly without errors. */
export function factsOf(placement: Placement, { cells }: Filled, start: number, base: number): Facts {
  const { machine } = placement;
  const { used, last } = usedCells(cells, machine.programSpace);
  let names = 0;
  const unusedNames: string[] = [];
  for (const each of placement.names.values()) {
    if (each.kind === 'machine') continue;
    names++;
    if (isUnused(each, start)) unusedNames.push(each.word.text);
  }
  const reserved = machine.system ? machine.system.to - machine.system.from + 1 : 0;
  const free = programSpaceOf(machine).cells - used - reserved;
  return { start, last, used, free, names, unusedNames, outside: [], services: [], warnings: 0, base };
}

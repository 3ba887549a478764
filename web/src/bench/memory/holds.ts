/** What a cell holds and what is known of it, in words: for pointing at its address, wherever that stands. */
import type { CellPlace } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import { pointedCells } from '@zettak/core/machine/model/pointers';
import type { View } from '@zettak/core/session/protocol';
import { itemAt } from '@zettak/core/text/itemAt';
import { readNumber, shownDigits, shownNumber } from '@zettak/core/text/number';
import { routineOf, type RoutineBorder } from '@zettak/core/image/program';
import { readings } from '../state/readings';
import { devicesIn, MARK_WORDS } from './cells';

/** “P0 and MAR point here”; empty where none does. */
export function pointersWords(names: readonly string[]): string {
  if (names.length === 0) return '';
  const shown = names.length > 3 ? [...names.slice(0, 2), `${names.length - 2} more`] : names;
  const all = shown.length === 1 ? shown[0] : `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}`;
  return `${all} ${names.length === 1 ? 'points' : 'point'} here`;
}

/** By address, the registers and pairs that point into a memory. */
export function pointersInto(machine: Machine, registers: readonly number[], space: number): ReadonlyMap<number, readonly string[]> {
  const found = new Map<number, string[]>();
  for (const each of pointedCells(machine, registers)) {
    if (each.space === space) found.set(each.address, [...(found.get(each.address) ?? []), each.name]);
  }
  return found;
}

/** By space, its labels by address. */
type Labels = readonly ReadonlyMap<number, string>[];

interface Known {
  readonly view: Pick<View, 'spaces' | 'registers'>;
  readonly labels: Labels;
  readonly routines: readonly RoutineBorder[];
}

/** Its name, device, mark, routine, who points at it and what it holds, one after the other. */
export function cellWords(machine: Machine, { view, labels, routines }: Known, { space, address }: CellPlace): string[] {
  const { width } = itemAt(machine.spaces, space);
  const { cells, marks } = itemAt(view.spaces, space);
  const device = devicesIn(machine, space).get(address);
  const routine = space === machine.programSpace ? routineOf(routines, address) : undefined;
  return [
    labels[space]?.get(address) ?? '',
    device ? `answers ${device}` : '',
    MARK_WORDS[marks[address] ?? 0] ?? '',
    routine ? `in ${routine}` : '',
    pointersWords(pointersInto(machine, view.registers, space).get(address) ?? []),
    marks[address] === 0 ? '' : readings(cells[address] ?? 0, width, machine),
  ].filter((each) => each !== '');
}

/**
 * The cell that a piece of text names: a label, or an address of the program's memory as the machine writes them. Without
 * the mark of its base only where nothing but addresses stand (`bare`). Undefined: none.
 */
export function cellNamed(machine: Machine, labels: Labels, text: string, bare: boolean): CellPlace | undefined {
  for (const [space, names] of labels.entries()) {
    for (const [address, name] of names) if (name === text) return { space, address };
  }
  const { cells, addressWidth } = itemAt(machine.spaces, machine.programSpace);
  const address = readNumber(text, { base: machine.base, suffixes: machine.assembly.suffixes });
  if (address === undefined || address >= cells) return undefined;
  const digits = shownDigits(address, addressWidth, machine);
  const marked = shownNumber(address, addressWidth, machine);
  return text === (bare ? digits : '') || (marked !== digits && text === marked) ? { space: machine.programSpace, address } : undefined;
}

/** Puts names to what a state holds: instructions as text, places as people call them. */
import { indexOf, type Program } from '../image/program';
import { decode, written } from '../machine/encode';
import type { Machine } from '../machine/machine';
import { signedReading, withHexPrefix } from '../text/number';
import type { PlaceRef } from './report';
import type { State } from './state';

/** The instruction at an address: as its source wrote it while its cells are as assembled, else decoded; or undefined. */
export function instructionAt(machine: Machine, program: Program | undefined, state: State, address: number): string | undefined {
  const cells = state.spaces[machine.programSpace]!;
  const row = program && indexOf(program).rowAt.get(address);
  const untouched = row?.address === address && row.words.every((word, at) => cells[address + at] === word);
  if (row?.text && untouched) return row.text;
  const decoded = decode(machine, (offset) => cells[address + offset]);
  if (!decoded) return undefined;
  return written(decoded.form, (field) => {
    const value = decoded.operands.find((each) => each.field === field)!.value;
    const width = field.high - field.low + 1;
    return field.kind === 'signed' ? String(signedReading(value, width)) : withHexPrefix(value, width);
  });
}

/** How many cells the instruction at an address takes; 1 where none is there. */
export function lengthAt(machine: Machine, state: State, address: number): number {
  const cells = state.spaces[machine.programSpace]!;
  return decode(machine, (offset) => cells[address + offset])?.form.format.cells ?? 1;
}

export function placeName(machine: Machine, program: Program | undefined, place: PlaceRef): string {
  switch (place.kind) {
    case 'register': {
      const register = machine.registers[place.register]!;
      if (place.low === 0 && place.high === register.width - 1) return register.name;
      const part = [...register.parts].find(([, each]) => each.high === place.high && each.low === place.low);
      return part ? `${register.name}.${part[0]}` : `${register.name}[${place.high}:${place.low}]`;
    }
    case 'flag':
      return machine.flags[place.flag]!.name;
    case 'cell': {
      const label = place.space === machine.programSpace && program ? indexOf(program).labelAt.get(place.address) : undefined;
      if (label) return label;
      const space = machine.spaces[place.space]!;
      return `${machine.spaces.length > 1 ? `${space.name} cell` : 'cell'} ${withHexPrefix(place.address, space.addressWidth)}`;
    }
    default:
      return place satisfies never;
  }
}

/** Puts names to what a state holds: instructions as text, places as people call them. */
import { indexOf, type Program } from '../../image/program';
import { effectsOf, fallsFor, valueFor } from '../../machine/model/effects';
import { decode, nameIn, written, type Decoded } from '../../machine/model/encode';
import { flagName, programSpaceOf, type Field, type Machine } from '../../machine/model/machine';
import { digitsIn, shownDigits, shownNumber } from '../../text/number';
import type { PairRef, PlaceRef } from '../meaning/report';
import type { State } from '../meaning/state';
import { itemAt } from '../../text/itemAt';

/** What the cells at an address mean as an instruction; undefined where they mean none. */
export function decodedAt(machine: Machine, state: State, address: number): Decoded | undefined {
  const cells = itemAt(state.spaces, machine.programSpace);
  const decoded = decode(machine, (offset) => cells[address + offset], address);
  return 'refused' in decoded ? undefined : decoded;
}

/** The instruction at an address: as its source wrote it while its cells are as assembled, else decoded; or undefined. */
export function instructionAt(machine: Machine, program: Program | undefined, state: State, address: number): string | undefined {
  const cells = itemAt(state.spaces, machine.programSpace);
  const row = program && indexOf(program).rowAt.get(address);
  const untouched = row?.address === address && row.words.every((word, at) => cells[address + at] === word);
  if (row?.text && untouched) return row.text;
  const decoded = decodedAt(machine, state, address);
  return decoded && decodedText(machine, program, decoded);
}

/** As a program would write it: fields that say where something is go by its name, where the program has one. */
export function decodedText(machine: Machine, program: Program | undefined, { form, operands }: Decoded): string {
  const { addressFields, targetFields } = effectsOf(machine, form);
  // With several memories a field that is looked into may mean another one than labels of the program space.
  const single = machine.spaces.length === 1;
  const labels = program && indexOf(program).labelAt;
  return written(form, (field) => {
    const { value } = operands.find((each) => each.field === field)!;
    const named = (single && addressFields.has(field.name)) || targetFields.has(field.name) ? labels?.get(value) : undefined;
    return named ?? fieldText(machine, field, value);
  });
}

/** A field's value as a program would write it. */
export function fieldText(machine: Machine, field: Field, value: number): string {
  const named = nameIn(field, value);
  if (named !== undefined) return named;
  if (value < 0 || field.kind === 'signed') return field.relative ? addressText(machine, value) : String(value);
  if (field.relative || field.page) return addressText(machine, value);
  return shownNumber(value, Math.max(field.width + field.dropped, digitsIn(value, machine.radix)), machine);
}

/** The same where it stands by itself and not in a program: of a condition without a name, when it holds. */
export function fieldTold(machine: Machine, field: Field, value: number): string {
  const written = fieldText(machine, field, value);
  return written || (machine.conditions.find(({ code }) => field.condition && code === value)?.text ?? String(value));
}

/** The line that an address comes from, with the text it is a line of: “line 4”, “line 2 of the part “averages””. */
export function lineAt(program: Program | undefined, address: number): string | undefined {
  const row = program && indexOf(program).rowAt.get(address);
  if (!row || row.line <= 0) return undefined;
  return `line ${row.line}${row.system ? ' of the system program' : row.part === undefined ? '' : ` of the part “${row.part}”`}`;
}

/** The line of the program's own text that an address comes from. */
export function ownLine(program: Program | undefined, address: number): number | undefined {
  const row = program && indexOf(program).rowAt.get(address);
  return row && !row.system && row.part === undefined && row.line > 0 ? row.line : undefined;
}

/** An address of the program space. */
export const addressText = (machine: Machine, address: number): string =>
  shownNumber(address, programSpaceOf(machine).addressWidth, machine);

/** How many cells the instruction at an address takes; 1 where none is there. */
export const lengthAt = (machine: Machine, state: State, address: number): number =>
  decodedAt(machine, state, address)?.form.format.cells ?? 1;

/**
 * Where a run goes on behind the instruction at an address: the next one in memory, where that may be next at all; else where it
 * jumps. Undefined where it does not go on, or where only registers and memory tell.
 */
export function wayOn(machine: Machine, state: State, address: number): number | undefined {
  const form = decodedAt(machine, state, address)?.form;
  if (!form) return address + 1;
  const all = itemAt(state.spaces, machine.programSpace);
  const instance = { cells: Array.from({ length: form.format.cells }, (_, at) => all[(address + at) % all.length]!), at: address };
  const effects = effectsOf(machine, form);
  if (fallsFor(machine, instance, effects)) return address + form.format.cells;
  const targets = new Set(effects.jumps.map((each) => valueFor(machine, instance, each)));
  return targets.size === 1 ? [...targets][0] : undefined;
}

/** “DATA bank 2, cell 0x13, level”; the space only where there are several, the bank only where there are banks. */
export function cellName(machine: Machine, program: Program | undefined, space: number, address: number): string {
  const { name, banks, cells, addressWidth } = itemAt(machine.spaces, space);
  const label = program && indexOf(program).labelIn(space === machine.programSpace ? undefined : space, address);
  if (label && machine.spaces.length === 1) return label;
  const bank = banks > 1 ? ` bank ${Math.floor(address / cells)},` : '';
  const cell = `cell ${shownNumber(address % cells, addressWidth, machine)}`;
  return `${machine.spaces.length > 1 ? `${name}${bank} ` : ''}${cell}${label ? `, ${label}` : ''}`;
}

/** A place as people call it, with the program's names: ACC, level, DATA[1:0x20], C. */
export function placeName(machine: Machine, program: Program | undefined, place: PlaceRef | PairRef): string {
  switch (place.kind) {
    case 'pair':
      return place.name;
    case 'register': {
      const register = itemAt(machine.registers, place.register);
      if (place.low === 0 && place.high === register.width - 1) return register.name;
      const part = [...register.parts].find(([, each]) => each.high === place.high && each.low === place.low);
      return part ? `${register.name}.${part[0]}` : `${register.name}[${place.high === place.low ? '' : `${place.high}:`}${place.low}]`;
    }
    case 'flag':
      return flagName(machine, place.flag);
    case 'cell': {
      const at = machine.devices.find(({ data, status }) =>
        [data, status].some((each) => each && 'space' in each && each.space === place.space && each.address === place.address),
      );
      return at ? at.name : cellName(machine, program, place.space, place.address);
    }
    case 'port': {
      const at = machine.devices.filter(({ data }) => data && 'port' in data && data.port === place.port).map((each) => each.name);
      return `${machine.ports!.name} ${place.port}${at.length > 0 ? `, ${at.join(' and ')}` : ''}`;
    }
    case 'line': {
      const device = itemAt(machine.devices, place.device);
      const line = [...device.lines].find(([, bit]) => bit === place.bit)?.[0];
      return `${device.name}.${line ?? place.bit}`;
    }
    default:
      return place satisfies never;
  }
}

/** The digits of a value as screens show them: hex for bits, decimal for digits. */
export const digitsOf = (machine: Machine, value: number, width: number): string => shownDigits(value, width, machine);

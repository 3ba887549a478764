/** Places as people write them: ACC, C, M[0x20], DATA[2, 5], level, a device, a port. */
import { namesForExamples } from '../../machine/model/examples';
import type { Program } from '../../image/program';
import { registersByName, type Machine } from '../../machine/model/machine';
import { numberReader, usualBase } from '../../machine/model/numbers';
import { nearest } from '../../text/nearest';
import { readNumber, shownNumber } from '../../text/number';
import type { WatchedPlace } from './breakpoints';
import { noRoomFor, valuesIn } from './cellRow';
import type { RefusedEntry } from '../meaning/entryProblems';
import { readEntry } from '../meaning/services';
import { deviceLatch, portLatch } from '../meaning/state';
import type { Edit } from '../timeline/interventions';
import { flagValues } from '../meaning/composites';
import { BY_HAND, type State } from '../meaning/state';

/** Reads a place; or says what is wrong with it. Labels go in any case, all else as the machine writes it. */
export function readPlace(machine: Machine, program: Program | undefined, text: string): WatchedPlace | RefusedEntry {
  const written = text.trim();
  const indexed = /^([\w.]+)\s*\[\s*(?:([^,\]]+),)?\s*([^,\]]+)\]$/.exec(written);
  if (indexed) return readCell(machine, program, { name: indexed[1]!, bank: indexed[2]?.trim(), index: indexed[3]!.trim() });
  const register = registersByName(machine.registers).get(written);
  if (register !== undefined) return { kind: 'register', register };
  const flag = machine.flags.findIndex((each) => each.name === written || `flags.${each.name}` === written);
  if (flag !== -1) return { kind: 'flag', flag };
  const device = machine.devices.findIndex((each) => each.name === written);
  if (device !== -1) return { kind: 'device', device };
  const label = labelled(program, written);
  if (label) return { kind: 'cell', space: label.space ?? machine.programSpace, address: label.at ?? label.value };
  const address = numberReader(machine)(written);
  if (address !== undefined)
    return readCell(machine, program, { name: machine.spaces[machine.programSpace]!.name, bank: undefined, index: written });
  const near = nearest(written, namesOf(machine, program));
  return { refused: { code: 'unknown-place', text: written, nearest: near, cell: namesForExamples(machine).cell } };
}

/** A cell as it is written: M[0x20], or with its bank DATA[2, 0x13]. `address` counts over all banks. */
export function cellText(machine: Machine, space: number, address: number): string {
  const { name, cells, banks, addressWidth } = machine.spaces[space]!;
  const bank = banks > 1 ? `${Math.floor(address / cells)}, ` : '';
  return `${name}[${bank}${shownNumber(address % cells, addressWidth, machine)}]`;
}

const namesOf = ({ registers, flags, devices }: Machine, program: Program | undefined): string[] => [
  ...[...registers, ...flags, ...devices].map((each) => each.name),
  ...(program?.symbols ?? []).map((each) => each.name),
];

const labelled = (program: Program | undefined, name: string) =>
  program?.symbols.find((each) => each.kind === 'label' && each.name.toUpperCase() === name.toUpperCase());

function readCell(
  machine: Machine,
  program: Program | undefined,
  { name, bank, index }: { name: string; bank: string | undefined; index: string },
): WatchedPlace | RefusedEntry {
  const array = machine.arrays.find((each) => each.name === name && each.scale === 1);
  if (array) {
    const element = readNumber(index);
    return element !== undefined && element < array.count
      ? { kind: 'register', register: array.first + element }
      : { refused: { code: 'outside', name, what: 'registers', count: array.count } };
  }
  const at = (text: string): number | undefined => numberReader(machine)(text) ?? labelled(program, text)?.value;
  const address = at(index);
  if (machine.ports?.name === name) {
    if (address !== undefined && address < machine.ports.count) return { kind: 'port', port: address };
    return { refused: { code: 'outside', name, what: 'ports', count: machine.ports.count } };
  }
  const space = machine.spaces.findIndex((each) => each.name === name);
  const memory = machine.spaces[space];
  if (!memory) return { refused: { code: 'unknown-memory', name, memories: machine.spaces.map((each) => each.name) } };
  const number = bank === undefined ? 0 : at(bank);
  if (address === undefined || number === undefined) return { refused: { code: 'no-address', text: index } };
  if (number >= memory.banks) return { refused: { code: 'outside', name, what: 'banks', count: memory.banks } };
  if (address >= memory.cells) return { refused: { code: 'outside', name, what: 'cells', count: memory.cells } };
  return { kind: 'cell', space, address: number * memory.cells + address };
}

/** Digits of what a place holds. */
export function widthOf(machine: Machine, place: WatchedPlace): number {
  switch (place.kind) {
    case 'register':
      return machine.registers[place.register]!.width;
    case 'flag':
      return 1;
    case 'cell':
      return machine.spaces[place.space]!.width;
    case 'port':
      return machine.ports!.width;
    case 'device':
      return machine.devices[place.device]!.width;
    default:
      return place satisfies never;
  }
}

/** What a place holds now, without touching it. */
export function valueOf(machine: Machine, state: State, place: WatchedPlace): number {
  switch (place.kind) {
    case 'register':
      return state.registers[place.register]!;
    case 'flag':
      return flagValues(machine, state)[place.flag]!;
    case 'cell':
      return state.spaces[place.space]![place.address]!;
    case 'port':
      return state.latches[portLatch(place.port)]!;
    case 'device':
      return state.latches[deviceLatch(machine, place.device, 'value')]!;
    default:
      return place satisfies never;
  }
}

/**
 * What is put into a place by hand, as “level = 12” says, or “levels = 3 -4 10” of cells behind each other; at least one edit. An
 * unmarked value is read in `base`, else in the machine's usual one.
 */
export function readEdits(machine: Machine, program: Program | undefined, text: string, base?: number): readonly Edit[] | RefusedEntry {
  const [written, value, ...more] = text.split('=');
  if (value === undefined || more.length > 0) return { refused: { code: 'no-value' } };
  return editReader(machine, program, base)(written!, value);
}

/** Reads a place and what it is given, again and again: places are looked up once. */
export function editReader(
  machine: Machine,
  program: Program | undefined,
  base?: number,
): (place: string, text: string) => readonly Edit[] | RefusedEntry {
  const read = singleReader(machine, program, base);
  return (written, text) => {
    const values = valuesIn(text);
    const edits: Edit[] = [];
    for (const [at, value] of values.entries()) {
      const edit = read(written, value);
      if ('refused' in edit) return edit;
      const problem = at === 0 && values.length > 1 ? noRoomFor(machine, edit, values.length, written.trim()) : undefined;
      if (problem) return { refused: problem };
      edits.push(edit.kind === 'cell' ? { ...edit, address: edit.address + at } : edit);
    }
    return edits;
  };
}

function singleReader(
  machine: Machine,
  program: Program | undefined,
  base?: number,
): (place: string, value: string) => Edit | RefusedEntry {
  const read = numberReader(machine, base);
  const rules = { radix: machine.radix, suffixes: machine.assembly.suffixes, base: base ?? usualBase(machine) };
  const known = new Map<string, Settable | RefusedEntry>();
  return (written, value) => {
    let found = known.get(written);
    if (!found) known.set(written, (found = settable(machine, program, written)));
    if ('refused' in found) return found;
    const entry = readEntry(value, { ...rules, width: found.width }, read);
    if ('refused' in entry) return entry;
    return found.never ?? editOf(machine, found.place, entry.value);
  };
}

interface Settable {
  readonly place: WatchedPlace;
  readonly width: number;
  /** Why no value can be put there. */
  readonly never: RefusedEntry | undefined;
}

function settable(machine: Machine, program: Program | undefined, written: string): Settable | RefusedEntry {
  const place = readPlace(machine, program, written);
  if ('refused' in place) return place;
  return { place, width: widthOf(machine, place), never: neverSet(machine, place) };
}

function neverSet({ flags, registers }: Machine, place: WatchedPlace): RefusedEntry | undefined {
  if (place.kind === 'flag' && flags[place.flag]!.line) return { refused: { code: 'line-of-device', flag: flags[place.flag]!.name } };
  if (place.kind === 'register' && registers[place.register]!.zero)
    return { refused: { code: 'zero-register', register: registers[place.register]!.name } };
  return undefined;
}

/** The edit that sets a place to a value that fits it. */
export function editOf(machine: Machine, place: WatchedPlace, value: number): Edit {
  switch (place.kind) {
    case 'register':
      return { ...place, value };
    case 'flag':
      return { ...place, value };
    case 'cell':
      return { ...place, value, mark: BY_HAND };
    case 'port':
      return { kind: 'latch', latch: portLatch(place.port), value };
    case 'device':
      return { kind: 'latch', latch: deviceLatch(machine, place.device, 'value'), value };
    default:
      return place satisfies never;
  }
}

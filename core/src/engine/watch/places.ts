/** Places as people write them: ACC, C, M[0x20], DATA[2, 5], level, a device, a port. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { numberReader } from '../../machine/model/numbers';
import { nearest } from '../../text/nearest';
import { shownNumber } from '../../text/number';
import type { WatchedPlace } from './breakpoints';
import { readEntry } from '../meaning/services';
import { deviceLatch, portLatch } from '../meaning/state';
import type { Edit } from '../timeline/interventions';
import { BY_HAND } from '../meaning/state';

/** Reads a place; or says in a sentence what may stand there. Labels go in any case, all else as the machine writes it. */
export function readPlace(machine: Machine, program: Program | undefined, text: string): WatchedPlace | { readonly refused: string } {
  const written = text.trim();
  const indexed = /^([\w.]+)\s*\[\s*(?:([^,\]]+),)?\s*([^,\]]+)\]$/.exec(written);
  if (indexed) return readCell(machine, program, { name: indexed[1]!, bank: indexed[2]?.trim(), index: indexed[3]!.trim() });
  const register = machine.registers.findIndex((each) => each.name === written || (each.array && each.name.replace(/\W/g, '') === written));
  if (register !== -1) return { kind: 'register', register };
  const flag = machine.flags.findIndex((each) => each.name === written);
  if (flag !== -1) return { kind: 'flag', flag };
  const device = machine.devices.findIndex((each) => each.name === written);
  if (device !== -1) return { kind: 'device', device };
  const label = labelled(program, written);
  if (label) return { kind: 'cell', space: label.space ?? machine.programSpace, address: label.at ?? label.value };
  const address = numberReader(machine)(written);
  if (address !== undefined)
    return readCell(machine, program, { name: machine.spaces[machine.programSpace]!.name, bank: undefined, index: written });
  const near = nearest(written, namesOf(machine, program));
  const { name } = machine.spaces[0]!;
  return {
    refused: `“${written.slice(0, 40)}” is no register, flag, label or device.${near ? ` Did you mean ${near}?` : ` A cell is written ${name}[0x10].`}`,
  };
}

/** A cell as it is written: M[0x20], or with its bank DATA[2, 0x13]. `address` counts over all banks. */
export function cellText({ spaces, radix }: Machine, space: number, address: number): string {
  const { name, cells, banks, addressWidth } = spaces[space]!;
  const bank = banks > 1 ? `${Math.floor(address / cells)}, ` : '';
  return `${name}[${bank}${shownNumber(address % cells, addressWidth, radix)}]`;
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
): WatchedPlace | { readonly refused: string } {
  const at = (text: string): number | undefined => numberReader(machine)(text) ?? labelled(program, text)?.value;
  const address = at(index);
  if (machine.ports?.name === name) {
    if (address !== undefined && address < machine.ports.count) return { kind: 'port', port: address };
    return { refused: `${name} has the ports 0 to ${machine.ports.count - 1}.` };
  }
  const space = machine.spaces.findIndex((each) => each.name === name);
  const memory = machine.spaces[space];
  if (!memory) return { refused: `There is no memory “${name}”. There is: ${machine.spaces.map((each) => each.name).join(', ')}.` };
  const number = bank === undefined ? 0 : at(bank);
  if (address === undefined || number === undefined) return { refused: `“${index}” is no number and no label.` };
  if (number >= memory.banks) return { refused: `${name} has the banks 0 to ${memory.banks - 1}.` };
  if (address >= memory.cells) return { refused: `${name} has the cells 0 to ${memory.cells - 1}.` };
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

/** A value put into a place by hand, as “level = 12” says; an unmarked one in `base`. */
export function readEdit(machine: Machine, program: Program | undefined, text: string, base = 10): Edit | { readonly refused: string } {
  const [written, value, ...more] = text.split('=');
  if (value === undefined || more.length > 0) return { refused: 'Write a place, = and a value, as “ACC = 5”.' };
  const place = readPlace(machine, program, written!);
  if ('refused' in place) return place;
  const entry = readEntry(
    value,
    { width: widthOf(machine, place), radix: machine.radix, suffixes: machine.assembly.suffixes },
    numberReader(machine, base),
  );
  if ('refused' in entry) return entry;
  if (place.kind === 'flag' && machine.flags[place.flag]!.line)
    return { refused: `${machine.flags[place.flag]!.name} is a line of a device: set that.` };
  if (place.kind === 'register' && machine.registers[place.register]!.zero)
    return { refused: `${machine.registers[place.register]!.name} reads 0 always.` };
  return editOf(machine, place, entry.value);
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

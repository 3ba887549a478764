/** Parts of a machine in words, for people who learn it. */
import { itemAt } from '../../text/itemAt';
import { power, shownDigits, shownNumber } from '../../text/number';
import type { Device, DevicePlace, Flag, Machine, Register, Space, Stack, Trap } from './machine';

/** A cell of any memory; `address` counts over all its banks. */
export interface CellPlace {
  readonly space: number;
  readonly address: number;
}

/** Its address as sentences and panels write it: `0x40`, with its bank `2:0x13`. */
export function placeText(machine: Machine, place: CellPlace): string {
  const { cells, addressWidth } = itemAt(machine.spaces, place.space);
  return bankText(machine, place) + shownNumber(place.address % cells, addressWidth, machine);
}

/** The same in bare digits, as rows of a memory and listings have it: `40`, `2:13`. */
export function placeDigits(machine: Machine, place: CellPlace): string {
  const { cells, addressWidth } = itemAt(machine.spaces, place.space);
  return bankText(machine, place) + shownDigits(place.address % cells, addressWidth, machine);
}

function bankText(machine: Machine, { space, address }: CellPlace): string {
  const { cells, banks } = itemAt(machine.spaces, space);
  return banks > 1 ? `${Math.floor(address / cells)}:` : '';
}

/** A formula that is true or not, as it is printed. */
const COMPARES = / (=|!=|<|<=|>|>=|and|or) |^not /;

/** When a flag is 1, as its rule says. */
export function ruleWords({ rule, formula = '', noBorrow, into, odd, line }: Flag): string {
  if (line) return 'a line of a device, read when it is asked for';
  switch (rule) {
    case 'zero':
      return '1 where the result is 0';
    case 'negative':
      return 'the highest digit of the result: its sign';
    case 'carry':
      return noBorrow
        ? 'carried out of the top; after a subtraction 1 where nothing was borrowed'
        : 'carried out of the top, or borrowed there';
    case 'overflow':
      return '1 where the result, read with its sign, does not fit';
    case 'half-carry':
      return `carried, or borrowed, into digit ${into}`;
    case 'parity':
      return `1 where the result has an ${odd ? 'odd' : 'even'} number of ones`;
    case 'formula':
      return COMPARES.test(formula) ? `1 where ${formula}` : `1 unless ${formula} is 0`;
    case undefined:
      return 'given values by instructions only';
    default:
      return rule satisfies never;
  }
}

const unit = ({ radix }: Pick<Machine, 'radix'>): string => (radix === 10 ? 'digits' : 'bits');

/** “0x00 to 0xFF, 256 cells of 8 bits”, banks and what may not be written named. */
export function spaceWords(machine: Machine, { cells, banks, width, addressWidth, readOnly }: Space): string {
  const [first, last] = [0, cells - 1].map((each) => shownNumber(each, addressWidth, machine));
  const banked = banks > 1 ? `${banks} banks of ` : '';
  return `${first} to ${last}, ${banked}${cells.toLocaleString('en-US')} cells of ${width} ${unit(machine)}${readOnly ? ', read only' : ''}`;
}

/** “8 bits, 0 to 255”, where it is not too wide to be read, and what else is so of a register. */
export function registerWords(machine: Machine, { width, zero, start }: Register): string {
  const greatest = power(machine.radix, width) - 1;
  const range = greatest < 2 ** 20 ? `, 0 to ${greatest.toLocaleString('en-US')}` : '';
  const begins = start > 0 ? `; ${shownNumber(start, width, machine)} at the start` : '';
  return `${width} ${unit(machine)}${range}${zero ? '; reads 0 always' : begins}`;
}

/** What a built-in service does with which register. */
export function serviceWords({ service, argument, result }: Trap): string {
  const from = argument ? `, from ${argument.name}` : '';
  const into = result ? `, into ${result.name}` : '';
  return `${service}${from}${into}`;
}

/** Where a stack lies, which way it grows, and what its pointer points at. */
export function stackWords(machine: Machine, { pointer, space, from, to, down, full, step }: Stack): string {
  const memory = space === undefined ? undefined : itemAt(machine.spaces, space);
  const [first, last] = [from, to].map((each) => shownNumber(each, memory?.addressWidth ?? 1, machine));
  const where = memory && machine.spaces.length > 1 ? `${memory.name} ` : '';
  const size = step > 1 ? `, ${step} cells a value` : '';
  const at = full ? 'the top value' : 'the next free place';
  return `${where}${first} to ${last}${size}, grows ${down ? 'down' : 'up'}; ${itemAt(machine.registers, pointer).name} points at ${at}`;
}

/** Cells or ports of a device, and what of its status tells that it is ready. */
export function deviceWords(machine: Machine, { data, status, readyBit, readyLow }: Device): string {
  const place = (each: DevicePlace): string => {
    if ('port' in each) return `${machine.ports?.name ?? ''}[${shownNumber(each.port, 1, machine)}]`;
    const { name, addressWidth, banks, cells } = itemAt(machine.spaces, each.space);
    const bank = banks > 1 ? `${Math.floor(each.address / cells)}, ` : '';
    return `${name}[${bank}${shownNumber(each.address % cells, addressWidth, machine)}]`;
  };
  const ready = status && `status ${place(status)}, bit ${readyBit} is ${readyLow ? 0 : 1} when it is ready`;
  return [data && `data ${place(data)}`, ready].filter((each) => each).join('; ');
}

/** The built-in services that a trap can ask for. They read the state; the executor does the writing. */
import type { Machine, Trap } from '../machine/machine';
import type { Fault } from './report';
import type { State } from './state';

export interface ServiceEffect {
  /** Goes into the trap's result register; for a read also undefined while nothing is queued. */
  readonly value?: number;
  readonly output: string;
  readonly reads: boolean;
  readonly ends: boolean;
}

const NOTHING: ServiceEffect = { output: '', reads: false, ends: false };

/** `queued` is the next input, undefined where there is none. Numbers are written unsigned, followed by a line end. */
export function performService(
  machine: Machine,
  state: State,
  trap: Trap,
  queued: number | undefined,
): ServiceEffect | { readonly fault: Fault } {
  const argument = trap.argument === undefined ? 0 : state.registers[trap.argument]!;
  switch (trap.service) {
    case 'read number':
      return { ...NOTHING, reads: true, ...(queued !== undefined && { value: queued }) };
    case 'write number':
      return { ...NOTHING, output: `${argument}\n` };
    case 'write character':
      return { ...NOTHING, output: String.fromCharCode(argument & 0xffff) };
    case 'write text':
      return writeText(machine, state, trap, argument);
    case 'end':
      return { ...NOTHING, ends: true };
    default:
      return trap.service satisfies never;
  }
}

/** Reads cells from the argument's address up to the end value, at most once round the space. */
function writeText(machine: Machine, state: State, trap: Trap, address: number): ServiceEffect | { readonly fault: Fault } {
  const cells = state.spaces[machine.programSpace]!;
  let output = '';
  for (let count = 0; count < cells.length; count++) {
    const code = cells[(address + count) % cells.length]!;
    if (code === trap.end) return { ...NOTHING, output };
    output += String.fromCharCode(code & 0xffff);
  }
  return { fault: { kind: 'text without end', address } };
}

/** A number as typed for a register of `width` bits: decimal, 0x or 0b, with a sign; or why it is refused. */
export function readEntry(
  text: string,
  width: number,
  read: (text: string) => number | undefined,
): { value: number } | { refused: string } {
  const written = text.trim();
  const negative = written.startsWith('-');
  const size = read(negative ? written.slice(1).trim() : written);
  if (size === undefined)
    return { refused: written === '' ? 'Type a number first.' : `“${written.slice(0, 20)}” is no number. Write 58, 0x3A or 0b111010.` };
  const value = negative ? -size : size;
  if (value < -(2 ** (width - 1)) || value >= 2 ** width) {
    return { refused: `${value} does not fit into ${width} bits: ${-(2 ** (width - 1))} to ${2 ** width - 1} do.` };
  }
  return { value: value < 0 ? value + 2 ** width : value };
}

/** The built-in services that a trap can ask for. They read the state; the executor does the writing. */
import { signedReading, power } from '../../text/number';
import type { Machine, Trap } from '../../machine/model/machine';
import { usualBase, withLeadingZero } from '../../machine/model/numbers';
import type { Fault } from './report';
import { placeValue } from './composites';
import { queuedAt } from './devices';
import { deviceLatch, type State } from './state';
import type { RefusedEntry } from './entryProblems';

export interface ServiceEffect {
  /** Goes into the trap's result register. */
  readonly value?: number;
  readonly output: string;
  /** Nothing can be done before something is queued. */
  readonly waits: boolean;
  /** Queued inputs that are used up. */
  readonly takes: number;
  readonly ends: boolean;
  /** Cells of the program space that are written. */
  readonly cells: readonly { readonly address: number; readonly value: number }[];
  readonly latch?: { readonly latch: number; readonly value: number };
}

const NOTHING: ServiceEffect = { output: '', waits: false, takes: 0, ends: false, cells: [] };

interface ServiceCall {
  readonly machine: Machine;
  readonly state: State;
  readonly trap: Trap;
}

/** What a built-in service does now, or the fault that it ends in; the state is left alone. */
export function performService(asked: ServiceCall): ServiceEffect | { readonly fault: Fault } {
  const { machine, state, trap } = asked;
  const argument = trap.argument ? placeValue(machine, state, trap.argument) : 0;
  const width = trap.argument?.width ?? machine.wordWidth;
  const number = (text: string): ServiceEffect => ({ ...NOTHING, output: `${text}${trap.newLine ? '\n' : ''}` });
  const padded = (size: string): string => size.padStart(trap.pad, '0');
  switch (trap.service) {
    case 'read number':
    case 'read character': {
      const value = queuedAt(state, 0);
      if (value === undefined) return { ...NOTHING, waits: true };
      const shown = trap.service === 'read number' ? `${value}\n` : String.fromCharCode(value & 0xffff);
      return { ...NOTHING, value, takes: 1, output: trap.echo ? shown : '' };
    }
    case 'read line':
      return readLine(asked, argument);
    case 'write number':
      return number(padded(String(argument)));
    case 'write signed': {
      const value = signedReading(argument, width, machine.radix);
      return number(`${value < 0 ? '-' : ''}${padded(String(Math.abs(value)))}`);
    }
    case 'write hex':
      return number(padded(argument.toString(16).toUpperCase()));
    case 'write binary':
      return number(padded(argument.toString(2)));
    case 'write character':
      return { ...NOTHING, output: String.fromCharCode(argument & 0xffff) };
    case 'write text':
      return writeText(asked, argument);
    case 'new line':
      return { ...NOTHING, output: '\n' };
    case 'set lamps':
      return { ...NOTHING, latch: { latch: deviceLatch(machine, trap.device!, 'value'), value: argument } };
    case 'read switches':
      return { ...NOTHING, value: state.latches[deviceLatch(machine, trap.device!, 'value')]! };
    case 'end':
      return { ...NOTHING, ends: true };
    default:
      return trap.service satisfies never;
  }
}

/** Reads cells up to the end value, the length or the marked last character, at most once round the space. */
function writeText({ machine, state, trap }: ServiceCall, address: number): ServiceEffect | { readonly fault: Fault } {
  const cells = state.spaces[machine.programSpace]!;
  const length = trap.length && placeValue(machine, state, trap.length);
  const marked = trap.lastMarked === undefined ? undefined : power(machine.radix, trap.lastMarked);
  let output = '';
  for (let count = 0; count < cells.length; count++) {
    if (count === length) return { ...NOTHING, output };
    const code = cells[(address + count) % cells.length]!;
    if (length === undefined && marked === undefined && code === trap.end) return { ...NOTHING, output };
    const last = marked !== undefined && Math.floor(code / marked) % machine.radix !== 0;
    output += String.fromCharCode((last ? code - marked : code) & 0xffff);
    if (last) return { ...NOTHING, output };
  }
  if (length !== undefined || machine.faults['text without end']?.kind === 'ignore') return { ...NOTHING, output };
  return { fault: { kind: 'text without end', address } };
}

const LINE_END = 10;

/** A whole line of queued characters goes to cells, closed by the end value; the result is how many they are. */
function readLine({ machine, state, trap }: ServiceCall, address: number): ServiceEffect | { readonly fault: Fault } {
  const { queue: inputs, inputs: from } = state.control;
  const end = inputs.indexOf(LINE_END, from);
  if (end === -1) return { ...NOTHING, waits: true };
  const room = trap.length ? placeValue(machine, state, trap.length) : Infinity;
  const { cells: size, width } = machine.spaces[machine.programSpace]!;
  const codes = inputs.slice(from, Math.min(end, from + Math.min(room, size)));
  const cells = [...codes, ...(trap.end === undefined ? [] : [trap.end])].map((value, at) => ({
    address: (address + at) % size,
    value: value % power(machine.radix, width),
  }));
  const output = trap.echo ? Array.from(inputs.slice(from, end + 1), (each) => String.fromCharCode(each & 0xffff)).join('') : '';
  return { ...NOTHING, value: codes.length, takes: end + 1 - from, cells, output };
}

/** What a machine's program can be given: numbers, or characters where nothing on it reads numbers. */
export function inputKindOf(machine: Machine): 'numbers' | 'characters' | 'lines' {
  const services = machine.traps.map((each) => each.service);
  if (services.includes('read number')) return 'numbers';
  if (services.includes('read line')) return 'lines';
  return services.includes('read character') || machine.devices.some((each) => each.kind === 'keyboard') ? 'characters' : 'numbers';
}

const ESCAPES: Readonly<Record<string, string>> = { n: '\n', t: '\t', '"': '"', "'": "'", '\\': '\\' };

/** Values for the input queue as typed: a number; a text in quotes; on a machine that reads characters, plain text. */
export function readEntries(
  text: string,
  machine: Machine,
  read: (text: string) => number | undefined,
  base = usualBase(machine),
): { readonly values: readonly number[] } | RefusedEntry {
  const kind = inputKindOf(machine);
  const quoted = /^\s*(["'])([\s\S]*)\1\s*$/.exec(text)?.[2];
  if (quoted === undefined && kind === 'numbers') {
    const entry = readEntry(text, { width: machine.wordWidth, radix: machine.radix, suffixes: machine.assembly.suffixes, base }, read);
    return 'value' in entry ? { values: [entry.value] } : entry;
  }
  const characters = quoted?.replace(/\\(.)/g, (_, each: string) => ESCAPES[each] ?? each) ?? `${text}${kind === 'lines' ? '\n' : ''}`;
  if (characters === '') return { refused: { code: 'nothing-typed', wanted: 'characters' } };
  return { values: Array.from(characters, (each) => each.charCodeAt(0)) };
}

/** A number as typed for a register of `width` digits: decimal, 0x or 0b, with a sign; or why it is refused. */
export function readEntry(
  text: string,
  { width, radix, suffixes, base = 10 }: { width: number; radix: number; suffixes?: ReadonlyMap<string, number>; base?: number },
  read: (text: string) => number | undefined,
): { value: number } | RefusedEntry {
  const written = text.trim();
  const negative = written.startsWith('-');
  const bare = negative ? written.slice(1).trim() : written;
  const size = radix === 10 && !/^[0-9_]+$/.test(bare) ? undefined : read(bare);
  const zeroed = suffixes && withLeadingZero(bare, suffixes);
  if (zeroed) return { refused: { code: 'number-is-name', text: bare, zeroed } };
  if (written === '') return { refused: { code: 'nothing-typed', wanted: 'number' } };
  if (size === undefined) return { refused: { code: 'no-number', text: written, radix, base } };
  const value = negative ? -size : size;
  const count = power(radix, width);
  if (value < -count / 2 || value >= count) {
    return { refused: { code: 'too-great', value, width, radix, least: -count / 2, greatest: count - 1 } };
  }
  return { value: value < 0 ? value + count : value };
}

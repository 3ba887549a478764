/** One instruction of each form, written out and encoded: for cards, and for who learns how it is written. */
import { itemAt } from '../../text/itemAt';
import { power, shownDigits, shownNumber } from '../../text/number';
import type { Radix } from '../../notation/tree';
import { effectsOf } from './effects';
import { encode, nameIn, rangeOf, written } from './encode';
import { areAlike, holesOf } from './shapes';
import { programSpaceOf, type Field, type Form, type Machine, type Role } from './machine';

export interface Example {
  readonly line: string;
  /** Digits of its cells in the machine's base, as it would lie at `at`. */
  readonly cells: readonly string[];
  /** The same as numbers. */
  readonly words: readonly number[];
  readonly at: number;
}

/** Not at the very beginning, so that branches back have somewhere to go. */
const AT = 8;
/** A value that people can follow by hand. */
const USUAL = 5;

/** Where an example of a form lies. */
export const exampleAddress = (machine: Machine, form: Form): number => AT % Math.max(1, programSpaceOf(machine).cells - form.format.cells);

/** A usual value for each operand, by the name of its field. */
export function usualValues(machine: Machine, form: Form): Map<string, number> {
  const at = exampleAddress(machine, form);
  return new Map(form.operands.map((field) => [field.name, valueFor(machine, form, field, at)]));
}

/** Undefined where no values fit, as of a field that reaches nothing from there. */
export const exampleOf = (machine: Machine, form: Form): Example | undefined => exampleWith(machine, form, usualValues(machine, form));

/** The same with these values; undefined where they do not fit. */
export function exampleWith(machine: Machine, form: Form, values: ReadonlyMap<string, number>): Example | undefined {
  const { width, addressWidth } = programSpaceOf(machine);
  const at = exampleAddress(machine, form);
  const encoded = encode(machine, form, values, at);
  if ('refused' in encoded) return undefined;
  const requests = effectsOf(machine, form).requestFields;
  const show = (field: Field): string => {
    const value = values.get(field.name) ?? 0;
    const asked = requests.has(field.name)
      ? [...machine.traps, ...machine.routines].find((each) => each.number === value)?.name
      : undefined;
    if (field.relative || field.page) return shownNumber(value, addressWidth, machine);
    return (
      nameIn(field, value) ?? asked ?? (machine.declaresBase ? shownNumber(value, field.width + field.dropped, machine) : String(value))
    );
  };
  const words = encoded.cells;
  return { line: written(form, show), cells: words.map((each) => shownDigits(each, width, machine)), words, at };
}

function valueFor(machine: Machine, form: Form, field: Field, at: number): number {
  const { radix } = machine;
  if (field.names) {
    // What is written to a register that is always 0 shows nothing.
    const isZero = ([, [name]]: [number, readonly string[]]): boolean => machine.registers.some((each) => each.zero && each.name === name);
    const all = [...field.names].filter(([, names]) => names[0] !== '');
    const named = [...all.filter((each) => !isZero(each)), ...all.filter(isZero)];
    // Operands of one list are told apart; an operation is shown with a name.
    const same = form.operands.filter((each) => each.array !== undefined && each.array === field.array);
    return itemAt(named[same.indexOf(field)] ?? named[0] ?? itemAt([...field.names], 0), 0) as number;
  }
  const scale = power(radix, field.dropped);
  const next = at + form.format.cells;
  if (field.page) {
    const span = power(radix, field.width) * scale;
    return Math.floor(next / span) * span + Math.min(span - scale, Math.ceil(USUAL / scale) * scale);
  }
  if (field.relative) {
    const base = (field.relative.from === 'next' ? next : at) + field.relative.plus;
    return base + Math.max(scale, Math.ceil(4 / scale) * scale) + field.bias;
  }
  const request = [...machine.traps, ...machine.routines][0]?.number;
  if (request !== undefined && effectsOf(machine, form).requestFields.has(field.name)) return request;
  const { least, greatest } = rangeOf(field, radix);
  const usual = field.bias + Math.ceil(USUAL / scale) * scale;
  // What a shorter form can hold that is written alike would be assembled into that one.
  const place = holesOf(form).findIndex(({ name }) => name === field.name);
  const held = tighterForms(machine, form).map((each) => greatestOf(itemAt(holesOf(each), place), at, each.format.cells, radix));
  const beyond = held.length === 0 ? usual : Math.max(usual, ...held.map((each) => each + scale));
  if (beyond >= least && beyond <= greatest) return beyond;
  return usual >= least && usual <= greatest ? usual : greatest;
}

/** The greatest value that can be written where an instruction lies at `at`; of a distance, the farthest address. */
function greatestOf(field: Field, at: number, cells: number, radix: Radix): number {
  const { greatest } = rangeOf(field, radix);
  const { relative } = field;
  return relative ? at + (relative.from === 'next' ? cells : 0) + relative.plus + greatest : greatest;
}

/** Forms that are written alike and are tried before it. */
const tighterForms = (machine: Machine, form: Form): Form[] =>
  machine.forms.filter(
    (each) =>
      each.mnemonic === form.mnemonic &&
      areAlike(each, form) &&
      (each.format.cells < form.format.cells || (each.format.cells === form.format.cells && each.index < form.index)),
  );

/** Names of a machine for examples of what can be typed: a register that programs reckon in, a flag, a cell of a memory. */
export function namesForExamples(machine: Machine): {
  readonly register: string;
  readonly flag: string | undefined;
  readonly cell: string;
} {
  const own = machine.registers.filter((each) => !each.zero && !QUIET.has(each.role ?? ''));
  const register = own.find((each) => each.role === 'accumulator') ?? own[0] ?? itemAt(machine.registers, machine.programCounter);
  // Data lies in the last memory, where there are several.
  const space = machine.spaces.at(-1)!;
  const bank = space.banks > 1 ? '0, ' : '';
  return { register: register.name, flag: machine.flags[0]?.name, cell: `${space.name}[${bank}${shownNumber(4, 1, machine)}]` };
}

/** A script for runs of a machine, with one line of each kind that it has devices for. */
export function scriptForExamples(machine: Machine): string {
  const polled = machine.devices.find((each) => each.status);
  const switched = machine.devices.find((each) => each.kind === 'switches' && each.lines.size > 0);
  const lines = [
    'input 12 5',
    polled && `${polled.name} is not ready until 5 reads, then as it is`,
    switched && `${switched.name}.${[...switched.lines.keys()][0]} is 0 until tick 200, then 1`,
    `at 120: ${namesForExamples(machine).register} = 3`,
  ];
  return lines.filter((each) => each !== undefined).join('\n');
}

/** Registers that the processor needs for itself. */
const QUIET: ReadonlySet<string> = new Set<Role>([
  ...(['program counter', 'instruction', 'memory address', 'memory data', 'stack pointer'] as const),
  ...(['link', 'status', 'temporary', 'hidden scratch'] as const),
]);

/** The machine as everything above is given it: indices instead of names, ticks checked, encodings ready. */
import type { Slice } from '../notation/check';
import type { FlagRule, Tick } from '../notation/tree';

export const ROLES = [
  'program counter',
  'instruction',
  'accumulator',
  'memory address',
  'memory data',
  'stack pointer',
  'index',
  'general',
] as const;
export type Role = (typeof ROLES)[number];

export const SERVICES = ['read number', 'write number', 'write character', 'write text', 'end'] as const;
export type ServiceKind = (typeof SERVICES)[number];

export interface Register {
  readonly name: string;
  readonly title: string;
  readonly role?: Role;
  /** In bits, 1 to 32. */
  readonly width: number;
  readonly start: number;
  readonly parts: ReadonlyMap<string, Slice>;
}

export interface Flag {
  readonly name: string;
  readonly title: string;
  readonly rule?: FlagRule;
  readonly noBorrow: boolean;
  /** Half-carry: the bit that it is carried into. */
  readonly into: number;
  /** Parity: 1 stands for an odd count. */
  readonly odd: boolean;
  readonly start: number;
}

export interface Space {
  readonly name: string;
  readonly title: string;
  readonly cells: number;
  /** Width of a cell in bits. */
  readonly width: number;
  readonly fill: number;
  /** Digits an address needs, in bits. */
  readonly addressWidth: number;
}

/** unsigned: 0 to 2^w − 1; signed: two's complement; either: both readings are accepted. */
export type FieldKind = 'unsigned' | 'signed' | 'either';

export interface Field {
  readonly name: string;
  readonly kind: FieldKind;
  /** Bit positions in the whole encoding; bit 0 is the lowest of the last cell. */
  readonly high: number;
  readonly low: number;
}

export interface Format {
  readonly name: string;
  /** Cells of the program space, 1 to 4. */
  readonly cells: number;
  readonly fields: readonly Field[];
}

/** A piece of a written form: literal text, or a hole for the field of that name. */
export type Piece = { readonly text: string } | { readonly field: string };

export interface ScheduledTick {
  /** Index into `phases`. */
  readonly phase: number;
  readonly part: 'first' | 'decode' | 'more' | 'execute' | 'finish';
  readonly tick: Tick;
}

export interface Form {
  readonly mnemonic: string;
  readonly title: string;
  readonly family: string;
  readonly written: string;
  readonly pieces: readonly Piece[];
  readonly format: Format;
  /** Fixed fields of the first cell. */
  readonly fixed: readonly { readonly field: Field; readonly value: number }[];
  readonly operands: readonly Field[];
  readonly index: number;
  /** Every tick of the instruction, in order, the shared cycle included. */
  readonly schedule: readonly ScheduledTick[];
}

export interface Trap {
  readonly number: number;
  readonly name: string;
  readonly service: ServiceKind;
  /** Register the service reads. */
  readonly argument?: number;
  /** Register the service writes. */
  readonly result?: number;
  /** For `write text`: the value that ends the text. */
  readonly end: number;
}

export interface Machine {
  readonly name: string;
  readonly title: string;
  readonly wordWidth: number;
  readonly registers: readonly Register[];
  readonly flags: readonly Flag[];
  readonly spaces: readonly Space[];
  readonly phases: readonly string[];
  readonly forms: readonly Form[];
  readonly traps: readonly Trap[];
  /** The ticks before an instruction is known: `first` and decode. */
  readonly opening: readonly ScheduledTick[];
  readonly programCounter: number;
  readonly instructionRegister: number;
  /** The space programs run in. */
  readonly programSpace: number;
}

export const programSpaceOf = (machine: Machine): Space => machine.spaces[machine.programSpace]!;

/** The register with a role, as an index, or undefined. */
export const withRole = (machine: Machine, role: Role): number | undefined => {
  const index = machine.registers.findIndex((each) => each.role === role);
  return index === -1 ? undefined : index;
};

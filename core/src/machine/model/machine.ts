/** The machine as everything above is given it: indices instead of names, ticks checked, encodings ready. */
import type { Slice } from '../../notation/scope';
import { flatTargets, type Expr, type Radix, type StockRule, type Target, type Tick } from '../../notation/tree';
import type { Base } from '../../text/number';
import { itemAt } from '../../text/itemAt';

export const ROLES = [
  'program counter',
  'instruction',
  'accumulator',
  'memory address',
  'memory data',
  'stack pointer',
  'link',
  'status',
  'index',
  'general',
  'argument',
  'result',
  'kept',
  'temporary',
  'hidden scratch',
] as const;
export type Role = (typeof ROLES)[number];

export const SERVICES = [
  'read number',
  'read character',
  'read line',
  'write number',
  'write signed',
  'write hex',
  'write binary',
  'write character',
  'write text',
  'new line',
  'set lamps',
  'read switches',
  'end',
] as const;
export type ServiceKind = (typeof SERVICES)[number];

/** Colours by which families of instructions are told apart, beside their signs. */
export const TONES = ['water', 'sand', 'rust', 'mist', 'moss', 'plum'] as const;
export type Tone = (typeof TONES)[number];

/** Instructions that belong together. */
export interface Family {
  readonly name: string;
  readonly sign: string;
  readonly tone: Tone;
}

export interface Register {
  readonly name: string;
  readonly title: string;
  readonly role?: Role;
  /** In digits: 1 to 32 bits, or 1 to 9 decimal digits. */
  readonly width: number;
  readonly start: number;
  readonly parts: ReadonlyMap<string, Slice>;
  /** Reads 0 always; what is written to it is thrown away. */
  readonly zero: boolean;
  /** The array that it is an element of. */
  readonly array?: string;
  /** A second name. */
  readonly also?: string;
}

/** Registers that can be named by number. */
export interface RegisterArray {
  readonly name: string;
  readonly first: number;
  /** How many numbers there are. */
  readonly count: number;
  /** 2 where each number means a pair of registers. */
  readonly scale: number;
  /** Of one element, pairs taken together. */
  readonly width: number;
  /** By number: what it is called in programs, the first name first. */
  readonly names: readonly (readonly string[])[];
  /** The names are the document's own, so a number beyond them is written by no name. */
  readonly named: boolean;
}

/** One or more registers that can be read and written as one. */
export interface RegisterPlace {
  readonly name: string;
  readonly width: number;
  readonly value: Expr;
  readonly target: Target;
}

/** The registers that a place is made of, high first. */
export const registersIn = ({ target }: RegisterPlace): readonly number[] =>
  flatTargets(target).flatMap((each) => (each.kind === 'register' ? [each.register] : []));

/** Registers and pairs of one width by number. */
export interface View {
  readonly name: string;
  readonly title: string;
  readonly width: number;
  /** Undefined where a number stands for none. */
  readonly options: readonly ((RegisterPlace & { readonly names: readonly string[] }) | undefined)[];
}

/** What a field of an instruction can name. */
export interface Condition {
  /** First the one that is written by the disassembler; it may be empty. */
  readonly names: readonly string[];
  readonly title: string;
  readonly code: number;
  readonly when: Expr;
  /** As written in the document; “always” where nothing is. */
  readonly text: string;
}

/** A pair or a packed status word, as it is read. */
export interface Composite {
  readonly name: string;
  readonly title: string;
  readonly width: number;
  readonly value: Expr;
  /** A word of flags and no registers. */
  readonly packed: boolean;
}

export interface Flag {
  readonly name: string;
  readonly title: string;
  readonly rule?: StockRule | 'formula';
  /** As text, in the one way in which notation is printed. */
  readonly formula?: string;
  readonly noBorrow: boolean;
  /** Half-carry: the digit that it is carried into. */
  readonly into: number;
  /** Parity: 1 stands for an odd count. */
  readonly odd: boolean;
  readonly start: number;
  /** The device line that it reads; it is no state then. */
  readonly line?: { readonly device: number; readonly bit: number };
}

export interface Space {
  readonly name: string;
  readonly title: string;
  /** Of one bank. */
  readonly cells: number;
  readonly banks: number;
  /** Width of a cell in digits. */
  readonly width: number;
  readonly fill: number;
  readonly readOnly: boolean;
  /** Digits that an address within a bank needs. */
  readonly addressWidth: number;
}

export interface Ports {
  readonly name: string;
  readonly title: string;
  readonly count: number;
  readonly width: number;
  /** What a port with nothing attached reads; without it such a port is a fault. */
  readonly idle?: number;
}

export const DEVICE_KINDS = ['keyboard', 'display', 'lamps', 'switches', 'digits', 'timer'] as const;
export type DeviceKind = (typeof DEVICE_KINDS)[number];

/** A cell (counted over all banks) or a port. */
export type DevicePlace = { readonly space: number; readonly address: number } | { readonly port: number };

export interface Device {
  readonly name: string;
  readonly title: string;
  readonly kind: DeviceKind;
  readonly width: number;
  readonly data?: DevicePlace;
  readonly status?: DevicePlace;
  /** The digit of the status that tells of readiness, and what it reads when ready. */
  readonly readyBit: number;
  readonly readyLow: boolean;
  /** Keyboard: reading the data takes it away; else a write to the status does. */
  readonly clears: boolean;
  /** Display: ticks that it is not ready after each character. */
  readonly busy: number;
  /** Names of single lines and their bits. */
  readonly lines: ReadonlyMap<string, number>;
  /** By name, where a line has more words than that. */
  readonly lineTitles: ReadonlyMap<string, string>;
}

export interface Stack {
  readonly name: string;
  readonly title: string;
  readonly pointer: number;
  readonly space?: number;
  /** First and last place, both inside. */
  readonly from: number;
  readonly to: number;
  readonly down: boolean;
  /** The pointer stands at the top value; else at the next free place. */
  readonly full: boolean;
  /** Places that one value takes. */
  readonly step: number;
}

/** unsigned: 0 to r^w − 1; signed: two's (ten's) complement; either: both readings are accepted. */
export type FieldKind = 'unsigned' | 'signed' | 'either';

/** Digits of the encoding, and the digits of the field that stand there. */
export interface FieldPiece {
  readonly high: number;
  readonly low: number;
  /** Lowest digit of the field in this piece. */
  readonly at: number;
}

export interface Field {
  readonly name: string;
  readonly kind: FieldKind;
  /** Digits that are encoded. */
  readonly width: number;
  /** High to low. Digit 0 of an encoding is the lowest of its last cell. */
  readonly pieces: readonly FieldPiece[];
  /** Low zeros that are not encoded. */
  readonly dropped: number;
  /** The value is the encoded one plus this. */
  readonly bias: number;
  /** Names an element of this register array or view. */
  readonly array?: string;
  /** By value: how it is written, the first name first. Without them the field is written as a number. */
  readonly names?: ReadonlyMap<number, readonly string[]>;
  /** Its values are codes of conditions. */
  readonly condition?: boolean;
  /** A value without a name is not of this form. */
  readonly named?: boolean;
  /** Low digits of an address whose high ones are those of `next`. */
  readonly page: boolean;
  /** The value written is a target; the distance from here is encoded. */
  readonly relative?: { readonly from: 'here' | 'next'; readonly plus: number };
}

export interface Format {
  readonly name: string;
  /** Cells of the program space, 1 to 4. */
  readonly cells: number;
  readonly fields: readonly Field[];
  /** Digits that have to be 0. */
  readonly zeros: readonly FieldPiece[];
  /** Instructions of this format are carried out only where it holds, as written. */
  readonly onlyIf?: string;
}

/** Where it does not hold, an instruction is passed over. */
export interface Guard {
  readonly condition: Expr;
  readonly text: string;
}

/** A piece of a written form: literal text, or a hole for the field of that name. */
export type Piece = { readonly text: string } | { readonly field: string };

export const PARTS = ['first', 'decode', 'more', 'execute', 'finish', 'enter'] as const;
export type Part = (typeof PARTS)[number];

export interface ScheduledTick {
  /** Index into `phases`. */
  readonly phase: number;
  readonly part: Part;
  readonly tick: Tick;
  /** Which tick of its part it is, from 0. */
  readonly at: number;
  /** Of ticks that enter a trap from an instruction: the number of the trap. */
  readonly cause?: Expr;
  /** Of the first tick of a guarded instruction's own: read before all else. */
  readonly guard?: Guard;
}

export interface Form {
  readonly mnemonic: string;
  readonly title: string;
  readonly family: string;
  readonly written: string;
  readonly pieces: readonly Piece[];
  readonly format: Format;
  readonly fixed: readonly { readonly field: Field; readonly value: number }[];
  readonly operands: readonly Field[];
  readonly index: number;
  /** Every tick of the instruction, in order, the shared cycle included. */
  readonly schedule: readonly ScheduledTick[];
  /** Values, or a text with the machine's mark, that follow the instruction's cells as part of its line. */
  readonly inline?: 'cells' | 'string';
  /** What has to come of what, as written; tried whenever the machine is being defined. */
  readonly examples: readonly { readonly before: string; readonly after: string }[];
  /** Digits of later cells are fixed too, so the first cell alone does not tell it. */
  readonly settledLate: boolean;
  readonly guard?: Guard;
}

/** A written form that stands for others. */
export interface ShortForm {
  readonly mnemonic: string;
  readonly title: string;
  readonly written: string;
  readonly pieces: readonly Piece[];
  /** Lines of assembly with {holes}. */
  readonly lines: readonly string[];
}

export interface Trap {
  readonly number: number;
  readonly name: string;
  readonly service: ServiceKind;
  /** What the service reads. */
  readonly argument?: RegisterPlace;
  /** What the service writes. */
  readonly result?: RegisterPlace;
  /** With a count: the length of a text, the room for a line. */
  readonly length?: RegisterPlace;
  /** `write text`, `read line`: the value that ends the text. */
  readonly end?: number;
  /** `write text`: the digit that is set in the last character. */
  readonly lastMarked?: number;
  /** Least digits written by number services; padded with zeros. */
  readonly pad: number;
  readonly echo: boolean;
  /** A number is followed by a line end. */
  readonly newLine: boolean;
  readonly device?: number;
}

export const FAULT_KINDS = [
  'undefined opcode',
  'cell outside',
  'program counter outside',
  'read-only',
  'stack limit',
  'division',
  'two writers',
  'empty port',
  'text without end',
  'undefined service',
  'register outside',
  'executing data',
  'executing an empty cell',
  'result too wide',
] as const;
export type FaultKind = (typeof FAULT_KINDS)[number];

export type Disposition =
  | { readonly kind: 'stop' | 'wrap' | 'ignore' | 'end' }
  | { readonly kind: 'value'; readonly value: number }
  | { readonly kind: 'trap'; readonly cause: number };

/** Reworded sentences: text and checked places. */
export type Wording = readonly (string | WordingPlace)[];
export interface WordingPlace {
  readonly kind: 'register' | 'flag' | 'field' | 'latch';
  readonly name: string;
  readonly index: number;
  readonly old: boolean;
  /** The label that the value is the address of. */
  readonly label: boolean;
}

/** Panels of the bench whose headings a machine can reword. */
export type PanelName = 'program' | 'console' | 'registers' | 'flags';

export interface Words {
  readonly notes: string;
  readonly panels: { readonly [name in PanelName]?: string | undefined };
  /** By phase. */
  readonly phases: ReadonlyMap<number, Wording>;
  /** By mnemonic: told at the last tick of its own. */
  readonly instructions: ReadonlyMap<string, Wording>;
  /** By mnemonic and number of the tick of its own, from 1: “ADD 3”. */
  readonly ticks: ReadonlyMap<string, Wording>;
}

/** How a text is stored by .string: with a value behind it, its length before it, or a digit set in its last character. */
export type StringMark =
  | { readonly kind: 'end'; readonly value: number }
  | { readonly kind: 'length' }
  | { readonly kind: 'last'; readonly digit: number };

/** What the machine says about programs as text. */
export interface AssemblyRules {
  readonly constants: ReadonlyMap<string, number>;
  /** Small letters behind a number, and the base that each means. */
  readonly suffixes: ReadonlyMap<string, number>;
  readonly strings: StringMark;
  /** Instructions begin at multiples of it. */
  readonly align: number;
  /** Names that differ in case only are two, where a program says nothing else. */
  readonly exact: boolean;
}

/** The machine's own routines, as assembly text, and the cells that are theirs. */
export interface SystemSource {
  readonly source: string;
  readonly from: number;
  readonly to: number;
  /** Where the text stands in the document, for problems: offset of each line. */
  readonly lines: readonly number[];
  readonly vector?: { readonly at: number; readonly count: number };
}

export interface Machine {
  readonly name: string;
  /** The language that its document was read in. */
  readonly language: number;
  readonly title: string;
  readonly radix: Radix;
  /** The base that numbers are shown in; and whether unmarked ones are read in it. */
  readonly base: Base;
  readonly declaresBase: boolean;
  readonly wordWidth: number;
  readonly registers: readonly Register[];
  readonly arrays: readonly RegisterArray[];
  readonly views: readonly View[];
  readonly composites: readonly Composite[];
  readonly flags: readonly Flag[];
  readonly conditions: readonly Condition[];
  readonly spaces: readonly Space[];
  readonly ports?: Ports;
  readonly devices: readonly Device[];
  readonly stacks: readonly Stack[];
  readonly phases: readonly string[];
  readonly formats: readonly Format[];
  readonly forms: readonly Form[];
  readonly shortForms: readonly ShortForm[];
  /** Those that instructions belong to, in the order of the document. */
  readonly families: readonly Family[];
  readonly traps: readonly Trap[];
  /** Traps that have a routine in memory instead of a built-in service. */
  readonly routines: readonly { readonly number: number; readonly name: string }[];
  /** The ticks before an instruction is known: `first` and decode. */
  readonly opening: readonly ScheduledTick[];
  /** The ticks that enter a trap after a fault, behind a place holder; empty where there are none. */
  readonly entry: readonly ScheduledTick[];
  readonly faults: Readonly<Partial<Record<FaultKind, Disposition>>>;
  readonly programCounter: number;
  /** Where PC starts whatever the program says. */
  readonly fixedStart?: number;
  /** Where the cells of an instruction lie in its registers, cell one first. */
  readonly slots: readonly Slice[];
  /** The register of cell one. */
  readonly instructionRegister: number;
  /** The space programs run in. */
  readonly programSpace: number;
  readonly words: Words;
  readonly assembly: AssemblyRules;
  readonly system?: SystemSource;
}

/** Every name of a register, its second one too, with its index. */
export const registersByName = (registers: readonly Pick<Register, 'name' | 'also'>[]): ReadonlyMap<string, number> =>
  new Map(
    registers.flatMap(({ name, also }, at) => [name, ...(also === undefined ? [] : [also])].map((each): [string, number] => [each, at])),
  );

/** A flag as the notation calls it: `flags.C` where a register is called C. */
export function flagName({ registers, flags }: Machine, flag: number): string {
  const { name } = itemAt(flags, flag);
  return registers.some((each) => each.name === name || each.also === name) ? `flags.${name}` : name;
}

/** The memory that instructions are fetched from. */
export const programSpaceOf = (machine: Machine): Space => machine.spaces[machine.programSpace]!;

/** The register with a role, as an index, or undefined. */
export const withRole = (machine: Machine, role: Role): number | undefined => {
  const index = machine.registers.findIndex((each) => each.role === role);
  return index === -1 ? undefined : index;
};

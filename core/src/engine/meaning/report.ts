/** What one tick did, as plain data: what moved, from where, to where, over which path, and why flags are as they are. */
import type { MarkWord } from '../../notation/syntax';
import type { FlagRule } from '../../notation/tree';
import type { Machine, Part, ServiceKind } from '../../machine/model/machine';
import { itemAt } from '../../text/itemAt';
import type { Worked } from './arithmetic';

export type { Worked };

export type PlaceRef =
  | { readonly kind: 'register'; readonly register: number; readonly high: number; readonly low: number }
  | { readonly kind: 'flag'; readonly flag: number }
  /** `address` counts over all banks. */
  | { readonly kind: 'cell'; readonly space: number; readonly address: number }
  | { readonly kind: 'port'; readonly port: number }
  | { readonly kind: 'line'; readonly device: number; readonly bit: number };

/** Registers that are read or written as one, high first. */
export interface PairRef {
  readonly kind: 'pair';
  readonly name: string;
  readonly registers: readonly number[];
}

/** The registers of a pair as places. */
export const halvesOf = (machine: Machine, { registers }: PairRef): PlaceRef[] =>
  registers.map((register) => ({ kind: 'register', register, high: itemAt(machine.registers, register).width - 1, low: 0 }));

/** A value that was read. Without a place it is a number written in the tick. */
export interface ReadValue {
  readonly place: PlaceRef | PairRef | undefined;
  /** Of more than 53 bits only where a pair is that wide. */
  readonly value: number | bigint;
  readonly width: number;
  /** The operand field, register part or latch it was named by. */
  readonly name: string | undefined;
}

/** straight: a value is moved; alu: an operation makes it; count: a register steps itself; service: a trap brings it. */
export type Route = 'straight' | 'alu' | 'count' | 'service';

export interface Transfer {
  readonly sources: readonly ReadValue[];
  /** Where what was read is not the value itself: what stands side by side in it, high first, each with the digits that it gave. */
  readonly parts?: readonly ReadValue[] | undefined;
  /** What addressed a cell that was read or written. */
  readonly addressed: readonly ReadValue[];
  readonly target: PlaceRef;
  readonly before: number;
  readonly value: number;
  readonly width: number;
  readonly route: Route;
  /** address: the value is an address on its way; data: all else. */
  readonly path: 'address' | 'data';
  readonly worked: Worked | undefined;
  /** The digit of what was worked out that the value begins with; 0 where it is left out. */
  readonly lowest?: number;
  /** The place is fixed, so the value is thrown away. */
  readonly lost: boolean;
  /** The whole that it is a part of, where several registers were written as one; the same for each of them. */
  readonly joint?: Joint | undefined;
}

/** Registers written as one. */
export interface Joint {
  readonly place: PairRef;
  readonly before: number | bigint;
  readonly value: number | bigint;
  readonly width: number;
}

/** A transfer as it is told and drawn: what was written as one is one. */
export type ToldTransfer = Omit<Transfer, 'target' | 'before' | 'value'> & {
  readonly target: PlaceRef | PairRef;
  readonly before: number | bigint;
  readonly value: number | bigint;
};

/** Transfers with the parts of a pair taken together, where the first of them stood. */
export function toldTransfers(transfers: readonly Transfer[]): readonly ToldTransfer[] {
  if (!transfers.some((each) => each.joint)) return transfers;
  const told = new Set<string>();
  return transfers.flatMap((each): ToldTransfer[] => {
    const { joint } = each;
    if (!joint) return [each];
    const key = joint.place.registers.join();
    if (told.has(key)) return [];
    told.add(key);
    return [{ ...each, target: joint.place, before: joint.before, value: joint.value, width: joint.width }];
  });
}

export interface FlagChange {
  readonly flag: number;
  readonly before: number;
  readonly after: number;
  /** Undefined where the tick gave the flag a value. */
  readonly rule: FlagRule | undefined;
  /** Carry after this subtraction reads 1 when no borrow was needed. */
  readonly noBorrow: boolean;
  readonly worked: Worked | undefined;
}

/** A condition that was read. */
export interface ConditionReport {
  readonly text: string;
  readonly holds: boolean;
  readonly readings: readonly ReadValue[];
}

export interface ServiceReport {
  readonly number: number;
  readonly trap?: string;
  readonly kind?: ServiceKind;
  readonly value?: number;
  /** What it reads or brings: a register or a pair. */
  readonly place?: { readonly name: string; readonly width: number; readonly registers: readonly number[] };
  readonly output?: string;
}

export type Fault =
  | { readonly kind: 'undefined opcode'; readonly cell: number; readonly address: number }
  | { readonly kind: 'cell outside'; readonly space: number; readonly address: number; readonly bank: number }
  | { readonly kind: 'program counter outside'; readonly address: number }
  | { readonly kind: 'read-only'; readonly space: number; readonly address: number }
  | { readonly kind: 'stack limit'; readonly stack: number; readonly way: 'push' | 'pop' }
  | { readonly kind: 'division'; readonly a: number; readonly b: number }
  | { readonly kind: 'two writers'; readonly place: PlaceRef }
  | { readonly kind: 'empty port'; readonly port: number }
  | { readonly kind: 'text without end'; readonly address: number }
  | { readonly kind: 'undefined service'; readonly number: number }
  | { readonly kind: 'register outside'; readonly index: number; readonly count: number }
  | { readonly kind: 'executing data' | 'executing an empty cell'; readonly address: number }
  | { readonly kind: 'result too wide'; readonly exact: number; readonly width: number };

/** A mark of the tick: which call, trap or return it was, or what it did with a stack. */
export type MarkReport =
  | { readonly kind: MarkWord; readonly target: number; readonly returnTo: number | undefined }
  | { readonly kind: 'push' | 'pop'; readonly stack: number };

export interface TickReport {
  /** 1 for the first tick of the run. */
  readonly tick: number;
  /** Address at which the instruction began. */
  readonly here: number;
  /** Position within the instruction, from 1, and how many ticks it has where that is known. */
  readonly step: number;
  readonly total: number | undefined;
  readonly phase: number;
  readonly part: Part;
  /** Which tick of its part it is, from 0. */
  readonly at: number;
  readonly text: string;
  /** Index of the form, once decoded. */
  readonly form: number | undefined;
  readonly transfers: readonly Transfer[];
  readonly compared: (Worked & { readonly sources: readonly ReadValue[] }) | undefined;
  readonly flags: readonly FlagChange[];
  readonly condition: ConditionReport | undefined;
  /** Of the tick in which a guard is read; where it does not hold, the instruction is passed over. */
  readonly guard: ConditionReport | undefined;
  readonly decoded: { readonly cell: number } | undefined;
  readonly service: ServiceReport | undefined;
  /** The device that a `wait` asked. */
  readonly awaited: number | undefined;
  /** It was not ready yet: the tick passed, and comes again. */
  readonly stalled: boolean;
  readonly marks: readonly MarkReport[];
  readonly halted: boolean;
  readonly fault: Fault | undefined;
  /** The fault that this tick begins to enter a trap for. */
  readonly trapped: Fault | undefined;
}

export type Outcome = 'done' | 'halted' | 'waiting' | 'fault';
/** Of a tick after which a run does not go on by itself. */
export type Ending = Exclude<Outcome, 'done'>;

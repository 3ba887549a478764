/** The checked tree of a tick: names are indices, every value has a width. Both meaning and drawing read it. */
import type { BinaryOperator, UnaryOperator } from './syntax';
import type { Span } from '../text/source';

/** Widths are in bits, 1 to 32. Every value is unsigned, 0 to 2^width − 1. */
export type Expr =
  | { readonly kind: 'literal'; readonly value: number; readonly width: number }
  | { readonly kind: 'register'; readonly register: number; readonly width: number }
  | {
      readonly kind: 'slice';
      readonly register: number;
      readonly high: number;
      readonly low: number;
      readonly width: number;
      /** The operand field or register part that these bits are named by. */
      readonly name?: string;
      readonly field: boolean;
    }
  | { readonly kind: 'flag'; readonly flag: number; readonly width: 1 }
  | { readonly kind: 'latch'; readonly latch: Latch; readonly width: number }
  | { readonly kind: 'cell'; readonly space: number; readonly address: Expr; readonly width: number }
  | { readonly kind: 'unary'; readonly operator: UnaryOperator; readonly operand: Expr; readonly width: number }
  | {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: Expr;
      readonly right: Expr;
      readonly width: number;
      /** A comparison of two's complement readings. */
      readonly signed: boolean;
    }
  | {
      readonly kind: 'shift';
      readonly operator: ShiftOperator;
      readonly operand: Expr;
      readonly places: Expr;
      readonly through?: Expr;
      readonly width: number;
    }
  | { readonly kind: 'join'; readonly parts: readonly Expr[]; readonly width: number }
  /** `low` keeps the low digits; `extend` repeats the top one. */
  | { readonly kind: 'resize'; readonly operand: Expr; readonly signed: boolean; readonly width: number };

/** Shifts and rotates with names of their own; with `through`, a rotate takes that flag along as one more digit. */
export type ShiftOperator = 'rotl' | 'rotr' | 'asr';

/** `here`: address of the instruction under way; `length`: its cells; `next`: here + length. */
export type Latch = 'here' | 'next' | 'length';

export type Target =
  | {
      readonly kind: 'register';
      readonly register: number;
      readonly high: number;
      readonly low: number;
      readonly width: number;
      readonly whole: boolean;
    }
  | { readonly kind: 'flag'; readonly flag: number; readonly width: 1 }
  | { readonly kind: 'cell'; readonly space: number; readonly address: Expr; readonly width: number };

export const FLAG_RULES = ['zero', 'negative', 'carry', 'overflow', 'half-carry', 'parity'] as const;
export type FlagRule = (typeof FLAG_RULES)[number];

/** What a flagged tick computes. `carry` is the flag of `a + b + C`, or the one a rotate goes through. */
export interface Operation {
  readonly operator: '+' | '-' | '*' | '&' | '|' | '^' | '<<' | '>>' | '~' | 'negate' | 'value' | ShiftOperator;
  readonly a: Expr;
  readonly b?: Expr;
  readonly carry?: Expr;
  readonly width: number;
}

export interface FlagEffect {
  readonly flag: number;
  readonly rule: FlagRule;
  /** Carry after subtraction reads 1 when no borrow was needed. */
  readonly noBorrow: boolean;
  /** Half-carry: the digit that it is carried into; bit 4 unless the machine says otherwise. */
  readonly into: number;
  /** Parity reads 1 for an odd count of ones. */
  readonly odd: boolean;
}

export interface Flagged {
  readonly operation: Operation;
  readonly effects: readonly FlagEffect[];
}

export type Action =
  | { readonly kind: 'transfer'; readonly target: Target; readonly value: Expr; readonly flagged?: Flagged }
  | { readonly kind: 'compare'; readonly flagged: Flagged }
  | {
      readonly kind: 'if';
      readonly condition: Expr;
      readonly text: string;
      readonly then: readonly Action[];
      readonly otherwise: readonly Action[];
    }
  | { readonly kind: 'halt' }
  | { readonly kind: 'service'; readonly number: Expr };

export interface Tick {
  readonly text: string;
  readonly span: Span;
  readonly actions: readonly Action[];
}

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
    };

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

export type FlagRule = 'zero' | 'negative' | 'carry' | 'overflow';

/** What a flagged tick computes. `carry` is the flag of `a + b + C`. */
export interface Operation {
  readonly operator: '+' | '-' | '&' | '|' | '^' | '<<' | '>>' | '~' | 'negate' | 'value';
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

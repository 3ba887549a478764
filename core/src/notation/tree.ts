/** The checked tree of a tick: names are indices, every value has a width. Both meaning and drawing read it. */
import type { ConditionCase } from './scope';
import type { BinaryOperator, MarkWord, UnaryOperator } from './syntax';
import type { Span } from '../text/source';

/** Digits are bits or decimal digits: a machine is one or the other throughout. */
export type Radix = 2 | 10;

/** Where a register of an array is: first + scale · index + offset. */
export interface ElementPlace {
  readonly first: number;
  /** How many values the index may have. */
  readonly count: number;
  readonly scale: number;
  readonly offset: number;
  readonly index: Expr;
}

/** Widths are in digits. Every value is unsigned, 0 to radix^width − 1. */
export type Expr =
  | { readonly kind: 'literal'; readonly value: number; readonly width: number }
  | { readonly kind: 'register'; readonly register: number; readonly width: number }
  | {
      readonly kind: 'slice';
      readonly register: number;
      readonly high: number;
      readonly low: number;
      readonly width: number;
      /** The operand field or register part that these digits are named by. */
      readonly name?: string;
      readonly field: boolean;
    }
  /** Digits of any other value. */
  | { readonly kind: 'digits'; readonly operand: Expr; readonly high: number; readonly low: number; readonly width: number }
  /** An operand field that is put together from pieces of the instruction. */
  | { readonly kind: 'field'; readonly name: string; readonly register: number; readonly operand: Expr; readonly width: number }
  | { readonly kind: 'flag'; readonly flag: number; readonly width: 1 }
  | { readonly kind: 'line'; readonly device: number; readonly bit: number; readonly width: 1 }
  | { readonly kind: 'latch'; readonly latch: Latch; readonly width: number }
  /** What a device shows, for those who look on; no tick can name it. */
  | { readonly kind: 'shown'; readonly device: number; readonly width: number }
  /** In a flag's formula: the operands and the result of the flagged operation. */
  | { readonly kind: 'bound'; readonly name: Bound; readonly width: number }
  | (ElementPlace & { readonly kind: 'element'; readonly width: number })
  /** One of a list, by number; where none stands at a number it is no register. */
  | { readonly kind: 'choose'; readonly index: Expr; readonly options: readonly (Expr | undefined)[]; readonly width: number }
  /** 1 where the condition with the operand's value as its code holds; 0 where there is none. */
  | { readonly kind: 'holds'; readonly operand: Expr; readonly cases: readonly ConditionCase[]; readonly width: 1 }
  | { readonly kind: 'cell'; readonly space: number; readonly bank?: Expr; readonly address: Expr; readonly width: number }
  | { readonly kind: 'port'; readonly port: Expr; readonly width: number }
  | { readonly kind: 'unary'; readonly operator: UnaryOperator; readonly operand: Expr; readonly width: number }
  | {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: Expr;
      readonly right: Expr;
      readonly width: number;
      /** Both sides are read as two's (ten's) complement. */
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
  /** `low` keeps the low digits; `extend` repeats the sign. */
  | { readonly kind: 'resize'; readonly operand: Expr; readonly signed: boolean; readonly width: number };

/** Shifts and rotates with names of their own; with `through`, a rotate takes that flag along as one more digit. */
export type ShiftOperator = 'rotl' | 'rotr' | 'asr';

/** `here`: address of the instruction under way; `length`: its cells; `next`: here + length; `cause`: of the trap being entered. */
export type Latch = 'here' | 'next' | 'length' | 'cause';

export type Bound = 'a' | 'b' | 'result';

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
  | { readonly kind: 'cell'; readonly space: number; readonly bank?: Expr; readonly address: Expr; readonly width: number }
  | (ElementPlace & { readonly kind: 'element'; readonly width: number })
  /** One of a list, by number. */
  | { readonly kind: 'choose'; readonly index: Expr; readonly options: readonly (Target | undefined)[]; readonly width: number }
  | { readonly kind: 'port'; readonly port: Expr; readonly width: number }
  /** Several places written as one, high digits first. */
  | { readonly kind: 'joined'; readonly parts: readonly Target[]; readonly width: number }
  /** Digits of a packed word that are fixed: what is written there is thrown away. */
  | { readonly kind: 'nowhere'; readonly width: number };

export const FLAG_RULES = ['zero', 'negative', 'carry', 'overflow', 'half-carry', 'parity'] as const;
export type StockRule = (typeof FLAG_RULES)[number];
export type FlagRule = StockRule | 'formula';

/** What a flagged tick computes. `carry` is the flag of `a + b + C`, or the one a rotate goes through. */
export interface Operation {
  readonly operator: '+' | '-' | '*' | '/' | '%' | '&' | '|' | '^' | '<<' | '>>' | '~' | 'negate' | 'value' | ShiftOperator;
  readonly a: Expr;
  readonly b?: Expr;
  readonly carry?: Expr;
  readonly width: number;
  readonly signed: boolean;
  /** Of a and b. */
  readonly widths: readonly [a: number, b: number];
  /** Which of a and b has had its sign repeated, and so counts with it; undefined where none has. */
  readonly extended?: readonly [a: boolean, b: boolean];
}

export interface FlagEffect {
  readonly flag: number;
  readonly rule: FlagRule;
  /** Carry after subtraction reads 1 when no borrow was needed. */
  readonly noBorrow: boolean;
  /** Half-carry: the digit that it is carried into. */
  readonly into: number;
  /** Parity reads 1 for an odd count of ones. */
  readonly odd: boolean;
  /** Of the rule “formula”: 0 gives 0, all else 1. */
  readonly formula?: Expr;
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
  | { readonly kind: 'service'; readonly number: Expr }
  | { readonly kind: 'wait'; readonly device: number }
  | { readonly kind: 'mark'; readonly mark: MarkWord; readonly place?: Expr }
  | { readonly kind: 'stack'; readonly way: 'push' | 'pop'; readonly stack: number };

export interface Tick {
  readonly text: string;
  readonly span: Span;
  readonly actions: readonly Action[];
}

/** The values that an expression is made of, one level down. */
export function partsOf(expr: Expr): readonly Expr[] {
  switch (expr.kind) {
    case 'cell':
      return expr.bank ? [expr.bank, expr.address] : [expr.address];
    case 'port':
      return [expr.port];
    case 'element':
      return [expr.index];
    case 'choose':
      return [expr.index, ...expr.options.filter((each) => each !== undefined)];
    case 'holds':
      return [expr.operand, ...expr.cases.map((each) => each.when)];
    case 'unary':
    case 'resize':
    case 'digits':
    case 'field':
      return [expr.operand];
    case 'binary':
      return [expr.left, expr.right];
    case 'shift':
      return expr.through ? [expr.operand, expr.places, expr.through] : [expr.operand, expr.places];
    case 'join':
      return expr.parts;
    case 'literal':
    case 'register':
    case 'slice':
    case 'flag':
    case 'line':
    case 'latch':
    case 'shown':
    case 'bound':
      return [];
    default:
      return expr satisfies never;
  }
}

/** True where `found` holds for the expression or anything in it. */
export const someExpr = (expr: Expr, found: (each: Expr) => boolean): boolean =>
  found(expr) || partsOf(expr).some((each) => someExpr(each, found));

/** The actions of a tick with those inside conditions, conditions first. */
export const flatActions = (actions: readonly Action[]): Action[] =>
  actions.flatMap((each) => (each.kind === 'if' ? [each, ...flatActions(each.then), ...flatActions(each.otherwise)] : [each]));

/** The places that a target writes, each by itself. */
export const flatTargets = (target: Target): Target[] => (target.kind === 'joined' ? target.parts.flatMap(flatTargets) : [target]);

/** All values that an action reads, those that address its target included. */
export function readsOf(action: Action): Expr[] {
  switch (action.kind) {
    case 'transfer':
      return [...flatTargets(action.target).flatMap(addressesOf), action.value, ...formulasOf(action.flagged)];
    case 'compare': {
      const { a, b, carry } = action.flagged.operation;
      return [a, b, carry, ...formulasOf(action.flagged)].filter((each) => each !== undefined);
    }
    case 'if':
      return [action.condition, ...[...action.then, ...action.otherwise].flatMap(readsOf)];
    case 'service':
      return [action.number];
    case 'mark':
      return action.place ? [action.place] : [];
    case 'halt':
    case 'wait':
    case 'stack':
      return [];
    default:
      return action satisfies never;
  }
}

const formulasOf = (flagged: Flagged | undefined): Expr[] => flagged?.effects.flatMap((each) => each.formula ?? []) ?? [];

/** The values that say where a target is. */
export function addressesOf(target: Target): Expr[] {
  if (target.kind === 'cell') return target.bank ? [target.bank, target.address] : [target.address];
  if (target.kind === 'port') return [target.port];
  return target.kind === 'element' || target.kind === 'choose' ? [target.index] : [];
}

/** The places that a target may write: of one that is chosen by number, all that there are. */
export const possibleTargets = (target: Target): Target[] =>
  flatTargets(target).flatMap((each) =>
    each.kind === 'choose' ? each.options.flatMap((option) => (option ? flatTargets(option) : [])) : [each],
  );

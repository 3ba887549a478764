/** The shape of a tick as written, before any name is looked up. */
import type { Span } from '../text/source';

export type BinaryOperator = '+' | '-' | '*' | '/' | '%' | '&' | '|' | '^' | '<<' | '>>' | '=' | '!=' | '<' | '<=' | '>' | '>=';
export type UnaryOperator = '~' | '-';
/** Between conditions, weaker than every comparison. */
export type LogicOperator = 'and' | 'or';

export type ExprSyntax = { readonly span: Span } &
  /** `text` as it is written: its mark and its leading zeros say a width where one is wanted. */
  (
    | { readonly kind: 'number'; readonly value: number; readonly text?: string }
    | { readonly kind: 'name'; readonly name: string; readonly part?: string }
    /** `bank` stands before a comma: DATA[bank, cell]. */
    | { readonly kind: 'index'; readonly name: string; readonly bank?: ExprSyntax; readonly index: ExprSyntax }
    | { readonly kind: 'slice'; readonly operand: ExprSyntax; readonly high: number; readonly low: number }
    | { readonly kind: 'call'; readonly name: string; readonly parts: readonly ExprSyntax[] }
    | { readonly kind: 'logic'; readonly operator: LogicOperator; readonly left: ExprSyntax; readonly right: ExprSyntax }
    | { readonly kind: 'not'; readonly operand: ExprSyntax }
    /** “c holds”: the condition that the field c names. */
    | { readonly kind: 'holds'; readonly name: string }
    | { readonly kind: 'unary'; readonly operator: UnaryOperator; readonly operand: ExprSyntax }
    | {
        readonly kind: 'binary';
        readonly operator: BinaryOperator;
        readonly left: ExprSyntax;
        readonly right: ExprSyntax;
      }
  );

export const MARKS = ['call', 'return', 'trap'] as const;
export type MarkWord = (typeof MARKS)[number];

export type ActionSyntax = { readonly span: Span } & (
  | { readonly kind: 'transfer'; readonly target: ExprSyntax; readonly value: ExprSyntax }
  | { readonly kind: 'compare'; readonly value: ExprSyntax }
  | {
      readonly kind: 'if';
      readonly condition: ExprSyntax;
      readonly then: readonly ActionSyntax[];
      readonly otherwise: readonly ActionSyntax[];
    }
  | { readonly kind: 'halt' }
  | { readonly kind: 'service'; readonly number: ExprSyntax }
  | { readonly kind: 'wait'; readonly name: string }
  /** `place` is where the call returns to. */
  | { readonly kind: 'mark'; readonly mark: MarkWord; readonly place?: ExprSyntax }
  | { readonly kind: 'stack'; readonly way: 'push' | 'pop'; readonly name: string }
  | { readonly kind: 'enter'; readonly cause: ExprSyntax }
);

export interface TickSyntax {
  readonly text: string;
  readonly span: Span;
  readonly actions: readonly ActionSyntax[];
  /** The names after `; flags`. */
  readonly flags: readonly { readonly name: string; readonly span: Span }[];
}

/** Words that the notation keeps to itself; no part of a machine can have one as its name. */
export const RESERVED: readonly string[] = [
  ...['if', 'else', 'halt', 'service', 'wait', 'push', 'pop', 'enter', 'compare', 'flags', ...MARKS],
  ...['and', 'or', 'not', 'holds', 'here', 'next', 'length', 'cause', 'rotl', 'rotr', 'asr', 'join', 'extend', 'low', 'signed'],
];

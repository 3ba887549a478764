/** The shape of a tick as written, before any name is looked up. */
import type { Span } from '../text/source';

export type BinaryOperator = '+' | '-' | '*' | '&' | '|' | '^' | '<<' | '>>' | '=' | '!=' | '<' | '<=' | '>' | '>=';
export type UnaryOperator = '~' | '-';

export type ExprSyntax = { readonly span: Span } & (
  | { readonly kind: 'number'; readonly value: number }
  | { readonly kind: 'name'; readonly name: string; readonly part?: string }
  | { readonly kind: 'index'; readonly name: string; readonly index: ExprSyntax }
  | { readonly kind: 'slice'; readonly name: string; readonly high: number; readonly low: number }
  | { readonly kind: 'call'; readonly name: string; readonly parts: readonly ExprSyntax[] }
  | { readonly kind: 'unary'; readonly operator: UnaryOperator; readonly operand: ExprSyntax }
  | {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: ExprSyntax;
      readonly right: ExprSyntax;
    }
);

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
);

export interface TickSyntax {
  readonly text: string;
  readonly span: Span;
  readonly actions: readonly ActionSyntax[];
  /** The names after `; flags`. */
  readonly flags: readonly { readonly name: string; readonly span: Span }[];
}

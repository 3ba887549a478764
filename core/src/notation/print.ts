/** Writes syntax back as notation: reading what is printed gives the same tree, with no bracket too many. */
import type { ActionSyntax, BinaryOperator, ExprSyntax, LogicOperator, TickSyntax } from './syntax';

/** `not` binds weaker than a comparison and tighter than `and`. */
export const NOT = 3;

/** Binding strength of the operators between two values; a greater number binds tighter. */
export const STRENGTH: Readonly<Record<BinaryOperator | LogicOperator, number>> = {
  or: 1,
  and: 2,
  '=': 4,
  '!=': 4,
  '<': 4,
  '<=': 4,
  '>': 4,
  '>=': 4,
  '|': 5,
  '^': 5,
  '&': 6,
  '<<': 7,
  '>>': 7,
  '+': 8,
  '-': 8,
  '*': 9,
  '/': 9,
  '%': 9,
};

const UNARY = 10;
const ATOM = 11;

/** Operators on bits: beside a comparison they stand in brackets. */
export const MIXED: ReadonlySet<string> = new Set<BinaryOperator>(['&', '|', '^']);

export const isComparison = (syntax: ExprSyntax): boolean => syntax.kind === 'binary' && STRENGTH[syntax.operator] === STRENGTH['='];

/** `weakest` is the strength below which brackets are needed. */
export function printExpr(syntax: ExprSyntax, weakest = 1): string {
  const strength = strengthOf(syntax);
  const text = printed(syntax);
  return strength < weakest ? `(${text})` : text;
}

function strengthOf(syntax: ExprSyntax): number {
  if (syntax.kind === 'binary' || syntax.kind === 'logic') return STRENGTH[syntax.operator];
  if (syntax.kind === 'not') return NOT;
  return syntax.kind === 'unary' ? UNARY : ATOM;
}

function printed(syntax: ExprSyntax): string {
  switch (syntax.kind) {
    case 'number':
      return syntax.text ?? String(syntax.value);
    case 'name':
      return syntax.part === undefined ? syntax.name : `${syntax.name}.${syntax.part}`;
    case 'index':
      return `${syntax.name}[${syntax.bank ? `${printExpr(syntax.bank)}, ` : ''}${printExpr(syntax.index)}]`;
    case 'slice': {
      // Digits behind a number would read as one more index.
      const operand = syntax.operand.kind === 'number' ? `(${printed(syntax.operand)})` : printExpr(syntax.operand, ATOM);
      return `${operand}[${syntax.high}:${syntax.low}]`;
    }
    case 'call':
      return `${syntax.name}(${syntax.parts.map((each) => printExpr(each)).join(', ')})`;
    case 'unary':
      return `${syntax.operator}${printExpr(syntax.operand, UNARY)}`;
    case 'not':
      return `not ${printExpr(syntax.operand, NOT)}`;
    case 'holds':
      return `${syntax.name} holds`;
    case 'binary':
    case 'logic': {
      const strength = STRENGTH[syntax.operator];
      const side = (each: ExprSyntax, weakest: number): string =>
        isComparison(syntax) && each.kind === 'binary' && MIXED.has(each.operator) ? `(${printed(each)})` : printExpr(each, weakest);
      return `${side(syntax.left, strength)} ${syntax.operator} ${side(syntax.right, strength + 1)}`;
    }
    default:
      return syntax satisfies never;
  }
}

const printActions = (actions: readonly ActionSyntax[]): string => actions.map(printAction).join(', ');

function printAction(action: ActionSyntax): string {
  switch (action.kind) {
    case 'transfer':
      return `${printExpr(action.target)} <- ${printExpr(action.value)}`;
    case 'compare':
      return `compare ${printExpr(action.value)}`;
    case 'if': {
      const otherwise = action.otherwise.length > 0 ? ` else ${printActions(action.otherwise)}` : '';
      return `if ${printExpr(action.condition)}: ${printActions(action.then)}${otherwise}`;
    }
    case 'halt':
      return 'halt';
    case 'service':
      return `service ${printExpr(action.number)}`;
    case 'wait':
      return `wait ${action.name}`;
    case 'mark':
      return action.place ? `${action.mark} ${printExpr(action.place)}` : action.mark;
    case 'stack':
      return `${action.way} ${action.name}`;
    case 'enter':
      return `enter ${printExpr(action.cause)}`;
    default:
      return action satisfies never;
  }
}

/** A tick as it would be written, in one spelling; reading it back gives an equal tick. */
export function printTick({ actions, flags }: Pick<TickSyntax, 'actions' | 'flags'>): string {
  const named = flags.length > 0 ? ` ; flags ${flags.map((each) => each.name).join(' ')}` : '';
  return printActions(actions) + named;
}

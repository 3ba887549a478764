/** Writes syntax back as notation: reading what is printed gives the same tree, with no bracket too many. */
import type { ActionSyntax, BinaryOperator, ExprSyntax, TickSyntax } from './syntax';

/** Binding strength of the binary operators; a greater number binds tighter. */
export const STRENGTH: Readonly<Record<BinaryOperator, number>> = {
  '=': 1,
  '!=': 1,
  '<': 1,
  '<=': 1,
  '>': 1,
  '>=': 1,
  '|': 2,
  '^': 2,
  '&': 3,
  '<<': 4,
  '>>': 4,
  '+': 5,
  '-': 5,
  '*': 6,
  '/': 6,
  '%': 6,
};

const UNARY = 7;
const ATOM = 8;

/** `weakest` is the strength below which brackets are needed. */
export function printExpr(syntax: ExprSyntax, weakest = 1): string {
  const strength = strengthOf(syntax);
  const text = printed(syntax);
  return strength < weakest ? `(${text})` : text;
}

function strengthOf(syntax: ExprSyntax): number {
  if (syntax.kind === 'binary') return STRENGTH[syntax.operator];
  return syntax.kind === 'unary' ? UNARY : ATOM;
}

function printed(syntax: ExprSyntax): string {
  switch (syntax.kind) {
    case 'number':
      return String(syntax.value);
    case 'name':
      return syntax.part === undefined ? syntax.name : `${syntax.name}.${syntax.part}`;
    case 'index':
      return `${syntax.name}[${syntax.bank ? `${printExpr(syntax.bank)}, ` : ''}${printExpr(syntax.index)}]`;
    case 'slice': {
      // Digits behind a number would read as one more index.
      const operand = syntax.operand.kind === 'number' ? `(${syntax.operand.value})` : printExpr(syntax.operand, ATOM);
      return `${operand}[${syntax.high}:${syntax.low}]`;
    }
    case 'call':
      return `${syntax.name}(${syntax.parts.map((each) => printExpr(each)).join(', ')})`;
    case 'unary':
      return `${syntax.operator}${printExpr(syntax.operand, UNARY)}`;
    case 'binary': {
      const strength = STRENGTH[syntax.operator];
      return `${printExpr(syntax.left, strength)} ${syntax.operator} ${printExpr(syntax.right, strength + 1)}`;
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

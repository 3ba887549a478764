/** What a value is as an operation: the one that is written, or the one that it takes digits of. */
import { COMPARISONS } from './expressions';
import type { Expr, Operation } from './tree';

const operations = new WeakMap<Expr, Operation>();

/** The operation as written: `a ± b`, `a ± b ± flag`, a shift, logic, a negation, or a plain value. */
export function operationOf(value: Expr): Operation {
  let operation = operations.get(value);
  if (!operation) {
    const found = findOperation(value);
    const extended = [isExtended(found.a), isExtended(found.b)] as const;
    const widths = [found.a.width, found.b?.width ?? found.a.width] as const;
    operation = { ...found, width: value.width, widths, ...(extended.includes(true) && { extended }) };
    operations.set(value, operation);
  }
  return operation;
}

const isExtended = (value: Expr | undefined): boolean => value?.kind === 'resize' && value.signed;

function findOperation(value: Expr): Omit<Operation, 'width' | 'widths'> {
  if (value.kind === 'unary') return { operator: value.operator === '-' ? 'negate' : '~', a: value.operand, signed: false };
  if (value.kind === 'shift') {
    const { operator, operand, places, through } = value;
    return { operator, a: operand, b: places, ...(through && { carry: through }), signed: false };
  }
  if (value.kind !== 'binary' || COMPARISONS.has(value.operator)) return { operator: 'value', a: value, signed: false };
  const operator = value.operator as Exclude<Operation['operator'], 'negate' | 'value' | '~' | 'rotl' | 'rotr' | 'asr'>;
  const { left, right, signed } = value;
  const sameSign = left.kind === 'binary' && left.operator === operator && (operator === '+' || operator === '-');
  if (right.kind === 'flag' && sameSign) return { operator, a: left.left, b: left.right, carry: right, signed };
  return { operator, a: left, b: right, signed };
}

/** What of a value an operation made. */
export interface Work {
  /** The operation, or a comparison. */
  readonly expr: Expr;
  /** The digit of its result that the value begins with. */
  readonly lowest: number;
}

/** The operation in a value that is its result, some digits of it, or the whole made wider; undefined where nothing is worked out. */
export function workIn(value: Expr): Work | undefined {
  let expr = value;
  let lowest = 0;
  while (expr.kind === 'resize' || expr.kind === 'digits') {
    if (expr.kind === 'digits') lowest += expr.low;
    expr = expr.operand;
  }
  return expr.kind === 'binary' || expr.kind === 'unary' || expr.kind === 'shift' ? { expr, lowest } : undefined;
}

/** What goes into an operation or a comparison. */
export const operandsOf = (expr: Expr): { readonly a: Expr; readonly b?: Expr | undefined } =>
  expr.kind === 'binary' && COMPARISONS.has(expr.operator) ? { a: expr.left, b: expr.right } : operationOf(expr);

/** The register that only counts itself on or back by a written number; undefined where a value is another. */
export function stepOf(value: Expr): { readonly register: number; readonly operator: string; readonly by: number | bigint } | undefined {
  const { expr, lowest } = workIn(value) ?? {};
  if (lowest !== 0 || expr?.kind !== 'binary' || expr.left.kind !== 'register' || expr.right.kind !== 'literal') return undefined;
  return { register: expr.left.register, operator: expr.operator, by: expr.right.value };
}

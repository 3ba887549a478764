/** Values of checked trees as far as they can be told without a run: for checks of encodings and for the flow of programs. */
import type { Expr } from '../../notation/tree';
import { power, signedReading } from '../../text/number';

/** The value of sums, joins and extensions over known leaves; undefined for all else. */
export function foldConstant(expr: Expr, leaf: (expr: Expr) => number | undefined, radix: number): number | undefined {
  const known = leaf(expr);
  if (known !== undefined) return known;
  if (expr.kind !== 'holds' && expr.width > 32) return undefined;
  switch (expr.kind) {
    case 'literal':
      return expr.value;
    case 'field':
      return foldConstant(expr.operand, leaf, radix);
    case 'digits': {
      const value = foldConstant(expr.operand, leaf, radix);
      return value === undefined ? undefined : Math.floor(value / power(radix, expr.low)) % power(radix, expr.width);
    }
    case 'join': {
      let sum = 0;
      for (const each of expr.parts) {
        const value = foldConstant(each, leaf, radix);
        if (value === undefined) return undefined;
        sum = sum * power(radix, each.width) + value;
      }
      return sum;
    }
    case 'resize': {
      const value = foldConstant(expr.operand, leaf, radix);
      if (value === undefined) return undefined;
      const size = power(radix, expr.width);
      return (((expr.signed ? signedReading(value, expr.operand.width, radix) : value) % size) + size) % size;
    }
    case 'binary': {
      const left = foldConstant(expr.left, leaf, radix);
      const right = foldConstant(expr.right, leaf, radix);
      return left === undefined || right === undefined ? undefined : pairOf(expr, left, right, power(radix, expr.width));
    }
    case 'holds': {
      const code = foldConstant(expr.operand, leaf, radix);
      const found = code === undefined ? undefined : expr.cases.find((each) => each.code === code);
      return found && foldConstant(found.when, leaf, radix);
    }
    default:
      return undefined;
  }
}

/** Sums, comparisons and what stands between them; signed and wider ones are not told. */
function pairOf({ operator, signed, width }: Expr & { kind: 'binary' }, a: number, b: number, size: number): number | undefined {
  switch (operator) {
    case '+':
      return (a + b) % size;
    case '-':
      return (((a - b) % size) + size) % size;
    case '=':
      return a === b ? 1 : 0;
    case '!=':
      return a === b ? 0 : 1;
    case '<':
      return signed ? undefined : a < b ? 1 : 0;
    case '<=':
      return signed ? undefined : a <= b ? 1 : 0;
    case '>':
      return signed ? undefined : a > b ? 1 : 0;
    case '>=':
      return signed ? undefined : a >= b ? 1 : 0;
    case '&':
      return width === 1 ? a & b : undefined;
    case '|':
      return width === 1 ? a | b : undefined;
    case '^':
      return width === 1 ? a ^ b : undefined;
    default:
      return undefined;
  }
}

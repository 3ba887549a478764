/** Values of checked trees as far as they can be told without a run: for checks of encodings and for the flow of programs. */
import { partsOf, type Expr } from '../../notation/tree';
import { power, signedReading } from '../../text/number';

/** The value of sums, joins and extensions over known leaves; undefined for all else. */
export function foldConstant(expr: Expr, leaf: (expr: Expr) => number | undefined, radix: number): number | undefined {
  const known = leaf(expr);
  if (known !== undefined) return known;
  if (expr.kind === 'holds') {
    const code = foldConstant(expr.operand, leaf, radix);
    const found = code === undefined ? undefined : expr.cases.find((each) => each.code === code);
    return found && foldConstant(found.when, leaf, radix);
  }
  const parts = partsOf(expr).map((each) => foldConstant(each, leaf, radix));
  if (parts.includes(undefined) || expr.width > 32) return undefined;
  const [a, b] = parts as number[];
  const size = power(radix, expr.width);
  switch (expr.kind) {
    case 'literal':
      return expr.value;
    case 'field':
      return a;
    case 'digits':
      return Math.floor(a! / power(radix, expr.low)) % size;
    case 'join':
      return expr.parts.reduce((sum, each, at) => sum * power(radix, each.width) + parts[at]!, 0);
    case 'resize': {
      const value = expr.signed ? signedReading(a!, expr.operand.width, radix) : a!;
      return ((value % size) + size) % size;
    }
    case 'binary':
      return pairOf(expr, a!, b!, size);
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

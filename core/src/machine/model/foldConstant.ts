/** Values of checked trees as far as they can be told without a run: for checks of encodings and for the flow of programs. */
import { partsOf, type Expr } from '../../notation/tree';
import { power, signedReading } from '../../text/number';

/** The value of sums, joins and extensions over known leaves; undefined for all else. */
export function foldConstant(expr: Expr, leaf: (expr: Expr) => number | undefined, radix: number): number | undefined {
  const known = leaf(expr);
  if (known !== undefined) return known;
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
      if (expr.operator === '+') return (a! + b!) % size;
      return expr.operator === '-' ? (((a! - b!) % size) + size) % size : undefined;
    default:
      return undefined;
  }
}

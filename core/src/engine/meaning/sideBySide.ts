/** Values that are not just what was read: some of its digits, or several side by side, as they are told. */
import type { Expr } from '../../notation/tree';
import type { ReadValue } from './report';

/** A part of a join with what it gave. `noted`: what was read for it. Of anything but digits of one place only the value is told. */
export const partTold = (part: Expr, value: number | bigint, noted: readonly ReadValue[]): ReadValue =>
  digitsOfOne(part, value, noted) ?? { place: undefined, value, width: part.width, name: undefined };

/** What a value was read as where that is something else, of one place: with the digits taken of it, or with fewer, whose sign was repeated. */
export function digitsTold(expr: Expr, value: number | bigint, noted: readonly ReadValue[]): readonly ReadValue[] | undefined {
  const [only, more] = noted;
  if (!only || more || (only.value === value && expr.kind !== 'digits')) return undefined;
  if (expr.kind === 'resize' && expr.signed) return [only];
  const told = digitsOfOne(expr, value, noted);
  return told && [told];
}

function digitsOfOne(expr: Expr, value: number | bigint, [only, more]: readonly ReadValue[]): ReadValue | undefined {
  if (!only || more) return undefined;
  const { width } = expr;
  const low = expr.kind === 'digits' ? expr.low : 0;
  const taken = expr.kind === 'digits' || (expr.kind === 'resize' && only.value !== value);
  if (taken && only.width === expr.operand.width && width < only.width) return { ...digitsOf(only, low, width), value, width };
  return only.value === value ? { ...only, width } : undefined;
}

/** Digits of a register lie in it; what else has them says so in its name. */
function digitsOf(read: ReadValue, low: number, width: number): ReadValue {
  const { place, name } = read;
  const high = low + width - 1;
  if (place?.kind === 'register' && name === undefined)
    return { ...read, place: { ...place, high: place.low + high, low: place.low + low } };
  return { ...read, name: `${name ?? ''}[${high === low ? '' : `${high}:`}${low}]` };
}

/** What stood side by side in a value, part by part, as it is told. */
import type { Expr } from '../../notation/tree';
import type { ReadValue } from './report';

/**
 * A part of a join with what it gave. `noted`: what was read for it. Where that is one place, it is told with the digits that were
 * taken of it; of anything else only the value is.
 */
export function partTold(part: Expr, value: number | bigint, noted: readonly ReadValue[]): ReadValue {
  const [only, more] = noted;
  const { width } = part;
  if (only && !more) {
    if (only.value === value) return { ...only, width };
    if (part.kind === 'digits' && only.width === part.operand.width) return { ...only, place: digitsOf(only, part), value, width };
  }
  return { place: undefined, value, width, name: undefined };
}

function digitsOf({ place }: ReadValue, { low, width }: Expr & { kind: 'digits' }): ReadValue['place'] {
  return place?.kind === 'register' ? { ...place, high: place.low + low + width - 1, low: place.low + low } : place;
}

/** A packed word bit by bit: which flag each bit is, and which are fixed. */
import { digitsAt } from '../../text/number';
import type { Composite } from './machine';

/** From the top down: the flag of a bit, by its number, or the digit that it always is. */
export type PackedBit = { readonly flag: number } | { readonly fixed: number };

/** Undefined of what is no word of flags. */
export function packedBits({ packed, value }: Composite): readonly PackedBit[] | undefined {
  if (!packed) return undefined;
  const parts = value.kind === 'join' ? value.parts : [value];
  return parts.flatMap((part): PackedBit[] => {
    if (part.kind === 'flag') return [{ flag: part.flag }];
    if (part.kind !== 'literal') return [];
    const { value: fixed, width } = part;
    return Array.from({ length: width }, (_, at) => ({ fixed: digitsAt(Number(fixed), width - 1 - at, 1, 2) }));
  });
}

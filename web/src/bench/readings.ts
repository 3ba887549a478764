/** One value in every way that it can be read. */
import { binaryDigits, characterOf, hexDigits, shownDigits, signedReading } from '@zettak/core/text/number';

/** All readings of a value, for pointing at it. */
export function readings(value: number, width: number, radix: 2 | 10): string {
  const character = characterOf(value);
  if (radix === 10)
    return `${shownDigits(value, width, 10)} = ${signedReading(value, width, 10)} signed${character ? ` = “${character}”` : ''}`;
  return `0x${hexDigits(value, width)} = ${value} = ${signedReading(value, width)} signed = ${binaryDigits(value, width)}${character ? ` = “${character}”` : ''}`;
}

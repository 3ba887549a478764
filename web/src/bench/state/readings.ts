/** One value in every way that it can be read. */
import { binaryDigits, characterOf, shownNumber, signedReading, withHexPrefix, type Numerals } from '@zettak/core/text/number';

/** All readings of a value, for pointing at it; the machine's own base comes first. */
export function readings(value: number, width: number, numerals: Numerals): string {
  const character = characterOf(value);
  const signed = `${String(signedReading(value, width, numerals.radix)).replace('-', '−')} signed`;
  const bits = numerals.radix === 10 ? [] : [withHexPrefix(value, width), String(value)];
  const all = [shownNumber(value, width, numerals), ...bits, signed, ...(bits.length > 0 ? [binaryDigits(value, width)] : [])];
  return [...new Set(all), ...(character ? [`“${character}”`] : [])].join(' = ');
}

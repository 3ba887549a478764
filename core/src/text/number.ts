/** Numbers as people write them: decimal, 0x, 0b; and back into text with their base shown. */

/** Reads `58`, `0x3A` or `0b11_1010`, without a sign. Undefined where it is no such number or exceeds 2^53 − 1. */
export function readNumber(text: string): number | undefined {
  if (!/^(0[xX][0-9a-fA-F_]+|0[bB][01_]+|[0-9][0-9_]*)$/.test(text)) return undefined;
  const value = Number(text.replaceAll('_', ''));
  return Number.isSafeInteger(value) ? value : undefined;
}

/** POWER[n] is 2^n for n from 0 to 65: looked up where it is needed at every tick. */
export const POWER: readonly number[] = Array.from({ length: 66 }, (_, exponent) => 2 ** exponent);

/** The two's complement reading of an unsigned value of `width` bits. */
export const signedReading = (value: number, width: number): number => (value >= POWER[width - 1]! ? value - POWER[width]! : value);

/** Hex digits padded to the width, without a prefix: 8 bits give two digits. */
export const hexDigits = (value: number, width: number): string =>
  value
    .toString(16)
    .toUpperCase()
    .padStart(Math.ceil(width / 4), '0');

/** Binary digits padded to the width, in groups of four from the right. */
export const binaryDigits = (value: number, width: number): string =>
  value
    .toString(2)
    .padStart(width, '0')
    .replace(/\B(?=(\d{4})+(?!\d))/g, ' ');

/** The character a value stands for, where it is printable ASCII, else undefined. */
export const characterOf = (value: number): string | undefined => (value >= 32 && value < 127 ? String.fromCharCode(value) : undefined);

/** `0x3A` for 58 at 8 bits. */
export const withHexPrefix = (value: number, width: number): string => `0x${hexDigits(value, width)}`;

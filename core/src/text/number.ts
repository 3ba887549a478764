/** Numbers as people write them: decimal, 0x, 0b; and back into text. Digits are bits where the radix is 2. */

/** Reads `58`, `0x3A` or `0b11_1010`, without a sign. Undefined where it is no such number or exceeds 2^53 − 1. */
export function readNumber(text: string): number | undefined {
  if (!/^(0[xX][0-9a-fA-F_]+|0[bB][01_]+|[0-9][0-9_]*)$/.test(text)) return undefined;
  const value = Number(text.replaceAll('_', ''));
  return Number.isSafeInteger(value) ? value : undefined;
}

/** POWER[n] is 2^n for n from 0 to 129: looked up where it is needed at every tick. */
export const POWER: readonly number[] = Array.from({ length: 130 }, (_, exponent) => 2 ** exponent);
const POWER_10: readonly number[] = Array.from({ length: 40 }, (_, exponent) => Number(`1e${exponent}`));

/** radix^n for n from 0 to 39; exact up to 2^53, and beyond for radix 2. */
export const power = (radix: number, exponent: number): number => (radix === 2 ? POWER[exponent]! : POWER_10[exponent]!);

/** The two's (ten's) complement reading of an unsigned value of `width` digits. */
export const signedReading = (value: number, width: number, radix = 2): number =>
  value * 2 >= power(radix, width) ? value - power(radix, width) : value;

/** Digits that a value needs, at least 1. */
export function digitsIn(value: number, radix: number): number {
  let width = 1;
  while (value >= power(radix, width)) width++;
  return width;
}

/** The `width` digits of `value` from digit `low` up. */
export const digitsAt = (value: number, low: number, width: number, radix: number): number =>
  radix === 2 && low + width <= 32
    ? (width === 32 ? value : (value >>> low) & ((1 << width) - 1)) >>> 0
    : Math.floor(value / power(radix, low)) % power(radix, width);

/** Digits padded to the width, without a prefix: hex for bits (8 give two), decimal for decimal digits. */
export const shownDigits = (value: number, width: number, radix: number): string =>
  radix === 10 ? String(value).padStart(width, '0') : hexDigits(value, width);

/** `0x3A` for 58 at 8 bits; `058` for 58 at three decimal digits. */
export const shownNumber = (value: number, width: number, radix: number): string =>
  radix === 10 ? String(value).padStart(width, '0') : `0x${hexDigits(value, width)}`;

/** What one digit is called where several are counted. */
export const unitOf = (radix: number): 'bits' | 'digits' => (radix === 10 ? 'digits' : 'bits');

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

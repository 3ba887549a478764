/** Numbers as people write them: decimal, 0x, 0b, 0o; and back into text. Digits are bits where the radix is 2. */

/** How unmarked numbers are read, and which trailing letters (small) mean a base. */
export interface NumberRules {
  readonly base: number;
  readonly suffixes: ReadonlyMap<string, number>;
}

export const DECIMAL: NumberRules = { base: 10, suffixes: new Map() };

const PREFIXES: ReadonlyMap<string, number> = new Map([
  ['x', 16],
  ['b', 2],
  ['o', 8],
  ['d', 10],
]);

/** Digits of a base with `_` between them; undefined where they are none, or exceed 2^53 − 1. */
function readDigits(text: string, base: number): number | undefined {
  let value = 0;
  let any = false;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === 95) continue;
    const digit = code < 58 ? code - 48 : (code | 32) - 87;
    if (!(digit >= 0 && digit < base) || (code >= 58 && code < 65)) return undefined;
    value = value * base + digit;
    any = true;
  }
  return any && text.charCodeAt(0) !== 95 && Number.isSafeInteger(value) ? value : undefined;
}

/**
 * Reads `58`, `0x3A`, `0b11_1010`, `0o72` or `0d58`, without a sign; without a mark in the base of the rules, behind
 * the digits with a letter where the rules allow it. A mark before the digits counts first, then a letter behind them.
 * Undefined where it is no such number or exceeds 2^53 − 1.
 */
export function readNumber(text: string, { base, suffixes }: NumberRules = DECIMAL): number | undefined {
  if (text === '') return undefined;
  const prefix = text.length > 2 && text[0] === '0' ? PREFIXES.get(text[1]!.toLowerCase()) : undefined;
  const marked = prefix && readDigits(text.slice(2), prefix);
  if (marked !== undefined) return marked;
  const suffix = suffixes.size > 0 ? suffixes.get(text.at(-1)!.toLowerCase()) : undefined;
  const trailed = suffix && text.length > 1 ? readDigits(text.slice(0, -1), suffix) : undefined;
  return trailed ?? readDigits(text, base);
}

/** Another value that the same digits have where a mark in them is taken for digits: 0b11 in a hexadecimal file. */
export function otherReading(text: string, { base, suffixes }: NumberRules): number | undefined {
  const first = readNumber(text, { base, suffixes });
  const readings = [readDigits(text, base), ...(suffixes.size > 0 ? [readNumber(text, { base, suffixes: DECIMAL.suffixes })] : [])];
  if (suffixes.size > 0 && text.length > 1) readings.push(readDigits(text.slice(0, -1), suffixes.get(text.at(-1)!.toLowerCase()) ?? 0));
  return first === undefined ? undefined : readings.find((each) => each !== undefined && each !== first);
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

/** With commas between thousands: 1,234,567. A tenth of the time that a locale takes, for what is shown at every tick. */
export const grouped = (value: number): string => String(value).replace(/\B(?=(\d{3})+$)/g, ',');

/** “1 cell”, “2 cells”, “1,024 cells”. */
export const count = (number: number, noun: string): string => `${grouped(number)} ${noun}${number === 1 ? '' : 's'}`;

/** A number where it can be one exactly. */
export const plainOf = (value: bigint): number | bigint => (value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value);

/** Values behind each other, the high one first. */
export function joinedValue(parts: readonly { readonly value: number | bigint; readonly width: number }[], radix: number): number | bigint {
  return plainOf(parts.reduce((sum, { value, width }) => sum * BigInt(radix) ** BigInt(width) + BigInt(value), 0n));
}

/** A base that numbers are shown in. */
export type Base = 2 | 8 | 10 | 16;

/** What a base is called where one is chosen or told. */
export const BASE_WORDS: Readonly<Record<Base, string>> = { 2: 'binary', 8: 'octal', 10: 'decimal', 16: 'hex' };

/** What to write in place of something that is no number, where unmarked ones are read in a base. */
export const numberRemedy = (base = 10): string =>
  base === 10
    ? 'Write 58, 0x3A or 0b111010.'
    : `Unmarked numbers are ${BASE_WORDS[base as Base]} here; others are written 0d58, 0x3A or 0b111010.`;

/** How a machine's numbers are shown: its digits, and the base that it has chosen for them. */
export interface Numerals {
  readonly radix: number;
  readonly base: Base;
}

const BITS: Readonly<Record<Base, number>> = { 2: 1, 8: 3, 10: 0, 16: 4 };
const MARKS: Readonly<Record<Base, string>> = { 2: '0b', 8: '0o', 10: '', 16: '0x' };

/** Characters that a value of the width takes in its base, without a mark. */
export const shownLength = (width: number, { radix, base }: Numerals): number =>
  radix === 10 ? width : base === 10 ? String(2 ** width - 1).length : Math.ceil(width / BITS[base]);

/** Digits padded to the width in the machine's base, without a mark: in hex 8 bits give two; in decimal of bits none is padded. */
export function shownDigits(value: number | bigint, width: number, { radix, base }: Numerals): string {
  if (radix === 10) return String(value).padStart(width, '0');
  if (base === 10) return String(value);
  return value
    .toString(base)
    .toUpperCase()
    .padStart(Math.ceil(width / BITS[base]), '0');
}

/** `0x3A` for 58 at 8 bits, `0o072` where the machine is octal; `058` for 58 at three decimal digits. */
export const shownNumber = (value: number | bigint, width: number, numerals: Numerals): string =>
  `${numerals.radix === 10 ? '' : MARKS[numerals.base]}${shownDigits(value, width, numerals)}`;

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

/** A value in a base by its name: decimal, signed, hex, binary, octal or character; decimal where the name says nothing. */
export function readingText(base: string, value: number, { width, radix }: { readonly width: number; readonly radix: number }): string {
  switch (base) {
    case 'signed':
      return String(signedReading(value, width, radix)).replace('-', '−');
    case 'hex':
      return withHexPrefix(value, width);
    case 'binary':
      return `0b${value.toString(2).padStart(width, '0')}`;
    case 'octal':
      return `0o${value.toString(8)}`;
    case 'character':
      return characterOf(value) ?? String(value);
    default:
      return String(value);
  }
}

/** `0x3A` for 58 at 8 bits. */
export const withHexPrefix = (value: number, width: number): string => `0x${hexDigits(value, width)}`;

/** Operations on unsigned values of 1 to 32 bits or 1 to 9 digits, and the flag rules of the machine model, section 4. */
import type { FlagEffect, Operation, Radix } from '../../notation/tree';
import { power, POWER, signedReading } from '../../text/number';

type Operator = Operation['operator'];

/** A worked operation: `exact` is the result before it is cut to `width` digits. */
export interface Worked {
  readonly operator: Operator;
  readonly a: number;
  readonly b: number | undefined;
  readonly carry: number | undefined;
  readonly exact: number;
  readonly result: number;
  readonly width: number;
  readonly radix: Radix;
  /** Both operands were read as two's (ten's) complement. */
  readonly signed: boolean;
  /** Of the operands; that of the result except for products and divisions. */
  readonly widths: readonly [a: number, b: number];
  /** The result where a number cannot hold it exactly. */
  readonly wide: bigint | undefined;
  /** Which of a and b counts with its sign, where that is told. */
  readonly extended?: Operation['extended'];
}

/** Cuts to `width` digits; exact for |value| < 2^53. */
export function cut(value: number, width: number, radix: Radix = 2): number {
  if (radix === 2 && width < 32) return (value & ((1 << width) - 1)) >>> 0;
  if (radix === 2 && width === 32) return value >>> 0;
  const size = power(radix, width);
  const rest = value % size;
  return rest < 0 ? rest + size : rest + 0;
}

export interface Operands {
  readonly a: number;
  readonly b?: number | undefined;
  readonly carry?: number | undefined;
  readonly width: number;
  readonly radix: Radix;
  readonly signed?: boolean;
  readonly widths?: readonly [number, number];
}

/** True where a and b cannot be divided: by 0, or a signed quotient that does not fit. */
export function dividesBadly({ a, b = 0, width, radix, signed = false, widths = [width, width] }: Operands): boolean {
  if (b === 0) return true;
  if (!signed) return false;
  const quotient = Math.trunc(signedReading(a, widths[0], radix) / signedReading(b, widths[1], radix));
  return quotient * 2 >= power(radix, widths[0]);
}

/** The result before it is cut. Shifts by more than the width give 0; operands are unsigned unless `signed`. */
export function exactResult(
  operator: Operator,
  { a, b = 0, carry, width, radix, signed = false, widths = [width, width] }: Operands,
): number {
  switch (operator) {
    case '+':
      return a + b + (carry ?? 0);
    case '-':
      return a - b - (carry ?? 0);
    case '*':
      return signed ? signedReading(a, widths[0], radix) * signedReading(b, widths[1], radix) : a * b;
    case '/':
    case '%':
      return divided(operator, signed ? signedReading(a, widths[0], radix) : a, signed ? signedReading(b, widths[1], radix) : b);
    case '&':
      return (a & b) >>> 0;
    case '|':
      return (a | b) >>> 0;
    case '^':
      return (a ^ b) >>> 0;
    case '~':
      return cut(~a, width, radix);
    case 'negate':
      return -a;
    case '<<':
      return b > width ? 0 : shiftLeft(a, b, width, radix);
    case '>>':
      return Math.floor(a / power(radix, Math.min(b, 39)));
    case 'asr':
      return cut(Math.floor(signedReading(a, width, radix) / power(radix, Math.min(b, 32))), width, radix);
    case 'rotl':
    case 'rotr':
      return rotate(operator, { a, b, through: carry ?? NO_FLAG, width, radix }).value;
    case 'value':
      return a;
    default:
      return operator satisfies never;
  }
}

/** Truncated towards zero; the remainder has the dividend's sign. Exact below 2^53. */
const divided = (operator: '/' | '%', a: number, b: number): number => (operator === '%' ? a % b : (a - (a % b)) / b) + 0;

/** Keeps one digit above the width, the last one that went out. */
function shiftLeft(a: number, b: number, width: number, radix: Radix): number {
  let value = a;
  for (let step = 0; step < b; step++) value = (value * radix) % power(radix, width + 1);
  return value;
}

interface Rotation {
  readonly a: number;
  readonly b: number;
  readonly through: number;
  readonly width: number;
  readonly radix: Radix;
}

/**
 * Rotates by `b` places, one at a time; `out` is the last digit that went round. With `through` 0 or 1 that digit is
 * one more place of the ring; −1 rotates the value alone. A flag holds 1 for any digit but 0.
 */
function rotate(operator: 'rotl' | 'rotr', { a, b, through, width, radix }: Rotation): { value: number; out: number } {
  let value = a;
  let out = Math.max(0, through);
  const top = power(radix, width - 1);
  const ring = through < 0 ? width : width + 1;
  // Once round is enough to make 0 or 1 of every digit that went through the flag; from then on the ring repeats.
  const places = b <= 2 * ring ? b : ((b - 1) % ring) + 1 + ring;
  for (let step = 0; step < places; step++) {
    const left = operator === 'rotl';
    const leaving = left ? Math.floor(value / top) : value % radix;
    const entering = through < 0 ? leaving : out;
    value = left ? (value % top) * radix + entering : Math.floor(value / radix) + entering * top;
    out = through < 0 ? leaving : leaving === 0 ? 0 : 1;
  }
  return { value, out: out === 0 ? 0 : 1 };
}

const NO_FLAG = -1;

/**
 * The result of an operation on unsigned values, with what its flags are made of (machine model, section 4). Widths are
 * 1 to 32 bits or 1 to 9 digits.
 */
export function work(operator: Operator, operands: Operands): Worked {
  const { a, b, carry, width, radix, signed = false, widths = [width, width] } = operands;
  const exact = exactResult(operator, operands);
  // What is less than 0 becomes as large as its width allows.
  const whole = exact < POWER[53]! && exact > -POWER[53]! && (exact >= 0 || power(radix, width) <= POWER[53]!);
  if (whole) {
    return { operator, a, b, carry, exact, result: cut(exact, width, radix), width, radix, signed, widths, wide: undefined };
  }
  const wide = wideResult(operator, operands);
  return { operator, a, b, carry, exact, result: Number(wide), width, radix, signed, widths, wide };
}

/** The cut result of a product that a number cannot hold. */
function wideResult(operator: Operator, { a, b = 0, width, radix, signed = false, widths = [width, width] }: Operands): bigint {
  if (operator !== '*') throw new RangeError(`A result of “${operator}” is wider than 53 bits`);
  const read = (value: number, at: 0 | 1): bigint => BigInt(signed ? signedReading(value, widths[at], radix) : value);
  return wrapped(read(a, 0) * read(b, 1), width, radix);
}

/** Cuts a whole number of any size to `width` digits. */
export function wrapped(value: bigint, width: number, radix: Radix): bigint {
  const size = BigInt(radix) ** BigInt(width);
  return ((value % size) + size) % size;
}

type StockEffect = Pick<FlagEffect, 'noBorrow' | 'into' | 'odd' | 'rule'>;

/** The flag after the operation; undefined where the rule leaves it alone (a shift by 0 and carry). */
export function flagAfter({ rule, noBorrow, into, odd }: StockEffect, worked: Worked): number | undefined {
  switch (rule) {
    case 'zero':
      return worked.result === 0 ? 1 : 0;
    case 'negative':
      return isNegative(worked) ? 1 : 0;
    case 'carry':
      return carryAfter(noBorrow, worked);
    case 'overflow':
      return overflowAfter(worked);
    case 'half-carry':
      return halfCarryAfter(worked, into);
    case 'parity':
      return onesIn(worked) % 2 === (odd ? 1 : 0) ? 1 : 0;
    case 'formula':
      throw new RangeError('A formula is worked out by the evaluator');
    default:
      return rule satisfies never;
  }
}

function isNegative({ result, wide, width, radix }: Worked): boolean {
  if (wide !== undefined) return wide * 2n >= BigInt(radix) ** BigInt(width);
  return result * 2 >= (radix === 2 ? POWER[width]! : power(radix, width));
}

function onesIn({ result, wide }: Worked): number {
  if (wide !== undefined || result >= POWER[32]!) return (wide ?? BigInt(result)).toString(2).replaceAll('0', '').length;
  let count = 0;
  for (let rest = result >>> 0; rest !== 0; rest &= rest - 1) count++;
  return count;
}

/** A carry or borrow crossed into the digit `into`; 0 where the value has no such digit. */
function halfCarryAfter({ operator, a, b = 0, carry = 0, width, radix }: Worked, into: number): number | undefined {
  if (into >= width) return 0;
  const part = power(radix, into);
  if (operator === '+') return (a % part) + (b % part) + carry >= part ? 1 : 0;
  if (operator === '-') return (a % part) - (b % part) - carry < 0 ? 1 : 0;
  return operator === 'negate' ? (a % part > 0 ? 1 : 0) : undefined;
}

function carryAfter(noBorrow: boolean, { operator, a, b = 0, carry = NO_FLAG, exact, width, radix }: Worked): number | undefined {
  const digit = (value: number): number => (value % radix === 0 ? 0 : 1);
  switch (operator) {
    case '+':
      return exact >= power(radix, width) ? 1 : 0;
    case '-':
    case 'negate':
      return exact < 0 !== noBorrow ? 1 : 0;
    case '<<':
      return b === 0 ? undefined : b > width ? 0 : exact >= power(radix, width) ? 1 : 0;
    case 'asr':
      return b === 0 ? undefined : digit(Math.floor(signedReading(a, width, radix) / power(radix, Math.min(b - 1, 32))));
    case 'rotl':
    case 'rotr':
      return b === 0 ? undefined : rotate(operator, { a, b, through: carry, width, radix }).out;
    case '>>':
      return b === 0 ? undefined : digit(Math.floor(a / power(radix, Math.min(b - 1, 39))));
    default:
      return undefined;
  }
}

function overflowAfter({ operator, a, b = 0, carry = 0, width, radix }: Worked): number | undefined {
  const size = power(radix, width);
  const outside = (value: number): number => (value * 2 < -size || value * 2 >= size ? 1 : 0);
  const [signedA, signedB] = [signedReading(a, width, radix), signedReading(b, width, radix)];
  switch (operator) {
    case '+':
      return outside(signedA + signedB + carry);
    case '-':
      return outside(signedA - signedB - carry);
    case 'negate':
      return outside(-signedA);
    case '<<':
      return b === 0 ? undefined : signChanges(a, b, width, radix);
    case '>>':
    case 'asr':
    case 'rotl':
    case 'rotr':
      return b === 0 ? undefined : 0;
    default:
      return undefined;
  }
}

/** 1 where the sign changed at any step of a left shift. */
function signChanges(a: number, b: number, width: number, radix: Radix): number {
  const size = power(radix, width);
  let value = a;
  for (let step = 0; step < Math.min(b, width + 1); step++) {
    const shifted = (value * radix) % size;
    if (shifted * 2 >= size !== value * 2 >= size) return 1;
    value = shifted;
  }
  return 0;
}

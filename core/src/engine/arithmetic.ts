/** Operations on unsigned values of 1 to 32 bits, and the stock flag rules of the machine model, section 4. */
import type { FlagEffect, Operation } from '../notation/tree';
import { POWER, signedReading } from '../text/number';
import type { Worked } from './report';

/** Cuts to `width` bits; exact for |value| < 2^53. */
export const cut = (value: number, width: number): number => (width === 32 ? value >>> 0 : (value & ((1 << width) - 1)) >>> 0);

/** The result before it is cut. Shifts by more than the width give 0; operands are unsigned. */
export function exactResult(operator: Operation['operator'], a: number, b: number, carry: number, width: number): number {
  switch (operator) {
    case '+':
      return a + b + carry;
    case '-':
      return a - b - carry;
    case '*':
      return a * b;
    case '&':
      return (a & b) >>> 0;
    case '|':
      return (a | b) >>> 0;
    case '^':
      return (a ^ b) >>> 0;
    case '~':
      return cut(~a, width);
    case 'negate':
      return -a;
    case '<<':
      return b > width ? 0 : shiftLeft(a, b, width);
    case '>>':
      return Math.floor(a / POWER[Math.min(b, 64)]!);
    case 'asr':
      return cut(Math.floor(signedReading(a, width) / POWER[Math.min(b, 32)]!), width);
    case 'rotl':
    case 'rotr':
      return rotate(operator, a, b, carry, width).value;
    case 'value':
      return a;
    default:
      return operator satisfies never;
  }
}

/** Keeps one digit above the width, the last one that went out. */
function shiftLeft(a: number, b: number, width: number): number {
  let value = a;
  for (let step = 0; step < b; step++) value = (value * 2) % POWER[width + 1]!;
  return value;
}

/**
 * Rotates by `b` places, one at a time; `out` is the last digit that went round. With `through` 0 or 1 that digit is
 * one more place of the ring; −1 rotates the value alone.
 */
function rotate(operator: 'rotl' | 'rotr', a: number, b: number, through: number, width: number): { value: number; out: number } {
  let value = a;
  let out = Math.max(0, through);
  const ring = through < 0 ? width : width + 1;
  const places = b === 0 ? 0 : ((b - 1) % ring) + 1;
  for (let step = 0; step < places; step++) {
    const left = operator === 'rotl';
    const leaving = left ? (value >= POWER[width - 1]! ? 1 : 0) : value % 2;
    const entering = through < 0 ? leaving : out;
    value = left ? ((value * 2) % POWER[width]!) + entering : Math.floor(value / 2) + entering * POWER[width - 1]!;
    out = leaving;
  }
  return { value, out };
}

const NO_FLAG = -1;

export function work(operator: Operation['operator'], a: number, b: number | undefined, carry: number | undefined, width: number): Worked {
  const rotates = operator === 'rotl' || operator === 'rotr';
  const exact = exactResult(operator, a, b ?? 0, carry ?? (rotates ? NO_FLAG : 0), width);
  return { operator, a, b, carry, exact, result: cut(exact, width), width };
}

/** The flag after the operation; undefined where the rule leaves it alone (a shift by 0 and carry). */
export function flagAfter({ rule, noBorrow, into, odd }: Omit<FlagEffect, 'flag'>, worked: Worked): number | undefined {
  switch (rule) {
    case 'zero':
      return worked.result === 0 ? 1 : 0;
    case 'negative':
      return worked.result >= POWER[worked.width - 1]! ? 1 : 0;
    case 'carry':
      return carryAfter(noBorrow, worked);
    case 'overflow':
      return overflowAfter(worked);
    case 'half-carry':
      return halfCarryAfter(worked, into);
    case 'parity':
      return onesIn(worked.result) % 2 === (odd ? 1 : 0) ? 1 : 0;
    default:
      return rule satisfies never;
  }
}

function onesIn(value: number): number {
  let count = 0;
  for (let rest = value >>> 0; rest !== 0; rest &= rest - 1) count++;
  return count;
}

/** A carry or borrow crossed into the digit `into`; 0 where the value has no such digit. */
function halfCarryAfter({ operator, a, b = 0, carry = 0, width }: Worked, into: number): number | undefined {
  if (into >= width) return 0;
  const part = POWER[into]!;
  if (operator === '+') return (a % part) + (b % part) + carry >= part ? 1 : 0;
  if (operator === '-') return (a % part) - (b % part) - carry < 0 ? 1 : 0;
  return operator === 'negate' ? (a % part > 0 ? 1 : 0) : undefined;
}

function carryAfter(noBorrow: boolean, { operator, a, b = 0, carry = NO_FLAG, exact, width }: Worked): number | undefined {
  switch (operator) {
    case '+':
      return exact >= POWER[width]! ? 1 : 0;
    case '-':
    case 'negate':
      return exact < 0 !== noBorrow ? 1 : 0;
    case '<<':
      return b === 0 ? undefined : b > width ? 0 : exact >= POWER[width]! ? 1 : 0;
    case 'asr':
      return b === 0 ? undefined : Math.floor(signedReading(a, width) / POWER[Math.min(b - 1, 32)]!) & 1;
    case 'rotl':
    case 'rotr':
      return b === 0 ? undefined : rotate(operator, a, b, carry, width).out;
    case '>>':
      return b === 0 ? undefined : Math.floor(a / POWER[Math.min(b - 1, 64)]!) % 2;
    default:
      return undefined;
  }
}

function overflowAfter({ operator, a, b = 0, carry = 0, width }: Worked): number | undefined {
  const outside = (value: number): number => (value < -POWER[width - 1]! || value >= POWER[width - 1]! ? 1 : 0);
  const [signedA, signedB] = [signedReading(a, width), signedReading(b, width)];
  switch (operator) {
    case '+':
      return outside(signedA + signedB + carry);
    case '-':
      return outside(signedA - signedB - carry);
    case 'negate':
      return outside(-signedA);
    case '<<':
      return b === 0 ? undefined : signChanges(a, b, width);
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
function signChanges(a: number, b: number, width: number): number {
  let value = a;
  for (let step = 0; step < Math.min(b, width + 1); step++) {
    const shifted = (value * 2) % POWER[width]!;
    if (shifted >= POWER[width - 1]! !== value >= POWER[width - 1]!) return 1;
    value = shifted;
  }
  return 0;
}

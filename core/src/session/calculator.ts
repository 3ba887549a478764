/**
 * Sums as somebody works them by hand: in the width and base of a machine, digit by digit with what is carried. Whole
 * numbers of any size, so that products and double widths are exact.
 */
import { unitOf, type Numerals } from '../text/number';

export const CALCULATIONS = ['+', '−', '×', '÷', 'rest', 'and', 'or', 'xor', '<<', '>>'] as const;
export type Calculation = (typeof CALCULATIONS)[number];

export interface Sum {
  readonly operator: Calculation;
  /** Each from 0 to radix^width − 1. */
  readonly a: bigint;
  readonly b: bigint;
  /** In digits of the machine. */
  readonly width: number;
}

export interface WorkedRow {
  readonly role: 'carry' | 'operand' | 'result';
  readonly sign: string;
  /** Bits in groups of four, or decimal digits. */
  readonly digits: string;
  readonly unsigned: string;
  readonly signed: string;
}

export interface WorkedSum {
  readonly rows: readonly WorkedRow[];
  /** Cut to the width. */
  readonly result: bigint;
  /** What there is to say: that it wrapped, that nothing can be divided by 0; empty else. */
  readonly remark: string;
}

const grouped = (digits: string, radix: number): string => (radix === 10 ? digits : digits.replace(/(?!^)(?=(?:.{4})+$)/g, ' '));

/** The two's (ten's) complement reading. */
const signedOf = (value: bigint, size: bigint): bigint => (value * 2n >= size ? value - size : value);

/** A sum worked out; undefined where it cannot be: a division by 0. */
export function calculate({ radix }: Pick<Numerals, 'radix'>, { operator, a, b, width }: Sum): WorkedSum | undefined {
  const base = BigInt(radix);
  const size = base ** BigInt(width);
  const exact = exactly(operator, a, b, base);
  if (exact === undefined) return undefined;
  const result = ((exact % size) + size) % size;
  const row = (role: WorkedRow['role'], sign: string, value: bigint): WorkedRow => ({
    role,
    sign,
    digits: grouped(value.toString(radix).padStart(width, '0'), radix),
    unsigned: String(value),
    signed: String(signedOf(value, size)).replace('-', '−'),
  });
  const shifts = operator === '<<' || operator === '>>';
  const second: WorkedRow = shifts
    ? { ...row('operand', operator, 0n), digits: `by ${b}`, unsigned: '', signed: '' }
    : row('operand', operator, b);
  return {
    rows: [...carries({ operator, a, b, width }, radix), row('operand', '', a), second, row('result', '', result)],
    result,
    remark: remarkOf(operator, exact, size, width, radix),
  };
}

function exactly(operator: Calculation, a: bigint, b: bigint, base: bigint): bigint | undefined {
  switch (operator) {
    case '+':
      return a + b;
    case '−':
      return a - b;
    case '×':
      return a * b;
    case '÷':
      return b === 0n ? undefined : a / b;
    case 'rest':
      return b === 0n ? undefined : a % b;
    case 'and':
      return a & b;
    case 'or':
      return a | b;
    case 'xor':
      return a ^ b;
    case '<<':
      return a * base ** (b > 128n ? 128n : b);
    case '>>':
      return a / base ** (b > 128n ? 128n : b);
    default:
      return operator satisfies never;
  }
}

function remarkOf(operator: Calculation, exact: bigint, size: bigint, width: number, radix: number): string {
  if (exact >= 0n && exact < size) return '';
  const room = `${width} ${unitOf(radix)}`;
  if (exact < 0n) return `Exactly it is ${String(exact).replace('-', '−')}: a borrow goes out of the top of ${room}.`;
  return operator === '+'
    ? `Exactly it is ${exact}: a one is carried out of the top of ${room}.`
    : `Exactly it is ${exact}: ${room} keep the low digits.`;
}

/** What is carried or borrowed into each column, and out of the top at the left; nothing where nothing is. */
function carries({ operator, a, b, width }: Sum, radix: number): WorkedRow[] {
  if (operator !== '+' && operator !== '−') return [];
  const base = BigInt(radix);
  let [x, y, carry] = [a, b, 0n];
  let digits = ' ';
  for (let at = 0; at < width; at++) {
    const sum = operator === '+' ? (x % base) + (y % base) + carry : (x % base) - (y % base) - carry;
    carry = operator === '+' ? (sum >= base ? 1n : 0n) : sum < 0n ? 1n : 0n;
    digits = (carry === 1n ? '1' : ' ') + digits;
    x /= base;
    y /= base;
  }
  if (!digits.includes('1')) return [];
  const [out, inside] = [digits[0] === '1' ? '1' : '', digits.slice(1)];
  return [{ role: 'carry', sign: out, digits: grouped(inside, radix), unsigned: operator === '+' ? 'carried' : 'borrowed', signed: '' }];
}

/** Operators that mean something on a machine: bits are joined on binary ones only. */
export const calculationsOf = ({ radix }: Pick<Numerals, 'radix'>): readonly Calculation[] =>
  CALCULATIONS.filter((each) => radix === 2 || !['and', 'or', 'xor'].includes(each));

import fc from 'fast-check';
import type { Operation, Radix, StockRule } from '../../notation/tree';
import { FLAG_RULES } from '../../notation/tree';
import { dividesBadly, flagAfter, work, type Operands } from './arithmetic';

type Operator = Operation['operator'];

/** Digits as a list, lowest first: the reference knows no powers and no masks. */
const digitsOf = (value: bigint, width: number, radix: bigint): bigint[] => {
  const digits: bigint[] = [];
  for (let rest = value; digits.length < width; rest /= radix) digits.push(rest % radix);
  return digits;
};
const fromDigits = (digits: readonly bigint[], radix: bigint): bigint => digits.reduceRight((sum, each) => sum * radix + each, 0n);

interface Expected {
  readonly result: bigint;
  readonly carry?: number | undefined;
  readonly overflow?: number | undefined;
  readonly half?: number | undefined;
}

interface Case {
  readonly operator: Operator;
  readonly a: number;
  readonly b: number;
  readonly carry?: number | undefined;
  readonly width: number;
  readonly radix: Radix;
}

const INTO: Readonly<Record<Radix, number>> = { 2: 4, 10: 1 };

/** The operation done on lists of digits and whole numbers of any size. */
function expected({ operator, a, b, carry, width, radix }: Case): Expected {
  const r = BigInt(radix);
  const size = r ** BigInt(width);
  const cut = (value: bigint, to = size): bigint => ((value % to) + to) % to;
  const signed = (value: bigint): bigint => (2n * value >= size ? value - size : value);
  const outside = (value: bigint): number => (2n * value < -size || 2n * value >= size ? 1 : 0);
  const [x, y, c] = [BigInt(a), BigInt(b), BigInt(carry ?? 0)];
  const part = r ** BigInt(INTO[radix]);
  const half = (value: bigint): number => (INTO[radix] >= width ? 0 : value >= part || value < 0n ? 1 : 0);
  switch (operator) {
    case '+':
      return {
        result: cut(x + y + c),
        carry: x + y + c >= size ? 1 : 0,
        overflow: outside(signed(x) + signed(y) + c),
        half: half((x % part) + (y % part) + c),
      };
    case '-':
      return {
        result: cut(x - y - c),
        carry: x - y - c < 0n ? 1 : 0,
        overflow: outside(signed(x) - signed(y) - c),
        half: half((x % part) - (y % part) - c),
      };
    case 'negate':
      return { result: cut(-x), carry: x > 0n ? 1 : 0, overflow: outside(-signed(x)), half: half(-(x % part)) };
    case '*':
      return { result: x * y };
    case '/':
      return { result: x / y };
    case '%':
      return { result: x % y };
    case '<<':
    case '>>':
    case 'asr':
      return shifted(operator, digitsOf(x, width, r), b, r);
    case 'rotl':
    case 'rotr':
      return rotated(operator, digitsOf(x, width, r), { places: b, through: carry, radix: r });
    default:
      throw new Error(`The reference has no ${operator}`);
  }
}

/** One place after the other; a sign is kept by filling with the highest digit or 0. */
function shifted(operator: '<<' | '>>' | 'asr', digits: readonly bigint[], places: number, radix: bigint): Expected {
  let now = [...digits];
  let out: bigint | undefined;
  let changed = 0;
  const negative = (each: readonly bigint[]): boolean => 2n * each.at(-1)! >= radix;
  for (let step = 0; step < places; step++) {
    const was = negative(now);
    if (operator === '<<') {
      out = now.at(-1)!;
      now = [0n, ...now.slice(0, -1)];
    } else {
      out = now[0]!;
      now = [...now.slice(1), operator === 'asr' && was ? radix - 1n : 0n];
    }
    if (operator === '<<' && negative(now) !== was) changed = 1;
  }
  if (out === undefined) return { result: fromDigits(now, radix) };
  return { result: fromDigits(now, radix), carry: out === 0n ? 0 : 1, overflow: changed };
}

/** A ring of digits, the flag being one of them where it goes through. */
function rotated(
  operator: 'rotl' | 'rotr',
  digits: readonly bigint[],
  { places, through, radix }: { places: number; through: number | undefined; radix: bigint },
): Expected {
  let now = [...digits];
  let flag = through;
  let out: bigint | undefined;
  for (let step = 0; step < places; step++) {
    const left = operator === 'rotl';
    out = left ? now.at(-1)! : now[0]!;
    const entering = flag === undefined ? out : BigInt(flag);
    now = left ? [entering, ...now.slice(0, -1)] : [...now.slice(1), entering];
    if (flag !== undefined) flag = out === 0n ? 0 : 1;
  }
  if (out === undefined) return { result: fromDigits(now, radix) };
  return { result: fromDigits(now, radix), carry: out === 0n ? 0 : 1, overflow: 0 };
}

const WITH_CARRY: readonly StockRule[] = ['carry', 'overflow'];
const resultWidth = ({ operator, width }: Case): number => (operator === '*' ? 2 * width : width);

/** What is wrong, or nothing: comparing here is far quicker than an expectation for each of a million values. */
function wrong(each: Case): string | undefined {
  const { operator, a, b, carry, radix } = each;
  const width = resultWidth(each);
  const operands: Operands = { a, b: operator === 'negate' ? undefined : b, carry, width, radix, widths: [each.width, each.width] };
  const worked = work(operator, operands);
  const reference = expected(each);
  const size = BigInt(radix) ** BigInt(width);
  const bits = reference.result.toString(2).replaceAll('0', '').length;
  const sum = operator === '+' || operator === '-' || operator === 'negate';
  const shift = ['<<', '>>', 'asr', 'rotl', 'rotr'].includes(operator);
  const wanted: Partial<Record<StockRule, number | undefined>> = {
    zero: reference.result === 0n ? 1 : 0,
    negative: 2n * reference.result >= size ? 1 : 0,
    ...(radix === 2 && { parity: bits % 2 === 0 ? 1 : 0 }),
    ...((sum || shift) && { carry: reference.carry, overflow: reference.overflow }),
    ...(sum && { 'half-carry': reference.half }),
  };
  if (BigInt(worked.wide ?? worked.result) !== reference.result)
    return `${JSON.stringify(each)}: ${worked.result} is not ${reference.result}`;
  for (const rule of FLAG_RULES) {
    if (!(rule in wanted)) continue;
    for (const noBorrow of WITH_CARRY.includes(rule) ? [false, true] : [false]) {
      const found = flagAfter({ rule, noBorrow, into: INTO[radix], odd: false }, worked);
      const turned = rule === 'carry' && noBorrow && (operator === '-' || operator === 'negate') ? 1 - wanted.carry! : wanted[rule];
      if (found !== turned) return `${JSON.stringify(each)}: ${rule} is ${found}, not ${turned}`;
    }
  }
  return undefined;
}

const OPERATORS: readonly (readonly [operator: Operator, carries: readonly (number | undefined)[]])[] = [
  ['+', [undefined, 0, 1]],
  ['-', [undefined, 0, 1]],
  ['*', [undefined]],
  ['/', [undefined]],
  ['%', [undefined]],
  ['negate', [undefined]],
  ['<<', [undefined]],
  ['>>', [undefined]],
  ['asr', [undefined]],
  ['rotl', [undefined, 0, 1]],
  ['rotr', [undefined, 0, 1]],
];

const possible = ({ operator, a, b, width, radix }: Case): boolean =>
  !((operator === '/' || operator === '%') && dividesBadly({ a, b, width, radix }));

/** Shifts go by small numbers of places; the rest of the second operands would say the same again. */
const secondOf = (operator: Operator, width: number, size: number): number =>
  ['<<', '>>', 'asr', 'rotl', 'rotr'].includes(operator) ? Math.min(size, width + 3) : operator === 'negate' ? 1 : size;

test.each([
  [2, 1],
  [2, 4],
  [2, 8],
  [10, 1],
  [10, 2],
] as const)('radix %i, width %i: results and every stock rule agree with lists of digits, for all pairs of operands', (radix, width) => {
  const size = radix ** width;
  let checked = 0;
  for (const [operator, carries] of OPERATORS)
    for (const carry of carries)
      for (let a = 0; a < size; a++)
        for (let b = 0; b < secondOf(operator, width, size); b++) {
          const each: Case = { operator, a, b, carry, width, radix };
          if (!possible(each)) continue;
          checked++;
          const told = wrong(each);
          if (told) throw new Error(told);
        }
  expect(checked).toBeGreaterThan(size * size);
});

const sampled = fc
  .record({
    shape: fc.constantFrom(
      ...[1, 12, 16, 24, 32].map((width) => [2, width] as const),
      ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((width) => [10, width] as const),
    ),
  })
  .chain(({ shape: [radix, width] }) => {
    const size = radix ** width;
    const value = fc.oneof(fc.nat(size - 1), fc.constantFrom(0, 1, size - 1, Math.floor(size / 2), Math.max(0, Math.floor(size / 2) - 1)));
    const [operator, carries] = [fc.constantFrom(...OPERATORS), fc.nat()];
    return fc.tuple(operator, carries, value, value).map(([[named, choices], pick, a, b]): Case => {
      const places = secondOf(named, width, size);
      return { operator: named, a, b: places < size ? b % places : b, carry: choices[pick % choices.length], width, radix: radix as Radix };
    });
  });

test('results and every stock rule agree with lists of digits at sampled widths, up to 32 bits and 9 digits', () => {
  fc.assert(
    fc.property(sampled, (each) => {
      if (possible(each)) expect(wrong(each)).toBeUndefined();
    }),
    { numRuns: 4000 },
  );
});

test.each([
  [-7, 2, -3, -1],
  [7, -2, -3, 1],
  [-7, -2, 3, -1],
  [-128, 1, -128, 0],
])('signed division of %i by %i goes towards zero, the remainder has the sign of the dividend', (a, b, quotient, remainder) => {
  const operands: Operands = { a: a & 255, b: b & 255, width: 8, radix: 2, signed: true };
  expect([work('/', operands).result, work('%', operands).result]).toEqual([quotient & 255, remainder & 255]);
  expect(dividesBadly(operands)).toBe(false);
});

test('a division by 0, or with a quotient that does not fit, is none', () => {
  expect(dividesBadly({ a: 5, b: 0, width: 8, radix: 2 })).toBe(true);
  expect(dividesBadly({ a: 128, b: 255, width: 8, radix: 2, signed: true })).toBe(true);
  expect(dividesBadly({ a: 500, b: 999, width: 3, radix: 10, signed: true })).toBe(true);
  expect(dividesBadly({ a: 128, b: 255, width: 8, radix: 2 })).toBe(false);
});

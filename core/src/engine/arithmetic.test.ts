import fc from 'fast-check';
import { cut, flagAfter, work } from './arithmetic';

const WIDTHS = [1, 4, 5, 8, 12, 16, 24, 31, 32];
const RULES = ['zero', 'negative', 'carry', 'overflow'] as const;

const atWidth = fc.constantFrom(...WIDTHS).chain((width) => {
  const value = fc.oneof(
    fc.nat(2 ** width - 1),
    fc.constantFrom(0, 1, 2 ** width - 1, 2 ** (width - 1), Math.max(0, 2 ** (width - 1) - 1)),
  );
  return fc.record({ width: fc.constant(width), a: value, b: value, carry: fc.constantFrom(0, 1), noBorrow: fc.boolean() });
});

const big = (width: number) => {
  const size = 1n << BigInt(width);
  return {
    size,
    cut: (value: bigint): bigint => ((value % size) + size) % size,
    signed: (value: number): bigint => (BigInt(value) >= size / 2n ? BigInt(value) - size : BigInt(value)),
    outside: (value: bigint): number => (value < -(size / 2n) || value >= size / 2n ? 1 : 0),
  };
};

test('adding and subtracting with and without carry agree with big numbers at every width', () => {
  fc.assert(
    fc.property(atWidth, fc.constantFrom('+' as const, '-' as const), ({ width, a, b, carry, noBorrow }, operator) => {
      const { size, cut: cutBig, signed, outside } = big(width);
      const sign = operator === '+' ? 1n : -1n;
      const exact = BigInt(a) + sign * (BigInt(b) + BigInt(carry));
      const out = exact < 0n || exact >= size;
      const worked = work(operator, a, b, carry, width);
      expect(BigInt(worked.result)).toBe(cutBig(exact));
      expect(RULES.map((rule) => flagAfter(rule, noBorrow, worked))).toEqual([
        cutBig(exact) === 0n ? 1 : 0,
        cutBig(exact) >= size / 2n ? 1 : 0,
        Number(operator === '-' && noBorrow ? !out : out),
        outside(signed(a) + sign * (signed(b) + BigInt(carry))),
      ]);
    }),
    { numRuns: 2000 },
  );
});

test('negation is subtraction from nothing', () => {
  fc.assert(
    fc.property(atWidth, ({ width, a, noBorrow }) => {
      const worked = work('negate', a, undefined, undefined, width);
      const zero = work('-', 0, a, undefined, width);
      expect(worked.result).toBe(zero.result);
      expect(RULES.map((rule) => flagAfter(rule, noBorrow, worked))).toEqual(RULES.map((rule) => flagAfter(rule, noBorrow, zero)));
    }),
    { numRuns: 500 },
  );
});

test('a shift by n is n shifts by one: result, last digit out, and overflow at any step', () => {
  fc.assert(
    fc.property(
      atWidth,
      fc.integer({ min: 1, max: 40 }),
      fc.constantFrom('<<' as const, '>>' as const),
      ({ width, a }, places, operator) => {
        let value = a;
        let last = 0;
        let overflow = 0;
        for (let step = 0; step < places; step++) {
          const { result } = work(operator, value, 1, undefined, width);
          last = operator === '<<' ? Number((BigInt(value) >> BigInt(width - 1)) & 1n) : value % 2;
          if (operator === '<<' && result >= 2 ** (width - 1) !== value >= 2 ** (width - 1)) overflow = 1;
          value = result;
        }
        const whole = work(operator, a, places, undefined, width);
        expect([whole.result, flagAfter('carry', false, whole), flagAfter('overflow', false, whole)]).toEqual([value, last, overflow]);
      },
    ),
    { numRuns: 2000 },
  );
});

test('a shift by nothing leaves carry and overflow alone', () => {
  for (const operator of ['<<', '>>'] as const) {
    const worked = work(operator, 0x81, 0, undefined, 8);
    expect([
      worked.result,
      flagAfter('carry', false, worked),
      flagAfter('overflow', false, worked),
      flagAfter('zero', false, worked),
    ]).toEqual([0x81, undefined, undefined, 0]);
  }
});

test('logic agrees with big numbers at every width, 32 bits included', () => {
  fc.assert(
    fc.property(atWidth, ({ width, a, b }) => {
      const [x, y] = [BigInt(a), BigInt(b)];
      expect(BigInt(work('&', a, b, undefined, width).result)).toBe(x & y);
      expect(BigInt(work('|', a, b, undefined, width).result)).toBe(x | y);
      expect(BigInt(work('^', a, b, undefined, width).result)).toBe(x ^ y);
      expect(BigInt(work('~', a, undefined, undefined, width).result)).toBe(big(width).size - 1n - x);
    }),
    { numRuns: 1000 },
  );
});

test('cutting keeps the low digits of any whole number that is exact', () => {
  fc.assert(
    fc.property(fc.constantFrom(...WIDTHS), fc.integer({ min: -(2 ** 40), max: 2 ** 40 }), (width, value) => {
      expect(BigInt(cut(value, width))).toBe(big(width).cut(BigInt(value)));
    }),
  );
});

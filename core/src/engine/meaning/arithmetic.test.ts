import fc from 'fast-check';
import type { Operation, StockRule } from '../../notation/tree';
import { cut, flagAfter as flagAfterEffect, work as workOn, type Worked } from './arithmetic';

const work = (operator: Operation['operator'], a: number, b: number | undefined, carry: number | undefined, width: number): Worked =>
  workOn(operator, { a, b, carry, width, radix: 2 });

const flagAfter = (rule: StockRule, noBorrow: boolean, worked: Worked, into = 4, odd = false): number | undefined =>
  flagAfterEffect({ rule, noBorrow, into, odd }, worked);

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

test('half-carry is the carry or borrow of the digits below, at any position', () => {
  fc.assert(
    fc.property(
      atWidth,
      fc.integer({ min: 1, max: 31 }),
      fc.constantFrom('+' as const, '-' as const),
      ({ width, a, b, carry }, into, operator) => {
        const half = flagAfter('half-carry', false, work(operator, a, b, carry, width), into);
        if (into >= width) return expect(half).toBe(0);
        const [low, other] = [BigInt(a) % (1n << BigInt(into)), BigInt(b) % (1n << BigInt(into))];
        const exact = operator === '+' ? low + other + BigInt(carry) : low - other - BigInt(carry);
        expect(half).toBe(exact < 0n || exact >= 1n << BigInt(into) ? 1 : 0);
      },
    ),
    { numRuns: 1500 },
  );
});

test('parity counts the ones of the result, even or odd', () => {
  fc.assert(
    fc.property(atWidth, ({ width, a }) => {
      const ones = [...a.toString(2)].filter((each) => each === '1').length;
      const worked = work('value', a, undefined, undefined, width);
      expect([flagAfter('parity', false, worked), flagAfter('parity', false, worked, 4, true)]).toEqual([(ones + 1) % 2, ones % 2]);
    }),
  );
});

test('a rotate keeps every digit: by text at every width, alone and through a flag', () => {
  fc.assert(
    fc.property(
      atWidth,
      fc.integer({ min: 1, max: 70 }),
      fc.boolean(),
      fc.constantFrom('rotl' as const, 'rotr' as const),
      ({ width, a, carry }, places, through, operator) => {
        const digits = a.toString(2).padStart(width, '0');
        const ring = through ? `${carry}${digits}` : digits;
        const turn = places % ring.length;
        const turned =
          operator === 'rotl' ? ring.slice(turn) + ring.slice(0, turn) : ring.slice(ring.length - turn) + ring.slice(0, ring.length - turn);
        const worked = work(operator, a, places, through ? carry : undefined, width);
        const out = through ? turned[0] : operator === 'rotl' ? turned.at(-1) : turned[0];
        expect([worked.result.toString(2).padStart(width, '0'), String(flagAfter('carry', false, worked))]).toEqual([
          through ? turned.slice(1) : turned,
          out,
        ]);
      },
    ),
    { numRuns: 2000 },
  );
});

test('an arithmetic shift right divides the signed reading, rounding down', () => {
  fc.assert(
    fc.property(atWidth, fc.integer({ min: 1, max: 40 }), ({ width, a }, places) => {
      const { cut: cutBig, signed } = big(width);
      const worked = work('asr', a, places, undefined, width);
      expect(BigInt(worked.result)).toBe(cutBig(signed(a) >> BigInt(places)));
      expect(flagAfter('carry', false, worked)).toBe(Number((signed(a) >> BigInt(places - 1)) & 1n));
    }),
    { numRuns: 1000 },
  );
});

test('a signed product is exact at twice the width, small and less than 0 too', () => {
  fc.assert(
    fc.property(fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }), fc.integer({ min: -60, max: 60 }), (a, b) => {
      const worked = workOn('*', { a: a >>> 0, b: b >>> 0, width: 64, radix: 2, signed: true, widths: [32, 32] });
      expect(worked.wide ?? BigInt(worked.result)).toBe(big(64).cut(BigInt(a) * BigInt(b)));
    }),
  );
});

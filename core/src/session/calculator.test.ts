import fc from 'fast-check';
import { calculate, CALCULATIONS, calculationsOf } from './calculator';

const drawn = fc
  .record({ radix: fc.constantFrom(2, 10), width: fc.integer({ min: 1, max: 64 }), operator: fc.constantFrom(...CALCULATIONS) })
  .chain(({ radix, width, operator }) => {
    const value = fc.bigInt({ min: 0n, max: BigInt(radix) ** BigInt(width) - 1n });
    return fc.record({ radix: fc.constant(radix), width: fc.constant(width), operator: fc.constant(operator), a: value, b: value });
  });

test('every sum is right in every width, binary and decimal, against whole numbers of any size', () => {
  fc.assert(
    fc.property(drawn, ({ radix, width, operator, a, b }) => {
      const shift = b % 70n;
      const sum = calculate({ radix }, { operator, a, b: operator === '<<' || operator === '>>' ? shift : b, width });
      const size = BigInt(radix) ** BigInt(width);
      const exact = {
        '+': () => a + b,
        '−': () => a - b,
        '×': () => a * b,
        '÷': () => (b === 0n ? undefined : a / b),
        rest: () => (b === 0n ? undefined : a - (a / b) * b),
        and: () => BigInt.asUintN(256, a & b),
        or: () => a + b - (a & b),
        xor: () => a + b - 2n * (a & b),
        '<<': () => a * BigInt(radix) ** shift,
        '>>': () => a / BigInt(radix) ** shift,
      }[operator]();
      if (exact === undefined) return expect(sum).toBeUndefined();
      expect(sum!.result).toBe(((exact % size) + size) % size);
      expect(sum!.remark === '').toBe(exact >= 0n && exact < size);
      // The digits that are shown are those of the result.
      expect(BigInt(`${radix === 2 ? '0b' : ''}${sum!.rows.at(-1)!.digits.replaceAll(' ', '')}`)).toBe(sum!.result);
    }),
    { numRuns: 500 },
  );
});

test('what is carried stands above the column that it goes into, what leaves the top before it', () => {
  const sum = calculate({ radix: 2 }, { operator: '+', a: 0x9en, b: 0xabn, width: 8 })!;
  expect(sum.rows.slice(1).map((each) => `${each.sign}|${each.digits}`)).toEqual(['|1001 1110', '+|1010 1011', '|0100 1001']);
  expect(sum.rows[0]).toMatchObject({ role: 'carry', sign: '1' });
  // Column by column: each carry is 1 where the digits right of it came to two or more.
  const carried = sum.rows[0]!.digits.replace(/(.{4}) (.{4})/, '$1$2');
  expect([...carried].map((each) => (each === '1' ? 1 : 0))).toEqual(Array.from({ length: 8 }, (_, at) => carryInto(0x9e, 0xab, 7 - at)));
  expect(sum.remark).toBe('Exactly it is 329: a one is carried out of the top of 8 bits.');
});

/** The carry into a column, from what lies right of it. */
const carryInto = (a: number, b: number, column: number): number => ((a % 2 ** column) + (b % 2 ** column) >= 2 ** column ? 1 : 0);

test('a machine of decimal digits joins no bits', () => {
  expect(calculationsOf({ radix: 10 })).not.toContain('and');
  expect(calculationsOf({ radix: 2 })).toContain('and');
  expect(calculate({ radix: 10 }, { operator: '−', a: 3n, b: 5n, width: 4 })).toMatchObject({
    result: 9998n,
    remark: expect.stringContaining('borrow'),
  });
  expect(calculate({ radix: 2 }, { operator: '÷', a: 3n, b: 0n, width: 8 })).toBeUndefined();
});

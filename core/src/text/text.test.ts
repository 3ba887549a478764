import fc from 'fast-check';
import { nearest } from './nearest';
import { binaryDigits, characterOf, hexDigits, otherReading, readNumber, signedReading, withHexPrefix } from './number';
import { makeSource, placeAt } from './source';

test('a place is found in lines of any length, and back again', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.string({ maxLength: 6 }).map((each) => each.replaceAll('\n', ' ')),
        { minLength: 1, maxLength: 12 },
      ),
      fc.nat(100),
      (lines, pick) => {
        const source = makeSource('t', lines.join('\n'));
        const offset = pick % (source.text.length + 1);
        const { line, column } = placeAt(source, offset);
        expect(lines.slice(0, line - 1).reduce((sum, each) => sum + each.length + 1, 0) + column - 1).toBe(offset);
      },
    ),
  );
});

test('an offset past the end is the end', () => {
  expect(placeAt(makeSource('t', 'ab\nc'), 99)).toEqual({ line: 2, column: 2 });
});

test.each([
  ['LAOD', 'LOAD'],
  ['HLAT', 'HALT'],
  ['stroe', 'STORE'],
  ['XYZZY', undefined],
  ['q', undefined],
  ['A'.repeat(500), undefined],
])('the nearest word to %s is %s', (word, expected) => {
  expect(nearest(word, ['LOAD', 'STORE', 'HALT', 'ADD', 'R'])).toBe(expected);
});

test('a word is found again after one slip, and not after more slips than may be', () => {
  const letters = fc.string({ minLength: 5, maxLength: 12, unit: fc.constantFrom('a', 'b', 'c', 'D') });
  fc.assert(
    fc.property(letters, fc.nat(), fc.constantFrom('out', 'in', 'other', 'swap'), (word, place, slip) => {
      const at = place % (word.length - 1);
      const [before, one, two, rest] = [word.slice(0, at), word[at]!, word[at + 1]!, word.slice(at + 2)];
      const slipped = {
        out: before + two + rest,
        in: `${before}${one}x${two}${rest}`,
        other: `${before}x${two}${rest}`,
        swap: before + two + one + rest,
      };
      expect(nearest(slipped[slip], [word], 1)).toBe(word);
      // Letters that the word does not have cost one each.
      expect(nearest(`xx${word}`, [word], 1)).toBeUndefined();
      expect(nearest(`xx${word}`, [word], 2)).toBe(word);
    }),
  );
});

test.each([
  ['58', 58],
  ['0x3A', 58],
  ['0X3a', 58],
  ['0b11_1010', 58],
  ['1_000', 1000],
  ['3A', undefined],
  ['0x', undefined],
  ['', undefined],
  ['-1', undefined],
  ['1e3', undefined],
  ['99999999999999999999', undefined],
])('%s reads as %s', (text, value) => expect(readNumber(text)).toBe(value));

test('every value is written at its width and read back', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 32 }), fc.nat(), (width, seed) => {
      const value = seed % 2 ** width;
      expect(readNumber(withHexPrefix(value, width))).toBe(value);
      expect(hexDigits(value, width)).toHaveLength(Math.ceil(width / 4));
      expect(Number.parseInt(binaryDigits(value, width).replaceAll(' ', ''), 2)).toBe(value);
      const signed = signedReading(value, width);
      expect((signed + 2 ** width) % 2 ** width).toBe(value);
      expect(signed >= -(2 ** (width - 1)) && signed < 2 ** (width - 1)).toBe(true);
    }),
  );
});

test('only printable characters are shown as such', () => {
  expect([characterOf(65), characterOf(10), characterOf(127), characterOf(200)]).toEqual(['A', undefined, undefined, undefined]);
});

test.each([
  ['0o17', 10, 15],
  ['0d42', 16, 42],
  ['2A', 16, 42],
  ['0b11', 16, 3],
  ['101', 2, 5],
  ['17', 8, 15],
  ['18', 8, undefined],
  ['2A', 10, undefined],
  ['_1', 10, undefined],
  ['@1', 16, undefined],
])('%s in base %i is %s', (text, base, value) => expect(readNumber(text, { base, suffixes: new Map() })).toBe(value));

const letters = {
  base: 10,
  suffixes: new Map([
    ['h', 16],
    ['b', 2],
  ]),
};

test('letters behind a number mean a base, a mark before it counts first', () => {
  expect(['2Ah', '2AH', '101b', '12', '0x1b', 'h', '2Ab'].map((each) => readNumber(each, letters))).toEqual([
    42,
    42,
    5,
    12,
    27,
    undefined,
    undefined,
  ]);
});

test('a number that reads in two ways has another reading, all others none', () => {
  const hex = { base: 16, suffixes: new Map([['b', 2]]) };
  expect(otherReading('0b11', { base: 16, suffixes: new Map() })).toBe(0xb11);
  expect(otherReading('11b', hex)).toBe(0x11b);
  for (const each of ['58', '0x3A', '1_000', '0b11']) expect(otherReading(each, { base: 10, suffixes: new Map() })).toBeUndefined();
});

import fc from 'fast-check';
import { moveEdge, readCode, readFormat, writeCode, writeFormat, type FormatText } from './codeText';

const item = fc.record({
  name: fc.constantFrom('opcode', 'r', 'address', 'value', 'zero'),
  width: fc.integer({ min: 1, max: 16 }),
  words: fc.constantFrom<readonly string[]>([], ['signed'], ['register', 'R'], ['from', 'next'], ['names', 'up=1']),
});
const format: fc.Arbitrary<FormatText> = fc.record({ items: fc.array(item, { minLength: 1, maxLength: 6 }) }, { requiredKeys: ['items'] });

test('what is written as a format is read as the same', () => {
  fc.assert(fc.property(format, (each) => expect(readFormat(writeFormat(each))).toEqual(each)));
  expect(readFormat('offset[7:4] 4, rs 3 register R, offset[3:0] 4, low first')).toEqual({
    items: [
      { name: 'offset', width: 4, range: { high: 7, low: 4 }, words: [] },
      { name: 'rs', width: 3, words: ['register', 'R'] },
      { name: 'offset', width: 4, range: { high: 3, low: 0 }, words: [] },
    ],
    order: 'low',
  });
});

test.each(['', 'opcode', 'opcode 0', 'opcode 8,', '8 opcode', 'a[3:0] 5'])('“%s” is no format', (text) => {
  expect(readFormat(text)).toBeUndefined();
});

test('an edge that moves leaves the whole as wide as it was, and no field without a digit', () => {
  fc.assert(
    fc.property(format, fc.nat(5), fc.integer({ min: -20, max: 20 }), (each, at, by) => {
      const moved = moveEdge(each, at, by);
      const width = ({ items }: FormatText): number => items.reduce((sum, one) => sum + one.width, 0);
      expect(width(moved)).toBe(width(each));
      expect(Math.min(...moved.items.map((one) => one.width))).toBeGreaterThan(0);
      if (at + 1 >= each.items.length) return expect(moved).toEqual(each);
      const back = moveEdge(moved, at, (each.items[at]?.width ?? 0) - (moved.items[at]?.width ?? 0));
      expect(back).toEqual(each);
    }),
  );
});

test('pieces of one field stay a whole when an edge between them and others moves', () => {
  const split = readFormat('offset[7:4] 4, r 3, offset[3:0] 4')!;
  expect(writeFormat(moveEdge(split, 0, -1))).toBe('offset[6:4] 3, r 4, offset[3:0] 4');
  expect(writeFormat(moveEdge(split, 1, -1))).toBe('offset[8:5] 4, r 2, offset[4:0] 5');
});

test('an encoding is taken apart and put together; what is none is not read', () => {
  const code = {
    format: 'place',
    fixed: [
      { field: 'opcode', value: '0x10' },
      { field: 'detail', value: '3' },
    ],
  };
  expect(readCode('place opcode=0x10 detail=3')).toEqual(code);
  expect(writeCode(code)).toBe('place opcode=0x10 detail=3');
  expect(readCode('place opcode = 0x10')).toEqual({ format: 'place', fixed: code.fixed.slice(0, 1) });
  for (const wrong of ['', '5', 'place opcode', 'place opcode=', 'place =1']) expect(readCode(wrong)).toBeUndefined();
});

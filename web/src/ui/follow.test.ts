import { seen } from './follow';

test.each([
  ['what is seen already moves nothing', 100, { from: 120, size: 20, room: 200 }, 100],
  ['what lies above is brought to the upper edge', 100, { from: 40, size: 20, room: 200 }, 40],
  ['what lies below is brought to the lower edge', 100, { from: 400, size: 20, room: 200 }, 220],
])('%s', (_, top, stretch, wanted) => {
  expect(seen(top, stretch)).toBe(wanted);
});

test('of two places the one that is asked for last is seen, and the other where both fit', () => {
  const room = 100;
  const [executing, next] = [
    { from: 500, size: 20, room },
    { from: 520, size: 20, room },
  ];
  expect(seen(seen(0, next), executing)).toBe(440);
  expect(seen(seen(0, { ...next, from: 900 }), executing)).toBe(500);
});

import { RowKeys } from './rowKeys';

const rows = (from: number, count = 5): number[] => Array.from({ length: count }, (_, at) => from + at);

test('rows that stay in sight keep their elements, whichever way they go, and new ones stand beside them', () => {
  const keys = new RowKeys();
  const first = keys.of(rows(10));
  const down = keys.of(rows(12));
  expect(down.slice(0, 3)).toEqual(first.slice(2));
  for (const key of down.slice(3)) expect(first).not.toContain(key);
  const up = keys.of(rows(11));
  expect(up.slice(1)).toEqual(down.slice(0, 4));
});

test('after a leap every row takes over the element in its place, and none is moved', () => {
  const keys = new RowKeys();
  keys.of(rows(0));
  const before = keys.of(rows(3));
  expect(keys.of(rows(4000))).toEqual(before);
  expect(keys.of(rows(200, 7)).slice(0, 5)).toEqual(before);
  expect(keys.of(rows(9000, 3))).toEqual(before.slice(0, 3));
});

test('no two rows share an element, and the same rows have the same ones when they are asked for again', () => {
  const keys = new RowKeys();
  for (const [from, count] of [0, 3, 2, 900, 903, 5, 0, 8, 4000].map((each, at) => [each, 4 + (at % 3)] as const)) {
    const found = keys.of(rows(from, count));
    expect(new Set(found).size).toBe(count);
    expect(keys.of(rows(from, count))).toEqual(found);
  }
});

import { heatLevel, heatWords } from './cells';

test('heat has four shades, each ten times as often as the one before', () => {
  expect([undefined, [0, 0, 0] as const].map(heatLevel)).toEqual([0, 0]);
  expect([1, 9, 10, 99, 100, 1000, 1e6].map((count) => heatLevel([count, 0, 0]))).toEqual([1, 1, 2, 2, 3, 4, 4]);
  expect(heatLevel([0, 3, 40])).toBe(2);
  expect(heatWords([2, 2, 0])).toBe('executed 2×, read 2×');
});

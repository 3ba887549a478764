import { spokenDigits } from './spoken';

test.each([
  ['3B', 16, 'hex three B'],
  ['101', 2, 'binary one zero one'],
  ['070', 8, 'octal zero seven zero'],
  ['158', 10, '158'],
] as const)('%s in base %i is said as “%s”', (digits, base, words) => {
  expect(spokenDigits(digits, { radix: 2, base })).toBe(words);
});

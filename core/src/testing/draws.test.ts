import fc from 'fast-check';
import { assertSeen } from './draws';

/** How often a property is checked that has to be checked `wanted` times until it is seen. */
function drawn(wanted: number): number {
  let count = 0;
  const property = fc.property(fc.nat(), () => void count++);
  assertSeen(property, () => count >= wanted, { numRuns: 4, seed: 7 });
  return count;
}

test('as many draws as are asked for, and on until it is seen; never is an error', () => {
  expect([drawn(0), drawn(4), drawn(5), drawn(40)]).toEqual([4, 4, 8, 40]);
  expect(() => drawn(41)).toThrow('in 40 draws, seeds 7 to 16');
});

test('a property that does not hold fails at once, whatever was seen', () => {
  const wrong = fc.property(fc.nat(), () => false);
  expect(() => assertSeen(wrong, () => true, { numRuns: 4 })).toThrow(/Property failed/);
});

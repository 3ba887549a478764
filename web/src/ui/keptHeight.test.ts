import fc from 'fast-check';
import { kept } from './keptHeight';

test('what is kept is what was needed, and neither less than the least nor more than the most', () => {
  expect([10, 84, 97, 104, 400].map((needed) => kept(needed, { least: 84, most: 104 }))).toEqual([84, 84, 97, 104, 104]);
  fc.assert(
    fc.property(fc.nat(2000), fc.nat(500), fc.nat(500), (needed, least, more) => {
      const found = kept(needed, { least, most: least + more });
      expect(found).toBeGreaterThanOrEqual(least);
      expect(found).toBeLessThanOrEqual(least + more);
      if (needed >= least && needed <= least + more) expect(found).toBe(needed);
    }),
  );
});

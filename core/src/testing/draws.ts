import fc from 'fast-check';

/**
 * Checks a property on as many draws as are asked for, and on as many again until `seen` holds: what comes up in one draw of ten
 * may miss in a few. Ten rounds without it are an error: then it does not come up any more.
 */
export function assertSeen<Drawn extends unknown[]>(
  property: fc.IProperty<Drawn>,
  seen: () => boolean,
  { seed = Date.now() % 2 ** 31, numRuns }: { seed?: number; numRuns: number },
): void {
  for (let round = 0; round < 10; round++) {
    fc.assert(property, { numRuns, seed: seed + round });
    if (seen()) return;
  }
  throw new Error(`in ${10 * numRuns} draws, seeds ${seed} to ${seed + 9}, what is to be seen did not come up`);
}

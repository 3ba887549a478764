/** What a bundle says of its own runs, beside what came when it was run again. */
import type { Bundle } from './bundle';
import type { CheckedHandIn } from './check';

/** Every difference, a sentence each; none where all is as it was said to be. `whole`: the bundle's sum is the one over its contents. */
export function claimsBroken({ results }: Pick<Bundle, 'results'>, whole: boolean, checked: CheckedHandIn): string[] {
  const rows = new Map(checked.rows.map((each) => [each.set, each]));
  const broken = results.flatMap(({ set, verdict, ticks }) => {
    const row = rows.get(set);
    if (!row) return [];
    if (row.verdict !== verdict) return [`“${set}”: said to be “${verdict}”, and is “${row.verdict}”.`];
    return row.ticks === ticks ? [] : [`“${set}”: said to take ${ticks} ticks, and takes ${row.ticks}.`];
  });
  return whole ? broken : ['The sum over the hand-in is not the one that it carries: it was changed since hand-in.', ...broken];
}

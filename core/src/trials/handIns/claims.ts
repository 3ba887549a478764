/** What a bundle says of its own runs, beside what came when it was run again. */
import type { TrialRow } from '../judge/row';
import type { Bundle } from './bundle';
import type { CheckedHandIn } from './check';

/** Characters of one value that are kept. */
const MOST_SEEN = 400;

/** How a run stood at its end, as one text: what the set itself expects something of, then the flags. The same for one run, whoever ran it. */
export function finalState({ seen, flags }: Pick<TrialRow, 'seen' | 'flags'>): string {
  const places = seen.filter((each) => each.expected !== undefined).map((each) => `${each.column} = ${each.seen.slice(0, MOST_SEEN)}`);
  return [...places.sort(), ...flags.map(({ name, value }) => `${name} = ${value}`)].join('; ').slice(0, 8_000);
}

/** Every difference, a sentence each; none where all is as it was said to be. `whole`: the bundle's sum is the one over its contents. */
export function claimsBroken({ results }: Pick<Bundle, 'results'>, whole: boolean, checked: CheckedHandIn): string[] {
  const rows = new Map(checked.rows.map((each) => [each.set, each]));
  const broken = results.flatMap(({ set, verdict, ticks, final }) => {
    const row = rows.get(set);
    if (!row) return [];
    if (row.verdict !== verdict) return [`“${set}”: said to be “${verdict}”, and is “${row.verdict}”.`];
    if (row.ticks !== ticks) return [`“${set}”: said to take ${ticks} ticks, and takes ${row.ticks}.`];
    return final === undefined || row.final === undefined || final === row.final
      ? []
      : [`“${set}”: said to end with ${final}, and ends with ${row.final}.`];
  });
  return whole ? broken : ['The sum over the hand-in is not the one that it carries: it was changed since hand-in.', ...broken];
}

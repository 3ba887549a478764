/** Finds the known word that a misspelt one most likely meant. */

/** The edit distance that counts a swap of neighbours as one (optimal string alignment), at most `limit + 1`. */
function distance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let [before, last, row] = [0, 1, 2].map(() => new Array<number>(b.length + 1).fill(0)) as [number[], number[], number[]];
  for (let j = 0; j <= b.length; j++) last[j] = j;
  let leastOfLast = 0;
  for (let i = 1; i <= a.length; i++) {
    let least = (row[0] = i);
    for (let j = 1; j <= b.length; j++) {
      const cost = a.charCodeAt(i - 1) === b.charCodeAt(j - 1) ? 0 : 1;
      let best = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + cost);
      if (i > 1 && j > 1 && a.charCodeAt(i - 1) === b.charCodeAt(j - 2) && a.charCodeAt(i - 2) === b.charCodeAt(j - 1))
        best = Math.min(best, before[j - 2]! + 1);
      row[j] = best;
      if (best < least) least = best;
    }
    // Whatever follows comes from one of two rows, and a swap costs one.
    if (least > limit && leastOfLast >= limit) return limit + 1;
    leastOfLast = least;
    [before, last, row] = [last, row, before];
  }
  return Math.min(last[b.length]!, limit + 1);
}

/** In a word of so many letters two changed ones make another word. */
const SHORT = 6;

/** Whether all letters of one word stand in another, in their order. */
export function hasLetters(whole: string, part: string): boolean {
  let at = 0;
  for (const each of whole) if (each === part[at]) at++;
  return at === part.length;
}

/**
 * The nearest of `known` to `word`, ignoring case, or undefined where none is near: at most `atMost` letters left out, put in,
 * changed or swapped. Without that, one of a word of up to three letters and two of longer ones; of up to six letters two are
 * only missing or too many. Looks at no more than 2,000 words.
 */
export function nearest(word: string, known: Iterable<string>, atMost?: number): string | undefined {
  if (word.length > 40) return undefined;
  const limit = atMost ?? (word.length <= 3 ? 1 : 2);
  let best: string | undefined;
  let bestDistance = limit + 1;
  let looked = 0;
  const small = word.toLowerCase();
  for (const each of known) {
    if (++looked > 2000) break;
    const other = each.toLowerCase();
    // One letter for another is no slip: every letter would be near to every other.
    if (small.length === 1 && other.length === 1 && small !== other) continue;
    const d = distance(small, other, limit);
    if (d > 1 && atMost === undefined && small.length <= SHORT && !hasLetters(small, other) && !hasLetters(other, small)) continue;
    // Of words that are equally near, the one of the same length was meant more often.
    const closer = best !== undefined && d === bestDistance && Math.abs(each.length - word.length) < Math.abs(best.length - word.length);
    if (d < bestDistance || closer) [best, bestDistance] = [each, d];
  }
  return best;
}

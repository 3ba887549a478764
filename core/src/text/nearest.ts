/** Finds the known word that a misspelt one most likely meant. */

/** The edit distance that counts a swap of neighbours as one (optimal string alignment), at most `limit + 1`. */
function distance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let before: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      let best = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) best = Math.min(best, before[j - 2]! + 1);
      row.push(best);
    }
    before = last;
    last = row;
  }
  return last[b.length]!;
}

/**
 * The nearest of `known` to `word`, ignoring case, or undefined where none is near: at most `limit` letters left out,
 * put in, changed or swapped. Looks at no more than 2,000 words.
 */
export function nearest(word: string, known: Iterable<string>, limit = word.length <= 3 ? 1 : 2): string | undefined {
  if (word.length > 40) return undefined;
  let best: string | undefined;
  let bestDistance = limit + 1;
  let looked = 0;
  for (const each of known) {
    if (++looked > 2000) break;
    const d = distance(word.toLowerCase(), each.toLowerCase(), limit);
    // Of words that are equally near, the one of the same length was meant more often.
    const closer = best !== undefined && d === bestDistance && Math.abs(each.length - word.length) < Math.abs(best.length - word.length);
    if (d < bestDistance || closer) [best, bestDistance] = [each, d];
  }
  return best;
}

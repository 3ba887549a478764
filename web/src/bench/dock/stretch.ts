/** A stretch of a run, in ticks: made longer and shorter, and moved, within what the run has. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** The shortest stretch that is shown, in ticks. */
const SHORTEST = 12;

const within = (from: number, length: number, furthest: number): Stretch => {
  const size = Math.min(Math.max(1, furthest), Math.max(Math.min(SHORTEST, furthest), length));
  const start = Math.max(0, Math.min(from, furthest - size));
  return { from: start, to: start + size };
};

/** `by` times as long, around a place from 0 at its beginning to 1 at its end, which stays where it is. */
export function zoomed(
  { from, to }: Stretch,
  { by, around, furthest }: { readonly by: number; readonly around: number; readonly furthest: number },
): Stretch {
  const place = from + (to - from) * around;
  const length = Math.min(Math.max(1, furthest), Math.max(Math.min(SHORTEST, furthest), (to - from) * by));
  return within(place - length * around, length, furthest);
}

/** Moved by a part of its own length; infinitely far to an end of the run. */
export function goOn({ from, to }: Stretch, by: number, furthest: number): Stretch {
  const length = to - from;
  return within(by === Infinity ? furthest : by === -Infinity ? 0 : from + length * by, length, furthest);
}

/** As many whole words from the beginning of a text as fit into so many letters: a word cut off is taken for another. */
export const wholeWords = (text: string, letters: number): string =>
  text.length <= letters ? text : letters < 1 ? '' : text.slice(0, text.lastIndexOf(' ', letters) + 1).replace(/[\s,]+$/, '');

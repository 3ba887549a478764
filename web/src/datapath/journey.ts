/** Where a token stands on its way, and the key frames that take it there. */
import { itemAt } from '@zettak/core/text/itemAt';
import type { Point } from './layout';

/** As a transform, in the units of the drawing. */
export const moved = ({ x, y }: Point): string => `translate(${x}px, ${y}px)`;

interface Turn {
  readonly stage: 0 | 1;
  /** How many stages the tick has. */
  readonly stages: number;
  /** It is still there when the next stage begins. */
  readonly stays: boolean;
  /** How far before its goal it stops. */
  readonly short: number;
}

/** Key frames of a token's way: it is there from its stage on, at every bend in proportion to the way, and goes when the next begins. */
export function framesOf(points: readonly Point[], { stage, stages, stays, short }: Turn): Keyframe[] {
  const [begin, end] = [stage / stages, (stage + 1) / stages];
  const lengths = points.slice(1).map((each, at) => Math.hypot(each.x - itemAt(points, at).x, each.y - itemAt(points, at).y));
  const goal = alongPath(points, 1, short);
  const total = lengths.reduce((sum, each) => sum + each, 0);
  const way = Math.max(1, total - Math.min(short, total / 2));
  const bends: Keyframe[] = [];
  let gone = 0;
  for (const [at, length] of lengths.entries()) {
    gone += length;
    if (gone >= way) break;
    bends.push({ offset: begin + (gone / way) * (end - begin), transform: moved(itemAt(points, at + 1)), opacity: 1 });
  }
  const [from, to] = [moved(itemAt(points, 0)), moved(goal)];
  const last = end < 1 && !stays ? 0 : 1;
  return [
    ...(begin > 0
      ? [
          { offset: 0, transform: from, opacity: 0 },
          { offset: begin, transform: from, opacity: 0 },
        ]
      : []),
    { offset: begin, transform: from, opacity: 1 },
    ...bends,
    { offset: end, transform: to, opacity: 1 },
    ...(end < 1
      ? [
          { offset: end, transform: to, opacity: last },
          { offset: 1, transform: to, opacity: last },
        ]
      : []),
  ];
}

/** Half of a token's length. */
export const halfOf = (text: string): number => 9 + text.length * 5;

/** How far before its goal a token stops, so that it covers no value: by its length on a level way, by its height on an upright one. */
export function shortBy(points: readonly Point[], text: string): number {
  const [before, goal] = [points.at(-2), points.at(-1)];
  return before && goal && before.y === goal.y ? halfOf(text) + 8 : 22;
}

/** The point a share of the way along, that ends so much before its goal. */
export function alongPath(points: readonly Point[], share: number, short: number): Point {
  const lengths = points.slice(1).map((each, at) => Math.hypot(each.x - itemAt(points, at).x, each.y - itemAt(points, at).y));
  const total = lengths.reduce((sum, each) => sum + each, 0);
  let left = share * Math.max(0, total - Math.min(short, total / 2));
  for (const [at, length] of lengths.entries()) {
    const [from, to] = [itemAt(points, at), itemAt(points, at + 1)];
    if (left <= length && length > 0)
      return { x: from.x + ((to.x - from.x) * left) / length, y: from.y + ((to.y - from.y) * left) / length };
    left -= length;
  }
  return points.at(-1)!;
}

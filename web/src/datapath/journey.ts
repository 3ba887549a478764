/** Where a token stands on its way, and the key frames that take it there. */
import { itemAt } from '@zettak/core/text/itemAt';
import type { Box, Point } from './layout';

/** As a transform, in the units of the drawing. */
export const moved = ({ x, y }: Point): string => `translate(${x}px, ${y}px)`;

interface Turn {
  readonly stage: 0 | 1;
  /** How many stages the tick has. */
  readonly stages: number;
  /** It is still there when the next stage begins. */
  readonly stays: boolean;
  readonly rest: Rest;
}

/** Where a token stops: how far before its goal, and the place, which may be a little beside its way. */
export interface Rest {
  readonly short: number;
  readonly at: Point;
}

/** Key frames of a token's way: it is there from its stage on, at every bend in proportion to the way, and goes when the next begins. */
export function framesOf(points: readonly Point[], { stage, stages, stays, rest: { short, at: goal } }: Turn): Keyframe[] {
  const [begin, end] = [stage / stages, (stage + 1) / stages];
  const lengths = lengthsOf(points);
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

/** Half of a token's height. */
const HALF = 12;
/** Between the edge of a part and what is written in it. */
const MARGIN = 5;

/** Whether a token at a place covers more of a part than its edge. */
export const covers = ({ x, y }: Point, text: string, part: Box): boolean =>
  x + halfOf(text) > part.x + MARGIN &&
  x - halfOf(text) < part.x + part.width - MARGIN &&
  y + HALF > part.y + MARGIN &&
  y - HALF < part.y + part.height - MARGIN;

const touches = ({ x, y }: Point, part: Box): boolean =>
  x >= part.x - 1 && x <= part.x + part.width + 1 && y >= part.y - 1 && y <= part.y + part.height + 1;

/** Parts that a way neither comes from nor goes to. */
export const besideWay = (points: readonly Point[], parts: readonly Box[]): Box[] =>
  parts.filter((each) => !touches(points[0]!, each) && !touches(points.at(-1)!, each));

/** The room that a token takes. */
export const roomOf = ({ x, y }: Point, text: string): Box => ({
  x: x - halfOf(text) - 3,
  y: y - HALF,
  width: 2 * halfOf(text) + 9,
  height: 2 * HALF,
});

const overlap = (a: Box, b: Box): boolean => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** Where the tokens of a tick stop: none over another where there is room for both. One that finds none is placed before the others. */
export function restsOf(journeys: readonly { readonly points: readonly Point[]; readonly text: string }[], parts: readonly Box[]): Rest[] {
  const order = [...journeys.keys()];
  for (let tries = journeys.length; ; tries--) {
    const rests: Rest[] = [];
    const taken: Box[] = [];
    let crowded: number | undefined;
    for (const at of order) {
      const { points, text } = itemAt(journeys, at);
      const rest = restOf(points, text, parts, taken);
      const room = roomOf(rest.at, text);
      if (taken.some((each) => overlap(each, room))) crowded ??= at;
      taken.push(room);
      rests[at] = rest;
    }
    if (crowded === undefined || tries <= 1) return rests;
    order.splice(order.indexOf(crowded), 1);
    order.unshift(crowded);
  }
}

/**
 * A token stops before its goal by its length on a level way, by its height on an upright one. Where it would cover a part that
 * stands beside the way, or another token, it stops further back, at most half of the way; or else it makes room, and still lies on its line.
 */
export function restOf(points: readonly Point[], text: string, parts: readonly Box[], taken: readonly Box[] = []): Rest {
  const [before, goal] = [points.at(-2), points.at(-1)];
  const least = before && goal && before.y === goal.y ? halfOf(text) + 8 : 22;
  const most = lengthsOf(points).reduce((sum, each) => sum + each, 0) / 2;
  const beside = besideWay(points, parts);
  const isClear = (at: Point): boolean => !beside.some((each) => covers(at, text, each));
  const isFree = (at: Point): boolean => isClear(at) && !taken.some((each) => overlap(each, roomOf(at, text)));
  const usual = alongPath(points, 1, least);
  for (const fits of taken.length > 0 ? [isFree, isClear] : [isClear]) {
    for (let short = least; short <= Math.max(least, most); short += 3) {
      const at = alongPath(points, 1, short);
      if (fits(at)) return { short, at };
    }
    for (let aside = 3; aside < halfOf(text) - 3; aside += 3) {
      const [left, right] = [
        { ...usual, x: usual.x - aside },
        { ...usual, x: usual.x + aside },
      ];
      if (fits(right)) return { short: least, at: right };
      if (fits(left)) return { short: least, at: left };
    }
  }
  return { short: least, at: usual };
}

const lengthsOf = (points: readonly Point[]): number[] =>
  points.slice(1).map((each, at) => Math.hypot(each.x - itemAt(points, at).x, each.y - itemAt(points, at).y));

/** The point a share of the way along, that ends so much before its goal. */
export function alongPath(points: readonly Point[], share: number, short: number): Point {
  const lengths = lengthsOf(points);
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

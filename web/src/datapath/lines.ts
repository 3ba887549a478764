/** Idle ways as they are drawn: what lies on one another is one line, and where lines meet there is a dot. */
import { itemAt } from '@zettak/core/text/itemAt';
import type { Point } from './layout';
import type { Wire } from './routes';

export interface Segment {
  readonly upright: boolean;
  /** x of an upright one, y of a level one. */
  readonly at: number;
  readonly from: number;
  readonly to: number;
}

export interface Lines {
  /** Data, and addresses where no data go. */
  readonly data: readonly Segment[];
  readonly address: readonly Segment[];
  /** Where three or four lines meet. */
  readonly dots: readonly Point[];
}

/** The straight pieces of a way. */
export const segmentsOf = (points: readonly Point[]): Segment[] =>
  points.slice(1).map((b, at): Segment => {
    const a = itemAt(points, at);
    return a.x === b.x
      ? { upright: true, at: a.x, from: Math.min(a.y, b.y), to: Math.max(a.y, b.y) }
      : { upright: false, at: a.y, from: Math.min(a.x, b.x), to: Math.max(a.x, b.x) };
  });

const keyOf = ({ upright, at }: Segment): string => `${upright} ${at}`;

/** Pieces on one line that touch or overlap are one. */
function merged(segments: readonly Segment[]): Segment[] {
  const lines = new Map<string, Segment[]>();
  for (const each of segments) if (each.to > each.from) lines.set(keyOf(each), [...(lines.get(keyOf(each)) ?? []), each]);
  return [...lines.values()].flatMap((list) => {
    const sorted = list.toSorted((a, b) => a.from - b.from);
    const out: Segment[] = [];
    for (const each of sorted) {
      const last = out.at(-1);
      if (last && each.from <= last.to) out[out.length - 1] = { ...last, to: Math.max(last.to, each.to) };
      else out.push(each);
    }
    return out;
  });
}

/** What is left of some pieces where others lie. */
function without(segments: readonly Segment[], covered: readonly Segment[]): Segment[] {
  return segments.flatMap((segment) => {
    let left = [segment];
    for (const cover of covered.filter((each) => keyOf(each) === keyOf(segment)))
      left = left.flatMap((each) => [
        ...(cover.from > each.from ? [{ ...each, to: Math.min(each.to, cover.from) }] : []),
        ...(cover.to < each.to ? [{ ...each, from: Math.max(each.from, cover.to) }] : []),
      ]);
    return left.filter((each) => each.to > each.from);
  });
}

/** `wires`: every way of a machine. */
export function linesOf(wires: readonly Wire[]): Lines {
  const of = (path: Wire['path']): Segment[] =>
    merged(wires.filter((each) => each.path === path).flatMap((each) => segmentsOf(each.points)));
  const data = of('data');
  const address = without(of('address'), data);
  const all = merged([...data, ...address]);
  const bends = new Map(wires.flatMap((each) => each.points).map((each) => [`${each.x} ${each.y}`, each]));
  return { data, address, dots: [...bends.values()].filter((each) => armsAt(all, each) > 2) };
}

/** In how many directions lines leave a point. */
function armsAt(segments: readonly Segment[], { x, y }: Point): number {
  let arms = 0;
  for (const { upright, at, from, to } of segments) {
    const [level, along] = upright ? [x, y] : [y, x];
    if (at !== level) continue;
    if (from < along && along <= to) arms++;
    if (from <= along && along < to) arms++;
  }
  return arms;
}

/** As the outline of a path. */
export const outlineOf = (segments: readonly Segment[]): string =>
  segments.map(({ upright, at, from, to }) => (upright ? `M${at} ${from}V${to}` : `M${from} ${at}H${to}`)).join('');

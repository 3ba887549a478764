/** The breakpoints of a program as the page keeps them: over reloads, lines moving with the text. */
import { keep, keptValue } from '../app/preferences';
import type { BreakSpec } from '@zettak/core/session/protocol';

const nameOf = (program: string): string => `stops.${program}`;
const KINDS: ReadonlySet<unknown> = new Set(['line', 'address', 'write', 'change', 'read', 'output', 'condition']);

/** A plain breakpoint before a line. */
export const lineStop = (id: number, line: number): BreakSpec => ({
  id,
  kind: 'line',
  line,
  text: '',
  enabled: true,
  ignore: 0,
  print: '',
});

/** An id that none of them has. */
export const nextId = (stops: readonly BreakSpec[]): number => Math.max(0, ...stops.map((each) => each.id)) + 1;

/** With a breakpoint before the instruction at an address, as it is written; without it where there is one. */
export function withAddress(stops: readonly BreakSpec[], text: string): BreakSpec[] {
  const known = stops.find((each) => each.kind === 'address' && each.text === text);
  if (known) return stops.filter((each) => each !== known);
  return [...stops, { id: nextId(stops), kind: 'address', text, enabled: true, ignore: 0, print: '' }];
}

/** Lines that have one, in the order of the text. */
export const breakLines = (stops: readonly BreakSpec[]): number[] =>
  stops.flatMap((each) => (each.kind === 'line' ? [each.line!] : [])).sort((a, b) => a - b);

/** Rubbish in the storage counts as no breakpoints. */
export function readBreakpoints(program: string): BreakSpec[] {
  const kept = keptValue(nameOf(program));
  return Array.isArray(kept) ? kept.flatMap(stopFrom) : [];
}

function stopFrom(each: unknown): BreakSpec[] {
  if (typeof each !== 'object' || each === null) return [];
  const { id, kind, line, text, enabled, ignore, print } = each as Record<string, unknown>;
  if (!Number.isInteger(id) || !KINDS.has(kind) || typeof text !== 'string' || typeof print !== 'string') return [];
  if (kind === 'line' && !Number.isInteger(line)) return [];
  return [
    {
      id: id as number,
      kind: kind as BreakSpec['kind'],
      ...(kind === 'line' && { line: line as number }),
      text,
      enabled: enabled !== false,
      ignore: Number.isInteger(ignore) ? (ignore as number) : 0,
      print,
    },
  ];
}

/** `program`: its id. Without room they end with the page. */
export const keepBreakpoints = (program: string, stops: readonly BreakSpec[]): void => void keep(nameOf(program), JSON.stringify(stops));

/** The same stops with the lines that the editor has now: what was set for a line goes along with it. */
export function withLines(stops: readonly BreakSpec[], lines: readonly number[]): BreakSpec[] {
  const old = stops.filter((each) => each.kind === 'line').sort((a, b) => a.line! - b.line!);
  const moved = old.length === lines.length;
  let id = nextId(stops);
  const own = lines
    .toSorted((a, b) => a - b)
    .map((line, at) => {
      const known = moved ? old[at] : old.find((each) => each.line === line);
      return known ? { ...known, line } : lineStop(id++, line);
    });
  return [...own, ...stops.filter((each) => each.kind !== 'line')];
}

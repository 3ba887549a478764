/** Breakpoints as somebody set them, made into what the engine understands; or why they mean nothing here. */
import type { BreakOn, Breakpoint } from '../engine/watch/breakpoints';
import { explainEntry } from '../engine/meaning/entryProblems';
import { readWatched } from '../engine/watch/conditions';
import { readPlace } from '../engine/watch/places';
import type { Program } from '../image/program';
import type { Machine } from '../machine/model/machine';
import type { BreakSpec, BreakState } from './protocol';

type Refused = { readonly refused: string };

/** Those that mean something here, and why the others do not. */
export function readBreakpoints(
  machine: Machine,
  program: Program,
  specs: readonly BreakSpec[],
): { readonly list: readonly Breakpoint[]; readonly refused: readonly BreakState[] } {
  const list: Breakpoint[] = [];
  const refused: BreakState[] = [];
  for (const spec of specs) {
    const on = onOf(machine, program, spec);
    const print = spec.print.trim() === '' ? undefined : readWatched(machine, program, spec.print);
    if ('refused' in on) refused.push({ id: spec.id, hits: 0, refused: on.refused });
    else if (print && 'refused' in print) refused.push({ id: spec.id, hits: 0, refused: explainEntry(print.refused) });
    else list.push({ id: spec.id, on, enabled: spec.enabled, ignore: Math.max(0, Math.floor(spec.ignore)), ...(print && { print }) });
  }
  return { list, refused };
}

function onOf(machine: Machine, program: Program, { kind, line, text }: BreakSpec): BreakOn | Refused {
  switch (kind) {
    case 'line': {
      const row = program.rows.find((each) => each.kind === 'code' && each.line === line);
      return row ? { kind: 'address', address: row.address! } : { refused: `No instruction stands on line ${line}.` };
    }
    case 'output':
      return { kind };
    case 'condition': {
      const condition = readWatched(machine, program, text);
      return 'refused' in condition ? { refused: explainEntry(condition.refused) } : { kind, condition };
    }
    case 'address':
    case 'read': {
      const place = readPlace(machine, program, text);
      if ('refused' in place) return { refused: explainEntry(place.refused) };
      if (place.kind !== 'cell') return { refused: `${text} is no cell.` };
      if (kind === 'read') return { kind, space: place.space, address: place.address };
      return place.space === machine.programSpace ? { kind, address: place.address } : { refused: 'Programs do not run there.' };
    }
    case 'write':
    case 'change': {
      const place = readPlace(machine, program, text);
      return 'refused' in place ? { refused: explainEntry(place.refused) } : { kind, place };
    }
    default:
      return kind satisfies never;
  }
}

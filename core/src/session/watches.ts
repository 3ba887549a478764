/** Values that somebody watches while a run goes on: worked out at each view, without touching the run. */
import { explainEntry } from '../engine/meaning/entryProblems';
import { Peeker, readWatched, type Watched } from '../engine/watch/conditions';
import { readPlace } from '../engine/watch/places';
import type { Runner } from '../engine/control/runner';
import type { Machine } from '../machine/model/machine';
import { itemAt } from '../text/itemAt';
import { shownNumber, signedReading } from '../text/number';
import type { ShownWatch } from './protocol';

/** More are not worked out. */
const MOST = 40;

type Read = { readonly text: string } & (
  | { readonly watched: Watched }
  | { readonly cell: { readonly space: number; readonly address: number } }
  | { readonly refused: string }
);

export class Watches {
  private texts: readonly string[] = [];
  private of: Runner | undefined;
  private read: readonly Read[] = [];
  private peeker: Peeker | undefined;
  /** As they read before the last command. */
  private before: readonly string[] = [];

  /** All of them, in their order. */
  set(texts: readonly string[]): void {
    this.texts = texts.slice(0, MOST);
    this.of = undefined;
  }

  /** A command begins: what they read now is what they read before it. */
  mark(runner: Runner): void {
    this.before = this.values(runner);
  }

  shown(runner: Runner): ShownWatch[] {
    const now = this.values(runner);
    return this.read.map((each, at) => ({
      ...{ text: each.text, now: now[at] ?? '', before: this.before[at] ?? now[at] ?? '' },
      ...('refused' in each && { refused: each.refused }),
    }));
  }

  private values(runner: Runner): string[] {
    const { machine, program, state } = runner;
    if (this.of !== runner) {
      this.of = runner;
      this.before = [];
      this.peeker = new Peeker(machine, state);
      this.read = this.texts.map((text): Read => {
        // A name is watched for what lies there, as it is where runs are stopped; a plain number is a number.
        const place = /^\d/.test(text.trim()) ? undefined : readPlace(machine, program, text);
        if (place && 'kind' in place && place.kind === 'cell') return { text, cell: place };
        const watched = readWatched(machine, program, text);
        return 'refused' in watched ? { text, refused: explainEntry(watched.refused) } : { text, watched };
      });
    }
    const { peeker } = this;
    return this.read.map((each) => {
      if ('refused' in each || !peeker) return '';
      if ('watched' in each) return shownValue(machine, each.watched.expr.width, peeker.value(each.watched));
      const { space, address } = each.cell;
      return shownValue(machine, itemAt(machine.spaces, space).width, state.spaces[space]?.[address]);
    });
  }
}

/** In the machine's base and in decimal, with its sign where that reads otherwise. */
function shownValue(machine: Machine, width: number, value: number | undefined): string {
  if (value === undefined) return 'cannot be worked out';
  if (width === 1 && machine.radix === 2) return String(value);
  const own = shownNumber(value, width, machine);
  const signed = signedReading(value, width, machine.radix);
  const plain = machine.base === 10 || machine.radix === 10 ? [] : [String(value)];
  return [own, ...plain, ...(signed === value ? [] : [String(signed).replace('-', '−')])].join(' = ');
}

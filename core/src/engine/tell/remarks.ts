/** What a run does that is allowed and seldom meant: as data with tick and place, and as sentences. */
import { shownNumber } from '../../text/number';
import { addressText, cellName, instructionAt, lineAt, placeName } from './names';
import type { PlaceRef } from '../meaning/report';
import type { Telling } from './telling';

export type Noticed =
  | { readonly kind: 'link lost'; readonly register: number; readonly returnTo: number }
  | { readonly kind: 'kept changed'; readonly register: number; readonly before: number; readonly after: number; readonly routine: number }
  | { readonly kind: 'code written'; readonly address: number }
  | { readonly kind: 'never written'; readonly space: number; readonly address: number }
  | { readonly kind: 'write lost'; readonly place: PlaceRef };

/** `tick` did it, of the instruction at `here`. */
export type RunRemark = Noticed & { readonly tick: number; readonly here: number };

const MOST = 200;

/** The remarks of a run, each kind once for each instruction and place. A tick that is done again adds nothing. */
export class Remarks {
  private readonly found: RunRemark[] = [];
  private readonly known = new Set<string>();

  add(noticed: Noticed, tick: number, here: number): void {
    if (this.found.length >= MOST) return;
    const { kind } = noticed;
    // A cell is told once, whoever reads or writes it.
    const byCell = kind === 'never written' || kind === 'code written';
    const key = JSON.stringify(kind === 'kept changed' ? [kind, here, noticed.register] : [noticed, byCell ? 0 : here]);
    if (this.known.has(key)) return;
    this.known.add(key);
    this.found.push({ ...noticed, tick, here });
  }

  /** What was found after a tick belongs to a future that is given up. */
  forgetAfter(tick: number): void {
    const kept = this.found.filter((each) => each.tick <= tick);
    this.found.length = 0;
    this.known.clear();
    for (const { tick: at, here, ...noticed } of kept) this.add(noticed as Noticed, at, here);
  }

  upTo(tick: number): readonly RunRemark[] {
    return this.found.filter((each) => each.tick <= tick);
  }
}

/** One sentence, with the remedy where there is one. */
export function explainRemark({ machine, program, state }: Telling, remark: RunRemark): string {
  const at = lineAt(program, remark.here);
  const line = at ? `Line${at.slice(4)}, ` : '';
  const by = `${line}${instructionAt(machine, program, state, remark.here) ?? 'an instruction'} at ${addressText(machine, remark.here)}`;
  switch (remark.kind) {
    case 'link lost':
      return `${by}: wrote over ${machine.registers[remark.register]!.name}, which held the only copy of the return address ${addressText(machine, remark.returnTo)}. Save it first.`;
    case 'kept changed': {
      const { name, width } = machine.registers[remark.register]!;
      const shown = (value: number): string => shownNumber(value, width, machine.radix);
      return `${by}: returned with ${name} changed from ${shown(remark.before)} to ${shown(remark.after)}; a routine keeps it as it was.`;
    }
    case 'code written':
      return `${by}: wrote over the program's own code at ${addressText(machine, remark.address)}.`;
    case 'never written':
      return `${by}: read ${cellName(machine, program, remark.space, remark.address)}, which nothing has ever written.`;
    case 'write lost':
      return `${by}: wrote to ${placeName(machine, program, remark.place)}, which stays as it is; the value was thrown away.`;
    default:
      return remark satisfies never;
  }
}

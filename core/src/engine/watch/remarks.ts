/** Collects what a run does that is allowed and seldom meant, with tick and place. */
import type { Noticed, RunRemark } from '../meaning/noticed';

const MOST = 200;

/** The remarks of a run, each kind once for each instruction and place. A tick that is done again adds nothing. */
export class RemarkCollector {
  private readonly found: RunRemark[] = [];
  private readonly known = new Set<string>();

  /** A remark on the instruction at `here`; one that is known already changes nothing. */
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

  /** Remarks of ticks up to this one. */
  upTo(tick: number): readonly RunRemark[] {
    return this.found.filter((each) => each.tick <= tick);
  }
}

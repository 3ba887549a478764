/** Which parts of the bench take which picture: of a quick run they take turns. */

/** Ms between two pictures of the same part: nobody reads more than six sentences a second. */
export const APART = 160;

/** Pictures that come within so many ms of each other follow too quickly for all of each to be looked at. */
const QUICK = 50;

export const PARTS = ['drawn', 'valued', 'windowed', 'told', 'marked'] as const;
/**
 * `drawn`: the drawing. `valued`: registers, flags and memory. `windowed`: windows on memory. `told`: sentences, phases and
 * counts. `marked`: marks of lines, the instruction in hand, what lies in the foot of the bench.
 */
export type Part = (typeof PARTS)[number];
export type Turn = Readonly<Record<Part, boolean>>;

/** Ms after which a part of a quick run should come again: nobody reads its words, but they tell that it goes on. */
const WANTED: Readonly<Record<Part, number>> = { drawn: 66, valued: 100, windowed: 100, told: 400, marked: 400 };

const turnOf = (takes: (part: Part) => boolean): Turn =>
  Object.fromEntries(PARTS.map((part) => [part, takes(part)] as const)) as Record<Part, boolean>;

/** A quick picture carries the part that has waited longest for what it should; words and marks of others take turns. So none costs as much as all. Times are in ms. */
export class Turns {
  private last = -Infinity;
  private readonly shown = new Map<Part, number>();

  /** For a picture that is shown at `now`; whatever stands still is drawn whole, and so is whatever comes slowly. `windows`: there are any. */
  next(now: number, running: boolean, windows: boolean): Turn {
    const since = now - this.last;
    this.last = now;
    const whole = !running || since >= APART;
    const turn = whole ? turnOf(() => true) : since < QUICK ? this.one(now, windows) : this.most(now);
    for (const part of PARTS) if (turn[part]) this.shown.set(part, now);
    // Marks come half way between words from then on.
    if (whole) this.shown.set('marked', now - WANTED.marked / 2);
    return turn;
  }

  private readonly waited = (part: Part, now: number): number => now - (this.shown.get(part) ?? -Infinity);

  private one(now: number, windows: boolean): Turn {
    const due = (part: Part): number => this.waited(part, now) / WANTED[part];
    const [first] = PARTS.filter((part) => windows || part !== 'windowed').toSorted((a, b) => due(b) - due(a));
    return turnOf((part) => part === first);
  }

  private most(now: number): Turn {
    const told = this.waited('told', now) >= APART;
    const marked = !told && this.waited('marked', now) >= APART;
    return turnOf((part) => (part === 'told' ? told : part === 'marked' ? marked : true));
  }
}

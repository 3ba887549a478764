/** Which parts of the bench take which picture: of a quick run, what is read takes turns a few times a second. */

/** Ms between two pictures of the same part: nobody reads more than six sentences a second. */
export const APART = 160;

/** Pictures that come within so many ms of each other follow too quickly for all of each to be looked at. */
const QUICK = 50;

/** Ms between words of those: nobody reads them, but they tell that it goes on. */
export const SELDOM = 320;

export interface Turn {
  /** Sentences, phases and counts. */
  readonly told: boolean;
  /** Marks of lines, the instruction in hand, what lies in the foot of the bench. */
  readonly marked: boolean;
  /** The drawing. */
  readonly drawn: boolean;
  /** Registers, flags and memory. */
  readonly valued: boolean;
}

/**
 * Words and marks take different pictures; of quick ones the drawing takes every second, and words, marks or values one
 * each of the others. So none costs as much as all. Times are in ms.
 */
export class Turns {
  private last = -Infinity;
  private told = -Infinity;
  private marked = -Infinity;
  private drawn = false;

  /** For a picture that is shown at `now`; whatever stands still is drawn whole, and so is whatever comes slowly. */
  next(now: number, running: boolean): Turn {
    const whole = !running || now - this.last >= APART;
    const quick = !whole && now - this.last < QUICK;
    const apart = quick ? SELDOM : APART;
    const drawn = !quick || !this.drawn;
    const words = !(quick && drawn);
    const told = whole || (words && now - this.told >= apart);
    const marked = whole || (words && !told && now - this.marked >= apart);
    const valued = !quick || !(drawn || told || marked);
    this.last = now;
    this.drawn = drawn;
    if (told) this.told = now;
    // Marks come half way between words from then on.
    if (marked) this.marked = whole ? now - apart / 2 : now;
    return { told, marked, drawn, valued };
  }
}

/** Which parts of the bench take which picture: of a quick run, what is read takes turns a few times a second. */

/** Ms between two pictures of the same part: nobody reads more than six sentences a second. */
export const APART = 160;

/** Pictures that come within so many ms of each other follow too quickly for all of each to be looked at. */
const QUICK = 50;

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
 * Words and marks take different pictures; of quick ones the drawing takes every second, and all else the others. So none
 * costs as much as all. Times are in ms.
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
    const drawn = !quick || !this.drawn;
    const told = whole || (!(quick && drawn) && now - this.told >= APART);
    const marked = whole || (!(quick && drawn) && !told && now - this.marked >= APART);
    const valued = !quick || !drawn;
    this.last = now;
    this.drawn = drawn;
    if (told) this.told = now;
    // Marks come half way between words from then on.
    if (marked) this.marked = whole ? now - APART / 2 : now;
    return { told, marked, drawn, valued };
  }
}

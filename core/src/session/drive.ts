/**
 * What is under way on a bench: a run at its pace, or a search through the past, in slices that let messages in between.
 * Knows a runner and a clock, and nothing of views.
 */
import type { Goal, Runner, Stop } from '../engine/control/runner';
import { READ_UP_TO, type Speed } from './protocol';

export interface Scheduler {
  /** Milliseconds from any fixed moment. */
  now(): number;
  /** Calls `act` once after `delay` ms, letting messages in before; returns its undoing. */
  later(delay: number, act: () => void): () => void;
}

/** Whoever sets something going is told how it fares. */
export interface Rider {
  /** One tick was done; `moved` if it was done as a single step. */
  ticked(moved: boolean): void;
  /** A slice of something faster was done. */
  sliced(): void;
  ended(stop: Stop, moved: boolean): void;
}

/** A fast run works this long, in ms, before it looks up. */
const SLICE = 8;
/** Ticks that are done before the clock is looked at: at least, at most. */
const [SMALLEST, LARGEST] = [2000, 4_000_000];
/** ms between slices of a run that is known to go in circles. */
const IDLE = 30;

export class Drive {
  private cancel: (() => void) | undefined;
  private going: { readonly runner: Runner; readonly goal: Goal | undefined; left: number } | undefined;
  private done: number | undefined;
  private pace: Speed = 4;
  private portion = SMALLEST;
  private readonly scheduler: Scheduler;
  private readonly rider: Rider;

  constructor(scheduler: Scheduler, rider: Rider) {
    this.scheduler = scheduler;
    this.rider = rider;
  }

  /** A run is under way. */
  get running(): boolean {
    return this.going !== undefined;
  }

  /** How much of a search is done, from 0 to 1; undefined while there is none. */
  get searched(): number | undefined {
    return this.done;
  }

  /** Too fast to show every tick: goals are gone to as fast as the machine goes. */
  get fast(): boolean {
    return this.done !== undefined || (this.going !== undefined && (this.pace === 'full' || this.going.goal !== undefined));
  }

  /** Every tick is shown, but none stays for long enough to be read in words. */
  get brisk(): boolean {
    return this.fast || (this.going !== undefined && this.pace !== 'full' && this.pace > READ_UP_TO);
  }

  /** Ticks a second, or as fast as the machine goes; holds from the next tick on. */
  get speed(): Speed {
    return this.pace;
  }

  set speed(speed: Speed) {
    this.pace = speed;
    if (this.going) this.schedule();
  }

  /** Sets a run going until something stops it, for at most `budget` ticks. */
  go(runner: Runner, { goal, budget = Infinity }: { readonly goal?: Goal | undefined; readonly budget?: number | undefined }): void {
    this.halt();
    this.going = { runner, goal, left: budget };
    runner.begin(goal);
    this.schedule();
  }

  /** Looks through a run; `then` is told what was found. Anything else that is set going gives the search up. */
  search<T>(search: Generator<number, T>, then: (found: T) => void): void {
    this.halt();
    this.done = 0;
    const slice = (): void => {
      const until = this.scheduler.now() + SLICE;
      do {
        const { done, value } = search.next();
        if (done) {
          this.done = undefined;
          this.cancel = undefined;
          return then(value);
        }
        this.done = value;
      } while (this.scheduler.now() < until);
      this.rider.sliced();
      this.cancel = this.scheduler.later(0, slice);
    };
    slice();
  }

  /** Does something once the messages that wait have been let in, unless something else is set going first. */
  soon(act: () => void): void {
    this.cancel = this.scheduler.later(0, act);
  }

  /** Whatever is under way stands still at once. */
  halt(): void {
    this.cancel?.();
    this.cancel = undefined;
    this.going = undefined;
    this.done = undefined;
  }

  private schedule(): void {
    this.cancel?.();
    const { fast, going, pace } = this;
    const idle = fast && going!.runner.loop !== undefined;
    const delay = fast ? (idle ? IDLE : 0) : 1000 / (pace as number);
    this.cancel = this.scheduler.later(delay, () => (fast ? this.fastSlice() : this.slowTick()));
  }

  private slowTick(): void {
    const going = this.going!;
    const { runner } = going;
    runner.timeline.recall();
    const before = runner.ticks;
    const stop = runner.runTick();
    const moved = runner.ticks === before + 1;
    going.left -= runner.ticks - before;
    if (stop || going.left <= 0) return this.end(stop ?? runner.spent(), moved);
    this.rider.ticked(moved);
    this.schedule();
  }

  private fastSlice(): void {
    const going = this.going!;
    const until = this.scheduler.now() + SLICE;
    let stop: Stop | undefined;
    do stop = this.fastPortion(going);
    while (!stop && this.scheduler.now() < until);
    if (stop) return this.end(stop, false);
    this.rider.sliced();
    this.schedule();
  }

  private fastPortion(going: NonNullable<Drive['going']>): Stop | undefined {
    const { runner } = going;
    const [began, before] = [this.scheduler.now(), runner.ticks];
    const stop = runner.run(Math.min(this.portion, going.left));
    going.left -= runner.ticks - before;
    const took = this.scheduler.now() - began;
    if (took < SLICE / 4) this.portion = Math.min(LARGEST, this.portion * 2);
    else if (took > SLICE) this.portion = Math.max(SMALLEST, Math.floor(this.portion / 4));
    return stop ?? (going.left <= 0 ? runner.spent() : undefined);
  }

  private end(stop: Stop, moved: boolean): void {
    const { runner } = this.going!;
    this.halt();
    runner.timeline.recall();
    this.rider.ended(stop, moved);
  }
}

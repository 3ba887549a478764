/** Looks through the past of a run, done again on the side: when something held, or was written. */
import type { Machine } from '../../machine/model/machine';
import { placeOf, type WatchedPlace } from '../watch/breakpoints';
import { depthOf } from '../meaning/callStack';
import type { StopCondition } from '../compile/stopConditions';
import { CompiledRun, UNGUARDED } from '../compile/compiled';
import { Peeker, type Watched } from '../watch/conditions';
import { TickExecutor } from '../meaning/interpret';
import { copyState, restoreState, type State } from '../meaning/state';
import { CELL } from '../meaning/writes';

/** What is looked for: a tick that writes a place, or a boundary where something holds. */
export type Sought =
  | { readonly kind: 'write'; readonly place: WatchedPlace }
  | { readonly kind: 'condition'; readonly condition: Watched }
  /** A boundary where no more calls than this are open. */
  | { readonly kind: 'calls'; readonly most: number };

/** What is known of a run: enough to do it again. */
export interface Past {
  readonly machine: Machine;
  /** In order of ticks; the first one is the start. */
  readonly checkpoints: readonly State[];
  /** What comes from outside at the tick that a state has reached; false where nothing does. */
  readonly applyEvents: (state: State) => boolean;
  /** The tick of the next thing from outside. */
  readonly eventAfter: (tick: number) => number;
  /** Whether long parts may be leapt over. */
  readonly leaps: boolean;
}

/** A leap takes so many ticks at most. */
const LEAP = 2_000_000;
/** After so many ticks of the tick executor a search looks up. */
const SLICE = 5000;

/** A run of its own that stands where another one stood. */
export class Side {
  readonly state: State;
  readonly executor: TickExecutor;
  run: CompiledRun | undefined;

  constructor(
    private readonly past: Past,
    checkpoint: State,
  ) {
    this.state = copyState(checkpoint);
    this.executor = new TickExecutor(past.machine, this.state);
  }

  restart(checkpoint: State): void {
    restoreState(this.state, checkpoint);
    this.run?.changed();
  }

  /** False where it cannot go on. */
  tick(): boolean {
    const { state, executor } = this;
    const before = state.control.ticks;
    executor.tick();
    if (state.control.ticks === before) return false;
    this.came();
    return true;
  }

  /** After a tick that its executor has done: what comes from outside comes now. */
  came(): void {
    const { state, executor, run, past } = this;
    run?.noteTick(executor);
    if (past.applyEvents(state)) run?.changed();
  }

  /** Long ways are leapt over from now on, where they may be. */
  compile(): void {
    if (!this.past.leaps || this.run) return;
    this.run = CompiledRun.for(this.past.machine);
    this.run?.attach(this.state);
    this.run?.guard(UNGUARDED);
  }

  /** On to a tick, as far as the run can go. */
  reach(tick: number): void {
    while (this.state.control.ticks < tick) if (!this.leap(tick, -1) && !this.tick()) return;
  }

  /** On to the boundary after so many instructions, as far as the run can go. */
  reachInstruction(count: number): void {
    const { state } = this;
    while (state.control.instructions < count || state.control.step !== 0) {
      const left = count - state.control.instructions;
      if (left > 0 && this.leap(Infinity, -1, left)) continue;
      if (!this.tick()) return;
    }
  }

  /** Leaps, to `end` at most, where it can: whether it has. */
  leap(end: number, calls: number, instructions = Infinity): boolean {
    const { state, run, past } = this;
    if (!run || state.control.step !== 0) return false;
    const { ticks } = state.control;
    // What comes from outside comes with a tick that is done one by one.
    const most = Math.min(end, past.eventAfter(ticks) - 1) - ticks;
    return run.leap({ ticks: Math.min(most, LEAP), instructions, depth: calls }) > 0;
  }
}

export class Search {
  private readonly side: Side;
  private readonly holds: () => boolean;
  private readonly asked: readonly StopCondition[];

  constructor(
    private readonly past: Past,
    private readonly sought: Sought,
  ) {
    this.side = new Side(past, past.checkpoints[0]!);
    this.holds = this.test();
    this.asked =
      sought.kind === 'write' ? [] : [sought.kind === 'calls' ? { kind: 'calls' } : { kind: 'value', expr: sought.condition.expr }];
    if (past.leaps) this.side.run = this.compiled();
  }

  private test(): () => boolean {
    const { sought, side, past } = this;
    const { state } = side;
    switch (sought.kind) {
      case 'write':
        return this.wrote(sought.place);
      case 'calls':
        return () => state.control.step === 0 && depthOf(state.control) <= sought.most;
      case 'condition': {
        const peeker = new Peeker(past.machine, state);
        return () => state.control.step === 0 && (peeker.value(sought.condition) ?? 0) !== 0;
      }
      default:
        return sought satisfies never;
    }
  }

  private wrote(place: WatchedPlace): () => boolean {
    const wanted = placeOf(this.past.machine, place);
    const { writes } = this.side.executor;
    return () => {
      for (let at = 0; at < writes.count; at++) {
        const { kind, index, place: where } = writes.at(at);
        if (kind === wanted.kind && index === wanted.index && (kind !== CELL || where === wanted.address)) return true;
      }
      return false;
    };
  }

  private compiled(): CompiledRun | undefined {
    const run = CompiledRun.for(this.past.machine);
    run?.attach(this.side.state);
    return run;
  }

  /** The module that serves: without one, tick by tick. */
  private look({ notes }: { notes: boolean }): void {
    const { side, sought, asked } = this;
    const { run } = side;
    if (!run) return;
    const place = sought.kind === 'write' ? sought.place : undefined;
    run.guard({ ...UNGUARDED, writes: place?.kind === 'cell' ? [place] : [] });
    const possible = run.watch({
      registers: place?.kind === 'register' ? [place.register] : [],
      flags: place?.kind === 'flag' ? [place.flag] : [],
      asked,
      notes: notes && asked.length > 0,
    });
    if (!possible) side.run = undefined;
  }

  private get calls(): number {
    return this.sought.kind === 'calls' ? this.sought.most : -1;
  }

  /**
   * The last tick, `until` at most, after which it holds; 0 stands for the start. Looks from the newest part of the run
   * to the oldest, and yields how much of it is done, from 0 to 1.
   */
  *back(until: number): Generator<number, number | undefined> {
    const { side, past, holds } = this;
    this.look({ notes: true });
    let end = until;
    let at = past.checkpoints.findLastIndex((each) => each.control.ticks <= until);
    for (; at >= 0; at--) {
      side.restart(past.checkpoints[at]!);
      let found = at === 0 && this.sought.kind !== 'write' && holds() ? 0 : undefined;
      for (let ticks = 1; side.state.control.ticks < end;) {
        if (side.leap(end, this.calls)) {
          found = side.run!.noted ?? found;
          if (this.asked.length > 0 && holds()) found = side.state.control.ticks;
          yield (until - end) / until;
          continue;
        }
        if (!side.tick()) break;
        if (holds()) found = side.state.control.ticks;
        if (ticks++ % SLICE === 0) yield (until - end) / until;
      }
      if (found !== undefined) return found;
      end = past.checkpoints[at]!.control.ticks;
      yield (until - end) / until;
    }
    return undefined;
  }

  /** The first tick after `from`, and `until` at most, after which it holds; from −1 on the start counts too. */
  *forward(from: number, until: number): Generator<number, number | undefined> {
    const { side, past, holds } = this;
    side.restart(past.checkpoints.findLast((each) => each.control.ticks <= Math.max(0, from))!);
    if (from < 0 && holds()) return 0;
    const { state } = side;
    for (let ticks = 1; state.control.ticks < from;) {
      if (side.leap(from, -1)) yield 0;
      else if (!side.tick()) return undefined;
      else if (ticks++ % SLICE === 0) yield 0;
    }
    this.look({ notes: false });
    for (let ticks = 1; state.control.ticks < until;) {
      if (side.leap(until, this.calls)) {
        if (this.asked.length > 0 && holds()) return state.control.ticks;
        yield (state.control.ticks - from) / (until - from);
        continue;
      }
      if (!side.tick()) break;
      if (holds() && state.control.ticks > from) return state.control.ticks;
      if (ticks++ % SLICE === 0) yield (state.control.ticks - from) / (until - from);
    }
    return undefined;
  }
}

/** Runs a search to its end. */
export function found(search: Generator<number, number | undefined>): number | undefined {
  for (;;) {
    const { done, value } = search.next();
    if (done) return value;
  }
}

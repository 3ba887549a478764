/** Goes forward without remembering: with the compiled executor over what needs no look, tick by tick over the rest. */
import type { Machine } from '../../machine/model/machine';
import { CompiledRun, type Limits } from '../compile/compiled';
import type { TickExecutor } from '../meaning/interpret';
import type { Ending } from '../meaning/report';
import type { State } from '../meaning/state';
import type { Interventions } from './interventions';

/** Runs of fewer instructions are not worth compiling. */
export const SHORT = 3000;

/** What a run that is not remembered looks at on its way. */
export interface Watching<T> {
  /** Before each tick that the tick executor does; something ends the run. */
  readonly before: () => T | undefined;
  /** After each such tick, and after each leap. */
  readonly after?: (() => void) | undefined;
  readonly afterLeap?: (() => void) | undefined;
  /** At a boundary: how far may be leapt; undefined where every tick has to be looked at. */
  readonly leaps: () => Omit<Limits, 'ticks'> | undefined;
}

export class Leaper {
  /** Made when a run turns out to be long. */
  private run: CompiledRun | undefined;
  private compiling: 'not yet' | 'done' | 'never' = 'not yet';
  private counts = false;

  constructor(
    private readonly machine: Machine,
    private readonly state: State,
    private readonly executor: TickExecutor,
    private readonly interventions: Interventions,
    /** One that has been made and works on this state already. */
    run?: CompiledRun,
  ) {
    this.run = run;
    if (run) this.compiling = 'done';
  }

  /** Undefined until a long run has had it made, and where it cannot be. */
  get compiled(): CompiledRun | undefined {
    return this.run;
  }

  /** Which executor does the long runs; `tick` where modules are not allowed, or this machine cannot be compiled. */
  get longRuns(): 'not yet' | 'compiled' | 'tick' {
    return this.compiling === 'done' ? 'compiled' : this.compiling === 'never' ? 'tick' : 'not yet';
  }

  /** From now on leaps count, and are done by another module. */
  count(): void {
    this.counts = true;
    this.run = undefined;
    this.compiling = 'not yet';
  }

  /** Long runs leap. */
  compileFor(budget: number): void {
    if (this.compiling !== 'not yet' || (this.state.control.instructions < SHORT && budget < SHORT * 4)) return;
    this.run = CompiledRun.for(this.machine, { counts: this.counts });
    this.compiling = this.run ? 'done' : 'never';
    this.run?.attach(this.state);
  }

  /** The state was changed by something else. */
  changed(): void {
    this.run?.changed();
  }

  /** Does up to `budget` ticks; undefined where all were done. */
  forward<T>(budget: number, { before, after, afterLeap, leaps }: Watching<T>): T | Ending | undefined {
    const { executor, state, run, interventions } = this;
    const end = state.control.ticks + budget;
    while (state.control.ticks < end) {
      const stop = before();
      if (stop !== undefined) return stop;
      if (run && state.control.step === 0) {
        const limits = leaps();
        // What comes from outside comes with a tick that is done one by one.
        const ticks = Math.min(end, interventions.nextTick - 1) - state.control.ticks;
        if (limits && run.leap({ ...limits, ticks }) > 0) {
          afterLeap?.();
          continue;
        }
      }
      const outcome = executor.tick();
      run?.noteTick(executor);
      if (outcome === 'waiting' || outcome === 'fault') return outcome;
      if (state.control.ticks >= interventions.nextTick) {
        interventions.applyAt(state);
        run?.changed();
        interventions.lookFrom(state.control.ticks);
      }
      after?.();
      if (outcome === 'halted') return outcome;
    }
    return undefined;
  }
}

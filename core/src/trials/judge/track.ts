/**
 * Many runs of one program, one after the other, on one state and one compiled module: the quick way for runs that end
 * by themselves. What it cannot tell for sure is left to the runner, whose word is the law.
 */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { CompiledRun, UNGUARDED } from '../../engine/compile/compiled';
import { TickExecutor } from '../../engine/meaning/interpret';
import type { RunRemark } from '../../engine/meaning/noticed';
import { copyState, createState, loadProgram, restoreProcessor, restoreState, type State } from '../../engine/meaning/state';
import { reportTick } from '../../engine/meaning/reportTick';
import { Interventions } from '../../engine/timeline/interventions';
import { Leaper } from '../../engine/timeline/leaper';
import { standing, type TickStop } from '../../engine/timeline/timeline';
import type { Script } from '../../engine/timeline/script';
import { RemarkCollector } from '../../engine/watch/remarks';

/** A run that has ended by itself. */
export interface QuickEnd {
  readonly state: State;
  readonly stop: TickStop;
  readonly remarks: readonly RunRemark[];
}

/** Longer runs may be going round, which the runner finds out. */
const QUICK_TICKS = 200_000;

export class Track {
  private readonly start: State;
  private readonly state: State;
  private readonly executor: TickExecutor;
  private readonly run: CompiledRun | undefined;
  private remarks = new RemarkCollector();
  /** What the last run was given by hand. */
  private given: Script['edits'] = [];

  constructor(
    private readonly machine: Machine,
    program: Program,
  ) {
    this.start = createState(machine);
    loadProgram(machine, this.start, program);
    this.state = copyState(this.start);
    this.run = CompiledRun.for(machine);
    this.run?.attach(this.state);
    this.run?.guard({ ...UNGUARDED, tellsNever: true });
    this.run?.keepBeginning();
    this.executor = new TickExecutor(machine, this.state);
    this.executor.observe(
      {
        notice: (each) => {
          const { ticks, here } = this.state.control;
          this.remarks.add(each, ticks + 1, here);
          if (each.kind === 'never written') this.run?.remarkedNever(each.space, each.address);
        },
      },
      { reads: false },
    );
  }

  /** Plans, other devices and inputs that come later need a state of their own. */
  static takes({ plans, devices, edits }: Script): boolean {
    return plans.length === 0 && devices.length === 0 && edits.every((each) => each.tick === 0 && each.kind !== 'inputs');
  }

  /** As at the start: cells that the last run or its hand has written, or all where that is not known. */
  private putBack(): void {
    const { state, start, run } = this;
    const cell = (space: number, address: number): void => {
      state.spaces[space]![address] = start.spaces[space]![address]!;
      state.marks[space]![address] = start.marks[space]![address]!;
    };
    if (!run?.again(cell)) return restoreState(state, start);
    restoreProcessor(state, start);
    for (const each of this.given) if (each.kind === 'cell') cell(each.space, each.address);
  }

  /**
   * Runs from the start with what a script gives; undefined where it has not ended within `mostTicks`, so that the
   * runner has to tell. The state is that of the next run soon.
   */
  go({ inputs, edits }: Script, mostTicks: number): QuickEnd | undefined {
    const { machine, state, executor, run } = this;
    this.putBack();
    this.remarks = new RemarkCollector();
    const interventions = new Interventions(machine, { inputs, plans: [], edits });
    state.control.queue = inputs;
    interventions.applyAt(state);
    interventions.lookFrom(0);
    this.given = edits;
    const leaper = new Leaper(machine, state, executor, interventions, run);
    const limits = { instructions: Infinity, depth: -1 };
    const outcome = leaper.forward(Math.min(mostTicks, QUICK_TICKS), { before: () => undefined, leaps: () => limits });
    if (outcome === undefined) return undefined;
    const remarks = this.remarks.upTo(state.control.ticks);
    // A tick that could not be done has changed nothing, so that it can be asked once more what stood in its way.
    const stop: TickStop = outcome === 'halted' ? { kind: 'halted' } : standing(machine, outcome, reportTick(executor).report);
    return { state, stop, remarks };
  }
}

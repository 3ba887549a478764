/** Run control over one run: how far it is to go, and what stops it before. */
import type { Program } from '../../image/program';
import { withRole, type Machine } from '../../machine/model/machine';
import { BreakpointWatch, type Breakpoint, type Hit } from '../watch/breakpoints';
import { depthOf } from '../meaning/callStack';
import { Peeker, type Watched } from '../watch/conditions';
import type { StopCondition } from '../compile/stopConditions';
import { Counts, type CountsTaken } from '../watch/counts';
import type { Guarded, Limits } from '../compile/compiled';
import { SHORT } from '../timeline/leaper';
import { standing, Timeline, type Beginning, type TickStop } from '../timeline/timeline';
import type { Noticed, RunRemark } from '../meaning/noticed';
import { RemarkCollector } from '../watch/remarks';
import { MOST_ADDRESSES, Repeats, type Loop } from './repeats';
import { placesUsed } from '../meaning/stacks';
import type { Ending } from '../meaning/report';
import { copyState, deviceLatch, type State } from '../meaning/state';
import { TickExecutor } from '../meaning/interpret';
import { reportTick } from '../meaning/reportTick';
import { itemAt } from '../../text/itemAt';

export type { Edit } from '../timeline/interventions';
export type { TickRecord } from '../timeline/timeline';

/** Where a run is to stop by itself, at a boundary between instructions. */
export type Goal =
  /** Until no more than `depth` calls are open; `target` is the routine that is stepped over or out of. */
  | { readonly kind: 'over' | 'out'; readonly depth: number; readonly target: number }
  /** Out of a routine whose call is not known: until the stack is less deep than now. */
  | { readonly kind: 'stack'; readonly stack: number; readonly used: number }
  | { readonly kind: 'address'; readonly address: number }
  | { readonly kind: 'output' }
  | { readonly kind: 'condition'; readonly condition: Watched };

export type Stop =
  | TickStop
  /** `address`: of the instruction before which it stands. */
  | { readonly kind: 'breakpoint'; readonly address: number; readonly hits: readonly Hit[] }
  | { readonly kind: 'reached'; readonly goal: Goal }
  | { readonly kind: 'never halts'; readonly loop: Loop }
  | { readonly kind: 'budget'; readonly loop: Loop | undefined; readonly recent: readonly number[] };

export interface RunOptions {
  /** Nobody can change anything from outside, and a run that can only repeat itself is ended. */
  readonly endless: 'stop' | 'tell';
  /** So many instructions are looked at one by one before a run leaps, and each time it has doubled. */
  readonly closely: number;
}

/** Devices that a person can change while a run is under way. */
const BY_PERSONS: ReadonlySet<string> = new Set(['keyboard', 'switches']);

/** Instructions whose addresses are told when a budget is spent. */
const RECENT = 256;
/** A run that leaps is looked at after so many instructions. */
const SAMPLE = 4096;
/** Rounds of more ticks are not gone through to find a shorter one in them. */
const LONG_ROUND = 2_000_000;

export class Runner {
  readonly timeline: Timeline;
  readonly breaks: BreakpointWatch;
  options: RunOptions = { endless: 'tell', closely: SHORT };
  /** The run is known to repeat itself from now on, unless a person changes something. */
  loop: Loop | undefined;
  private goal: Goal | undefined;
  /** Looks at every boundary for a while; and at every so many instructions of a run that leaps. */
  private readonly repeats: Repeats;
  private readonly farRepeats: Repeats;
  /** Instructions up to which every boundary is looked at, and when that is done again. */
  private slowUntil = SHORT;
  private slowAgain = 2 * SHORT;
  private guarded: Guarded | undefined;
  private readonly remarks = new RemarkCollector();
  private readonly peeker: Peeker;
  private arriving = false;
  private outputs = 0;
  private counting: Counts | undefined;
  /** Called after each tick that the tick executor does; whatever writes to ports and devices is among them. */
  afterTick: (() => void) | undefined;

  constructor(machine: Machine, program: Program, beginning: Beginning = {}) {
    this.timeline = new Timeline(machine, program, beginning, {
      changedFromOutside: () => this.changedFromOutside(),
      forgotFuture: () => this.forgotFuture(),
    });
    this.breaks = new BreakpointWatch(machine, this.state, this.timeline.executor);
    this.repeats = new Repeats(machine, this.state);
    this.farRepeats = new Repeats(machine, this.state);
    this.peeker = new Peeker(machine, this.state);
    this.observe();
  }

  /** With the devices that stand in for others in this run. */
  get machine(): Machine {
    return this.timeline.machine;
  }

  get program(): Program {
    return this.timeline.program;
  }

  /** The present state; the same object for as long as the run lives. */
  get state(): State {
    return this.timeline.state;
  }

  /** Ticks done since the start. */
  get ticks(): number {
    return this.state.control.ticks;
  }

  /** One tick. Undefined when it is done and the run can go on. */
  tick(): TickStop | undefined {
    return this.timeline.tick();
  }

  private observe(): void {
    const { remarks, state } = this;
    const { executor, leaper } = this.timeline;
    const notice = (each: Noticed): void => {
      remarks.add(each, state.control.ticks + 1, state.control.here);
      if (each.kind === 'never written') leaper.compiled?.remarkedNever(each.space, each.address);
    };
    executor.observe({ notice }, { reads: this.breaks.wantsReads || this.counting !== undefined });
    this.guarded = undefined;
  }

  /** In force now; those that are set replace them all and keep the hits of those that stay. */
  get breakpoints(): readonly Breakpoint[] {
    return this.breaks.all;
  }

  set breakpoints(list: readonly Breakpoint[]) {
    this.breaks.set(list);
    this.observe();
  }

  /** From now on counts; what was counted before is gone. */
  count(): void {
    this.counting = new Counts(this.machine, this.state, this.timeline.executor);
    this.timeline.leaper.count();
    this.observe();
  }

  /** What was counted since `count`; undefined where nothing is. */
  get counts(): CountsTaken | undefined {
    const leapt = this.timeline.leaper.compiled?.takeCounts();
    if (leapt) this.counting?.add(leapt);
    return this.counting?.taken;
  }

  /** What the run has done up to now that is allowed and seldom meant. */
  get runRemarks(): readonly RunRemark[] {
    return this.remarks.upTo(this.ticks);
  }

  private changedFromOutside(): void {
    this.loop = undefined;
    this.forgetRepeats();
  }

  private forgotFuture(): void {
    this.remarks.forgetAfter(this.ticks);
    this.breaks.forgetAfter(this.ticks);
    this.timeline.leaper.compiled?.forgetRemarks();
  }

  private forgetRepeats(): void {
    this.repeats.forget();
    this.farRepeats.forget();
    const { instructions } = this.state.control;
    this.slowUntil = instructions + this.options.closely;
    this.slowAgain = instructions + 2 * Math.max(1, this.options.closely);
  }

  // ---- how far ----

  /** How deep in calls the instruction under way began. */
  private depthBefore(): number {
    const { control } = this.state;
    const entered = control.step > 0 && control.callStack !== undefined && control.callStack.tick > control.ticks - control.step;
    return depthOf(control) - (entered ? 1 : 0);
  }

  /** The goal of a step over what comes next, its routine included. */
  overGoal(): Goal {
    return { kind: 'over', depth: this.depthBefore(), target: this.state.control.callStack?.target ?? -1 };
  }

  /** The goal of leaving the routine under way; undefined where no call is open. */
  outGoal(): Goal | undefined {
    const { control } = this.state;
    const depth = depthOf(control);
    if (depth > 0 && !control.callStackBroken) return { kind: 'out', depth: depth - 1, target: control.callStack?.target ?? -1 };
    const stack = this.machine.stacks.findIndex((each) => each.pointer === withRole(this.machine, 'stack pointer'));
    if (stack === -1 || !control.callStackBroken) return undefined;
    return { kind: 'stack', stack, used: placesUsed(this.machine, this.state, stack) };
  }

  /** From here on; a goal ends the run by itself. What was set out before is given up. */
  begin(goal?: Goal): void {
    this.goal = goal;
    this.guarded = undefined;
    // In the middle of an instruction the next boundary is one that the run arrives at.
    this.arriving = this.state.control.step !== 0;
    this.outputs = this.state.control.written;
    this.breaks.begin();
    this.loop = undefined;
    this.forgetRepeats();
  }

  private reached(goal: Goal): boolean {
    const { state } = this;
    switch (goal.kind) {
      case 'over':
      case 'out':
        return depthOf(state.control) <= goal.depth;
      case 'stack':
        return placesUsed(this.machine, state, goal.stack) < goal.used;
      case 'address':
        return state.registers[this.machine.programCounter] === goal.address;
      case 'output':
        return state.control.written > this.outputs;
      case 'condition':
        return (this.peeker.value(goal.condition) ?? 0) !== 0;
      default:
        return goal satisfies never;
    }
  }

  /** Between two instructions: what ends the run here, if anything. */
  private atBoundary(): Stop | undefined {
    const { state, goal, arriving } = this;
    const address = itemAt(state.registers, this.machine.programCounter);
    const hits = this.breaks.atBoundary({ arriving });
    this.arriving = true;
    if (hits.length > 0) return { kind: 'breakpoint', address, hits };
    if (arriving && goal && this.reached(goal)) return { kind: 'reached', goal };
    return this.loop ? undefined : this.atRepeat();
  }

  private atRepeat(): Stop | undefined {
    // What comes from outside will not come again: a state from before it proves nothing.
    if (this.timeline.eventsAhead) {
      this.repeats.forget();
      this.farRepeats.forget();
      return undefined;
    }
    const { instructions } = this.state.control;
    if (instructions >= this.slowAgain) {
      this.repeats.forget();
      this.slowUntil = instructions + this.options.closely;
      this.slowAgain = instructions * 2;
    }
    const far = this.timeline.leaper.compiled && instructions >= this.slowUntil;
    if (far && instructions % SAMPLE !== 0) return undefined;
    const again = (far ? this.farRepeats : this.repeats).at();
    if (!again) return undefined;
    const loop = this.loopOf(again);
    if (this.options.endless === 'stop') return { kind: 'never halts', loop };
    this.loop = loop;
    return undefined;
  }

  /** Goes round on the side, to see where, and whether there is a shorter round in what was found. */
  private loopOf(found: { ticks: number; instructions: number; before: State }): Loop {
    const { machine } = this;
    const { before } = found;
    const state = copyState(this.state);
    const side = new TickExecutor(machine, state);
    const start = new Repeats(machine, state);
    start.keep();
    const addresses = new Set<number>();
    let { ticks, instructions } = found;
    const beginning = state.control.ticks;
    for (let done = 0; done < Math.min(ticks, LONG_ROUND); done++) {
      if (state.control.step === 0) {
        const again = done > 0 && start.same();
        if (again) {
          ticks = state.control.ticks - beginning;
          instructions = state.control.instructions - this.state.control.instructions;
          break;
        }
        if (addresses.size < MOST_ADDRESSES) addresses.add(itemAt(state.registers, machine.programCounter));
      }
      side.tick();
    }
    const asked = ({ latches }: State, device: number): number =>
      (['busyPolls', 'readyPolls', 'dataReads'] as const).reduce(
        (sum, each) => sum + itemAt(latches, deviceLatch(machine, device, each)),
        0,
      );
    const polled = machine.devices.flatMap((_, device) =>
      asked(this.state, device) > asked(before, device) ? [{ device, times: asked(this.state, device) }] : [],
    );
    return { ticks, instructions, addresses: [...addresses].sort((a, b) => a - b), polled };
  }

  /** The devices that a loop asks and that a person can change. */
  changeable({ polled }: Loop): number[] {
    const byHand = (device: number): boolean =>
      BY_PERSONS.has(itemAt(this.machine.devices, device).kind) ||
      this.state.plans.some((each) => each.device === device && each.until.kind === 'hand');
    return polled.map((each) => each.device).filter(byHand);
  }

  // ---- going ----

  /** To the end of the instruction under way, or of the next one. */
  instruction(): Stop | undefined {
    do {
      const stop = this.tick();
      if (stop) return stop;
    } while (this.state.control.step !== 0);
    return undefined;
  }

  /** To the end of the phase under way, or of the next one. */
  phase(): Stop | undefined {
    const { control } = this.state;
    const phase = control.schedule[control.step]?.phase;
    for (;;) {
      const stop = this.tick();
      if (stop) return stop;
      const { step, schedule } = this.state.control;
      if (step === 0 || schedule[step]?.phase !== phase) return undefined;
    }
  }

  /** One remembered tick of a run that `begin` has set out: undefined where it goes on. */
  runTick(): Stop | undefined {
    if (this.state.control.step === 0) {
      const stop = this.atBoundary();
      if (stop) return stop;
    }
    const { watching } = this.breaks;
    if (watching) this.breaks.beforeTick();
    const before = this.ticks;
    const stop = this.tick();
    if (watching && this.ticks > before) this.breaks.afterTick();
    if (this.ticks > before) this.counting?.afterTick();
    return stop;
  }

  /**
   * Up to `budget` ticks of a run that `begin` has set out, without remembering each, so that it is fast: undefined where
   * it can go on. `first` sets out anew.
   */
  run(budget: number, { first = false }: { first?: boolean } = {}): Stop | undefined {
    if (first) this.begin(this.goal);
    const { breaks, state, counting, timeline } = this;
    const { leaper } = timeline;
    timeline.leaveRecords();
    leaper.compileFor(budget);
    const { watching } = breaks;
    const stop = leaper.forward<Stop>(budget, {
      before: () => {
        const ends = state.control.step === 0 ? this.atBoundary() : undefined;
        if (!ends && watching) breaks.beforeTick();
        return ends;
      },
      after:
        watching || counting || this.afterTick
          ? () => {
              if (watching) breaks.afterTick();
              counting?.afterTick();
              this.afterTick?.();
            }
          : undefined,
      afterLeap: () => {
        breaks.held = leaper.compiled!.held;
        counting?.afterLeap();
      },
      leaps: this.leaps(),
    });
    timeline.advanceFurthest();
    if (stop === undefined) timeline.keepCheckpoint();
    return typeof stop === 'string' ? this.stopped(stop) : stop;
  }

  /** What is asked at every boundary, besides the conditions of breakpoints: the run stops where it holds. */
  private askedByGoal(): StopCondition[] {
    const { goal } = this;
    if (goal?.kind === 'condition') return [{ kind: 'value', expr: goal.condition.expr }];
    return goal?.kind === 'stack' ? [{ kind: 'stack', stack: goal.stack, below: goal.used }] : [];
  }

  /** How far this run may leap: not where something is asked that only ticks can tell. */
  private leaps(): () => Omit<Limits, 'ticks'> | undefined {
    const { goal, breaks, state } = this;
    const { compiled } = this.timeline.leaper;
    if (!compiled) return () => undefined;
    const { addresses, registers, flags, cells, reads } = breaks.places;
    this.guarded ??= {
      addresses: goal?.kind === 'address' ? new Set([...addresses, goal.address]) : addresses,
      reads,
      writes: cells,
      tellsNever: true,
    };
    compiled.guard(this.guarded);
    if (!compiled.watch({ registers, flags, asked: [...breaks.asked, ...this.askedByGoal()] })) return () => undefined;
    const depth = goal?.kind === 'over' || goal?.kind === 'out' ? goal.depth : -1;
    return () => {
      const { instructions } = state.control;
      const { held } = breaks;
      if (this.loop) return { instructions: Infinity, depth, held };
      return instructions < this.slowUntil ? undefined : { instructions: SAMPLE - (instructions % SAMPLE), depth, held };
    };
  }

  /** As a budget was spent: what is known of where the run goes round. */
  spent(): Stop {
    const { machine } = this;
    const state = copyState(this.state);
    const side = new TickExecutor(machine, state);
    const recent = new Set<number>();
    for (let done = 0; done < RECENT * 8; done++) {
      if (state.control.step === 0) recent.add(itemAt(state.registers, machine.programCounter));
      if (side.tick() !== 'done') break;
    }
    return { kind: 'budget', loop: this.loop, recent: [...recent].sort((a, b) => a - b) };
  }

  private stopped(outcome: Ending): Stop {
    if (outcome === 'halted') return { kind: 'halted' };
    const { report } = reportTick(this.timeline.executor);
    return standing(this.machine, outcome, report);
  }
}

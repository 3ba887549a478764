/**
 * One run and all of its past: forward, back, to any tick. A run is a function of machine, starting state and script, so
 * what is no longer remembered is done again from a checkpoint.
 */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { UNGUARDED } from '../compile/compiled';
import { plannedValue } from '../meaning/devices';
import { TickExecutor } from '../meaning/interpret';
import { reportTick } from '../meaning/reportTick';
import type { Fault, FlagChange, Outcome, TickReport } from '../meaning/report';
import {
  applyChange,
  copyState,
  createState,
  deviceLatch,
  loadProgram,
  restoreState,
  type Change,
  type Control,
  type Plan,
  type State,
} from '../meaning/state';
import { Interventions, type DatedEdit, type Edit } from './interventions';
import { Leaper } from './leaper';
import { Search, Side, type Past, type Sought } from './search';

/** One tick that is remembered: what it told, and how to undo and redo it. */
export interface TickRecord {
  readonly report: TickReport;
  readonly changes: readonly Change[];
  readonly before: Control;
  readonly after: Control;
}

/** Why a tick did not leave the run able to go on. */
export type TickStop =
  /** By `halt`, or, where the machine says that it ends so, by going on into cells that hold nothing. */
  | { readonly kind: 'halted'; readonly ran?: Fault }
  | { readonly kind: 'waiting'; readonly report: TickReport }
  | { readonly kind: 'fault'; readonly fault: Fault; readonly report: TickReport };

/** How a run stands after a tick that could not be done: it waits, has stopped, or is at an end where the machine says so. */
export function standing({ faults }: Machine, outcome: 'waiting' | 'fault', report: TickReport): TickStop {
  if (outcome === 'waiting') return { kind: 'waiting', report };
  const fault = report.fault!;
  return faults[fault.kind]?.kind === 'end' ? { kind: 'halted', ran: fault } : { kind: 'fault', fault, report };
}

export interface Beginning {
  /** Cells that the image does not fill stay as they are there. */
  readonly keep?: State;
  readonly inputs?: readonly number[];
  readonly plans?: readonly Plan[];
  /** What comes later: part of the script, unless it says that hands did it in a run that is gone through again. */
  readonly edits?: readonly DatedEdit[];
}

const MOST_RECORDS = 1500;
/** Ticks remembered around a place that was travelled to. */
const NEAR = 600;
/** Bytes that checkpoints may take, about, and how many there may be at least and at most. */
const CHECKPOINT_ROOM = 24e6;
const [FEWEST, MOST] = [30, 1500];

/** Whoever goes along with a run is told what its timeline does by itself. */
export interface Companion {
  /** The state is another one than the run had come to, or something has come from outside. */
  changedFromOutside(): void;
  /** What was remembered of the future has ended. */
  forgotFuture(): void;
}

export class Timeline {
  readonly state: State;
  readonly executor: TickExecutor;
  readonly leaper: Leaper;
  private readonly interventions: Interventions;
  private readonly companion: Companion;
  private readonly checkpoints: State[] = [];
  private readonly mostCheckpoints: number;
  private spacing = 10_000;
  /** Ticks in order without a gap; those from `position` on are the future that was travelled back from. */
  private readonly records: TickRecord[] = [];
  private position = 0;
  private reached = 0;

  constructor(
    readonly machine: Machine,
    readonly program: Program,
    { keep, inputs = [], plans = [], edits = [] }: Beginning,
    companion: Companion,
  ) {
    this.companion = companion;
    const arrivals = edits.flatMap((each) => (each.kind === 'inputs' && (each.scripted ?? true) ? [each.tick] : []));
    this.state = createState(machine, keep, { plans, arrivals });
    loadProgram(machine, this.state, program);
    this.state.control.queue = inputs;
    this.interventions = new Interventions(machine, { inputs, plans, edits });
    for (const plan of plans) {
      const past = plan.until.kind === 'key' && inputs.length > 0;
      this.interventions.fulfil(this.state, plan, past ? plan.after : plan.before);
    }
    this.executor = new TickExecutor(machine, this.state);
    this.leaper = new Leaper(machine, this.state, this.executor, this.interventions);
    const bytes = this.state.spaces.reduce((sum, each) => sum + each.length * 5, 400);
    this.mostCheckpoints = Math.min(MOST, Math.max(FEWEST, Math.floor(CHECKPOINT_ROOM / bytes)));
    this.interventions.applyAt(this.state);
    this.checkpoints.push(copyState(this.state));
    this.findNextEvent();
  }

  /** The furthest tick this run has reached. */
  get furthest(): number {
    return this.reached;
  }

  /** The state that the run began with; not to be changed. */
  get atStart(): State {
    return this.checkpoints[0]!;
  }

  /** Ticks done since the start. */
  get ticks(): number {
    return this.state.control.ticks;
  }

  /** The queue of inputs: used up, waiting, and those that hands give in the future that was travelled back from. */
  get inputs(): readonly number[] {
    return [...this.state.control.queue, ...this.interventions.handedAfter(this.ticks)];
  }

  /** The inputs to begin another run with: all but those that the script gives later. */
  get handed(): readonly number[] {
    return this.interventions.handed;
  }

  /** What hands have done so far, and will do again in the future that was travelled back from. */
  get script(): readonly DatedEdit[] {
    return this.interventions.all;
  }

  /** What the run was given before its first tick. */
  get firstInputs(): readonly number[] {
    return this.checkpoints[0]!.control.queue;
  }

  /** Whether something is still to come from outside at a tick that is settled. */
  get eventsAhead(): boolean {
    return this.interventions.nextTick < Infinity;
  }

  /** The tick just done, where it is remembered. */
  get last(): TickReport | undefined {
    return this.records[this.position - 1]?.report;
  }

  /** Remembered ticks before and after the present one. */
  get remembered(): { readonly past: readonly TickRecord[]; readonly future: readonly TickRecord[] } {
    return { past: this.records.slice(0, this.position), future: this.records.slice(this.position) };
  }

  /** More values for whatever reads, from now on. */
  queueInput(values: readonly number[]): void {
    this.edit({ kind: 'inputs', queue: [...this.inputs, ...values] });
  }

  /** Takes an input out of the queue, where it is not used up yet; what a future did with it is forgotten. */
  removeInput(index: number): boolean {
    if (index < this.state.control.inputs || index >= this.inputs.length) return false;
    this.edit({ kind: 'inputs', queue: this.inputs.filter((_, at) => at !== index) });
    return true;
  }

  /** What a plan leaves to a hand happens now. */
  release(device: number): void {
    this.state.plans.forEach((each) => each.device === device && each.until.kind === 'hand' && this.setPlanned(each));
  }

  private setPlanned(plan: Plan): void {
    const value = plannedValue(this.machine, this.state, plan, plan.after);
    this.edit({ kind: 'latch', latch: deviceLatch(this.machine, plan.device, plan.latch), value });
  }

  /**
   * Does something by hand: from now on, so what was remembered of the future ends, and inputs that it was given go
   * back to the queue. Before the first tick it belongs to the starting state.
   */
  edit(edit: Edit): void {
    this.recall();
    const { inputs } = this;
    this.forgetFuture();
    if (inputs.length > this.state.control.queue.length && edit.kind !== 'inputs') this.put({ kind: 'inputs', queue: inputs });
    this.put(edit);
    this.findNextEvent();
    this.companion.changedFromOutside();
  }

  /** The remembered tick takes it along, so that going back undoes it. */
  private put(edit: Edit): void {
    this.interventions.put(edit, this.ticks);
    const changes = this.interventions.apply(this.state, edit);
    this.leaper.changed();
    const last = this.records[this.position - 1];
    if (last) this.records[this.position - 1] = { ...last, changes: [...last.changes, ...changes], after: { ...this.state.control } };
    if (this.ticks === 0) this.interventions.apply(this.checkpoints[0]!, edit);
  }

  private findNextEvent(): void {
    this.interventions.lookFrom(this.ticks);
  }

  /** What the next tick would do. Undefined once halted. */
  preview(): { readonly report: TickReport; readonly outcome: Outcome } | undefined {
    return this.state.control.halted ? undefined : reportTick(this.executor, { dry: true });
  }

  /** One tick. Undefined when it is done and the run can go on. */
  tick(): TickStop | undefined {
    if (this.state.control.halted) return { kind: 'halted' };
    const known = this.records[this.position];
    if (known) return this.redo(known);
    const before = this.records[this.position - 1]?.after ?? { ...this.state.control };
    const { outcome, report, changes } = reportTick(this.executor);
    this.leaper.changed();
    if (outcome === 'waiting' || outcome === 'fault') return standing(this.machine, outcome, report);
    const { nextTick } = this.interventions;
    const events = this.ticks === nextTick ? this.interventions.applyAt(this.state) : [];
    if (this.ticks >= nextTick) this.findNextEvent();
    this.remember({ report, changes: [...changes, ...events], before, after: { ...this.state.control } });
    return outcome === 'halted' ? { kind: 'halted' } : undefined;
  }

  /** Done again, so that whoever watches writes and reads sees them; then made equal to what was remembered. */
  private redo(record: TickRecord): TickStop | undefined {
    this.leaper.changed();
    this.executor.tick();
    record.changes.forEach((each) => applyChange(this.state, each, 'after'));
    this.state.control = { ...record.after };
    this.position++;
    this.findNextEvent();
    return this.state.control.halted ? { kind: 'halted' } : undefined;
  }

  private remember(record: TickRecord): void {
    this.records.push(record);
    this.position++;
    this.reached = Math.max(this.reached, this.ticks);
    if (this.records.length <= MOST_RECORDS) return;
    this.keepCheckpoint();
    const dropped = MOST_RECORDS / 3;
    this.records.splice(0, dropped);
    this.position -= dropped;
  }

  private forgetFuture(): void {
    this.records.length = this.position;
    this.reached = this.ticks;
    this.interventions.forgetAfter(this.ticks);
    this.findNextEvent();
    while (this.checkpoints.at(-1)!.control.ticks > this.ticks) this.checkpoints.pop();
    this.companion.forgotFuture();
  }

  /** One tick back. False at the start. */
  back(): boolean {
    if (this.ticks === 0) return false;
    if (this.position === 0) this.travel(this.ticks, { again: true });
    this.leaper.changed();
    const record = this.records[this.position - 1];
    if (!record) throw new Error(`Tick ${this.ticks} is not remembered after travelling to it`);
    for (let at = record.changes.length - 1; at >= 0; at--) applyChange(this.state, record.changes[at]!, 'before');
    this.state.control = { ...record.before };
    this.position--;
    this.findNextEvent();
    this.companion.changedFromOutside();
    return true;
  }

  /** To the beginning of the instruction under way, or of the one before. */
  instructionBack(): boolean {
    if (!this.back()) return false;
    while (this.state.control.step !== 0 && this.back());
    return true;
  }

  /** Back to before the first tick; the run so far stays, and can be gone through again. */
  toStart(): void {
    this.travel(0);
  }

  /** To any tick of the run so far; beyond what was reached, and at a wait, it goes as far as it can. */
  travel(tick: number, { again = false }: { again?: boolean } = {}): void {
    const target = Math.max(0, Math.min(tick, this.furthest));
    const first = this.records[0]?.report.tick ?? Infinity;
    const last = this.records.at(-1)?.report.tick ?? -Infinity;
    if (!again && target >= first - 1 && target <= last) {
      while (this.ticks > target) this.back();
      while (this.ticks < target && !this.tick());
    } else this.replay(target);
    this.companion.changedFromOutside();
  }

  /** Goes to a tick that the run has perhaps not reached yet, without stopping on the way; as far as it can. */
  reach(tick: number): void {
    if (tick <= this.furthest) return this.travel(tick);
    this.leaveRecords();
    while (this.ticks < tick && this.silently(Math.min(this.spacing, tick - this.ticks)) === undefined) this.keepCheckpoint();
    this.advanceFurthest();
    this.recall();
  }

  private replay(target: number): void {
    const from = Math.max(0, target - NEAR);
    restoreState(this.state, this.checkpoints[this.checkpointBefore(from)]!);
    this.leaper.changed();
    this.records.length = 0;
    this.position = 0;
    this.findNextEvent();
    this.silently(from - this.ticks);
    while (this.ticks < target && !this.tick());
  }

  private checkpointBefore(tick: number): number {
    return this.checkpoints.findLastIndex((each) => each.control.ticks <= tick);
  }

  /** Up to `budget` ticks with nobody looking; undefined where all were done. */
  private silently(budget: number): Outcome | undefined {
    const { leaper } = this;
    leaper.compileFor(budget);
    leaper.compiled?.guard(UNGUARDED);
    leaper.compiled?.watch({});
    const limits = { instructions: Infinity, depth: -1 };
    return leaper.forward<Outcome>(budget, { before: () => undefined, leaps: () => limits });
  }

  /** What was reached without remembering it. */
  advanceFurthest(): void {
    this.reached = Math.max(this.reached, this.ticks);
  }

  /** A fast run leaves the remembered ticks behind; a checkpoint takes their place. */
  leaveRecords(): void {
    if (this.records.length === 0) return;
    this.keepCheckpoint();
    this.records.length = 0;
    this.position = 0;
  }

  /** Where the run has gone far enough since the last one. */
  keepCheckpoint(): void {
    const { checkpoints } = this;
    if (this.ticks - checkpoints.at(-1)!.control.ticks < this.spacing) return;
    checkpoints.push(copyState(this.state));
    if (checkpoints.length <= this.mostCheckpoints) return;
    this.spacing *= 2;
    const kept = checkpoints.filter((_, at) => at % 2 === 0);
    checkpoints.splice(0, checkpoints.length, ...kept);
  }

  /** After a fast run: remembers the ticks just behind, so that they can be shown and undone. */
  recall(): void {
    if (this.position === 0 && this.ticks > 0) this.replay(this.ticks);
  }

  // ---- asking the past ----

  private get past(): Past {
    const { machine, checkpoints } = this;
    return {
      machine,
      checkpoints,
      applyEvents: (state) => this.interventions.applyAt(state).length > 0,
      eventAfter: (tick) => this.interventions.after(tick),
      leaps: this.leaper.longRuns === 'compiled',
    };
  }

  /** The last tick, `until` at most, after which something holds; yields how much was looked at, from 0 to 1. */
  searchBack(sought: Sought, until = this.ticks): Generator<number, number | undefined> {
    return new Search(this.past, sought).back(until);
  }

  /** The first tick after `from`, as far as the run has come, after which something holds; from −1 on the start counts too. */
  searchForward(sought: Sought, from = 0): Generator<number, number | undefined> {
    return new Search(this.past, sought).forward(from, this.furthest);
  }

  /** A run of its own that goes the same way, at the latest place known before a tick, or before so many instructions. */
  aside(before: { readonly tick: number } | { readonly instructions: number }): Side {
    const known = (each: State): boolean =>
      'tick' in before ? each.control.ticks <= before.tick : each.control.instructions <= before.instructions && each.control.step === 0;
    const side = new Side(this.past, this.checkpoints.findLast(known) ?? this.checkpoints[0]!);
    side.compile();
    return side;
  }

  /** The tick that wrote a character of the output, counted from 0 over all that was written; undefined where none has. */
  outputTick(index: number): number | undefined {
    if (index < 0 || index >= this.state.control.written) return undefined;
    const side = new Side(this.past, this.checkpoints.findLast((each) => each.control.written <= index) ?? this.checkpoints[0]!);
    side.compile();
    while (side.state.control.written <= index) if (!side.leap(this.ticks, -1) && !side.tick()) return undefined;
    return side.state.control.ticks;
  }

  /** The report of a tick of this run, remembered or done again on the side; undefined for tick 0 and the future. */
  reportOf(tick: number): TickReport | undefined {
    if (tick < 1 || tick > this.ticks) return undefined;
    const known = this.records.slice(0, this.position).find((each) => each.report.tick === tick);
    if (known) return known.report;
    const side = new Side(this.past, this.checkpoints[this.checkpointBefore(tick - 1)]!);
    while (side.state.control.ticks < tick - 1 && side.tick());
    return reportTick(side.executor).report;
  }

  /** Why a flag is as it is: the change that set it last, and the tick; undefined as at reset. */
  whyFlag(flag: number): { readonly report: TickReport; readonly change: FlagChange } | undefined {
    const report = this.reportOf(this.state.flagTicks[flag]!);
    const change = report?.flags.findLast((each) => each.flag === flag);
    return report && change ? { report, change } : undefined;
  }
}

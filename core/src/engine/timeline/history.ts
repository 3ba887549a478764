/**
 * One run and all of its past: forward, back, to any tick. A run is a function of machine, starting state and script, so
 * what is no longer remembered is done again from a checkpoint.
 */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { plannedValue } from '../meaning/devices';
import { CompiledRun, UNGUARDED, type Limits } from '../compile/compiled';
import { TickExecutor } from '../meaning/interpret';
import { Search, Side, type Past, type Sought } from './search';
import type { Fault, FlagChange, Outcome, TickReport } from '../meaning/report';
import {
  applyChange,
  BY_A_HAND,
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

/** What a hand does: sets a latch, as switches are, a register, a flag or a cell with its mark; or gives one more input. */
export type Edit =
  | { readonly kind: 'latch'; readonly latch: number; readonly value: number }
  | { readonly kind: 'register'; readonly register: number; readonly value: number }
  | { readonly kind: 'flag'; readonly flag: number; readonly value: number }
  | { readonly kind: 'cell'; readonly space: number; readonly address: number; readonly value: number; readonly mark: number }
  /** The queue of inputs from now on, those that are used up included. */
  | { readonly kind: 'inputs'; readonly queue: readonly number[] };

/** `scripted`: given with the run, so no new future forgets it. */
export type DatedEdit = Edit & { readonly tick: number; readonly scripted?: boolean };

/** What a run that is not remembered looks at on its way. */
interface Watching<T> {
  /** Before each tick that the tick executor does; something ends the run. */
  readonly before: () => T | undefined;
  /** After each such tick, and after each leap. */
  readonly after?: (() => void) | undefined;
  readonly afterLeap?: (() => void) | undefined;
  /** At a boundary: how far may be leapt; undefined where every tick has to be looked at. */
  readonly leaps: () => Omit<Limits, 'ticks'> | undefined;
}

export interface Beginning {
  /** Cells that the image does not fill stay as they are there. */
  readonly keep?: State;
  readonly inputs?: readonly number[];
  readonly plans?: readonly Plan[];
  /** What comes later: part of the script, unless it says that hands did it in a run that is gone through again. */
  readonly edits?: readonly DatedEdit[];
}

/** The change that an edit makes to a state now; undefined where it makes none. */
function changeOf(state: State, edit: Exclude<Edit, { kind: 'inputs' }>): Change | undefined {
  const { value } = edit;
  switch (edit.kind) {
    case 'latch': {
      const before = state.latches[edit.latch]!;
      return before === value ? undefined : { kind: 'latch', latch: edit.latch, before, after: value };
    }
    case 'register': {
      const before = state.registers[edit.register]!;
      return before === value ? undefined : { kind: 'register', register: edit.register, before, after: value };
    }
    case 'flag': {
      const before = state.flags[edit.flag]!;
      const tickBefore = state.flagTicks[edit.flag]!;
      return { kind: 'flag', flag: edit.flag, before, after: value, tickBefore, tickAfter: BY_A_HAND };
    }
    case 'cell': {
      const { space, address, mark } = edit;
      const before = state.spaces[space]![address]!;
      const markBefore = state.marks[space]![address]!;
      if (before === value && markBefore === mark) return undefined;
      return { kind: 'cell', space, address, before, after: value, markBefore, markAfter: mark };
    }
    default:
      return edit satisfies never;
  }
}

const MOST_RECORDS = 1500;
/** Ticks remembered around a place that was travelled to. */
const NEAR = 600;
/** Bytes that checkpoints may take, about, and how many there may be at least and at most. */
const CHECKPOINT_ROOM = 24e6;
const [FEWEST, MOST] = [30, 1500];
/** Runs of fewer instructions are not worth compiling. */
export const SHORT = 3000;

export class History {
  readonly state: State;
  protected readonly executor: TickExecutor;
  private readonly checkpoints: State[] = [];
  private readonly mostCheckpoints: number;
  private spacing = 10_000;
  /** Ticks in order without a gap; those from `position` on are the future that was travelled back from. */
  private readonly records: TickRecord[] = [];
  private position = 0;
  /** What hands have done, in order of ticks: done again whenever the run is. */
  private edits: DatedEdit[] = [];
  /** Plans that a tick fulfils. */
  private readonly scheduled: readonly (Plan & { readonly tick: number })[];
  /** The tick of the next edit or plan after the present one. */
  private nextEvent = Infinity;
  /** Leaps over what needs no look; made when a run turns out to be long. */
  protected compiled: CompiledRun | undefined;
  private compiling: 'not yet' | 'done' | 'never' = 'not yet';
  /** The furthest tick this run has reached. */
  furthest = 0;

  constructor(
    readonly machine: Machine,
    readonly program: Program,
    { keep, inputs = [], plans = [], edits = [] }: Beginning = {},
  ) {
    const arrivals = edits.flatMap((each) => (each.kind === 'inputs' && (each.scripted ?? true) ? [each.tick] : []));
    this.state = createState(machine, keep, { plans, arrivals });
    loadProgram(machine, this.state, program);
    this.state.control.queue = inputs;
    this.scheduled = plans.flatMap((plan) => (plan.until.kind === 'tick' ? [{ ...plan, tick: plan.until.tick }] : []));
    for (const plan of plans) {
      const past = plan.until.kind === 'key' && inputs.length > 0;
      this.fulfil(this.state, plan, past ? plan.after : plan.before);
    }
    this.edits = edits.map((each) => ({ ...each, scripted: each.scripted ?? true }));
    this.executor = new TickExecutor(machine, this.state);
    const bytes = this.state.spaces.reduce((sum, each) => sum + each.length * 5, 400);
    this.mostCheckpoints = Math.min(MOST, Math.max(FEWEST, Math.floor(CHECKPOINT_ROOM / bytes)));
    this.applyEvents(this.state);
    this.checkpoints.push(copyState(this.state));
    this.findNextEvent();
  }

  get ticks(): number {
    return this.state.control.ticks;
  }

  /** The queue of inputs: used up, waiting, and those that the future travelled back from will give. */
  get inputs(): readonly number[] {
    return this.laterQueue ?? this.state.control.queue;
  }

  private get laterQueue(): readonly number[] | undefined {
    const later = this.edits.findLast((each) => each.kind === 'inputs' && !each.scripted);
    return later?.kind === 'inputs' && later.tick > this.ticks ? later.queue : undefined;
  }

  /** What hands have done so far, and will do again in the future that was travelled back from. */
  get script(): readonly DatedEdit[] {
    return this.edits;
  }

  /** What the run was given before its first tick. */
  get firstInputs(): readonly number[] {
    return this.checkpoints[0]!.control.queue;
  }

  /** Whether something is still to come from outside at a tick that is settled. */
  get eventsAhead(): boolean {
    return this.nextEvent < Infinity;
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
    const { laterQueue } = this;
    this.forgetFuture();
    if (laterQueue && edit.kind !== 'inputs') this.put({ kind: 'inputs', queue: laterQueue });
    this.put(edit);
    this.findNextEvent();
    this.changedFromOutside();
  }

  /** Of two edits of one thing at one tick the later one counts. The remembered tick takes it along, so that going back undoes it. */
  private put(edit: Edit): void {
    const kept = this.edits.filter((each) => each.tick !== this.ticks || !samePlace(each, edit));
    const present = this.state.control.queue.length;
    // What the script gives later comes behind what is queued now.
    const rest = kept.map((each) =>
      edit.kind === 'inputs' && each.kind === 'inputs' && each.tick > this.ticks
        ? { ...each, queue: [...edit.queue, ...each.queue.slice(present)] }
        : each,
    );
    this.edits = [...rest, { ...edit, tick: this.ticks }];
    const changes = this.applyTo(this.state, edit);
    this.compiled?.changed();
    const last = this.records[this.position - 1];
    if (last) this.records[this.position - 1] = { ...last, changes: [...last.changes, ...changes], after: { ...this.state.control } };
    if (this.ticks === 0) this.applyTo(this.checkpoints[0]!, edit);
  }

  /** Something has come from outside the run. */
  protected changedFromOutside(): void {}

  private applyTo(state: State, edit: Edit): Change[] {
    if (edit.kind === 'inputs') {
      const first = state.control.queue.length === 0 && edit.queue.length > 0;
      state.control.queue = edit.queue;
      return first ? state.plans.flatMap((each) => (each.until.kind === 'key' ? this.fulfil(state, each, each.after) : [])) : [];
    }
    const change = changeOf(state, edit);
    if (change) applyChange(state, change, 'after');
    return change ? [change] : [];
  }

  private fulfil(state: State, plan: Plan, value: number): Change[] {
    const latch = deviceLatch(this.machine, plan.device, plan.latch);
    return this.applyTo(state, { kind: 'latch', latch, value: plannedValue(this.machine, state, plan, value) });
  }

  /** What plans and hands do at the tick that a state has reached. */
  private applyEvents(state: State): Change[] {
    const { ticks } = state.control;
    const planned = this.scheduled.flatMap((each) => (each.tick === ticks ? this.fulfil(state, each, each.after) : []));
    return [...planned, ...this.edits.flatMap((each) => (each.tick === ticks ? this.applyTo(state, each) : []))];
  }

  private eventAfter(tick: number): number {
    let next = Infinity;
    for (const each of this.edits) if (each.tick > tick && each.tick < next) next = each.tick;
    for (const each of this.scheduled) if (each.tick > tick && each.tick < next) next = each.tick;
    return next;
  }

  private findNextEvent(): void {
    this.nextEvent = this.eventAfter(this.ticks);
  }

  /** What the next tick would do. Undefined once halted. */
  preview(): { readonly report: TickReport; readonly outcome: Outcome } | undefined {
    return this.state.control.halted ? undefined : this.executor.reportTick({ dry: true });
  }

  /** One tick. Undefined when it is done and the run can go on. */
  tick(): TickStop | undefined {
    if (this.state.control.halted) return { kind: 'halted' };
    const known = this.records[this.position];
    if (known) return this.redo(known);
    const before = this.records[this.position - 1]?.after ?? { ...this.state.control };
    const { outcome, report, changes } = this.executor.reportTick();
    this.compiled?.changed();
    if (outcome === 'waiting') return { kind: 'waiting', report };
    if (outcome === 'fault') return this.faulted(report);
    const events = this.ticks === this.nextEvent ? this.applyEvents(this.state) : [];
    if (this.ticks >= this.nextEvent) this.findNextEvent();
    this.remember({ report, changes: [...changes, ...events], before, after: { ...this.state.control } });
    return outcome === 'halted' ? { kind: 'halted' } : undefined;
  }

  protected faulted(report: TickReport): TickStop {
    const fault = report.fault!;
    return this.machine.faults[fault.kind]?.kind === 'end' ? { kind: 'halted', ran: fault } : { kind: 'fault', fault, report };
  }

  /** Done again, so that whoever watches writes and reads sees them; then made equal to what was remembered. */
  private redo(record: TickRecord): TickStop | undefined {
    this.compiled?.changed();
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
    this.furthest = Math.max(this.furthest, this.ticks);
    if (this.records.length <= MOST_RECORDS) return;
    this.keepCheckpoint();
    const dropped = MOST_RECORDS / 3;
    this.records.splice(0, dropped);
    this.position -= dropped;
  }

  protected forgetFuture(): void {
    this.records.length = this.position;
    this.furthest = this.ticks;
    this.edits = this.edits.filter((each) => each.tick <= this.ticks || each.scripted);
    this.findNextEvent();
    while (this.checkpoints.at(-1)!.control.ticks > this.ticks) this.checkpoints.pop();
  }

  /** One tick back. False at the start. */
  back(): boolean {
    if (this.ticks === 0) return false;
    if (this.position === 0) this.travel(this.ticks, { again: true });
    this.compiled?.changed();
    const record = this.records[this.position - 1];
    if (!record) throw new Error(`Tick ${this.ticks} is not remembered after travelling to it`);
    for (let at = record.changes.length - 1; at >= 0; at--) applyChange(this.state, record.changes[at]!, 'before');
    this.state.control = { ...record.before };
    this.position--;
    this.findNextEvent();
    this.changedFromOutside();
    return true;
  }

  /** To the beginning of the instruction under way, or of the one before. */
  instructionBack(): boolean {
    if (!this.back()) return false;
    while (this.state.control.step !== 0 && this.back());
    return true;
  }

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
    this.changedFromOutside();
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
    this.compiled?.changed();
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
    this.compileFor(budget);
    this.compiled?.guard(UNGUARDED);
    this.compiled?.watch({});
    const limits = { instructions: Infinity, depth: -1 };
    return this.forward<Outcome>(budget, { before: () => undefined, leaps: () => limits });
  }

  /** Whether leaps are to count. */
  protected wantsCounts = false;

  /** From now on leaps are done by another module. */
  protected compileAnew(): void {
    this.compiled = undefined;
    this.compiling = 'not yet';
  }

  /** Long runs leap. */
  protected compileFor(budget: number): void {
    if (this.compiling !== 'not yet' || (this.state.control.instructions < SHORT && budget < SHORT * 4)) return;
    this.compiled = CompiledRun.for(this.machine, { counts: this.wantsCounts });
    this.compiling = this.compiled ? 'done' : 'never';
    this.compiled?.attach(this.state);
  }

  /** Which executor does the long runs; `tick` where modules are not allowed, or this machine cannot be compiled. */
  get longRuns(): 'not yet' | 'compiled' | 'tick' {
    return this.compiling === 'done' ? 'compiled' : this.compiling === 'never' ? 'tick' : 'not yet';
  }

  /** Does up to `budget` ticks without remembering them. */
  protected forward<T>(budget: number, { before, after, afterLeap, leaps }: Watching<T>): T | Outcome | undefined {
    const { executor, state, compiled } = this;
    const end = state.control.ticks + budget;
    while (state.control.ticks < end) {
      const stop = before();
      if (stop !== undefined) return stop;
      if (compiled && state.control.step === 0) {
        const limits = leaps();
        // What comes from outside comes with a tick that is done one by one.
        const ticks = Math.min(end, this.nextEvent - 1) - state.control.ticks;
        if (limits && compiled.leap({ ...limits, ticks }) > 0) {
          afterLeap?.();
          continue;
        }
      }
      const outcome = executor.tick();
      compiled?.noteTick(executor);
      if (outcome === 'waiting' || outcome === 'fault') return outcome;
      if (state.control.ticks >= this.nextEvent) {
        this.applyEvents(state);
        compiled?.changed();
        this.findNextEvent();
      }
      after?.();
      if (outcome === 'halted') return outcome;
    }
    return undefined;
  }

  /** What was reached without remembering it. */
  protected advanceFurthest(): void {
    this.furthest = Math.max(this.furthest, this.ticks);
  }

  /** A fast run leaves the remembered ticks behind; a checkpoint takes their place. */
  protected leaveRecords(): void {
    if (this.records.length === 0) return;
    this.keepCheckpoint();
    this.records.length = 0;
    this.position = 0;
  }

  protected keepCheckpoint(): void {
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
      applyEvents: (state) => this.applyEvents(state).length > 0,
      eventAfter: (tick) => this.eventAfter(tick),
      leaps: this.longRuns === 'compiled',
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

  /** The report of a tick of this run, remembered or done again on the side; undefined for tick 0 and the future. */
  reportOf(tick: number): TickReport | undefined {
    if (tick < 1 || tick > this.ticks) return undefined;
    const known = this.records.slice(0, this.position).find((each) => each.report.tick === tick);
    if (known) return known.report;
    const side = new Side(this.past, this.checkpoints[this.checkpointBefore(tick - 1)]!);
    while (side.state.control.ticks < tick - 1 && side.tick());
    return side.executor.reportTick().report;
  }

  /** Why a flag is as it is: the change that set it last, and the tick; undefined as at reset. */
  whyFlag(flag: number): { readonly report: TickReport; readonly change: FlagChange } | undefined {
    const report = this.reportOf(this.state.flagTicks[flag]!);
    const change = report?.flags.findLast((each) => each.flag === flag);
    return report && change ? { report, change } : undefined;
  }
}

/** Two edits that set the same thing: the later one counts. */
function samePlace(a: Edit, b: Edit): boolean {
  if (a.kind === 'cell' && b.kind === 'cell') return a.space === b.space && a.address === b.address;
  if (a.kind === 'register' && b.kind === 'register') return a.register === b.register;
  if (a.kind === 'flag' && b.kind === 'flag') return a.flag === b.flag;
  if (a.kind === 'latch' && b.kind === 'latch') return a.latch === b.latch;
  return a.kind === 'inputs' && b.kind === 'inputs';
}

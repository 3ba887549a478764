/**
 * Run control over one run: forward, back, to any tick, until something stops it. A run is a function of machine,
 * starting state and inputs, so what is no longer remembered is done again from a checkpoint.
 */
import type { Program } from '../image/program';
import type { Machine } from '../machine/machine';
import { TickExecutor } from './interpret';
import type { Fault, FlagChange, Outcome, TickReport } from './report';
import { applyChange, copyState, createState, loadProgram, restoreState, type Change, type Control, type State } from './state';

/** One tick that is remembered: what it told, and how to undo and redo it. */
export interface TickRecord {
  readonly report: TickReport;
  readonly changes: readonly Change[];
  readonly before: Control;
  readonly after: Control;
}

export type Stop =
  | { readonly kind: 'halted' }
  | { readonly kind: 'waiting'; readonly report: TickReport }
  | { readonly kind: 'fault'; readonly fault: Fault; readonly report: TickReport }
  | { readonly kind: 'breakpoint'; readonly address: number };

/** What a hand sets: a latch, as switches are, a register, or a cell with its mark. */
export type Edit =
  | { readonly kind: 'latch'; readonly latch: number; readonly value: number }
  | { readonly kind: 'register'; readonly register: number; readonly value: number }
  | { readonly kind: 'cell'; readonly space: number; readonly address: number; readonly value: number; readonly mark: number };

/** The change that an edit makes to a state now; undefined where it makes none. */
function changeOf(state: State, edit: Edit): Change | undefined {
  const { value } = edit;
  if (edit.kind === 'latch') {
    const before = state.latches[edit.latch]!;
    return before === value ? undefined : { kind: 'latch', latch: edit.latch, before, after: value };
  }
  if (edit.kind === 'register') {
    const before = state.registers[edit.register]!;
    return before === value ? undefined : { kind: 'register', register: edit.register, before, after: value };
  }
  const { space, address, mark } = edit;
  const before = state.spaces[space]![address]!;
  const markBefore = state.marks[space]![address]!;
  if (before === value && markBefore === mark) return undefined;
  return { kind: 'cell', space, address, before, after: value, markBefore, markAfter: mark };
}

const MOST_RECORDS = 1500;
const MOST_CHECKPOINTS = 40;
/** Ticks remembered around a place that was travelled to. */
const NEAR = 600;

export class Runner {
  readonly state: State;
  /** Addresses to pause before. */
  breakpoints: ReadonlySet<number> = new Set();
  private readonly inputList: number[] = [];
  private readonly executor: TickExecutor;
  private readonly checkpoints: State[] = [];
  private spacing = 50_000;
  /** Ticks in order without a gap; those from `position` on are the future that was travelled back from. */
  private readonly records: TickRecord[] = [];
  private position = 0;
  /** What a hand has changed during the run, in order of ticks: done again whenever the run is. */
  private edits: (Edit & { readonly tick: number })[] = [];
  /** The furthest tick this run has reached. */
  furthest = 0;

  /** With `keep`, cells that the image does not fill stay as they are there. */
  constructor(
    readonly machine: Machine,
    readonly program: Program,
    { keep, inputs = [] }: { keep?: State; inputs?: readonly number[] } = {},
  ) {
    this.state = createState(machine, keep);
    loadProgram(machine, this.state, program);
    this.inputList.push(...inputs);
    this.executor = new TickExecutor(machine, this.state, this.inputList);
    this.checkpoints.push(copyState(this.state));
  }

  get ticks(): number {
    return this.state.control.ticks;
  }

  get inputs(): readonly number[] {
    return this.inputList;
  }

  /** The tick just done, where it is remembered. */
  get last(): TickReport | undefined {
    return this.records[this.position - 1]?.report;
  }

  /** Remembered ticks before and after the present one. */
  get remembered(): { readonly past: readonly TickRecord[]; readonly future: readonly TickRecord[] } {
    return { past: this.records.slice(0, this.position), future: this.records.slice(this.position) };
  }

  queueInput(value: number): void {
    this.inputList.push(value);
  }

  /** Takes an input out of the queue; one that a remembered future had used ends that future. */
  removeInput(index: number): boolean {
    if (index < this.state.control.inputs || index >= this.inputList.length) return false;
    this.inputList.splice(index, 1);
    this.forgetFuture();
    return true;
  }

  /**
   * Sets something by hand: from now on, so what was remembered of the future ends. Before the first tick it belongs
   * to the starting state.
   */
  edit(edit: Edit): void {
    this.recall();
    this.forgetFuture();
    if (this.ticks > 0) {
      this.edits.push({ ...edit, tick: this.ticks });
      return this.applyEdits();
    }
    for (const state of [this.state, this.checkpoints[0]!]) {
      const change = changeOf(state, edit);
      if (change) applyChange(state, change, 'after');
    }
  }

  /** Does what a hand did at this tick; the remembered tick before it takes it along, so that going back undoes it. */
  private applyEdits(): void {
    for (const edit of this.edits) {
      const change = edit.tick === this.ticks ? changeOf(this.state, edit) : undefined;
      if (!change) continue;
      applyChange(this.state, change, 'after');
      const last = this.records[this.position - 1];
      if (last) this.records[this.position - 1] = { ...last, changes: [...last.changes, change] };
    }
  }

  /** What the next tick would do. Undefined once halted. */
  preview(): { readonly report: TickReport; readonly outcome: Outcome } | undefined {
    return this.state.control.halted ? undefined : this.executor.reportTick({ dry: true });
  }

  /** One tick. Undefined when it is done and the run can go on. */
  tick(): Stop | undefined {
    if (this.state.control.halted) return { kind: 'halted' };
    const known = this.records[this.position];
    if (known) return this.redo(known);
    const before = this.records[this.position - 1]?.after ?? { ...this.state.control };
    const { outcome, report, changes } = this.executor.reportTick();
    if (outcome === 'waiting') return { kind: 'waiting', report };
    if (outcome === 'fault') return { kind: 'fault', fault: report.fault!, report };
    this.remember({ report, changes, before, after: { ...this.state.control } });
    return outcome === 'halted' ? { kind: 'halted' } : undefined;
  }

  private redo(record: TickRecord): Stop | undefined {
    record.changes.forEach((each) => applyChange(this.state, each, 'after'));
    this.state.control = { ...record.after };
    this.position++;
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

  private forgetFuture(): void {
    this.records.length = this.position;
    this.furthest = this.ticks;
    this.edits = this.edits.filter((each) => each.tick <= this.ticks);
    while (this.checkpoints.at(-1)!.control.ticks > this.ticks) this.checkpoints.pop();
  }

  /** To the end of the instruction under way, or of the next one. */
  instruction(): Stop | undefined {
    do {
      const stop = this.tick();
      if (stop) return stop;
    } while (this.state.control.step !== 0);
    return undefined;
  }

  /** One tick back. False at the start. */
  back(): boolean {
    if (this.ticks === 0) return false;
    if (this.position === 0) this.travel(this.ticks, { again: true });
    const record = this.records[this.position - 1];
    if (!record) throw new Error(`Tick ${this.ticks} is not remembered after travelling to it`);
    for (let at = record.changes.length - 1; at >= 0; at--) applyChange(this.state, record.changes[at]!, 'before');
    this.state.control = { ...record.before };
    this.position--;
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
      return;
    }
    this.replay(target);
  }

  private replay(target: number): void {
    const from = Math.max(0, target - NEAR);
    const checkpoint = this.checkpoints.findLast((each) => each.control.ticks <= from)!;
    restoreState(this.state, checkpoint);
    this.records.length = 0;
    this.position = 0;
    this.applyEdits();
    while (this.ticks < from && this.executor.tick() === 'done') this.applyEdits();
    while (this.ticks < target && !this.tick()) this.applyEdits();
  }

  /**
   * Runs up to `budget` ticks without remembering each, so that it is fast; stops before breakpoints. `first` marks
   * the start of a run, where the breakpoint one stands at does not hold.
   */
  run(budget: number, { first }: { first: boolean }): Stop | undefined {
    this.leaveRecords();
    const stop = this.runSilently(budget, first);
    this.furthest = Math.max(this.furthest, this.ticks);
    if (!stop) this.keepCheckpoint();
    return stop;
  }

  private runSilently(budget: number, first: boolean): Stop | undefined {
    const { executor, state, breakpoints } = this;
    const pc = this.machine.programCounter;
    for (let done = 0; done < budget; done++) {
      const { control } = state;
      if (control.step === 0 && breakpoints.size > 0 && !(first && done === 0) && breakpoints.has(state.registers[pc]!)) {
        return { kind: 'breakpoint', address: state.registers[pc]! };
      }
      const outcome = executor.tick();
      if (outcome !== 'done') return this.stopped(outcome);
    }
    return undefined;
  }

  private stopped(outcome: Outcome): Stop {
    if (outcome === 'halted') return { kind: 'halted' };
    const { report } = this.executor.reportTick();
    return outcome === 'waiting' ? { kind: 'waiting', report } : { kind: 'fault', fault: report.fault!, report };
  }

  /** A fast run leaves the remembered ticks behind; a checkpoint takes their place. */
  private leaveRecords(): void {
    if (this.records.length === 0) return;
    this.keepCheckpoint();
    this.records.length = 0;
    this.position = 0;
  }

  private keepCheckpoint(): void {
    const { checkpoints } = this;
    if (this.ticks - checkpoints.at(-1)!.control.ticks < this.spacing) return;
    checkpoints.push(copyState(this.state));
    if (checkpoints.length <= MOST_CHECKPOINTS) return;
    this.spacing *= 2;
    const kept = checkpoints.filter((_, at) => at % 2 === 0);
    checkpoints.splice(0, checkpoints.length, ...kept);
  }

  /** After a fast run: remembers the ticks just behind, so that they can be shown and undone. */
  recall(): void {
    if (this.position === 0 && this.ticks > 0) this.travel(this.ticks, { again: true });
  }

  /** The report of a tick of this run, remembered or done again on the side; undefined for tick 0 and the future. */
  reportOf(tick: number): TickReport | undefined {
    if (tick < 1 || tick > this.ticks) return undefined;
    const known = this.records.slice(0, this.position).find((each) => each.report.tick === tick);
    if (known) return known.report;
    const state = copyState(this.checkpoints.findLast((each) => each.control.ticks < tick)!);
    const side = new TickExecutor(this.machine, state, this.inputList);
    const again = (): void => {
      for (const each of this.edits) {
        const change = each.tick === state.control.ticks ? changeOf(state, each) : undefined;
        if (change) applyChange(state, change, 'after');
      }
    };
    again();
    while (state.control.ticks < tick - 1 && side.tick() === 'done') again();
    return side.reportTick().report;
  }

  /** Why a flag is as it is: the change that set it last, and the tick; undefined as at reset. */
  whyFlag(flag: number): { readonly report: TickReport; readonly change: FlagChange } | undefined {
    const report = this.reportOf(this.state.flagTicks[flag]!);
    const change = report?.flags.findLast((each) => each.flag === flag);
    return report && change ? { report, change } : undefined;
  }
}

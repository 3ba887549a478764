/** The whole run so far, to be looked at: as a strip from all of it to single ticks, and as a list of its instructions. */
import { depthOf } from '../engine/meaning/callStack';
import { reportTick } from '../engine/meaning/reportTick';
import type { TickReport } from '../engine/meaning/report';
import { addressText, instructionAt, lineAt, ownLine } from '../engine/tell/names';
import { narrateInstruction } from '../engine/tell/narrateInstruction';
import { plain } from '../engine/tell/telling';
import { grouped } from '../text/number';
import type { Scheduler } from './drive';
import type { Run } from './run';
import { outcomeOfReports } from './viewParts';

/** What happened in a column of the strip, as bits. */
export const [WROTE, TOOK, CALLED, CAME_BACK, FROM_OUTSIDE, STOPPED] = [1, 2, 4, 8, 16, 32];

export interface RunStrip {
  /** Ticks that it shows, and how many the run has. */
  readonly from: number;
  readonly to: number;
  readonly ticks: number;
  /** By column: which form was under way, −1 none; which phase; what happened. */
  readonly forms: Int16Array;
  readonly phases: Uint8Array;
  readonly marks: Uint8Array;
  /** Where instructions begin, where there is room for their names. */
  readonly names: readonly { readonly tick: number; readonly text: string }[];
}

export interface RunRow {
  /** From 1. */
  readonly instruction: number;
  /** Its last tick: where the bench goes to. */
  readonly tick: number;
  readonly address: string;
  readonly line?: number;
  readonly text: string;
  /** What it changed, short; and in words. */
  readonly changed: string;
  readonly why: string;
}

/** ms between two looks at the messages that wait. */
const SLICE = 10;
/** Columns that a strip may have, and rows that are asked for at once. */
const [MOST_COLUMNS, MOST_ROWS] = [4000, 200];
/** Fewer ticks have room for the names of their instructions. */
const NAMED = 400;

export class RunSoFar {
  private readonly run: Run;
  private readonly scheduler: Scheduler;
  private turn = 0;

  constructor(run: Run, scheduler: Scheduler) {
    this.run = run;
    this.scheduler = scheduler;
  }

  /** So many columns of the ticks between two; undefined where nothing is loaded, or where another strip was asked for meanwhile. */
  async strip(from: number, to: number, columns: number): Promise<RunStrip | undefined> {
    const turn = ++this.turn;
    const drawing = this.drawn(from, to, Math.min(columns, MOST_COLUMNS));
    for (let until = this.scheduler.now() + SLICE; ;) {
      const { done, value } = drawing.next();
      if (done) return value;
      if (this.scheduler.now() < until) continue;
      await new Promise<void>((resolve) => this.scheduler.later(0, resolve));
      if (this.turn !== turn) return undefined;
      until = this.scheduler.now() + SLICE;
    }
  }

  private *drawn(wantedFrom: number, wantedTo: number, columns: number): Generator<undefined, RunStrip | undefined> {
    const { current } = this.run;
    if (!current) return undefined;
    const { timeline, machine, program } = current.runner;
    const ticks = timeline.furthest;
    const from = Math.max(0, Math.min(Math.floor(wantedFrom), ticks));
    const to = Math.max(from + 1, Math.min(Math.ceil(wantedTo), ticks));
    const count = Math.max(1, Math.min(columns, to - from));
    const [forms, phases, marks] = [new Int16Array(count).fill(-1), new Uint8Array(count), new Uint8Array(count)];
    const events = timeline.script.map((each) => each.tick);
    const stops = [...current.stops];
    const side = timeline.aside({ tick: from });
    side.reach(from);
    const { state, executor } = side;
    const named = to - from <= NAMED;
    const names: { tick: number; text: string }[] = [];
    let firstOfIt = 0;
    let before = { written: state.control.written, inputs: state.control.inputs, depth: depthOf(state.control), tick: from };
    for (let column = 0; column < count; column++) {
      const end = Math.round(from + ((column + 1) * (to - from)) / count);
      if (named)
        while (state.control.ticks < end) {
          const { ticks: tick, step } = state.control;
          const begins = step === 0;
          if (!side.tick()) break;
          if (begins) names.push({ tick, text: instructionAt(machine, program, state, state.control.here) ?? '' });
        }
      else side.reach(end);
      const { control } = state;
      forms[column] = control.form?.index ?? -1;
      phases[column] = (named ? executor.done?.phase : control.schedule[control.step]?.phase) ?? 0;
      const depth = depthOf(control);
      marks[column] =
        (control.written > before.written ? WROTE : 0) |
        (control.inputs > before.inputs ? TOOK : 0) |
        (depth > before.depth ? CALLED : 0) |
        (depth < before.depth ? CAME_BACK : 0) |
        (events.some((tick) => tick > before.tick && tick <= end) ? FROM_OUTSIDE : 0) |
        (stops.some((tick) => tick > before.tick && tick <= end) ? STOPPED : 0);
      before = { written: control.written, inputs: control.inputs, depth, tick: end };
      // What was fetched belongs to the instruction that it turned out to be.
      if (named && control.form && (control.step === 0 || column === count - 1)) forms.fill(control.form.index, firstOfIt, column + 1);
      if (control.step === 0) firstOfIt = column + 1;
      yield undefined;
    }
    return { from, to, ticks, forms, phases, marks, names };
  }

  /** Who wrote a character of the output, counted from 0 over all that was written: the tick, and the words for it. */
  wrote(index: number): { readonly tick: number; readonly sentence: string } | undefined {
    const { current } = this.run;
    const { timeline, machine, program, state } = current?.runner ?? {};
    const tick = timeline?.outputTick(index);
    const report = tick === undefined ? undefined : timeline!.reportOf(tick);
    if (!report) return undefined;
    const line = lineAt(program, report.here);
    const what = instructionAt(machine!, program, state!, report.here) ?? 'an instruction';
    return {
      tick: report.tick,
      sentence: `Written by ${what}${line ? ` on ${line}` : ` at ${addressText(machine!, report.here)}`}, tick ${grouped(report.tick)}.`,
    };
  }

  /** How many instructions the run has, its future that was travelled back from among them. */
  count(): number {
    const { current } = this.run;
    if (!current) return 0;
    const { timeline } = current.runner;
    const side = timeline.aside({ tick: timeline.furthest });
    side.reach(timeline.furthest);
    return side.state.control.instructions;
  }

  /** Instructions of the run from one on, counted from 0. */
  rows(first: number, count: number): readonly RunRow[] {
    const { current } = this.run;
    if (!current || first < 0) return [];
    const { timeline, machine, program } = current.runner;
    const { furthest } = timeline;
    const side = timeline.aside({ instructions: first });
    side.reachInstruction(first);
    const { state, executor } = side;
    const rows: RunRow[] = [];
    while (rows.length < Math.min(count, MOST_ROWS) && state.control.ticks < furthest && !state.control.halted) {
      const reports: TickReport[] = [];
      do {
        const { outcome, report } = reportTick(executor);
        if (outcome === 'waiting' || outcome === 'fault') break;
        reports.push(report);
        side.came();
      } while (state.control.step !== 0 && state.control.ticks < furthest);
      const [opening] = reports;
      if (!opening) break;
      const line = ownLine(program, opening.here);
      rows.push({
        instruction: first + rows.length + 1,
        tick: state.control.ticks,
        address: addressText(machine, opening.here),
        ...(line !== undefined && { line }),
        text: instructionAt(machine, program, state, opening.here) ?? '',
        changed: outcomeOfReports(machine, reports),
        why: plain(narrateInstruction({ machine, program, state }, reports) ?? []),
      });
    }
    return rows;
  }
}

/** One tick with its report: what it did or would do, as plain data. */
import type { ScheduledTick } from '../../machine/model/machine';
import type { TickExecutor } from './interpret';
import type { Outcome, TickReport } from './report';
import type { Change } from './state';
import { TickRecorder } from './tickRecorder';

export interface Reported {
  readonly outcome: Outcome;
  readonly report: TickReport;
  readonly changes: readonly Change[];
}

/** Performs one tick and tells about it. `dry`: tells what would happen, and changes nothing. */
export function reportTick(executor: TickExecutor, { dry = false }: { readonly dry?: boolean } = {}): Reported {
  const { state, machine } = executor;
  const kept = state.control;
  if (dry) state.control = { ...kept };
  const { schedule, step } = state.control;
  const recorder = new TickRecorder(machine, state, executor.roles, dry);
  executor.recorder = recorder;
  executor.reads.noting = true;
  const outcome = executor.tick();
  executor.recorder = undefined;
  executor.reads.noting = false;
  const { trapped } = executor;
  const report = describe(executor, recorder, { at: trapped ? machine.entry[1]! : schedule[step]!, step: trapped ? 1 : step + 1, outcome });
  if (dry) state.control = kept;
  return { outcome, report, changes: recorder.changes };
}

interface Done {
  readonly at: ScheduledTick;
  /** Within the instruction, from 1. */
  readonly step: number;
  readonly outcome: Outcome;
}

function describe(executor: TickExecutor, recorder: TickRecorder, { at, step, outcome }: Done): TickReport {
  const { machine, does, trapped } = executor;
  const { control } = executor.state;
  const done = !recorder.dry && (outcome === 'done' || outcome === 'halted');
  const entering = control.entering || at.part === 'enter';
  const form = at.part === 'first' ? undefined : at.part === 'decode' ? executor.decodedForm : control.form;
  const schedule = form?.schedule ?? (entering ? machine.entry.slice(1) : undefined);
  const skips = control.jumped || executor.jumpsIn(at);
  const mark = does.mark && recorder.markOf(does.mark.word, does.mark.place, control.next);
  const { transfers, compared, flags, condition, guard, decoded, service, awaited, marks } = recorder;
  // One literal: spreading several into one takes ten times as long as the tick itself.
  return {
    tick: done ? control.ticks : control.ticks + 1,
    here: executor.at,
    step,
    total: schedule && (does.passes ? step + finishOf(schedule) : skips ? schedule.length - finishOf(schedule) : schedule.length),
    phase: at.phase,
    part: at.part,
    at: at.at,
    text: at.tick.text,
    form: form?.index,
    transfers,
    compared,
    flags,
    condition,
    guard,
    decoded,
    service,
    awaited,
    stalled: does.stalls,
    halted: does.halts,
    trapped,
    marks: mark ? [mark, ...marks] : marks,
    fault: outcome === 'fault' ? executor.fault : undefined,
  };
}

/** Ticks of the cycle's `finish`, which a jump skips. */
const finishOf = (schedule: readonly ScheduledTick[]): number => schedule.filter((each) => each.part === 'finish').length;

/** Runs sets of one program and judges each; assembled once, in any order, on either executor with the same rows. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { Runner, type Stop } from '../../engine/control/runner';
import { LATCH } from '../../engine/meaning/writes';
import { deviceLatch, portLatch } from '../../engine/meaning/state';
import { withDevices, type Script } from '../../engine/timeline/script';
import { instructionAt, lineAt, addressText } from '../../engine/tell/names';
import type { WatchedPlace } from '../../engine/watch/breakpoints';
import { SetReader, type Trial } from '../sets/read';
import { placesOf, type SetTable, type TrialSet } from '../sets/table';
import { readExpectation, type Aspect } from '../sets/expected';
import { rowOf, unreadRow, type Column, type Ended, type RowFlag, type TrialRow } from './row';
import { Track } from './track';

export interface Judging {
  readonly machine: Machine;
  readonly program: Program;
  readonly table: SetTable;
}

/** Values of a sequence that are kept. */
const MOST_KEPT = 10_000;

export class Judge {
  readonly reader: SetReader;
  private readonly columns: ReadonlyMap<string, Column>;
  private track: Track | undefined;

  constructor(
    private readonly judging: Judging,
    /** Without it every run is the runner's. */
    private readonly quickly = true,
  ) {
    const { machine, program, table } = judging;
    this.reader = new SetReader(machine, program, table.base);
    const found = placesOf(table.sets, 'expected').map((column) => [column, this.reader.aspect(column)] as const);
    this.columns = new Map(
      found.flatMap(([column, aspect]) =>
        'wrong' in aspect ? [] : [[column, { aspect, cells: mostCells(judging, column, aspect) }] as const],
      ),
    );
  }

  /** The row of a set that ends by itself within the ticks of the table; undefined where nobody can say that quickly. */
  quickRow(set: TrialSet): TrialRow | undefined {
    const read = this.reader.read(set);
    if ('problems' in read) return unreadRow(set.name, read.problems);
    const { program, table } = this.judging;
    const ended = this.quickEnd(read.trial);
    return ended && rowOf(read.trial, ended, { program, base: table.base, columns: this.columns });
  }

  /** Whether a set can be run quickly at all. */
  takesQuickly(set: TrialSet): boolean {
    const read = this.reader.read(set);
    return 'problems' in read || (this.quickly && Track.takes(read.trial.script) && !this.wantsSequences(read.trial));
  }

  /** The row of a set. With `whole` it says which instruction set each flag. */
  row(set: TrialSet, asked: { readonly whole?: boolean } = {}): TrialRow {
    return drained(this.rowInSteps(set, asked));
  }

  /** The same with a rest every so many ticks, for whoever wants to look up meanwhile. */
  *rowInSteps(set: TrialSet, { whole = false }: { readonly whole?: boolean } = {}): Generator<undefined, TrialRow> {
    const read = this.reader.read(set);
    if ('problems' in read) return unreadRow(set.name, read.problems);
    const { trial } = read;
    const { program, table } = this.judging;
    const ended = whole ? undefined : this.quickEnd(trial);
    if (ended) return rowOf(trial, ended, { program, base: table.base, columns: this.columns });
    const { runner, ended: told } = yield* this.longEnd(trial);
    const row = rowOf(trial, told, { program, base: table.base, columns: this.columns });
    return whole ? { ...row, flags: flagsOf(runner, row.flags) } : row;
  }

  private wantsSequences({ expected }: Trial): boolean {
    return [...this.columns.values(), ...expected].some((each) => each.aspect.kind === 'sequence');
  }

  private quickEnd(trial: Trial): Ended | undefined {
    const { machine, program, table } = this.judging;
    if (!this.quickly || !Track.takes(trial.script) || this.wantsSequences(trial)) return undefined;
    this.track ??= new Track(machine, program);
    const end = this.track.go(trial.script, table.mostTicks);
    return end && { machine, ...end, sequences: new Map() };
  }

  private *longEnd(trial: Trial): Generator<undefined, { readonly runner: Runner; readonly ended: Ended }> {
    const { machine, program, table } = this.judging;
    const aspects = [...this.columns.values(), ...trial.expected].map((each) => each.aspect);
    const runner = runnerOf(machine, program, trial.script);
    const places = aspects.flatMap((each) => (each.kind === 'sequence' ? [each.place] : []));
    const sequences = keepSequences(runner, places);
    const stop = yield* ending(runner, table.mostTicks);
    return { runner, ended: { machine: runner.machine, state: runner.state, stop, remarks: runner.runRemarks, sequences } };
  }
}

/** So many cells as some set of the table expects in a column. */
function mostCells({ machine, table: { sets, base } }: Judging, column: string, aspect: Aspect): number {
  if (aspect.kind !== 'place') return 1;
  const counts = sets.flatMap(({ expected }) =>
    expected.flatMap(({ place, text }) => {
      if (place !== column) return [];
      const read = readExpectation(machine, aspect, { column, text, base });
      return 'on' in read && read.on === 'cells' ? [read.values.length] : [];
    }),
  );
  return counts.reduce((most, each) => Math.max(most, each), 1);
}

/** A run of a program with all that a script gives. */
export const runnerOf = (machine: Machine, program: Program, script: Script): Runner => {
  const runner = new Runner(withDevices(machine, script), program, script);
  runner.options = { ...runner.options, endless: 'stop' };
  return runner;
};

/** Ticks between two rests. */
const PORTION = 500_000;

/** Until it ends by itself, or so many ticks are done. */
export const toEnd = (runner: Runner, mostTicks: number): Stop => drained(ending(runner, mostTicks));

function* ending(runner: Runner, mostTicks: number): Generator<undefined, Stop> {
  runner.begin();
  for (;;) {
    const stop = runner.run(Math.min(PORTION, mostTicks - runner.ticks));
    if (stop) return stop;
    if (runner.ticks >= mostTicks) return runner.spent();
    yield undefined;
  }
}

function drained<T>(steps: Generator<undefined, T>): T {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** By place: what is written there from now on. */
function keepSequences(runner: Runner, places: readonly WatchedPlace[]): Map<string, number[]> {
  const { machine, timeline, state } = runner;
  const kept = new Map<string, number[]>();
  const byLatch = new Map<number, number[]>();
  for (const place of places) {
    const latch =
      place.kind === 'port' ? portLatch(place.port) : place.kind === 'device' ? deviceLatch(machine, place.device, 'value') : -1;
    const list = byLatch.get(latch) ?? [];
    byLatch.set(latch, list);
    kept.set(JSON.stringify(place), list);
  }
  if (byLatch.size === 0) return kept;
  runner.afterTick = () => {
    const { writes } = timeline.executor;
    for (let at = 0; at < writes.count; at++) {
      const { kind, index } = writes.at(at);
      if (kind !== LATCH) continue;
      const list = byLatch.get(index);
      if (list && list.length < MOST_KEPT) list.push(state.latches[index]!);
    }
  };
  return kept;
}

/** Flags with the instruction that set each last. */
function flagsOf(runner: Runner, flags: readonly RowFlag[]): RowFlag[] {
  const { machine, program, state, timeline } = runner;
  return flags.map((flag, at) => {
    const tick = state.flagTicks[at]!;
    const here = tick > 0 ? timeline.reportOf(tick)?.here : undefined;
    if (here === undefined) return flag;
    const line = lineAt(program, here);
    const what = instructionAt(machine, program, state, here) ?? 'an instruction';
    return { ...flag, by: `${what}, ${line ?? `at ${addressText(machine, here)}`}` };
  });
}

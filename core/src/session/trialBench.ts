/**
 * Trials of one program on one machine: what a screen holds of them, in the page's worker or anywhere else. Long work is
 * done in slices that let messages in between, and ends when something else is set going or when it is called off.
 */
import { flowChartOf, type FlowChart } from '../assembler/assist/flowChart';
import type { Program, Row } from '../image/program';
import type { Machine } from '../machine/model/machine';
import { usualBase } from '../machine/model/numbers';
import type { Base } from '../text/number';
import { Coverage, MOST_LOOKED, type Target, type Untried } from '../trials/reach/coverage';
import { parting, type Parting, type Side } from '../trials/reach/parting';
import { propose, type NoProposal, type Proposal } from '../trials/reach/propose';
import { Judge, runnerOf, toEnd } from '../trials/judge/run';
import type { TrialRow } from '../trials/judge/row';
import { runFileOf } from '../trials/runFiles';
import { aspectWidth, lookedAt, type Aspect } from '../trials/sets/expected';
import { SetReader, type SetProblem } from '../trials/sets/read';
import { emptySet, INPUT, type SetTable, type TrialSet } from '../trials/sets/table';
import { readPlace, widthOf } from '../engine/watch/places';
import { traceOf, type Trace } from '../trials/trace';
import { entryTold } from './entryTold';
import type { Scheduler } from './drive';
import type { Problem } from '../text/diagnostic';
import { Texts } from './texts';

/** What a program is, to whoever chooses places in it. */
export interface TriedProgram {
  readonly problems: readonly Problem[];
  /** Undefined with errors. */
  readonly facts:
    | {
        readonly machine: Machine;
        /** Of the texts that are run. */
        readonly key: string;
        /** Names that can be given something or be looked at, likeliest first. */
        readonly places: readonly string[];
        readonly base: Base;
        /** Places that the program says are its input and its output. */
        readonly inputs: readonly string[];
        readonly outputs: readonly string[];
        readonly reads: boolean;
        readonly rows: readonly Row[];
      }
    | undefined;
}

/** A part of a run of all sets: rows in the order of the sets that were asked for. */
export type Rows = (rows: readonly TrialRow[], done: number) => void | Promise<void>;

export interface Reached {
  readonly untried: readonly Untried[];
  readonly mix: readonly { readonly name: string; readonly count: number }[];
  /** Sets that could not be run. */
  readonly left: readonly string[];
  /** Sets that were looked at for their first ticks only, and for how many. */
  readonly cut: readonly string[];
  readonly mostLooked: number;
}

/** Instructions on a sheet that a class fills in. */
const MOST_TRACED = 40;

/** ms between two looks at the messages that wait. */
const SLICE = 12;
/** Of so few sets every row says at once which instruction set each flag. */
const FEW = 60;

/** What has been called off answers nothing. */
export const CALLED_OFF = 'called off';

export class TrialBench {
  private readonly texts = new Texts();
  private program: Program | undefined;
  private turn = 0;

  constructor(private readonly scheduler: Scheduler) {}

  /** Takes machine and program; assembled once, whatever is run. */
  use(machine: {
    readonly text: string;
    readonly language?: number;
    readonly bases: Readonly<Record<string, string>>;
    readonly parts: Readonly<Record<string, string>>;
  }): { readonly problems: readonly Problem[] } {
    this.texts.setBases(machine.bases);
    this.texts.setParts(machine.parts);
    const { problems } = this.texts.useMachine(machine.text, machine.language);
    return { problems };
  }

  /** The program that is tried from now on. */
  take(source: string): TriedProgram {
    this.callOff();
    const { program, problems } = this.texts.assembled(source);
    this.program = program;
    const { machine } = this.texts;
    if (!program || !machine) return { problems, facts: undefined };
    const declared = (way: 'input' | 'output'): string[] => program.declared.filter((each) => each.way === way).map((each) => each.name);
    const labels = program.symbols.filter((each) => each.kind === 'label' && each.part === undefined);
    const data = new Set(program.rows.filter((each) => each.kind === 'data' || each.kind === 'room').map((each) => each.line));
    const dataFirst = [...labels.filter((each) => data.has(each.line)), ...labels.filter((each) => !data.has(each.line))];
    const own = machine.registers.filter((each) => !each.zero).map((each) => each.name);
    const places = [
      ...declared('input'),
      ...declared('output'),
      ...dataFirst.map((each) => each.name),
      ...own,
      ...machine.flags.map((each) => each.name),
    ];
    return {
      problems,
      facts: {
        machine,
        key: this.keyOf(source),
        places: [...new Set([...places, ...machine.devices.map((each) => each.name)])],
        base: usualBase(machine) as Base,
        inputs: declared('input'),
        outputs: declared('output'),
        reads: program.facts.services.length > 0,
        rows: program.rows,
      },
    };
  }

  /** What of the texts decides how a run goes, as a short number in hex: equal texts have equal keys. */
  private keyOf(source: string): string {
    return hashOf(JSON.stringify([this.texts.machineText, this.texts.partTexts, source]));
  }

  /** The program's own flow, to be drawn; undefined where it is too large for that. */
  flow(): FlowChart | undefined {
    const { machine } = this.texts;
    return machine && this.program && flowChartOf(machine, this.program);
  }

  /** The run of a set, a row an instruction, for a sheet that a class fills in; as far as a sheet has room. */
  trace(table: SetTable, at: number): Trace {
    const { machine } = this.texts;
    const set = table.sets[at];
    const read = machine && this.program && new SetReader(machine, this.program, table.base).read(set ?? emptySet(''));
    if (!machine || !this.program || !read || 'problems' in read) return { columns: [], rows: [], more: false };
    return traceOf(runnerOf(machine, this.program, read.trial.script), MOST_TRACED);
  }

  /** Whatever is under way ends without an answer. */
  callOff(): void {
    this.turn++;
  }

  /** Whether a column of expectations means anything, and how many digits its values have. */
  column(
    name: string,
    base: SetTable['base'],
  ): { readonly width: number | undefined; readonly kind: Aspect['kind'] } | { readonly wrong: string } {
    const { machine } = this.texts;
    if (!machine || !this.program) return { wrong: 'The program has errors.' };
    const aspect = new SetReader(machine, this.program, base).aspect(name);
    return 'wrong' in aspect ? aspect : { width: aspectWidth(aspect), kind: aspect.kind };
  }

  /** How an entry is read: “0x21 = 33”; or what is wrong with it. */
  reading(
    of: 'given' | 'expected',
    place: string,
    text: string,
    base: SetTable['base'],
  ): { readonly says: string; readonly wrong: boolean } {
    const { machine } = this.texts;
    if (!machine || !this.program || text.trim() === '') return { says: '', wrong: false };
    const reader = new SetReader(machine, this.program, base);
    const read = reader.read({ ...emptySet('x'), [of]: [{ place, text }] });
    if ('problems' in read) return { says: read.problems[0]?.sentence ?? '', wrong: true };
    const single = this.single(place, text, base);
    return { says: single ?? '', wrong: false };
  }

  private single(place: string, text: string, base: SetTable['base']): string | undefined {
    const machine = this.texts.machine!;
    const found = place.toLowerCase() === INPUT ? undefined : readPlace(machine, this.program, place);
    if (!found || 'refused' in found) return undefined;
    const width = widthOf(machine, found);
    const used = base ?? usualBase(machine);
    return entryTold(machine, found, { text, base: used, width });
  }

  /** What is wrong with each set, without running it. */
  check(table: SetTable): (readonly SetProblem[])[] {
    const { machine } = this.texts;
    if (!machine || !this.program) return table.sets.map(() => []);
    const reader = new SetReader(machine, this.program, table.base);
    return table.sets.map((each) => {
      const read = reader.read(each);
      return 'problems' in read ? read.problems : [];
    });
  }

  /** Runs the sets at these places of the table; on another text of the program with `source`. */
  async run(table: SetTable, which: readonly number[], rows: Rows, source?: string): Promise<'done' | typeof CALLED_OFF> {
    const { machine } = this.texts;
    const program = source === undefined ? this.program : this.texts.assembled(source).program;
    if (!machine || !program) return 'done';
    const judge = new Judge({ machine, program, table });
    const whole = which.length <= FEW;
    return this.sliced(which.length, (at) => judge.rowInSteps(table.sets[which[at]!]!, { whole }), rows);
  }

  /** One row with everything that can be said of it. */
  row(table: SetTable, at: number): TrialRow | undefined {
    const { machine } = this.texts;
    const set = table.sets[at];
    return machine && this.program && set ? new Judge({ machine, program: this.program, table }).row(set, { whole: true }) : undefined;
  }

  private async sliced<T>(
    count: number,
    one: (at: number) => Generator<undefined, T>,
    tell: (made: readonly T[], done: number) => void | Promise<void>,
  ): Promise<'done' | typeof CALLED_OFF> {
    const turn = ++this.turn;
    let made: T[] = [];
    let until = this.scheduler.now() + SLICE;
    for (let at = 0; at < count; at++) {
      const steps = one(at);
      for (;;) {
        const { done, value } = steps.next();
        if (done) made.push(value);
        const last = done === true && at === count - 1;
        if (last || this.scheduler.now() >= until) {
          // Whoever is told may be another thread: it has the rows before the end is told.
          await tell(made, done ? at + 1 : at);
          made = [];
          await this.pause();
          if (this.turn !== turn) return CALLED_OFF;
          until = this.scheduler.now() + SLICE;
        }
        if (done) break;
      }
    }
    return 'done';
  }

  private pause(): Promise<void> {
    return new Promise((resolve) => this.scheduler.later(0, resolve));
  }

  private async searched<T>(search: Generator<number, T>, progress: (part: number) => void): Promise<T | typeof CALLED_OFF> {
    const turn = ++this.turn;
    let until = this.scheduler.now() + SLICE;
    for (;;) {
      const { done, value } = search.next();
      if (done) return value;
      if (this.scheduler.now() < until) continue;
      progress(value);
      await this.pause();
      if (this.turn !== turn) return CALLED_OFF;
      until = this.scheduler.now() + SLICE;
    }
  }

  /** What the sets at these places have never tried. */
  async reached(table: SetTable, which: readonly number[], progress: (part: number) => void): Promise<Reached | typeof CALLED_OFF> {
    return this.searched(this.reaching(table, which), progress);
  }

  private *reaching(table: SetTable, which: readonly number[]): Generator<number, Reached> {
    const { machine } = this.texts;
    const { program } = this;
    if (!machine || !program) return { untried: [], mix: [], left: [], cut: [], mostLooked: MOST_LOOKED };
    const reader = new SetReader(machine, program, table.base);
    const coverage = new Coverage(machine, program);
    const [left, cut]: [string[], string[]] = [[], []];
    for (const [at, index] of which.entries()) {
      const set = table.sets[index]!;
      const read = reader.read(set);
      if ('problems' in read) left.push(set.name);
      else if (!coverage.add(runnerOf(machine, program, read.trial.script), table.mostTicks)) cut.push(set.name);
      yield (at + 1) / (which.length + 1);
    }
    const looked = table.sets.flatMap(({ expected }) =>
      expected.flatMap(({ place, text }) => {
        const read = reader.expectation(place, text);
        return 'wrong' in read ? [] : lookedAt(read);
      }),
    );
    return { untried: coverage.untried(looked), mix: coverage.mix(), left, cut, mostLooked: MOST_LOOKED };
  }

  /** A set that tries something that no other has. */
  async propose(table: SetTable, target: Target, progress: (part: number) => void): Promise<Proposal | NoProposal | typeof CALLED_OFF> {
    const { machine } = this.texts;
    if (!machine || !this.program) return { why: 'The program has errors.', tried: 0 };
    return this.searched(propose({ machine, program: this.program, table }, target), progress);
  }

  /** Where the runs of two sets part, or those of two programs on one set. */
  async part(
    table: SetTable,
    left: number,
    right: { readonly set: number; readonly source?: string },
    progress: (part: number) => void,
  ): Promise<Parting | { readonly wrong: string } | typeof CALLED_OFF> {
    const { machine } = this.texts;
    const { program } = this;
    if (!machine || !program) return { wrong: 'The program has errors.' };
    const other = right.source === undefined ? program : this.texts.assembled(right.source).program;
    if (!other) return { wrong: 'The other program has errors.' };
    const sides: Side[] = [];
    for (const [of, at] of [
      [program, left],
      [other, right.set],
    ] as const) {
      const set = table.sets[at];
      const read = set && new SetReader(machine, of, table.base).read(set);
      if (!read || 'problems' in read)
        return { wrong: `“${set?.name ?? ''}” cannot be run: ${read?.problems[0]?.sentence ?? 'it is gone.'}` };
      sides.push({ program: of, script: read.trial.script });
    }
    return this.searched(parting(machine, sides[0]!, sides[1]!), progress);
  }

  /** The run of a set as a file that the bench opens: at its end, or at a tick; on another text with `source`. */
  fileFor(table: SetTable, at: number, tick: number | undefined, source?: string): { readonly text: string } | { readonly wrong: string } {
    const { machine } = this.texts;
    const set = table.sets[at];
    const program = source === undefined ? this.program : this.texts.assembled(source).program;
    if (!machine || !program || !set) return { wrong: 'The program has errors.' };
    const read = new SetReader(machine, program, table.base).read(set);
    if ('problems' in read) return { wrong: read.problems[0]?.sentence ?? '' };
    const { script } = read.trial;
    const runner = runnerOf(machine, program, script);
    if (tick === undefined) toEnd(runner, table.mostTicks);
    else runner.timeline.reach(tick);
    const keeping = {
      machineText: this.texts.machineText,
      kept: undefined,
      parts: this.texts.partTexts,
      devices: script.devices,
      note: set.name,
    };
    return { text: JSON.stringify(runFileOf(runner, keeping)) };
  }
}

/** Of a text or a set: equal ones have equal keys, 64 bits in hex. Two FNV-1a sums with different beginnings. */
export function hashOf(text: string): string {
  const sum = (beginning: number): string => {
    let hash = beginning;
    for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x0100_0193) >>> 0;
    return hash.toString(16).padStart(8, '0');
  };
  return sum(0x811c_9dc5) + sum(0x2b59_7f31);
}

/** A set as it is told apart from what it was when it was run. */
export const keyOfSet = (set: TrialSet): string => hashOf(JSON.stringify([set.given, set.script, set.expected]));

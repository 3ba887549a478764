/** Checks one hand-in after the other against an assignment: verdict of each set, the first difference, the mistake. */
import { assemble, type Assembly } from '../../assembler/assemble';
import { indexOf, type Program } from '../../image/program';
import { programSpaceOf } from '../../machine/model/machine';
import { decode } from '../../machine/model/encode';
import { canBranch } from '../../machine/model/effects';
import { addressText, instructionAt, ownLine } from '../../engine/tell/names';
import type { Runner, Stop } from '../../engine/control/runner';
import { Judge, runnerOf } from '../judge/run';
import type { TrialRow } from '../judge/row';
import { seenWords } from '../sets/output';
import { SetReader, type Trial } from '../sets/read';
import { parting, type Parting, type SideAt } from '../reach/parting';
import type { Assignment } from './assignment';
import { finalState } from './claims';
import { missingFrozen } from './frozen';
import { mendsOf, type MendTry } from './mends';
import { MOST_WORDS, provenMistake, seenMistake, type Mistake } from './mistake';
import { normalForm } from './alike';

/** What came of one set, as short as a matrix needs it. */
export interface CheckedRow {
  readonly set: string;
  readonly hidden: boolean;
  readonly verdict: TrialRow['verdict'];
  readonly end?: TrialRow['end'];
  readonly ending: string;
  readonly ticks: number;
  readonly instructions: number;
  /** How it stood at its end, see finalState. */
  readonly final?: string;
  /** What did not come as expected, at most MOST_DIFFERING of it. */
  readonly differing: readonly { readonly column: string; readonly expected: string; readonly seen: string }[];
}

export interface FirstDifference {
  readonly set: string;
  /** What was expected and what came. */
  readonly sentence: string;
  /** Where the run parts from the teacher's, where that can be told. */
  readonly parts?: {
    readonly sentence: string;
    readonly line?: number | undefined;
    /** Ticks done before it, on either side. */
    readonly tick: number;
    readonly teacherTick: number;
  };
}

export interface CheckedHandIn {
  /** Undefined where it assembles. */
  readonly errors?: readonly { readonly line: number; readonly sentence: string }[];
  readonly cells: number;
  /** Lines of the frame that are gone or changed. */
  readonly frame: readonly string[];
  readonly rows: readonly CheckedRow[];
  readonly holds: number;
  /** The most of any set that halted. */
  readonly ticks: number;
  /** It fails, and nobody has looked yet why. */
  readonly open?: boolean;
  readonly first?: FirstDifference;
  readonly mistake?: Mistake;
  /** Equal for programs that are equal up to names, order of data and blank lines. */
  readonly form?: string;
}

const MOST_ERRORS = 20;
const MOST_DIFFERING = 8;
/** Changes that are tried of one hand-in, and ticks that they may take together. */
const MOST_TRIES = 400;
const MOST_TRIED_TICKS = 4_000_000;
/** A changed program may take so many times the ticks of the teacher's, or of the hand-in's where it halts. */
const PATIENCE = 4;
const LEAST_TICKS = 1_000;
/** Instructions that are compared with the teacher's. */
const MOST_PARTED = 3_000;
/** Instructions that are followed to see where a run leaves the program. */
const MOST_FOLLOWED = 4_000;

export class HandInCheck {
  private ticksOf: readonly number[] | undefined;
  private teachers: { readonly holds: number; readonly ticks: number; readonly cells: number } | undefined;

  constructor(private readonly assignment: Assignment) {}

  /** What the teacher's own program comes to: the ring among the dots. Undefined without one. */
  teacher(): { readonly holds: number; readonly ticks: number; readonly cells: number } | undefined {
    const { solution } = this.assignment;
    if (!solution) return undefined;
    this.teachers ??= (({ holds, ticks }) => ({ holds, ticks, cells: solution.facts.used }))(sumOf(this.rowsOf(solution)));
    return this.teachers;
  }

  /** Everything that is told of a hand-in; of one that fails without its reasons, which take longer, where `reasons` is false. Never throws over `source`. */
  check(source: string, { reasons = true }: { readonly reasons?: boolean } = {}): CheckedHandIn {
    const { machine, parts, frame, mostCells } = this.assignment;
    const assembly = assemble(machine, source, { parts });
    const missing = missingFrozen(frame, source);
    if (!assembly.program) return unassembled(assembly, missing);
    const { program } = assembly;
    const rows = this.rowsOf(program);
    const { holds, ticks } = sumOf(rows);
    const cells = program.facts.used;
    const shared = {
      cells,
      frame: missing,
      rows: rows.map((each) => this.shortened(each)),
      holds,
      ticks,
      form: normalForm(machine, program),
    };
    const failing = rows.findIndex((each) => each.verdict === 'differs' || each.verdict === 'unread');
    if (failing < 0) {
      const tooMany = mostCells !== undefined && cells > mostCells;
      return tooMany ? { ...shared, mistake: seenMistake({ kind: 'too many cells', cells, most: mostCells }) } : shared;
    }
    if (!reasons) return { ...shared, open: true };
    return { ...shared, ...this.explain(program, source, rows, failing) };
  }

  private rowsOf(program: Program): TrialRow[] {
    const { machine, table } = this.assignment;
    const judge = new Judge({ machine, program, table });
    return table.sets.map((each) => judge.row(each));
  }

  private shortened(row: TrialRow): CheckedRow {
    const { table } = this.assignment;
    const differing = row.seen
      .filter((each) => each.holds === false)
      .slice(0, MOST_DIFFERING)
      .map(({ column, expected = '', seen }) => ({ column, expected, seen }));
    const unread = row.problems[0]?.sentence;
    return {
      ...{ set: row.name, hidden: table.sets.find((each) => each.name === row.name)?.hidden ?? false, verdict: row.verdict, end: row.end },
      ...{ ending: unread ?? row.ending, ticks: row.ticks, instructions: row.instructions, differing, final: finalState(row) },
    };
  }

  private explain(program: Program, source: string, rows: readonly TrialRow[], failing: number): Pick<CheckedHandIn, 'first' | 'mistake'> {
    const row = rows[failing]!;
    const { machine, table } = this.assignment;
    const read = new SetReader(machine, program, table.base).read(table.sets[failing]!);
    if ('problems' in read) {
      const sentence = read.problems[0]!.sentence;
      return { first: { set: row.name, sentence }, mistake: seenMistake({ kind: 'unread', sentence }) };
    }
    const parted = this.parted(program, read.trial, failing);
    const followed = follow(runnerOf(machine, program, read.trial.script), program);
    const first: FirstDifference = {
      set: row.name,
      sentence: differenceSentence(row),
      ...(parted && { parts: parted.parts }),
    };
    const proven = this.proven({ source, program, rows, leaves: followed.leaves?.line });
    const mistake = proven ?? this.seen({ program, row, trial: read.trial, failing, followed, parting: parted?.parting });
    return { first, mistake };
  }

  /** Where the run parts from the teacher's on the same set. */
  private parted(
    program: Program,
    trial: Trial,
    failing: number,
  ): { readonly parting: Parting; readonly parts: NonNullable<FirstDifference['parts']> } | undefined {
    const { machine, solution, table } = this.assignment;
    if (!solution) return undefined;
    const theirs = new SetReader(machine, solution, table.base).read(table.sets[failing]!);
    if ('problems' in theirs) return undefined;
    const walk = parting(machine, { program, script: trial.script }, { program: solution, script: theirs.trial.script }, MOST_PARTED);
    for (;;) {
      const { done, value } = walk.next();
      if (!done) continue;
      const { left, right } = value.parts ? value : { ...value, ...value.values };
      return {
        parting: value,
        parts: { sentence: partsSentence(value, left, right), line: left.line, tick: left.tick, teacherTick: right.tick },
      };
    }
  }

  /** The change with which most sets hold, if there is one that breaks none. */
  private proven({ source, program, rows, leaves }: Tried): Mistake | undefined {
    const { machine, parts, table } = this.assignment;
    const before = rows.filter(holding).length;
    const failing = this.shortestOf(rows);
    const patience = Math.min(table.mostTicks, PATIENCE * Math.max(LEAST_TICKS, this.teacher()?.ticks ?? 0, ...rows.map(halted)));
    let best: { readonly mend: MendTry; readonly after: number } | undefined;
    let tries = 0;
    let ticks = 0;
    for (const mend of mendsOf({ machine, program, source, leaves })) {
      if (++tries > MOST_TRIES || ticks > MOST_TRIED_TICKS) break;
      const mended = assemble(machine, mend.text, { parts }).program;
      if (!mended) continue;
      const judge = new Judge({ machine, program: mended, table: { ...table, mostTicks: patience } });
      const rowNow = (at: number): TrialRow | undefined =>
        judge.takesQuickly(table.sets[at]!) ? judge.quickRow(table.sets[at]!) : judge.row(table.sets[at]!);
      const own = rowNow(failing);
      ticks += own?.ticks ?? patience;
      if (!own || !holding(own)) continue;
      const all = table.sets.map((_, at) => (at === failing ? own : rowNow(at)));
      ticks += all.reduce((sum, each) => sum + (each?.ticks ?? patience), 0);
      const after = all.filter((each) => each && holding(each)).length;
      const breaks = all.some((each, at) => holding(rows[at]!) && !(each && holding(each)));
      if (breaks || after <= (best?.after ?? before)) continue;
      best = { mend, after };
      if (after === rows.length) break;
    }
    // A change that mends the lesser part of what fails may do so by chance.
    const enough = best && (best.after - before) * 2 >= rows.length - before;
    return best && enough ? provenMistake(best.mend, { before, after: best.after, sets: rows.length }) : undefined;
  }

  /** Of the sets that fail, the one that the teacher's program is done with first: changes are tried on it before the others. */
  private shortestOf(rows: readonly TrialRow[]): number {
    const failing = rows.flatMap((each, at) => (holding(each) ? [] : [at]));
    const ticks = this.teacherTicks();
    return failing.reduce((best, at) => ((ticks[at] ?? 0) < (ticks[best] ?? 0) ? at : best), failing[0]!);
  }

  private teacherTicks(): readonly number[] {
    const { solution } = this.assignment;
    this.ticksOf ??= solution ? this.rowsOf(solution).map((each) => each.ticks) : [];
    return this.ticksOf;
  }

  private seen({ program, row, trial, failing, followed, parting: parted }: Observed): Mistake {
    const { table } = this.assignment;
    if (followed.leaves) return seenMistake({ kind: 'leaves', ...followed.leaves });
    switch (row.end) {
      case 'never halts':
        return seenMistake({ kind: 'round', ending: row.ending, ...this.roundOf(program, trial) });
      case 'waiting':
        return seenMistake({ kind: 'asks on', taken: trial.script.inputs.length, set: row.name });
      case 'out of ticks':
        return seenMistake({ kind: 'out of ticks', most: table.mostTicks });
      case 'fault':
        return seenMistake({ kind: 'fault', fault: followed.fault ?? 'fault', ending: row.ending, line: followed.last });
      default:
    }
    const wanted = trial.script.inputs.length > 0 ? this.inputsTaken(failing) : undefined;
    if (wanted !== undefined && followed.ended && followed.taken < wanted)
      return seenMistake({ kind: 'leaves over', taken: followed.taken, wanted, set: row.name });
    const left = parted?.parts ? parted.left : undefined;
    if (left && parted && left.text === parted.right.text && this.isBranch(program, left))
      return seenMistake({ kind: 'decides', text: left.text, mnemonic: left.text.split(' ')[0]!, did: left.did, line: left.line });
    const values = parted?.values;
    const flags = values?.differ.filter((each) => each.kind === 'flag') ?? [];
    const differing = row.seen.find((each) => each.holds === false);
    if (values && flags.length === values.differ.length) {
      const { name } = flags.find((each) => each.name === differing?.column) ?? flags[0]!;
      return seenMistake({ kind: 'flag', flag: name, text: values.left.text, did: values.left.did, line: values.left.line });
    }
    return differing
      ? seenMistake({ kind: 'differs', column: differing.column, expected: differing.expected ?? '', seen: differing.seen, set: row.name })
      : seenMistake({ kind: 'fault', fault: row.end ?? 'no end', ending: row.ending, line: followed.last });
  }

  private isBranch(program: Program, { line }: SideAt): boolean {
    const { machine } = this.assignment;
    const row = program.rows.find((each) => each.line === line && each.kind === 'code');
    if (!row || row.address === undefined) return false;
    const decoded = decode(machine, (offset) => row.words[offset], row.address);
    return !('refused' in decoded) && canBranch(machine, decoded.form);
  }

  /** Inputs that the teacher's run takes. */
  private inputsTaken(failing: number): number | undefined {
    const { machine, solution, table } = this.assignment;
    const read = solution && new SetReader(machine, solution, table.base).read(table.sets[failing]!);
    if (!solution || !read || 'problems' in read) return undefined;
    const followed = follow(runnerOf(machine, solution, read.trial.script), solution);
    return followed.ended ? followed.taken : undefined;
  }

  private roundOf(program: Program, trial: Trial): { instructions: number; mnemonics: string; line: number | undefined } {
    const { machine, table } = this.assignment;
    const runner = runnerOf(machine, program, trial.script);
    runner.begin();
    const stop = runner.run(table.mostTicks);
    if (stop?.kind !== 'never halts') return { instructions: 0, mnemonics: '', line: undefined };
    const { addresses, instructions } = stop.loop;
    const words = addresses.slice(0, 12).map((each) => instructionAt(machine, program, runner.state, each)?.split(' ')[0] ?? '?');
    const lines = addresses.flatMap((each) => ownLine(program, each) ?? []);
    return { instructions, mnemonics: words.join(' '), line: lines[0] };
  }
}

interface Tried {
  readonly source: string;
  readonly program: Program;
  readonly rows: readonly TrialRow[];
  readonly leaves: number | undefined;
}

interface Observed {
  readonly program: Program;
  readonly row: TrialRow;
  readonly trial: Trial;
  readonly failing: number;
  readonly followed: Followed;
  readonly parting: Parting | undefined;
}

/** A set that expects nothing holds where it runs to a halt, which is what it says. */
const holding = ({ verdict }: TrialRow): boolean => verdict === 'holds' || verdict === 'ran';

const halted = ({ end, ticks }: TrialRow): number => (end === 'halted' ? ticks : 0);

function sumOf(rows: readonly TrialRow[]): { readonly holds: number; readonly ticks: number } {
  return { holds: rows.filter(holding).length, ticks: Math.max(0, ...rows.map(halted)) };
}

function unassembled({ problems }: Assembly, frame: readonly string[]): CheckedHandIn {
  const errors = problems.filter((each) => each.grade === 'error');
  const [first] = errors;
  const shown = errors.slice(0, MOST_ERRORS).map(({ line, sentence }) => ({ line, sentence }));
  return {
    ...{ errors: shown, cells: 0, frame, rows: [], holds: 0, ticks: 0 },
    ...(first && { mistake: seenMistake({ kind: 'assembly', code: first.code, line: first.line, sentence: first.sentence }) }),
  };
}

function differenceSentence(row: TrialRow): string {
  const wrong = row.seen.filter((each) => each.holds === false && each.column !== 'end');
  const [first, ...more] = wrong;
  const ended = row.shouldHalt ? ` ${row.ending}` : '';
  if (!first) return `In “${row.name}” it should have halted.${ended}`;
  const others = more.length === 0 ? '' : ` So did ${more.length === 1 ? more[0]!.column : `${more.length} more`}.`;
  return `In “${row.name}” ${first.column} became ${seenWords(first, MOST_WORDS)}; ${first.expected} was expected.${others}${ended}`;
}

function partsSentence({ same, parts, values }: Parting, left: SideAt, right: SideAt): string {
  const on = (side: SideAt): string => (side.line === undefined ? `at ${side.address}` : `on line ${side.line}`);
  const told = (side: SideAt, whose: string): string => `${whose}${side.text === '' ? ',' : ` ${side.text}`} ${on(side)}: ${side.did}`;
  if (parts) return `At instruction ${same + 1} it parts from the teacher's. ${told(left, 'Here')} ${told(right, 'The teacher\u2019s')}`;
  if (values)
    return `The same instructions, but other values from instruction ${values.at + 1} on. ${told(left, 'Here')} ${told(right, 'The teacher\u2019s')}`;
  return 'The same instructions to the end, with the same values in the registers.';
}

interface Followed {
  /** Where the run left the program's instructions, and for what. */
  readonly leaves?: { readonly line: number | undefined; readonly into: string };
  /** The last line of its own that was executed. */
  readonly last: number | undefined;
  readonly taken: number;
  readonly ended: boolean;
  readonly fault: string | undefined;
}

/** Instruction by instruction, until the run ends or goes where no instruction was written. */
function follow(runner: Runner, program: Program): Followed {
  const { machine, state } = runner;
  const { rowAt } = indexOf(program);
  let last: number | undefined;
  let stop: Stop | undefined;
  runner.begin();
  const told = (more: Partial<Followed>): Followed => ({
    ...{ last, taken: state.control.inputs, ended: stop !== undefined, fault: stop?.kind === 'fault' ? stop.fault.kind : undefined },
    ...more,
  });
  for (let count = 0; count < MOST_FOLLOWED; count++) {
    const counter = state.registers[machine.programCounter]!;
    const row = rowAt.get(counter);
    if (row?.kind !== 'code') {
      if (counter >= programSpaceOf(machine).cells) return told({ leaves: { line: last, into: 'nothing: the memory is at its end' } });
      const into = row ? `data (line ${row.line})` : `cells that the program has not, from ${addressText(machine, counter)}`;
      return told({ leaves: { line: last, into } });
    }
    if (!row.system && row.part === undefined) last = row.line;
    stop = runner.instruction();
    if (stop || state.control.halted) {
      stop ??= { kind: 'halted' };
      return told({});
    }
  }
  return told({});
}

/** What came of one set: a row of plain data, which crosses workers, files and the network as it is. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { usualBase } from '../../machine/model/numbers';
import type { Base } from '../../text/number';
import { flagValues } from '../../engine/meaning/composites';
import type { RunRemark } from '../../engine/meaning/noticed';
import type { State } from '../../engine/meaning/state';
import type { Stop } from '../../engine/control/runner';
import { explainRemark } from '../../engine/tell/explainRemark';
import { explainStop } from '../../engine/tell/explainStop';
import { meets, seenCells, seenValue, shownValue, type Aspect, type End } from '../sets/expected';
import type { Expected, SetProblem, Trial } from '../sets/read';

/** One cell of a row: what was expected of a column, and what came. */
export interface Seen {
  readonly column: string;
  /** As it is shown, in the base of the table. */
  readonly seen: string;
  /** As typed; undefined where the set expects nothing here. */
  readonly expected?: string;
  readonly holds?: boolean;
}

export interface RowFlag {
  readonly name: string;
  readonly value: number;
  /** The instruction that set it, and its line or address; undefined as at the start. */
  readonly by?: string;
}

/** holds: all that is expected came; differs: something did not; ran: nothing is expected; unread: the set has mistakes. */
export type Verdict = 'holds' | 'differs' | 'ran' | 'unread';

export interface TrialRow {
  readonly name: string;
  readonly verdict: Verdict;
  readonly problems: readonly SetProblem[];
  readonly end: End | undefined;
  /** How it ended, in words. */
  readonly ending: string;
  readonly ticks: number;
  readonly instructions: number;
  readonly seen: readonly Seen[];
  /** Columns that differ; an end that is not as expected counts as one. */
  readonly differs: number;
  /** It should have halted, which nobody had to say. */
  readonly shouldHalt: boolean;
  readonly flags: readonly RowFlag[];
  readonly remarks: readonly string[];
}

/** A run that has come to its end. */
export interface Ended {
  readonly machine: Machine;
  readonly state: State;
  readonly stop: Stop;
  readonly remarks: readonly RunRemark[];
  /** What was written to ports and devices, by latch, where somebody asked. */
  readonly sequences: ReadonlyMap<string, readonly number[]>;
}

/** Inputs that are told one by one. */
const MOST_LEFT = 5;

/** The row of a set that could not be run. */
export const unreadRow = (name: string, problems: readonly SetProblem[]): TrialRow => ({
  ...{ name, verdict: 'unread', problems, end: undefined, ending: '', ticks: 0, instructions: 0 },
  ...{ seen: [], differs: 0, shouldHalt: false, flags: [], remarks: [] },
});

const END_OF: Readonly<Record<Stop['kind'], End>> = {
  halted: 'halted',
  waiting: 'waiting',
  fault: 'fault',
  'never halts': 'never halts',
  budget: 'out of ticks',
  breakpoint: 'out of ticks',
  reached: 'out of ticks',
};

/** What a column looks at, and how many cells from there on its entries have at most. */
export interface Column {
  readonly aspect: Aspect;
  readonly cells: number;
}

/** Judges a run that has ended. `columns`: what is looked at besides what this set expects. */
export function rowOf(
  trial: Trial,
  ended: Ended,
  { program, base, columns }: { readonly program: Program; readonly base: Base | undefined; readonly columns: ReadonlyMap<string, Column> },
): TrialRow {
  const { machine, state, stop, remarks } = ended;
  const end = END_OF[stop.kind];
  const shown = base ?? (usualBase(machine) as Base);
  const expected = new Map(trial.expected.map((each) => [each.column, each]));
  const own = trial.expected.map((each): [string, Column] => [each.column, { aspect: each.aspect, cells: cellsOf(each) }]);
  const seen = [...new Map([...columns, ...own])].map(([column, { aspect, cells }]): Seen => {
    const wanted = expected.get(column);
    const text = seenText(ended, { aspect, end, base: shown, cells });
    return wanted ? { column, seen: text, expected: wanted.text, holds: holds(wanted, ended, end) } : { column, seen: text };
  });
  const asksEnd = trial.expected.some((each) => each.aspect.kind === 'end');
  const shouldHalt = !asksEnd && end !== 'halted';
  const differs = seen.filter((each) => each.holds === false).length + (shouldHalt ? 1 : 0);
  const telling = { machine, program, state };
  const values = flagValues(machine, state);
  return {
    name: trial.set.name,
    verdict: differs > 0 ? 'differs' : trial.expected.length === 0 ? 'ran' : 'holds',
    problems: [],
    ...{ end, ending: explainStop(telling, stop), ticks: state.control.ticks, instructions: state.control.instructions },
    ...{ seen, differs, shouldHalt },
    flags: machine.flags.map(({ name }, at) => ({ name, value: values[at]! })),
    remarks: [...remarks.map((each) => explainRemark(telling, each)), ...leftOver(state)],
  };
}

function leftOver({ control }: State): string[] {
  const left = control.queue.slice(control.inputs);
  if (left.length === 0) return [];
  const named = left.slice(0, MOST_LEFT).join(', ');
  const more = left.length > MOST_LEFT ? ` and ${left.length - MOST_LEFT} more` : '';
  return [`${left.length === 1 ? 'One input was' : `${left.length} inputs were`} left over: ${named}${more}.`];
}

/** The end of an output that is shown. */
const MOST_SHOWN = 400;

/** How many cells a set expects in one entry. */
const cellsOf = ({ expectation }: Expected): number => (expectation.on === 'cells' ? expectation.values.length : 1);

interface Looked {
  readonly aspect: Aspect;
  readonly end: End;
  readonly base: Base;
  readonly cells: number;
}

function seenText({ machine, state, sequences }: Ended, { aspect, end, base, cells }: Looked): string {
  const { control } = state;
  switch (aspect.kind) {
    case 'output':
      return control.written > MOST_SHOWN ? `…${control.output.slice(-MOST_SHOWN)}` : control.output;
    case 'end':
      return end;
    case 'ticks':
    case 'instructions':
      return String(control[aspect.kind]);
    case 'sequence':
      return (sequences.get(JSON.stringify(aspect.place)) ?? [])
        .map((each) => shownValue(machine, BigInt(each), aspect.width, base))
        .join(' ');
    case 'place':
      if (cells > 1)
        return seenCells(machine, state, { place: aspect.place, count: cells })
          .map((each) => shownValue(machine, each, aspect.width, base))
          .join(' ');
      return shownValue(machine, seenValue(machine, state, aspect), aspect.width, base);
    case 'joined':
      return shownValue(machine, seenValue(machine, state, aspect), aspect.width, base);
    default:
      return aspect satisfies never;
  }
}

function holds({ aspect, expectation }: Expected, { machine, state, sequences }: Ended, end: End): boolean {
  const { control } = state;
  switch (expectation.on) {
    case 'output': {
      const { text, exactly } = expectation;
      if (text === undefined) return true;
      if (control.written !== control.output.length) return false;
      return exactly ? control.output === text : control.output.trim() === text;
    }
    case 'end':
      return expectation.end === 'any' || expectation.end === end;
    case 'sequence': {
      if (expectation.values === 'any' || aspect.kind !== 'sequence') return true;
      const came = sequences.get(JSON.stringify(aspect.place)) ?? [];
      const { values } = expectation;
      return values.length === came.length && values.every((each, at) => meets(each, BigInt(came[at]!), aspect.width, machine.radix));
    }
    case 'cells': {
      if (aspect.kind !== 'place') return true;
      const { values } = expectation;
      const came = seenCells(machine, state, { place: aspect.place, count: values.length });
      return values.every((each, at) => meets(each, came[at]!, aspect.width, machine.radix));
    }
    case 'value':
      if (aspect.kind === 'ticks' || aspect.kind === 'instructions') return meets(expectation.wanted, BigInt(control[aspect.kind]), 50, 2);
      return aspect.kind === 'place' || aspect.kind === 'joined'
        ? meets(expectation.wanted, seenValue(machine, state, aspect), aspect.width, machine.radix)
        : true;
    default:
      return expectation satisfies never;
  }
}

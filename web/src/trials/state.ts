/** The sets of one program, what came of them, and what is under way. */
import { create } from 'zustand';
import type { DocumentDetail, DocumentSummary } from '@zettak/api/documents';
import type { Results } from '@zettak/api/results';
import type { Reached, TriedProgram } from '@zettak/core/session/trialBench';
import type { Parting } from '@zettak/core/trials/reach/parting';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import type { SetProblem } from '@zettak/core/trials/sets/read';
import { NO_SETS, placesOf, type SetTable } from '@zettak/core/trials/sets/table';
import type { Draft, SaveState } from '../documents/drafts';

/** A row with the set that it came of, so that a set that was changed since is told. */
export interface KeptRow {
  readonly row: TrialRow;
  /** Of the set as it was run. */
  readonly set: string;
}

export interface Work {
  readonly what: string;
  readonly done: number;
  /** 1 of a search, whose `done` is a part of it. */
  readonly total: number;
}

export interface Parted {
  readonly found: Parting;
  readonly left: { readonly set: string; readonly says: string };
  readonly right: { readonly set: string; readonly says: string; readonly source?: string; readonly program?: string };
}

export interface TrialsState {
  readonly programs: readonly DocumentSummary[];
  readonly program?: DocumentDetail | undefined;
  readonly machineName: string;
  readonly machineVersion: number;
  readonly source: string;
  readonly tried?: TriedProgram | undefined;
  /** Of the document of sets; undefined until there is one. */
  readonly draft?: Draft | undefined;
  readonly saveState: SaveState;
  readonly table: SetTable;
  readonly past: readonly SetTable[];
  readonly future: readonly SetTable[];
  /** Columns that no set has an entry in yet. */
  readonly more: { readonly given: readonly string[]; readonly expected: readonly string[] };
  /** Mistakes of each set, in their order. */
  readonly problems: readonly (readonly SetProblem[])[];
  /** By the name of the set. */
  readonly rows: ReadonlyMap<string, KeptRow>;
  /** The rows came of an earlier state of program or machine. */
  readonly old: boolean;
  readonly kept: readonly Results[];
  readonly work?: Work | undefined;
  /** The name of the chosen set. */
  readonly chosen?: string | undefined;
  /** `over`: the one set that was looked at, where it was one. */
  readonly reached?: (Reached & { readonly over?: string | undefined }) | undefined;
  readonly parted?: Parted | undefined;
  /** Runs again by itself when the program has changed. */
  readonly again: boolean;
  readonly said?: string | undefined;
  readonly failure?: string | undefined;
  /** What the server keeps as sets is none that could be read. */
  readonly unreadable: boolean;
}

export const useTrials = create<TrialsState>()(() => ({
  ...{ programs: [], machineName: '', machineVersion: 0, source: '', saveState: { kind: 'saved' } },
  ...{
    table: NO_SETS,
    past: [],
    future: [],
    more: { given: [], expected: [] },
    problems: [],
    rows: new Map(),
    old: false,
    kept: [],
    again: false,
    unreadable: false,
  },
}));

/** The columns of a table, those without entries behind the others. */
export const columnsOf = (table: SetTable, more: TrialsState['more'], of: 'given' | 'expected'): readonly string[] => [
  ...new Set([...placesOf(table.sets, of), ...more[of]]),
];

export const sayHere = (said: string): void => useTrials.setState({ said });

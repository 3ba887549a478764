/** Why a file of a run is of no use here, or cannot be written, as data, and the sentence for each. */
import { explainEntry, type EntryProblem } from '../engine/meaning/entryProblems';

export type RunFileProblem =
  | { readonly code: 'not-json' }
  | { readonly code: 'no-run-file' }
  | { readonly code: 'other-machine'; readonly machine: string; readonly here: string }
  | { readonly code: 'other-version'; readonly machine: string }
  | { readonly code: 'no-program' }
  | { readonly code: 'no-script'; readonly sentence: string }
  | { readonly code: 'cell-outside' }
  | { readonly code: 'run-too-long'; readonly most: number }
  | EntryProblem;

export interface RefusedRunFile {
  readonly refused: RunFileProblem;
}

/** The sentence of a problem: what is wrong, and what to do. */
export function explainRunFile(problem: RunFileProblem): string {
  switch (problem.code) {
    case 'not-json':
      return 'This is no kept run: it is not JSON.';
    case 'no-run-file':
      return 'This is no kept run of this program version.';
    case 'other-machine':
      return `This run belongs to the machine ${problem.machine}; ${problem.here} is on the bench.`;
    case 'other-version':
      return `This run belongs to another version of ${problem.machine}. Put that version on the bench first.`;
    case 'no-program':
      return 'The program of this run does not assemble any more.';
    case 'no-script':
      return `The script of this run: ${problem.sentence}`;
    case 'cell-outside':
      return 'A cell of this run lies outside the memory.';
    case 'run-too-long':
      return `Only runs of up to ${problem.most.toLocaleString('en-US')} ticks are written tick by tick here; the command line writes longer ones.`;
    default:
      return explainEntry(problem);
  }
}

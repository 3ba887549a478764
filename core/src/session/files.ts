/** The run on a bench as files: kept, put back, compared, written out in open formats. */
import { differences, exported, readRunFile, runFileOf, type Difference, type Exported, type RunExport } from '../trials/runFiles';
import { setOfRun } from '../trials/sets/fromRun';
import type { TrialSet } from '../trials/sets/table';
import { explainRunFile } from '../trials/runFileProblems';
import { givenBy, refusedQueue, type Run } from './run';
import type { Texts } from './texts';

export class Files {
  private readonly texts: Texts;
  private readonly run: Run;

  constructor(texts: Texts, run: Run) {
    this.texts = texts;
    this.run = run;
  }

  /** The run up to now as a file that does the same anywhere; the text, or why there is none. */
  keepRun(note: string): { readonly text: string } | { readonly refused: string } {
    const { current } = this.run;
    if (!current) return { refused: 'Nothing is loaded yet.' };
    const { machineText, partTexts: parts } = this.texts;
    const { runner, kept, devices } = current;
    return { text: JSON.stringify(runFileOf(runner, { machineText, kept, parts, devices, note }), null, 1) };
  }

  /** The run up to now as a set of trials that does it again. */
  asSet(name: string): TrialSet | { readonly refused: string } {
    const { current } = this.run;
    if (!current) return { refused: 'Nothing is loaded yet.' };
    const { runner, kept, devices } = current;
    return setOfRun(runner, { name, kept, devices });
  }

  /** Puts a kept run back on the bench, at the tick where it was kept. */
  openRun(text: string): { readonly source: string; readonly note: string } | { readonly refused: string } {
    const { machine, machineText } = this.texts;
    if (!machine) return { refused: 'There is no machine yet.' };
    const read = readRunFile(text, machine, machineText);
    if ('refused' in read) return { refused: explainRunFile(read.refused) };
    const refused = refusedQueue(givenBy(read.beginning));
    if (refused) return { refused };
    this.run.begin(read.program, { ...read.beginning, devices: read.devices }).timeline.reach(read.tick);
    this.run.publish({ now: true });
    return { source: read.program.source, note: read.note };
  }

  /** What differs between a kept run's state and the present one. */
  compareWith(text: string): { readonly list: readonly Difference[] } | { readonly refused: string } {
    const { machine, machineText } = this.texts;
    const { current } = this.run;
    if (!machine || !current) return { refused: 'Nothing is loaded yet.' };
    const read = readRunFile(text, machine, machineText);
    return 'refused' in read ? { refused: explainRunFile(read.refused) } : { list: differences(read, current.runner) };
  }

  /** The run or its state as a file in an open format. */
  exportRun(kind: RunExport, cells: string): Exported | { readonly refused: string } {
    const { current } = this.run;
    if (!current) return { refused: 'Nothing is loaded yet.' };
    const file = exported(kind, current.runner, cells);
    return 'refused' in file ? { refused: explainRunFile(file.refused) } : file;
  }
}

/** The run on a bench as files: kept, put back, compared, written out in open formats. */
import { differences, exported, readRunFile, runFileOf, type Difference, type Exported, type RunExport } from '../trials/runFiles';
import { runFileSchema, type RunFile } from '../trials/runFileSchema';
import { setOfRun } from '../trials/sets/fromRun';
import type { TrialSet } from '../trials/sets/table';
import { explainRunFile } from '../trials/runFileProblems';
import { givenBy, refusedQueue, type Run } from './run';
import type { Texts } from './texts';

/** Longest link, in characters before it is written for an address. */
const MOST_LINK = 6000;

const linkSchema = runFileSchema.pick({ script: true, tick: true, kept: true });

function linkIn(text: string): Pick<RunFile, 'script' | 'tick' | 'kept'> | undefined {
  try {
    return linkSchema.safeParse(JSON.parse(text)).data;
  } catch {
    return undefined;
  }
}

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

  /** What a link to this run says of it: what it was given, and its tick. The program and its machine are where it leads. */
  linked(): { readonly text: string } | { readonly refused: string } {
    const made = this.keepRun('');
    if ('refused' in made) return made;
    const { script, tick, kept } = JSON.parse(made.text) as RunFile;
    const text = JSON.stringify({ script, tick, kept });
    return text.length > MOST_LINK ? { refused: 'This run was given too much for a link. Save it as a file.' } : { text };
  }

  /** Opens what a link says, on the program and machine that are here; the sentence tells where it could not be followed. */
  openLinked(text: string): { readonly said: string } {
    const { current } = this.run;
    const { machine, machineText, partTexts: parts } = this.texts;
    const link = linkIn(text);
    if (!link) return { said: 'The link says nothing that could be opened.' };
    if (!current || !machine) return { said: 'The program of this link does not run: it has errors.' };
    const { language, name } = machine;
    const file = {
      zettak: 'run',
      version: 1,
      machine: { name, text: machineText, language },
      program: { text: current.program.source, parts },
      note: '',
      ...link,
    };
    const opened = this.openRun(JSON.stringify(file));
    if ('refused' in opened) return { said: `The link cannot be followed here. ${opened.refused}` };
    const { ticks } = this.run.current!.runner;
    return { said: ticks < link.tick ? `The link leads to tick ${link.tick}; this run has no more than ${ticks}.` : '' };
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

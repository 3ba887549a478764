/** A set as a run can use it: its script, and what is expected, or what is wrong with it and where. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { explainEntry, type EntryProblem } from '../../engine/meaning/entryProblems';
import { readScript, readValues, type Script } from '../../engine/timeline/script';
import { editReader } from '../../engine/watch/places';
import type { DatedEdit } from '../../engine/timeline/interventions';
import { readAspect, readExpectation, type Aspect, type Expectation } from './expected';
import { INPUT, type SetTable, type TrialSet } from './table';

/** What is wrong with an entry of a set, said where it stands. */
export interface SetProblem {
  readonly where: 'given' | 'expected' | 'script';
  /** The place, or the number of the line. */
  readonly place: string;
  readonly sentence: string;
}

/** One thing that is expected of a run. */
export interface Expected {
  readonly column: string;
  readonly aspect: Aspect;
  readonly expectation: Expectation;
  /** As typed. */
  readonly text: string;
}

export interface Trial {
  readonly set: TrialSet;
  readonly script: Script;
  readonly expected: readonly Expected[];
}

/** Reads sets of one program again and again; what stands in many of them, names of columns and entries in one, is read once. */
export class SetReader {
  private readonly aspects = new Map<string, Aspect | { readonly wrong: string }>();
  private readonly edits = new Entries((place, text) => this.freshEdit(place, text));
  private readonly expectations = new Entries((column, text) => this.freshExpectation(column, text));
  private readonly readEdit: ReturnType<typeof editReader>;

  constructor(
    private readonly machine: Machine,
    private readonly program: Program,
    private readonly base: SetTable['base'],
  ) {
    this.readEdit = editReader(machine, program, base);
  }

  /** What a column of expectations is about, or why it is about nothing. */
  aspect(column: string): Aspect | { readonly wrong: string } {
    const found = this.aspects.get(column) ?? readAspect(this.machine, this.program, column);
    this.aspects.set(column, found);
    return found;
  }

  /** The trial, or every mistake of the set. */
  read(set: TrialSet): { readonly trial: Trial } | { readonly problems: readonly SetProblem[] } {
    const problems: SetProblem[] = [];
    const script = this.scriptOf(set, problems);
    const expected = set.expected.flatMap(({ place, text }) => {
      const read = this.expectation(place, text);
      if (!('wrong' in read)) return [read];
      problems.push({ where: 'expected', place, sentence: read.wrong });
      return [];
    });
    return script && problems.length === 0 ? { trial: { set, script, expected } } : { problems };
  }

  /** What is meant by one expectation. */
  expectation(column: string, text: string): Expected | { readonly wrong: string } {
    return this.expectations.of(column, text);
  }

  private freshExpectation(column: string, text: string): Expected | { readonly wrong: string } {
    const aspect = this.aspect(column);
    if ('wrong' in aspect) return aspect;
    const expectation = readExpectation(this.machine, aspect, { column, text, base: this.base });
    return 'wrong' in expectation ? expectation : { column, aspect, expectation, text };
  }

  private scriptOf({ given, script }: TrialSet, problems: SetProblem[]): Script | undefined {
    const { machine, program, base } = this;
    const edits: DatedEdit[] = [];
    const inputs: number[] = [];
    for (const { place, text } of given) {
      const read = place.toLowerCase() === INPUT ? readValues(machine, text, base) : this.edits.of(place, text);
      if ('refused' in read) problems.push({ where: 'given', place, sentence: explainEntry(read.refused) });
      else if ('values' in read) inputs.push(...read.values);
      else edits.push(...read.edits);
    }
    const own = script.trim() === '' ? EMPTY : readScript(machine, program, script);
    for (const { line, sentence } of own.problems) problems.push({ where: 'script', place: String(line), sentence });
    if (!own.script) return undefined;
    const queued = own.script.edits.map((each) => (each.kind === 'inputs' ? { ...each, queue: [...inputs, ...each.queue] } : each));
    return { ...own.script, inputs: [...inputs, ...own.script.inputs], edits: [...edits, ...queued] };
  }

  private freshEdit(place: string, text: string): { readonly edits: readonly DatedEdit[] } | { readonly refused: EntryProblem } {
    if (text.includes('=')) return { refused: { code: 'no-number', text, radix: this.machine.radix, base: this.base ?? 10 } };
    const read = this.readEdit(place, text);
    return 'refused' in read ? read : { edits: read.map((each) => ({ ...each, tick: 0, scripted: true })) };
  }
}

/** Texts of a column that are remembered. */
const MOST_KNOWN = 2000;

/** What entries mean, by their columns and texts. */
class Entries<T extends object> {
  private readonly known = new Map<string, Map<string, T>>();

  constructor(private readonly read: (column: string, text: string) => T) {}

  of(column: string, text: string): T {
    let own = this.known.get(column);
    if (!own) this.known.set(column, (own = new Map()));
    const known = own.get(text);
    if (known !== undefined) return known;
    // A search tries any number of texts.
    if (own.size >= MOST_KNOWN) own.clear();
    const found = this.read(column, text);
    own.set(text, found);
    return found;
  }
}

const EMPTY: { readonly script: Script; readonly problems: readonly never[] } = {
  script: { inputs: [], plans: [], devices: [], edits: [] },
  problems: [],
};

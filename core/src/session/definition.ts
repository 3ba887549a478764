/**
 * A machine while it is being defined: what its document amounts to at every change, acts on it as changes of its text,
 * its instructions tried. Holds no text; a tree that was just read is not read again.
 */
import { systemOf } from '../assembler/assemble';
import { followNames, newNames, type NewNames } from '../assembler/assist/followRename';
import { findCases, type Cases } from '../engine/sample/cases';
import { MOST_TICKS, NOTHING_GIVEN, type Given } from '../engine/sample/bed';
import { pinnedState } from '../engine/sample/pinned';
import { runOf, tryForm } from '../engine/sample/sample';
import type { Runner } from '../engine/control/runner';
import { applyChanges, editDocument, type TextChange } from '../machine/document/edits';
import { duplicateOf, outlineOf } from '../machine/document/outline';
import { mergedTree, overridden } from '../machine/document/overriding';
import { incrementalParser } from '../machine/document/incremental';
import { placeInDocument, rememberingParser, rootOf } from '../machine/document/parsed';
import { renameEverywhere, type Renaming } from '../machine/document/renaming';
import { explainEdit, plainOf, treeOfNode, withParents, type DocumentEdit, type EditProblem, type Tree } from '../machine/document/tree';
import { readYaml, type Path } from '../machine/document/yaml';
import { itemAt } from '../text/itemAt';
import { makeSource } from '../text/source';
import type { Row } from '../image/program';
import type { Machine } from '../machine/model/machine';
import { Remembered } from '../machine/resolve/remembered';
import { changesBetween, consequenceFor, unusedBy, type Consequence, type Coverage, type OfProgram } from './consequences';
import { footprintOf, type Footprint } from './footprint';
import { patchBetween } from '../text/patch';
import type { Scheduler } from './drive';
import type { DocumentChange, Look, LookChange, MachineCheck, PartRenamed, Pinned, Trying, View } from './protocol';
import { viewOf } from './viewOf';
import type { Texts } from './texts';

/** A version of a machine. */
export interface Kept {
  readonly text: string;
  readonly language?: number;
}

export interface Consequences {
  readonly changes: readonly string[];
  /** In the order of the programs. */
  readonly programs: readonly Consequence[];
}

/** An edit, or a part written once more. */
export type DocumentAct = DocumentEdit | { readonly kind: 'duplicate'; readonly path: Path };

/** Milliseconds that a search takes before others have a turn: a key that is pressed meanwhile waits no longer than that. */
const SLICE = 5;
/** Documents that are based on each other, at most so deep. */
const DEEPEST = 8;

export class Definition {
  /** Of the document itself; of those that it is based on another, so that they do not take turns. */
  private readonly parse = incrementalParser();
  private readonly parseBase = rememberingParser();
  /** What is known of texts from before: most of a text is as it was at the last key press. */
  private readonly again = { parse: this.parse, remembered: new Remembered() };
  /** The machine of the last document without errors. */
  private sound: Machine | undefined;
  private searches = 0;
  /** What was tried last. */
  private tried: { readonly machine: Machine; readonly asked: string; readonly found: Look['tried'] } | undefined;
  /** The last look that was told, with what ones before it had and it has not: a machine without errors comes back. */
  private held: Look | undefined;
  private looks = 0;
  /** What the last act made of its text. */
  private edited = '';

  constructor(
    private readonly texts: Texts,
    private readonly scheduler: Scheduler,
  ) {}

  /** What a document amounts to, and what an instruction of it does. */
  look(text: string, trying?: Trying): Look {
    const { parse } = this;
    const { machine, problems, clashing } = this.texts.checkMachine(text, undefined, this.again);
    if (machine) this.sound = machine;
    const placed = problems.map((each) => ({ ...each, ...placeInDocument(text, each.start, parse) }));
    const root = rootOf(text, parse);
    if (!root) return { text, problems: placed, pinned: [] };
    const own = treeOfNode(root);
    const base = this.baseOf(own);
    const tried = trying && this.try(trying);
    return {
      ...{ text, problems: placed, pinned: machine ? this.pinned(machine) : [] },
      ...(machine && { machine }),
      ...(clashing && { clashing }),
      outline: outlineOf(text, base, parse) ?? [],
      document: plainOf(base ? mergedTree(base, own) : own),
      ...(base && { own: plainOf(own) }),
      ...(tried && { tried }),
    };
  }

  /**
   * The same as what has changed since the look that the asker has got last, by its number; most of it is as it was.
   * Without a text it is of what the last act makes of its.
   */
  lookAgain(text: string | undefined, trying: Trying | undefined, has: number): LookChange {
    const now = text ?? this.edited;
    // Whoever asks for the first time, of another machine, has nothing of the one before.
    const before = has === this.looks ? this.held : undefined;
    if (has !== this.looks) this.sound = undefined;
    // A search would take turns with what somebody is typing.
    if (now !== this.held?.text) this.searches++;
    const look = this.look(now, trying);
    const patch = patchBetween(before, look);
    this.held = { ...before, ...look };
    return { number: ++this.looks, patch };
  }

  /** How the examples fare that are pinned to a machine's instructions. */
  private pinned(machine: Machine): Pinned[] {
    const system = systemOf(machine)?.program;
    const counts = new Map<string, number>();
    return machine.forms.flatMap((form) => {
      const { mnemonic } = form;
      const own = counts.get(mnemonic) ?? 0;
      counts.set(mnemonic, own + 1);
      return form.examples.map((each, at): Pinned => ({ mnemonic, form: own, at, ...pinnedState(machine, form, each, system) }));
    });
  }

  /** An instruction of the last sound machine, form by form. */
  try(trying: Trying): Look['tried'] {
    const machine = this.sound;
    if (!machine) return undefined;
    const asked = JSON.stringify(trying);
    // While there are errors the machine is the one of before.
    if (this.tried?.machine === machine && this.tried.asked === asked) return this.tried.found;
    const { mnemonic, given } = trying;
    const system = systemOf(machine)?.program;
    const found = machine.forms
      .filter((each) => each.mnemonic === mnemonic)
      .map((form, at) => tryForm(machine, form, given[at] ?? NOTHING_GIVEN, system));
    this.tried = { machine, asked, found };
    return found;
  }

  /** What a document means beside a version that was kept: its changes in words, and what becomes of programs. */
  consequences(kept: Kept, text: string, programs: readonly OfProgram[]): Consequences | { readonly refused: string } {
    const before = this.texts.checkMachine(kept.text, kept.language).machine;
    const after = this.texts.checkMachine(text, undefined, this.again).machine;
    if (!after) return { refused: 'The document has errors; what it means can be told when it has none.' };
    if (!before) return { refused: 'The version that was kept cannot be read any more.' };
    return { changes: changesBetween(before, after), programs: programs.map((each) => consequenceFor(before, after, each)) };
  }

  /** What no program of a course uses of a document's machine; undefined while it has errors. */
  coverage(text: string, programs: readonly OfProgram[]): Coverage | undefined {
    const { machine } = this.texts.checkMachine(text, undefined, this.again);
    return machine && unusedBy(machine, programs);
  }

  /** Which programs assemble on a document's machine. */
  assembles(text: string, programs: readonly OfProgram[]): readonly boolean[] {
    const { machine } = this.texts.checkMachine(text, undefined, this.again);
    return programs.map((each) => machine !== undefined && footprintOf(machine, each).problem === undefined);
  }

  /** How much room programs take on a kept version of their machine, and where. */
  footprints(kept: Kept, programs: readonly OfProgram[]): readonly Footprint[] {
    const { machine } = this.texts.checkMachine(kept.text, kept.language);
    return programs.map((each) =>
      machine ? footprintOf(machine, each) : { cells: 0, size: 0, regions: [], problem: 'Its machine has errors.' },
    );
  }

  /** Lines of the last sound machine's system program. */
  systemRows(): readonly Row[] {
    return (this.sound && systemOf(this.sound)?.program?.rows) ?? [];
  }

  /** How a form that is tried stands after so many ticks, and how many it has; undefined where it cannot be tried. */
  drawing(mnemonic: string, at: number, given: Given, tick: number): { readonly view: View; readonly ticks: number } | undefined {
    const machine = this.sound;
    const form = machine?.forms.filter((each) => each.mnemonic === mnemonic)[at];
    const runner = machine && form && runOf(machine, form, given, systemOf(machine)?.program);
    if (!runner) return undefined;
    let ticks = 0;
    let shown: View | undefined;
    for (; ticks <= MOST_TICKS; ticks++) {
      if (ticks === tick) shown = viewOf(standing(runner));
      if (runner.state.control.instructions > 0 || runner.tick()) break;
    }
    return { view: shown ?? viewOf(standing(runner)), ticks };
  }

  /**
   * Values with which a form makes each of its flags 0 and 1; undefined where there are none. It is given up where somebody
   * asks for another search meanwhile, or the text changes. Others have a turn now and then.
   */
  cases(mnemonic: string, at: number): Promise<Cases | 'given up' | undefined> {
    const machine = this.sound;
    const form = machine?.forms.filter((each) => each.mnemonic === mnemonic)[at];
    const own = ++this.searches;
    if (!machine || !form) return Promise.resolve(undefined);
    const search = findCases(machine, form, systemOf(machine)?.program);
    const { now, later } = this.scheduler;
    return new Promise((resolve) => {
      const slice = (): void => {
        if (own !== this.searches) return resolve('given up');
        const until = now() + SLICE;
        for (;;) {
          const step = search.next();
          if (step.done) return resolve(step.value);
          if (now() > until) return void later(0, slice);
        }
      };
      later(0, slice);
    });
  }

  /** An act on a document as changes of its text, or why it cannot be. What is inherited is written over, here. */
  edit(text: string, act: DocumentAct): DocumentChange {
    const made = this.changeFor(text, act);
    this.edited = 'refused' in made ? text : applyChanges(text, made.changes);
    return made;
  }

  private changeFor(text: string, act: DocumentAct): DocumentChange {
    const meant = act.kind === 'duplicate' ? this.duplicated(text, act.path) : act;
    if ('refused' in meant) return { refused: explainEdit(meant.refused) };
    const root = rootOf(text, this.parse);
    const own = root && treeOfNode(root);
    const base = own && this.baseOf(own);
    const rooted = own ? withParents(base ? mergedTree(base, own) : own, meant) : meant;
    const edits = own && base ? overridden(base, own, rooted) : [rooted];
    if ('refused' in edits) return { refused: explainEdit(edits.refused) };
    const path = meant.kind === 'rename' ? [...meant.path.slice(0, -1), meant.name] : meant.path;
    return this.applied(text, edits, path);
  }

  private applied(text: string, edits: readonly DocumentEdit[], path: Path): DocumentChange {
    let now = text;
    let changes: readonly TextChange[] = [];
    for (const edit of edits) {
      const made = editDocument(now, edit, this.parse);
      if ('refused' in made) return { refused: explainEdit(made.refused) };
      now = made.text;
      ({ changes } = made);
    }
    // Several edits are one change of the text: from where they begin to differ to where they end.
    return { changes: edits.length === 1 ? changes : between(text, now), path };
  }

  private duplicated(text: string, path: Path): (DocumentEdit & { kind: 'insert' }) | { readonly refused: EditProblem } {
    const root = rootOf(text, this.parse);
    const own = root && treeOfNode(root);
    const base = own && this.baseOf(own);
    const whole = own && base ? mergedTree(base, own) : own;
    return (whole === undefined ? undefined : duplicateOf(whole, path)) ?? { refused: { code: 'no-such-part', path } };
  }

  /** A part under another name everywhere; refused where a sound machine would have errors then. */
  renamePart(text: string, path: Path, name: string): PartRenamed {
    const { parse } = this;
    const named = renameEverywhere(text, path, name, parse);
    if ('refused' in named) return { refused: explainEdit(named.refused) };
    const made = path[0] === 'conditions' ? this.withEndings(text, named) : named;
    const [before, after] = [text, applyChanges(text, made.changes)].map((each) =>
      this.texts.checkMachine(each, undefined, this.again),
    ) as [MachineCheck, MachineCheck];
    const wrong = before.machine && after.problems.find((problem) => problem.grade === 'error');
    if (wrong) return { refused: `With that name line ${wrong.line} would be wrong: ${wrong.sentence}` };
    const programs = before.machine && after.machine ? newNames(before.machine, after.machine) : { operations: [], names: [] };
    return { changes: made.changes, path: [...path.slice(0, -1), name], places: made.places, programs };
  }

  /** A condition's name is the end of operations: programs inside the document follow as any program does. */
  private withEndings(text: string, { changes }: Renaming): Renaming {
    const { machine } = this.texts.checkMachine(text, undefined, this.again);
    // As they are called then is known of the machine alone, without the programs that call them by the old names.
    const [before, after] = [text, applyChanges(text, changes)].map((each) => this.texts.checkMachine(this.withoutPrograms(each)).machine);
    if (!machine || !before || !after) return { changes, places: changes.length - 1 };
    const { linesOf } = readYaml(makeSource('machine', text), this.parse);
    const names = newNames(before, after);
    const short = machine.shortForms.map(({ mnemonic }, at, all): Path => {
      const own = all.slice(0, at).filter((each) => each.mnemonic === mnemonic).length;
      return ['short forms', mnemonic, 'forms', own, 'for'];
    });
    const paths: Path[] = [['system', 'source'], ...short];
    const followed = paths.flatMap((path) => followedIn(machine, linesOf(path), names));
    const all = [...changes, ...followed].sort((a, b) => a.span.start - b.span.start);
    return { changes: all, places: all.length - 1 };
  }

  private withoutPrograms(text: string): string {
    return ['system', 'short forms'].reduce((now, name) => {
      const made = editDocument(now, { kind: 'remove', path: [name] }, this.parse);
      return 'refused' in made ? now : made.text;
    }, text);
  }

  /** Programs as they would be once parts of their machine have other names, renamed one after the other. */
  follow(kept: Kept, renames: readonly NewNames[], sources: readonly string[]): readonly string[] {
    const { machine } = this.texts.checkMachine(kept.text, kept.language);
    if (!machine) return sources;
    const all = { operations: renames.flatMap((each) => each.operations), names: renames.flatMap((each) => each.names) };
    const chained = { operations: chainOf(all.operations), names: chainOf(all.names) };
    return sources.map((source) => applyChanges(source, followNames(machine, source, chained)));
  }

  /** What a document inherits, from its base and from that one's; undefined where it is based on none that is known. */
  private baseOf(own: Tree, depth = 0): Tree | undefined {
    const name = typeof own !== 'string' && 'map' in own ? own.map.find(([key]) => key === 'based on')?.[1] : undefined;
    const text = typeof name === 'string' && depth < DEEPEST ? this.texts.baseText(name) : undefined;
    const root = text === undefined ? undefined : rootOf(text, this.parseBase);
    if (!root) return undefined;
    const tree = treeOfNode(root);
    const under = this.baseOf(tree, depth + 1);
    return under ? mergedTree(under, tree) : tree;
  }
}

/** Changes of lines of assembly that stand in a document, each with its offset there. */
function followedIn(machine: Machine, lines: readonly { readonly text: string; readonly offset: number }[], names: NewNames): TextChange[] {
  let at = 0;
  const starts = lines.map(({ text }) => {
    const start = at;
    at += text.length + 1;
    return start;
  });
  return followNames(machine, lines.map((each) => each.text).join('\n'), names).map(({ span, text }) => {
    const line = starts.findLastIndex((start) => start <= span.start);
    const by = itemAt(lines, line).offset - itemAt(starts, line);
    return { span: { start: span.start + by, end: span.end + by }, text };
  });
}

/** Names that were changed one after the other: from the first that each had to the last. */
function chainOf(pairs: NewNames['names']): NewNames['names'] {
  const last = new Map<string, string>();
  for (const [old, name] of pairs) {
    const first = [...last].find(([, now]) => now === old)?.[0] ?? old;
    last.set(first, name);
  }
  return [...last].filter(([old, name]) => old !== name);
}

/** A run that nobody drives. */
const standing = (runner: Runner): Parameters<typeof viewOf>[0] => ({
  ...{ runner, stop: undefined, running: false, fast: false, brisk: false, goal: undefined, unfinished: undefined, flag: undefined },
  ...{ since: { ticks: 0, instructions: 0 }, refused: [], watches: [], searching: undefined, moved: false, whole: false, asked: undefined },
});

/** One change that makes a text of another. */
function between(before: string, after: string): TextChange[] {
  if (before === after) return [];
  const most = Math.min(before.length, after.length);
  let start = 0;
  while (start < most && before[start] === after[start]) start++;
  let end = 0;
  while (end < most - start && before.at(-1 - end) === after.at(-1 - end)) end++;
  return [{ span: { start, end: before.length - end }, text: after.slice(start, after.length - end) }];
}

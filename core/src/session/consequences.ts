/** What another version of a machine means: what has changed in it, in words, and what becomes of programs that are for it. */
import { assemble } from '../assembler/assemble';
import { Runner } from '../engine/control/runner';
import { flagsSetBy } from '../machine/model/card';
import { ruleWords } from '../machine/model/describe';
import { patternText } from '../machine/model/opcodeMap';
import { programSpaceOf, type Form, type Machine } from '../machine/model/machine';
import type { Program } from '../image/program';
import { itemAt } from '../text/itemAt';
import { shownNumber, unitOf } from '../text/number';

/** Words between which there are commas, and “and” before the last. */
const listed = (words: readonly string[]): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1) ?? ''}`;

const plainForm = ({ written }: Form): string => written.replace(/[{}]/g, '');

/** One sentence a change, the weightiest first; none where programs cannot tell the two apart. */
export function changesBetween(before: Machine, after: Machine): string[] {
  const said: string[] = [];
  if (before.radix !== after.radix || before.wordWidth !== after.wordWidth)
    said.push(`A word has ${after.wordWidth} ${unitOf(after.radix)} instead of ${before.wordWidth} ${unitOf(before.radix)}.`);
  const forms = pairedBy(before.forms, after.forms, (each) => each.written);
  if (forms.gone.length > 0) said.push(`${listed(forms.gone.map(plainForm))} ${forms.gone.length === 1 ? 'is' : 'are'} gone.`);
  if (forms.come.length > 0) said.push(`${listed(forms.come.map(plainForm))} ${forms.come.length === 1 ? 'is' : 'are'} new.`);
  for (const [old, now] of forms.both) said.push(...formChanges(before, after, old, now));
  said.push(
    ...named('register', before.registers, after.registers, (each) => [
      [`${each.width} ${unitOf(after.radix)}`, 'has', 'instead of'],
      [each.zero ? 'always 0' : 'free', 'is', 'instead of'],
      [shownNumber(each.start, each.width, after), 'begins with', 'instead of'],
    ]),
  );
  said.push(...named('flag', before.flags, after.flags, (each) => [[ruleWords(each), 'now says', 'instead of']]));
  said.push(
    ...named('memory', before.spaces, after.spaces, (each) => [
      [`${each.cells.toLocaleString('en-US')} cells`, 'has', 'instead of'],
      [`${each.width} ${unitOf(after.radix)} a cell`, 'has', 'instead of'],
      [`${each.banks} banks`, 'has', 'instead of'],
      [each.readOnly ? 'read only' : 'written to', 'is', 'instead of'],
    ]),
  );
  said.push(...named('trap', before.traps, after.traps, (each) => [[`${each.service} at number ${each.number}`, 'is', 'instead of']]));
  said.push(
    ...named('device', before.devices, after.devices, (each) => [
      [each.kind, 'is', 'instead of'],
      [JSON.stringify([each.data, each.status]), '', ''],
    ]),
  );
  const system = [before.system?.source, after.system?.source];
  if (system[0] !== system[1])
    said.push(
      system[1] === undefined
        ? 'There is no system program any more.'
        : system[0] === undefined
          ? 'There is a system program now.'
          : 'The system program is another one.',
    );
  return said;
}

function formChanges(before: Machine, after: Machine, old: Form, now: Form): string[] {
  const name = plainForm(now);
  const said: string[] = [];
  const [was, is] = [patternText(before, old), patternText(after, now)];
  if (was !== is) said.push(`${name} begins with ${is} instead of ${was}.`);
  else if (old.format.cells !== now.format.cells) said.push(`${name} has ${now.format.cells} cells instead of ${old.format.cells}.`);
  else if (JSON.stringify(fieldsOf(old)) !== JSON.stringify(fieldsOf(now))) said.push(`The fields of ${name} stand elsewhere.`);
  const [set, sets] = [flagNames(before, old), flagNames(after, now)];
  const more = sets.filter((each) => !set.includes(each));
  const less = set.filter((each) => !sets.includes(each));
  if (more.length > 0) said.push(`${name} now sets ${listed(more)}.`);
  if (less.length > 0) said.push(`${name} leaves ${listed(less)} alone now.`);
  const [ticks, own] = [ticksOf(old), ticksOf(now)];
  if (old.schedule.length !== now.schedule.length)
    said.push(`${name} takes ${now.schedule.length} ticks instead of ${old.schedule.length}.`);
  else if (ticks !== own && more.length + less.length === 0) said.push(`${name} does something else in its ticks.`);
  return said;
}

const flagNames = (machine: Machine, form: Form): string[] => flagsSetBy(form).map((flag) => itemAt(machine.flags, flag).name);
const ticksOf = ({ schedule }: Form): string => schedule.map((each) => each.tick.text).join('\n');
const fieldsOf = ({ format }: Form) => format.fields.map((each) => [each.name, each.pieces, each.kind, each.dropped, each.bias]);

interface Paired<T> {
  readonly gone: readonly T[];
  readonly come: readonly T[];
  readonly both: readonly (readonly [old: T, now: T])[];
}

function pairedBy<T>(before: readonly T[], after: readonly T[], key: (each: T) => string): Paired<T> {
  const [old, now] = [before, after].map((list) => new Map(list.map((each) => [key(each), each] as const))) as [
    Map<string, T>,
    Map<string, T>,
  ];
  return {
    gone: before.filter((each) => !now.has(key(each))),
    come: after.filter((each) => !old.has(key(each))),
    both: [...now].flatMap(([name, each]) => (old.has(name) ? [[old.get(name)!, each] as const] : [])),
  };
}

/** What is gone, new, or otherwise of parts that have names. A fact is what it is, and the words around it. */
function named<T extends { readonly name: string }>(
  what: string,
  before: readonly T[],
  after: readonly T[],
  facts: (each: T) => readonly (readonly [fact: string, verb: string, instead: string])[],
): string[] {
  const { gone, come, both } = pairedBy(before, after, (each) => each.name);
  const names = (list: readonly T[]): string => listed(list.map((each) => each.name));
  const plural = (list: readonly T[]): string => (list.length === 1 ? what : what === 'memory' ? 'memories' : `${what}s`);
  return [
    ...(gone.length > 0 ? [`The ${plural(gone)} ${names(gone)} ${gone.length === 1 ? 'is' : 'are'} gone.`] : []),
    ...(come.length > 0 ? [`The ${plural(come)} ${names(come)} ${come.length === 1 ? 'is' : 'are'} new.`] : []),
    ...both.flatMap(([old, now]) => {
      const was = facts(old);
      return facts(now).flatMap(([fact, verb, instead], at) => {
        const [other = ''] = was[at] ?? [];
        if (fact === other) return [];
        return [verb === '' ? `The ${what} ${now.name} lies elsewhere.` : `The ${what} ${now.name} ${verb} ${fact} ${instead} ${other}.`];
      });
    }),
  ];
}

/** What becomes of a program. `runs`: what it writes, or how it ends, is another. */
export interface Consequence {
  readonly kind: 'same' | 'cells' | 'ticks' | 'runs' | 'broken' | 'mended' | 'as before';
  readonly says: string;
}

export interface OfProgram {
  readonly source: string;
  /** What programs may take in. */
  readonly parts?: Readonly<Record<string, string>>;
  /** What it is given. */
  readonly inputs?: readonly number[];
}

/** A program that is not done by then is compared as far as that. */
const MOST_TICKS = 20_000;

interface Ran {
  readonly output: string;
  readonly end: string;
  readonly ticks: number;
}

function runOf(machine: Machine, program: Program, inputs: readonly number[]): Ran {
  const runner = new Runner(machine, program, { inputs: [...inputs] });
  let end = 'goes on';
  while (runner.ticks < MOST_TICKS) {
    const stop = runner.tick();
    if (!stop) continue;
    end = stop.kind === 'fault' ? `stops with a fault` : stop.kind === 'waiting' ? 'waits for input' : 'halts';
    break;
  }
  return { output: runner.state.control.output, end, ticks: runner.ticks };
}

/** A program on two versions of its machine: assembled on both, and run on both where that makes sense. */
export function consequenceFor(before: Machine, after: Machine, { source, parts = {}, inputs = [] }: OfProgram): Consequence {
  const taken = { parts: new Map(Object.entries(parts)) };
  const [old, now] = [assemble(before, source, taken), assemble(after, source, taken)];
  const error = now.problems.find((each) => each.grade === 'error');
  if (!now.program)
    return old.program
      ? { kind: 'broken', says: `does not assemble any more. Line ${error?.line ?? 1}: ${error?.sentence ?? ''}` }
      : { kind: 'as before', says: 'does not assemble, as before' };
  if (!old.program) return { kind: 'mended', says: 'assembles now' };
  const cells = (program: Program): string[] => program.cells.map((each) => `${each.space} ${each.address} ${each.value}`).sort();
  const [was, is] = [cells(old.program), cells(now.program)];
  const had = new Set(was);
  const other = is.filter((each) => !had.has(each)).length + Math.max(0, was.length - is.length);
  const [ran, runs] = [runOf(before, old.program, inputs), runOf(after, now.program, inputs)];
  if (ran.end !== runs.end) return { kind: 'runs', says: `${runs.end}, where it ${pastOf(ran.end)}` };
  if (ran.output !== runs.output) return { kind: 'runs', says: `writes ${quoted(runs.output)}, where it wrote ${quoted(ran.output)}` };
  const { width } = programSpaceOf(after);
  if (other > 0)
    return {
      kind: 'cells',
      says: `assembles to other cells (${other} of ${is.length}${width === programSpaceOf(before).width ? '' : ', which are of another width'}), and does the same`,
    };
  if (ran.ticks !== runs.ticks)
    return {
      kind: 'ticks',
      says: `does the same in ${runs.ticks.toLocaleString('en-US')} ticks instead of ${ran.ticks.toLocaleString('en-US')}`,
    };
  return { kind: 'same', says: 'stays as it is' };
}

const pastOf = (end: string): string =>
  ({ 'goes on': 'went on', halts: 'halted', 'waits for input': 'waited for input' })[end] ?? 'stopped with a fault';
const quoted = (text: string): string => (text === '' ? 'nothing' : JSON.stringify(text.length > 40 ? `${text.slice(0, 39)}…` : text));

/** Parts of a machine that no program of a course has a use for. */
export interface Coverage {
  readonly instructions: readonly string[];
  readonly registers: readonly string[];
  readonly flags: readonly string[];
  readonly traps: readonly string[];
  /** Programs that assemble, and so count. */
  readonly programs: number;
}

/** By the words of the programs' lines: what is written, and what the ticks of that touch. */
export function unusedBy(machine: Machine, programs: readonly OfProgram[]): Coverage {
  const used = { forms: new Set<string>(), names: new Set<string>() };
  let count = 0;
  for (const { source, parts = {} } of programs) {
    const { program } = assemble(machine, source, { parts: new Map(Object.entries(parts)) });
    if (!program) continue;
    count++;
    for (const row of [...program.rows, ...program.parts.flatMap((each) => each.rows), ...(program.system?.rows ?? [])]) {
      if (row.kind !== 'code') continue;
      for (const text of [row.text ?? '', ...(row.expanded ?? []).map((each) => each.text)]) {
        for (const word of text.split(/[^\w.]+/)) used.names.add(word.toUpperCase());
        used.forms.add((text.trim().split(/\s+/)[0] ?? '').toUpperCase());
      }
    }
  }
  const written = machine.forms.filter((form) => isWritten(form, used.forms));
  const ticks = new Set(written.flatMap((form) => form.schedule.flatMap((each) => each.tick.text.split(/\W+/))));
  const asked = new Set(written.map((each) => each.mnemonic));
  return {
    programs: count,
    instructions: [...new Set(machine.forms.map((each) => each.mnemonic))].filter((each) => !asked.has(each)),
    registers: [...new Set(machine.registers.filter((each) => !touches(each, ticks, used.names)).map((each) => each.array ?? each.name))],
    flags: machine.flags.filter((each) => !ticks.has(each.name)).map((each) => each.name),
    traps: [...machine.traps, ...machine.routines]
      .filter((each) => !used.names.has(each.name.toUpperCase()) && !ticks.has(each.name))
      .map((each) => each.name),
  };
}

/** A mnemonic may have names in it, as in JUMP{c}. */
const isWritten = ({ mnemonic, pieces }: Form, operations: ReadonlySet<string>): boolean => {
  const own = mnemonic.toUpperCase();
  if (operations.has(own)) return true;
  const second = pieces[1];
  return second !== undefined && 'field' in second && [...operations].some((each) => each.startsWith(own));
};

const touches = ({ name, array, also }: Machine['registers'][number], ticks: ReadonlySet<string>, names: ReadonlySet<string>): boolean =>
  ticks.has(name) ||
  (array !== undefined && ticks.has(array)) ||
  names.has(name.toUpperCase()) ||
  (also !== undefined && names.has(also.toUpperCase()));

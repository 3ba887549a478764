/**
 * Single changes of a program that would put a usual mistake right. Whether one does is found by running it; nothing here
 * knows what a program is for.
 */
import { instructionsOf } from '../../assembler/assist/instructions';
import { templatesOf, type Template, type Templates } from '../../assembler/place/templates';
import type { Token } from '../../assembler/read/tokens';
import type { Program } from '../../image/program';
import { effectsOf, fallsFor, valueFor } from '../../machine/model/effects';
import { written } from '../../machine/model/encode';
import { usualBase } from '../../machine/model/numbers';
import type { Form, Machine } from '../../machine/model/machine';
import { marksAround, shapeOf, wordLines, type WordLine } from './words';

/** What sort of mistake a change puts right. */
export type MendKind = 'base' | 'branch' | 'halt' | 'return' | 'next' | 'target' | 'place' | 'mode' | 'operation' | 'name';

export interface MendTry {
  readonly kind: MendKind;
  /** From 1. */
  readonly line: number;
  /** What stands there and what would, as short as it can be told. */
  readonly was: string;
  readonly meant: string;
  /** The whole text with the change. */
  readonly text: string;
}

export interface Mending {
  readonly machine: Machine;
  readonly program: Program;
  readonly source: string;
  /** Line behind which the run left the program's instructions, where it did. */
  readonly leaves: number | undefined;
}

/** Addresses that a fixed jump target is tried at, and names that a named one is. */
const MOST_TARGETS = 60;
const MOST_PLACES = 12;

/** Changes in the order in which they are worth trying: likeliest first. */
export function* mendsOf(mending: Mending): Generator<MendTry> {
  const { machine, program, source } = mending;
  const lines = wordLines(machine, source);
  const templates = templatesOf(machine);
  const ways = new Map(
    instructionsOf(machine, program)
      .filter((each) => each.row.part === undefined)
      .map((each) => [each.row.line, each]),
  );
  yield* ends(mending);
  for (const each of lines) yield* bases(machine, source, each);
  for (const each of lines) if (branches(machine, templates, each.operation)) yield* others(machine, templates, source, each, 'branch');
  for (const each of lines) yield* names(machine, templates, source, each);
  for (const each of lines) yield* modes(templates, source, each);
  for (const each of lines) {
    const found = ways.get(each.line);
    if (found) yield* targets(machine, program, source, each, found);
  }
  for (const each of lines) {
    const found = ways.get(each.line);
    if (found && effectsOf(machine, found.form).jumps.length > 0) yield* places(source, lines, each, 'place');
  }
  for (const each of lines) if (!branches(machine, templates, each.operation)) yield* others(machine, templates, source, each, 'operation');
  for (const each of lines) if (each.operation && !branches(machine, templates, each.operation)) yield* places(source, lines, each, 'name');
}

const replaced = (source: string, { start, end }: { start: number; end: number }, text: string): string =>
  source.slice(0, start) + text + source.slice(end);

/** A halt, and a way back, behind the last instruction that was executed, and in front of each routine that is run into. */
function* ends({ machine, program, source, leaves }: Mending): Generator<MendTry> {
  const lines = source.split('\n');
  const ends = (['halt', 'return'] as const).flatMap((kind) => {
    const meant = machine.forms.flatMap((form) => (effectsOf(machine, form)[`${kind}s`] ? (bare(form) ?? []) : []))[0];
    return meant === undefined ? [] : [{ kind, meant }];
  });
  for (const line of new Set([...(leaves === undefined ? [] : [leaves]), ...runInto(machine, program)]))
    for (const { kind, meant } of ends)
      yield { kind, line, was: '', meant, text: [...lines.slice(0, line), `        ${meant}`, ...lines.slice(line)].join('\n') };
}

/** An instruction as it is written without any operand; undefined where it needs one. */
const bare = (form: Form): string | undefined =>
  form.operands.every(({ names }) => [...(names?.values() ?? [])].some(([first]) => first === '')) ? written(form, () => '') : undefined;

/** Lines whose instructions go on into a routine that stands behind them, and that others call. */
function runInto(machine: Machine, program: Program): number[] {
  const all = instructionsOf(machine, program);
  const called = new Set(
    all.flatMap(({ address: at, words: cells, form }) => {
      const effects = effectsOf(machine, form);
      return effects.calls ? effects.jumps.map((each) => valueFor(machine, { cells, at }, each)) : [];
    }),
  );
  return all.flatMap(({ address: at, words: cells, form, row }) => {
    const falls = fallsFor(machine, { cells, at }, effectsOf(machine, form));
    return falls && row.part === undefined && called.has(at + cells.length) ? [row.line] : [];
  });
}

const MARKED = /^0([xbod])(.+)$/i;

/** A number as any program of the machine reads it, whatever the base of its unmarked numbers. */
const decimal = (machine: Machine, value: number): string =>
  `${value < 0 ? '-' : ''}${machine.radix === 10 || usualBase(machine) === 10 ? '' : '0d'}${Math.abs(value)}`;

/** The same digits in another base. */
function* bases(machine: Machine, source: string, { tokens, line }: WordLine): Generator<MendTry> {
  if (machine.radix !== 2) return;
  for (const token of tokens) {
    if (token.kind !== 'number' || token.value === undefined) continue;
    const [, mark, rest] = MARKED.exec(token.text) ?? [];
    const digits = mark !== undefined && rest !== undefined ? rest : token.text;
    const own = mark?.toLowerCase() ?? { 16: 'x', 2: 'b', 8: 'o' }[usualBase(machine)] ?? 'd';
    const fits = { x: /^[0-9a-f]+$/i, d: /^\d+$/, b: /^[01]+$/ };
    for (const base of ['x', 'd', 'b'] as const) {
      if (base === own || digits.length < 2 || !fits[base].test(digits)) continue;
      const meant = base === 'd' && usualBase(machine) === 10 ? digits : `0${base}${digits}`;
      yield { kind: 'base', line, was: token.text, meant, text: replaced(source, token, meant) };
    }
  }
}

const goes = (machine: Machine, { form }: Template): boolean => {
  const { jumps, calls, returns, guard } = effectsOf(machine, form);
  return jumps.length > 0 && !calls && !returns && !guard;
};

/** Whether a word names an operation that may go elsewhere. */
const branches = (machine: Machine, { forms }: Templates, word: Token | undefined): boolean =>
  word !== undefined && (forms.get(word.key) ?? []).some((each) => goes(machine, each));

/** Another operation with the same operands: of the same family, or another jump where it is one. */
function* others(
  machine: Machine,
  { forms }: Templates,
  source: string,
  { operation, operands, line }: WordLine,
  kind: 'branch' | 'operation',
): Generator<MendTry> {
  const own = operation && forms.get(operation.key);
  if (!own) return;
  const families = new Set(own.map((each) => each.form.family));
  const shapes = new Set(own.map(shapeOf));
  for (const [key, list] of forms) {
    if (key === operation.key || operands.length === 0) continue;
    const alike = list.filter((each) => shapes.has(shapeOf(each)));
    const fits =
      kind === 'branch'
        ? alike.some((each) => goes(machine, each))
        : alike.some((each) => families.has(each.form.family) && !goes(machine, each));
    if (!fits) continue;
    yield { kind, line, was: operation.key, meant: key, text: replaced(source, operation, key) };
  }
}

/** Another name in place of an operand: of a condition, or of another value that has names; other registers are not tried. */
function* names(
  machine: Machine,
  { forms, named }: Templates,
  source: string,
  { operation, operands, line }: WordLine,
): Generator<MendTry> {
  const tried = new Set<string>();
  for (const template of operation ? (forms.get(operation.key) ?? []) : [])
    for (const hole of template.pieces) {
      if (typeof hole === 'string' || !('field' in hole) || !hole.field.names || hole.field.array !== undefined) continue;
      const { names: all, condition } = hole.field;
      for (const token of operands) {
        const value = token.kind === 'name' ? named.get(hole.field)?.get(token.key) : undefined;
        if (value === undefined) continue;
        for (const [other, [meant]] of all) {
          if (other === value || !meant || tried.has(`${token.start} ${meant}`)) continue;
          tried.add(`${token.start} ${meant}`);
          const kind = condition && goes(machine, template) ? 'branch' : 'operation';
          yield { kind, line, was: token.key, meant, text: replaced(source, token, meant) };
        }
      }
    }
}

/** A name in place of another, those of lines that stand nearest first: of a jump that of an instruction, else that of data. */
function* places(source: string, lines: readonly WordLine[], { operands, line }: WordLine, kind: 'place' | 'name'): Generator<MendTry> {
  const labels = lines.flatMap(({ tokens: [first], operation, line: at }) =>
    first?.kind === 'name' && first !== operation && (operation !== undefined) === (kind === 'place')
      ? [{ text: first.text, key: first.key, at }]
      : [],
  );
  const own = operands.findLast((each) => labels.some(({ key }) => each.kind === 'name' && each.key === key));
  if (!own) return;
  const others = labels.filter((each) => each.key !== own.key).sort((a, b) => Math.abs(a.at - line) - Math.abs(b.at - line));
  for (const { text } of others.slice(0, MOST_PLACES)) yield { kind, line, was: own.text, meant: text, text: replaced(source, own, text) };
}

/** The same operation with its operand marked otherwise: the value itself, or what lies at it. */
function* modes({ forms }: Templates, source: string, { operation, operands, line }: WordLine): Generator<MendTry> {
  const own = operation && forms.get(operation.key);
  const [first, last] = [operands[0], operands.at(-1)];
  if (!own || !first || !last) return;
  const ways = own.flatMap((each) => marksAround(each) ?? []);
  const written = source.slice(first.start, last.end);
  const used = ways
    .filter(
      ({ before, behind }) => written.startsWith(before) && written.endsWith(behind) && written.length > before.length + behind.length,
    )
    .sort((a, b) => b.before.length + b.behind.length - a.before.length - a.behind.length)[0];
  if (!used) return;
  const inner = written.slice(used.before.length, written.length - used.behind.length).trim();
  for (const { before, behind } of ways) {
    if (before === used.before && behind === used.behind) continue;
    const meant = `${before}${inner}${behind}`;
    yield {
      kind: 'mode',
      line,
      was: `${operation.key} ${used.before}…${used.behind}`,
      meant: `${operation.key} ${before}…${behind}`,
      text: replaced(source, { start: first.start, end: last.end }, meant),
    };
  }
}

/** A jump to a number: to other places, or by as many cells as its own instruction has. */
function* targets(
  machine: Machine,
  program: Program,
  source: string,
  { operation, operands, line }: WordLine,
  { form, address }: { readonly form: Template['form']; readonly address: number },
): Generator<MendTry> {
  const number = operands.find((each) => each.kind === 'number');
  const { jumps, targetFields } = effectsOf(machine, form);
  if (!number || !operation || number.value === undefined || jumps.length === 0) return;
  const sign = operands[operands.indexOf(number) - 1];
  const minus = sign?.text === '-';
  const own = minus ? -number.value : number.value;
  const size = form.format.cells;
  const place = { start: minus ? sign.start : number.start, end: number.end };
  for (const meant of [own - size, own + size])
    yield { kind: 'next', line, was: String(own), meant: String(meant), text: replaced(source, place, decimal(machine, meant)) };
  if (targetFields.size === 0 && !form.operands.some((each) => each.relative)) return;
  for (const each of instructionsOf(machine, program).slice(0, MOST_TARGETS)) {
    if ([0, size].includes(Math.abs(each.address - own)) || each.address === address) continue;
    const text = replaced(source, number, decimal(machine, each.address));
    yield { kind: 'target', line, was: number.text, meant: each.text, text };
  }
}

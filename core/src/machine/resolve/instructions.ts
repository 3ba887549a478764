/** The cycle and the instructions of a document: written forms, encodings, and every tick of each in order. */
import { checkTick } from '../../notation/check';
import { checkExpr } from '../../notation/expressions';
import { parseTick } from '../../notation/parse';
import type { Meaning, Scope, Slice } from '../../notation/scope';
import type { TickSyntax } from '../../notation/syntax';
import type { Expr, Tick } from '../../notation/tree';
import { nearest } from '../../text/nearest';
import { power, readNumber, unitOf } from '../../text/number';
import { NAME, type MachineDocument } from '../document/schema';
import { apart, choicesOf, demandsOf } from '../model/encode';
import { lookExpr } from './conditions';
import { fieldValue } from './formats';
import type { Field, Form, Format, Guard, Part, Piece, Register, ScheduledTick, ShortForm } from '../model/machine';
import { addProblem, report, type DocumentReading } from './reading';
import { readCode } from '../document/codeText';
import type { Path } from '../document/yaml';
import { itemAt } from '../../text/itemAt';

export interface Ground {
  readonly scope: Scope;
  readonly formats: ReadonlyMap<string, Format>;
  readonly slots: readonly Slice[];
  readonly registers: readonly Register[];
  readonly cellWidth: number;
  readonly causeWidth: number;
}

interface Line {
  readonly syntax: TickSyntax;
}

function linesOf(reading: DocumentReading, path: Path): Line[] {
  return reading.yaml.linesOf(path).flatMap(({ text, offset }) => {
    const { tick, problems } = parseTick(text, offset, reading.language);
    problems.forEach((each) => addProblem(reading, each));
    return tick ? [{ syntax: tick }] : [];
  });
}

function check(reading: DocumentReading, { syntax }: Line, scope: Scope): Tick[] {
  const checked = checkTick(syntax, scope);
  checked.problems.forEach((each) => addProblem(reading, each));
  return checked.tick ? [checked.tick] : [];
}

export interface Cycle {
  readonly first: readonly ScheduledTick[];
  readonly decode: ScheduledTick;
  /** The ticks for the further cell of that number, from 1. */
  readonly more: (cell: number) => readonly ScheduledTick[];
  readonly hasMore: boolean;
  readonly executePhase: number;
  readonly finish: readonly ScheduledTick[];
  /** The ticks that enter a trap, with `cause` meaning what `scope` says. */
  readonly enter: (scope: Scope) => readonly ScheduledTick[];
}

/** `cell`, a part of the instruction registers, means the cell that is being fetched. */
function fetchScope({ scope, slots, registers }: Ground, cell: number): Scope {
  const names = new Map(scope.names);
  // Where there are too few, that is told of the registers.
  const slot = slots[cell] ?? slots.at(-1);
  if (!slot) return scope;
  for (const [name, meaning] of scope.names) {
    if (meaning.kind !== 'register' || itemAt(registers, meaning.register).role !== 'instruction') continue;
    names.set(name, { ...meaning, parts: new Map([...meaning.parts, ['cell', slot]]) });
  }
  return { ...scope, names };
}

/** The ticks that every instruction shares: before decoding, for further cells, and at its end. */
export function resolveCycle(reading: DocumentReading, ground: Ground): Cycle {
  const { cycle, traps } = reading.document;
  const phaseOf = (path: Path, phase: string): number => {
    const index = cycle.phases.indexOf(phase);
    const near = nearest(phase, cycle.phases);
    const mend = near && { title: `Write ${near}`, edits: [{ span: reading.yaml.spanOf([...path, 'phase']), text: near }] };
    if (index === -1)
      report(
        reading,
        [...path, 'phase'],
        { code: 'unknown-phase', phase, phases: cycle.phases, ...(near && { nearest: near }) },
        mend ? { mend } : {},
      );
    return Math.max(0, index);
  };
  const schedule = (part: Part, path: Path, phase: string, lines: readonly Line[], scope: Scope): ScheduledTick[] => {
    const number = phaseOf(path, phase);
    return lines.flatMap((line) => check(reading, line, scope)).map((tick, at) => ({ phase: number, part, tick, at }));
  };
  const part = (name: 'first' | 'more' | 'finish'): readonly Line[] =>
    cycle[name]?.ticks ? linesOf(reading, ['cycle', name, 'ticks']) : [];
  const [first, more, finish] = [part('first'), part('more'), part('finish')];
  if (reading.yaml.linesOf(['cycle', 'first', 'ticks']).length === 0) report(reading, ['cycle', 'first'], { code: 'first-without-ticks' });
  const most = Math.max(1, ...[...ground.formats.values()].map((each) => each.cells));
  const further = Array.from({ length: most - 1 }, (_, at) =>
    cycle.more ? schedule('more', ['cycle', 'more'], cycle.more.phase, more, fetchScope(ground, at + 1)) : [],
  );
  const enter = traps?.enter?.ticks ? linesOf(reading, ['traps', 'enter', 'ticks']) : [];
  const span = reading.yaml.spanOf(['cycle', 'decode', 'phase']);
  return {
    first: schedule('first', ['cycle', 'first'], cycle.first.phase, first, fetchScope(ground, 0)),
    decode: { phase: phaseOf(['cycle', 'decode'], cycle.decode.phase), part: 'decode', tick: { text: '', span, actions: [] }, at: 0 },
    more: (cell) => further[cell - 1] ?? [],
    hasMore: more.length > 0,
    executePhase: phaseOf(['cycle', 'execute'], cycle.execute.phase),
    finish: cycle.finish ? schedule('finish', ['cycle', 'finish'], cycle.finish.phase, finish, ground.scope) : [],
    enter: (scope) => (traps?.enter ? schedule('enter', ['traps', 'enter'], traps.enter.phase, enter, scope) : []),
  };
}

interface FormContext extends Ground {
  readonly cycle: Cycle;
}

/** Every written form with its encoding and its ticks, checked; those with errors are left out. */
export function resolveForms(reading: DocumentReading, context: FormContext): Form[] {
  const forms: Form[] = [];
  for (const [mnemonic, instruction] of Object.entries(reading.document.instructions)) {
    instruction.forms.forEach((entry, at) => {
      const path = ['instructions', mnemonic, 'forms', at];
      const index = forms.length;
      const make = (): Form | undefined => resolveForm(reading, context, { mnemonic, instruction, entry, path, index });
      const { title, family } = instruction;
      const form = reading.remembered ? reading.remembered.form([index, mnemonic, title, family, entry], make) : make();
      if (form) forms.push(form);
    });
  }
  return forms;
}

interface FormEntry {
  readonly mnemonic: string;
  readonly instruction: MachineDocument['instructions'][string];
  readonly entry: MachineDocument['instructions'][string]['forms'][number];
  readonly path: Path;
  readonly index: number;
}

function resolveForm(
  reading: DocumentReading,
  context: FormContext,
  { mnemonic, instruction, entry, path, index }: FormEntry,
): Form | undefined {
  const code = resolveCode(reading, context, entry.code, [...path, 'code']);
  const pieces = resolveWritten(reading, entry.write.trim(), mnemonic, [...path, 'write']);
  if (!code || !pieces) return undefined;
  const { format, fixed } = code;
  const operands = format.fields.filter((each) => !fixed.some(({ field }) => field === each));
  checkHoles(reading, { pieces, operands, path: [...path, 'write'], written: entry.write });
  const { cycle } = context;
  const scope = formScope(reading, context, { format, fixed, operands, path });
  const own = resolveExecute(reading, context, [...path, 'execute'], scope);
  const guard = resolveGuard(reading, context, { code, mnemonic, written: entry.write.trim(), inline: entry.inline !== undefined, path });
  const execute = guard ? own.map((each, at) => (at === 0 ? { ...each, guard } : each)) : own;
  const schedule = [
    ...cycle.first,
    cycle.decode,
    ...Array.from({ length: format.cells - 1 }, (_, at) => cycle.more(at + 1)).flat(),
    ...execute,
    ...cycle.finish,
  ];
  const demands = demandsOf({ format, fixed }, context.cellWidth, reading.radix);
  return {
    mnemonic,
    title: instruction.title,
    family: instruction.family,
    written: entry.write.trim(),
    pieces,
    format,
    fixed,
    operands,
    index,
    schedule,
    settledLate: [...demands, ...choicesOf({ format, fixed, operands }, context.cellWidth, reading.radix)].some((each) => each.cell > 0),
    examples: entry.examples ?? [],
    ...(guard && { guard }),
    ...(entry.inline && { inline: entry.inline }),
  };
}

/** The guard of the format, over the fields of this form, which count before all else of their names. */
function resolveGuard(
  reading: DocumentReading,
  context: FormContext,
  { code, written, inline, path }: { code: Pick<Form, 'format' | 'fixed'>; mnemonic: string; written: string; inline: boolean; path: Path },
): Guard | undefined {
  const { format, fixed } = code;
  const text = format.onlyIf?.trim();
  if (text === undefined) return undefined;
  if (inline) return void report(reading, path, { code: 'guard-with-inline', written, format: format.name });
  const [, wanted] = /^(\w+)\s+holds$/.exec(text) ?? [];
  const fields = format.fields.filter((each) => each.condition).map((each) => each.name);
  const guardPath = ['formats', format.name, 'only if'];
  if (wanted !== undefined && !fields.includes(wanted))
    return void report(reading, guardPath, { code: 'guard-without-field', format: format.name, text, fields });
  const operands = format.fields.filter((each) => !fixed.some(({ field }) => field === each));
  const { names, ...scope } = formScope(reading, context, { format, fixed, operands, path });
  const condition = lookExpr(reading, guardPath, { ...scope, names: new Map([...names, ...fixed.map(fixedMeaning)]) });
  return condition && { condition, text };
}

function checkHoles(
  reading: DocumentReading,
  { pieces, operands, path, written }: { pieces: readonly Piece[]; operands: readonly Field[]; path: Path; written: string },
): void {
  const holes = pieces.flatMap((each) => ('field' in each ? [each.field] : []));
  const names = operands.map((each) => each.name);
  for (const hole of holes) {
    if (names.includes(hole)) continue;
    const near = nearest(hole, names);
    report(reading, path, { code: 'unknown-field', field: hole, fields: names, ...(near && { nearest: near }) });
  }
  const open = operands.find((each) => !holes.includes(each.name));
  if (open) report(reading, path, { code: 'field-without-value', field: open.name, written });
  const twice = holes.find((each, at) => holes.indexOf(each) !== at);
  if (twice !== undefined) report(reading, path, { code: 'field-twice', field: twice });
  checkApart(reading, pieces, path);
}

/** A value behind a letter would be one word with it. */
function checkApart(reading: DocumentReading, pieces: readonly Piece[], path: Path): void {
  let text = '';
  for (const piece of pieces) {
    if ('text' in piece) {
      text += piece.text;
      continue;
    }
    const { field } = piece;
    const word = apart(text, field) === '' ? undefined : /\w+$/.exec(text)?.[0];
    text += `{${field}}`;
    if (word === undefined) continue;
    const { start, end } = reading.yaml.spanOf(path);
    const found = reading.source.text.slice(start, end).indexOf(`${word}{${field}}`);
    const at = start + found + word.length;
    const mend = found < 0 ? undefined : { title: `Put a blank behind ${word}`, edits: [{ span: { start: at, end: at }, text: ' ' }] };
    report(reading, path, { code: 'field-behind-word', word, field }, { grade: 'warning', mend });
  }
}

/** A line “enter cause” stands for the ticks that enter a trap. */
function resolveExecute(reading: DocumentReading, { cycle, causeWidth }: FormContext, path: Path, scope: Scope): ScheduledTick[] {
  return linesOf(reading, path)
    .flatMap((line): ScheduledTick[] => {
      const [action, more] = line.syntax.actions;
      if (action?.kind === 'enter' && !more) {
        if (!reading.document.traps?.enter) report(reading, path, { code: 'trap-without-entry' });
        const problems: Parameters<typeof checkExpr>[0]['problems'] = [];
        const value = checkExpr({ scope, problems }, action.cause, causeWidth);
        problems.forEach((each) => addProblem(reading, each));
        return value ? cycle.enter(withCause(scope, { kind: 'value', value })).map((each) => ({ ...each, cause: value })) : [];
      }
      return check(reading, line, scope).map((tick) => ({ phase: cycle.executePhase, part: 'execute', tick, at: 0 }));
    })
    .map((each, at) => ({ ...each, at }));
}

const withCause = (scope: Scope, meaning: Meaning): Scope => ({ ...scope, names: new Map([...scope.names, ['cause', meaning]]) });

/** The ticks by which a fault enters its trap, behind a place holder for the dropped tick. */
export function resolveEntry({ scope, causeWidth }: Ground, cycle: Cycle): ScheduledTick[] {
  const ticks = cycle.enter({ ...scope, causeWidth });
  return ticks.length > 0 ? [{ ...cycle.decode, part: 'enter' }, ...ticks] : [];
}

/**
 * What names mean in the ticks of a form: its operands, and what its encoding fixes, beside all else. An operand is digits of
 * the instruction registers: what a wrong cycle failed to bring there is not known to the ticks.
 */
function formScope(
  reading: DocumentReading,
  ground: Ground,
  { format, fixed, operands, path }: Pick<Form, 'format' | 'fixed' | 'operands'> & { readonly path: Path },
): Scope {
  const names = new Map(ground.scope.names);
  for (const field of operands) {
    const { name } = field;
    if (names.has(name)) {
      report(reading, [...path, 'write'], { code: 'name-twice', name, first: `a ${names.get(name)!.kind}` });
      continue;
    }
    // That the instruction registers are too short for a field is told of them, and once.
    const value = fieldValue(field, format, ground.slots, { cellWidth: ground.cellWidth, radix: reading.radix }) ?? unplaced(field);
    names.set(name, { kind: 'value', value, ...(field.condition && { condition: true }) });
  }
  for (const [name, meaning] of fixed.map(fixedMeaning)) if (!names.has(name)) names.set(name, meaning);
  return { ...ground.scope, names };
}

/** Stands for a field that no instruction register has room for. */
const unplaced = ({ name, width, dropped }: Field): Expr => {
  const all = width + dropped;
  return { kind: 'field', name, register: 0, operand: { kind: 'literal', value: 0, width: all }, width: all };
};

/** What the name of a field means that the encoding fixes: its value. */
const fixedMeaning = ({ field: { name, width, condition }, value }: Form['fixed'][number]): [string, Meaning] => [
  name,
  { kind: 'value', value: { kind: 'literal', value, width }, ...(condition && { condition: true }) },
];

/** code := format (field '=' number)* */
function resolveCode(
  reading: DocumentReading,
  { formats, cellWidth }: Ground,
  text: string,
  path: Path,
): Pick<Form, 'format' | 'fixed'> | undefined {
  const read = readCode(text);
  if (!read) return void report(reading, path, { code: 'bad-code', text });
  const format = formats.get(read.format);
  if (!format) {
    const near = nearest(read.format, formats.keys());
    if (reading.document.formats[read.format] === undefined)
      report(reading, path, { code: 'unknown-format', format: read.format, ...(near && { nearest: near }) });
    return undefined;
  }
  const fixed: { field: Field; value: number }[] = [];
  for (const { field: name, value: written } of read.fixed) {
    const field = format.fields.find((each) => each.name === name);
    const value = readNumber(written);
    if (!field) {
      const fields = format.fields.map((each) => each.name);
      const near = nearest(name, fields);
      return void report(reading, path, { code: 'unknown-field', field: name, fields, ...(near && { nearest: near }) });
    }
    if (value === undefined) return void report(reading, path, { code: 'bad-code', text });
    const greatest = power(reading.radix, field.width) - 1;
    if (value > greatest)
      return void report(reading, path, {
        code: 'field-too-narrow',
        field: name,
        value,
        width: field.width,
        unit: unitOf(reading.radix),
        greatest,
      });
    if (fixed.some((each) => each.field === field)) return void report(reading, path, { code: 'field-twice', field: name });
    fixed.push({ field, value });
  }
  const early = fixed.some(({ field }) => field.pieces.some((each) => each.high >= (format.cells - 1) * cellWidth));
  if (!early) return void report(reading, path, { code: 'no-opcode', format: format.name });
  return { format, fixed };
}

/** 'ADD #{value}' becomes text and holes; it starts with the mnemonic. */
function resolveWritten(reading: DocumentReading, text: string, mnemonic: string, path: Path): Piece[] | undefined {
  const pieces = text.split(/(\{[^{}]*\})/).filter((each) => each !== '');
  const good = new RegExp(`^${mnemonic}(?![A-Za-z0-9_])`).test(text);
  const read = pieces.map((each): Piece | undefined => {
    if (!/[{}]/.test(each)) return { text: each };
    const field = each.slice(1, -1).trim();
    return NAME.test(field) ? { field } : undefined;
  });
  if (good && read.every((each) => each !== undefined)) return read as Piece[];
  return void report(reading, path, { code: 'bad-written-form', written: text, mnemonic });
}

/** Written forms that stand for others; ones that stand for themselves are problems. */
export function resolveShortForms(reading: DocumentReading): ShortForm[] {
  return Object.entries(reading.document['short forms'] ?? {}).flatMap(([mnemonic, { title, forms }]) =>
    forms.flatMap((entry, at): ShortForm[] => {
      const path = ['short forms', mnemonic, 'forms', at];
      const pieces = resolveWritten(reading, entry.write.trim(), mnemonic, [...path, 'write']);
      if (!pieces) return [];
      const holes = pieces.flatMap((each) => ('field' in each ? [each.field] : []));
      const lines = entry.for
        .split('\n')
        .map((each) => each.trim())
        .filter((each) => each !== '');
      if (lines.length === 0) report(reading, [...path, 'for'], { code: 'short-form-empty', written: entry.write });
      for (const { text, offset } of reading.yaml.linesOf([...path, 'for'])) {
        const span = { start: offset, end: offset + text.length };
        for (const [, hole] of text.matchAll(/\{\s*(\w+)\s*\}/g)) {
          const close = nearest(hole!, holes);
          if (!holes.includes(hole!))
            addProblem(reading, {
              code: 'unknown-field',
              grade: 'error',
              span,
              field: hole!,
              fields: holes,
              ...(close && { nearest: close }),
            });
        }
      }
      return [{ mnemonic, title, written: entry.write.trim(), pieces, lines }];
    }),
  );
}

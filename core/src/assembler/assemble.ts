/** (Machine, source) to Program: addresses in a first pass, values in a second. Takes all it knows from the machine. */
import type { ImageCell, Program, ProgramSymbol, Row } from '../image/program';
import { encode, rangeOf } from '../machine/encode';
import { programSpaceOf, type Field, type Form, type Machine, type Space } from '../machine/machine';
import { hasErrors, toProblems, type Problem } from '../text/diagnostic';
import { nearest } from '../text/nearest';
import { makeSource, type Span } from '../text/source';
import { explainAssembly, type AssemblyProblem } from './problems';
import {
  parseStatement,
  readExpression,
  tokenizeLine,
  wordOf,
  type Expression,
  type Reader,
  type Statement,
  type Token,
  type Word,
} from './syntax';

export interface Assembly {
  /** Undefined exactly when `problems` holds an error. */
  readonly program?: Program;
  readonly rows: readonly Row[];
  readonly problems: readonly Problem[];
}

interface Definition {
  readonly word: Word;
  readonly line: number;
  readonly kind: 'label' | 'constant' | 'trap';
  readonly expression?: Expression;
  /** undefined: not worked out yet; null: wrong, and already reported. */
  value: number | null | undefined;
  busy: boolean;
  used: boolean;
}

/** A line whose cells are placed; `fill` works their values out once all names are known. */
interface Placed {
  readonly statement: Statement;
  readonly kind: Row['kind'];
  readonly address: number;
  readonly size: number;
  readonly fill?: () => number[] | undefined;
}

interface Work {
  readonly machine: Machine;
  readonly space: Space;
  readonly problems: AssemblyProblem[];
  readonly names: Map<string, Definition>;
  readonly mnemonics: ReadonlySet<string>;
  readonly forms: ReadonlyMap<string, readonly Template[]>;
  readonly placed: Placed[];
  address: number;
  depth: number;
}

/** A written form as tokens: literal text in capitals, or a field. */
interface Template {
  readonly form: Form;
  readonly pieces: readonly (string | Field)[];
}

export const MOST_CHARACTERS = 4_000_000;
const MOST_PROBLEMS = 500;
const DEEPEST = 400;

/** Never throws over `text`. */
export function assemble(machine: Machine, text: string, name = 'program'): Assembly {
  const source = makeSource(name, text);
  if (text.length > MOST_CHARACTERS) {
    const span = { start: 0, end: 1 };
    const problem: AssemblyProblem = { code: 'source-too-long', grade: 'error', span, length: text.length, most: MOST_CHARACTERS };
    return { rows: [], problems: toProblems(source, [problem], explainAssembly) };
  }
  const work = startWork(machine);
  const lines = text.split('\n');
  lines.forEach((line, index) => {
    const tokens = tokenizeLine(line, source.lineStarts[index]!, work.problems);
    placeLine(work, parseStatement(index + 1, tokens, work.mnemonics, work.problems));
  });
  const { rows, cells } = fillLines(work, lines.length);
  work.names.forEach((each) => valueOf(work, each));
  const start = rows.find((each) => each.kind === 'code')?.address;
  if (start === undefined && !hasErrors(work.problems)) {
    work.problems.push({ code: 'nothing-to-run', grade: 'error', span: { start: 0, end: Math.min(1, text.length) } });
  }
  const problems = toProblems(source, work.problems.slice(0, MOST_PROBLEMS), explainAssembly);
  if (hasErrors(problems)) return { rows, problems };
  return { rows, problems, program: finish(work, { text, rows, cells, start: start! }) };
}

const templates = new WeakMap<Machine, Map<string, Template[]>>();

function startWork(machine: Machine): Work {
  let forms = templates.get(machine);
  if (!forms) {
    forms = new Map();
    for (const form of machine.forms) {
      const key = form.mnemonic.toUpperCase();
      forms.set(key, [...(forms.get(key) ?? []), { form, pieces: piecesOf(form) }]);
    }
    templates.set(machine, forms);
  }
  const names = new Map<string, Definition>();
  for (const { name, number } of machine.traps) {
    const word = { text: name, span: { start: 0, end: 0 } };
    names.set(name.toUpperCase(), { word, line: 0, kind: 'trap', value: number, busy: false, used: true });
  }
  const space = programSpaceOf(machine);
  return { machine, space, problems: [], names, mnemonics: new Set(forms.keys()), forms, placed: [], address: 0, depth: 0 };
}

function piecesOf(form: Form): (string | Field)[] {
  return form.pieces.flatMap((piece, index): (string | Field)[] => {
    if ('field' in piece) return [form.operands.find((each) => each.name === piece.field)!];
    const text = index === 0 ? piece.text.slice(form.mnemonic.length) : piece.text;
    const tokens = tokenizeLine(text, 0, []).filter((each) => each.kind !== 'end');
    return tokens.map((each) => each.text.toUpperCase());
  });
}

// ---- first pass: names and addresses ----

function placeLine(work: Work, statement: Statement): void {
  const { label, kind, meant } = statement;
  if (meant && !work.names.has(meant.text.toUpperCase())) define(work, { ...statement, label: meant }, { kind: 'label', value: null });
  if (kind === 'constant') return defineConstant(work, statement);
  if (kind === 'directive' && statement.operation!.text === '.origin') {
    setOrigin(work, statement);
    if (label) define(work, statement, { kind: 'label', value: work.address });
    return;
  }
  if (label) define(work, statement, { kind: 'label', value: work.address });
  if (kind === 'operation') placeInstruction(work, statement);
  if (kind === 'directive' && statement.operation!.text === '.room') placeRoom(work, statement);
  else if (kind === 'directive') placeData(work, statement);
}

function define(work: Work, { label, line }: Statement, entry: Pick<Definition, 'kind' | 'value' | 'expression'>): void {
  const word = label!;
  const key = word.text.toUpperCase();
  const earlier = work.names.get(key);
  if (earlier?.value === null && earlier.kind === 'label') {
    work.names.set(key, { ...entry, word, line, busy: false, used: true });
  } else if (work.mnemonics.has(key)) {
    work.problems.push({ code: 'name-is-operation', grade: 'error', span: word.span, name: word.text });
  } else if (earlier && earlier.kind !== 'trap') {
    work.problems.push({ code: 'name-twice', grade: 'error', span: word.span, name: word.text, line: earlier.line });
  } else {
    work.names.set(key, { ...entry, word, line, busy: false, used: false });
  }
}

function defineConstant(work: Work, statement: Statement): void {
  const reader = { tokens: statement.rest, at: 0 };
  const expression = readExpression(reader, work.problems);
  if (expression) noMore(work, reader);
  define(work, statement, { kind: 'constant', ...(expression && { expression }), value: expression ? undefined : null });
}

function setOrigin(work: Work, statement: Statement): void {
  const value = knownValue(work, statement);
  if (value === undefined) return;
  const { cells, name } = work.space;
  if (value >= 0 && value < cells) work.address = value;
  else work.problems.push({ code: 'address-outside', grade: 'error', span: restSpan(statement), address: value, cells, space: name });
}

/** The value behind a directive that moves addresses, which must be known by now. */
function knownValue(work: Work, statement: Statement): number | undefined {
  const reader = { tokens: statement.rest, at: 0 };
  const expression = readExpression(reader, work.problems);
  if (!expression || !noMore(work, reader)) return undefined;
  const unknown = namesIn(expression).find((each) => !work.names.has(each.toUpperCase()));
  if (unknown === undefined) return evaluate(work, expression);
  work.problems.push({ code: 'not-yet-known', grade: 'error', span: expression.span, name: unknown, directive: statement.operation!.text });
  return undefined;
}

function namesIn(expression: Expression): string[] {
  if (expression.kind === 'name') return [expression.name];
  if (expression.kind === 'negate') return namesIn(expression.operand);
  return expression.kind === 'sum' ? [...namesIn(expression.left), ...namesIn(expression.right)] : [];
}

const restSpan = ({ rest, span }: Statement): Span => ({ start: rest[0]?.start ?? span.start, end: span.end });

function noMore(work: Work, reader: Reader): boolean {
  const token = reader.tokens[reader.at]!;
  if (token.kind === 'end') return true;
  work.problems.push({ code: 'left-over', grade: 'error', span: wordOf(token).span, text: token.text });
  return false;
}

function place(work: Work, entry: Omit<Placed, 'address'>): void {
  const { cells, name } = work.space;
  const last = work.address + entry.size - 1;
  if (last >= cells) {
    work.problems.push({ code: 'address-outside', grade: 'error', span: entry.statement.span, address: last, cells, space: name });
    return;
  }
  work.placed.push({ ...entry, address: work.address });
  work.address += entry.size;
}

function placeInstruction(work: Work, statement: Statement): void {
  const mnemonic = statement.operation!.text.toUpperCase();
  const candidates = work.forms.get(mnemonic)!;
  for (const { form, pieces } of candidates) {
    const operands = matchOperands(statement.rest, pieces);
    if (!operands) continue;
    const fill = (): number[] | undefined => encodeOperands(work, form, operands);
    return place(work, { statement, kind: 'code', size: form.format.cells, fill });
  }
  explainMismatch(work, statement, candidates);
  place(work, { statement, kind: 'code', size: candidates[0]!.form.format.cells, fill: () => undefined });
}

/** The literal tokens that follow a hole, up to the next one. */
function literalsFrom(pieces: Template['pieces'], from: number): string[] {
  const rest = pieces.slice(from);
  const next = rest.findIndex((each) => typeof each !== 'string');
  return rest.slice(0, next === -1 ? rest.length : next) as string[];
}

type Operands = readonly { readonly field: Field; readonly expression: Expression }[];

/** The operands where the tokens have the shape of the form, else undefined. Values are not looked at. */
function matchOperands(tokens: readonly Token[], pieces: readonly (string | Field)[]): Operands | undefined {
  const reader = { tokens, at: 0 };
  const operands: { field: Field; expression: Expression }[] = [];
  for (const [at, piece] of pieces.entries()) {
    if (typeof piece === 'string') {
      if (reader.tokens[reader.at]!.text.toUpperCase() !== piece) return undefined;
      reader.at++;
      continue;
    }
    const problems: AssemblyProblem[] = [];
    const expression = readExpression(reader, problems, literalsFrom(pieces, at + 1));
    if (!expression) return undefined;
    operands.push({ field: piece, expression });
  }
  return reader.tokens[reader.at]!.kind === 'end' ? operands : undefined;
}

/** One problem: the number that cannot be read where the shape is right, else the forms that exist. */
function explainMismatch(work: Work, statement: Statement, candidates: readonly Template[]): void {
  for (const { pieces } of candidates) {
    const problems: AssemblyProblem[] = [];
    const reader = { tokens: statement.rest, at: 0 };
    const fits = pieces.every((piece, at) => {
      if (typeof piece !== 'string') return readExpression(reader, problems, literalsFrom(pieces, at + 1)) !== undefined;
      return reader.tokens[reader.at++]!.text.toUpperCase() === piece;
    });
    const bad = problems.find((each) => each.code === 'bad-number');
    if (!fits && bad) return void work.problems.push(bad);
  }
  const forms = candidates.map((each) => each.form.written.replace(/[{}]/g, ''));
  const span = statement.rest.length > 1 ? restSpan(statement) : statement.operation!.span;
  work.problems.push({ code: 'operands-do-not-fit', grade: 'error', span, mnemonic: statement.operation!.text, forms });
}

function placeRoom(work: Work, statement: Statement): void {
  const size = knownValue(work, statement);
  if (size === undefined) return;
  const { cells } = work.space;
  if (size >= 0 && size <= cells) place(work, { statement, kind: 'room', size });
  else
    work.problems.push({
      code: 'value-out-of-range',
      grade: 'error',
      span: restSpan(statement),
      value: size,
      least: 0,
      greatest: cells,
      what: 'a number of cells',
    });
}

/** .cells and .text: values and texts, separated by commas. */
function placeData(work: Work, statement: Statement): void {
  const reader = { tokens: statement.rest, at: 0 };
  const items: (Expression | number)[] = [];
  for (;;) {
    const token = reader.tokens[reader.at]!;
    if (token.kind === 'text') {
      for (const code of token.codes!) items.push(code);
      reader.at++;
    } else {
      const expression = readExpression(reader, work.problems);
      if (!expression) return;
      items.push(expression);
    }
    if (reader.tokens[reader.at]!.text !== ',') break;
    reader.at++;
  }
  if (!noMore(work, reader)) return;
  const fill = (): number[] | undefined => allOf(items.map((each) => dataValue(work, each, statement)));
  place(work, { statement, kind: 'data', size: items.length, fill });
}

function dataValue(work: Work, item: Expression | number, statement: Statement): number | undefined {
  const value = typeof item === 'number' ? item : evaluate(work, item);
  const span = typeof item === 'number' ? restSpan(statement) : item.span;
  const size = 2 ** work.space.width;
  return value === undefined
    ? undefined
    : inRange(work, value, { least: -size / 2, greatest: size - 1, what: `a cell of ${work.space.width} bits`, span, size });
}

function inRange(
  work: Work,
  value: number,
  { least, greatest, what, span, size }: { least: number; greatest: number; what: string; span: Span; size: number },
): number | undefined {
  if (value >= least && value <= greatest) return value < 0 ? value + size : value;
  work.problems.push({ code: 'value-out-of-range', grade: 'error', span, value, least, greatest, what });
  return undefined;
}

// ---- second pass: values ----

const allOf = (values: readonly (number | undefined)[]): number[] | undefined =>
  values.includes(undefined) ? undefined : (values as number[]);

function encodeOperands(work: Work, form: Form, operands: Operands): number[] | undefined {
  const values = new Map<string, number>();
  for (const { field, expression } of operands) {
    const value = evaluate(work, expression);
    if (value === undefined) continue;
    const size = 2 ** (field.high - field.low + 1);
    const what = `the field ${field.name} of ${form.mnemonic}`;
    const fitting = inRange(work, value, { ...rangeOf(field), what, span: expression.span, size });
    if (fitting !== undefined) values.set(field.name, field.kind === 'signed' && fitting >= size / 2 ? fitting - size : fitting);
  }
  return values.size === operands.length ? encode(work.machine, form, values) : undefined;
}

function evaluate(work: Work, expression: Expression): number | undefined {
  switch (expression.kind) {
    case 'number':
      return expression.value;
    case 'negate': {
      const value = evaluate(work, expression.operand);
      return value === undefined ? undefined : -value;
    }
    case 'sum': {
      const left = evaluate(work, expression.left);
      const right = evaluate(work, expression.right);
      if (left === undefined || right === undefined) return undefined;
      return expression.operator === '+' ? left + right : left - right;
    }
    case 'name':
      return evaluateName(work, expression.name, expression.span);
    default:
      return expression satisfies never;
  }
}

function evaluateName(work: Work, name: string, span: Span): number | undefined {
  const definition = work.names.get(name.toUpperCase());
  if (!definition && work.mnemonics.has(name.toUpperCase())) {
    work.problems.push({ code: 'name-is-operation', grade: 'error', span, name });
    return undefined;
  }
  if (!definition) {
    const near =
      work.problems.length < 50
        ? nearest(
            name,
            [...work.names.values()].map((each) => each.word.text),
          )
        : undefined;
    const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
    work.problems.push({ code: 'unknown-name', grade: 'error', span, name, ...(near && { nearest: near }), ...(mend && { mend }) });
    return undefined;
  }
  definition.used = true;
  return valueOf(work, definition) ?? undefined;
}

/** A circle, or a chain of names longer than DEEPEST, is reported once and is wrong from then on. */
function valueOf(work: Work, definition: Definition): number | null {
  if (definition.value !== undefined) return definition.value;
  if (definition.busy || work.depth > DEEPEST) {
    definition.value = null;
    work.problems.push({ code: 'constant-circle', grade: 'error', span: definition.word.span, name: definition.word.text });
    return null;
  }
  definition.busy = true;
  work.depth++;
  const value = evaluate(work, definition.expression!) ?? null;
  work.depth--;
  definition.busy = false;
  definition.value ??= value;
  return definition.value;
}

function fillLines(work: Work, lineCount: number): { rows: Row[]; cells: ImageCell[] } {
  const rows = Array.from({ length: lineCount }, (_, index): Row => ({ line: index + 1, kind: 'none', words: [] }));
  const taken = new Map<number, number>();
  const cells: ImageCell[] = [];
  for (const { statement, kind, address, size, fill } of work.placed) {
    const { line, operation } = statement;
    const words = fill?.() ?? [];
    checkOverlap(work, taken, { line, address, size: kind === 'room' ? 0 : size, span: statement.span });
    words.forEach((value, at) => cells.push({ space: work.machine.programSpace, address: address + at, value, line }));
    const text = kind === 'code' ? [operation!.text.toUpperCase(), operandText(statement.rest)].join(' ').trim() : undefined;
    rows[line - 1] = { line, kind, address, words, ...(text && { text }) };
  }
  return { rows, cells };
}

/** Operands with single blanks behind commas only, as they are read aloud. */
const operandText = (tokens: readonly Token[]): string => tokens.map((each) => (each.text === ',' ? ', ' : each.text)).join('');

function checkOverlap(
  work: Work,
  taken: Map<number, number>,
  { line, address, size, span }: { line: number; address: number; size: number; span: Span },
): void {
  let told = false;
  for (let at = address; at < address + size; at++) {
    const earlier = taken.get(at);
    if (earlier !== undefined && !told) {
      told = true;
      work.problems.push({ code: 'cells-overlap', grade: 'warning', span, address: at, line: earlier });
    }
    taken.set(at, line);
  }
}

function finish(work: Work, { text, rows, cells, start }: { text: string; rows: Row[]; cells: ImageCell[]; start: number }): Program {
  const own = [...work.names.values()].filter((each) => each.kind !== 'trap');
  const symbols = own.map((each): ProgramSymbol => ({
    name: each.word.text,
    value: each.value as number,
    kind: each.kind as ProgramSymbol['kind'],
    line: each.line,
  }));
  const used = new Set(cells.map((each) => each.address)).size;
  const last = cells.reduce((most, each) => Math.max(most, each.address), 0);
  const unusedNames = own.filter((each) => !each.used && each.value !== start).map((each) => each.word.text);
  const facts = { start, last, used, free: work.space.cells - used, names: own.length, unusedNames };
  return { source: text, cells, rows, symbols, facts, start };
}

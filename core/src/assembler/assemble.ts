/** (Machine, source) to Program: addresses in a first pass, values in a second. Takes all it knows from the machine. */
import { SYSTEM, type ImageCell, type Program, type ProgramSymbol, type Row } from '../image/program';
import type { Device, Form, Machine } from '../machine/machine';
import { programSpaceOf } from '../machine/machine';
import { hasErrors, toProblems, type Problem } from '../text/diagnostic';
import { power, unitOf } from '../text/number';
import { makeSource, type Source, type Span } from '../text/source';
import { explainAssembly, type AssemblyProblem } from './problems';
import { parseStatement, readExpression, tokenizeLine, wordOf, type Expression, type Reader, type Statement, type Token } from './syntax';
import { badNumberIn, encodeOperands, matchOperands, templatesOf, type Operand, type ShortTemplate, type Template } from './templates';
import { evaluate, inRange, namesIn, valueOf } from './values';
import { addressNow, setAddress, spaceOf, type Definition, type Placed, type Work } from './work';

export interface Assembly {
  /** Undefined exactly when `problems` holds an error. */
  readonly program?: Program;
  readonly rows: readonly Row[];
  readonly problems: readonly Problem[];
}

export const MOST_CHARACTERS = 4_000_000;
const MOST_PROBLEMS = 500;
const MOST_GROWTHS = 400;
const MOST_NESTING = 8;
/** More than any space has cells. */
const MOST_PLACES = 2 ** 20;

/** Never throws over `text`. */
export function assemble(machine: Machine, text: string, name = 'program'): Assembly {
  const system = systemOf(machine)?.program;
  return assembleText(machine, makeSource(name, text), { ...(system && { system }), isSystem: false });
}

const systems = new WeakMap<Machine, Assembly>();

/** The machine's own routines, assembled; undefined where it has none. */
export function systemOf(machine: Machine): Assembly | undefined {
  if (!machine.system) return undefined;
  let assembly = systems.get(machine);
  if (!assembly) {
    assembly = assembleText(machine, makeSource('system', machine.system.source), { isSystem: true });
    systems.set(machine, assembly);
  }
  return assembly;
}

type Way = Pick<Work, 'isSystem'> & { readonly system?: Program };

function assembleText(machine: Machine, source: Source, way: Way): Assembly {
  const { text } = source;
  const explain = explainAssembly(machine.radix);
  if (text.length > MOST_CHARACTERS) {
    const span = { start: 0, end: 1 };
    const problem: AssemblyProblem = { code: 'source-too-long', grade: 'error', span, length: text.length, most: MOST_CHARACTERS };
    return { rows: [], problems: toProblems(source, [problem], explain) };
  }
  const lines = text.split('\n');
  const work = placeAll(machine, source, lines, way);
  const { rows, cells } = fillLines(work, lines.length);
  work.names.forEach((each) => valueOf(work, each));
  const start = rows.find((each) => each.kind === 'code')?.address;
  if (start === undefined && !hasErrors(work.problems)) {
    work.problems.push({ code: 'nothing-to-run', grade: 'error', span: { start: 0, end: Math.min(1, text.length) } });
  }
  const problems = toProblems(source, work.problems.slice(0, MOST_PROBLEMS), explain);
  if (hasErrors(problems)) return { rows, problems };
  return { rows, problems, program: finish(work, { text, rows, cells, start: start! }) };
}

/** Forms that differ only in range start at the shortest and only grow, until nothing changes. */
function placeAll(machine: Machine, source: Source, lines: readonly string[], way: Way): Work {
  const grown = new Map<string, number>();
  for (let pass = 0; ; pass++) {
    const work = startWork(machine, way, grown);
    lines.forEach((line, index) => {
      const tokens = tokenizeLine(line, source.lineStarts[index]!, work.problems);
      placeLine(work, parseStatement(index + 1, tokens, work.templates.mnemonics, work.problems));
    });
    const tight = pass < MOST_GROWTHS ? work.growing.filter((each) => !each.fits()) : [];
    if (tight.length === 0) return work;
    for (const { key } of tight) grown.set(key, (grown.get(key) ?? 0) + 1);
  }
}

function startWork(machine: Machine, { system, isSystem }: Way, grown: Work['grown']): Work {
  const names = new Map<string, Definition>();
  const give = (text: string, value: number): void => {
    names.set(text.toUpperCase(), { word: { text, span: { start: 0, end: 0 } }, line: 0, kind: 'machine', value, busy: false, used: true });
  };
  // The system program has labels of these names.
  for (const { name, number } of isSystem ? machine.traps : [...machine.traps, ...machine.routines]) give(name, number);
  for (const device of machine.devices) giveDevice(machine, device, give);
  for (const { name, value } of system?.symbols ?? []) give(`${SYSTEM}.${name}`, value);
  const own = machine.system;
  const first = isSystem ? own!.from : (machine.fixedStart ?? (own?.from === 0 ? own.to + 1 : 0));
  return {
    machine,
    templates: templatesOf(machine),
    problems: [],
    names,
    placed: [],
    growing: [],
    grown,
    ...(system && { system }),
    isSystem,
    space: machine.programSpace,
    bank: 0,
    next: new Map([[`${machine.programSpace} 0`, first]]),
    nesting: 0,
    depth: 0,
  };
}

/** keys.data and keys.status are cells or ports; lamps.horn is the value with that line on. */
function giveDevice(machine: Machine, { name, data, status, lines }: Device, give: (name: string, value: number) => void): void {
  for (const [part, place] of Object.entries({ data, status })) {
    if (place) give(`${name}.${part}`, 'port' in place ? place.port : place.address % machine.spaces[place.space]!.cells);
  }
  for (const [line, bit] of lines) give(`${name}.${line}`, power(machine.radix, bit));
}

// ---- first pass: names and addresses ----

function placeLine(work: Work, statement: Statement): void {
  const { label, kind, meant } = statement;
  if (meant && !work.names.has(meant.text.toUpperCase())) define(work, { ...statement, label: meant }, { kind: 'label', value: null });
  if (kind === 'constant') return defineConstant(work, statement);
  const directive = kind === 'directive' ? statement.operation!.text : undefined;
  if (directive === '.origin') setOrigin(work, statement);
  if (directive === '.space') setSpace(work, statement);
  if (label) define(work, statement, { kind: 'label', value: addressNow(work), ...elsewhere(work) });
  if (kind === 'operation') placeInstruction(work, statement);
  if (directive === '.room') placeRoom(work, statement);
  else if (directive === '.cells' || directive === '.text') placeData(work, statement);
}

/** Where a label outside the program space is, counted over all banks. */
const elsewhere = (work: Work): { space?: number; at?: number } =>
  work.space === work.machine.programSpace ? {} : { space: work.space, at: work.bank * spaceOf(work).cells + addressNow(work) };

function define(work: Work, { label, line }: Statement, entry: Pick<Definition, 'kind' | 'value' | 'expression' | 'space' | 'at'>): void {
  const word = label!;
  const key = word.text.toUpperCase();
  const earlier = work.names.get(key);
  if (earlier?.value === null && earlier.kind === 'label') {
    work.names.set(key, { ...entry, word, line, busy: false, used: true });
  } else if (work.templates.mnemonics.has(key)) {
    work.problems.push({ code: 'name-is-operation', grade: 'error', span: word.span, name: word.text });
  } else if (work.templates.registers.has(key)) {
    work.problems.push({ code: 'name-is-register', grade: 'error', span: word.span, name: word.text });
  } else if (word.text.includes('.')) {
    work.problems.push({ code: 'name-with-dot', grade: 'error', span: word.span, name: word.text });
  } else if (earlier && earlier.kind !== 'machine') {
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
  const { cells, name } = spaceOf(work);
  if (value >= 0 && value < cells) setAddress(work, value);
  else work.problems.push({ code: 'address-outside', grade: 'error', span: restSpan(statement), address: value, cells, space: name });
}

/** .space NAME, or .space NAME, bank: what follows goes there. */
function setSpace(work: Work, statement: Statement): void {
  const [name, comma] = statement.rest as [Token, Token | undefined];
  const names = work.machine.spaces.map((each) => each.name);
  const space = names.findIndex((each) => each.toUpperCase() === name.text.toUpperCase());
  if (space === -1)
    return void work.problems.push({ code: 'unknown-space', grade: 'error', span: restSpan(statement), name: name.text, spaces: names });
  const after = statement.rest.slice(comma?.text === ',' ? 2 : 1);
  const bank = after[0]!.kind === 'end' ? 0 : knownValue(work, { ...statement, rest: after });
  if (bank === undefined) return;
  const { banks } = work.machine.spaces[space]!;
  if (bank < 0 || bank >= banks) {
    const what = `a bank of ${names[space]!}`;
    return void work.problems.push({
      code: 'value-out-of-range',
      grade: 'error',
      span: restSpan(statement),
      value: bank,
      least: 0,
      greatest: banks - 1,
      what,
    });
  }
  work.space = space;
  work.bank = bank;
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

const restSpan = ({ rest, span }: Statement): Span => ({ start: rest[0]?.start ?? span.start, end: span.end });

function noMore(work: Work, reader: Reader): boolean {
  const token = reader.tokens[reader.at]!;
  if (token.kind === 'end') return true;
  work.problems.push({ code: 'left-over', grade: 'error', span: wordOf(token).span, text: token.text });
  return false;
}

function place(work: Work, entry: Omit<Placed, 'address' | 'space' | 'expanded'>): void {
  const { cells, name } = spaceOf(work);
  const from = addressNow(work);
  const last = from + entry.size - 1;
  if (last >= cells) {
    work.problems.push({ code: 'address-outside', grade: 'error', span: entry.statement.span, address: last, cells, space: name });
    return;
  }
  checkReserved(work, entry, { from, last });
  work.placed.push({ ...entry, address: work.bank * cells + from, space: work.space, expanded: work.nesting > 0 });
  setAddress(work, last + 1);
}

/** Cells of the system program are not a program's own. */
function checkReserved(
  work: Work,
  { statement, size }: Pick<Placed, 'statement' | 'size'>,
  { from, last }: { from: number; last: number },
): void {
  const { system, programSpace } = work.machine;
  if (!system || work.isSystem || work.space !== programSpace || size === 0 || last < system.from || from > system.to) return;
  work.problems.push({ code: 'cells-reserved', grade: 'error', span: statement.span, from: system.from, to: system.to });
}

function placeInstruction(work: Work, statement: Statement): void {
  const mnemonic = statement.operation!.text.toUpperCase();
  const candidates = work.templates.forms.get(mnemonic) ?? [];
  if (work.space !== work.machine.programSpace) {
    const { name } = programSpaceOf(work.machine);
    work.problems.push({ code: 'instruction-outside', grade: 'error', span: statement.span, space: spaceOf(work).name, program: name });
  }
  for (const template of candidates) {
    const operands = matchOperands(work.templates, statement.rest, template.pieces);
    if (operands) return placeForm(work, statement, template, operands);
  }
  const shorts = work.templates.shorts.get(mnemonic) ?? [];
  for (const short of shorts) {
    const operands = matchOperands(work.templates, statement.rest, short.pieces);
    if (operands) return expand(work, statement, short, operands);
  }
  explainMismatch(work, statement, candidates, shorts);
  if (candidates[0]) place(work, { statement, kind: 'code', size: candidates[0].form.format.cells, fill: () => undefined });
}

function placeForm(work: Work, statement: Statement, { ladder }: Template, operands: readonly Operand[]): void {
  const key = `${statement.line} ${work.placed.length}`;
  const at = Math.min(work.grown.get(key) ?? 0, ladder.length - 1);
  const form: Form = ladder[at]!;
  const address = addressNow(work);
  if (at < ladder.length - 1) {
    const fits = (): boolean => {
      const known = work.problems.length;
      encodeOperands(work, form, operands, address);
      const tight = work.problems.slice(known).some((each) => each.code === 'value-out-of-range' || each.code === 'other-page');
      work.problems.length = known;
      return !tight;
    };
    work.growing.push({ key, fits });
  }
  place(work, { statement, kind: 'code', size: form.format.cells, fill: (from) => encodeOperands(work, form, operands, from) });
}

/** The lines that a short form stands for, with the operands as they were written; problems are told where it stands. */
function expand(work: Work, statement: Statement, { form }: ShortTemplate, operands: readonly Operand[]): void {
  if (work.nesting >= MOST_NESTING) return;
  const texts = new Map(
    operands.flatMap((each) => ('any' in each ? [[each.any, each.tokens.map((token) => token.text).join(' ')] as const] : [])),
  );
  const { start, end } = statement.span;
  work.nesting++;
  for (const line of form.lines) {
    const text = line.replace(/\{\s*(\w+)\s*\}/g, (_, name: string) => texts.get(name) ?? '');
    const tokens = tokenizeLine(text, 0, work.problems).map((each) => ({ ...each, start, end }));
    placeLine(work, parseStatement(statement.line, tokens, work.templates.mnemonics, work.problems));
  }
  work.nesting--;
}

/** One problem: the number that cannot be read where the shape is right, else the forms that exist. */
function explainMismatch(work: Work, statement: Statement, candidates: readonly Template[], shorts: readonly ShortTemplate[]): void {
  for (const { pieces } of candidates) {
    const bad = badNumberIn(statement.rest, pieces);
    if (bad) return void work.problems.push(bad);
  }
  const forms = [...candidates.flatMap((each) => each.ladder), ...shorts.map((each) => each.form)].map((each) =>
    each.written.replace(/[{}]/g, ''),
  );
  const span = statement.rest.length > 1 ? restSpan(statement) : statement.operation!.span;
  work.problems.push({
    code: 'operands-do-not-fit',
    grade: 'error',
    span,
    mnemonic: statement.operation!.text,
    forms: [...new Set(forms)],
  });
}

function placeRoom(work: Work, statement: Statement): void {
  const size = knownValue(work, statement);
  if (size === undefined) return;
  const { cells } = spaceOf(work);
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
  const { width } = spaceOf(work);
  const fill = (): number[] | undefined => allOf(items.map((each) => dataValue(work, each, statement, width)));
  place(work, { statement, kind: 'data', size: items.length, fill });
}

function dataValue(work: Work, item: Expression | number, statement: Statement, width: number): number | undefined {
  const value = typeof item === 'number' ? item : evaluate(work, item);
  const span = typeof item === 'number' ? restSpan(statement) : item.span;
  const { radix } = work.machine;
  const size = power(radix, width);
  const what = `a cell of ${width} ${unitOf(radix)}`;
  return value === undefined ? undefined : inRange(work, value, { least: -size / 2, greatest: size - 1, what, span, size });
}

// ---- second pass: values ----

const allOf = (values: readonly (number | undefined)[]): number[] | undefined =>
  values.includes(undefined) ? undefined : (values as number[]);

function fillLines(work: Work, lineCount: number): { rows: Row[]; cells: ImageCell[] } {
  const rows = Array.from({ length: lineCount }, (_, index): Row => ({ line: index + 1, kind: 'none', words: [] }));
  const taken = new Map<number, number>();
  const cells: ImageCell[] = [];
  const { programSpace } = work.machine;
  for (const { statement, kind, address, space, size, expanded, fill } of work.placed) {
    const { line, operation } = statement;
    const words = fill?.(address) ?? [];
    checkOverlap(work, taken, { line, address, space, size: kind === 'room' ? 0 : size, span: statement.span });
    words.forEach((value, at) => cells.push({ space, address: address + at, value, line }));
    const before = rows[line - 1]!;
    if (expanded && before.kind !== 'none') {
      rows[line - 1] = { ...before, words: [...before.words, ...words] };
      continue;
    }
    const text = kind === 'code' && !expanded ? [operation!.text.toUpperCase(), operandText(statement.rest)].join(' ').trim() : undefined;
    rows[line - 1] = { line, kind, address, words, ...(text && { text }), ...(space !== programSpace && { space }) };
  }
  return { rows, cells };
}

/** Operands with single blanks behind commas only, as they are read aloud. */
const operandText = (tokens: readonly Token[]): string => tokens.map((each) => (each.text === ',' ? ', ' : each.text)).join('');

function checkOverlap(
  work: Work,
  taken: Map<number, number>,
  { line, address, space, size, span }: { line: number; address: number; space: number; size: number; span: Span },
): void {
  let told = false;
  for (let at = address; at < address + size; at++) {
    const key = space * MOST_PLACES + at;
    const earlier = taken.get(key);
    if (earlier !== undefined && !told) {
      told = true;
      work.problems.push({ code: 'cells-overlap', grade: 'warning', span, address: at, line: earlier });
    }
    taken.set(key, line);
  }
}

function finish(work: Work, { text, rows, cells, start }: { text: string; rows: Row[]; cells: ImageCell[]; start: number }): Program {
  const own = [...work.names.values()].filter((each) => each.kind !== 'machine');
  const symbols = own.map((each): ProgramSymbol => ({
    name: each.word.text,
    value: each.value as number,
    kind: each.kind as ProgramSymbol['kind'],
    line: each.line,
    ...(each.space !== undefined && { space: each.space, at: each.at! }),
  }));
  const inProgram = cells.filter((each) => each.space === work.machine.programSpace);
  const used = new Set(inProgram.map((each) => each.address)).size;
  const last = inProgram.reduce((most, each) => Math.max(most, each.address), 0);
  const unusedNames = own.filter((each) => !each.used && each.value !== start).map((each) => each.word.text);
  const facts = { start, last, used, free: programSpaceOf(work.machine).cells - used, names: own.length, unusedNames };
  return { source: text, cells, rows, symbols, facts, start, ...(work.system && { system: work.system }) };
}

/** Machine document text in, Machine and problems out. The one door through which machines come. */
import { LANGUAGE, parseExpr } from '../notation/parse';
import type { Meaning, Scope } from '../notation/scope';
import { RESERVED } from '../notation/syntax';
import { makeSource, placeAt, type Source } from '../text/source';
import { hasErrors, toProblems, type Problem } from '../text/diagnostic';
import { checkMachine } from './resolve/checks';
import { machineSchema, type MachineDocument } from './document/schema';
import { resolveFormats } from './resolve/formats';
import { resolveCycle, resolveEntry, resolveForms, resolveShortForms, type Ground } from './resolve/instructions';
import {
  TONES,
  type Device,
  type Family,
  type Flag,
  type Form,
  type Format,
  type Machine,
  type Register,
  type Role,
  type ScheduledTick,
  type Space,
} from './model/machine';
import { casesOf, resolveConditions } from './resolve/conditions';
import { checkSpellings } from './resolve/spellings';
import { resolveDevices } from './resolve/devices';
import { resolvePorts } from './resolve/ports';
import { resolveAssembly, resolveSystem, suffixesOf } from './resolve/programRules';
import { resolveStacks } from './resolve/stacks';
import { causeWidth, resolveFaults, resolveTraps } from './resolve/traps';
import { rootCauses, type Defined } from './document/causes';
import { explainMachine, type MachineProblem } from './document/problems';
import { relatedPlaces } from './document/related';
import { addressDigits, instructionSlots, registerPlaces, resolveRegisters } from './resolve/registers';
import { shapeProblemsOf } from './document/findings';
import { slipIn, slipOfTheWhole } from './document/slips';
import { addProblem, fitting, indexIn, report, widthFor, type DocumentReading } from './resolve/reading';
import { resolveWords } from './resolve/words';
import { derive, readYaml, type Path } from './document/yaml';
import type { ParseYaml } from './document/parsed';
import { itemAt } from '../text/itemAt';
import { withLeadingZero } from './model/numbers';

export interface MachineReading {
  /** Undefined exactly when `problems` holds an error. */
  readonly machine?: Machine;
  readonly problems: readonly Problem[];
  readonly source: Source;
  /** The machine where nothing is wrong but that some encodings mean two things: to be looked at, not to be run. */
  readonly clashing?: Machine;
}

/** Errors of machines that are whole but for encodings that mean two things. */
const CLASHES: ReadonlySet<string> = new Set(['encodings-overlap', 'lengths-differ']);

export interface ReadOptions {
  readonly name?: string;
  /** The text of another machine by its name, for a machine that is based on it. */
  readonly base?: (name: string) => string | undefined;
  /** The language of a document that does not say its own: that of a version when it was kept; else the newest. */
  readonly language?: number;
  /** Looks the finished machine over once more, as for its system program. */
  readonly review?: (machine: Machine) => readonly MachineProblem[];
  readonly parse?: ParseYaml;
  /** Ticks of documents that were read before; filled and used. */
  readonly ticks?: Map<string, readonly ScheduledTick[]>;
}

/** Places that may be the cause are looked for with so many problems at most. */
const MOST_RELATED = 20;

function withRelated(source: Source, problem: MachineProblem): MachineProblem {
  const related = relatedPlaces(source, problem);
  return related.length > 0 ? { ...problem, related } : problem;
}

/** Beside errors only errors are told: what is unused or never set may be so because of them. */
function withoutConsequences(source: Source, problems: readonly MachineProblem[], defined?: Defined): readonly MachineProblem[] {
  if (!hasErrors(problems)) return problems;
  const roots = rootCauses(source, problems, defined);
  const lineOf = (each: MachineProblem): number => placeAt(source, each.span.start).line;
  const swallowed = new Set(roots.filter((each) => each.code === 'yaml-remark-in-value').map(lineOf));
  return roots.flatMap((each): MachineProblem[] => {
    if (each.code === 'yaml-remark-in-value') return [{ ...each, grade: 'error' }];
    return each.grade === 'error' && !swallowed.has(lineOf(each)) ? [each] : [];
  });
}

/** Names that parts of the document have, readable or not. */
const namesIn = ({ spaces, registers, flags, formats, devices, stacks, ports }: MachineDocument): Defined =>
  new Set([spaces, registers, flags, formats, devices, stacks].flatMap((each) => Object.keys(each ?? {})).concat(ports?.name ?? []));

/** Never throws over `text`. */
export function readMachine(
  text: string,
  { name = 'machine.yaml', base, review, language = LANGUAGE, parse, ticks }: ReadOptions = {},
): MachineReading {
  const source = makeSource(name, text);
  const own = readYaml(source, parse);
  const problems: MachineProblem[] = [...own.problems];
  const only = (problem: MachineProblem): MachineReading => {
    problems.splice(0, problems.length, problem);
    return finish();
  };
  const known: { defined?: Defined } = {};
  const finish = (machine?: Machine): MachineReading => {
    const told = withoutConsequences(source, problems, known.defined)
      .slice(0, 200)
      .map((each, at) => (each.grade === 'error' && at < MOST_RELATED ? withRelated(source, each) : each));
    const worded = toProblems(source, told, explainMachine);
    if (machine && !hasErrors(problems)) return { source, problems: worded, machine };
    const clashes = problems.every((each) => each.grade !== 'error' || CLASHES.has(each.code));
    return { source, problems: worded, ...(machine && clashes && { clashing: machine }) };
  };
  const whole = problems.some((each) => each.code === 'document-too-long') ? undefined : slipOfTheWhole(source, own.data);
  if (whole) return only(whole);
  if (own.data === undefined) {
    const slip = problems.some((each) => each.code === 'not-yaml') ? slipIn(source) : undefined;
    return slip ? only(slip) : finish();
  }
  const yaml = derive(own, base, (each) => problems.push(each));
  if (hasErrors(problems)) return finish();
  const said = languageIn(yaml.data);
  if (said !== undefined && said > LANGUAGE)
    return only({ code: 'later-language', grade: 'error', span: yaml.spanOf(['language']), language: said, newest: LANGUAGE });
  const parsed = machineSchema.safeParse(yaml.data === '' || yaml.data === null ? {} : yaml.data);
  if (!parsed.success) {
    const found = shapeProblemsOf(yaml, parsed.error.issues);
    const slip = found.some((each) => each.code === 'wrong-shape') ? slipIn(source) : undefined;
    if (slip) return only(slip);
    problems.push(...found);
    return finish();
  }
  known.defined = namesIn(parsed.data);
  const radix = parsed.data.word.digits === undefined ? 2 : 10;
  const reading: DocumentReading = {
    source,
    yaml,
    document: parsed.data,
    problems,
    radix,
    language: said ?? language,
    ...(ticks && { memo: { ticks, ground: groundOf(parsed.data, said ?? language) } }),
  };
  const machine = resolve(reading);
  if (machine && !hasErrors(problems)) review?.(machine).forEach((each) => addProblem(reading, each));
  return finish(machine);
}

/** Everything of a document that a tick can depend on besides the instruction that it belongs to. */
function groundOf(
  { word, spaces, registers, flags, ports, devices, stacks, conditions, formats, cycle, traps }: MachineDocument,
  language: number,
): string {
  return JSON.stringify([language, word, spaces, registers, flags, ports, devices, stacks, conditions, formats, cycle, traps]);
}

/** The language that a document says it is written in. */
function languageIn(data: unknown): number | undefined {
  const said = typeof data === 'object' && data !== null ? (data as { language?: unknown }).language : undefined;
  return typeof said === 'string' && /^[1-9][0-9]{0,8}$/.test(said.trim()) ? Number(said) : undefined;
}

function resolve(reading: DocumentReading): Machine | undefined {
  const { document, radix } = reading;
  if (document.word.bits !== undefined && document.word.digits !== undefined)
    return void report(reading, ['word', 'digits'], { code: 'two-kinds-of-word' });
  if (document.word.bits === undefined && document.word.digits === undefined)
    return void report(reading, ['word'], {
      code: 'wrong-shape',
      at: 'word',
      reason: 'bits, or digits of a decimal machine, are expected here',
    });
  const wordWidth = widthFor(reading, ['word'], document.word, 8);
  const spaces = resolveSpaces(reading, wordWidth);
  const program = spaces[0];
  if (!program) return void report(reading, ['spaces'], { code: 'wrong-shape', at: 'spaces', reason: 'at least one memory is needed' });
  const { registers, arrays, composites, views } = resolveRegisters(reading, wordWidth);
  const programCounter = roleIndex(reading, registers, 'program counter');
  const instructionRegister = roleIndex(reading, registers, 'instruction');
  const ports = resolvePorts(reading, wordWidth);
  const devices = resolveDevices(reading, { spaces, ports }, wordWidth);
  const stacks = resolveStacks(reading, registers, spaces);
  const { traps, routines } = resolveTraps(
    reading,
    registerPlaces({ registers, arrays: [...arrays], composites: [...composites], views }),
    devices,
  );
  if (programCounter === undefined || instructionRegister === undefined) return undefined;
  const slots = instructionSlots(reading, registers, program.width);
  const { flags, meanings } = resolveFlags(reading, devices);
  const names = namesOf(reading, [
    ...registers.map((each, register): Named => [
      ['registers', each.array ?? each.name],
      each.name,
      { kind: 'register', register, width: each.width, parts: each.parts },
    ]),
    ...registers.flatMap((each, register): Named[] =>
      each.also === undefined
        ? []
        : [[['registers', each.array ?? each.name], each.also, { kind: 'register', register, width: each.width, parts: each.parts }]],
    ),
    ...arrays.map(({ names: _, named: __, ...each }): Named => [['registers', each.name], each.name, { ...each, kind: 'array' }]),
    ...views.map((each): Named => [['registers', each.name], each.name, { kind: 'view', options: each.options, width: each.width }]),
    ...composites.map(({ name, value, target, width }): Named => [['registers', name], name, { kind: 'several', value, target, width }]),
    ...meanings.map((meaning, at): Named => [['flags', itemAt(flags, at).name], itemAt(flags, at).name, meaning]),
    ...spaces.map((each, space): Named => [
      ['spaces', each.name],
      each.name,
      { kind: 'space', space, width: each.width, addressWidth: each.addressWidth, banks: each.banks },
    ]),
    ...(ports ? [[['ports', 'name'], ports.name, { kind: 'ports', count: ports.count, width: ports.width }] satisfies Named] : []),
    ...devices.map((each, device): Named => [['devices', each.name], each.name, { kind: 'device', device, lines: each.lines }]),
    ...stacks.map((each, stack): Named => [['stacks', each.name], each.name, { kind: 'stack', stack }]),
    ...[...traps, ...routines].map((each): Named => [['traps', String(each.number)], each.name, { kind: 'service', number: each.number }]),
  ]);
  checkRoles(reading, registers);
  const flagNames = new Map(meanings.map((meaning, at) => [itemAt(flags, at).name, meaning]));
  const plain: Scope = { names, flags: flagNames, radix, addressWidth: program.addressWidth, language: reading.language };
  const conditions = resolveConditions(reading, plain);
  const scope: Scope = { ...plain, conditions: casesOf(conditions) };
  const formats = resolveFormats(reading, program.width, { arrays, views, conditions });
  checkSlots(reading, { slots: slots.length, formats, register: itemAt(registers, instructionRegister), cell: program.width });
  const ground: Ground = { scope, formats, slots, registers, cellWidth: program.width, causeWidth: causeWidth(reading) };
  const cycle = resolveCycle(reading, ground);
  const forms = resolveForms(reading, { ...ground, cycle });
  const { phases } = document.cycle;
  const system = resolveSystem(reading, program);
  const machine: Machine = {
    name: document.machine,
    language: reading.language,
    title: document.title,
    radix,
    ...baseOf(reading),
    wordWidth,
    registers,
    arrays,
    views,
    composites: composites.map(({ target: _, ...each }) => each),
    flags,
    conditions,
    spaces,
    ...(ports && { ports }),
    devices,
    stacks,
    phases,
    formats: [...formats.values()],
    forms,
    shortForms: resolveShortForms(reading),
    families: familiesOf(reading, forms),
    traps,
    routines,
    opening: [...cycle.first, cycle.decode],
    entry: resolveEntry(ground, cycle),
    faults: resolveFaults(reading),
    programCounter,
    ...(document['begins at'] !== undefined && { fixedStart: document['begins at'] }),
    slots,
    instructionRegister,
    programSpace: 0,
    assembly: resolveAssembly(reading, traps, program.width),
    words: resolveWords(reading, { registers, flags, forms, phases }),
    ...(system && { system }),
  };
  checkMachine(reading, machine, cycle);
  checkSpellings(reading, machine);
  return machine;
}

/** A sign a family, so that colour is not needed to tell them apart. */
const SIGNS = ['▸', '+', '◆', '#', '↺', '!', '~', '○'];

/** The document's own signs and colours, else one after the other. */
function familiesOf({ document }: DocumentReading, forms: readonly Form[]): Family[] {
  return [...new Set(forms.map((each) => each.family))].map((name, at) => {
    const own = document.families?.[name];
    return { name, sign: own?.sign ?? itemAt(SIGNS, at % SIGNS.length), tone: own?.colour ?? itemAt(TONES, at % TONES.length) };
  });
}

const BASES = { binary: 2, octal: 8, decimal: 10, hex: 16 } as const;

/** The base that the machine's numbers are shown in: its own, else hexadecimal for bits. */
function baseOf({ document, radix }: DocumentReading): Pick<Machine, 'base' | 'declaresBase'> {
  const declared = document.word.base;
  if (radix === 10) return { base: 10, declaresBase: false };
  return { base: declared ? BASES[declared] : 16, declaresBase: declared !== undefined };
}

const MOST_TOTAL = 262_144;

function resolveSpaces(reading: DocumentReading, wordWidth: number): Space[] {
  return Object.entries(reading.document.spaces).map(([name, each]): Space => {
    const path = ['spaces', name];
    const width = widthFor(reading, path, each, wordWidth);
    const banks = each.banks ?? 1;
    if (banks * each.cells > MOST_TOTAL)
      report(reading, path, { code: 'space-too-large', name, cells: banks * each.cells, most: MOST_TOTAL });
    const fill = fitting(reading, [...path, 'fill'], each.fill, width);
    const addressWidth = addressDigits(each.cells, reading.radix);
    return { name, title: each.title || name, cells: each.cells, banks, width, fill, readOnly: each['read-only'] ?? false, addressWidth };
  });
}

const ONE_OF_A_KIND: readonly Role[] = ['program counter', 'memory address', 'memory data'];

function roleIndex(reading: DocumentReading, registers: readonly Register[], role: Role): number | undefined {
  const index = registers.findIndex((each) => each.role === role);
  if (index === -1) report(reading, ['registers'], { code: 'role-missing', role });
  return index === -1 ? undefined : index;
}

function checkRoles(reading: DocumentReading, registers: readonly Register[]): void {
  for (const role of ONE_OF_A_KIND) {
    const [one, other] = registers.filter((each) => each.role === role);
    if (one && other) report(reading, ['registers', other.array ?? other.name, 'role'], { code: 'role-twice', role, one: one.name });
  }
}

function checkSlots(
  reading: DocumentReading,
  { slots, formats, register, cell }: { slots: number; formats: ReadonlyMap<string, Format>; register: Register; cell: number },
): void {
  const needed = Math.max(1, ...[...formats.values()].map((each) => each.cells));
  if (slots > 0 && slots < needed) {
    report(reading, ['registers', register.array ?? register.name], {
      code: 'instruction-too-long',
      name: register.name,
      cells: needed,
      width: needed * cell,
    });
  }
}

function resolveFlags(reading: DocumentReading, devices: readonly Device[]): { flags: Flag[]; meanings: (Meaning & { kind: 'flag' })[] } {
  const into = reading.radix === 10 ? 1 : 4;
  const flags: Flag[] = [];
  const meanings: (Meaning & { kind: 'flag' })[] = [];
  for (const [name, entry] of Object.entries(reading.document.flags ?? {})) {
    const path = ['flags', name];
    const given = (['rule', 'formula', 'line'] as const).filter((each) => entry[each] !== undefined);
    if (given.length > 1) report(reading, [...path, itemAt(given, 1)], { code: 'one-of', keys: given });
    const line = entry.line === undefined ? undefined : lineOf(reading, [...path, 'line'], entry.line, devices);
    const formula = entry.formula === undefined ? undefined : formulaOf(reading, [...path, 'formula']);
    const shared = { noBorrow: entry.subtract === 'no borrow', into: entry.into ?? into, odd: entry.ones === 'odd' };
    const rule = entry.rule ?? (formula ? 'formula' : undefined);
    flags.push({ name, title: entry.title || name, ...(rule && { rule }), ...shared, start: entry.start ?? 0, ...(line && { line }) });
    meanings.push({
      kind: 'flag',
      flag: flags.length - 1,
      ...(entry.rule && { rule: entry.rule }),
      ...(formula && { formula }),
      ...(line && { line }),
      ...shared,
    });
  }
  return { flags, meanings };
}

/** switches.gate: a line of a device. */
function lineOf(
  reading: DocumentReading,
  path: Path,
  text: string,
  devices: readonly Device[],
): { device: number; bit: number } | undefined {
  const [name, line, more] = text.trim().split('.') as [string, string | undefined, string | undefined];
  const device = indexIn(
    reading,
    path,
    name,
    devices.map((each) => each.name),
    'device',
  );
  if (device === undefined) return undefined;
  const lines = itemAt(devices, device).lines;
  const at = indexIn(reading, path, more === undefined ? (line ?? '') : text, [...lines.keys()], 'line');
  return at === undefined ? undefined : { device, bit: lines.get(line!)! };
}

function formulaOf(reading: DocumentReading, path: Path) {
  const [line] = reading.yaml.linesOf(path);
  if (!line) return undefined;
  const { expr, problems } = parseExpr(line.text, line.offset, undefined, reading.language);
  problems.forEach((each) => addProblem(reading, each));
  return expr;
}

type Named = readonly [path: Path, name: string, meaning: Meaning];

const WORDS: Readonly<Record<Meaning['kind'], string>> = {
  register: 'a register',
  array: 'an array of registers',
  view: 'a view of registers',
  several: 'a pair or packed word',
  flag: 'a flag',
  space: 'a memory',
  ports: 'the ports',
  device: 'a device',
  stack: 'a stack',
  service: 'a trap',
  value: 'a field',
};

/** Within one of these, names that differ in case only are refused. */
const NAMESPACES: Readonly<Partial<Record<Meaning['kind'], string>>> = {
  register: 'registers',
  array: 'registers',
  view: 'registers',
  several: 'registers',
  flag: 'flags',
  space: 'memories',
  ports: 'memories',
};

function namesOf(reading: DocumentReading, named: readonly Named[]): Map<string, Meaning> {
  const names = new Map<string, Meaning>();
  const suffixes = suffixesOf(reading);
  const cases = new Map<string, string>();
  for (const [path, name, meaning] of named) {
    const earlier = names.get(name);
    const namespace = NAMESPACES[meaning.kind];
    const twin = namespace && cases.get(`${namespace} ${name.toUpperCase()}`);
    if (namespace) cases.set(`${namespace} ${name.toUpperCase()}`, name);
    if (twin !== undefined && twin !== name) report(reading, path, { code: 'name-case', name, other: twin });
    const number = namespace === 'registers' ? withLeadingZero(name, suffixes) : undefined;
    if (number !== undefined) report(reading, path, { code: 'name-like-number', name, number });
    if (RESERVED.includes(name)) report(reading, path, { code: 'name-reserved', name });
    // A register and a flag may share a name: the plain name is the register.
    else if (earlier && meaning.kind === 'flag' && NAMESPACES[earlier.kind] === 'registers') continue;
    else if (earlier) report(reading, path, { code: 'name-twice', name, first: WORDS[earlier.kind] });
    else names.set(name, meaning);
  }
  return names;
}

/** What all instructions of a document stand on: memories, registers, flags, formats, the cycle, and what names mean. */
import { parseExpr } from '../../notation/parse';
import { printExpr } from '../../notation/print';
import type { Meaning, Scope } from '../../notation/scope';
import { RESERVED } from '../../notation/syntax';
import { itemAt } from '../../text/itemAt';
import type { Path } from '../document/yaml';
import type { Device, Flag, Format, Machine, Register, Role, Space } from '../model/machine';
import { withLeadingZero } from '../model/numbers';
import { casesOf, resolveConditions } from './conditions';
import { resolveDevices } from './devices';
import { resolveFormats } from './formats';
import { resolveCycle, resolveEntry, type Cycle, type Ground } from './instructions';
import { resolvePorts } from './ports';
import { suffixesOf } from './programRules';
import { addProblem, fitting, indexIn, report, widthFor, type DocumentReading } from './reading';
import { addressDigits, instructionSlots, registerPlaces, resolveRegisters } from './registers';
import { resolveStacks } from './stacks';
import { causeWidth, resolveTraps } from './traps';

type OfMachine =
  | ('wordWidth' | 'registers' | 'arrays' | 'views' | 'composites' | 'flags' | 'conditions' | 'spaces' | 'ports' | 'devices' | 'stacks')
  | ('formats' | 'traps' | 'routines' | 'opening' | 'entry' | 'programCounter' | 'slots' | 'instructionRegister');

export interface Grounded extends Ground {
  readonly cycle: Cycle;
  /** The memory that programs lie in. */
  readonly program: Space;
  /** As the machine has it. */
  readonly whole: Pick<Machine, OfMachine>;
}

/** Reports what is wrong on the way; undefined where there is too little to go on. */
export function resolveGround(reading: DocumentReading): Grounded | undefined {
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
  return {
    ...ground,
    ...{ program, cycle },
    whole: {
      ...{ wordWidth, registers, arrays, views, flags, conditions, spaces, devices, stacks, traps, routines, slots },
      ...{ programCounter, instructionRegister },
      composites: composites.map(({ target: _, ...each }) => each),
      ...(ports && { ports }),
      formats: [...formats.values()],
      opening: [...cycle.first, cycle.decode],
      entry: resolveEntry(ground, cycle),
    },
  };
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
    const said = formula && { formula: printExpr(formula) };
    flags.push({
      name,
      title: entry.title || name,
      ...(rule && { rule }),
      ...said,
      ...shared,
      start: entry.start ?? 0,
      ...(line && { line }),
    });
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

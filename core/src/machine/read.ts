/** Machine document text in, Machine and problems out. The one door through which machines come. */
import { checkTick, type Meaning, type Scope, type Slice } from '../notation/check';
import { parseTick } from '../notation/parse';
import type { Tick } from '../notation/tree';
import { nearest } from '../text/nearest';
import { readNumber } from '../text/number';
import { makeSource, type Source } from '../text/source';
import { hasErrors, toProblems, type Problem } from '../text/diagnostic';
import { machineSchema, NAME, type MachineDocument } from './document';
import type { Field, FieldKind, Flag, Form, Format, Machine, Piece, Register, Role, ScheduledTick, Space, Trap } from './machine';
import { explainMachine, type MachineProblem } from './problems';
import { report, type Work } from './work';
import { checkMachine } from './checks';
import { readYaml, type Path, type YamlText } from './yaml';

export interface MachineReading {
  /** Undefined exactly when `problems` holds an error. */
  readonly machine?: Machine;
  readonly problems: readonly Problem[];
  readonly source: Source;
}

/** Never throws over `text`. */
export function readMachine(text: string, name = 'machine.yaml'): MachineReading {
  const source = makeSource(name, text);
  const yaml = readYaml(source);
  const problems: MachineProblem[] = [...yaml.problems];
  const finish = (machine?: Machine): MachineReading => {
    const worded = toProblems(source, problems.slice(0, 200), explainMachine);
    return { source, problems: worded, ...(machine && !hasErrors(problems) && { machine }) };
  };
  if (yaml.data === undefined) return finish();
  const parsed = machineSchema.safeParse(yaml.data === '' || yaml.data === null ? {} : yaml.data);
  if (!parsed.success) {
    problems.push(...parsed.error.issues.slice(0, 40).flatMap((issue) => shapeProblems(yaml, issue)));
    return finish();
  }
  return finish(resolve({ source, yaml, document: parsed.data, problems }));
}

type Issue = { readonly code: string; readonly path: readonly PropertyKey[]; readonly message: string; readonly keys?: readonly string[] };

const KNOWN_KEYS = [
  'machine',
  'title',
  'word',
  'spaces',
  'registers',
  'flags',
  'formats',
  'cycle',
  'instructions',
  'traps',
  'bits',
  'cells',
  'fill',
  'role',
  'start',
  'parts',
  'rule',
  'subtract',
  'into',
  'ones',
  'phases',
  'first',
  'decode',
  'more',
  'execute',
  'finish',
  'phase',
  'ticks',
  'family',
  'forms',
  'write',
  'code',
  'name',
  'service',
  'argument',
  'result',
  'end',
];

function shapeProblems(yaml: YamlText, issue: Issue): MachineProblem[] {
  const path = issue.path.map((each) => (typeof each === 'symbol' ? String(each) : each));
  if (issue.code === 'unrecognized_keys') {
    return (issue.keys ?? []).map((key) => {
      const near = nearest(key, KNOWN_KEYS);
      return { code: 'unknown-key', grade: 'error', span: yaml.keySpanOf([...path, key]), key, ...(near && { nearest: near }) };
    });
  }
  const at = path.length ? path.filter((each) => typeof each === 'string').join(', ') : 'The document';
  const reason =
    issue.code === 'invalid_type' && issue.message.startsWith('Invalid input')
      ? 'something else is expected here, or this part is missing'
      : issue.message;
  return [{ code: 'wrong-shape', grade: 'error', span: yaml.spanOf(path), at, reason }];
}

function resolve(work: Work): Machine | undefined {
  const { document } = work;
  const registers = Object.entries(document.registers).map(([name, each]) => resolveRegister(work, name, each));
  const flags = Object.entries(document.flags ?? {}).map(([name, each]): Flag => ({
    name,
    title: each.title,
    ...(each.rule && { rule: each.rule }),
    noBorrow: each.subtract === 'no borrow',
    into: each.into ?? 4,
    odd: each.ones === 'odd',
    start: each.start ?? 0,
  }));
  const spaces = Object.entries(document.spaces).map(([name, each]): Space => {
    if ((each.fill ?? 0) >= 2 ** each.bits)
      report(work, ['spaces', name, 'fill'], { code: 'start-too-wide', value: each.fill!, bits: each.bits });
    const addressWidth = Math.max(1, Math.ceil(Math.log2(each.cells)));
    return { name, title: each.title || name, cells: each.cells, width: each.bits, fill: each.fill ?? 0, addressWidth };
  });
  if (spaces.length === 0)
    return void report(work, ['spaces'], { code: 'wrong-shape', at: 'spaces', reason: 'at least one memory is needed' });
  const programCounter = roleIndex(work, registers, 'program counter');
  const instructionRegister = roleIndex(work, registers, 'instruction');
  const formats = resolveFormats(work, spaces[0]!.width);
  if (programCounter === undefined || instructionRegister === undefined) return undefined;
  checkInstructionRegister(work, registers[instructionRegister]!, formats, spaces[0]!.width);
  const names = namesOf(work, registers, flags, spaces);
  const traps = resolveTraps(work, registers);
  const scope: Scope = { names, addressWidth: spaces[0]!.addressWidth };
  const { phases } = document.cycle;
  const cycle = resolveCycle(work, scope);
  const forms = resolveForms(work, { scope, formats, cycle, instructionRegister, registers });
  const machine: Machine = {
    name: document.machine,
    title: document.title,
    wordWidth: document.word.bits,
    registers,
    flags,
    spaces,
    phases,
    forms,
    traps,
    opening: [...cycle.first, cycle.decode],
    programCounter,
    instructionRegister,
    programSpace: 0,
  };
  checkMachine(work, machine);
  return machine;
}

type RegisterEntry = MachineDocument['registers'][string];

function resolveRegister(work: Work, name: string, entry: RegisterEntry): Register {
  const parts = new Map<string, Slice>();
  const register = Object.keys(work.document.registers).indexOf(name);
  for (const [part, text] of Object.entries(entry.parts ?? {})) {
    const match = /^(\d+)\s*:\s*(\d+)$/.exec(text.trim());
    const [high, low] = [Number(match?.[1]), Number(match?.[2])];
    if (!match || high < low || high >= entry.bits)
      report(work, ['registers', name, 'parts', part], { code: 'bad-part', text, width: entry.bits });
    else parts.set(part, { register, high, low });
  }
  if ((entry.start ?? 0) >= 2 ** entry.bits)
    report(work, ['registers', name, 'start'], { code: 'start-too-wide', value: entry.start!, bits: entry.bits });
  return { name, title: entry.title || name, ...(entry.role && { role: entry.role }), width: entry.bits, start: entry.start ?? 0, parts };
}

const ONE_OF_A_KIND: readonly Role[] = ['program counter', 'instruction', 'memory address', 'memory data'];

function roleIndex(work: Work, registers: readonly Register[], role: Role): number | undefined {
  const index = registers.findIndex((each) => each.role === role);
  if (index === -1) report(work, ['registers'], { code: 'role-missing', role });
  return index === -1 ? undefined : index;
}

/** opcode 8, address 8: names and widths from left to right, high to low, a kind behind the width. */
function resolveFormats(work: Work, cellWidth: number): Map<string, Format> {
  const formats = new Map<string, Format>();
  for (const [name, text] of Object.entries(work.document.formats)) {
    const path = ['formats', name];
    const items = text.split(',').map((each) => /^\s*([A-Za-z]\w*)\s+(\d{1,2})(?:\s+(unsigned|signed|either))?\s*$/.exec(each));
    if (items.some((each) => !each || Number(each[2]) < 1)) {
      report(work, path, { code: 'bad-format', text });
      continue;
    }
    const bits = items.reduce((sum, each) => sum + Number(each![2]), 0);
    if (bits % cellWidth !== 0 || bits / cellWidth > 4 || bits > 32) {
      report(work, path, { code: 'fields-do-not-add-up', format: name, bits, cell: cellWidth });
      continue;
    }
    let high = bits - 1;
    const fields = items.map((item): Field => {
      const width = Number(item![2]);
      high -= width;
      return { name: item![1]!, kind: (item![3] ?? 'unsigned') as FieldKind, high: high + width, low: high + 1 };
    });
    const twice = fields.find((each, index) => fields.findIndex((other) => other.name === each.name) !== index);
    if (twice) report(work, path, { code: 'field-twice', field: twice.name });
    formats.set(name, { name, cells: bits / cellWidth, fields });
  }
  return formats;
}

function checkInstructionRegister(work: Work, register: Register, formats: ReadonlyMap<string, Format>, cellWidth: number): void {
  const needed = Math.max(cellWidth, ...[...formats.values()].map((each) => each.cells * cellWidth));
  if (register.width === needed) return;
  report(work, ['registers', register.name, 'bits'], {
    code: 'instruction-register-width',
    needed,
    width: register.width,
    name: register.name,
  });
}

function namesOf(work: Work, registers: readonly Register[], flags: readonly Flag[], spaces: readonly Space[]): Map<string, Meaning> {
  const names = new Map<string, Meaning>();
  const put = (path: Path, name: string, meaning: Meaning): void => {
    if (names.has(name)) report(work, path, { code: 'name-twice', name, first: `a ${names.get(name)!.kind}` });
    else names.set(name, meaning);
  };
  registers.forEach((each, register) =>
    put(['registers', each.name], each.name, { kind: 'register', register, width: each.width, parts: each.parts }),
  );
  flags.forEach((each, flag) =>
    put(['flags', each.name], each.name, {
      kind: 'flag',
      flag,
      ...(each.rule && { rule: each.rule }),
      noBorrow: each.noBorrow,
      into: each.into,
      odd: each.odd,
    }),
  );
  spaces.forEach((each, space) => put(['spaces', each.name], each.name, { kind: 'space', space, width: each.width }));
  for (const role of ONE_OF_A_KIND) {
    const [one, other] = registers.filter((each) => each.role === role);
    if (one && other) report(work, ['registers', other.name, 'role'], { code: 'role-twice', role, one: one.name });
  }
  return names;
}

function readTicks(work: Work, path: Path, scope: Scope): Tick[] {
  return work.yaml.linesOf(path).flatMap(({ text, offset }) => {
    const { tick: syntax, problems } = parseTick(text, offset);
    work.problems.push(...problems);
    if (!syntax) return [];
    const checked = checkTick(syntax, scope);
    work.problems.push(...checked.problems);
    return checked.tick ?? [];
  });
}

interface Cycle {
  readonly first: readonly ScheduledTick[];
  readonly decode: ScheduledTick;
  readonly more: readonly ScheduledTick[];
  readonly executePhase: number;
  readonly finish: readonly ScheduledTick[];
}

function resolveCycle(work: Work, scope: Scope): Cycle {
  const { cycle } = work.document;
  const phaseOf = (part: string, phase: string): number => {
    const index = cycle.phases.indexOf(phase);
    if (index === -1) report(work, ['cycle', part, 'phase'], { code: 'unknown-phase', phase, phases: cycle.phases });
    return Math.max(0, index);
  };
  const shared = (part: 'first' | 'more' | 'finish'): ScheduledTick[] => {
    const entry = cycle[part];
    if (!entry) return [];
    const phase = phaseOf(part, entry.phase);
    return readTicks(work, ['cycle', part, 'ticks'], scope).map((tick) => ({ phase, part, tick }));
  };
  if (work.yaml.linesOf(['cycle', 'first', 'ticks']).length === 0) report(work, ['cycle', 'first'], { code: 'first-without-ticks' });
  const span = work.yaml.spanOf(['cycle', 'decode', 'phase']);
  return {
    first: shared('first'),
    decode: { phase: phaseOf('decode', cycle.decode.phase), part: 'decode', tick: { text: '', span, actions: [] } },
    more: shared('more'),
    executePhase: phaseOf('execute', cycle.execute.phase),
    finish: shared('finish'),
  };
}

interface FormContext {
  readonly scope: Scope;
  readonly formats: ReadonlyMap<string, Format>;
  readonly cycle: Cycle;
  readonly instructionRegister: number;
  readonly registers: readonly Register[];
}

function resolveForms(work: Work, context: FormContext): Form[] {
  const forms: Form[] = [];
  const shapes = new Map<string, string>();
  for (const [mnemonic, instruction] of Object.entries(work.document.instructions)) {
    instruction.forms.forEach((entry, at) => {
      const path = ['instructions', mnemonic, 'forms', at];
      const form = resolveForm(work, context, { mnemonic, instruction, entry, path, index: forms.length });
      if (!form) return;
      const shape = form.pieces.map((each) => ('text' in each ? each.text.replace(/\s+/g, ' ').toUpperCase() : '{}')).join('');
      if (shapes.has(shape)) report(work, [...path, 'write'], { code: 'forms-alike', written: form.written });
      shapes.set(shape, form.written);
      forms.push(form);
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

function resolveForm(work: Work, context: FormContext, { mnemonic, instruction, entry, path, index }: FormEntry): Form | undefined {
  const code = resolveCode(work, context.formats, entry.code, [...path, 'code']);
  const pieces = resolveWritten(work, entry.write.trim(), mnemonic, [...path, 'write']);
  if (!code || !pieces) return undefined;
  const { format, fixed } = code;
  const holes = pieces.flatMap((each) => ('field' in each ? [each.field] : []));
  const operands = format.fields.filter((each) => !fixed.some(({ field }) => field === each));
  for (const hole of holes) {
    if (!operands.some((each) => each.name === hole))
      report(work, [...path, 'write'], { code: 'unknown-field', field: hole, fields: operands.map((each) => each.name) });
  }
  const open = operands.find((each) => !holes.includes(each.name));
  if (open) report(work, [...path, 'write'], { code: 'field-without-value', field: open.name, written: entry.write });
  if (new Set(holes).size !== holes.length) report(work, [...path, 'write'], { code: 'field-twice', field: holes[0]! });
  const execute = readTicks(work, [...path, 'execute'], formScope(work, context, format, operands, path));
  const { cycle } = context;
  if (format.cells > 1 && cycle.more.length === 0) report(work, ['cycle'], { code: 'more-without-ticks', format: format.name });
  const schedule = [
    ...cycle.first,
    cycle.decode,
    ...Array.from({ length: format.cells - 1 }, () => cycle.more).flat(),
    ...execute.map((tick): ScheduledTick => ({ phase: cycle.executePhase, part: 'execute', tick })),
    ...cycle.finish,
  ];
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
  };
}

/** A field is a slice of the instruction register: what a wrong cycle failed to bring there is not known to the ticks. */
function formScope(work: Work, context: FormContext, format: Format, operands: readonly Field[], path: Path): Scope {
  const register = context.instructionRegister;
  const { width } = context.registers[register]!;
  const { bits } = Object.values(work.document.spaces)[0]!;
  const up = width - format.cells * bits;
  const names = new Map(context.scope.names);
  for (const { name, high, low } of operands) {
    if (names.has(name)) report(work, [...path, 'write'], { code: 'name-twice', name, first: `a ${names.get(name)!.kind}` });
    else if (up >= 0) names.set(name, { kind: 'field', slice: { register, high: high + up, low: low + up } });
  }
  return { ...context.scope, names };
}

/** code := format (field '=' number)* */
function resolveCode(
  work: Work,
  formats: ReadonlyMap<string, Format>,
  text: string,
  path: Path,
): Pick<Form, 'format' | 'fixed'> | undefined {
  const match = /^\s*([A-Za-z]\w*)((?:\s+[A-Za-z]\w*\s*=\s*\w+)*)\s*$/.exec(text);
  if (!match) return void report(work, path, { code: 'bad-code', text });
  const format = formats.get(match[1]!);
  if (!format) {
    const near = nearest(match[1]!, formats.keys());
    if (work.document.formats[match[1]!] === undefined)
      report(work, path, { code: 'unknown-format', format: match[1]!, ...(near && { nearest: near }) });
    return undefined;
  }
  const { bits } = Object.values(work.document.spaces)[0]!;
  const fixed: { field: Field; value: number }[] = [];
  for (const [, name, written] of match[2]!.matchAll(/([A-Za-z]\w*)\s*=\s*(\w+)/g)) {
    const field = format.fields.find((each) => each.name === name);
    const value = readNumber(written!);
    if (!field) return void report(work, path, { code: 'unknown-field', field: name!, fields: format.fields.map((each) => each.name) });
    if (value === undefined) return void report(work, path, { code: 'bad-code', text });
    const width = field.high - field.low + 1;
    if (value >= 2 ** width) return void report(work, path, { code: 'field-too-narrow', field: name!, value, bits: width });
    if (field.low < (format.cells - 1) * bits) return void report(work, path, { code: 'fixed-field-late', field: name! });
    if (fixed.some((each) => each.field === field)) return void report(work, path, { code: 'field-twice', field: name! });
    fixed.push({ field, value });
  }
  if (fixed.length === 0) return void report(work, path, { code: 'no-opcode', format: format.name });
  return { format, fixed };
}

/** 'ADD #{value}' becomes text and holes; it starts with the mnemonic. */
function resolveWritten(work: Work, text: string, mnemonic: string, path: Path): Piece[] | undefined {
  const pieces = text.split(/(\{[^{}]*\})/).filter((each) => each !== '');
  const good = new RegExp(`^${mnemonic}(?![A-Za-z0-9_])`).test(text);
  const read = pieces.map((each): Piece | undefined => {
    if (!/[{}]/.test(each)) return { text: each };
    const field = each.slice(1, -1).trim();
    return NAME.test(field) ? { field } : undefined;
  });
  if (good && read.every((each) => each !== undefined)) return read as Piece[];
  return void report(work, path, { code: 'bad-written-form', written: text, mnemonic });
}

function resolveTraps(work: Work, registers: readonly Register[]): Trap[] {
  const traps: Trap[] = [];
  for (const [key, entry] of Object.entries(work.document.traps ?? {})) {
    const path = ['traps', key];
    const number = readNumber(key);
    if (number === undefined || number >= 2 ** 32) report(work, path, { code: 'bad-number', text: key });
    else if (traps.some((each) => each.number === number)) report(work, path, { code: 'trap-twice', number });
    else {
      const register = (kind: 'argument' | 'result'): number | undefined => trapRegister(work, registers, path, kind, entry);
      const argument = register('argument');
      const result = register('result');
      traps.push({
        number,
        name: entry.name,
        service: entry.service,
        ...(argument !== undefined && { argument }),
        ...(result !== undefined && { result }),
        end: entry.end ?? 0,
      });
    }
  }
  return traps;
}

function trapRegister(
  work: Work,
  registers: readonly Register[],
  path: Path,
  kind: 'argument' | 'result',
  entry: NonNullable<MachineDocument['traps']>[string],
): number | undefined {
  const name = entry[kind];
  const needed = kind === 'result' ? entry.service === 'read number' : entry.service.startsWith('write');
  if (name === undefined) {
    if (needed) report(work, path, { code: 'trap-register-missing', key: kind, service: entry.service });
    return undefined;
  }
  const index = registers.findIndex((each) => each.name === name);
  if (index !== -1) return index;
  const near = nearest(
    name,
    registers.map((each) => each.name),
  );
  return void report(work, [...path, kind], { code: 'unknown-register', name, ...(near && { nearest: near }) });
}

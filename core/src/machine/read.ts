/** Machine document text in, Machine and problems out. The one door through which machines come. */
import { LANGUAGE } from '../notation/parse';
import { makeSource, placeAt, type Source } from '../text/source';
import { hasErrors, toProblems, type Problem } from '../text/diagnostic';
import { checkMachine } from './resolve/checks';
import { machineSchema, type MachineDocument } from './document/schema';
import { resolveGround, type Grounded } from './resolve/ground';
import { resolveForms, resolveShortForms } from './resolve/instructions';
import { TONES, type Family, type Form, type Machine } from './model/machine';
import { checkSpellings } from './resolve/spellings';
import { resolveAssembly, resolveSystem } from './resolve/programRules';
import { resolveFaults } from './resolve/traps';
import { rootCauses, type Defined } from './document/causes';
import { explainMachine, type MachineProblem } from './document/problems';
import { relatedPlaces } from './document/related';
import { shapeProblemsOf } from './document/findings';
import { slipIn, slipOfTheWhole } from './document/slips';
import { addProblem, type DocumentReading } from './resolve/reading';
import type { Remembered } from './resolve/remembered';
import { resolveWords } from './resolve/words';
import { derive, readYaml } from './document/yaml';
import type { ParseYaml } from './document/parsed';
import { itemAt } from '../text/itemAt';

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
  /** What is known of a document that is read again and again; filled and used. */
  readonly remembered?: Remembered;
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
  { name = 'machine.yaml', base, review, language = LANGUAGE, parse, remembered }: ReadOptions = {},
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
  const data = yaml.data === '' || yaml.data === null ? {} : yaml.data;
  const parsed = remembered ? remembered.document(data) : machineSchema.safeParse(data);
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
    ...(remembered && { remembered }),
  };
  const machine = resolve(reading);
  if (machine && !hasErrors(problems)) review?.(machine).forEach((each) => addProblem(reading, each));
  return finish(machine);
}

/** The language that a document says it is written in. */
function languageIn(data: unknown): number | undefined {
  const said = typeof data === 'object' && data !== null ? (data as { language?: unknown }).language : undefined;
  return typeof said === 'string' && /^[1-9][0-9]{0,8}$/.test(said.trim()) ? Number(said) : undefined;
}

function resolve(reading: DocumentReading): Machine | undefined {
  const { document, radix, remembered } = reading;
  const make = (): Grounded | undefined => resolveGround(reading);
  const ground = remembered ? remembered.ground(reading, make) : make();
  if (!ground) return undefined;
  const { program, cycle, whole } = ground;
  const forms = resolveForms(reading, ground);
  const { phases } = document.cycle;
  const system = resolveSystem(reading, program);
  const machine: Machine = {
    name: document.machine,
    language: reading.language,
    title: document.title,
    radix,
    ...baseOf(reading),
    ...whole,
    phases,
    forms,
    shortForms: resolveShortForms(reading),
    families: familiesOf(reading, forms),
    faults: resolveFaults(reading),
    ...(document['begins at'] !== undefined && { fixedStart: document['begins at'] }),
    programSpace: 0,
    assembly: resolveAssembly(reading, whole.traps, program.width),
    words: resolveWords(reading, { registers: whole.registers, flags: whole.flags, forms, phases }),
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

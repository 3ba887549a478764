/** (Machine, source) to Program: addresses in a first pass, values in a second. Takes all it knows from the machine. */
import { type DeclaredPlace, type Facts, type Program, type ProgramSymbol, type Row } from '../image/program';
import type { Machine } from '../machine/model/machine';
import { programSpaceOf } from '../machine/model/machine';
import { hasErrors, type Problem } from '../text/diagnostic';
import { makeSource } from '../text/source';
import { CHECKS, type CheckCode } from './check/checks';
import { fillLines, type Filled } from './place/fill';
import { addUse, machineNames } from './place/names';
import { placeLine } from './place/place';
import { MOST_CHARACTERS, readUnits } from './read/units';
import { explainAssembly, type AssemblyProblem } from './problems';
import { factsOf } from './check/facts';
import { noteSystem } from './check/flow';
import { reviewComments, reviewNames, reviewNumbers } from './check/remarks';
import { atTheDefinition, atTheEnding, atTheLabel, atTheWord, once, withoutConsequences } from './check/causes';
import { loneNames } from './check/loneNames';
import { lookAlikes } from './check/lookAlikes';
import { reviewFlow } from './check/review';
import type { Unit } from './read/syntax';
import { templatesOf } from './place/templates';
import { evaluate, valueOf } from './place/values';
import { keyOf, type Ground, type Placement } from './place/assembly';
import { tellProblems } from './telling';
import { itemAt } from '../text/itemAt';
import { perMachine } from '../machine/model/perMachine';

export { MOST_CHARACTERS };

export interface Assembly {
  /** Undefined exactly when `problems` holds an error. */
  readonly program?: Program;
  /** With errors: what could be finished, as far as there is an instruction to start with. */
  readonly partial?: Unfinished;
  readonly rows: readonly Row[];
  readonly problems: readonly Problem[];
  /** How unmarked numbers are read: at the end of the text, and from where `.origin` stands first. */
  readonly base: number;
}

export interface Unfinished {
  readonly program: Program;
  /** Addresses at which something is missing: the run has to stop before them. */
  readonly stops: readonly number[];
}

export interface Assembling {
  readonly name?: string;
  /** Texts of the course that programs may take in, by name. */
  readonly parts?: ReadonlyMap<string, string>;
  /** Warnings and remarks that are switched off. */
  readonly off?: ReadonlySet<CheckCode>;
}

const MOST_PASSES = 30;

/** Never throws over `text`. */
export function assemble(machine: Machine, text: string, { name = 'program', parts, off }: Assembling = {}): Assembly {
  const system = systemOf(machine)?.program;
  return assembleText(machine, { name, text }, { ...(system && { system }), isSystem: false, parts, off });
}

/** The machine's own routines, assembled; undefined where it has none. */
export const systemOf = perMachine(
  (machine): Assembly | undefined =>
    machine.system && assembleText(machine, { name: 'system', text: machine.system.source }, { isSystem: true }),
);

interface Way extends Pick<Ground, 'isSystem' | 'system'> {
  readonly parts?: Assembling['parts'] | undefined;
  readonly off?: Assembling['off'] | undefined;
}

function assembleText(machine: Machine, { name, text }: { name: string; text: string }, way: Way): Assembly {
  const source = makeSource(name, text);
  const units = readUnits({ source, machine, templates: templatesOf(machine), parts: way.parts });
  const ground: Ground = {
    machine,
    templates: templatesOf(machine),
    statements: units.statements,
    system: way.system,
    isSystem: way.isSystem,
    exact: units.exact,
  };
  const placement = placeAll(ground);
  const filled = fillLines(placement, units.all);
  for (const each of placement.names.values()) if (each.value === undefined) valueOf(placement, each);
  const start = startOf(placement, filled);
  const declared = declaredPlaces(placement);
  const all = [...units.problems, ...placement.problems, ...loneNames(placement)];
  const told = atTheLabel(once([...lookAlikes(units.all, all), ...all]));
  let found = withoutConsequences(units.all, atTheDefinition(placement, atTheEnding(placement, atTheWord(placement, told))));
  if (start === undefined && !hasErrors(found)) {
    found.push({ code: 'nothing-to-run', grade: 'error', span: { start: 0, end: Math.min(1, text.length) } });
  }
  const wrong = hasErrors(found);
  if (!way.isSystem) found = [...found, ...reviewNumbers(placement, units.chosen)];
  const shared = { rows: filled.rows.get(itemAt(units.all, 0))!, base: units.base };
  const explain = explainAssembly(machine);
  const tell = (): Problem[] => tellProblems(units.all, switched(found, way.off), explain);
  if (start === undefined) return { ...shared, problems: tell() };
  const facts = factsOf(placement, filled, start, units.base);
  const programWith = (more: Partial<Facts>): Program =>
    programOf(placement, filled, { units: units.all, declared, facts: { ...facts, ...more } });
  if (wrong) {
    // Of cells that two lines claim, nobody can say which is meant.
    const claimed = found.some((each) => each.code === 'cells-overlap');
    const partial = claimed ? undefined : partialOf(placement, filled, programWith({}));
    return { ...shared, problems: tell(), ...(partial && { partial }) };
  }
  if (way.isSystem) {
    const program = programWith({});
    noteSystem(machine, program);
    return { ...shared, problems: tell(), program };
  }
  const { problems: flow, outside, services, called } = reviewFlow(placement, start);
  found = [...found, ...reviewNames(placement, filled, start), ...reviewComments(placement, called), ...flow];
  const problems = tell();
  const warnings = problems.filter((each) => each.grade === 'warning').length;
  return { ...shared, problems, program: programWith({ outside, services, warnings }) };
}

/** Errors are always told; the rest as far as it is switched on, and not where an error stands already. */
function switched(problems: readonly AssemblyProblem[], off: Assembling['off']): AssemblyProblem[] {
  const silent = new Set<string>(CHECKS.filter((each) => off?.has(each.code)).map((each) => each.code));
  const errors = problems.filter((each) => each.grade === 'error');
  const overError = ({ span }: AssemblyProblem): boolean =>
    errors.some((each) => each.span.start <= span.start && each.span.end >= span.end);
  return problems.filter((each) => each.grade === 'error' || (!silent.has(each.code) && (errors.length > 200 || !overError(each))));
}

/** Forms that differ only in range start at the shortest and only grow, until nothing changes. */
function placeAll(ground: Ground): Placement {
  const grown = new Map<string, number>();
  for (let pass = 1; ; pass++) {
    const placement = startWork(ground, grown);
    for (const statement of ground.statements) placeLine(placement, statement);
    if (placement.routine) {
      const { name, span } = placement.routine;
      placement.problems.push({ code: 'routine-without-end', grade: 'error', span, name });
    }
    const tight = placement.growing.filter((each) => !each.fits());
    if (tight.length === 0) return placement;
    // What has not come to rest after many passes takes its longest form at once.
    for (const { key, most } of tight) grown.set(key, pass < MOST_PASSES ? (grown.get(key) ?? 0) + 1 : most);
  }
}

function startWork(ground: Ground, grown: Placement['grown']): Placement {
  const { machine, isSystem } = ground;
  const own = machine.system;
  const first = isSystem ? own!.from : (machine.fixedStart ?? (own?.from === 0 ? own.to + 1 : 0));
  return {
    ...ground,
    problems: [],
    names: machineNames(ground, ground.exact),
    placed: [],
    growing: [],
    grown,
    routines: [],
    routineNames: new Map(),
    declared: [],
    gaps: [],
    space: machine.programSpace,
    bank: 0,
    address: first,
    full: false,
    left: new Map(),
    routine: undefined,
    scope: undefined,
    user: undefined,
    here: 0,
    cellWidth: programSpaceOf(machine).width,
    total: 0,
    mostCells: 4 * machine.spaces.reduce((sum, each) => sum + each.cells * each.banks, 0),
    nesting: 0,
    within: undefined,
    depth: 0,
  };
}

/** What `.start` says, else the first instruction of the program's own text, else of its parts. */
function startOf(placement: Placement, { rows }: Filled): number | undefined {
  if (placement.begin) {
    const { expression, statement } = placement.begin;
    placement.user = statement;
    const value = evaluate(placement, expression);
    placement.user = undefined;
    const { cells, name } = programSpaceOf(placement.machine);
    if (value === undefined || (value >= 0 && value < cells)) return value;
    placement.problems.push({ code: 'address-outside', grade: 'error', span: expression.span, address: value, cells, space: name });
    return undefined;
  }
  for (const each of rows.values()) {
    const row = each.find(({ kind }) => kind === 'code');
    if (row) return row.address;
  }
  return undefined;
}

/** Places of declared inputs and outputs: the label of that name, or what is said behind “=”. */
function declaredPlaces(placement: Placement): DeclaredPlace[] {
  const { machine } = placement;
  return placement.declared.flatMap(({ way, word, statement, place, base, unit }): DeclaredPlace[] => {
    const shared = { way, name: word.text, base, unit, line: statement.unit.part === undefined ? statement.line : statement.unit.line };
    const named = place ? (place.kind === 'name' ? place : undefined) : word;
    const label = named === undefined ? undefined : placement.names.get(keyOf(placement, named));
    if (label?.kind === 'label') {
      addUse(label, shared.line);
      if (label.value === null || label.value === undefined) return [];
      return [{ ...shared, space: label.space ?? machine.programSpace, address: label.at ?? label.value }];
    }
    if (!place) {
      placement.problems.push({ code: 'declared-nowhere', grade: 'error', span: word.span, name: word.text });
      return [];
    }
    placement.user = statement;
    const address = evaluate(placement, place);
    placement.user = undefined;
    const { cells, name } = programSpaceOf(machine);
    if (address === undefined) return [];
    if (address >= 0 && address < cells) return [{ ...shared, space: machine.programSpace, address }];
    placement.problems.push({ code: 'address-outside', grade: 'error', span: place.span, address, cells, space: name });
    return [];
  });
}

function programOf(
  placement: Placement,
  { cells, rows }: Filled,
  { units, declared, facts }: { units: readonly Unit[]; declared: readonly DeclaredPlace[]; facts: Facts },
): Program {
  const symbols: ProgramSymbol[] = [];
  for (const each of placement.names.values()) {
    const { kind, value, word, line, unit, space, at, uses } = each;
    if (kind === 'machine' || typeof value !== 'number') continue;
    symbols.push({
      ...{ name: word.text, value, kind, line },
      ...(unit?.part !== undefined && { part: unit.part }),
      ...(space !== undefined && { space, at: at! }),
      uses: uses.length < 2 ? uses : [...new Set(uses)].sort((a, b) => a - b),
    });
  }
  const [own, ...others] = units;
  return {
    source: own!.source.text,
    cells,
    rows: rows.get(own!)!,
    symbols,
    facts,
    start: facts.start,
    routines: placement.routines.map(({ name, from, to, line, end, unit }) => ({
      name,
      from,
      to,
      line,
      end,
      ...(unit.part !== undefined && { part: unit.part }),
    })),
    parts: others.map((each) => ({ name: each.part!, line: each.line, source: each.source.text, rows: rows.get(each)! })),
    declared,
    ...(placement.system && { system: placement.system }),
  };
}

/** The finished part of a program with errors: it can run up to what is missing. */
function partialOf(placement: Placement, { cells, unfinished }: Filled, program: Program): Unfinished | undefined {
  const stops = [...new Set([...unfinished, ...placement.gaps])];
  const ready = cells.some((each) => each.address === program.start && each.space === placement.machine.programSpace);
  return ready && !stops.includes(program.start) ? { program, stops } : undefined;
}

/** Conditions and values that people watch, in the machine's notation. They look at a run and never touch it. */
import { programSpaceOf, type Machine } from '../../machine/model/machine';
import { numberRules, withLeadingZero } from '../../machine/model/numbers';
import type { Program } from '../../image/program';
import { checkExpr } from '../../notation/expressions';
import { parseExpr } from '../../notation/parse';
import type { Meaning, Scope } from '../../notation/scope';
import type { Expr } from '../../notation/tree';
import type { RefusedEntry } from '../meaning/entryProblems';
import { Evaluator } from '../meaning/evaluate';
import type { State } from '../meaning/state';

/** A value that is watched, as written and as understood. */
export interface Watched {
  readonly text: string;
  readonly expr: Expr;
}

/** What the names mean: everything of the machine, and the program's labels as addresses, in any case. */
function scopeOf(machine: Machine, program: Program | undefined): Scope {
  const names = new Map<string, Meaning>();
  const { addressWidth } = programSpaceOf(machine);
  for (const each of program?.symbols ?? []) {
    const value: Expr = { kind: 'literal', value: each.at ?? each.value, width: each.kind === 'label' ? addressWidth : machine.wordWidth };
    for (const name of [each.name.toLowerCase(), each.name.toUpperCase(), each.name]) names.set(name, { kind: 'value', value });
  }
  const nowhere = (width: number) => ({ kind: 'nowhere', width }) as const;
  machine.registers.forEach(({ name, also, width, parts }, register) => {
    for (const each of [name, also]) if (each !== undefined) names.set(each, { kind: 'register', register, width, parts });
  });
  for (const { name, first, count, scale, width } of machine.arrays) names.set(name, { kind: 'array', first, count, scale, width });
  for (const { name, options, width } of machine.views) names.set(name, { kind: 'view', options, width });
  for (const { name, value, width } of machine.composites) names.set(name, { kind: 'several', value, target: nowhere(width), width });
  const flags = new Map(
    machine.flags.map(({ name, line, noBorrow, into, odd }, flag) => [
      name,
      { kind: 'flag', flag, noBorrow, into, odd, ...(line && { line }) } as const,
    ]),
  );
  // A register that has the name of a flag is what the plain name means.
  for (const [name, flag] of flags) if (names.get(name)?.kind !== 'register') names.set(name, flag);
  machine.spaces.forEach(({ name, width, addressWidth: digits, banks }, space) =>
    names.set(name, { kind: 'space', space, width, addressWidth: digits, banks }),
  );
  if (machine.ports) names.set(machine.ports.name, { kind: 'ports', count: machine.ports.count, width: machine.ports.width });
  machine.devices.forEach(({ name, lines, width }, device) => names.set(name, { kind: 'device', device, lines, width }));
  return { names, flags, radix: machine.radix, addressWidth };
}

/** Characters that a condition may have. */
const MOST_CHARACTERS = 200;

/** Reads a condition or value; or says why it means nothing here. */
export function readWatched(machine: Machine, program: Program | undefined, text: string): Watched | RefusedEntry {
  const written = text.trim();
  if (written === '') return { refused: { code: 'nothing-typed', wanted: 'condition' } };
  if (written.length > MOST_CHARACTERS) return { refused: { code: 'too-long', most: MOST_CHARACTERS } };
  const { expr: syntax, problems } = parseExpr(written, 0, numberRules(machine));
  const work = { scope: scopeOf(machine, program), problems: [...problems] };
  const expr = syntax && checkExpr(work, syntax);
  const error = work.problems.find((each) => each.grade === 'error');
  if (error?.code === 'unknown-name') {
    const zeroed = withLeadingZero(error.name, machine.assembly.suffixes);
    if (zeroed) return { refused: { code: 'number-is-name', text: error.name, zeroed } };
  }
  if (!expr || error) return { refused: error ? { code: 'not-in-notation', problem: error } : { code: 'means-nothing', text: written } };
  return { text: written, expr };
}

/** Works watched values out without touching the run: devices are peeked at, nothing is taken or counted. */
export class Peeker {
  private readonly reads: Evaluator;

  constructor(machine: Machine, state: State) {
    this.reads = new Evaluator(machine, state, { foreign: true });
  }

  /** Undefined where the value cannot be worked out now, as of a cell past the end. */
  value({ expr }: Watched): number | undefined {
    this.reads.begin();
    const value = this.reads.value(expr);
    return this.reads.fault ? undefined : value;
  }
}

/** What one instruction does, tried alone: the places it touches before and after, and each tick in words. */
import { exampleWith } from '../../machine/model/examples';
import type { Form, Machine, Part } from '../../machine/model/machine';
import { emptyProgram, type Program } from '../../image/program';
import { itemAt } from '../../text/itemAt';
import type { PairRef } from '../meaning/report';
import type { Reported } from '../meaning/reportTick';
import { Runner } from '../control/runner';
import type { DatedEdit } from '../timeline/interventions';
import { narrate } from '../tell/narrate';
import { plain } from '../tell/telling';
import { faultReason } from '../tell/explainStop';
import { Bed, placeKey, widthAt, type BedPlace, type BedRun, type Given } from './bed';

export interface SamplePlace {
  /** By which it is set; see `Given`. */
  readonly key: string;
  readonly kind: BedPlace['kind'];
  /** As shown: a flag without the word. */
  readonly name: string;
  readonly width: number;
  readonly radix: number;
  readonly before: number;
  readonly after: number;
  /** A way to or from the memory, or where the instruction itself is held. */
  readonly inner: boolean;
}

export interface SampleTick {
  /** From 1. */
  readonly step: number;
  readonly phase: string;
  readonly part: Part;
  readonly text: string;
  readonly sentence: string;
}

export interface Sampled {
  readonly line: string;
  readonly cells: readonly string[];
  readonly at: number;
  readonly seed: number;
  readonly operands: Readonly<Record<string, number>>;
  /** Registers, then cells, then all flags. */
  readonly places: readonly SamplePlace[];
  readonly ticks: readonly SampleTick[];
  readonly output: string;
  readonly ended: BedRun['ended'];
  /** Why it did not come to its end; '' where it did. */
  readonly stopped: string;
}

/** Draws that are looked at for one in which something happens. */
const DRAWS = 16;
/** Values of an operand that are tried, from 0 on. */
const MOST_OPERANDS = 16;

/** Undefined where no values of its operands can be encoded. `system`: the machine's own routines, where it has any. */
export function tryForm(machine: Machine, form: Form, given: Given, system?: Program): Sampled | undefined {
  const bed = new Bed(machine, form, system);
  const { seed, operands } = given.seed === undefined ? liveliest(bed, given) : { seed: given.seed, operands: given.operands };
  const used = { ...given, operands };
  if (!bed.prepare(used, seed)) return undefined;
  const example = exampleWith(machine, form, bed.operands(used));
  if (!example) return undefined;
  const before = { registers: bed.state.registers.slice(), flags: bed.state.flags.slice() };
  const spaces = bed.state.spaces.map((each) => each.slice());
  const { reports, ended } = bed.run();
  const telling = { machine, state: bed.state };
  const ticks = reports.map(({ report }): SampleTick => {
    const { step, phase, part, text } = report;
    return { step, phase: itemAt(machine.phases, phase), part, text, sentence: plain(narrate(telling, report, 'done')) };
  });
  const at = (place: BedPlace): number =>
    place.kind === 'register'
      ? before.registers[place.register]!
      : place.kind === 'flag'
        ? before.flags[place.flag]!
        : spaces[place.space]![place.address]!;
  const fault = reports.at(-1)?.report.fault;
  return {
    ...{ line: example.line, cells: example.cells, at: bed.at, seed, ticks, ended, output: bed.state.control.output },
    operands: Object.fromEntries(bed.operands(used)),
    places: touched(machine, reports).map((place) => ({
      ...{ key: placeKey(machine, place), kind: place.kind, name: placeKey(machine, place).replace(/^flag /, '') },
      ...{ ...widthAt(machine, place), before: at(place), after: bed.get(place), inner: isInner(machine, place) },
    })),
    stopped: fault ? plain(faultReason(telling, fault)) : ended === 'waiting' ? 'It waits for a device that is not ready.' : '',
  };
}

/** The same as a run that stands before the instruction: to be followed tick by tick. Undefined where it cannot be encoded. */
export function runOf(machine: Machine, form: Form, given: Given, system?: Program): Runner | undefined {
  const bed = new Bed(machine, form, system);
  const { seed, operands } = given.seed === undefined ? liveliest(bed, given) : { seed: given.seed, operands: given.operands };
  const used = { ...given, operands };
  if (!bed.prepare(used, seed)) return undefined;
  const { at, state } = bed;
  const cells = Array.from({ length: form.format.cells }, (_, offset) => at + offset).map((address) => ({
    ...{ space: machine.programSpace, address, value: state.spaces[machine.programSpace]?.[address] ?? 0, line: 1 },
  }));
  const edits = [
    ...machine.registers.map((_, register): DatedEdit => ({ kind: 'register', register, value: state.registers[register] ?? 0, tick: 0 })),
    ...machine.flags.flatMap(({ line }, flag): DatedEdit[] =>
      line ? [] : [{ kind: 'flag', flag, value: state.flags[flag] ?? 0, tick: 0 }],
    ),
  ];
  const program = { ...emptyProgram(at, system), cells };
  return new Runner(machine, program, { keep: state, inputs: [...state.control.queue], edits });
}

interface Draw {
  readonly seed: number;
  readonly operands: Given['operands'];
}

/** The first draw in which most happens; where usual operands lead nowhere, as to a port with nothing behind it, small ones that do not. */
function liveliest(bed: Bed, given: Given): Draw {
  const usual = bestDraw(bed, given);
  if (usual.score >= 0) return { seed: usual.seed, operands: given.operands };
  for (const { name } of bed.form.operands) {
    if (given.operands[name] !== undefined) continue;
    for (let value = 0; value < MOST_OPERANDS; value++) {
      const operands = { ...given.operands, [name]: value };
      const { seed, score } = bestDraw(bed, { ...given, operands });
      if (score >= 0) return { seed, operands };
    }
  }
  return { seed: usual.seed, operands: given.operands };
}

function bestDraw(bed: Bed, given: Given): { readonly seed: number; readonly score: number } {
  let best = { seed: 1, score: -Infinity };
  for (let seed = 1; seed <= DRAWS; seed++) {
    if (!bed.prepare(given, seed)) return best;
    const score = scoreOf(bed.machine, bed.run());
    if (score > best.score) best = { seed, score };
  }
  return best;
}

function scoreOf(machine: Machine, { reports, ended }: BedRun): number {
  let score = ended === 'fault' ? -100 : ended === 'waiting' || ended === 'too long' ? -50 : 0;
  for (const { report, changes } of reports) {
    if (report.part !== 'execute' && report.part !== 'enter') continue;
    if (report.condition?.holds || report.guard?.holds) score += 5;
    for (const each of changes) {
      if (each.kind === 'register' && isInner(machine, { kind: 'register', register: each.register })) continue;
      if (each.kind === 'flag' && each.before === each.after) continue;
      score += 2;
    }
    // Small results are followed by hand.
    for (const each of report.transfers) if (each.value === 0) score -= 1;
  }
  return score;
}

function isInner(machine: Machine, place: BedPlace): boolean {
  if (place.kind !== 'register') return false;
  const { role } = itemAt(machine.registers, place.register);
  return role === 'memory address' || role === 'memory data' || machine.slots.some((each) => each.register === place.register);
}

/** Everything read or written once the instruction is known, PC, and every flag. */
function touched(machine: Machine, reports: readonly Reported[]): BedPlace[] {
  const registers = new Set<number>([machine.programCounter]);
  const cells = new Map<string, BedPlace>();
  const note = (place: { kind: string } | undefined): void => {
    if (place?.kind === 'pair') return (place as PairRef).registers.forEach((each) => registers.add(each));
    const known = place as BedPlace | undefined;
    if (known?.kind === 'register') registers.add(known.register);
    if (known?.kind === 'cell') cells.set(`${known.space} ${known.address}`, { kind: 'cell', space: known.space, address: known.address });
  };
  for (const { report, changes } of reports) {
    if (report.part !== 'execute' && report.part !== 'enter' && report.part !== 'finish') continue;
    const compared = report.compared?.sources ?? [];
    const asked = [...(report.condition?.readings ?? []), ...(report.guard?.readings ?? [])];
    for (const { sources, addressed, target } of report.transfers)
      [...sources, ...addressed]
        .map((each) => each.place)
        .concat(target)
        .forEach(note);
    for (const each of [...compared, ...asked]) note(each.place);
    changes.forEach(note);
  }
  return [
    ...[...registers].sort((a, b) => a - b).map((register): BedPlace => ({ kind: 'register', register })),
    ...cells.values(),
    ...machine.flags.map((_, flag): BedPlace => ({ kind: 'flag', flag })),
  ];
}

/** Values with which an instruction makes each of its flags once 0 and once 1: found by trying all there are, or many of them. */
import { flagsSetBy } from '../../machine/model/card';
import { effectsOf } from '../../machine/model/effects';
import { rangeOf } from '../../machine/model/encode';
import type { Form, Machine } from '../../machine/model/machine';
import type { Program } from '../../image/program';
import { itemAt } from '../../text/itemAt';
import { power, signedReading } from '../../text/number';
import { halvesOf } from '../meaning/report';
import type { ReadValue } from '../meaning/report';
import type { Reported } from '../meaning/reportTick';
import { Bed, mixed, NOTHING_GIVEN, placeKey, widthAt, type BedPlace } from './bed';

/** What is varied: a place, or the value of an operand. */
export type CaseInput = { readonly name: string; readonly width: number; readonly radix: number } & (
  | { readonly place: BedPlace }
  | { readonly operand: string; readonly signed: boolean }
);

export interface CaseRow {
  /** One an input. */
  readonly values: readonly number[];
  readonly result: number | undefined;
  /** One a flag that the instruction sets: what it is afterwards. */
  readonly flags: readonly number[];
}

export interface Cases {
  readonly inputs: readonly CaseInput[];
  /** Where the result goes, and its width; undefined where an instruction only compares. */
  readonly result: { readonly name: string; readonly width: number } | undefined;
  readonly flags: readonly string[];
  readonly rows: readonly CaseRow[];
  /** Values that a flag never took. */
  readonly never: readonly { readonly flag: string; readonly value: number }[];
  readonly tried: number;
  /** All values there are were tried, unless all cases were found before. */
  readonly exhaustive: boolean;
}

/** Fewer pairs than this are all tried; of more, so many are drawn. */
const ALL = 70_000;
const DRAWN = 20_000;
/** Tried before somebody else may have a turn. */
const AT_ONCE = 500;
const MOST_INPUTS = 3;

/** Yields now and then, so that it can be given up; undefined where the instruction sets no flags, or reads nothing. */
export function* findCases(machine: Machine, form: Form, system?: Program): Generator<void, Cases | undefined> {
  const flags = flagsSetBy(form);
  if (flags.length === 0) return undefined;
  const bed = new Bed(machine, form, system);
  if (!bed.prepare(NOTHING_GIVEN, 1)) return undefined;
  const { reports } = bed.run();
  const inputs = inputsOf(machine, form, reports).slice(0, MOST_INPUTS);
  if (inputs.length === 0) return undefined;
  const result = resultOf(reports);
  const search = new Search(bed, inputs, { flags, result });
  const sizes = inputs.map((each) => power(each.radix, each.width));
  const exhaustive = sizes.reduce((product, each) => product * each, 1) <= ALL;
  let untilPause = AT_ONCE;
  for (const values of exhaustive ? all(sizes) : many(sizes)) {
    search.attempt(values);
    if (search.complete) break;
    if (--untilPause > 0) continue;
    untilPause = AT_ONCE;
    yield;
  }
  const { rows, tried } = search;
  const found = needed(rows);
  const never = flags.flatMap((flag, at) =>
    [0, 1].flatMap((value) => (rows.some((row) => row.flags[at] === value) ? [] : [{ flag: itemAt(machine.flags, flag).name, value }])),
  );
  return {
    ...{ inputs, rows: found, never, tried, exhaustive: exhaustive || search.complete },
    flags: flags.map((flag) => itemAt(machine.flags, flag).name),
    result: result && { name: placeKey(machine, result), width: widthAt(machine, result).width },
  };
}

class Search {
  readonly rows: CaseRow[] = [];
  tried = 0;
  private readonly met = new Set<number>();

  constructor(
    private readonly bed: Bed,
    private readonly inputs: readonly CaseInput[],
    private readonly sought: { readonly flags: readonly number[]; readonly result: BedPlace | undefined },
  ) {}

  get complete(): boolean {
    return this.met.size === 2 * this.sought.flags.length;
  }

  attempt(values: readonly number[]): void {
    const { bed, inputs } = this;
    const { flags, result } = this.sought;
    this.tried++;
    const operands = Object.fromEntries(
      inputs.flatMap((each, at) =>
        'operand' in each ? [[each.operand, each.signed ? signedReading(values[at]!, each.width, each.radix) : values[at]!]] : [],
      ),
    );
    if (!bed.prepare({ operands, places: {} }, 1)) return;
    inputs.forEach((each, at) => 'place' in each && bed.put(each.place, values[at]!));
    if (!bed.runBlindly()) return;
    const after = flags.map((flag) => bed.get({ kind: 'flag', flag }));
    const news = after.map((value, at) => 2 * at + value).filter((each) => !this.met.has(each));
    if (news.length === 0) return;
    news.forEach((each) => this.met.add(each));
    this.rows.push({ values: [...values], result: result && bed.get(result), flags: after });
  }
}

/** Rows without which some case would be missing; the later ones tell more at once. */
function needed(rows: readonly CaseRow[]): CaseRow[] {
  const kept = [...rows];
  for (const row of rows) {
    const others = kept.filter((each) => each !== row);
    if (row.flags.every((value, at) => others.some((each) => each.flags[at] === value))) kept.splice(kept.indexOf(row), 1);
  }
  return kept;
}

/** Values at which flags turn, first; then in order. */
function edges(size: number): number[] {
  const half = Math.floor(size / 2);
  return [
    ...new Set([1, size - 1, half, half - 1, 0, 2, half + 1, size - 2, 3, 5, 7, 9, 15, 16].filter((each) => each >= 0 && each < size)),
  ];
}

function* product(lists: readonly (readonly number[])[]): Generator<number[]> {
  const [first, ...rest] = lists;
  if (!first) return yield [];
  for (const value of first) for (const others of product(rest)) yield [value, ...others];
}

function* all(sizes: readonly number[]): Generator<number[]> {
  yield* product(sizes.map(edges));
  yield* product(sizes.map((size) => Array.from({ length: size }, (_, value) => value)));
}

function* many(sizes: readonly number[]): Generator<number[]> {
  yield* product(sizes.map(edges));
  for (let draw = 0; draw < DRAWN; draw++) yield sizes.map((size, at) => mixed(draw, at) % size);
}

/** Values that the instruction finds and works with, in the order of their reading; addresses on their way are none. */
function inputsOf(machine: Machine, form: Form, reports: readonly Reported[]): CaseInput[] {
  const found = new Map<string, CaseInput>();
  const written = new Set<string>();
  const inside = new Set(machine.slots.map((each) => each.register));
  const { addressFields, targetFields, requestFields } = effectsOf(machine, form);
  const note = (reading: ReadValue): void => {
    const { place, name } = reading;
    if (place?.kind === 'pair') return halvesOf(machine, place).forEach((half) => note({ ...reading, place: half }));
    if (place?.kind === 'register' && inside.has(place.register)) {
      const field = form.operands.find((each) => each.name === name);
      if (!field || field.names || [addressFields, targetFields, requestFields].some((each) => each.has(field.name))) return;
      if (rangeOf(field, machine.radix).least > 0 || field.dropped > 0 || field.bias !== 0) return;
      found.set(`= ${field.name}`, {
        name: field.name,
        width: field.width,
        radix: machine.radix,
        operand: field.name,
        signed: field.kind === 'signed',
      });
      return;
    }
    const known =
      place?.kind === 'register'
        ? ({ kind: 'register', register: place.register } as const)
        : place?.kind === 'cell'
          ? ({ kind: 'cell', space: place.space, address: place.address } as const)
          : place?.kind === 'flag' && !itemAt(machine.flags, place.flag).line
            ? ({ kind: 'flag', flag: place.flag } as const)
            : undefined;
    if (!known || (known.kind === 'register' && known.register === machine.programCounter)) return;
    const key = placeKey(machine, known);
    if (!written.has(key)) found.set(key, { name: key.replace(/^flag /, ''), ...widthAt(machine, known), place: known });
  };
  for (const { report, changes } of reports) {
    if (report.part === 'execute') {
      for (const { sources, path } of report.transfers) if (path === 'data') sources.forEach(note);
      report.compared?.sources.forEach(note);
      report.condition?.readings.forEach(note);
    }
    for (const each of changes) if (each.kind !== 'latch') written.add(placeKey(machine, each));
  }
  const order = (each: CaseInput): number => ('operand' in each ? 1 : { register: 0, cell: 2, flag: 3 }[each.place.kind]);
  return [...found.values()].sort((a, b) => order(a) - order(b));
}

/** Where the value goes by which the flags were set. */
function resultOf(reports: readonly Reported[]): BedPlace | undefined {
  const setting = reports.map((each) => each.report).findLast((each) => each.flags.some((flag) => flag.worked !== undefined));
  const target = setting?.transfers.find((each) => each.worked !== undefined)?.target ?? setting?.transfers.at(-1)?.target;
  if (setting?.compared) return undefined;
  if (target?.kind === 'register') return { kind: 'register', register: target.register };
  return target?.kind === 'cell' ? { kind: 'cell', space: target.space, address: target.address } : undefined;
}

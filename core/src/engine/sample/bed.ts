/** A machine on which one instruction is run alone: every place holds a value that is drawn, the same each time, or given. */
import { exampleAddress, usualValues } from '../../machine/model/examples';
import { encode, rangeOf } from '../../machine/model/encode';
import { registersByName, type Form, type Machine } from '../../machine/model/machine';
import type { Program } from '../../image/program';
import { itemAt } from '../../text/itemAt';
import { power } from '../../text/number';
import { TickExecutor } from '../meaning/interpret';
import { reportTick, type Reported } from '../meaning/reportTick';
import { CODE, createState, loadProgram, LOADED, restoreState, copyState, type State } from '../meaning/state';

/**
 * What somebody has set. Places by name: “ACC” a register, “flag Z” a flag, “M[5]” a cell (counted over all banks);
 * operands by the name of their field. Everything else is drawn by the seed.
 */
export interface Given {
  readonly operands: Readonly<Record<string, number>>;
  readonly places: Readonly<Record<string, number>>;
  /** What is drawn; without one, a draw in which something happens. */
  readonly seed?: number;
}

export const NOTHING_GIVEN: Given = { operands: {}, places: {} };

/** A place that holds a value before the instruction. */
export type BedPlace =
  | { readonly kind: 'register'; readonly register: number }
  | { readonly kind: 'flag'; readonly flag: number }
  | { readonly kind: 'cell'; readonly space: number; readonly address: number };

/** The name by which somebody sets a place. */
export function placeKey({ registers, flags, spaces }: Machine, place: BedPlace): string {
  switch (place.kind) {
    case 'register':
      return itemAt(registers, place.register).name;
    case 'flag':
      return `flag ${itemAt(flags, place.flag).name}`;
    case 'cell':
      return `${itemAt(spaces, place.space).name}[${place.address}]`;
    default:
      return place satisfies never;
  }
}

/** Undefined where the machine has no such place. */
export function placeOfKey({ registers, flags, spaces }: Machine, key: string): BedPlace | undefined {
  const cell = /^(\w+)\[(\d+)\]$/.exec(key);
  if (cell) {
    const space = spaces.findIndex((each) => each.name === cell[1]);
    const address = Number(cell[2]);
    const { cells, banks } = spaces[space] ?? { cells: 0, banks: 0 };
    return address < cells * banks ? { kind: 'cell', space, address } : undefined;
  }
  const flag = key.startsWith('flag ') ? flags.findIndex((each) => each.name === key.slice(5)) : -1;
  if (flag !== -1) return { kind: 'flag', flag };
  const register = registersByName(registers).get(key);
  return register === undefined ? undefined : { kind: 'register', register };
}

/** How many digits a place holds. */
export const widthAt = ({ registers, spaces, radix }: Machine, place: BedPlace): { readonly width: number; readonly radix: number } =>
  place.kind === 'register'
    ? { width: itemAt(registers, place.register).width, radix }
    : place.kind === 'cell'
      ? { width: itemAt(spaces, place.space).width, radix }
      : { width: 1, radix: 2 };

/** A number from 0 to 2^32 − 1 that depends on both in no way that shows. */
export function mixed(seed: number, index: number): number {
  let hash = Math.imul(seed + 0x9e37, 0x85ebca6b) ^ Math.imul(index + 1, 0xc2b2ae35);
  hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
  hash = Math.imul(hash ^ (hash >>> 12), 0x297a2d39);
  return (hash ^ (hash >>> 15)) >>> 0;
}

/** The longest instruction that is tried: one that waits would go on for ever. */
export const MOST_TICKS = 96;
const MOST_STALLS = 3;
/** What services and keyboards are given, one after the other. */
const INPUTS = 8;

export interface BedRun {
  readonly reports: readonly Reported[];
  readonly ended: 'done' | 'halted' | 'waiting' | 'fault' | 'too long';
}

/** One instruction of a form, loaded where examples lie. */
export class Bed {
  readonly at: number;
  readonly state: State;
  private readonly executor: TickExecutor;
  private readonly blank: State;
  private readonly usual: ReadonlyMap<string, number>;

  constructor(
    readonly machine: Machine,
    readonly form: Form,
    system: Program | undefined,
  ) {
    this.at = exampleAddress(machine, form);
    this.usual = usualValues(machine, form);
    this.state = createState(machine);
    this.state.spaces.forEach((cells, space) => {
      const { width } = itemAt(machine.spaces, space);
      for (let address = 0; address < cells.length; address++) cells[address] = drawn(machine.radix, width, mixed(space, address));
    });
    if (system) loadProgram(machine, this.state, system);
    this.state.kinds.fill(CODE, this.at, this.at + form.format.cells);
    this.state.marks.forEach((each) => each.fill(LOADED));
    this.blank = copyState(this.state);
    this.executor = new TickExecutor(machine, this.state);
  }

  /** Values of the operands, the usual ones where none are given or given ones do not fit. */
  operands({ operands }: Given): ReadonlyMap<string, number> {
    const { radix } = this.machine;
    return new Map(
      this.form.operands.map((field): [string, number] => {
        const usual = this.usual.get(field.name) ?? 0;
        const value = operands[field.name];
        const free = field.relative || field.page;
        const { least, greatest } = rangeOf(field, radix);
        return [field.name, value !== undefined && (free || (value >= least && value <= greatest)) ? value : usual];
      }),
    );
  }

  /** The state before the instruction; false where the operands cannot be encoded. */
  prepare(given: Given, seed: number): boolean {
    const { machine, state, at } = this;
    const encoded = encode(machine, this.form, this.operands(given), at);
    if ('refused' in encoded) return false;
    restoreState(state, this.blank);
    this.drawRegisters(seed);
    machine.flags.forEach(({ line }, flag) => {
      if (!line) state.flags[flag] = mixed(seed, 1000 + flag) & 1;
    });
    encoded.cells.forEach((value, offset) => {
      state.spaces[machine.programSpace]![at + offset] = value;
    });
    state.registers[machine.programCounter] = at;
    state.control.queue = Array.from({ length: INPUTS }, (_, each) => 65 + ((each * 7) % 26));
    for (const [key, value] of Object.entries(given.places)) {
      const place = placeOfKey(machine, key);
      if (place) this.put(place, value);
    }
    return true;
  }

  put(place: BedPlace, value: number): void {
    const { state, machine } = this;
    const { width, radix } = widthAt(machine, place);
    const fits = value % power(radix, width);
    if (place.kind === 'flag') state.flags[place.flag] = fits;
    else if (place.kind === 'cell') state.spaces[place.space]![place.address] = fits;
    else if (!itemAt(machine.registers, place.register).zero) state.registers[place.register] = fits;
  }

  get(place: BedPlace): number {
    const { state } = this;
    if (place.kind === 'flag') return state.flags[place.flag] ?? 0;
    return place.kind === 'cell' ? state.spaces[place.space]![place.address]! : state.registers[place.register]!;
  }

  /** Runs the instruction to its end, with a report of each tick. */
  run(): BedRun {
    const reports: Reported[] = [];
    for (let stalls = 0; reports.length < MOST_TICKS;) {
      const reported = reportTick(this.executor);
      reports.push(reported);
      if (reported.report.stalled && ++stalls >= MOST_STALLS) return { reports, ended: 'waiting' };
      if (reported.outcome !== 'done') return { reports, ended: reported.outcome };
      if (this.state.control.instructions > 0) return { reports, ended: 'done' };
    }
    return { reports, ended: 'too long' };
  }

  /** The same without reports; whether it came to its end. */
  runBlindly(): boolean {
    for (let ticks = 0; ticks < MOST_TICKS; ticks++) {
      const outcome = this.executor.tick();
      if (outcome !== 'done') return outcome === 'halted';
      if (this.state.control.instructions > 0) return true;
    }
    return false;
  }

  private drawRegisters(seed: number): void {
    const { machine, state } = this;
    const inside = new Set(machine.slots.map((each) => each.register));
    machine.registers.forEach(({ width, zero, start }, register) => {
      const stack = machine.stacks.find((each) => each.pointer === register);
      if (zero || inside.has(register)) state.registers[register] = zero ? 0 : start;
      else if (stack) state.registers[register] = Math.floor((stack.from + stack.to) / 2);
      else state.registers[register] = drawn(machine.radix, width, mixed(seed, register));
    });
  }
}

/** Small values and values of any size in turn: people follow the first, and flags need the second. */
function drawn(radix: number, width: number, hash: number): number {
  const size = power(radix, width);
  const small = Math.min(size, radix === 10 ? 100 : 64);
  return (hash >>> 8) % ((hash & 3) === 0 ? small : size);
}

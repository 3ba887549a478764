/**
 * The compiled executor: leaps over whole instructions, and stops before whatever needs a look, which the tick executor
 * then does. Both work on one state, so neither can tell who did what.
 */
import type { Machine } from '../../machine/model/machine';
import type { StopCondition } from './stopConditions';
import { EXIT, compile, type Compiled, type CompileOptions } from './compile';
import { BREAK, FRAME, FRAME_BYTES, HEADER, LOOK } from './layout';
import { attachmentsOf, type Attachments } from '../meaning/devices';
import type { TickExecutor } from '../meaning/interpret';
import { BY_RUN, DATA, looksForEmpty, moveState, NEVER, OVER_CODE, type Frame, type State, type Storage } from '../meaning/state';
import { wasmHost, type WasmMemory } from './wasm/host';
import { CELL } from '../meaning/writes';

interface Made {
  readonly compiled: Compiled;
  readonly module: object;
}

/** Modules by what the machine is and what is wished; those asked for last, at the end. */
const made = new Map<string, Made | undefined>();
const MOST_MADE = 24;
/** Short names of what machines are: a long text is compared once for a machine, not at each of its runs. */
const names = new Map<string, number>();
let lastName = 0;
const nameOfMachine = new WeakMap<Machine, number>();

/** Everything that a machine is: the same machine read again is not compiled again. */
function nameOf(machine: Machine): number {
  const known = nameOfMachine.get(machine);
  if (known !== undefined) return known;
  const content = JSON.stringify(machine, (_, value: unknown) => (value instanceof Map ? [...value] : value));
  const name = names.get(content) ?? ++lastName;
  names.set(content, name);
  if (names.size > MOST_MADE) names.delete(names.keys().next().value!);
  nameOfMachine.set(machine, name);
  return name;
}

/** A machine's module; made once for each set of wishes. Undefined where there can be none. */
function moduleFor(machine: Machine, options: CompileOptions): Made | undefined {
  const host = wasmHost();
  if (!host) return undefined;
  const key = `${nameOf(machine)} ${JSON.stringify(options)}`;
  const found = made.has(key) ? made.get(key) : makeModule(host, machine, options);
  made.delete(key);
  made.set(key, found);
  if (made.size > MOST_MADE) made.delete(made.keys().next().value!);
  return found;
}

function makeModule(host: NonNullable<ReturnType<typeof wasmHost>>, machine: Machine, options: CompileOptions): Made | undefined {
  const compiled = compile(machine, options);
  const module = compiled && moduleOf(host, compiled.bytes);
  return compiled && module && { compiled, module };
}

/** Undefined where the page's policy does not allow modules. */
function moduleOf(host: NonNullable<ReturnType<typeof wasmHost>>, bytes: Uint8Array): object | undefined {
  try {
    return new host.Module(bytes);
  } catch {
    return undefined;
  }
}

export const PLAIN: CompileOptions = { counts: false, watchedRegisters: [], watchedFlags: [], asked: [], notes: false };

/** What a leap is not to go past. */
export interface Limits {
  /** Ticks and instructions that may be done at most. */
  readonly ticks: number;
  readonly instructions: number;
  /** Stops where no more calls than this are open; −1: anywhere. */
  readonly depth: number;
  /** Bits of what is asked that held at the boundary before: it stops where another begins to hold. */
  readonly held?: number;
}

/** What a run looks for besides memory: another module serves it. */
export interface Looks {
  readonly registers?: readonly number[];
  readonly flags?: readonly number[];
  readonly asked?: readonly StopCondition[];
  /** Notes the last boundary where something asked held, and does not stop there. */
  readonly notes?: boolean;
}

/** What is watched in memory: a leap stops before it. */
export interface Guarded {
  readonly addresses: ReadonlySet<number>;
  readonly reads: readonly { readonly space: number; readonly address: number }[];
  readonly writes: readonly { readonly space: number; readonly address: number }[];
  /** Reads of cells that were never written are told. */
  readonly tellsNever: boolean;
}

/** Sums over the leaps, as `Counts` keeps them. */
export interface LeaptCounts {
  readonly executions: ReadonlyMap<number, number>;
  /** By address: instructions that can go on or jump, and how often those went on elsewhere than behind themselves. */
  readonly branches: ReadonlyMap<number, number>;
  readonly taken: ReadonlyMap<number, number>;
  readonly forms: ReadonlyMap<number, number>;
  readonly phases: ReadonlyMap<number, number>;
  readonly reads: readonly ReadonlyMap<number, number>[];
  readonly writes: readonly ReadonlyMap<number, number>[];
  readonly deepest: number;
  readonly stacks: ReadonlyMap<number, number>;
}

export const UNGUARDED: Guarded = { addresses: new Set(), reads: [], writes: [], tellsNever: false };

export class CompiledRun {
  private readonly storage: Storage;
  private state: State | undefined;
  private readonly memory: WasmMemory;
  private readonly header: Int32Array;
  private readonly view: DataView;
  private stamps: Int32Array;
  private readonly readGuards: readonly Uint8Array[];
  private readonly writeGuards: readonly Uint8Array[];
  private readonly stops: Uint8Array;
  private readonly attachments: Attachments;
  private run: (instructions: number, depth: number, base: number) => number;
  private compiled: Compiled;
  private options: CompileOptions;
  private guarded: Guarded = UNGUARDED;
  private fresh = false;
  private readonly remarked: Uint8Array[];
  private beginning:
    | { readonly reads: readonly Uint8Array[]; readonly writes: readonly Uint8Array[]; readonly stops: Uint8Array }
    | undefined;
  /** Cells that are not as they were at the beginning, or may not be; and by space which these are. All: any may not be. */
  private touched: { readonly space: number; readonly address: number }[] = [];
  private readonly isTouched: Uint8Array[];
  private allTouched = false;
  /** The frames that lie in memory, by depth. */
  private readonly frames: Frame[] = [];
  /** Bits of what was asked that held at the last boundary that the last leap asked at. */
  held = 0;
  /** The tick of the last boundary of the last leap where something asked held. */
  noted: number | undefined;

  private constructor(
    private readonly machine: Machine,
    { compiled, module }: Made,
    options: CompileOptions,
  ) {
    const { Memory } = wasmHost()!;
    const { layout, decoding } = compiled;
    this.compiled = compiled;
    this.options = options;
    this.memory = new Memory({ initial: layout.pages });
    const { buffer } = this.memory;
    this.header = new Int32Array(buffer, 0, 16);
    this.view = new DataView(buffer);
    this.stamps = new Int32Array(buffer, layout.stamps, compiled.stamps.length);
    const sizes = machine.spaces.map((each) => each.cells * each.banks);
    this.readGuards = layout.readGuards.map((at, space) => new Uint8Array(buffer, at, sizes[space]));
    this.writeGuards = layout.writeGuards.map((at, space) => new Uint8Array(buffer, at, sizes[space]));
    this.stops = new Uint8Array(buffer, layout.stops, sizes[machine.programSpace]);
    this.remarked = sizes.map((each) => new Uint8Array(each));
    this.isTouched = sizes.map((each) => new Uint8Array(each));
    new Uint16Array(buffer, layout.decode, decoding.table.length).set(decoding.table);
    this.attachments = attachmentsOf(machine);
    this.storage = {
      registers: new Uint32Array(buffer, layout.registers, machine.registers.length),
      flags: new Uint8Array(buffer, layout.flags, machine.flags.length),
      spaces: layout.cells.map((at, space) => new Uint32Array(buffer, at, sizes[space])),
    };
    this.run = this.instance(module);
  }

  /** Undefined where the machine cannot be compiled, or modules are not allowed here. With counts it is slower. */
  static for(machine: Machine, { counts = false }: { counts?: boolean } = {}): CompiledRun | undefined {
    const options = { ...PLAIN, counts };
    const found = moduleFor(machine, options);
    return found && new CompiledRun(machine, found, options);
  }

  private instance(module: object): typeof this.run {
    const { exports } = new (wasmHost()!.Instance)(module, { env: { memory: this.memory } });
    return exports['run'] as typeof this.run;
  }

  /** The state to work on: it is moved into the module's memory. */
  attach(state: State): void {
    moveState(state, this.storage);
    this.state = state;
    this.fresh = false;
  }

  /** Cells and addresses are looked up in memory, all else asks for another module: false where there can be none. */
  watch({ registers = [], flags = [], asked = [], notes = false }: Looks): boolean {
    const options = { counts: this.options.counts, watchedRegisters: registers, watchedFlags: flags, asked, notes };
    if (JSON.stringify(options) === JSON.stringify(this.options)) return true;
    const found = moduleFor(this.machine, options);
    if (!found) return false;
    this.options = options;
    this.compiled = found.compiled;
    this.stamps = new Int32Array(this.memory.buffer, found.compiled.layout.stamps, found.compiled.stamps.length);
    this.run = this.instance(found.module);
    return true;
  }

  /** What the leaps have counted since this was asked last; undefined where they do not count. */
  takeCounts(): LeaptCounts | undefined {
    const { machine, memory, options } = this;
    if (!options.counts) return undefined;
    const { counters } = this.compiled.layout;
    const sizes = machine.spaces.map((each) => each.cells * each.banks);
    const take = (at: number, length: number): Map<number, number> => {
      const list = new Uint32Array(memory.buffer, at, length);
      const counted = new Map<number, number>();
      list.forEach((count, index) => count > 0 && counted.set(index, count));
      list.fill(0);
      return counted;
    };
    const program = sizes[machine.programSpace]!;
    return {
      executions: take(counters.executions, program),
      branches: take(counters.branches, program),
      taken: take(counters.taken, program),
      forms: take(counters.forms, machine.forms.length),
      phases: take(counters.phases, machine.phases.length),
      reads: counters.reads.map((at, space) => take(at, sizes[space]!)),
      writes: counters.writes.map((at, space) => take(at, sizes[space]!)),
      deepest: take(counters.deepest, 1).get(0) ?? 0,
      stacks: take(counters.stacks, machine.stacks.length),
    };
  }

  guard(guarded: Guarded): void {
    if (guarded === this.guarded) return;
    this.guarded = guarded;
    this.fresh = false;
  }

  /** The state was changed by other means than ticks that `noteTick` was told of. */
  changed(): void {
    this.fresh = false;
  }

  /** Reads of a never-written cell are told once. */
  remarkedNever(space: number, address: number): void {
    this.remarked[space]![address] = 1;
    this.touch(space, address);
    this.readGuards[space]![address] = this.readGuard(space, address);
  }

  forgetRemarks(): void {
    for (const each of this.remarked) each.fill(0);
    this.fresh = false;
  }

  /** After a tick of the tick executor. */
  noteTick({ writes }: TickExecutor): void {
    for (let at = 0; at < writes.count; at++) {
      const { kind, index, place } = writes.at(at);
      if (kind !== CELL) continue;
      this.touch(index, place);
      this.readGuards[index]![place] = this.readGuard(index, place);
      this.writeGuards[index]![place] = this.writeGuard(index, place);
    }
  }

  private readGuard(space: number, address: number): number {
    const { attachments, guarded, state, remarked } = this;
    if (attachments.cells[space]?.has(address)) return 1;
    if (guarded.reads.some((each) => each.space === space && each.address === address)) return 1;
    return guarded.tellsNever && state!.marks[space]![address] === NEVER && remarked[space]![address] === 0 ? 1 : 0;
  }

  private writeGuard(space: number, address: number): number {
    const { attachments, guarded, state } = this;
    const mark = state!.marks[space]![address]!;
    // The first write of a cell changes its mark.
    if (mark !== BY_RUN && mark !== OVER_CODE) return 1;
    if (attachments.cells[space]?.has(address) || attachments.cellWrites[space]?.has(address)) return 1;
    return guarded.writes.some((each) => each.space === space && each.address === address) ? 1 : 0;
  }

  /** What is guarded in the state as it is now is kept, for many runs that begin so; `again` brings it back. */
  keepBeginning(): void {
    this.refresh();
    const copies = (list: readonly Uint8Array[]): readonly Uint8Array[] => list.map((each) => each.slice());
    this.beginning = { reads: copies(this.readGuards), writes: copies(this.writeGuards), stops: this.stops.slice() };
    this.untouch();
  }

  /**
   * The state is to be that of `keepBeginning` again: `put` is told of each cell that may have been written since, and
   * may be told of others; where any may have been, it gives false and the whole state has to be put back. A hand's cells
   * are the caller's. What was guarded then is guarded again: such a cell may be looked at once too often, which changes
   * nothing.
   */
  again(put: (space: number, address: number) => void): boolean {
    const { beginning, touched, remarked } = this;
    if (!beginning) {
      this.changed();
      return false;
    }
    const all = this.allTouched;
    if (all) {
      this.readGuards.forEach((each, at) => each.set(beginning.reads[at]!));
      this.writeGuards.forEach((each, at) => each.set(beginning.writes[at]!));
      this.stops.set(beginning.stops);
      for (const each of remarked) each.fill(0);
    }
    for (const { space, address } of touched) {
      this.readGuards[space]![address] = beginning.reads[space]![address]!;
      this.writeGuards[space]![address] = beginning.writes[space]![address]!;
      remarked[space]![address] = 0;
      if (!all) put(space, address);
    }
    this.untouch();
    this.frames.length = 0;
    this.fresh = true;
    return !all;
  }

  /** The first write of a cell is done by the tick executor, so that every one that is written is met here. */
  private touch(space: number, address: number): void {
    if (!this.beginning || this.isTouched[space]![address] === 1) return;
    this.isTouched[space]![address] = 1;
    this.touched.push({ space, address });
  }

  private untouch(): void {
    for (const { space, address } of this.touched) this.isTouched[space]![address] = 0;
    this.touched = [];
    this.allTouched = false;
  }

  private refresh(): void {
    const { machine, guarded, state, stops } = this;
    machine.spaces.forEach((_, space) => {
      const [reads, writes, marks, remarked] = [
        this.readGuards[space]!,
        this.writeGuards[space]!,
        state!.marks[space]!,
        this.remarked[space]!,
      ];
      for (let address = 0; address < marks.length; address++) {
        const mark = marks[address]!;
        writes[address] = mark === BY_RUN || mark === OVER_CODE ? 0 : 1;
        reads[address] = guarded.tellsNever && mark === NEVER && remarked[address] === 0 ? 1 : 0;
      }
      for (const map of [this.attachments.cells[space], this.attachments.cellWrites[space]])
        for (const address of map?.keys() ?? []) {
          reads[address] = this.readGuard(space, address);
          writes[address] = 1;
        }
    });
    for (const { space, address } of guarded.reads) this.readGuards[space]![address] = 1;
    for (const { space, address } of guarded.writes) this.writeGuards[space]![address] = 1;
    const checksData = machine.faults['executing data'] !== undefined;
    stops.fill(0);
    if (checksData) state!.kinds.forEach((kind, address) => kind === DATA && (stops[address] = LOOK));
    if (looksForEmpty(machine))
      state!.marks[machine.programSpace]!.forEach((mark, address) => mark === NEVER && address < stops.length && (stops[address] = LOOK));
    for (const address of guarded.addresses) if (address < stops.length) stops[address] = stops[address]! | BREAK;
    this.frames.length = 0;
    this.fresh = true;
    this.allTouched = true;
  }

  /**
   * From a boundary on: whole instructions, then perhaps a part of one that needs a look. Gives the ticks that were
   * done; 0 where the tick executor has to do the next one.
   */
  leap({ ticks, instructions, depth, held = 0 }: Limits): number {
    this.held = held;
    this.noted = undefined;
    const { longest } = this.compiled;
    // So many instructions take at most so many ticks.
    const most = Math.min(Math.floor(ticks / longest), instructions, MOST_INSTRUCTIONS);
    if (most < 1) return 0;
    if (!this.fresh) this.refresh();
    const { header } = this;
    const { control } = this.state!;
    const base = control.ticks;
    header[HEADER.here / 4] = control.here;
    header[HEADER.next / 4] = control.next;
    header[HEADER.jumped / 4] = control.jumped ? 1 : 0;
    header[HEADER.form / 4] = control.form?.index ?? -1;
    header[HEADER.beyond / 4] = control.beyond;
    header[HEADER.broken / 4] = control.callStackBroken ? 1 : 0;
    const calls = this.framesIn(control.callStack);
    header[HEADER.depth / 4] = calls;
    header[HEADER.lowest / 4] = calls;
    header[HEADER.ticks / 4] = control.callStack && !control.callStack.saved ? control.callStack.returnTo : -1;
    header[HEADER.held / 4] = held;
    header[HEADER.noted / 4] = -1;
    const exit = this.run(most, depth, base);
    this.comeBack(base, exit);
    return control.ticks - base;
  }

  private comeBack(base: number, exit: number): void {
    const { header, machine, stamps, compiled } = this;
    const { control, flagTicks } = this.state!;
    const step = exit === EXIT.look ? header[HEADER.step / 4]! : 0;
    // Ticks that a guard left out are taken off before the instruction has made them: only the sum is not negative.
    control.ticks = base + ((header[HEADER.ticks / 4]! + step) >>> 0);
    control.instructions += header[HEADER.instructions / 4]! >>> 0;
    control.here = header[HEADER.here / 4]!;
    control.next = header[HEADER.next / 4]!;
    control.jumped = header[HEADER.jumped / 4] === 1;
    const form = header[HEADER.form / 4]!;
    control.form = form < 0 ? undefined : machine.forms[form];
    control.step = step;
    control.schedule = step === 0 ? machine.opening : (control.form?.schedule ?? machine.opening);
    control.beyond = header[HEADER.beyond / 4]!;
    this.held = header[HEADER.held / 4]!;
    const noted = header[HEADER.noted / 4]!;
    this.noted = noted < 0 ? undefined : base + noted;
    control.callStackBroken = header[HEADER.broken / 4] === 1;
    control.callStack = this.framesOut(header[HEADER.depth / 4]!, header[HEADER.lowest / 4]!);
    compiled.stamps.forEach((flags, at) => {
      const stamp = stamps[at]!;
      if (stamp !== 0) for (const flag of flags) flagTicks[flag] = Math.max(flagTicks[flag]!, base + stamp);
    });
  }

  /** Puts the open calls into memory where they are not there yet; gives how many they are. */
  private framesIn(chain: Frame | undefined): number {
    const { frames, view } = this;
    for (let frame = chain; frame && frames[frame.depth - 1] !== frame; frame = frame.parent) {
      frames[frame.depth - 1] = frame;
      const at = this.compiled.layout.frames + (frame.depth - 1) * FRAME_BYTES;
      view.setInt32(at + FRAME.kind, frame.kind === 'trap' ? 1 : 0, true);
      view.setInt32(at + FRAME.from, frame.from, true);
      view.setInt32(at + FRAME.target, frame.target, true);
      view.setInt32(at + FRAME.returnTo, frame.returnTo, true);
      view.setInt32(at + FRAME.saved, frame.saved ? 1 : 0, true);
      view.setFloat64(at + FRAME.tick, frame.tick, true);
    }
    const depth = chain?.depth ?? 0;
    frames.length = depth;
    return depth;
  }

  private framesOut(depth: number, lowest: number): Frame | undefined {
    const { frames, view } = this;
    frames.length = Math.min(frames.length, lowest, depth);
    while (frames.length < depth) {
      const at = this.compiled.layout.frames + frames.length * FRAME_BYTES;
      frames.push({
        kind: view.getInt32(at + FRAME.kind, true) === 1 ? 'trap' : 'call',
        from: view.getInt32(at + FRAME.from, true),
        target: view.getInt32(at + FRAME.target, true),
        returnTo: view.getInt32(at + FRAME.returnTo, true),
        depth: frames.length + 1,
        parent: frames.at(-1),
        tick: view.getFloat64(at + FRAME.tick, true),
        kept: [],
        saved: view.getInt32(at + FRAME.saved, true) === 1,
      });
    }
    return frames.at(-1);
  }
}

/** So that the ticks of a leap are counted by an i32. */
const MOST_INSTRUCTIONS = 20_000_000;

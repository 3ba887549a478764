/** Breakpoints and print-points: what they watch, and whether the run has just done it. They never change the run. */
import type { Machine } from '../../machine/model/machine';
import type { StopCondition } from '../compile/stopConditions';
import { Peeker, type Watched } from './conditions';
import type { TickExecutor } from '../meaning/interpret';
import { deviceLatch, portLatch, type State } from '../meaning/state';
import { CELL, FLAG, LATCH, REGISTER } from '../meaning/writes';

/** Something whose writing can be watched. `device`: what it shows. */
export type WatchedPlace =
  | { readonly kind: 'register'; readonly register: number }
  | { readonly kind: 'flag'; readonly flag: number }
  | { readonly kind: 'cell'; readonly space: number; readonly address: number }
  | { readonly kind: 'port'; readonly port: number }
  | { readonly kind: 'device'; readonly device: number };

export type BreakOn =
  /** Before the instruction there. */
  | { readonly kind: 'address'; readonly address: number }
  /** After a write, whatever it writes; or after one that makes a difference. */
  | { readonly kind: 'write' | 'change'; readonly place: WatchedPlace }
  | { readonly kind: 'read'; readonly space: number; readonly address: number }
  | { readonly kind: 'output' }
  /** When it begins to hold. */
  | { readonly kind: 'condition'; readonly condition: Watched };

export interface Breakpoint {
  readonly id: number;
  readonly on: BreakOn;
  readonly enabled: boolean;
  /** It is passed this many times before it stops the run. */
  readonly ignore: number;
  /** With it the run goes on, and the value is written into the wake. */
  readonly print?: Watched;
}

/** What a breakpoint has seen. `tick` did it, of the instruction at `here`. */
export interface Hit {
  readonly breakpoint: Breakpoint;
  readonly tick: number;
  readonly here: number;
  readonly before?: number;
  readonly after?: number;
  /** Text that was written, for one on output. */
  readonly output?: string;
}

/** What a print-point wrote. Without a value it could not be worked out. */
export interface Printed {
  readonly tick: number;
  readonly text: string;
  readonly value: number | undefined;
  /** Digits of the value. */
  readonly width: number;
}

interface Cell {
  readonly space: number;
  readonly address: number;
}

const MOST_PRINTED = 2000;

interface Placed {
  readonly breakpoint: Breakpoint;
  readonly kind: number;
  readonly index: number;
  readonly address: number;
}

/** A watched place as writes name it; `address` is for cells. */
export function placeOf(machine: Machine, place: WatchedPlace): { kind: number; index: number; address: number } {
  switch (place.kind) {
    case 'register':
      return { kind: REGISTER, index: place.register, address: 0 };
    case 'flag':
      return { kind: FLAG, index: place.flag, address: 0 };
    case 'cell':
      return { kind: CELL, index: place.space, address: place.address };
    case 'port':
      return { kind: LATCH, index: portLatch(place.port), address: 0 };
    case 'device':
      return { kind: LATCH, index: deviceLatch(machine, place.device, 'value'), address: 0 };
    default:
      return place satisfies never;
  }
}

export class BreakpointWatch {
  private list: readonly Breakpoint[] = [];
  private readonly counts = new Map<number, number>();
  private addresses = new Map<number, Breakpoint[]>();
  private placed: Placed[] = [];
  private reads: (Breakpoint & { on: BreakOn & { kind: 'read' } })[] = [];
  private outputs: Breakpoint[] = [];
  private conditions: { readonly breakpoint: Breakpoint; readonly condition: Watched; held: boolean }[] = [];
  /** What the ticks since the last boundary have done. */
  private pending: Hit[] = [];
  private readonly prints: Printed[] = [];
  private printedUpTo = 0;
  private readonly peeker: Peeker;

  constructor(
    private readonly machine: Machine,
    private readonly state: State,
    private readonly executor: TickExecutor,
  ) {
    this.peeker = new Peeker(machine, state);
  }

  /** Counts of hits stay with those that stay. */
  set(list: readonly Breakpoint[]): void {
    this.list = list;
    const live = list.filter((each) => each.enabled);
    for (const id of this.counts.keys()) if (!list.some((each) => each.id === id)) this.counts.delete(id);
    this.addresses = new Map();
    this.placed = [];
    this.reads = [];
    this.outputs = [];
    this.conditions = [];
    this.pending = [];
    for (const each of live) this.sort(each);
  }

  private sort(breakpoint: Breakpoint): void {
    const { on } = breakpoint;
    switch (on.kind) {
      case 'address':
        this.addresses.set(on.address, [...(this.addresses.get(on.address) ?? []), breakpoint]);
        return;
      case 'write':
      case 'change':
        this.placed.push({ breakpoint, ...placeOf(this.machine, on.place) });
        return;
      case 'read':
        this.reads.push({ ...breakpoint, on });
        return;
      case 'output':
        this.outputs.push(breakpoint);
        return;
      case 'condition':
        this.conditions.push({ breakpoint, condition: on.condition, held: this.holds(on.condition) });
        return;
      default:
        on satisfies never;
    }
  }

  private holds(condition: Watched): boolean {
    return (this.peeker.value(condition) ?? 0) !== 0;
  }

  /** Those that are set, in force or not. */
  get all(): readonly Breakpoint[] {
    return this.list;
  }

  /** Whether ticks have to be looked at one by one. */
  get watching(): boolean {
    return this.placed.length > 0 || this.reads.length > 0 || this.outputs.length > 0;
  }

  /** Conditions that may begin to hold at any boundary. */
  get asked(): readonly StopCondition[] {
    return this.conditions.map(({ condition: { expr } }) => ({ kind: 'value', expr }));
  }

  /** Bits of those that held at the boundary before; set where boundaries were passed by other means. */
  get held(): number {
    return this.conditions.reduce((bits, { held }, at) => (held ? bits | (1 << at) : bits), 0);
  }

  set held(bits: number) {
    this.conditions.forEach((each, at) => (each.held = (bits & (1 << at)) !== 0));
  }

  /** What is to be looked at, by place. Devices, ports and output are always looked at. */
  get places(): {
    readonly addresses: ReadonlySet<number>;
    readonly registers: number[];
    readonly flags: number[];
    readonly cells: Cell[];
    readonly reads: Cell[];
  } {
    const of = (kind: number): Placed[] => this.placed.filter((each) => each.kind === kind);
    return {
      addresses: new Set(this.addresses.keys()),
      registers: of(REGISTER).map((each) => each.index),
      flags: of(FLAG).map((each) => each.index),
      cells: of(CELL).map((each) => ({ space: each.index, address: each.address })),
      reads: this.reads.map((each) => each.on),
    };
  }

  /** Whether some of them watch what is read. */
  get wantsReads(): boolean {
    return this.reads.length > 0;
  }

  /** How often each has been hit, by its id. */
  hitsOf(id: number): number {
    return this.counts.get(id) ?? 0;
  }

  /** Before a run begins: nothing that was done before it counts, by ticks or by hand. */
  begin(): void {
    this.pending = [];
    for (const each of this.conditions) each.held = this.holds(each.condition);
  }

  private valueAt({ kind, index, address }: Placed): number {
    const { state } = this;
    if (kind === REGISTER) return state.registers[index]!;
    if (kind === FLAG) return state.flags[index]!;
    return kind === CELL ? state.spaces[index]![address]! : state.latches[index]!;
  }

  private before: number[] = [];

  /** Before a tick that is to be looked at. */
  beforeTick(): void {
    for (let at = 0; at < this.placed.length; at++) this.before[at] = this.valueAt(this.placed[at]!);
  }

  /** After a tick that was done: notes what it did that is watched. */
  afterTick(): void {
    const { writes, cellsRead } = this.executor;
    const { says } = this.executor.does;
    const { ticks, here } = this.state.control;
    const told = { tick: ticks, here };
    for (let at = 0; at < this.placed.length; at++) {
      const { breakpoint, kind, index, address } = this.placed[at]!;
      const [before, after] = [this.before[at]!, this.valueAt(this.placed[at]!)];
      if (breakpoint.on.kind === 'change' && before === after) continue;
      for (let write = 0; write < writes.count; write++) {
        const done = writes.at(write);
        if (done.kind !== kind || done.index !== index || (kind === CELL && done.place !== address)) continue;
        this.pending.push({ breakpoint, ...told, before, after });
        break;
      }
    }
    if (says !== '') for (const breakpoint of this.outputs) this.pending.push({ breakpoint, ...told, output: says });
    for (const breakpoint of this.reads) {
      const { space, address } = breakpoint.on;
      if (cellsRead.some((each) => each.space === space && each.address === address))
        this.pending.push({ breakpoint, ...told, after: this.state.spaces[space]![address]! });
    }
  }

  /**
   * At a boundary: counts every hit, lets print-points write, and gives the hits that stop the run. `arriving` is false
   * where the run sets out from here: it does not stop at the breakpoint that it stands at.
   */
  atBoundary({ arriving }: { arriving: boolean }): readonly Hit[] {
    const { control, registers } = this.state;
    const hits = this.pending;
    if (hits.length > 0) this.pending = [];
    const told = { tick: control.ticks, here: control.here };
    const found = [...hits];
    for (const each of this.conditions) {
      const holds = this.holds(each.condition);
      if (holds && !each.held) found.push({ breakpoint: each.breakpoint, ...told });
      each.held = holds;
    }
    if (arriving && this.addresses.size > 0) {
      const here = this.addresses.get(registers[this.machine.programCounter]!);
      if (here) found.push(...here.map((breakpoint) => ({ breakpoint, ...told })));
    }
    return found.length === 0 ? found : found.filter((each) => this.count(each));
  }

  /** True where a hit stops the run. */
  private count({ breakpoint }: Hit): boolean {
    const { id, print, ignore } = breakpoint;
    const hits = this.hitsOf(id) + 1;
    this.counts.set(id, hits);
    if (hits <= ignore) return false;
    if (!print) return true;
    this.print(print);
    return false;
  }

  private print(watched: Watched): void {
    const { ticks } = this.state.control;
    if (ticks < this.printedUpTo) return;
    this.printedUpTo = ticks;
    if (this.prints.some((each) => each.tick === ticks && each.text === watched.text)) return;
    const value = this.peeker.value(watched);
    this.prints.push({ tick: ticks, text: watched.text, value, width: watched.expr.width });
    if (this.prints.length > MOST_PRINTED) this.prints.splice(0, MOST_PRINTED / 4);
  }

  /** What was hit and printed after a tick belongs to a future that is given up. */
  forgetAfter(tick: number): void {
    const kept = this.prints.filter((each) => each.tick <= tick);
    this.prints.length = 0;
    this.prints.push(...kept);
    this.printedUpTo = Math.min(this.printedUpTo, tick);
  }

  /** What print-points wrote from one tick to another, both included. */
  printed(from: number, to: number): readonly Printed[] {
    return this.prints.filter((each) => each.tick >= from && each.tick <= to);
  }
}

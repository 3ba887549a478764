/** What a run is counted by, on request: where it was, what it read and wrote, which ways it took. */
import { canBranch } from '../../machine/model/effects';
import type { Machine } from '../../machine/model/machine';
import { depthOf } from '../meaning/callStack';
import type { LeaptCounts } from '../compile/compiled';
import type { TickExecutor } from '../meaning/interpret';
import { placesUsed } from '../meaning/stacks';
import { deviceLatch, type State } from '../meaning/state';
import { CELL } from '../meaning/writes';

export interface Branching {
  readonly taken: number;
  readonly notTaken: number;
}

export interface CountsTaken {
  /** Of the program space: how often the instruction at each address was executed. */
  readonly executions: ReadonlyMap<number, number>;
  /** By space, then by address; fetches count as reads. */
  readonly reads: readonly ReadonlyMap<number, number>[];
  readonly writes: readonly ReadonlyMap<number, number>[];
  /** By the index of the written form. */
  readonly forms: ReadonlyMap<number, number>;
  /** By phase. */
  readonly phases: readonly number[];
  /** By the address of an instruction that can go on or jump. */
  readonly branches: ReadonlyMap<number, Branching>;
  /** Most calls open at once. */
  readonly deepest: number;
  /** By stack: most places in use at once. */
  readonly stacks: readonly number[];
  /** By device. */
  readonly polls: readonly { readonly busy: number; readonly ready: number; readonly reads: number }[];
}

const more = (counts: Map<number, number>, key: number): void => void counts.set(key, (counts.get(key) ?? 0) + 1);

export class Counts {
  private readonly executions = new Map<number, number>();
  private readonly reads: Map<number, number>[];
  private readonly writes: Map<number, number>[];
  private readonly forms = new Map<number, number>();
  private readonly phases: number[];
  private readonly branches = new Map<number, { taken: number; notTaken: number }>();
  private deepest = 0;
  private instructions: number;
  private readonly stacks: number[];

  constructor(
    private readonly machine: Machine,
    private readonly state: State,
    /** Has to keep the cells that it reads. */
    private readonly executor: TickExecutor,
  ) {
    this.instructions = state.control.instructions;
    this.reads = machine.spaces.map(() => new Map());
    this.writes = machine.spaces.map(() => new Map());
    this.phases = machine.phases.map(() => 0);
    this.stacks = machine.stacks.map(() => 0);
  }

  /** After each tick that was done. */
  afterTick(): void {
    const { executor, state } = this;
    const { control } = state;
    const { phase } = executor.done!;
    this.phases[phase] = this.phases[phase]! + 1;
    for (const { space, address } of executor.cellsRead) more(this.reads[space]!, address);
    for (let at = 0; at < executor.writes.count; at++) {
      const { kind, index, place } = executor.writes.at(at);
      if (kind === CELL) more(this.writes[index]!, place);
    }
    this.deepest = Math.max(this.deepest, depthOf(control));
    if (control.instructions === this.instructions) return;
    this.instructions = control.instructions;
    this.machine.stacks.forEach((_, stack) => {
      const used = placesUsed(this.machine, state, stack);
      const { from, to } = this.machine.stacks[stack]!;
      if (used <= to - from + 1) this.stacks[stack] = Math.max(this.stacks[stack]!, used);
    });
    more(this.executions, control.here);
    const { form } = control;
    if (!form) return;
    more(this.forms, form.index);
    if (canBranch(this.machine, form)) this.branch(control.here, control.jumped);
  }

  /** After a leap, which counts by itself; but the ticks of an instruction that it has left to the tick executor. */
  afterLeap(): void {
    const { instructions, step, schedule } = this.state.control;
    this.instructions = instructions;
    for (const { phase } of schedule.slice(0, step)) this.phases[phase] = this.phases[phase]! + 1;
  }

  /** Takes over what leaps have counted. */
  add(leapt: LeaptCounts): void {
    const into = (sums: Map<number, number>, counted: ReadonlyMap<number, number>): void =>
      counted.forEach((count, key) => sums.set(key, (sums.get(key) ?? 0) + count));
    into(this.executions, leapt.executions);
    into(this.forms, leapt.forms);
    leapt.reads.forEach((each, space) => into(this.reads[space]!, each));
    leapt.writes.forEach((each, space) => into(this.writes[space]!, each));
    leapt.phases.forEach((count, phase) => (this.phases[phase] = this.phases[phase]! + count));
    this.deepest = Math.max(this.deepest, leapt.deepest);
    leapt.stacks.forEach((used, stack) => (this.stacks[stack] = Math.max(this.stacks[stack]!, used)));
    for (const [address, count] of leapt.branches) {
      const counts = this.branches.get(address) ?? { taken: 0, notTaken: 0 };
      const taken = leapt.taken.get(address) ?? 0;
      this.branches.set(address, { taken: counts.taken + taken, notTaken: counts.notTaken + count - taken });
    }
  }

  private branch(address: number, jumped: boolean): void {
    const counts = this.branches.get(address) ?? { taken: 0, notTaken: 0 };
    this.branches.set(address, counts);
    if (jumped) counts.taken++;
    else counts.notTaken++;
  }

  /** All counts so far. */
  get taken(): CountsTaken {
    const { machine, state, executions, reads, writes, forms, phases, branches, deepest, stacks } = this;
    const polls = machine.devices.map((_, device) => {
      const count = (which: 'busyPolls' | 'readyPolls' | 'dataReads'): number => state.latches[deviceLatch(machine, device, which)]!;
      return { busy: count('busyPolls'), ready: count('readyPolls'), reads: count('dataReads') };
    });
    return { executions, reads, writes, forms, phases, branches, deepest, stacks, polls };
  }
}

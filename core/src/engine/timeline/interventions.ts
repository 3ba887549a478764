/** What comes from outside a run at settled ticks: plans for devices, and what hands and scripts do. Done again whenever the run is. */
import type { Machine } from '../../machine/model/machine';
import { plannedValue } from '../meaning/devices';
import { applyChange, TICK_BY_HAND, deviceLatch, type Change, type Plan, type State } from '../meaning/state';

/** What a hand does: sets a latch, as switches are, a register, a flag or a cell with its mark; or gives one more input. */
export type Edit =
  | { readonly kind: 'latch'; readonly latch: number; readonly value: number }
  | { readonly kind: 'register'; readonly register: number; readonly value: number }
  | { readonly kind: 'flag'; readonly flag: number; readonly value: number }
  | { readonly kind: 'cell'; readonly space: number; readonly address: number; readonly value: number; readonly mark: number }
  /** The queue of inputs from now on, those that are used up included. */
  | { readonly kind: 'inputs'; readonly queue: readonly number[] };

/** `scripted`: given with the run, so no new future forgets it. */
export type DatedEdit = Edit & { readonly tick: number; readonly scripted?: boolean };

/** The change that an edit makes to a state now; undefined where it makes none. */
function changeOf(state: State, edit: Exclude<Edit, { kind: 'inputs' }>): Change | undefined {
  const { value } = edit;
  switch (edit.kind) {
    case 'latch': {
      const before = state.latches[edit.latch]!;
      return before === value ? undefined : { kind: 'latch', latch: edit.latch, before, after: value };
    }
    case 'register': {
      const before = state.registers[edit.register]!;
      return before === value ? undefined : { kind: 'register', register: edit.register, before, after: value };
    }
    case 'flag': {
      const before = state.flags[edit.flag]!;
      const tickBefore = state.flagTicks[edit.flag]!;
      return { kind: 'flag', flag: edit.flag, before, after: value, tickBefore, tickAfter: TICK_BY_HAND };
    }
    case 'cell': {
      const { space, address, mark } = edit;
      const before = state.spaces[space]![address]!;
      const markBefore = state.marks[space]![address]!;
      if (before === value && markBefore === mark) return undefined;
      return { kind: 'cell', space, address, before, after: value, markBefore, markAfter: mark };
    }
    default:
      return edit satisfies never;
  }
}

/** Inputs of the script come after whatever is queued by then: `adds` is what they bring, unless they replace the queue. */
type KeptEdit = DatedEdit & { readonly adds?: readonly number[] };

const isPrefix = (start: readonly number[], whole: readonly number[]): boolean =>
  start.length <= whole.length && start.every((each, at) => each === whole[at]);

export class Interventions {
  /** By tick; those of one tick in the order in which they act. */
  private edits: readonly KeptEdit[];
  private inputs: readonly number[];
  /** Plans that a tick fulfils. */
  private readonly planned: readonly (Plan & { readonly tick: number })[];
  private readonly machine: Machine;
  private next = Infinity;

  /** `inputs`: the queue before the first tick. */
  constructor(
    machine: Machine,
    { inputs, plans, edits }: { readonly inputs: readonly number[]; readonly plans: readonly Plan[]; readonly edits: readonly DatedEdit[] },
  ) {
    this.machine = machine;
    this.inputs = inputs;
    this.planned = plans.flatMap((plan) => (plan.until.kind === 'tick' ? [{ ...plan, tick: plan.until.tick }] : []));
    let queue = inputs;
    this.edits = edits
      .map((each) => ({ ...each, scripted: each.scripted ?? true }))
      .sort((a, b) => a.tick - b.tick)
      .map((each): KeptEdit => {
        if (each.kind !== 'inputs') return each;
        const grows = each.scripted && isPrefix(queue, each.queue);
        const adds = grows ? each.queue.slice(queue.length) : undefined;
        queue = each.queue;
        return { ...each, ...(adds && { adds }) };
      });
  }

  /** What is done at which tick, in the order of doing. */
  get all(): readonly DatedEdit[] {
    return this.edits;
  }

  /** The tick of the next one after the tick that was looked at last; Infinity where none is to come. */
  get nextTick(): number {
    return this.next;
  }

  /** Looks for the next one after a tick. */
  lookFrom(tick: number): void {
    this.next = this.after(tick);
  }

  /** The tick of the first one behind a tick; Infinity where there is none. */
  after(tick: number): number {
    let next = Infinity;
    for (const each of this.edits) if (each.tick > tick && each.tick < next) next = each.tick;
    for (const each of this.planned) if (each.tick > tick && each.tick < next) next = each.tick;
    return next;
  }

  /** The inputs that hands will give after a tick, in a future that was travelled back from. */
  handedAfter(tick: number): readonly number[] {
    let queue = this.inputs;
    return this.edits.flatMap((each) => {
      if (each.kind !== 'inputs') return [];
      const before = queue;
      queue = each.queue;
      return each.tick > tick && !each.scripted && isPrefix(before, each.queue) ? each.queue.slice(before.length) : [];
    });
  }

  /** Inputs that were not the script's: the first ones, and those that hands give at any tick. */
  get handed(): readonly number[] {
    const first = this.edits.find((each) => each.kind === 'inputs' && each.tick === 0 && !each.scripted);
    const start = first?.kind === 'inputs' ? first.queue : this.inputs;
    return [...start, ...this.handedAfter(0)];
  }

  /** What hands would do after a tick is forgotten; what the script gives stays. */
  forgetAfter(tick: number): void {
    this.edits = this.edits.filter((each) => each.tick <= tick || each.scripted);
    this.queueAgain();
  }

  /** Takes an edit down for a tick. Of two edits that hands make of one thing at one tick the later one counts. */
  put(edit: Edit, tick: number): void {
    const kept = this.edits.filter((each) => each.tick !== tick || each.scripted || !samePlace(each, edit));
    this.edits = [...kept, { ...edit, tick, scripted: false }].sort((a, b) => a.tick - b.tick);
    this.queueAgain();
  }

  /** Works out what is queued after each giving of inputs. */
  private queueAgain(): void {
    let queue = this.inputs;
    this.edits = this.edits.map((each) => {
      if (each.kind !== 'inputs') return each;
      queue = each.adds ? [...queue, ...each.adds] : each.queue;
      return each.adds ? { ...each, queue } : each;
    });
  }

  /** Does an edit to a state, with what plans make of it. */
  apply(state: State, edit: Edit): Change[] {
    if (edit.kind === 'inputs') {
      const first = state.control.queue.length === 0 && edit.queue.length > 0;
      state.control.queue = edit.queue;
      return first ? state.plans.flatMap((each) => (each.until.kind === 'key' ? this.fulfil(state, each, each.after) : [])) : [];
    }
    const change = changeOf(state, edit);
    if (change) applyChange(state, change, 'after');
    return change ? [change] : [];
  }

  /** Sets what a plan is for. */
  fulfil(state: State, plan: Plan, value: number): Change[] {
    const latch = deviceLatch(this.machine, plan.device, plan.latch);
    return this.apply(state, { kind: 'latch', latch, value: plannedValue(this.machine, state, plan, value) });
  }

  /** Does all that belongs to the tick that a state has reached. */
  applyAt(state: State): Change[] {
    const { ticks } = state.control;
    const planned = this.planned.flatMap((each) => (each.tick === ticks ? this.fulfil(state, each, each.after) : []));
    return [...planned, ...this.edits.flatMap((each) => (each.tick === ticks ? this.apply(state, each) : []))];
  }
}

/** Two edits that set the same thing: the later one counts. */
function samePlace(a: Edit, b: Edit): boolean {
  if (a.kind === 'cell' && b.kind === 'cell') return a.space === b.space && a.address === b.address;
  if (a.kind === 'register' && b.kind === 'register') return a.register === b.register;
  if (a.kind === 'flag' && b.kind === 'flag') return a.flag === b.flag;
  if (a.kind === 'latch' && b.kind === 'latch') return a.latch === b.latch;
  return a.kind === 'inputs' && b.kind === 'inputs';
}

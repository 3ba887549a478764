/**
 * Finds the moment when a run can only repeat itself: the whole state at a boundary equals that of an earlier one, and
 * nothing that is still to come from outside can change it. Cheap looks find candidates; the verdict compares everything.
 */
import type { Machine } from '../../machine/model/machine';
import { copyState, deviceLatch, type Control, type Frame, type State } from '../meaning/state';
import { itemAt } from '../../text/itemAt';

export interface Loop {
  /** Ticks and instructions of one round. */
  readonly ticks: number;
  readonly instructions: number;
  /** Addresses of its instructions, in the order of the program, at most MOST_ADDRESSES of them. */
  readonly addresses: readonly number[];
  /** Devices that each round asks, and how often the run has asked them so far. */
  readonly polled: readonly { readonly device: number; readonly times: number }[];
}

export const MOST_ADDRESSES = 500;

/** Brent's way: an old state is kept and compared with each boundary; it is replaced after 1, 2, 4, 8 … boundaries. */
export class Repeats {
  private old: State | undefined;
  private power = 1;
  private steps = 0;
  /** A cell that differed last time is looked at first. */
  private witness: { readonly space: number; readonly address: number } | undefined;

  constructor(
    private readonly machine: Machine,
    private readonly state: State,
  ) {}

  /** After anything that comes from outside the run. */
  forget(): void {
    this.old = undefined;
    this.power = 1;
    this.steps = 0;
  }

  /** At a boundary: the length of the round in ticks and instructions, where the state is that of before. */
  at(): { readonly ticks: number; readonly instructions: number; readonly before: State } | undefined {
    const { state, old } = this;
    if (old && this.sameAs(old)) {
      const { ticks, instructions } = old.control;
      return { ticks: state.control.ticks - ticks, instructions: state.control.instructions - instructions, before: old };
    }
    if (++this.steps < this.power && old) return undefined;
    this.steps = 0;
    this.power *= 2;
    this.old = copyState(state);
    this.witness = undefined;
    return undefined;
  }

  /** Keeps the present state to be compared with. */
  keep(): void {
    this.old = copyState(this.state);
  }

  /** Whether the state is that which was kept. */
  same(): boolean {
    return this.old !== undefined && this.sameAs(this.old);
  }

  private sameAs(old: State): boolean {
    const { state, machine, witness } = this;
    const { registers } = state;
    if (registers[machine.programCounter] !== old.registers[machine.programCounter]) return false;
    if (witness && itemAt(state.spaces, witness.space)[witness.address] !== itemAt(old.spaces, witness.space)[witness.address])
      return false;
    if (!sameWaiting(state.control, old.control)) return false;
    return equal(registers, old.registers) && equal(state.flags, old.flags) && this.sameCells(old) && this.sameRest(old);
  }

  private sameCells(old: State): boolean {
    for (let space = 0; space < old.spaces.length; space++) {
      const [now, before] = [itemAt(this.state.spaces, space), itemAt(old.spaces, space)];
      for (let address = 0; address < now.length; address++) {
        if (now[address] === before[address]) continue;
        this.witness = { space, address };
        return false;
      }
    }
    return true;
  }

  private sameRest(old: State): boolean {
    const { state, machine } = this;
    const [now, then] = [state.control, old.control];
    if (now.here !== then.here || now.jumped !== then.jumped || now.callStackBroken !== then.callStackBroken || now.beyond !== then.beyond)
      return false;
    return sameChain(now.callStack, then.callStack) && equal(timeless(machine, state), timeless(machine, old));
  }
}

function equal(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  for (let at = 0; at < a.length; at++) if (a[at] !== b[at]) return false;
  return true;
}

/** Inputs that nobody has taken yet, by value. */
function sameWaiting({ queue, inputs }: Control, old: Control): boolean {
  if (queue === old.queue && inputs === old.inputs) return true;
  const waiting = queue.length - inputs;
  if (waiting !== old.queue.length - old.inputs) return false;
  for (let at = 0; at < waiting; at++) if (queue[inputs + at] !== old.queue[old.inputs + at]) return false;
  return true;
}

function sameChain(a: Frame | undefined, b: Frame | undefined): boolean {
  while (a !== b) {
    if (!a || !b || a.depth !== b.depth || a.target !== b.target || a.returnTo !== b.returnTo || a.saved !== b.saved) return false;
    if (a.kind !== b.kind || a.from !== b.from || !equal(a.kept, b.kept)) return false;
    a = a.parent;
    b = b.parent;
  }
  return true;
}

/**
 * Latches as a run feels them: ticks that are counted to as how far away they are, and behind them the polls that plans
 * still wait for; how often a device has been asked is nothing that a run feels otherwise.
 */
function timeless(machine: Machine, { latches, control, plans }: State): Float64Array {
  const copy = new Float64Array(latches.length + plans.length);
  copy.set(latches);
  machine.devices.forEach((_, device) => {
    const until = deviceLatch(machine, device, 'until');
    copy[until] = copy[until] === 0 ? -1 : Math.max(0, itemAt(copy, until) - control.ticks);
    for (const which of COUNTERS) copy[deviceLatch(machine, device, which)] = 0;
  });
  plans.forEach(({ device, latch, until }, at) => {
    if (until.kind !== 'reads') return;
    const done = (latch === 'value' ? VALUE_COUNTERS : READY_COUNTERS).reduce(
      (sum, each) => sum + itemAt(latches, deviceLatch(machine, device, each)),
      0,
    );
    copy[latches.length + at] = Math.max(0, until.count - done);
  });
  return copy;
}

const VALUE_COUNTERS = ['dataReads'] as const;
const READY_COUNTERS = ['busyPolls', 'readyPolls'] as const;
const COUNTERS = [...VALUE_COUNTERS, ...READY_COUNTERS];

/** The chain of calls that have not returned: kept by the marks in a machine's ticks, exact through jumps out of routines. */
import { effectsOf } from '../../machine/model/effects';
import type { Machine } from '../../machine/model/machine';
import type { MarkWord } from '../../notation/syntax';
import type { Noticed } from './noticed';
import type { Control, Frame, State } from './state';
import { CELL, REGISTER, type Writes } from './writes';

/** Calls deeper than this are counted only, so that endless recursion keeps within bounds. */
export const DEEPEST = 10_000;

export interface Mark {
  readonly word: MarkWord;
  /** Where the call returns to, if the tick says so. */
  readonly place: number | undefined;
}

const PASSING: ReadonlySet<string> = new Set(['program counter', 'memory address', 'memory data', 'instruction', 'link']);

export class CallStack {
  private readonly kept: readonly number[];
  private readonly links: readonly number[];
  /** 1 for registers that a return place is not safe in. */
  private readonly passing: Uint8Array;

  constructor(
    private readonly machine: Machine,
    private readonly state: State,
  ) {
    const withRole = (role: string): number[] => machine.registers.flatMap((each, at) => (each.role === role ? [at] : []));
    // What calls or ways back change themselves, as the number of a window of registers, no routine has to keep.
    const moved = machine.forms.map((form) => effectsOf(machine, form)).filter(({ calls, returns }) => calls || returns);
    const own = new Set(moved.flatMap(({ writes }) => writes.flatMap((each) => ('register' in each ? [each.register] : []))));
    this.kept = withRole('kept').filter((register) => !own.has(register));
    this.links = withRole('link');
    this.passing = Uint8Array.from(machine.registers, (each) => (PASSING.has(each.role ?? '') ? 1 : 0));
  }

  /** Before a tick's writes are done: whether they save the return place, or destroy the only copy of it. */
  beforeWrites(writes: Writes): Noticed | undefined {
    const { control, registers } = this.state;
    const frame = control.callStack;
    if (this.links.length === 0 || !frame || frame.saved) return undefined;
    for (let at = 0; at < writes.count; at++) {
      const { kind, index, value } = writes.at(at);
      const holds = kind === CELL || (kind === REGISTER && this.passing[index] === 0);
      if (holds && value === frame.returnTo) {
        control.callStack = { ...frame, saved: true };
        return undefined;
      }
      const destroys = kind === REGISTER && this.links.includes(index) && registers[index] === frame.returnTo && value !== frame.returnTo;
      if (destroys) {
        control.callStack = { ...frame, saved: true };
        return { kind: 'link lost', register: index, returnTo: frame.returnTo };
      }
    }
    return undefined;
  }

  /** Follows a mark; PC holds where the run goes on. Tells of kept registers that came back changed. */
  follow({ word, place }: Mark): Noticed[] {
    const { control } = this.state;
    const target = this.state.registers[this.machine.programCounter]!;
    if (word === 'return') return this.leave(control, target);
    if ((control.callStack?.depth ?? 0) >= DEEPEST) {
      control.beyond++;
      return [];
    }
    control.callStack = {
      kind: word,
      from: control.here,
      target,
      returnTo: place ?? control.next,
      depth: (control.callStack?.depth ?? 0) + 1,
      parent: control.callStack,
      tick: control.ticks,
      kept: this.kept.map((each) => this.state.registers[each]!),
      saved: false,
    };
    return [];
  }

  private leave(control: Control, target: number): Noticed[] {
    if (control.beyond > 0) {
      control.beyond--;
      return [];
    }
    let frame: Frame | undefined = control.callStack;
    while (frame && frame.returnTo !== target) frame = frame.parent;
    if (!frame) {
      control.callStackBroken = true;
      return [];
    }
    control.callStack = frame.parent;
    const { kept, target: routine } = frame;
    return this.kept.flatMap((register, at): Noticed[] => {
      const after = this.state.registers[register]!;
      return after === kept[at] ? [] : [{ kind: 'kept changed', register, before: kept[at]!, after, routine }];
    });
  }
}

/** How many calls are open, those included that are only counted. */
export const depthOf = ({ callStack: chain, beyond }: Control): number => (chain?.depth ?? 0) + beyond;

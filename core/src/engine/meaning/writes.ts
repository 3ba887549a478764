/** The writes of a tick, kept back until everything is read, then done at once. */
import { cut } from './arithmetic';
import type { PlaceRef } from './report';
import { BY_RUN, CODE, OVER_CODE, type Change, type State } from './state';
import type { Radix } from '../../notation/tree';
import { digitsAt, power } from '../../text/number';

export const REGISTER = 0;
export const FLAG = 1;
export const CELL = 2;
export const LATCH = 3;

export class Writes {
  count = 0;
  /** Some place was worked out by the tick, so that two may turn out to be one. */
  computed = false;
  private readonly kinds: number[] = [];
  private readonly indices: number[] = [];
  private readonly places: number[] = [];
  private readonly widths: number[] = [];
  private readonly values: number[] = [];

  constructor(
    private readonly radix: Radix,
    private readonly programSpace: number,
  ) {}

  /** `place`: the lowest digit of a register, the address in a space; else not used. */
  add(kind: number, index: number, place: number, width: number, value: number): void {
    const at = this.count++;
    if (kind === CELL || kind === LATCH) this.computed = true;
    this.kinds[at] = kind;
    this.indices[at] = index;
    this.places[at] = place;
    this.widths[at] = width;
    this.values[at] = value;
  }

  /** A write of this tick: the address of a cell, else the index of a register, flag or latch. */
  at(at: number): { readonly kind: number; readonly index: number; readonly place: number; readonly value: number } {
    return { kind: this.kinds[at]!, index: this.indices[at]!, place: this.places[at]!, value: this.values[at]! };
  }

  /** Two writes of one place; the checker finds those that it can, here are the computed ones. */
  clash(): PlaceRef | undefined {
    for (let a = 0; a < this.count; a++) {
      for (let b = a + 1; b < this.count; b++) {
        if (this.kinds[a] !== this.kinds[b] || this.indices[a] !== this.indices[b] || !this.meet(a, b)) continue;
        const index = this.indices[a]!;
        if (this.kinds[a] === FLAG) return { kind: 'flag', flag: index };
        if (this.kinds[a] === CELL) return { kind: 'cell', space: index, address: this.places[a]! };
        if (this.kinds[a] === REGISTER)
          return { kind: 'register', register: index, high: this.places[a]! + this.widths[a]! - 1, low: this.places[a]! };
        return { kind: 'port', port: index };
      }
    }
    return undefined;
  }

  private meet(a: number, b: number): boolean {
    if (this.kinds[a] === CELL) return this.places[a] === this.places[b];
    if (this.kinds[a] !== REGISTER) return true;
    return this.places[a]! < this.places[b]! + this.widths[b]! && this.places[b]! < this.places[a]! + this.widths[a]!;
  }

  /** Does them, and adds what they change to `changes`, where that is wanted. */
  commit(state: State, changes: Change[] | undefined): void {
    for (let at = 0; at < this.count; at++) {
      const index = this.indices[at]!;
      const place = this.places[at]!;
      const value = this.values[at]!;
      switch (this.kinds[at]) {
        case REGISTER: {
          const before = state.registers[index]!;
          const after = this.withDigits(before, place, this.widths[at]!, value);
          state.registers[index] = after;
          changes?.push({ kind: 'register', register: index, before, after });
          break;
        }
        case FLAG: {
          const tickAfter = state.control.ticks + 1;
          changes?.push({
            kind: 'flag',
            flag: index,
            before: state.flags[index]!,
            after: value,
            tickBefore: state.flagTicks[index]!,
            tickAfter,
          });
          state.flags[index] = value;
          state.flagTicks[index] = tickAfter;
          break;
        }
        case CELL:
          this.commitCell(state, changes, index, place, value);
          break;
        default:
          changes?.push({ kind: 'latch', latch: index, before: state.latches[index]!, after: value });
          state.latches[index] = value;
      }
    }
  }

  private commitCell(state: State, changes: Change[] | undefined, space: number, address: number, value: number): void {
    const cells = state.spaces[space]!;
    const marks = state.marks[space]!;
    const markAfter = space === this.programSpace && state.kinds[address] === CODE ? OVER_CODE : BY_RUN;
    changes?.push({ kind: 'cell', space, address, before: cells[address]!, after: value, markBefore: marks[address]!, markAfter });
    cells[address] = value;
    marks[address] = markAfter;
  }

  private withDigits(before: number, low: number, width: number, value: number): number {
    if (this.radix === 2) {
      const mask = width === 32 ? 0xffffffff : ((1 << width) - 1) << low;
      return ((before & ~mask) | ((value << low) & mask)) >>> 0;
    }
    const unit = power(10, low);
    return before + (cut(value, width, 10) - digitsAt(before, low, width, 10)) * unit;
  }
}

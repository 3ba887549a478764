/** How much of a stack is in use. */
import type { Machine } from '../../machine/model/machine';
import { cut } from './arithmetic';
import type { State } from './state';

/** Places of a stack's region that values take now; a pointer outside the region gives more than there are. */
export function placesUsed(machine: Machine, state: State, stack: number): number {
  const { pointer, from, to, down, full, step } = machine.stacks[stack]!;
  const at = state.registers[pointer]!;
  return cut(down ? to - at + (full ? 1 : 0) : at - from + (full ? step : 0), machine.registers[pointer]!.width, machine.radix);
}

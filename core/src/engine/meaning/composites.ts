/** What is read and not kept: pairs and packed words, and flags that are lines of a device. */
import type { Composite, Machine, RegisterPlace } from '../../machine/model/machine';
import { lineValue } from './devices';
import { Evaluator } from './evaluate';
import type { State } from './state';
import { flatTargets } from '../../notation/tree';
import { itemAt } from '../../text/itemAt';
import { power } from '../../text/number';

/** What a pair or packed word reads as now, unsigned. */
export function compositeValue(machine: Machine, state: State, { value }: Composite): number {
  return Number(new Evaluator(machine, state).exactValue(value));
}

/** Every flag as it reads now; lines are asked without effect. */
export const flagValues = (machine: Machine, state: State): number[] =>
  machine.flags.map(({ line }, flag) => (line ? lineValue(machine, state, line.device, line.bit) : state.flags[flag]!));

/** What a register or a pair holds now. */
export const placeValue = ({ radix }: Machine, { registers }: State, { target }: RegisterPlace): number =>
  flatTargets(target).reduce(
    (sum, each) => sum * power(radix, each.width) + (each.kind === 'register' ? itemAt(registers, each.register) : 0),
    0,
  );

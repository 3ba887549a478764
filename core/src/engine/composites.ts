/** What pairs and packed words read now. */
import type { Composite, Machine } from '../machine/machine';
import { Evaluator } from './evaluate';
import type { State } from './state';

export function compositeValue(machine: Machine, state: State, { value }: Composite): number {
  return Number(new Evaluator(machine, state, []).exactValue(value));
}

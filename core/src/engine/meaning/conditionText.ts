/** What a condition says now: “NZ (Z = 0)” where a field names one, else as the tick is written. */
import type { Machine } from '../../machine/model/machine';
import type { Expr } from '../../notation/tree';
import { Evaluator } from './evaluate';
import type { State } from './state';

export function conditionText(machine: Machine, state: State, condition: Expr, written: string): string {
  if (condition.kind !== 'holds') return written;
  const code = new Evaluator(machine, state, { foreign: true }).value(condition.operand);
  const found = machine.conditions.find((each) => each.code === code);
  if (!found) return written;
  const name = found.names.find((each) => each !== '');
  return name === undefined ? found.text : `${name} (${found.text})`;
}

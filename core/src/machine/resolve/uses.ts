/** What ticks do that is judged of a machine as a whole: which registers they use, which flags they set, whether anything halts. */
import { flatActions, flatTargets, possibleTargets, readsOf, someExpr, type Action, type Expr } from '../../notation/tree';
import type { Machine, ScheduledTick } from '../model/machine';
import { alongForm } from '../model/perMachine';

export interface Uses {
  /** Numbers of registers that are read or written; of an array all of them. */
  readonly registers: ReadonlySet<number>;
  readonly flags: ReadonlySet<number>;
  /** Devices that are waited for. */
  readonly waits: ReadonlySet<number>;
  /** Services by a plain number, each with its tick. */
  readonly services: readonly { readonly number: number; readonly tick: ScheduledTick }[];
  readonly halts: boolean;
  /** Whether any service is called, by whatever number. */
  readonly serves: boolean;
}

/** Adds the registers of a value. */
export function addRegisters(used: Set<number>, value: Expr): void {
  someExpr(value, (expr) => {
    if (expr.kind === 'register' || expr.kind === 'slice') used.add(expr.register);
    if (expr.kind === 'element') addArray(used, expr);
    return false;
  });
}

function addArray(used: Set<number>, { first, count, scale }: { first: number; count: number; scale: number }): void {
  for (let at = 0; at < count * scale; at++) used.add(first + at);
}

function usesOfTicks(ticks: readonly ScheduledTick[]): Uses {
  const [registers, flags, waits] = [new Set<number>(), new Set<number>(), new Set<number>()];
  const services: { number: number; tick: ScheduledTick }[] = [];
  let [halts, serves] = [false, false];
  const see = (action: Action, tick: ScheduledTick): void => {
    for (const each of readsOf(action)) addRegisters(registers, each);
    if (action.kind === 'transfer' || action.kind === 'compare') action.flagged?.effects.forEach(({ flag }) => flags.add(flag));
    if (action.kind === 'halt') halts = true;
    if (action.kind === 'wait') waits.add(action.device);
    if (action.kind === 'service') serves = true;
    if (action.kind === 'service' && action.number.kind === 'literal') services.push({ number: action.number.value, tick });
    if (action.kind !== 'transfer') return;
    for (const each of flatTargets(action.target)) if (each.kind === 'flag') flags.add(each.flag);
    for (const each of possibleTargets(action.target)) {
      if (each.kind === 'register') registers.add(each.register);
      if (each.kind === 'element') addArray(registers, each);
    }
  };
  for (const each of ticks) for (const action of flatActions(each.tick.actions)) see(action, each);
  return { registers, flags, waits, services, halts, serves };
}

const usesOfForm = alongForm(({ schedule, guard }): Uses => {
  const uses = usesOfTicks(schedule);
  if (!guard) return uses;
  const registers = new Set(uses.registers);
  addRegisters(registers, guard.condition);
  return { ...uses, registers };
});

/** Of each form, and of the ticks that enter a trap by a fault. */
export const usesOf = (machine: Machine): readonly Uses[] => [usesOfTicks(machine.entry), ...machine.forms.map(usesOfForm)];

/** A run by instructions as a table of what each left in registers and flags: to be filled in by hand, and to be compared with. */
import { flagValues } from '../engine/meaning/composites';
import type { Runner } from '../engine/control/runner';
import { addressText, instructionAt } from '../engine/tell/names';
import type { Role } from '../machine/model/machine';
import { itemAt } from '../text/itemAt';
import { shownDigits } from '../text/number';

export interface TraceRow {
  readonly address: string;
  readonly text: string;
  /** After it, in the order of the columns. */
  readonly values: readonly string[];
}

export interface Trace {
  readonly columns: readonly string[];
  readonly rows: readonly TraceRow[];
  /** The run goes on behind the last row. */
  readonly more: boolean;
}

/** Registers that only carry what lies elsewhere are left out. */
const CARRIERS: ReadonlySet<Role | undefined> = new Set<Role>(['memory address', 'memory data', 'instruction']);
/** A sheet has room for so many registers. */
const MOST_COLUMNS = 10;

/** From where a run stands, so many instructions at most. */
export function traceOf(runner: Runner, most: number): Trace {
  const { machine, program, state } = runner;
  const shown = machine.registers
    .map((each, at) => ({ ...each, at }))
    .filter(({ role, zero }) => !CARRIERS.has(role) && !zero)
    .slice(0, MOST_COLUMNS);
  const rows: TraceRow[] = [];
  let stopped = false;
  while (rows.length < most && !stopped) {
    const { ticks } = runner;
    stopped = runner.instruction() !== undefined;
    if (runner.ticks === ticks) break;
    const { here } = state.control;
    const registers = shown.map(({ at, width }) => shownDigits(itemAt(state.registers, at), width, machine));
    rows.push({
      address: addressText(machine, here),
      text: instructionAt(machine, program, state, here) ?? '',
      values: [...registers, ...flagValues(machine, state).map(String)],
    });
  }
  return {
    columns: [...shown.map((each) => each.name), ...machine.flags.map((each) => each.name)],
    rows,
    more: !stopped && rows.length === most,
  };
}

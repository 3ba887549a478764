/** What the instruction that comes next will do where it can go two ways: told before it begins, by carrying out a copy. */
import { decode } from '../../machine/model/encode';
import { canBranch } from '../../machine/model/effects';
import { itemAt } from '../../text/itemAt';
import { TickExecutor } from '../meaning/interpret';
import { reportTick } from '../meaning/reportTick';
import { copyState } from '../meaning/state';
import { instructionAt } from './names';
import { narrate } from './narrate';
import { name, text, type Segment, type Telling } from './telling';

/** More ticks than any instruction's choice is away. */
const MOST_TICKS = 64;

/** Undefined within an instruction, and where the next one has no choice, or waits or stops before it. */
export function branchAhead(telling: Telling): Segment[] | undefined {
  const { machine, program, state } = telling;
  const { control, registers, spaces } = state;
  if (control.step > 0 || control.halted) return undefined;
  const here = itemAt(registers, machine.programCounter);
  const cells = itemAt(spaces, machine.programSpace);
  const decoded = decode(machine, (offset) => cells[here + offset], here);
  if ('refused' in decoded) return undefined;
  if (!decoded.form.guard && !canBranch(machine, decoded.form)) return undefined;
  const copy = copyState(state);
  const executor = new TickExecutor(machine, copy);
  for (let tick = 0; tick < MOST_TICKS; tick++) {
    const { outcome, report } = reportTick(executor);
    if (outcome === 'waiting' || outcome === 'fault') return undefined;
    const told = report.condition ?? (report.guard?.holds === false ? report.guard : undefined);
    if (told) {
      const only = { ...report, transfers: report.transfers.filter((each) => each.target.kind === 'register'), flags: [], marks: [] };
      const [first, ...rest] = narrate({ machine, program, state: copy }, only, 'coming');
      const begun = text(`: ${first!.text.replace(/^[A-Z](?=[a-z])/, (each) => each.toLowerCase())}`);
      return [name(instructionAt(machine, program, state, here) ?? decoded.form.mnemonic), begun, ...rest];
    }
    if (copy.control.step === 0) return undefined;
  }
  return undefined;
}

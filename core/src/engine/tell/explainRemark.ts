/** The sentence of a remark on a run. */
import { shownNumber } from '../../text/number';
import type { RunRemark } from '../meaning/noticed';
import { addressText, cellName, instructionAt, lineAt, placeName } from './names';
import type { Telling } from './telling';
import { itemAt } from '../../text/itemAt';

/** One sentence, with the remedy where there is one. */
export function explainRemark({ machine, program, state }: Telling, remark: RunRemark): string {
  const at = lineAt(program, remark.here);
  const line = at ? `Line${at.slice(4)}, ` : '';
  const by = `${line}${instructionAt(machine, program, state, remark.here) ?? 'an instruction'} at ${addressText(machine, remark.here)}`;
  switch (remark.kind) {
    case 'link lost':
      return `${by}: wrote over ${itemAt(machine.registers, remark.register).name}, which held the only copy of the return address ${addressText(machine, remark.returnTo)}. Save it first.`;
    case 'kept changed': {
      const { name, width } = itemAt(machine.registers, remark.register);
      const shown = (value: number): string => shownNumber(value, width, machine);
      return `${by}: returned with ${name} changed from ${shown(remark.before)} to ${shown(remark.after)}; a routine keeps it as it was.`;
    }
    case 'code written':
      return `${by}: wrote over the program's own code at ${addressText(machine, remark.address)}.`;
    case 'never written':
      return `${by}: read ${cellName(machine, program, remark.space, remark.address)}, which nothing has ever written.`;
    case 'write lost':
      return `${by}: wrote to ${placeName(machine, program, remark.place)}, which stays as it is; the value was thrown away.`;
    default:
      return remark satisfies never;
  }
}

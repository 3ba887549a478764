/** Checks that a relative field's ticks reach the target that its encoding promises. */
import { someExpr, flatActions, type Expr } from '../../notation/tree';
import { power, signedReading } from '../../text/number';
import type { Field, Form, Machine } from '../model/machine';
import { programSpaceOf } from '../model/machine';
import { report, type DocumentReading } from './reading';
import { foldConstant } from '../model/foldConstant';
import type { Path } from '../document/yaml';
import { itemAt } from '../../text/itemAt';

/** Where the instruction of the trial lies. */
const HERE = 1;

/** Nothing is said where the target cannot be worked out from here, next and the field alone. */
export function checkRelative(reading: DocumentReading, machine: Machine, form: Form, path: Path): void {
  for (const field of form.operands) {
    if (!field.relative) continue;
    const named = (expr: Expr): boolean =>
      (expr.kind === 'slice' && expr.field && expr.name === field.name) || (expr.kind === 'field' && expr.name === field.name);
    for (const action of form.schedule.flatMap(({ tick }) => flatActions(tick.actions))) {
      if (action.kind !== 'transfer' || action.target.kind !== 'register' || action.target.register !== machine.programCounter) continue;
      if (someExpr(action.value, named)) compare(reading, machine, { form, field, value: action.value, path });
    }
  }
}

function compare(
  reading: DocumentReading,
  machine: Machine,
  { form, field, value, path }: { form: Form; field: Field; value: Expr; path: Path },
): void {
  const { cells } = programSpaceOf(machine);
  const { radix } = machine;
  const next = HERE + form.format.cells;
  const early = !form.schedule.some((each) => each.part === 'finish');
  const base = (field.relative!.from === 'next' ? next : HERE) + field.relative!.plus;
  for (const digits of [1, 2, power(radix, field.width) - 1]) {
    const leaf = (expr: Expr): number | undefined => {
      if (expr.kind === 'slice' && expr.field && expr.name === field.name && expr.width === field.width) return digits;
      if (expr.kind === 'latch') return { here: HERE, next, length: form.format.cells, cause: undefined }[expr.latch];
      return expr.kind === 'register' && expr.register === machine.programCounter ? (early ? next : HERE) : undefined;
    };
    const got = foldConstant(value, leaf, radix);
    if (got === undefined) return;
    const distance =
      (field.kind === 'signed' ? signedReading(digits, field.width, radix) : digits) * power(radix, field.dropped) + field.bias;
    const wanted = (((base + distance) % cells) + cells) % cells;
    if (got % cells === wanted) continue;
    const shared = { field: field.name, written: form.written, wanted, got: got % cells };
    // The usual slip: digits with a sign are added as if they had none.
    const plain = (((base + digits * power(radix, field.dropped) + field.bias) % cells) + cells) % cells;
    if (distance >= 0 || shared.got !== plain) return report(reading, path, { code: 'relative-differs', ...shared });
    const { width } = itemAt(machine.registers, machine.programCounter);
    return report(reading, path, { code: 'relative-unsigned', ...shared, distance, width });
  }
}

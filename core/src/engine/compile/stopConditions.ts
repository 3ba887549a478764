/** What a compiled run is asked at every boundary between two instructions. */
import type { Expr } from '../../notation/tree';
import { attachmentsOf } from '../meaning/devices';
import type { TickCode, TickContext } from './ticks';
import { Unsupported, Values } from './values';

export type StopCondition =
  /** Holds where the value is not 0. */
  | { readonly kind: 'value'; readonly expr: Expr }
  /** No more calls are open than the run was told. */
  | { readonly kind: 'calls' }
  /** Fewer places of a stack are in use. */
  | { readonly kind: 'stack'; readonly stack: number; readonly below: number };

/** Bits of an i32 say what held before. */
export const MOST_ASKED = 31;

/** Leaves on the stack, as an i32, whether it holds. What the tick executor has to judge branches to its look. */
export function emitStopCondition(asked: StopCondition, context: TickContext, ticks: TickCode): void {
  const { code, run } = context;
  switch (asked.kind) {
    case 'value': {
      const values = new Values({ ...context, counts: false, peeks: peeksAt(context) });
      values.emit(asked.expr);
      if (values.typeOf(asked.expr) === 'i64') code.i64(0n).op('i64.ne');
      else code.i32(0).op('i32.ne');
      return;
    }
    case 'calls':
      return void code.get(run.depth).get(run.beyond).op('i32.add').get(1).op('i32.le_s');
    case 'stack':
      if (context.machine.radix === 10) throw new Unsupported();
      ticks.placesUsed(asked.stack);
      return void code.i32(asked.below).op('i32.lt_u');
    default:
      return asked satisfies never;
  }
}

/** Cells that may be looked at whatever guards them: no device stands there. */
const peeksAt = ({ machine }: TickContext): ((space: number, address: number) => boolean) => {
  const { cells } = attachmentsOf(machine);
  return (space, address) => !cells[space]?.has(address);
};

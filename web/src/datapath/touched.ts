/** What a tick read and wrote, for marking it everywhere at once. */
import type { ReadValue, TickReport, Transfer } from '@zettak/core/engine/meaning/report';

const readingsOf = (report: TickReport | undefined): readonly ReadValue[] => [
  ...(report?.transfers ?? []).flatMap((each) => [...each.sources, ...each.addressed]),
  ...(report?.compared?.sources ?? []),
  ...(report?.condition?.readings ?? []),
];

/** Whether a tick has read a register, or part of it. */
export const readsRegister = (report: TickReport | undefined, register: number): boolean =>
  readingsOf(report).some(
    ({ place }) =>
      (place?.kind === 'register' && place.register === register) || (place?.kind === 'pair' && place.registers.includes(register)),
  );

/** What a tick has written into a register, or part of it. */
export const writeOf = (report: TickReport | undefined, register: number): Transfer | undefined =>
  report?.transfers.find((each) => each.target.kind === 'register' && each.target.register === register);

/** Cells of a space; a cell both read and written counts as written. */
export function touchedCells(report: TickReport | undefined, space: number): Map<number, 'read' | 'written'> {
  const touched = new Map<number, 'read' | 'written'>();
  for (const { place } of readingsOf(report)) if (place?.kind === 'cell' && place.space === space) touched.set(place.address, 'read');
  for (const { target } of report?.transfers ?? [])
    if (target.kind === 'cell' && target.space === space) touched.set(target.address, 'written');
  return touched;
}

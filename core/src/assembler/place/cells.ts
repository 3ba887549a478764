/** Putting a line's cells where the program goes on. */
import type { Span } from '../../text/source';
import type { Reader } from '../read/expressions';
import { type Statement } from '../read/syntax';
import { addressNow, setAddress, spaceOf, type Placed, type Work } from './assembly';

/** From the first operand to the end of the line. */
export const restSpan = ({ rest, span }: Statement): Span => ({ start: rest[0]?.start ?? span.start, end: span.end });

/** Tells what stands behind the last operand. */
export function noMore(work: Work, reader: Reader): boolean {
  const token = reader.tokens[reader.at]!;
  if (token.kind === 'end') return true;
  work.problems.push({ code: 'left-over', grade: 'error', span: token.span, text: token.text });
  return false;
}

export function place(work: Work, entry: Omit<Placed, 'address' | 'space' | 'routine'>): void {
  const { cells, name } = spaceOf(work);
  const from = addressNow(work);
  const last = from + entry.size - 1;
  const before = work.total;
  work.total += entry.kind === 'room' ? 0 : entry.size;
  if (work.total > work.mostCells) {
    if (before <= work.mostCells)
      work.problems.push({ code: 'too-many-cells', grade: 'error', span: entry.statement.span, most: work.mostCells });
    return;
  }
  if (last >= cells) {
    work.problems.push({ code: 'address-outside', grade: 'error', span: entry.statement.span, address: last, cells, space: name });
    return;
  }
  checkReserved(work, entry, { from, last });
  const { statement, kind, size, expanded, form, operands, fill } = entry;
  const address = work.bank * cells + from;
  work.placed.push({ statement, kind, address, space: work.space, size, routine: work.routine?.name, expanded, form, operands, fill });
  setAddress(work, last + 1);
}

/** Cells of the system program are not a program's own. */
function checkReserved(
  work: Work,
  { statement, size }: Pick<Placed, 'statement' | 'size'>,
  { from, last }: { from: number; last: number },
): void {
  const { system, programSpace } = work.machine;
  if (!system || work.isSystem || work.space !== programSpace || size === 0 || last < system.from || from > system.to) return;
  work.problems.push({ code: 'cells-reserved', grade: 'error', span: statement.span, from: system.from, to: system.to });
}

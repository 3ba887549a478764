/** Putting a line's cells where the program goes on. */
import type { Span } from '../../text/source';
import type { Reader } from '../read/tokens';
import { type Statement } from '../read/syntax';
import { Placed, spaceOf, type Content, type Placement } from './assembly';

/** From the first operand to the end of the line. */
export const restSpan = (statement: Statement): Span => ({ start: statement.reader().start, end: statement.end });

/** Tells what stands behind the last operand. */
export function noMore(placement: Placement, reader: Reader): boolean {
  if (reader.isAtEnd) return true;
  placement.problems.push({ code: 'left-over', grade: 'error', span: reader.span, text: reader.word().text });
  return false;
}

interface Piece {
  readonly kind: Placed['kind'];
  readonly size: number;
  readonly content: Content;
  readonly expanded?: Statement | undefined;
}

/** Gives a line its cells and moves on; past the end, or on reserved cells, a problem instead. */
export function place(placement: Placement, statement: Statement, { kind, size, content, expanded }: Piece): void {
  const { cells, name } = spaceOf(placement);
  const from = placement.address;
  const last = from + size - 1;
  const before = placement.total;
  placement.total += kind === 'room' ? 0 : size;
  if (placement.total > placement.mostCells) {
    if (before <= placement.mostCells)
      placement.problems.push({ code: 'too-many-cells', grade: 'error', span: statement.span, most: placement.mostCells });
    return;
  }
  if (last >= cells) {
    // What follows lies past the end, too, until the text says where to go on.
    if (placement.full) return;
    placement.full = true;
    placement.problems.push({ code: 'address-outside', grade: 'error', span: statement.span, address: last, cells, space: name });
    return;
  }
  if (placement.machine.system && size > 0) checkReserved(placement, statement, from, last);
  const address = placement.bank * cells + from;
  placement.placed.push(new Placed(statement, kind, address, placement.space, size, placement.routine, expanded, content));
  placement.address = last + 1;
}

/** Cells of the system program are not a program's own. */
function checkReserved(placement: Placement, statement: Statement, from: number, last: number): void {
  const { system, programSpace } = placement.machine;
  if (!system || placement.isSystem || placement.space !== programSpace || last < system.from || from > system.to) return;
  placement.problems.push({ code: 'cells-reserved', grade: 'error', span: statement.span, from: system.from, to: system.to });
}

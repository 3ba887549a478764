/** Cells of a whole memory in rows or as a list, only those in sight as elements; chosen, typed over, copied and pasted where they stand. */
import './memory.css';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, type MouseEvent } from 'react';
import { NEVER } from '@zettak/core/engine/meaning/state';
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import { pairValue, type Pairing } from '@zettak/core/session/cellText';
import type { View } from '@zettak/core/session/protocol';
import { itemAt } from '@zettak/core/text/itemAt';
import { withNextPaint } from '../../ui/follow';
import type { ValueBase } from '../looks';
import { useRun } from '../run';
import { CellRow, ROW, type ShownCell } from './CellRow';
import { cellsBeside, charactersOf, classesOf, devicesIn, WITH_CHARACTERS, type Surroundings } from './cells';
import { gridColumns, listColumns, widthsOf } from './columns';
import type { Editing } from './editing';
import { pointersInto } from './holds';

interface TableProps {
  readonly machine: Machine;
  readonly view: View;
  readonly space: number;
  readonly base: ValueBase;
  /** Two cells are one number. */
  readonly order: Pairing | undefined;
  readonly list: boolean;
  readonly touched: ReadonlyMap<number, 'read' | 'written'>;
  readonly editing: Editing;
  /** Kept in sight whenever it changes; undefined: nothing is. */
  readonly follows: number | undefined;
  /** Characters of a line that there is room for. */
  readonly room: number;
  readonly name: string;
  readonly heat: Surroundings['heat'];
}

export function CellTable({ machine, view, space, base, order, list, touched, editing, follows, room, name, heat }: TableProps) {
  const { cells, banks, width } = itemAt(machine.spaces, space);
  const step = order ? 2 : 1;
  const perRow = list ? step : cellsBeside(itemAt(machine.spaces, space), machine.radix, { base, room, order });
  const perBank = Math.ceil(cells / perRow);
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: perBank * banks,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 2,
    // The head of the table stands above the rows and stays in sight.
    scrollPaddingEnd: ROW + 4,
    initialRect: { width: 600, height: 200 },
  });
  useEffect(() => virtual.measure(), [virtual, perRow]);
  const rowAt = (address: number): number => Math.floor(address / cells) * perBank + Math.floor((address % cells) / perRow);
  const { head } = editing.chosen;
  const shown = useRef({ head, follows });
  useEffect(() => {
    const wanted = shown.current.follows !== follows ? follows : shown.current.head !== head ? head : undefined;
    shown.current = { head, follows };
    if (wanted !== undefined) withNextPaint(() => scroller.current && virtual.scrollToIndex(rowAt(wanted), { align: 'auto' }));
  });
  useEffect(() => {
    if (scroller.current) virtual.scrollToIndex(rowAt(follows ?? head), { align: 'auto' });
    // Only when the rows are others.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [virtual, perRow, space]);
  const labels = useRun((state) => state.labels[space]);
  const rooms = useRun((state) => state.rooms);
  const code = useRun((state) => state.code);
  const devices = useMemo(() => devicesIn(machine, space), [machine, space]);
  const pointers = pointersInto(machine, view.registers, space);
  const around: Surroundings = { machine, view, space, touched, code, labels, rooms, devices, pointers, heat };
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const { radix } = machine;
  const withCharacters = width <= WITH_CHARACTERS && base !== 'char';
  const columns = useMemo(
    () => (list ? listColumns(machine, { space, base, step, labels }) : gridColumns(machine, { space, base, step, perRow })),
    [list, machine, space, base, step, perRow, labels],
  );
  const memory = itemAt(view.spaces, space);
  /** A cell, or the pair that it is the first of. */
  const cellAt = (at: number): ShownCell => {
    const value = memory.cells[at] ?? 0;
    const never = memory.marks[at] === NEVER;
    const chosen = editing.holds(at) ? (at === head ? 'head' : 'range') : undefined;
    const classes = classesOf(around, at);
    if (!order) return { at, value, never, classes, chosen };
    const joined = pairValue(value, memory.cells[at + 1] ?? 0, { size: radix ** width, order });
    const both = together(classes, classesOf(around, at + 1));
    return { at, value: joined, never: never && memory.marks[at + 1] === NEVER, classes: both, chosen };
  };
  const cellUnder = ({ target }: MouseEvent): number | undefined => {
    const at = (target as Element).closest<HTMLElement>('td[data-at]')?.dataset.at;
    return at === undefined ? undefined : Number(at);
  };
  return (
    <div className="cells" ref={scroller} data-testid="cells">
      <table
        role="grid"
        tabIndex={0}
        style={widthsOf(columns)}
        data-space={space}
        aria-label={`${name}: arrows go from cell to cell, typing enters a value`}
        aria-rowcount={perBank * banks}
        aria-activedescendant={`${editing.id}-${head}`}
        onKeyDown={(event) => editing.key(event, perRow)}
        onCopy={(event) => editing.copy(event, { base, perRow })}
        onPaste={editing.paste}
      >
        <thead role="rowgroup">
          <tr role="row">
            {columns.flatMap(({ id, heads }) =>
              heads.map((each, at) => (
                <th key={`${id}${at}`} role="columnheader" className={id}>
                  {each}
                </th>
              )),
            )}
          </tr>
        </thead>
        <tbody
          role="rowgroup"
          onMouseDown={(event) => {
            const at = cellUnder(event);
            if (at !== undefined) editing.choose(at, event.shiftKey);
          }}
          onMouseOver={(event) => {
            const at = event.buttons === 1 ? cellUnder(event) : undefined;
            if (at !== undefined) editing.choose(at, true);
          }}
        >
          {above > 0 && <tr className="away" style={{ height: above }} aria-hidden />}
          {items.map(({ index }, place) => {
            const from = Math.floor(index / perBank) * cells + (index % perBank) * perRow;
            const count = Math.min(perRow, cells - (from % cells));
            const holdsHead = head >= from && head < from + count;
            return (
              <CellRow
                // Giving an element other text costs far less than making or moving one; what is typed into stays what it is.
                key={editing.typed === undefined ? place : `row ${index}`}
                {...{ index, base, radix, editing, list }}
                width={step * width}
                address={placeDigits(machine, { space, address: from })}
                cells={Array.from({ length: Math.ceil(count / step) }, (_, column) => cellAt(from + column * step))}
                characters={withCharacters && !list ? charactersOf(memory, from, count) : undefined}
                label={list ? labels?.get(from) : undefined}
                typed={holdsHead ? editing.typed : undefined}
                head={holdsHead ? head : undefined}
              />
            );
          })}
          {below > 0 && <tr className="away" style={{ height: below }} aria-hidden />}
        </tbody>
      </table>
    </div>
  );
}

/** Marks of either of two cells. */
const together = (one: string, other: string): string => [...new Set(`${one} ${other}`.trim().split(/\s+/))].join(' ');

/** Cells of a whole memory in rows or as a list, only those in sight as elements; chosen, typed over, copied and pasted where they stand. */
import './memory.css';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef } from 'react';
import { NEVER } from '@zettak/core/engine/meaning/state';
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import { pairValue, type Pairing } from '@zettak/core/session/cellText';
import type { View } from '@zettak/core/session/protocol';
import { itemAt } from '@zettak/core/text/itemAt';
import { binaryDigits, signedReading } from '@zettak/core/text/number';
import { withNextPaint } from '../../ui/follow';
import type { ValueBase } from '../looks';
import { useRun } from '../run';
import { cellsBeside, characterNamed, classesOf, devicesIn, inBase, lengthIn, WITH_CHARACTERS, type Surroundings } from './cells';
import { pointersInto } from './holds';
import type { Editing } from './editing';

const ROW = 22;
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
    overscan: 4,
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
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [virtual, perRow, space]);
  const labels = useRun((state) => state.labels[space]);
  const rooms = useRun((state) => state.rooms);
  const code = useRun((state) => state.code);
  const devices = useMemo(() => devicesIn(machine, space), [machine, space]);
  const pointers = pointersInto(machine, view.registers, space);
  const around: Surroundings = { machine, view, space, touched, code, labels, rooms, devices, pointers, heat };
  const items = virtual.getVirtualItems();
  // A row that leaves the sight becomes one that comes into it.
  const slots = useRef(0);
  slots.current = Math.max(slots.current, items.length);
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const { radix } = machine;
  const memory = itemAt(view.spaces, space);
  /** A cell, or the pair that it is the first of. */
  const numberAt = (at: number): { readonly value: number; readonly never: boolean; readonly width: number } => {
    const value = memory.cells[at] ?? 0;
    const never = memory.marks[at] === NEVER;
    if (!order) return { value, never, width };
    const joined = pairValue(value, memory.cells[at + 1] ?? 0, { size: radix ** width, order });
    return { value: joined, never: never && memory.marks[at + 1] === NEVER, width: 2 * width };
  };
  return (
    <div className="cells" ref={scroller} data-testid="cells">
      <table
        role="grid"
        tabIndex={0}
        aria-label={`${name}: arrows go from cell to cell, typing enters a value`}
        aria-rowcount={perBank * banks}
        aria-activedescendant={`${editing.id}-${head}`}
        onKeyDown={(event) => editing.key(event, perRow)}
        onCopy={(event) => editing.copy(event, { base, perRow })}
        onPaste={editing.paste}
      >
        <thead>
          <tr>
            <th scope="col">{banks > 1 ? 'bank:cell' : 'cell'}</th>
            {list ? (
              <>
                <th scope="col">{base === 'char' ? 'character' : base}</th>
                <th scope="col">unsigned</th>
                <th scope="col">signed</th>
                {radix === 2 && step * width <= 16 && <th scope="col">bits</th>}
                <th scope="col">character</th>
                <th scope="col">name</th>
              </>
            ) : (
              <>
                {Array.from({ length: perRow / step }, (_, at) => (
                  <th key={at} scope="col">
                    {(at * step).toString(radix === 10 ? 10 : 16).toUpperCase()}
                  </th>
                ))}
                {width <= WITH_CHARACTERS && base !== 'char' && <th scope="col">characters</th>}
              </>
            )}
          </tr>
        </thead>
        <tbody>
          {above > 0 && <tr style={{ height: above }} aria-hidden />}
          {items.map(({ index }) => {
            const from = Math.floor(index / perBank) * cells + (index % perBank) * perRow;
            const count = Math.min(perRow, cells - (from % cells));
            const address = placeDigits(machine, { space, address: from });
            return (
              <tr key={index % slots.current} style={{ height: ROW }} aria-rowindex={index + 1}>
                <th scope="row">{address}</th>
                {Array.from({ length: Math.ceil(count / step) }, (_, column) => {
                  const at = from + column * step;
                  return (
                    <Cell
                      key={column}
                      {...{ at, base, radix, editing }}
                      {...numberAt(at)}
                      classes={order ? together(classesOf(around, at), classesOf(around, at + 1)) : classesOf(around, at)}
                      chosen={editing.holds(at) ? (at === head ? 'head' : 'range') : ''}
                      typed={at === head ? editing.typed : undefined}
                      space={space}
                    />
                  );
                })}
                {list ? (
                  <Readings {...numberAt(from)} radix={radix} name={labels?.get(from)} />
                ) : (
                  width <= WITH_CHARACTERS &&
                  base !== 'char' && <Characters cells={memory.cells} marks={memory.marks} {...{ from, count }} />
                )}
              </tr>
            );
          })}
          {below > 0 && <tr style={{ height: below }} aria-hidden />}
        </tbody>
      </table>
    </div>
  );
}

/** Marks of either of two cells. */
const together = (one: string, other: string): string => [...new Set(`${one} ${other}`.trim().split(/\s+/))].join(' ');

interface CellProps {
  readonly at: number;
  readonly value: number;
  readonly never: boolean;
  readonly base: ValueBase;
  readonly width: number;
  readonly radix: 2 | 10;
  readonly classes: string;
  readonly chosen: 'head' | 'range' | '';
  /** What is being typed into it. */
  readonly typed: string | undefined;
  readonly editing: Editing;
  readonly space: number;
}

/** One that shows the same is left alone; what is done with it goes to the window that it stands in. */
const Cell = memo(
  function Cell({ at, value, never, base, width, radix, classes, chosen, typed, editing, space }: CellProps) {
    return (
      <td
        id={`${editing.id}-${at}`}
        className={`${classes} ${chosen}`.trim() || undefined}
        aria-selected={chosen !== ''}
        data-at={at}
        data-holds={`${space} ${at}`}
        onMouseDown={(event) => editing.choose(at, event.shiftKey)}
        onMouseEnter={(event) => event.buttons === 1 && editing.choose(at, true)}
      >
        {typed === undefined ? (
          never ? (
            '··'
          ) : (
            inBase(value, width, radix, base)
          )
        ) : (
          <input
            value={typed}
            maxLength={60}
            autoFocus
            spellCheck={false}
            style={{ width: `${Math.max(typed.length, lengthIn(width, radix, base)) + 1}ch` }}
            aria-label="Value of the cell"
            onChange={(event) => editing.type(event.target.value)}
            onBlur={() => editing.give('leave')}
            data-testid="cell-entry"
          />
        )}
      </td>
    );
  },
  (one, other) =>
    one.at === other.at &&
    one.value === other.value &&
    one.never === other.never &&
    one.base === other.base &&
    one.width === other.width &&
    one.classes === other.classes &&
    one.chosen === other.chosen &&
    one.typed === other.typed &&
    one.editing.of === other.editing.of,
);

interface ReadingsProps {
  readonly value: number;
  readonly never: boolean;
  readonly width: number;
  readonly radix: 2 | 10;
  readonly name: string | undefined;
}

const Readings = memo(function Readings({ value, never, width, radix, name }: ReadingsProps) {
  const { text, small } = characterNamed(value);
  return (
    <>
      <td className="reading">{never ? '' : value}</td>
      <td className="reading">{never ? '' : String(signedReading(value, width, radix)).replace('-', '−')}</td>
      {radix === 2 && width <= 16 && <td className="reading">{never ? '' : binaryDigits(value, width)}</td>}
      <td className="characters">{never ? '' : small ? <small>{text}</small> : text}</td>
      <td className="name">{name ?? ''}</td>
    </>
  );
});

function Characters({ cells, marks, from, count }: { cells: Uint32Array; marks: Uint8Array; from: number; count: number }) {
  return (
    <td className="characters" aria-hidden>
      {Array.from({ length: count }, (_, at) => {
        const { text, small } = characterNamed(cells[from + at] ?? 0);
        if (marks[from + at] === NEVER) return <span key={at}> </span>;
        return <span key={at}>{small ? <small>{text}</small> : text}</span>;
      })}
    </td>
  );
}

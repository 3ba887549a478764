/** The cells of a memory in rows, only those in sight as elements, with the marks of the run, the program and the hand. */
import './memory.css';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { NEVER } from '@zettak/core/engine/meaning/state';
import { cellText } from '@zettak/core/engine/watch/places';
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { View } from '@zettak/core/session/protocol';
import { shownLength, shownNumber } from '@zettak/core/text/number';
import { useEditor, type EditorHandle } from '../../editor/handle';
import { withNextPaint } from '../../ui/follow';
import { askAbout, type ValueBase } from '../looks';
import { classesOf, devicesIn, inBase, NOTHING, type Surroundings } from './cells';
import { addressColumn, cellColumns, widthsOf } from './columns';
import { pointersInto, pointersWords } from './holds';
import { memoryRows, writtenRows, type MemoryRow } from './memoryRows';
import { boxOf } from '../PlaceMenu';
import { readings } from '../state/readings';
import { routineOf } from '@zettak/core/image/program';
import { useRun } from '../run';
import { useText } from '../text';
import { itemAt } from '@zettak/core/text/itemAt';

/** Heights in pixels, as in the style sheet. */
const [ROW, GAP, HEAD] = [21, 15, 30];

interface GridProps {
  readonly machine: Machine;
  readonly view: View;
  readonly space: number;
  readonly base: ValueBase;
  readonly touched: ReadonlyMap<number, 'read' | 'written'>;
  /** Cells of the line under the cursor: the first, and the one behind the last. */
  readonly cursor: readonly [from: number, to: number];
}

/** Cells beside each other, as many as there is room for. */
function cellsPerRow(width: number, radix: 2 | 10, base: ValueBase): number {
  if (radix === 10) return width > 4 ? 2 : 5;
  const shownIn = ({ bin: 2, oct: 8, dec: 10 } as const)[base as string] ?? 16;
  const widest = shownLength(width, { radix, base: shownIn });
  return widest > 6 ? 2 : widest > 3 ? 4 : 8;
}

/** Goes to the cell that the last tick touched, else to the instruction under way. */
export function MemoryGrid({ machine, view, space, base, touched, cursor }: GridProps) {
  const { width, cells, banks } = itemAt(machine.spaces, space);
  const { radix } = machine;
  const perRow = cellsPerRow(width, radix, base);
  const rooms = useRun((state) => state.rooms);
  const labels = useRun((state) => state.labels[space]);
  const routines = useRun((state) => state.routines);
  const [opened, setOpened] = useState<ReadonlySet<number>>(new Set());
  useEffect(() => setOpened(new Set()), [machine, space, perRow]);
  const { marks: written } = itemAt(view.spaces, space);
  const ruled = useMemo(() => ({ cells, size: cells * banks, perRow }), [cells, banks, perRow]);
  const holding = useMemo(() => writtenRows(written, ruled), [written, ruled]);
  const program = space === machine.programSpace;
  const [here, next] = program ? [view.executing?.address ?? 0, view.next.address] : [0, 0];
  const rows = useMemo(() => {
    const own = rooms.filter((each) => each.space === space);
    return memoryRows(ruled, { written: holding, seen: [...touched.keys(), here, next], rooms: own, opened });
  }, [ruled, holding, space, touched, here, next, rooms, opened]);
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (at) => ('gap' in itemAt(rows, at) ? GAP : ROW),
    overscan: 6,
    // The head of the table stands above the rows and stays in sight.
    scrollPaddingEnd: HEAD,
    initialRect: { width: 280, height: 320 },
  });
  useEffect(() => virtual.measure(), [virtual, rows.length, opened]);
  const openGap = (first: number): void => setOpened((held) => new Set([...held, first]));
  const focus = [...touched.keys()].at(-1) ?? (program ? (view.executing?.address ?? view.next.address) : 0);
  const focused = rows.findIndex((row) => 'from' in row && focus >= row.from && focus < row.from + perRow);
  useEffect(() => {
    if (focused !== -1) withNextPaint(() => scroller.current && virtual.scrollToIndex(focused, { align: 'auto' }));
  }, [virtual, focused]);
  const columns = useMemo(() => {
    const cell = cellColumns(machine, { space, base, step: 1, perRow });
    return [
      { ...addressColumn(machine, space), heads: [''] },
      { ...cell, beside: 2 },
    ];
  }, [machine, space, base, perRow]);
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const code = useRun((state) => state.code);
  const devices = useMemo(() => devicesIn(machine, space), [machine, space]);
  const marks: Marks = {
    machine,
    view,
    space,
    touched,
    code,
    labels,
    rooms,
    devices,
    pointers: pointersInto(machine, view.registers, space),
    heat: undefined,
    cursor,
    routines: program ? routines : [],
  };
  return (
    <div
      className="memory"
      ref={scroller}
      tabIndex={0}
      role="group"
      aria-label="Memory cells: arrows go from cell to cell, Enter opens one"
      onKeyDown={walkCells}
    >
      <table role="table" data-testid="memory" style={widthsOf(columns)}>
        <thead role="rowgroup">
          <tr role="row">
            <th role="columnheader" className="place" aria-label="address" />
            {itemAt(columns, 1).heads.map((each) => (
              <th key={each} role="columnheader" className="cell">
                {each}
              </th>
            ))}
          </tr>
        </thead>
        <tbody role="rowgroup">
          {above > 0 && <tr style={{ height: above }} aria-hidden />}
          {items.map(({ index }) => {
            const row = itemAt(rows, index);
            if ('gap' in row) return <Gap key={row.gap[0]} row={row} {...{ machine, space, perRow }} open={openGap} />;
            const { from } = row;
            const count = Math.min(perRow, cells - (from % cells));
            const found = Array.from({ length: count }, (_, column) => cellMarks(marks, from + column));
            return <GridRow key={from} {...{ machine, space, base, from }} cells={found} />;
          })}
          {below > 0 && <tr style={{ height: below }} aria-hidden />}
        </tbody>
      </table>
    </div>
  );
}

interface GapProps {
  readonly row: Extract<MemoryRow, { gap: unknown }>;
  readonly machine: Machine;
  readonly space: number;
  readonly perRow: number;
  readonly open: (first: number) => void;
}

/** Rows are made anew; a gap that is the same is left alone. */
const sameGap = (one: GapProps, other: GapProps): boolean =>
  one.row.gap.join() === other.row.gap.join() && one.machine === other.machine && one.space === other.space && one.perRow === other.perRow;

const Gap = memo(function Gap({ row: { gap }, machine, space, perRow, open }: GapProps) {
  const { cells, addressWidth } = itemAt(machine.spaces, space);
  const shown = (address: number): string => shownNumber(address % cells, addressWidth, machine);
  const words = `Show ${shown(gap[0])} to ${shown(Math.min(gap[1] + perRow - 1, cells * (Math.floor(gap[1] / cells) + 1) - 1))}, never written`;
  return (
    <tr role="row" className="gap">
      <th role="rowheader">
        <button type="button" data-bench title={words} aria-label={words} onClick={() => open(gap[0])}>
          ⋮
        </button>
      </th>
    </tr>
  );
}, sameGap);

interface Marks extends Surroundings {
  readonly cursor: GridProps['cursor'];
  readonly routines: Parameters<typeof routineOf>[0];
}

/** What a cell shows, as plain values, so that cells that show the same are left alone. */
function cellMarks(marks: Marks, address: number) {
  const { view, space, cursor, labels, routines, pointers } = marks;
  const { cells, marks: written } = itemAt(view.spaces, space);
  const atCursor = address >= cursor[0] && address < cursor[1];
  return {
    address,
    value: itemAt(cells, address),
    never: itemAt(written, address) === NEVER,
    classes: `${classesOf(marks, address)}${atCursor ? ' at-cursor' : ''}`.trim(),
    name: labels?.get(address),
    routine: routineOf(routines, address),
    pointed: pointersWords(pointers.get(address) ?? []),
  };
}

type ShownCell = ReturnType<typeof cellMarks>;

interface RowProps {
  readonly machine: Machine;
  readonly space: number;
  readonly base: ValueBase;
  readonly from: number;
  readonly cells: readonly ShownCell[];
}

const KEYS = ['address', 'value', 'never', 'classes', 'name', 'routine', 'pointed'] as const;
const sameCell = (one: ShownCell, other: ShownCell | undefined): boolean => KEYS.every((key) => one[key] === other?.[key]);

/** Views bring every row anew; one that shows the same is left alone. */
const sameRow = (one: RowProps, other: RowProps): boolean =>
  one.machine === other.machine &&
  one.space === other.space &&
  one.base === other.base &&
  one.from === other.from &&
  one.cells.length === other.cells.length &&
  one.cells.every((each, at) => sameCell(each, other.cells[at]));

const GridRow = memo(function GridRow({ machine, space, base, from, cells }: RowProps) {
  return (
    <tr role="row" data-row={from}>
      <th role="rowheader" className="place">
        {placeDigits(machine, { space, address: from })}
      </th>
      {cells.map((cell, column) => (
        <Cell key={column} {...{ machine, space, base }} {...cell} />
      ))}
    </tr>
  );
}, sameRow);

interface CellProps extends ShownCell {
  readonly machine: Machine;
  readonly space: number;
  readonly base: ValueBase;
}

const Cell = memo(function Cell({ machine, space, address, value, never, classes, base, name, routine, pointed }: CellProps) {
  const { width, addressWidth, cells, name: spaceName } = itemAt(machine.spaces, space);
  const { radix } = machine;
  const editor = useEditor();
  const holds = never ? 'never written' : readings(value, width, machine);
  const title = `${name ? `${name}, ` : ''}cell ${shownNumber(address % cells, addressWidth, machine)}: ${holds}${routine ? `; in ${routine}` : ''}${pointed && `; ${pointed}`}`;
  return (
    <td
      role="cell"
      className={`cell ${classes}`.trimEnd()}
      title={title}
      tabIndex={-1}
      data-cell={space === machine.programSpace ? address : undefined}
      data-place={`${spaceName} ${address}`}
      onDoubleClick={() => {
        askAbout(undefined);
        goToSource(editor, machine, space, address);
      }}
      onClick={(event) => {
        const place = cellText(machine, space, address);
        askAbout({ place, name: name ? `${name}, ${place}` : place, cell: true, at: boxOf(event.currentTarget) });
      }}
    >
      {never ? NOTHING : inBase(value, width, radix, base)}
    </td>
  );
});

const STEPS: Readonly<Record<string, readonly [rows: number, columns: number]>> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** Arrows go from cell to cell once one of them has the focus; Enter opens what can be done with it. */
function walkCells(event: React.KeyboardEvent<HTMLElement>): void {
  const step = STEPS[event.key];
  const opens = event.key === 'Enter';
  if ((!step && !opens) || event.ctrlKey || event.metaKey || event.altKey || event.shiftKey) return;
  if (event.target instanceof HTMLButtonElement) return;
  // The bench's own keys are for elsewhere.
  event.preventDefault();
  event.stopPropagation();
  const cell = (event.target as HTMLElement).closest('td');
  if (opens && cell) return cell.click();
  const list = [...event.currentTarget.querySelectorAll<HTMLTableRowElement>('tbody tr[data-row]')];
  const row = cell && list.indexOf(cell.parentElement as HTMLTableRowElement);
  const wanted = cell && step ? list[row! + step[0]]?.querySelectorAll('td')[cell.cellIndex - 1 + step[1]] : undefined;
  const first = event.currentTarget.querySelector<HTMLElement>('td.executing, td.next, td');
  (cell ? wanted : first)?.focus();
}

/** From a cell to the line that it comes from. */
function goToSource(editor: EditorHandle, { programSpace }: Machine, space: number, address: number): void {
  const row = useText
    .getState()
    .listing.rows.find(
      (each) =>
        (each.space ?? programSpace) === space &&
        each.address !== undefined &&
        address >= each.address &&
        address < each.address + Math.max(each.words.length, each.size ?? 0),
    );
  if (row) editor.goToLine(row.line);
}

/** Memory on the bench: cells in four bases, with the marks of the run, the program and the hand. */
import { memo, useEffect, useMemo, useRef } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { cellText } from '@zettak/core/engine/watch/places';
import { BY_HAND } from '@zettak/core/engine/meaning/state';
import { characterOf, hexDigits, shownDigits, shownNumber } from '@zettak/core/text/number';
import { touchedCells } from '../datapath/touched';
import { useEditor, type EditorHandle } from '../editor/handle';
import { follow } from '../ui/follow';
import { boxOf } from './PlaceMenu';
import { readings } from './readings';
import type { Row } from '@zettak/core/image/program';
import type { View } from '@zettak/core/session/protocol';
import { type ValueBase, useLooks, setLooks, askAbout } from './looks';
import { routineOf, useRun, type RunState } from './run';
import { useText } from './text';

const BASES: Readonly<Record<2 | 10, readonly ValueBase[]>> = { 2: ['hex', 'dec', 'bin', 'char'], 10: ['dec', 'char'] };

function inBase(value: number, { width, radix, base }: Reading): string {
  if (base === 'char') return characterOf(value) ?? '·';
  if (radix === 10) return shownDigits(value, width, 10);
  if (base === 'hex') return hexDigits(value, width);
  if (base === 'dec') return String(value);
  return value.toString(2).padStart(width, '0');
}

interface Reading {
  readonly width: number;
  readonly radix: 2 | 10;
  readonly base: ValueBase;
}

export function Memory({ machine, view }: { machine: Machine; view: View }) {
  const base = useLooks((state) => state.base);
  const moving = useRun((state) => state.motion !== undefined);
  const chosen = useLooks((state) => state.space);
  const space = chosen !== undefined && chosen < machine.spaces.length ? chosen : machine.programSpace;
  const { width, addressWidth, cells, title } = machine.spaces[space]!;
  const { radix } = machine;
  const shownBase = BASES[radix].includes(base) ? base : BASES[radix][0]!;
  const widest = shownBase === 'bin' ? width : Math.ceil(width / 4);
  const perRow = radix === 10 ? 5 : widest > 8 ? 2 : widest > 3 ? 4 : 8;
  const touched = useMemo(() => touchedCells(moving ? undefined : view.last, space), [view, moving, space]);
  const rooms = useRun((state) => state.rooms);
  const rows = useMemo(
    () => memoryRows(machine, view, { space, touched, cells, perRow, rooms }),
    [machine, view, space, touched, cells, perRow, rooms],
  );
  const scroller = useRef<HTMLDivElement>(null);
  const labels = useRun((state) => state.labels[space]);
  const routines = useRun((state) => state.routines);
  // One selector for all cells, not one for each: a key press changes the store several times.
  const cursorLine = useLooks((state) => state.cursorLine);
  const cursorRow = useText((state) => state.listing.rows[cursorLine - 1]);
  const [cursorFrom, cursorTo] = cursorCells(cursorRow, machine, space);
  const program = space === machine.programSpace;
  const focus = [...touched.keys()].at(-1) ?? (program ? (view.executing?.address ?? view.next.address) : 0);
  useEffect(() => {
    follow(scroller.current, () => scroller.current?.querySelector(`[data-row="${focus - (focus % perRow)}"]`));
  }, [focus, perRow]);
  return (
    <div className="block memory">
      <header>
        {machine.spaces.length === 1 ? (
          <h2>{title[0]!.toUpperCase() + title.slice(1)}</h2>
        ) : (
          <select
            className="space"
            value={space}
            onChange={(event) => setLooks({ space: Number(event.target.value) })}
            aria-label="Memory shown"
            data-testid="space"
          >
            {machine.spaces.map((each, at) => (
              <option key={each.name} value={at}>
                {each.title}
              </option>
            ))}
          </select>
        )}
        <div className="bases" role="radiogroup" aria-label="Base of memory">
          {BASES[radix].map((each) => (
            <button
              key={each}
              type="button"
              role="radio"
              aria-checked={shownBase === each}
              data-bench
              onClick={() => setLooks({ base: each })}
            >
              {each}
            </button>
          ))}
        </div>
      </header>
      <div
        className="scroll"
        ref={scroller}
        tabIndex={0}
        role="group"
        aria-label="Memory cells: arrows go from cell to cell, Enter opens one"
        onKeyDown={walkCells}
      >
        <table data-testid="memory">
          <thead>
            <tr>
              <th scope="col" aria-label="address" />
              {Array.from({ length: perRow }, (_, at) => (
                <th key={at} scope="col">
                  {at.toString(radix === 10 ? 10 : 16).toUpperCase()}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, at) =>
              row === undefined ? (
                <tr key={`gap${at}`} className="gap">
                  <th>⋮</th>
                </tr>
              ) : (
                <tr key={row} data-row={row}>
                  <th scope="row">
                    {row >= cells || machine.spaces[space]!.banks > 1 ? `${Math.floor(row / cells)}:` : ''}
                    {shownDigits(row % cells, addressWidth, radix)}
                  </th>
                  {Array.from({ length: Math.min(perRow, cells - (row % cells)) }, (_, column) => (
                    <Cell
                      key={column}
                      {...{ machine, view, space, base: shownBase }}
                      address={row + column}
                      touch={touched.get(row + column)}
                      name={labels?.get(row + column)}
                      routine={program ? routineOf(routines, row + column) : undefined}
                      atCursor={row + column >= cursorFrom && row + column < cursorTo}
                    />
                  ))}
                </tr>
              ),
            )}
          </tbody>
        </table>
      </div>
    </div>
  );
}

interface CellParts {
  readonly machine: Machine;
  readonly view: View;
  readonly space: number;
  readonly address: number;
  readonly base: ValueBase;
  readonly touch: 'read' | 'written' | undefined;
  readonly name: string | undefined;
  readonly routine: string | undefined;
  readonly atCursor: boolean;
}

const Cell = memo(function Cell({ machine, view, space, address, base, touch, name, routine, atCursor }: CellParts) {
  const { width, addressWidth, cells } = machine.spaces[space]!;
  const { radix } = machine;
  const editor = useEditor();
  const memory = view.spaces[space]!;
  const value = memory.cells[address]!;
  const never = memory.marks[address] === 0;
  const inside = (where: { address: number; length: number } | undefined): boolean =>
    space === machine.programSpace && where !== undefined && address >= where.address && address < where.address + where.length;
  const { executing, next } = view;
  const classes = [
    memory.marks[address] === 1 ? 'loaded' : '',
    inside(executing) ? 'executing' : '',
    inside(next) && view.status !== 'halted' ? 'next' : '',
    touch ?? '',
    name === undefined ? '' : 'named',
    atCursor ? 'at-cursor' : '',
    memory.marks[address] === BY_HAND ? 'by-hand' : '',
  ];
  return (
    <td
      className={classes.join(' ').trim() || undefined}
      title={`${name ? `${name}, ` : ''}cell ${shownNumber(address % cells, addressWidth, radix)}: ${never ? 'never written' : readings(value, width, radix)}${routine ? `; in ${routine}` : ''}`}
      tabIndex={-1}
      data-cell={space === machine.programSpace ? address : undefined}
      data-place={`${machine.spaces[space]!.name} ${address}`}
      onDoubleClick={() => {
        askAbout(undefined);
        goToSource(editor, machine, space, address);
      }}
      onClick={(event) => {
        const place = cellText(machine, space, address);
        askAbout({ place, name: name ? `${name}, ${place}` : place, cell: true, at: boxOf(event.currentTarget) });
      }}
    >
      {never ? '··' : inBase(value, { width, radix, base })}
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

/** First cell of the line under the cursor, and the one behind its last. */
function cursorCells(row: Row | undefined, machine: Machine, space: number): readonly [from: number, to: number] {
  if (row?.address === undefined || (row.space ?? machine.programSpace) !== space) return [0, 0];
  return [row.address, row.address + Math.max(row.words.length, row.size ?? 0)];
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

/** Cells of one room that are shown before they are written. */
const MOST_ROOM = 255;

interface Shown {
  readonly space: number;
  readonly touched: ReadonlyMap<number, unknown>;
  readonly cells: number;
  readonly perRow: number;
  readonly rooms: RunState['rooms'];
}

/** Rows that hold something, with one more around them; gaps between. Everything of a small memory, at most 400 rows. */
function memoryRows(machine: Machine, view: View, { space, touched, cells, perRow, rooms }: Shown): (number | undefined)[] {
  const wanted = new Set<number>();
  const { marks } = view.spaces[space]!;
  const want = (address: number): void => {
    const row = address - ((address % cells) % perRow);
    if (row >= 0 && row < marks.length) wanted.add(row);
  };
  marks.forEach((mark, address) => mark !== 0 && wanted.size < 300 && want(address));
  // Cells that are kept free are there before anything is written to them.
  for (const room of rooms)
    if (room.space === space) for (let at = room.from; at <= Math.min(room.to, room.from + MOST_ROOM); at += perRow) want(at);
  const present = space === machine.programSpace ? [view.next.address, view.executing?.address ?? 0] : [0];
  for (const address of [...touched.keys(), ...present]) want(address);
  const used = [...wanted].sort((a, b) => a - b);
  for (const row of used) want(row + perRow);
  const rows = [...wanted].sort((a, b) => a - b);
  return rows.flatMap((row, at) => (at > 0 && row - rows[at - 1]! > perRow ? [undefined, row] : [row]));
}

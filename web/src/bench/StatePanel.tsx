/** The right of the bench: memory, registers, flags and why they are as they are. */
import { memo, useEffect, useMemo, useRef, type ReactNode } from 'react';
import type { Machine } from '@zettak/core/machine/machine';
import { binaryDigits, characterOf, hexDigits, shownDigits, shownNumber, signedReading } from '@zettak/core/text/number';
import { BY_HAND } from '@zettak/core/engine/state';
import { readsRegister, touchedCells, writeOf } from '../datapath/touched';
import { goToLine } from '../app/editors';
import { boxOf, cellPlace } from './PlaceMenu';
import { askAbout, selectFlag, setLooks, useBench, type BenchState, type ValueBase } from './store';
import type { View } from './protocol';

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

/** All readings of a value, for pointing at it. */
export function readings(value: number, width: number, radix: 2 | 10): string {
  const character = characterOf(value);
  if (radix === 10)
    return `${shownDigits(value, width, 10)} = ${signedReading(value, width, 10)} signed${character ? ` = “${character}”` : ''}`;
  return `0x${hexDigits(value, width)} = ${value} = ${signedReading(value, width)} signed = ${binaryDigits(value, width)}${character ? ` = “${character}”` : ''}`;
}

export function StatePanel() {
  const machine = useBench((state) => state.machine);
  const view = useBench((state) => state.view);
  if (!machine || !view) return <section className="panel state" aria-label="State" />;
  return (
    <section className="panel state" aria-label="State">
      <Memory machine={machine} view={view} />
      <Registers machine={machine} view={view} />
      <Flags machine={machine} view={view} />
    </section>
  );
}

function Memory({ machine, view }: { machine: Machine; view: View }) {
  const base = useBench((state) => state.base);
  const moving = useBench((state) => state.motion !== undefined);
  const chosen = useBench((state) => state.space);
  const space = chosen !== undefined && chosen < machine.spaces.length ? chosen : machine.programSpace;
  const { width, addressWidth, cells, title } = machine.spaces[space]!;
  const { radix } = machine;
  const shownBase = BASES[radix].includes(base) ? base : BASES[radix][0]!;
  const widest = shownBase === 'bin' ? width : Math.ceil(width / 4);
  const perRow = radix === 10 ? 5 : widest > 8 ? 2 : widest > 3 ? 4 : 8;
  const touched = useMemo(() => touchedCells(moving ? undefined : view.last, space), [view, moving, space]);
  const rows = useMemo(() => memoryRows(machine, view, { space, touched, cells, perRow }), [machine, view, space, touched, cells, perRow]);
  const scroller = useRef<HTMLDivElement>(null);
  const labels = useBench((state) => state.labels[space]);
  const routines = useBench((state) => state.routines);
  // Two selectors for all cells, not two for each: a key press changes the store several times.
  const cursorFrom = useBench((state) => cursorCells(state, space)[0]);
  const cursorTo = useBench((state) => cursorCells(state, space)[1]);
  const program = space === machine.programSpace;
  const focus = [...touched.keys()].at(-1) ?? (program ? (view.executing?.address ?? view.next.address) : 0);
  useEffect(() => {
    scroller.current?.querySelector(`[data-row="${focus - (focus % perRow)}"]`)?.scrollIntoView({ block: 'nearest' });
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
        goToSource(machine, space, address);
      }}
      onClick={(event) => {
        const place = cellPlace(machine, space, address);
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

/** The routine of the loaded program that a cell of the program space belongs to. */
export const routineOf = (routines: BenchState['routines'], address: number): string | undefined =>
  routines.find((each) => address >= each.from && address <= each.to)?.name;

/** First cell of the line under the cursor, and the one behind its last. */
function cursorCells({ listing, cursorLine, machine }: BenchState, space: number): readonly [from: number, to: number] {
  const row = listing.rows[cursorLine - 1];
  if (row?.address === undefined || (row.space ?? machine?.programSpace) !== space) return NO_CELLS;
  return [row.address, row.address + Math.max(row.words.length, row.size ?? 0)];
}
const NO_CELLS = [0, 0] as const;

/** From a cell to the line that it comes from. */
function goToSource({ programSpace }: Machine, space: number, address: number): void {
  const row = useBench
    .getState()
    .listing.rows.find(
      (each) =>
        (each.space ?? programSpace) === space &&
        each.address !== undefined &&
        address >= each.address &&
        address < each.address + Math.max(each.words.length, each.size ?? 0),
    );
  if (row) goToLine('.program', row.line);
}

interface Shown {
  readonly space: number;
  readonly touched: ReadonlyMap<number, unknown>;
  readonly cells: number;
  readonly perRow: number;
}

/** Rows that hold something, with one more around them; gaps between. Everything of a small memory, at most 400 rows. */
function memoryRows(machine: Machine, view: View, { space, touched, cells, perRow }: Shown): (number | undefined)[] {
  const wanted = new Set<number>();
  const { marks } = view.spaces[space]!;
  const want = (address: number): void => {
    const row = address - ((address % cells) % perRow);
    if (row >= 0 && row < marks.length) wanted.add(row);
  };
  marks.forEach((mark, address) => mark !== 0 && wanted.size < 300 && want(address));
  const present = space === machine.programSpace ? [view.next.address, view.executing?.address ?? 0] : [0];
  for (const address of [...touched.keys(), ...present]) want(address);
  const used = [...wanted].sort((a, b) => a - b);
  for (const row of used) want(row + perRow);
  const rows = [...wanted].sort((a, b) => a - b);
  return rows.flatMap((row, at) => (at > 0 && row - rows[at - 1]! > perRow ? [undefined, row] : [row]));
}

function Registers({ machine, view }: { machine: Machine; view: View }) {
  const moving = useBench((state) => state.motion !== undefined);
  const last = moving ? undefined : view.last;
  const { radix } = machine;
  return (
    <div className={machine.registers.length + machine.composites.length > 9 ? 'block registers many' : 'block registers'}>
      <header>
        <h2>Registers</h2>
        <span className="hint">{machine.radix === 10 ? 'digits, signed' : 'hex, unsigned, signed'}</span>
      </header>
      <table data-testid="registers">
        <tbody>
          {machine.registers.map(({ name, title, width, role, array }, register) => {
            const value = view.registers[register]!;
            const change = writeOf(last, register);
            const whole = change && change.width === width && change.before !== change.value;
            const read = readsRegister(last, register);
            return (
              <tr key={name} className={change ? 'written' : read ? 'read' : ''} title={`${title}: ${readings(value, width, radix)}`}>
                <th scope="row">
                  <button
                    type="button"
                    data-bench
                    onClick={(event) =>
                      askAbout({ place: array ? name.replace(/\W/g, '') : name, name, cell: false, at: boxOf(event.currentTarget) })
                    }
                    title={`${title}: set it, stop at it, or ask who wrote it`}
                  >
                    {name}
                  </button>
                </th>
                <td className="hex">
                  {whole && <s>{shownDigits(change.before, width, radix)}</s>}
                  <b data-value={name}>{shownDigits(value, width, radix)}</b>
                </td>
                {radix === 2 && <td>{value}</td>}
                <td>
                  {role === 'program counter'
                    ? (view.next.text ?? '').split(' ')[0]
                    : String(signedReading(value, width, radix)).replace('-', '−')}
                </td>
              </tr>
            );
          })}
          {machine.composites.map(({ name, title, width }, at) => (
            <tr key={name} className="composite" title={`${title}: ${readings(view.composites[at]!, width, radix)}`}>
              <th scope="row">{name}</th>
              <td className="hex">
                <b data-value={name}>{shownDigits(view.composites[at]!, width, radix)}</b>
              </td>
              {radix === 2 && <td>{view.composites[at]}</td>}
              <td>{String(signedReading(view.composites[at]!, width, radix)).replace('-', '−')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Flags({ machine, view }: { machine: Machine; view: View }) {
  const moving = useBench((state) => state.motion !== undefined);
  const last = moving ? undefined : view.last;
  const { why } = view;
  if (machine.flags.length === 0) return null;
  return (
    <div className="block flags">
      <header>
        <h2>Flags</h2>
        <span className="hint">click one: why?</span>
      </header>
      <div className="row" data-testid="flags">
        {machine.flags.map(({ name, title }, flag) => {
          const set = view.flags[flag] === 1;
          const change = last?.flags.find((each) => each.flag === flag);
          const changed = change !== undefined && change.before !== change.after;
          return (
            <button
              key={name}
              type="button"
              data-bench
              className={[set ? 'set' : '', changed ? 'changed' : '', why?.flag === flag ? 'asked' : ''].join(' ')}
              aria-pressed={why?.flag === flag}
              aria-label={`${title}: ${view.flags[flag]}${changed ? ', just changed' : ''}`}
              title={`${title}. Why is it ${view.flags[flag]}?`}
              onClick={() => selectFlag(flag)}
              data-flag={name}
            >
              <b>{view.flags[flag]}</b>
              {name}
            </button>
          );
        })}
      </div>
      {why && (
        <Why reason={why.reason}>
          <button
            type="button"
            className="plain"
            data-bench
            onClick={(event) => {
              const { name } = machine.flags[why.flag]!;
              askAbout({ place: name, name, cell: false, at: boxOf(event.currentTarget) });
            }}
            data-testid="flag-menu"
          >
            Set or stop at {machine.flags[why.flag]!.name}
          </button>
        </Why>
      )}
    </div>
  );
}

function Why({ reason, children }: { reason: NonNullable<View['why']>['reason']; children: ReactNode }) {
  const digits = Math.max(0, ...reason.columns.map((each) => each.binary.length));
  return (
    <div className={digits > 12 ? 'why wide' : 'why'} data-testid="why">
      {reason.columns.length > 0 && (
        <table>
          <tbody>
            {reason.columns.map((each, at) => (
              <tr key={at} className={each.role}>
                <td>{each.sign}</td>
                {digits <= 24 && <td className="binary">{each.binary}</td>}
                <td>{each.hex}</td>
                <td>{each.decimal}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p>
        {reason.sentence} {children}
      </p>
    </div>
  );
}

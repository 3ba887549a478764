/** The right of the bench: memory, registers, flags and why they are as they are. */
import { useEffect, useMemo, useRef } from 'react';
import type { Machine } from '@zettak/core/machine/machine';
import { binaryDigits, characterOf, hexDigits, signedReading } from '@zettak/core/text/number';
import { readsRegister, touchedCells, writeOf } from '../datapath/touched';
import { selectFlag, setBase, useBench, type ValueBase } from './store';
import type { View } from './protocol';

const BASES: readonly ValueBase[] = ['hex', 'dec', 'bin', 'char'];

function inBase(value: number, width: number, base: ValueBase): string {
  if (base === 'hex') return hexDigits(value, width);
  if (base === 'dec') return String(value);
  if (base === 'bin') return value.toString(2).padStart(width, '0');
  return characterOf(value) ?? '·';
}

/** All five readings of a value, for pointing at it. */
export function readings(value: number, width: number): string {
  const character = characterOf(value);
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
  const { width, addressWidth, cells, title } = machine.spaces[machine.programSpace]!;
  const perRow = base === 'bin' ? 2 : 8;
  const touched = useMemo(() => touchedCells(moving ? undefined : view.last, machine.programSpace), [view, moving, machine]);
  const rows = useMemo(() => memoryRows(view, touched, cells, perRow), [view, touched, cells, perRow]);
  const scroller = useRef<HTMLDivElement>(null);
  const focus = [...touched.keys()].at(-1) ?? view.executing?.address ?? view.next.address;
  useEffect(() => {
    scroller.current?.querySelector(`[data-row="${focus - (focus % perRow)}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [focus, perRow]);
  return (
    <div className="block memory">
      <header>
        <h2>{title[0]!.toUpperCase() + title.slice(1)}</h2>
        <div className="bases" role="radiogroup" aria-label="Base of memory">
          {BASES.map((each) => (
            <button key={each} type="button" role="radio" aria-checked={base === each} data-bench onClick={() => setBase(each)}>
              {each}
            </button>
          ))}
        </div>
      </header>
      <div className="scroll" ref={scroller} tabIndex={0} aria-label="Memory cells">
        <table data-testid="memory">
          <thead>
            <tr>
              <th scope="col" aria-label="address" />
              {Array.from({ length: perRow }, (_, at) => (
                <th key={at} scope="col">
                  {at.toString(16).toUpperCase()}
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
                  <th scope="row">{hexDigits(row, addressWidth)}</th>
                  {Array.from({ length: Math.min(perRow, cells - row) }, (_, column) => (
                    <Cell key={column} {...{ view, base, width, addressWidth }} address={row + column} touch={touched.get(row + column)} />
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
  readonly view: View;
  readonly address: number;
  readonly base: ValueBase;
  readonly width: number;
  readonly addressWidth: number;
  readonly touch: 'read' | 'written' | undefined;
}

function Cell({ view, address, base, width, addressWidth, touch }: CellParts) {
  const labels = useBench((state) => state.labels);
  const value = view.memory[address]!;
  const never = view.marks[address] === 0;
  const inside = (where: { address: number; length: number } | undefined): boolean =>
    where !== undefined && address >= where.address && address < where.address + where.length;
  const { executing, next } = view;
  const classes = [
    view.marks[address] === 1 ? 'loaded' : '',
    inside(executing) ? 'executing' : '',
    inside(next) && view.status !== 'halted' ? 'next' : '',
    touch ?? '',
    labels.has(address) ? 'named' : '',
  ];
  const name = labels.get(address);
  return (
    <td
      className={classes.join(' ').trim() || undefined}
      title={`${name ? `${name}, ` : ''}cell 0x${hexDigits(address, addressWidth)}: ${never ? 'never written' : readings(value, width)}`}
      data-cell={address}
    >
      {never ? '··' : inBase(value, width, base)}
    </td>
  );
}

/** Rows that hold something, with one more around them; gaps between. Everything of a small memory, at most 400 rows. */
function memoryRows(view: View, touched: ReadonlyMap<number, unknown>, cells: number, perRow: number): (number | undefined)[] {
  const wanted = new Set<number>();
  const want = (address: number): void => {
    const row = address - (address % perRow);
    if (row >= 0 && row < cells) wanted.add(row);
  };
  view.marks.forEach((mark, address) => mark !== 0 && wanted.size < 300 && want(address));
  for (const address of [...touched.keys(), view.next.address, view.executing?.address ?? 0]) want(address);
  const used = [...wanted].sort((a, b) => a - b);
  for (const row of used) want(row + perRow);
  const rows = [...wanted].sort((a, b) => a - b);
  return rows.flatMap((row, at) => (at > 0 && row - rows[at - 1]! > perRow ? [undefined, row] : [row]));
}

function Registers({ machine, view }: { machine: Machine; view: View }) {
  const moving = useBench((state) => state.motion !== undefined);
  const last = moving ? undefined : view.last;
  return (
    <div className="block registers">
      <header>
        <h2>Registers</h2>
        <span className="hint">hex, unsigned, signed</span>
      </header>
      <table data-testid="registers">
        <tbody>
          {machine.registers.map(({ name, title, width, role }, register) => {
            const value = view.registers[register]!;
            const change = writeOf(last, register);
            const whole = change && change.width === width && change.before !== change.value;
            const read = readsRegister(last, register);
            return (
              <tr key={name} className={change ? 'written' : read ? 'read' : ''} title={`${title}: ${readings(value, width)}`}>
                <th scope="row">{name}</th>
                <td className="hex">
                  {whole && <s>{hexDigits(change.before, width)}</s>}
                  <b data-value={name}>{hexDigits(value, width)}</b>
                </td>
                <td>{value}</td>
                <td>
                  {role === 'program counter'
                    ? (view.next.text ?? '').split(' ')[0]
                    : String(signedReading(value, width)).replace('-', '−')}
                </td>
              </tr>
            );
          })}
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
      {why && <Why reason={why.reason} />}
    </div>
  );
}

function Why({ reason }: { reason: NonNullable<View['why']>['reason'] }) {
  return (
    <div className="why" data-testid="why">
      {reason.columns.length > 0 && (
        <table>
          <tbody>
            {reason.columns.map((each, at) => (
              <tr key={at} className={each.role}>
                <td>{each.sign}</td>
                <td className="binary">{each.binary}</td>
                <td>{each.hex}</td>
                <td>{each.decimal}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p>{reason.sentence}</p>
    </div>
  );
}

/** A memory: the instruction under way, the next one, the data around what was touched, the top of a stack, the vectors of traps. */
import type { TickReport } from '@zettak/core/engine/meaning/report';
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Machine, Stack } from '@zettak/core/machine/model/machine';
import { pointedCells, type PointedCell } from '@zettak/core/machine/model/pointers';
import type { View } from '@zettak/core/session/protocol';
import { itemAt } from '@zettak/core/text/itemAt';
import { shownDigits, shownLength } from '@zettak/core/text/number';
import { INSTRUCTIONS_HEIGHT, shownCell, shownPlace, type SpaceBox } from './layout';
import { addressRegister } from './routes';
import { touchedCells } from './touched';

interface MemoryParts {
  readonly machine: Machine;
  readonly box: SpaceBox;
  readonly view: View;
  readonly labels: ReadonlyMap<number, string>;
  readonly report: TickReport | undefined;
  /** “read”, “write”. */
  readonly control: readonly string[];
}

const ROW = 25;
/** Of one character of an address or a value. */
const CHARACTER = 10.8;

export function MemoryPicture(parts: MemoryParts) {
  const { machine, box, view, labels, report, control } = parts;
  const { space } = box;
  const { title } = itemAt(machine.spaces, space);
  const program = space === machine.programSpace;
  const touched = touchedCells(report, space);
  const foot = footOf(parts);
  const top = program ? INSTRUCTIONS_HEIGHT : 32;
  const footHeight = foot.reduce((sum, each) => sum + 19 + each.rows.length * ROW, 0);
  const most = Math.floor((box.height - top - 6 - footHeight) / ROW);
  const pointed = pointedCells(machine, view.registers).filter((each) => each.space === space);
  const skip = foot.flatMap((each) => each.rows);
  const rows = most > 0 ? dataRows(machine, view, { labels, touched, pointed, most, program, space, skip }) : [];
  let y = box.y + box.height - footHeight - 4;
  return (
    <g role="img" aria-label={title}>
      <rect x={box.x} y={box.y} width={box.width} height={box.height} rx="8" className="ground paper" />
      <text x={box.x + 12} y={box.y + 21} className="title">
        {itemAt(title, 0).toUpperCase() + title.slice(1)}
      </text>
      {control.length > 0 && <Pill right={box.x + box.width - 8} y={box.y + 7} text={control.join(', ')} />}
      {program && <Instructions {...parts} />}
      {rows.map((address, at) => (
        <Row
          key={address}
          {...parts}
          address={address}
          y={box.y + top + at * ROW}
          tone={touched.get(address)}
          mark={labels.get(address) ?? pointersAt(pointed, address)}
        />
      ))}
      {foot.map(({ head, rows: own, marks }) => {
        const from = y;
        y += 19 + own.length * ROW;
        return (
          <g key={head}>
            <line x1={box.x + 8} x2={box.x + box.width - 8} y1={from} y2={from} className="rule" />
            <text x={box.x + 12} y={from + 15} className="quiet">
              {head}
            </text>
            {own.map((address, at) => (
              <Row
                key={address}
                {...parts}
                address={address}
                y={from + 19 + at * ROW}
                tone={touched.get(address)}
                mark={itemAt(marks, at)}
              />
            ))}
          </g>
        );
      })}
    </g>
  );
}

/** A control word that is on. */
const Pill = ({ right, y, text }: { right: number; y: number; text: string }) => (
  <g className="pill" data-control="memory">
    <rect x={right - text.length * 7.6 - 10} y={y} width={text.length * 7.6 + 10} height="18" rx="9" />
    <text x={right - 5} y={y + 13} textAnchor="end">
      {text}
    </text>
  </g>
);

function digitsFor({ machine, box: { space }, view }: MemoryParts) {
  const { width } = itemAt(machine.spaces, space);
  const { marks, cells } = itemAt(view.spaces, space);
  const never = '·'.repeat(shownLength(width, machine));
  return {
    never,
    cell: (address: number): string => (marks[address] === 0 ? never : shownDigits(cells[address] ?? 0, width, machine)),
    place: (address: number): string => placeDigits(machine, { space, address }),
  };
}

/** Where values begin, right of the longest address. */
const leftOf = ({ machine, box }: MemoryParts): number => 17 + CHARACTER * shownPlace(itemAt(machine.spaces, box.space), machine);

function Instructions(parts: MemoryParts) {
  const { machine, box, view } = parts;
  const { place, cell } = digitsFor(parts);
  const left = leftOf(parts);
  const room = Math.max(1, Math.floor((box.width - left - 12) / (CHARACTER * (shownCell(itemAt(machine.spaces, box.space), machine) + 1))));
  const run = (address: number, length: number): string =>
    Array.from({ length: Math.min(length, room) }, (_, at) => cell(address + at)).join(' ');
  const { executing, next } = view;
  return (
    <>
      {executing && (
        <>
          <text x={box.x + 12} y={box.y + 41} className="quiet">
            executing
          </text>
          <text x={box.x + 12} y={box.y + 62} className="cell">
            <tspan className="address">{place(executing.address)}</tspan> {run(executing.address, executing.length)}
          </text>
          <rect x={box.x + 12} y={box.y + 68} width={box.width - 24} height="3" className="now-line" />
        </>
      )}
      <text x={box.x + 12} y={box.y + 90} className="quiet">
        next
      </text>
      <rect x={box.x + left} y={box.y + 95} width={box.width - left - 8} height="26" className="next-frame" />
      <text x={box.x + 12} y={box.y + 114} className="cell">
        <tspan className="address">{place(next.address)}</tspan> {run(next.address, next.length)}
      </text>
    </>
  );
}

interface RowParts extends MemoryParts {
  readonly address: number;
  readonly y: number;
  readonly tone: 'read' | 'written' | undefined;
  /** Its name, or what points at it. */
  readonly mark: string;
}

function Row({ address, y, tone, mark, ...parts }: RowParts) {
  const { machine, box } = parts;
  const { place, cell, never } = digitsFor(parts);
  const left = leftOf(parts);
  const room = Math.floor((box.width - left - CHARACTER * shownCell(itemAt(machine.spaces, box.space), machine) - 18) / 7.6);
  return (
    <g>
      {tone && <rect x={box.x + left + 1} y={y} width={10 + CHARACTER * never.length} height="23" rx="3" className={`touch ${tone}`} />}
      <text x={box.x + 12} y={y + 18} className={`cell ${tone ?? ''}`}>
        <tspan className="address">{place(address)}</tspan> {cell(address)}
        <tspan className="quiet" dx="6">
          {shortened(mark, room)}
        </tspan>
      </text>
    </g>
  );
}

const shortened = (label: string, most: number): string => (label.length <= most ? label : most < 3 ? '' : `${label.slice(0, most - 1)}…`);

interface FootPart {
  readonly head: string;
  readonly rows: readonly number[];
  readonly marks: readonly string[];
}

/** The top of each stack that lies in this memory, and the vectors of traps; as much as there is room for. */
function footOf({ machine, box, view, report }: MemoryParts): FootPart[] {
  const room = box.height - (box.space === machine.programSpace ? INSTRUCTIONS_HEIGHT : 32) - 2 * ROW;
  const stacks = machine.stacks.filter((each) => each.space === box.space).map((each) => stackPart(machine, view, each));
  const { system, routines } = machine;
  const vectors: FootPart[] = [];
  if (system?.vector && box.space === machine.programSpace) {
    const { at, count } = system.vector;
    const touched = [...touchedCells(report, box.space).keys()].filter((each) => each >= at && each < at + count);
    const shown = touched[0] ?? at + (routines[0]?.number ?? 0);
    const name = routines.find((each) => at + each.number === shown)?.name ?? '';
    vectors.push({ head: 'trap vectors', rows: [shown], marks: [name && `→ ${name}`] });
  }
  let left = room;
  return [...stacks, ...vectors].flatMap((part) => {
    const fits = Math.min(part.rows.length, Math.floor((left - 19) / ROW));
    if (fits < 1) return [];
    left -= 19 + fits * ROW;
    return [{ ...part, rows: part.rows.slice(0, fits) }];
  });
}

/** The place that the pointer names, and the one before it in the stack. */
function stackPart({ registers }: Machine, { registers: values }: View, { title, pointer, from, to, down, full, step }: Stack): FootPart {
  const at = itemAt(values, pointer);
  const { name } = itemAt(registers, pointer);
  const towardBottom = down ? step : -step;
  const shown = [at, at + towardBottom].filter((each) => each >= from - step && each <= to + step);
  const inside = shown.filter((each) => each >= from && each <= to);
  const rows = inside.length > 0 ? inside : [down ? to : from];
  return {
    head: title,
    rows,
    marks: rows.map((each) => (each === at ? `‹ ${name}` : '') || (full ? '' : each === at + towardBottom ? 'top' : '')),
  };
}

/** “‹ P0, P1”: registers and pairs that say where a cell is. */
function pointersAt(pointed: readonly PointedCell[], address: number): string {
  const names = pointed.filter((each) => each.address === address).map((each) => each.name);
  return names.length === 0 ? '' : `‹ ${names.join(', ')}`;
}

interface Wanted {
  readonly pointed: readonly PointedCell[];
  readonly labels: ReadonlyMap<number, string>;
  readonly touched: ReadonlyMap<number, unknown>;
  readonly most: number;
  readonly program: boolean;
  readonly space: number;
  /** Shown elsewhere. */
  readonly skip: readonly number[];
}

/** Labelled cells and those that something points at, with the touched ones always among them, in order of address. */
function dataRows(machine: Machine, view: View, { labels, touched, pointed, most, program, space, skip }: Wanted): number[] {
  const inCode = (address: number): boolean =>
    program && [view.executing, view.next].some((each) => each && address >= each.address && address < each.address + each.length);
  const register = program ? addressRegister(machine) : undefined;
  const place = register === undefined ? undefined : itemAt(view.registers, register);
  const size = itemAt(view.spaces, space).cells.length;
  const shown = (address: number): boolean => !inCode(address) && !skip.includes(address);
  const wanted = [...touched.keys(), ...(place === undefined || place >= size ? [] : [place])].filter(shown);
  const known = [...labels.keys()].filter((each) => !wanted.includes(each) && shown(each));
  const aimed = program ? [] : pointed.map((each) => each.address).filter(shown);
  return [...new Set([...wanted, ...known, ...aimed])].slice(0, Math.max(1, most)).sort((a, b) => a - b);
}

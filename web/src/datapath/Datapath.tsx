/** Draws a machine and what moves in it: boxes with values, lines, and tokens under way. */
import './datapath.css';
import { useLayoutEffect, useMemo, useRef } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import { binaryDigits, digitsAt, shownDigits, shownLength, signedReading, type Numerals } from '@zettak/core/text/number';
import type { View } from '@zettak/core/session/protocol';
import { layOut, shownCell, shownPlace, type Box, type Drawing, type RegisterBox } from './layout';
import { readsRegister, touchedCells, writeOf } from './touched';
import { alongPath, framesOf, moved } from './journey';
import { addressRegister, journeysOf, wiresOf, type Journey, type Point } from './routes';
import { itemAt } from '@zettak/core/text/itemAt';

interface Parts {
  readonly machine: Machine;
  readonly view: View;
  readonly labels: readonly ReadonlyMap<number, string>[];
  /** The tick whose tokens are under way; the view is still the one before. */
  readonly moving: { readonly report: TickReport; readonly duration: number } | undefined;
}

/** `moving`: a tick whose tokens are under way, for so many ms; the values are still those before it. */
export function Datapath({ machine, view, labels, moving }: Parts) {
  const drawing = useMemo(() => layOut(machine), [machine]);
  const wires = useMemo(() => wiresOf(machine, drawing), [machine, drawing]);
  const report = moving?.report ?? view.last;
  const journeys = useMemo(() => (report ? journeysOf(machine, drawing, report) : []), [machine, drawing, report]);
  const { processor, outside } = drawing;
  return (
    <svg
      className="datapath"
      viewBox={`-2 -2 ${drawing.width + 4} ${drawing.height + 4}`}
      preserveAspectRatio="xMidYMin"
      role="img"
      aria-label="Datapath"
      data-testid="datapath"
    >
      <defs>
        {(['address', 'data'] as const).map((path) => (
          <marker
            key={path}
            id={`tip-${path}`}
            markerWidth="14"
            markerHeight="14"
            refX="9"
            refY="7"
            orient="auto"
            markerUnits="userSpaceOnUse"
          >
            <path d="M0 0 L13 7 L0 14 z" className={`tip ${path}`} />
          </marker>
        ))}
      </defs>
      <rect {...processor} rx="8" className="ground sand" />
      <text x="14" y="22" className="title">
        Processor
      </text>
      <rect {...outside} rx="8" className="ground sea" />
      <text x="14" y={outside.y + 22} className="title">
        {machine.devices.length > 0 ? 'Outside' : 'Traps'}
      </text>
      {wires.map((each) => (
        <polyline key={pointsOf(each.points)} points={pointsOf(each.points)} className={`wire ${each.path}`} />
      ))}
      {machine.spaces.map((_, space) => (
        <MemoryWindow key={space} {...{ machine, drawing, view, labels, space }} report={moving ? undefined : view.last} />
      ))}
      {journeys.map((each, at) => (
        <polyline key={at} points={pointsOf(each.points)} className={`wire active ${each.path}`} markerEnd={`url(#tip-${each.path})`} />
      ))}
      <Alu machine={machine} drawing={drawing} report={report} />
      {drawing.registers.map((each) => (
        <RegisterPicture key={each.register} {...{ machine, view }} box={each} report={moving ? undefined : view.last} />
      ))}
      <Outside {...{ machine, view, outside }} />
      <Tokens journeys={journeys} moving={moving} />
    </svg>
  );
}

const pointsOf = (points: readonly Point[]): string => points.map(({ x, y }) => `${x},${y}`).join(' ');

function RegisterPicture({
  machine,
  view,
  box,
  report,
}: {
  machine: Machine;
  view: View;
  box: RegisterBox;
  report: TickReport | undefined;
}) {
  const { name, title, width, role } = itemAt(machine.registers, box.register);
  const value = itemAt(view.registers, box.register);
  const change = writeOf(report, box.register);
  const tone = change ? change.path : readsRegister(report, box.register) ? 'read' : '';
  const { radix } = machine;
  const digits = shownDigits(value, width, machine);
  const counter = role === 'program counter';
  const old = change && change.before !== change.value && change.width === width ? shownDigits(change.before, width, machine) : undefined;
  const label = `${title} ${digits}`;
  const frame = (
    <rect x={box.x} y={box.y} width={box.width} height={box.height} rx="6" className={`register ${tone} ${counter ? 'counter' : ''}`} />
  );
  if (box.look === 'wide') return <Instruction {...{ machine, view, box, frame, label, tone }} />;
  // Ten in width for each digit, nine for each letter of the name.
  const tight = name.length * 9 + digits.length * 14.5 + 26 > box.width;
  if (box.look === 'small') {
    return (
      <g role="img" aria-label={label}>
        {frame}
        <text x={box.x + (tight ? 6 : 10)} y={box.y + box.height / 2 + 5} className={tight ? 'name tight' : 'name'}>
          {name}
        </text>
        <text
          x={box.x + box.width - (tight ? 6 : 12)}
          y={box.y + box.height / 2 + (tight ? 6 : 8)}
          textAnchor="end"
          className={tight ? 'value tight' : 'value'}
          data-register={name}
        >
          {digits}
        </text>
      </g>
    );
  }
  const large = box.look === 'large';
  return (
    <g role="img" aria-label={label}>
      {frame}
      <text x={box.x + 10} y={box.y + 19} className="name">
        {name} <tspan className="quiet">{counter ? 'next' : large ? title : shortTitle(title)}</tspan>
      </text>
      <text x={box.x + 10} y={box.y + 47} className={large ? 'value big' : 'value'} data-register={name}>
        {digits}
        {old && large && (
          <tspan className="old" dx="8">
            {old}
          </tspan>
        )}
        {large && radix === 2 && (
          <tspan className="reading" dx="8">
            {value}
          </tspan>
        )}
        {counter && (
          <tspan className="reading" dx="8">
            {(view.next.text ?? '').split(' ')[0]}
          </tspan>
        )}
      </text>
      {large && (
        <text x={box.x + 10} y={box.y + 71} className="reading">
          {radix === 2 && binaryDigits(value, width)}
          {signedReading(value, width, radix) < 0 && <tspan dx="7">{String(signedReading(value, width, radix)).replace('-', '−')}</tspan>}
        </text>
      )}
    </g>
  );
}

/** “stack pointer” without the word that every register shares. */
const shortTitle = (title: string): string => title.replace(/ (register|pointer)$/, '');

function Instruction({
  machine,
  view,
  box,
  frame,
  label,
  tone,
}: {
  machine: Machine;
  view: View;
  box: RegisterBox;
  frame: React.ReactNode;
  label: string;
  tone: string;
}) {
  const { name, width } = itemAt(machine.registers, box.register);
  const cell = itemAt(machine.spaces, machine.programSpace).width;
  const count = Math.max(1, Math.round(width / cell));
  const form = view.phases.length > 0 && view.decoded.length > 0 ? view.last?.form : undefined;
  const used = form === undefined ? count : itemAt(machine.forms, form).format.cells;
  const value = itemAt(view.registers, box.register);
  const each = Math.min(72, (box.width - 20) / count - 4);
  const digits = (at: number): string => shownDigits(digitsAt(value, cell * (count - 1 - at), cell, machine.radix), cell, machine);
  return (
    <g role="img" aria-label={label}>
      {frame}
      <text x={box.x + 10} y={box.y + 19} className="name">
        {name} <tspan className="quiet">{form === undefined ? 'instruction' : `executing ${itemAt(machine.forms, form).mnemonic}`}</tspan>
      </text>
      {Array.from({ length: count }, (_, at) => (
        <g key={at} className={at < used ? '' : 'stale'}>
          <rect
            x={box.x + 10 + at * (each + 4)}
            y={box.y + 27}
            width={each}
            height="32"
            className={at === 0 ? 'part opcode' : 'part operand'}
          />
          <text
            x={box.x + 10 + at * (each + 4) + each / 2}
            y={box.y + 51}
            textAnchor="middle"
            className={`value ${tone === 'data' ? 'fresh' : ''}`}
          >
            {digits(at)}
          </text>
        </g>
      ))}
    </g>
  );
}

function Alu({ machine, drawing, report }: { machine: Machine; drawing: Drawing; report: TickReport | undefined }) {
  const { x, y, width, height } = drawing.alu;
  const worked = report?.compared ?? report?.transfers.find((each) => each.route === 'alu')?.worked;
  const middle = x + width / 2;
  const shape = `M${x} ${y} h${width / 2 - 12} l12 14 l12 -14 h${width / 2 - 12} l-20 ${height} h${40 - width} z`;
  const sign = { negate: '−', value: '=', '-': '−' }[worked?.operator as string] ?? worked?.operator;
  return (
    <g role="img" aria-label="ALU">
      <path d={shape} className={`alu ${worked ? 'data' : ''}`} />
      {worked ? (
        <>
          <text x={x + 34} y={y + 24} textAnchor="middle" className="operand">
            {shownDigits(worked.a, worked.widths[0], machine)}
          </text>
          {worked.b !== undefined && (
            <text x={x + width - 32} y={y + 24} textAnchor="middle" className="operand">
              {shownDigits(worked.b, worked.widths[1], machine)}
            </text>
          )}
          <text x={middle} y={y + 42} textAnchor="middle" className="operand">
            {sign}
          </text>
          <text x={middle} y={y + 64} textAnchor="middle" className="operand result">
            {shownDigits(worked.result, worked.width, machine)}
          </text>
        </>
      ) : (
        <text x={middle} y={y + 46} textAnchor="middle" className="title">
          ALU
        </text>
      )}
    </g>
  );
}

interface MemoryParts {
  readonly machine: Machine;
  readonly drawing: Drawing;
  readonly view: View;
  readonly labels: readonly ReadonlyMap<number, string>[];
  readonly space: number;
  readonly report: TickReport | undefined;
}

/** A few cells of the memory: the instruction under way, the next one, and the data around what was touched. */
function MemoryWindow({ machine, drawing, view, labels, space, report }: MemoryParts) {
  const box = itemAt(drawing.spaces, space);
  const { width, addressWidth, title, cells, banks } = itemAt(machine.spaces, space);
  const program = space === machine.programSpace;
  const { marks, cells: memory } = itemAt(view.spaces, space);
  const never = '·'.repeat(shownLength(width, machine));
  const cell = (address: number): string => (marks[address] === 0 ? never : shownDigits(itemAt(memory, address), width, machine));
  const place = (address: number): string =>
    `${banks > 1 ? `${Math.floor(address / cells)}:` : ''}${shownDigits(address % cells, addressWidth, machine)}`;
  const run = (address: number, length: number): string =>
    Array.from({ length: Math.min(length, 3) }, (_, at) => cell(address + at)).join(' ');
  const { executing, next } = view;
  const touched = touchedCells(report, space);
  const own = labels[space] ?? NO_LABELS;
  const top = program ? 165 : 36;
  const most = Math.floor((box.height - top - 25) / 27);
  const rows = most > 0 ? dataRows(machine, view, { labels: own, touched, most, program }) : [];
  const left = 17 + 10.8 * shownPlace(itemAt(machine.spaces, space), machine);
  const room = Math.floor((box.width - left - 10.8 * shownCell(itemAt(machine.spaces, space), machine) - 16) / 8);
  return (
    <g role="img" aria-label={title}>
      <rect x={box.x} y={box.y} width={box.width} height={box.height} rx="8" className="ground paper" />
      <text x={box.x + 12} y={box.y + 22} className="title">
        {itemAt(title, 0).toUpperCase() + title.slice(1)}
      </text>
      {program && executing && (
        <>
          <text x={box.x + 12} y={box.y + 50} className="quiet">
            executing
          </text>
          <text x={box.x + 12} y={box.y + 74} className="cell">
            <tspan className="address">{place(executing.address)}</tspan> {run(executing.address, executing.length)}
          </text>
          <rect x={box.x + 12} y={box.y + 80} width={box.width - 24} height="3" className="now-line" />
        </>
      )}
      {program && (
        <>
          <text x={box.x + 12} y={box.y + 110} className="quiet">
            next
          </text>
          <rect x={box.x + left} y={box.y + 116} width={box.width - left - 10} height="27" className="next-frame" />
          <text x={box.x + 12} y={box.y + 135} className="cell">
            <tspan className="address">{place(next.address)}</tspan> {run(next.address, next.length)}
          </text>
        </>
      )}
      {rows.map((address, at) => (
        <g key={address}>
          {touched.get(address) && (
            <rect
              x={box.x + left + 1}
              y={box.y + top + at * 27}
              width={10 + 10.8 * never.length}
              height="23"
              rx="3"
              className={`touch ${touched.get(address)}`}
            />
          )}
          <text x={box.x + 12} y={box.y + top + 18 + at * 27} className={`cell ${touched.get(address) ?? ''}`}>
            <tspan className="address">{place(address)}</tspan> {cell(address)}
            <tspan className="quiet" dx="5">
              {shortened(own.get(address) ?? '', room)}
            </tspan>
          </text>
        </g>
      ))}
    </g>
  );
}

const NO_LABELS: ReadonlyMap<number, string> = new Map();

const shortened = (label: string, most: number): string => (label.length <= most ? label : most < 3 ? '' : `${label.slice(0, most - 1)}…`);

/** Labelled cells, with the touched ones always among them, in order of address. */
function dataRows(
  machine: Machine,
  view: View,
  {
    labels,
    touched,
    most,
    program,
  }: { labels: ReadonlyMap<number, string>; touched: ReadonlyMap<number, unknown>; most: number; program: boolean },
): number[] {
  const inCode = (address: number): boolean =>
    program && [view.executing, view.next].some((each) => each && address >= each.address && address < each.address + each.length);
  const pointed = program ? addressRegister(machine) : undefined;
  const place = pointed === undefined ? undefined : itemAt(view.registers, pointed);
  const size = itemAt(view.spaces, machine.programSpace).cells.length;
  const wanted = [...touched.keys(), ...(place === undefined || place >= size ? [] : [place])].filter((each) => !inCode(each));
  const known = [...labels.keys()].filter((each) => !wanted.includes(each));
  return [...new Set([...wanted, ...known])].slice(0, Math.max(1, most)).sort((a, b) => a - b);
}

function Outside({ machine, view, outside }: { machine: Machine; view: View; outside: Box }) {
  const queued = view.inputs.length - view.inputsUsed;
  const kinds = machine.devices.map((each) => each.kind);
  const reads = machine.traps.some((each) => each.service.startsWith('read')) || kinds.includes('keyboard');
  const writes = machine.traps.some((each) => each.service.startsWith('write')) || kinds.includes('display');
  const lastLine = view.output.trimEnd().split('\n').at(-1)!.slice(-14);
  const shown = [
    ...(writes ? [{ title: 'console', text: lastLine || '–', alarm: false }] : []),
    ...(reads ? [{ title: 'input queue', text: view.waiting ? 'waiting' : `${queued} left`, alarm: view.waiting !== undefined }] : []),
    ...view.devices
      .filter((each) => SHOWING.has(each.kind))
      .map((each) => ({ title: each.name, text: deviceText(each, machine), alarm: false })),
  ].slice(0, 4);
  const each = Math.min(146, (outside.width - 70) / Math.max(1, shown.length) - 8);
  return (
    <g>
      {shown.map((device, at) => (
        <Device key={device.title} x={70 + at * (each + (shown.length > 2 ? 8 : 46))} y={outside.y + 7} width={each} {...device} />
      ))}
    </g>
  );
}

/** Lamps and switches line by line, all else as digits. */
/** Kinds of devices that show something. */
const SHOWING: ReadonlySet<string> = new Set(['lamps', 'switches', 'digits']);

function deviceText({ kind, value, width }: View['devices'][number], numerals: Numerals): string {
  if (kind === 'digits' || numerals.radix === 10) return shownDigits(value, width, numerals);
  return Array.from({ length: width }, (_, at) => (digitsAt(value, width - 1 - at, 1, 2) ? '●' : '○')).join('');
}

interface DeviceParts {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly title: string;
  readonly text: string;
  readonly alarm: boolean;
}

const Device = ({ x, y, width, title, text, alarm }: DeviceParts) => (
  <g>
    <rect x={x} y={y} width={width} height="43" rx="6" className={`register ${alarm ? 'alarm' : ''}`} />
    <text x={x + 10} y={y + 17} className="name">
      {title}
    </text>
    <text x={x + 10} y={y + 36} className="reading">
      {text}
    </text>
  </g>
);

/** Tokens on their way, or at rest just before their goals. */
function Tokens({ journeys, moving }: { journeys: readonly Journey[]; moving: Parts['moving'] }) {
  const group = useRef<SVGGElement>(null);
  const stages = journeys.some((each) => each.stage === 1) ? 2 : 1;
  // Movement belongs to the compositor: nothing is drawn or laid out anew while a token travels.
  useLayoutEffect(() => {
    if (!moving) return;
    const options = { duration: moving.duration * 0.92, fill: 'both' as const };
    const animations = [...(group.current?.children ?? [])].map((each, at) => {
      const { points, stage } = itemAt(journeys, at);
      return each.animate(framesOf(points, { stage, stages, stays: journeys.length === 1 }), options);
    });
    return () => animations.forEach((each) => each.cancel());
  }, [journeys, moving, stages]);
  return (
    <g data-testid="tokens" ref={group}>
      {journeys.map((each, at) => (
        <Token key={at} at={alongPath(each.points, 1)} path={each.path} text={each.text} />
      ))}
    </g>
  );
}

function Token({ at, path, text }: { at: Point; path: Journey['path']; text: string }) {
  const half = 11 + text.length * 4.5;
  const shape =
    path === 'data'
      ? `M${-half} -13 h${2 * half} v26 h${-2 * half} z`
      : `M${-half - 3} -13 h${2 * half - 4} l10 13 l-10 13 h${4 - 2 * half} l8 -13 z`;
  return (
    <g style={{ transform: moved(at) }}>
      <path d={shape} className={`token ${path}`} />
      <text x={path === 'data' ? 0 : 2} y={6} textAnchor="middle" className="token-text">
        {text}
      </text>
    </g>
  );
}

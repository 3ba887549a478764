/** A run tick by tick as rows and as signals, for files. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { power } from '../../text/number';
import type { WatchedPlace } from '../watch/breakpoints';
import { compositeValue, flagValues } from '../meaning/composites';
import { deviceValue } from '../meaning/devices';
import { planText, writeScript } from '../timeline/script';
import { instructionAt, placeName } from './names';
import type { TickReport } from '../meaning/report';
import type { Timeline } from '../timeline/timeline';
import { readPlace } from '../watch/places';
import { deviceLatch, portLatch, type State } from '../meaning/state';
import { itemAt } from '../../text/itemAt';
import type { RefusedEntry } from '../meaning/entryProblems';
import { programSpaceOf } from '../../machine/model/machine';
import { tableNumber } from '../../machine/model/numbers';

type Row = readonly (string | number)[];

/** Names of the columns of `traceRow`. */
export const traceColumns = (machine: Machine): Row => [
  ...['tick', 'address', 'instruction', 'phase', 'transfers', 'written', 'output'],
  ...machine.registers.map((each) => each.name),
  ...machine.flags.map((each) => each.name),
  ...machine.composites.map((each) => each.name),
  ...portsInUse(machine).map((port) => `${machine.ports!.name}[${port}]`),
  ...machine.devices.map((each) => each.name),
];

/** Ports that something is attached to; those of a machine with few of them all. */
export function portsInUse({ ports, devices }: Machine): number[] {
  const attached = new Set(
    devices.flatMap(({ data, status }) => [data, status].flatMap((each) => (each && 'port' in each ? [each.port] : []))),
  );
  return Array.from({ length: ports?.count ?? 0 }, (_, port) => port).filter((port) => ports!.count <= FEW_PORTS || attached.has(port));
}
const FEW_PORTS = 16;

const stateColumns = (machine: Machine, state: State): Row => [
  ...machine.registers.map(({ width }, at) => tableNumber(machine, itemAt(state.registers, at), width)),
  ...flagValues(machine, state),
  ...machine.composites.map((each) => tableNumber(machine, compositeValue(machine, state, each), each.width)),
  ...portsInUse(machine).map((port) => tableNumber(machine, itemAt(state.latches, portLatch(port)), machine.ports?.width ?? 1)),
  ...machine.devices.map(({ width }, device) => tableNumber(machine, deviceValue(machine, state, { device, part: 'data' }), width)),
];

/** What came from outside at a tick, and what is so from then on: undefined where nothing came. */
export function outsideRow(runner: Pick<Timeline, 'machine' | 'state' | 'script' | 'ticks' | 'firstInputs'>): Row | undefined {
  const { machine, state, ticks } = runner;
  const given = runner.script.filter((each) => each.tick === ticks);
  const planned = state.plans.filter((each) => each.until.kind === 'tick' && each.until.tick === ticks);
  if (given.length === 0 && planned.length === 0) return undefined;
  const queued = runner.script.findLast((each) => each.kind === 'inputs' && each.tick < ticks);
  const inputs = queued?.kind === 'inputs' ? queued.queue : runner.firstInputs;
  // The first line is what was queued before.
  const edits = writeScript(machine, { inputs, plans: [], devices: [], edits: given })
    .split('\n')
    .slice(inputs.length > 0 ? 1 : 0);
  const lines = [...planned.map((each) => planText(machine, each)), ...edits.filter((each) => each !== '')];
  const what = lines.map((each) => each.replace(/^(by hand )?(at \d+: |set )/, '')).join('; ');
  return [ticks, '', 'from outside', '', '', what, '', ...stateColumns(machine, state)];
}

/** The tick just done: where, which, what it wrote, and what registers and flags hold then. Numbers are as in tables. */
export function traceRow({ machine, program, state }: { machine: Machine; program: Program; state: State }, report: TickReport): Row {
  const written = report.transfers.map(
    ({ target, value, width }) => `${placeName(machine, program, target)}=${tableNumber(machine, value, width)}`,
  );
  return [
    report.tick,
    tableNumber(machine, report.here, programSpaceOf(machine).addressWidth),
    instructionAt(machine, program, state, report.here) ?? '',
    machine.phases[report.phase] ?? '',
    report.text || 'decode',
    [...written, ...report.flags.map(({ flag, after }) => `${itemAt(machine.flags, flag).name}=${after}`)].join(' '),
    report.service?.output ?? '',
    ...stateColumns(machine, state),
  ];
}

/** Bits that hold a value of so many of the machine's digits. */
export const bitsFor = (radix: number, width: number): number => (radix === 2 ? width : Math.ceil(Math.log2(power(radix, width))));

export interface SignalSource {
  readonly name: string;
  /** In bits. */
  readonly width: number;
  readonly value: (state: State, report: TickReport | undefined) => number;
}

/** Signals that somebody may choose. */
const MOST_PLACES = 200;

/** Cells that the program's data fill: what is chosen where nobody chooses. */
export const dataPlaces = ({ programSpace }: Machine, program: Program): WatchedPlace[] =>
  program.rows
    .flatMap((row) =>
      (row.kind === 'data' || row.kind === 'room') && row.address !== undefined && !row.system
        ? [{ kind: 'cell', space: row.space ?? programSpace, address: row.address } as const]
        : [],
    )
    .slice(0, MOST_PLACES);

/** Places as somebody lists them, with commas between: “level, M[0x20]”. */
export function readPlaces(machine: Machine, program: Program, text: string): readonly WatchedPlace[] | RefusedEntry {
  const places: WatchedPlace[] = [];
  // A comma in brackets stands between bank and cell.
  for (const each of text.split(/,(?![^[]*\])/)) {
    if (each.trim() === '') continue;
    const place = readPlace(machine, program, each);
    if ('refused' in place) return place;
    places.push(place);
  }
  return places.length > MOST_PLACES ? { refused: { code: 'too-many-places', most: MOST_PLACES } } : places;
}

/** Registers, flags, the phase, and places that somebody has chosen. */
export function signalsOf(machine: Machine, program: Program, chosen: readonly WatchedPlace[]): SignalSource[] {
  const { radix } = machine;
  return [
    ...machine.registers.map(({ name, width }, at): SignalSource => ({
      name,
      width: bitsFor(radix, width),
      value: (state) => itemAt(state.registers, at),
    })),
    ...machine.flags.map(({ name }, at): SignalSource => ({ name, width: 1, value: (state) => itemAt(flagValues(machine, state), at) })),
    {
      name: 'phase',
      width: Math.max(1, bitsFor(2, Math.ceil(Math.log2(machine.phases.length + 1)))),
      value: (_, report) => (report ? report.phase + 1 : 0),
    },
    ...chosen.flatMap((place): SignalSource[] => chosenSignal(machine, program, place)),
  ];
}

function chosenSignal(machine: Machine, program: Program, place: WatchedPlace): SignalSource[] {
  const { radix } = machine;
  if (place.kind === 'cell') {
    const { space, address } = place;
    const width = bitsFor(radix, itemAt(machine.spaces, space).width);
    return [
      {
        name: placeName(machine, program, place).replace(/^cell /, itemAt(machine.spaces, space).name),
        width,
        value: (state) => itemAt(itemAt(state.spaces, space), address),
      },
    ];
  }
  if (place.kind === 'port') {
    const width = bitsFor(radix, machine.ports!.width);
    return [{ name: `${machine.ports!.name}${place.port}`, width, value: (state) => itemAt(state.latches, portLatch(place.port)) }];
  }
  if (place.kind !== 'device') return [];
  const { name, width } = itemAt(machine.devices, place.device);
  return [{ name, width: bitsFor(radix, width), value: (state) => itemAt(state.latches, deviceLatch(machine, place.device, 'value')) }];
}

/** What the phase numbers of a dump mean. */
export const phaseComment = (machine: Machine): string =>
  `phase: 0 before the first tick, ${machine.phases.map((each, at) => `${at + 1} ${each}`).join(', ')}`;

/** Every cell that is not as power-on left it, with what it holds. */
export function cellsNow({ machine, state }: Pick<Timeline, 'machine' | 'state'>): { space: number; address: number; value: number }[] {
  return machine.spaces.flatMap((_, space) =>
    [...itemAt(state.spaces, space).entries()].flatMap(([address, value]) =>
      itemAt(state.marks, space)[address] === 0 ? [] : [{ space, address, value }],
    ),
  );
}

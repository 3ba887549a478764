/** Devices as the machine sees them: what they answer when read, and what writing to them does. Knows no screen. */
import type { Device, DevicePlace, Machine } from '../../machine/model/machine';
import { power } from '../../text/number';
import { AS_IT_IS, deviceLatch, NOT_READY, READY, type Plan, type State } from './state';

export interface Attached {
  readonly device: number;
  readonly part: 'data' | 'status';
}

export interface Attachments {
  /** By space: what stands at a cell, for reading and for writing; undefined where nothing does. */
  readonly cells: readonly (ReadonlyMap<number, Attached> | undefined)[];
  readonly cellWrites: readonly (ReadonlyMap<number, Attached> | undefined)[];
  readonly ports: ReadonlyMap<number, Attached>;
  readonly portWrites: ReadonlyMap<number, Attached>;
}

const READS: ReadonlySet<string> = new Set(['keyboard', 'switches', 'timer']);

/** Which cells and ports belong to devices, by address; found once for each machine. */
export function attachmentsOf(machine: Machine): Attachments {
  const cells = machine.spaces.map(() => new Map<number, Attached>());
  const cellWrites = machine.spaces.map(() => new Map<number, Attached>());
  const ports = new Map<number, Attached>();
  const portWrites = new Map<number, Attached>();
  const attach = (place: DevicePlace, each: Attached, way: 'read' | 'write'): void => {
    if ('port' in place) (way === 'read' ? ports : portWrites).set(place.port, each);
    else (way === 'read' ? cells : cellWrites)[place.space]!.set(place.address, each);
  };
  machine.devices.forEach(({ kind, data, status }, device) => {
    if (status) {
      attach(status, { device, part: 'status' }, 'read');
      attach(status, { device, part: 'status' }, 'write');
    }
    if (!data) return;
    const reads = READS.has(kind);
    if (reads) attach(data, { device, part: 'data' }, 'read');
    if (!reads || kind === 'timer' || !('port' in data)) attach(data, { device, part: 'data' }, 'write');
    // A cell has one content: what an output device shows can be read back from it.
    if (!reads && !('port' in data)) attach(data, { device, part: 'data' }, 'read');
  });
  const some = (maps: readonly Map<number, Attached>[]) => maps.map((each) => (each.size > 0 ? each : undefined));
  return { cells: some(cells), cellWrites: some(cellWrites), ports, portWrites };
}

/** The code that a keyboard would give next: the queued value `ahead` places behind those used up. */
export const queuedAt = ({ control }: State, ahead: number): number | undefined => control.queue[control.inputs + ahead];

/** Whether a device says that it is ready, at the present tick. */
export function isReady(machine: Machine, state: State, device: number, ahead = 0): boolean {
  const { kind } = machine.devices[device]!;
  const held = state.latches[deviceLatch(machine, device, 'ready')]!;
  if (held !== AS_IT_IS) return held === READY;
  const until = state.latches[deviceLatch(machine, device, 'until')]!;
  switch (kind) {
    case 'keyboard':
      return queuedAt(state, ahead) !== undefined;
    case 'display':
      return state.control.ticks >= until;
    case 'timer':
      return until > 0 && state.control.ticks >= until;
    case 'lamps':
    case 'switches':
    case 'digits':
      return true;
    default:
      return kind satisfies never;
  }
}

/** Whether the script gives inputs at a tick that is still to come. */
export const inputsAhead = ({ arrivals, control }: State): boolean => arrivals.some((each) => each > control.ticks);

/** Whether a device that is not ready becomes so by ticks alone, whatever happens: busy still, counting down, or planned for a tick. */
export function timeMakesReady(machine: Machine, state: State, device: number): boolean {
  const { ticks } = state.control;
  const planned = state.plans.some(
    (each) =>
      each.device === device && each.latch === 'ready' && each.until.kind === 'tick' && each.until.tick > ticks && each.after !== NOT_READY,
  );
  const held = state.latches[deviceLatch(machine, device, 'ready')]!;
  if (planned || held !== AS_IT_IS) return planned;
  const given = machine.devices[device]!.kind === 'keyboard' && inputsAhead(state);
  return given || state.latches[deviceLatch(machine, device, 'until')]! > ticks;
}

/** What reading a device gives, without any effect. */
export function deviceValue(machine: Machine, state: State, { device, part }: Attached, ahead = 0): number {
  const { kind, readyBit, readyLow, width } = machine.devices[device]!;
  if (part === 'status') {
    const on = isReady(machine, state, device, ahead) !== readyLow;
    return on ? power(machine.radix, readyBit) : 0;
  }
  const held = state.latches[deviceLatch(machine, device, 'value')]!;
  if (kind === 'keyboard') return (queuedAt(state, ahead) ?? held) % power(machine.radix, width);
  if (kind === 'timer') return Math.max(0, state.latches[deviceLatch(machine, device, 'until')]! - state.control.ticks);
  return held;
}

/** A line of a device: of its data, or of its status where readiness is what it tells. */
export const lineValue = (machine: Machine, state: State, device: number, bit: number): number => {
  const part = lineParts[machine.devices[device]!.kind];
  return Math.floor(deviceValue(machine, state, { device, part }) / power(machine.radix, bit)) % machine.radix === 0 ? 0 : 1;
};

/** The latch value that a plan gives; a line changes its own digit only. */
export function plannedValue(machine: Machine, state: State, { device, latch, line }: Plan, value: number): number {
  if (line === undefined) return value;
  const before = state.latches[deviceLatch(machine, device, latch)]!;
  const unit = power(machine.radix, line);
  const digit = Math.floor(before / unit) % machine.radix;
  return before + (value - digit) * unit;
}

/** Which part of a device a line of it belongs to. */
export const lineParts: Readonly<Record<Device['kind'], Attached['part']>> = {
  keyboard: 'status',
  display: 'status',
  timer: 'status',
  lamps: 'data',
  switches: 'data',
  digits: 'data',
};

export interface DeviceEffect {
  readonly latches: readonly { readonly latch: number; readonly value: number }[];
  readonly output: string;
  /** Queued inputs that are taken away. */
  readonly takes: number;
}

const NOTHING: DeviceEffect = { latches: [], output: '', takes: 0 };

/** What writing a value to a device does. */
export function writeDevice(machine: Machine, state: State, { device, part }: Attached, value: number): DeviceEffect {
  const { kind, clears, busy } = machine.devices[device]!;
  if (part === 'status') {
    // A plan may hold a keyboard ready while nothing is queued: then there is nothing to use up.
    const takes = kind === 'keyboard' && !clears && isReady(machine, state, device) && queuedAt(state, 0) !== undefined ? 1 : 0;
    return { ...NOTHING, takes };
  }
  const held = { latch: deviceLatch(machine, device, 'value'), value };
  const until = deviceLatch(machine, device, 'until');
  const { ticks } = state.control;
  switch (kind) {
    case 'display': {
      if (!isReady(machine, state, device)) return NOTHING;
      const output = String.fromCharCode(value & 0xffff);
      return { ...NOTHING, output, latches: busy > 0 ? [held, { latch: until, value: ticks + 1 + busy }] : [held] };
    }
    case 'timer':
      return { ...NOTHING, latches: [{ latch: until, value: value === 0 ? 0 : ticks + 1 + value }] };
    case 'lamps':
    case 'digits':
      return { ...NOTHING, latches: [held] };
    case 'keyboard':
    case 'switches':
      return NOTHING;
    default:
      return kind satisfies never;
  }
}

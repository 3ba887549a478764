/** What a machine has around its processor: ports, devices, stacks, traps; and what becomes of its faults. */
import { nearest } from '../../text/nearest';
import { readNumber, unitOf } from '../../text/number';
import type { MachineDocument } from '../document/schema';
import {
  FAULT_KINDS,
  type AssemblyRules,
  type Device,
  type DevicePlace,
  type Disposition,
  type FaultKind,
  type Ports,
  type Register,
  type Space,
  type Stack,
  type StringMark,
  type SystemSource,
  type Trap,
} from '../model/machine';
import { fitting, indexIn, report, widthFor, type Work } from './reading';
import type { Path } from '../document/yaml';

export function resolvePorts(work: Work, wordWidth: number): Ports | undefined {
  const { ports } = work.document;
  if (!ports) return undefined;
  const width = widthFor(work, ['ports'], ports, wordWidth);
  const idle = ports.idle === undefined ? undefined : fitting(work, ['ports', 'idle'], ports.idle, width);
  return { name: ports.name, title: ports.title || ports.name, count: ports.count, width, ...(idle !== undefined && { idle }) };
}

interface Places {
  readonly spaces: readonly Space[];
  readonly ports: Ports | undefined;
}

/** M[0xFE00], DATA[2, 5] or PORT[3]. */
function placeOf(work: Work, path: Path, text: string, { spaces, ports }: Places): DevicePlace | undefined {
  const match = /^\s*([A-Za-z]\w*)\s*\[\s*(?:(\w+)\s*,\s*)?(\w+)\s*\]\s*$/.exec(text);
  const bank = match?.[2] === undefined ? 0 : readNumber(match[2]);
  const at = match && readNumber(match[3]!);
  if (!match || bank === undefined || at === undefined || at === null) return void report(work, path, { code: 'bad-place', text });
  if (ports && match[1] === ports.name) {
    if (at < ports.count) return { port: at };
    return void report(work, path, { code: 'place-outside', text, size: ports.count });
  }
  const names = [...spaces.map((each) => each.name), ...(ports ? [ports.name] : [])];
  const space = indexIn(work, path, match[1]!, names, 'memory');
  if (space === undefined) return undefined;
  const { cells, banks } = spaces[space]!;
  if (at < cells && bank < banks) return { space, address: bank * cells + at };
  return void report(work, path, { code: 'place-outside', text, size: cells });
}

type DeviceEntry = NonNullable<MachineDocument['devices']>[string];

export function resolveDevices(work: Work, places: Places, wordWidth: number): Device[] {
  const taken = new Map<string, string>();
  return Object.entries(work.document.devices ?? {}).map(([name, entry]): Device => {
    const path = ['devices', name];
    const data = entry.data === undefined ? undefined : placeOf(work, [...path, 'data'], entry.data, places);
    const status = entry.status === undefined ? undefined : placeOf(work, [...path, 'status'], entry.status, places);
    for (const way of waysOf(entry.kind)) if (data) take(work, taken, { path: [...path, 'data'], name, place: data, way });
    if (status) take(work, taken, { path: [...path, 'status'], name, place: status, way: 'read' });
    const own = data && ('port' in data ? places.ports!.width : places.spaces[data.space]!.width);
    const width = widthFor(work, path, entry, own ?? wordWidth);
    for (const [line, bit] of Object.entries(entry.lines ?? {})) {
      if (bit >= width) report(work, [...path, 'lines', line], { code: 'start-too-wide', value: bit, width, unit: unitOf(work.radix) });
    }
    return {
      name,
      title: entry.title || name,
      kind: entry.kind,
      width,
      ...(data && { data }),
      ...(status && { status }),
      readyBit: entry.ready ?? 0,
      readyLow: entry.active === 'low',
      clears: entry.clears ?? true,
      busy: entry.busy ?? 0,
      lines: new Map(Object.entries(entry.lines ?? {})),
    };
  });
}

function waysOf(kind: DeviceEntry['kind']): ('read' | 'write')[] {
  if (kind === 'timer') return ['read', 'write'];
  return kind === 'keyboard' || kind === 'switches' ? ['read'] : ['write'];
}

function take(
  work: Work,
  taken: Map<string, string>,
  { path, name, place, way }: { path: Path; name: string; place: DevicePlace; way: 'read' | 'write' },
): void {
  const key = `${way} ${'port' in place ? `port ${place.port}` : `${place.space} ${place.address}`}`;
  const other = taken.get(key);
  if (other !== undefined) report(work, path, { code: 'devices-overlap', one: other, other: name });
  else taken.set(key, name);
}

export function resolveStacks(work: Work, registers: readonly Register[], spaces: readonly Space[]): Stack[] {
  return Object.entries(work.document.stacks ?? {}).flatMap(([name, entry]): Stack[] => {
    const path = ['stacks', name];
    const pointer = indexIn(
      work,
      [...path, 'pointer'],
      entry.pointer,
      registers.map((each) => each.name),
      'register',
    );
    const space =
      entry.space === undefined
        ? undefined
        : indexIn(
            work,
            [...path, 'space'],
            entry.space,
            spaces.map((each) => each.name),
            'memory',
          );
    const size = space === undefined ? undefined : spaces[space]!.cells * spaces[space]!.banks;
    const { from, to, step = 1 } = entry;
    if (from > to) report(work, [...path, 'from'], { code: 'region-turned', from, to });
    else if (size !== undefined && to >= size) report(work, [...path, 'to'], { code: 'region-outside', to, name: entry.space!, size });
    if (pointer === undefined) return [];
    const down = entry.grows !== 'up';
    const full = entry['points at'] !== 'free';
    return [{ name, title: entry.title || name, pointer, ...(space !== undefined && { space }), from, to, down, full, step }];
  });
}

type AnyTrap = Exclude<NonNullable<MachineDocument['traps']>[string], { phase: string } | undefined>;
type TrapEntry = AnyTrap & { service: NonNullable<AnyTrap['service']> };

export interface Traps {
  readonly traps: readonly Trap[];
  /** Traps through memory: their routines stand in the system program. */
  readonly routines: readonly { readonly number: number; readonly name: string }[];
}

export function resolveTraps(work: Work, registers: readonly Register[], devices: readonly Device[]): Traps {
  const traps: Trap[] = [];
  const routines: { number: number; name: string }[] = [];
  const known = registers.map((each) => each.name);
  for (const [key, entry] of Object.entries(work.document.traps ?? {})) {
    if (key === 'enter' || !entry || 'phase' in entry) continue;
    const path = ['traps', key];
    const number = readNumber(key);
    if (number === undefined || number >= 2 ** 32) {
      report(work, path, { code: 'bad-number', text: key });
      continue;
    }
    if ([...traps, ...routines].some((each) => each.number === number)) report(work, path, { code: 'trap-twice', number });
    const { service } = entry;
    if (!service) {
      routines.push({ number, name: entry.name });
      continue;
    }
    const register = (kind: 'argument' | 'result' | 'length'): number | undefined =>
      entry[kind] === undefined ? undefined : indexIn(work, [...path, kind], entry[kind], known, 'register');
    const argument = register('argument');
    const result = register('result');
    const length = register('length');
    const device = deviceFor(work, path, { ...entry, service }, devices);
    if (work.radix === 10 && (service === 'write hex' || service === 'write binary'))
      report(work, [...path, 'service'], { code: 'bits-on-decimal', operator: service });
    const { argument: needsArgument, result: needsResult } = needs(service);
    if (needsArgument && entry.argument === undefined) report(work, path, { code: 'trap-register-missing', key: 'argument', service });
    if (needsResult && entry.result === undefined) report(work, path, { code: 'trap-register-missing', key: 'result', service });
    traps.push({
      number,
      name: entry.name,
      service,
      ...(argument !== undefined && { argument }),
      ...(result !== undefined && { result }),
      ...(length !== undefined && { length }),
      ...(entry.end !== undefined || (length === undefined && entry.last === undefined) ? { end: entry.end ?? 0 } : {}),
      ...(entry.last !== undefined && { lastMarked: entry.last }),
      pad: entry.pad ?? 1,
      echo: entry.echo ?? false,
      newLine: entry.line ?? true,
      ...(device !== undefined && { device }),
    });
  }
  return { traps, routines };
}

function needs(service: TrapEntry['service']): { argument: boolean; result: boolean } {
  const argument = service.startsWith('write') || service === 'set lamps' || service === 'read line';
  return { argument, result: service === 'read number' || service === 'read character' || service === 'read switches' };
}

/** The lamps or switches that a service works on: the named ones, else the first of their kind. */
function deviceFor(work: Work, path: Path, entry: TrapEntry, devices: readonly Device[]): number | undefined {
  const kind = entry.service === 'set lamps' ? 'lamps' : entry.service === 'read switches' ? 'switches' : undefined;
  if (!kind) return undefined;
  const index =
    entry.device === undefined
      ? devices.findIndex((each) => each.kind === kind)
      : indexIn(
          work,
          [...path, 'device'],
          entry.device,
          devices.map((each) => each.name),
          'device',
        );
  if (index === undefined) return undefined;
  if (devices[index]?.kind === kind) return index;
  return void report(work, path, { code: 'no-such-device', service: entry.service, kind });
}

/** What may be asked for instead of a stop. */
const POSSIBLE: Readonly<Record<FaultKind, readonly Disposition['kind'][]>> = {
  'undefined opcode': ['stop', 'ignore', 'trap'],
  'cell outside': ['stop', 'wrap', 'ignore', 'value', 'trap'],
  'program counter outside': ['stop', 'wrap', 'trap'],
  'read-only': ['stop', 'ignore', 'trap'],
  'stack limit': ['stop', 'ignore', 'trap'],
  division: ['stop', 'value', 'trap'],
  'two writers': ['stop', 'trap'],
  'empty port': ['stop', 'ignore', 'value', 'trap'],
  'text without end': ['stop', 'ignore', 'trap'],
  'undefined service': ['stop', 'ignore', 'trap'],
  'register outside': ['stop', 'wrap', 'trap'],
  'executing data': ['stop', 'trap'],
  'executing an empty cell': ['stop', 'end', 'ignore'],
  'result too wide': ['stop', 'trap'],
};

export function resolveFaults(work: Work): Partial<Record<FaultKind, Disposition>> {
  const faults: Partial<Record<FaultKind, Disposition>> = {};
  for (const [key, text] of Object.entries(work.document.faults ?? {})) {
    const path = ['faults', key];
    const kind = FAULT_KINDS.find((each) => each === key);
    if (!kind) {
      const near = nearest(key, FAULT_KINDS);
      report(work, path, { code: 'no-such-part', what: 'kind of fault', name: key, ...(near && { nearest: near }) });
      continue;
    }
    const match = /^(stop|wrap|ignore|end|value|trap)(?:\s+(\w+))?$/.exec(text.trim());
    const word = match?.[1] as Disposition['kind'] | undefined;
    const number = match?.[2] === undefined ? undefined : readNumber(match[2]);
    const numbered = word === 'value' || word === 'trap';
    if (!word || !POSSIBLE[kind].includes(word) || numbered !== (number !== undefined)) {
      report(work, path, { code: 'bad-disposition', kind, text, possible: POSSIBLE[kind] });
    } else if (word === 'trap') faults[kind] = { kind: word, cause: number! };
    else if (word === 'value') faults[kind] = { kind: word, value: number! };
    else faults[kind] = { kind: word };
    if (word === 'trap' && !work.document.traps?.enter) report(work, path, { code: 'trap-without-entry' });
  }
  return faults;
}

export function resolveSystem(work: Work, space: Space): SystemSource | undefined {
  const { system } = work.document;
  if (!system) return undefined;
  const { from, to, vector, source } = system;
  if (from > to) report(work, ['system', 'from'], { code: 'region-turned', from, to });
  else if (to >= space.cells) report(work, ['system', 'to'], { code: 'region-outside', to, name: space.name, size: space.cells });
  const lines = work.yaml.blockLinesOf(['system', 'source']);
  return { source, from, to, lines, ...(vector && { vector }) };
}

/** Without a word about strings the first trap that writes texts tells how they end; else 0 ends them. */
export function resolveAssembly(work: Work, traps: readonly Trap[], width: number): AssemblyRules {
  const { constants = {}, letters = {}, strings, align = 1 } = work.document.assembly ?? {};
  return {
    constants: new Map(Object.entries(constants)),
    suffixes: new Map(Object.entries(letters).map(([letter, base]) => [letter.toLowerCase(), Number(base)])),
    strings: stringMark(work, strings, width) ?? markOf(traps.find((each) => each.service === 'write text')),
    align,
  };
}

function stringMark(work: Work, text: string | undefined, width: number): StringMark | undefined {
  const [kind, written] = text?.split(' ') ?? [];
  if (kind === 'length') return { kind };
  const value = readNumber(written ?? '');
  if (kind === 'end' && value !== undefined) return { kind, value: fitting(work, ['assembly', 'strings'], value, width) };
  return kind === 'last' && value !== undefined && value < width ? { kind, digit: value } : undefined;
}

const markOf = (trap: Trap | undefined): StringMark =>
  trap?.lastMarked !== undefined ? { kind: 'last', digit: trap.lastMarked } : { kind: 'end', value: trap?.end ?? 0 };

/** The greatest number a trap may have here: what the cause register of `enter` holds. */
export const causeWidth = (work: Work): number => (work.radix === 10 ? 3 : 8);

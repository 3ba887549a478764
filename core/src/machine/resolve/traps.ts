/** The traps of a document, and what becomes of its faults. */
import type { MachineDocument } from '../document/schema';
import { nearest } from '../../text/nearest';
import { readNumber } from '../../text/number';
import { FAULT_KINDS, type Device, type Disposition, type FaultKind, type RegisterPlace, type Trap } from '../model/machine';
import { indexIn, report, type DocumentReading } from './reading';
import type { Path } from '../document/yaml';

type AnyTrap = Exclude<NonNullable<MachineDocument['traps']>[string], { phase: string } | undefined>;
type TrapEntry = AnyTrap & { service: NonNullable<AnyTrap['service']> };

export interface Traps {
  readonly traps: readonly Trap[];
  /** Traps through memory: their routines stand in the system program. */
  readonly routines: readonly { readonly number: number; readonly name: string }[];
}

/** Services by number, and the ticks that enter a routine, where the document has some. */
export function resolveTraps(reading: DocumentReading, places: ReadonlyMap<string, RegisterPlace>, devices: readonly Device[]): Traps {
  const traps: Trap[] = [];
  const routines: { number: number; name: string }[] = [];
  for (const [key, entry] of Object.entries(reading.document.traps ?? {})) {
    if (key === 'enter' || !entry || 'phase' in entry) continue;
    const path = ['traps', key];
    const number = readNumber(key);
    if (number === undefined || number >= 2 ** 32) {
      report(reading, path, { code: 'bad-number', text: key });
      continue;
    }
    if ([...traps, ...routines].some((each) => each.number === number)) report(reading, path, { code: 'trap-twice', number });
    const { service } = entry;
    if (!service) {
      routines.push({ number, name: entry.name });
      continue;
    }
    const register = (kind: 'argument' | 'result' | 'length'): RegisterPlace | undefined => {
      const written = entry[kind]?.replaceAll(' ', '');
      if (written === undefined) return undefined;
      const found = places.get(written);
      if (!found) indexIn(reading, [...path, kind], written, [...places.keys()], 'register');
      return found;
    };
    const argument = register('argument');
    const result = register('result');
    const length = register('length');
    const device = deviceFor(reading, path, { ...entry, service }, devices);
    if (reading.radix === 10 && (service === 'write hex' || service === 'write binary'))
      report(reading, [...path, 'service'], { code: 'bits-on-decimal', operator: service });
    const { argument: needsArgument, result: needsResult } = needs(service);
    if (needsArgument && entry.argument === undefined) report(reading, path, { code: 'trap-register-missing', key: 'argument', service });
    if (needsResult && entry.result === undefined) report(reading, path, { code: 'trap-register-missing', key: 'result', service });
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
function deviceFor(reading: DocumentReading, path: Path, entry: TrapEntry, devices: readonly Device[]): number | undefined {
  const kind = entry.service === 'set lamps' ? 'lamps' : entry.service === 'read switches' ? 'switches' : undefined;
  if (!kind) return undefined;
  const index =
    entry.device === undefined
      ? devices.findIndex((each) => each.kind === kind)
      : indexIn(
          reading,
          [...path, 'device'],
          entry.device,
          devices.map((each) => each.name),
          'device',
        );
  if (index === undefined) return undefined;
  if (devices[index]?.kind === kind) return index;
  return void report(reading, path, { code: 'no-such-device', service: entry.service, kind });
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

/** What becomes of each kind of fault that the document speaks of; the others stop the run. */
export function resolveFaults(reading: DocumentReading): Partial<Record<FaultKind, Disposition>> {
  const faults: Partial<Record<FaultKind, Disposition>> = {};
  for (const [key, text] of Object.entries(reading.document.faults ?? {})) {
    const path = ['faults', key];
    const kind = FAULT_KINDS.find((each) => each === key);
    if (!kind) {
      const near = nearest(key, FAULT_KINDS);
      report(reading, path, { code: 'no-such-part', what: 'kind of fault', name: key, ...(near && { nearest: near }) });
      continue;
    }
    const match = /^(stop|wrap|ignore|end|value|trap)(?:\s+(\w+))?$/.exec(text.trim());
    const word = match?.[1] as Disposition['kind'] | undefined;
    const number = match?.[2] === undefined ? undefined : readNumber(match[2]);
    const numbered = word === 'value' || word === 'trap';
    if (!word || !POSSIBLE[kind].includes(word) || numbered !== (number !== undefined)) {
      report(reading, path, { code: 'bad-disposition', kind, text, possible: POSSIBLE[kind] });
    } else if (word === 'trap') faults[kind] = { kind: word, cause: number! };
    else if (word === 'value') faults[kind] = { kind: word, value: number! };
    else faults[kind] = { kind: word };
    if (word === 'trap' && !reading.document.traps?.enter) report(reading, path, { code: 'trap-without-entry' });
  }
  return faults;
}

/** The greatest number a trap may have here: what the cause register of `enter` holds. */
export const causeWidth = (reading: DocumentReading): number => (reading.radix === 10 ? 3 : 8);

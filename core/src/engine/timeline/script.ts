/**
 * The script of a run as text: what it is given at the start, when devices change by themselves, what hands do and when.
 * One line for each; `;` begins a comment.
 */
import type { Program } from '../../image/program';
import { DEVICE_KINDS, type Device, type DeviceKind, type Machine } from '../../machine/model/machine';
import { numberReader, usualBase } from '../../machine/model/numbers';
import { nearest } from '../../text/nearest';
import { power, readNumber, shownNumber } from '../../text/number';
import type { DatedEdit, Edit } from './interventions';
import type { Beginning } from './timeline';
import { cellText, readEdits } from '../watch/places';
import { explainEntry, type EntryProblem, type RefusedEntry } from '../meaning/entryProblems';
import { inputKindOf, readEntries, readEntry } from '../meaning/services';
import { AS_IT_IS, deviceLatch, latchOwner, NOT_READY, READY, type Plan, type Until } from '../meaning/state';
import { flagName } from '../../machine/model/machine';

export interface Script extends Required<Omit<Beginning, 'keep'>> {
  /** Devices that another one stands in for, on the same cells or ports. */
  readonly devices: readonly { readonly device: number; readonly kind: DeviceKind }[];
}

/** What kinds of devices are called in a script. */
const KIND_NAMES: Readonly<Record<DeviceKind, string>> = {
  keyboard: 'keyboard',
  display: 'text display',
  lamps: 'lamp row',
  switches: 'switch row',
  digits: 'digit row',
  timer: 'timer',
};

/** The machine with other devices on its cells and ports, as a script says; all else is as it was. */
export function withDevices(machine: Machine, { devices }: Pick<Script, 'devices'>): Machine {
  if (devices.length === 0) return machine;
  const kindOf = (at: number): DeviceKind | undefined => devices.findLast((each) => each.device === at)?.kind;
  return { ...machine, devices: machine.devices.map((each, at) => ({ ...each, kind: kindOf(at) ?? each.kind })) };
}

export interface ScriptProblem {
  /** From 1. */
  readonly line: number;
  readonly sentence: string;
}

const MOST_LINES = 5000;
const READINESS: Readonly<Record<string, number>> = { ready: READY, 'not ready': NOT_READY, 'as it is': AS_IT_IS };

interface ScriptReading {
  readonly machine: Machine;
  readonly program: Program | undefined;
  readonly inputs: number[];
  readonly plans: Plan[];
  readonly devices: { device: number; kind: DeviceKind }[];
  /** In the order of the lines. */
  readonly acts: (DatedEdit | Giving)[];
}

/** Inputs that arrive at a tick. `whole`: they are the whole queue from then on, used inputs included. */
interface Giving {
  readonly kind: 'given';
  readonly tick: number;
  readonly scripted: boolean;
  readonly values: readonly number[];
  readonly whole: boolean;
}

/** Reads a script. With problems there is none. */
export function readScript(
  machine: Machine,
  program: Program | undefined,
  text: string,
): { readonly script?: Script; readonly problems: readonly ScriptProblem[] } {
  const reading: ScriptReading = { machine, program, inputs: [], plans: [], devices: [], acts: [] };
  const problems: ScriptProblem[] = [];
  const lines = text.split(/\r?\n/);
  if (lines.length > MOST_LINES) return { problems: [{ line: MOST_LINES, sentence: `A script has at most ${MOST_LINES} lines.` }] };
  lines.forEach((line, at) => {
    const problem = readLine(reading, withoutComment(line).trim());
    if (problem) problems.push({ line: at + 1, sentence: explainEntry(problem) });
  });
  if (problems.length > 0) return { problems };
  const { inputs, plans, devices } = reading;
  return { problems, script: { inputs, plans, devices, edits: editsOf(reading) } };
}

/** A `;` inside quotes is no comment. */
const withoutComment = (line: string): string => /^(?:[^;"']|"[^"]*"|'[^']*')*/.exec(line)?.[0] ?? line;

/** The edits by tick, lines of one tick in their order; inputs that arrive become the whole queue from then on. */
function editsOf({ inputs, acts }: ScriptReading): DatedEdit[] {
  let queue: readonly number[] = inputs;
  return acts
    .toSorted((a, b) => a.tick - b.tick)
    .map((each): DatedEdit => {
      if (each.kind !== 'given') return each;
      const { tick, scripted, values, whole } = each;
      queue = whole ? values : [...queue, ...values];
      return { kind: 'inputs', queue, tick, scripted };
    });
}

/** Why a line means nothing; undefined where it was taken. */
function readLine(reading: ScriptReading, line: string): EntryProblem | undefined {
  if (line === '') return undefined;
  const input = /^input\s+(.+)$/i.exec(line)?.[1];
  if (input !== undefined) {
    const values = readValues(reading.machine, input);
    if ('refused' in values) return values.refused;
    for (const each of values.values) reading.inputs.push(each);
    return undefined;
  }
  // What a hand did in a run that is gone through again: another future forgets it.
  const hand = /^by\s+hand,?\s+(.+)$/i.exec(line)?.[1];
  const scripted = hand === undefined;
  const set = /^set\s+(.+)$/i.exec(hand ?? line)?.[1];
  if (set !== undefined) return readHand(reading, { tick: 0, scripted }, set);
  const at = /^at\s+([\w_]+)\s*:\s*(.+)$/i.exec(hand ?? line);
  if (at) {
    const tick = readNumber(at[1]!);
    return tick === undefined ? { code: 'no-tick', text: at[1]!, rest: at[2]! } : readHand(reading, { tick, scripted }, at[2]!);
  }
  const other = /^(\w+)\s+is\s+an?\s+(.+)$/i.exec(line);
  if (other) return readDevice(reading, other[1]!, other[2]!.trim().toLowerCase());
  const plan = /^([\w.]+)\s+is\s+(.+)$/i.exec(line);
  if (plan) return readPlan(reading, plan[1]!, plan[2]!);
  return { code: 'no-script-line' };
}

/** Numbers and texts in quotes, between blanks or commas; unmarked numbers in `base`, else in the machine's usual one. */
export function readValues(machine: Machine, text: string, base?: number): { readonly values: readonly number[] } | RefusedEntry {
  const words = text.match(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|[^\s,]+/g) ?? [];
  const numbers = inputKindOf(machine) === 'numbers';
  const all: number[] = [];
  for (const word of words) {
    const code = numbers ? undefined : numberReader(machine, base)(word);
    const entry = code !== undefined && code <= 0xffff ? { values: [code] } : readEntries(word, machine, numberReader(machine, base), base);
    if ('refused' in entry) return entry;
    for (const value of entry.values) all.push(value);
  }
  return { values: all };
}

function readHand(
  { machine, program, acts }: ScriptReading,
  when: { readonly tick: number; readonly scripted: boolean },
  text: string,
): EntryProblem | undefined {
  const input = /^(input|queue)\s+(.*)$/i.exec(text);
  if (input) {
    const values = readValues(machine, input[2]!);
    if ('refused' in values) return values.refused;
    acts.push({ kind: 'given', ...when, values: values.values, whole: input[1]!.toLowerCase() === 'queue' });
    return undefined;
  }
  const readiness = /^(\w+)\s+is\s+(ready|not ready|as it is)$/i.exec(text);
  if (readiness) {
    const device = deviceNamed(machine, readiness[1]!);
    if (typeof device !== 'number') return device.refused;
    acts.push({ kind: 'latch', latch: deviceLatch(machine, device, 'ready'), value: READINESS[readiness[2]!.toLowerCase()]!, ...when });
    return undefined;
  }
  const read = readEdits(machine, program, text);
  if ('refused' in read) return read.refused;
  acts.push(...read.map((each) => ({ ...each, ...when })));
  return undefined;
}

function deviceNamed(machine: Machine, name: string): number | RefusedEntry {
  const device = machine.devices.findIndex((each) => each.name === name);
  if (device !== -1) return device;
  const names = machine.devices.map((each) => each.name);
  if (names.length === 0) return { refused: { code: 'no-devices' } };
  return { refused: { code: 'unknown-device', name, nearest: nearest(name, names), devices: names } };
}

function readDevice({ machine, devices }: ScriptReading, name: string, wanted: string): EntryProblem | undefined {
  const device = deviceNamed(machine, name);
  if (typeof device !== 'number') return device.refused;
  const kind = DEVICE_KINDS.find((each) => KIND_NAMES[each] === wanted);
  if (!kind) return { code: 'unknown-kind', text: wanted, kinds: Object.values(KIND_NAMES) };
  devices.push({ device, kind });
  return undefined;
}

function readPlan({ machine, plans }: ScriptReading, place: string, text: string): EntryProblem | undefined {
  const [name, lineName] = place.split('.');
  const device = deviceNamed(machine, name!);
  if (typeof device !== 'number') return device.refused;
  const match = /^(.+?)(?:\s+until\s+(.+?)(?:\s*,?\s*then\s+(.+))?|\s+for\s+ever)$/i.exec(text);
  if (!match) return { code: 'until-missing', place, text };
  const until = match[2] === undefined ? ({ kind: 'never' } as const) : readUntil(match[2]);
  if ('refused' in until) return until.refused;
  const kind = machine.devices[device]!;
  const before = readHeld(kind, machine, { text: match[1]!, lineName });
  if ('refused' in before) return before.refused;
  if (match[3] === undefined && until.kind !== 'never') return { code: 'then-missing', until: match[2]! };
  const after = match[3] === undefined ? before : readHeld(kind, machine, { text: match[3], lineName });
  if ('refused' in after) return after.refused;
  if (after.latch !== before.latch) return { code: 'sides-differ' };
  plans.push({
    device,
    latch: before.latch,
    ...(before.line !== undefined && { line: before.line }),
    before: before.value,
    until,
    after: after.value,
  });
  return undefined;
}

function readUntil(text: string): Until | RefusedEntry {
  const reads = /^(\w+)\s+(?:reads?|polls?)$/i.exec(text)?.[1];
  if (reads !== undefined && readNumber(reads)) return { kind: 'reads', count: readNumber(reads)! };
  const tick = /^tick\s+(\w+)$/i.exec(text)?.[1];
  if (tick !== undefined && readNumber(tick) !== undefined) return { kind: 'tick', tick: readNumber(tick)! };
  const word = /^(?:an?\s+)?(key|hand)$/i.exec(text)?.[1]?.toLowerCase();
  if (word === 'key' || word === 'hand') return { kind: word };
  return { refused: { code: 'no-moment', text } };
}

interface Held {
  readonly latch: Plan['latch'];
  readonly line?: number;
  readonly value: number;
}

function readHeld(
  device: Device,
  machine: Machine,
  { text, lineName }: { text: string; lineName: string | undefined },
): Held | RefusedEntry {
  const readiness = READINESS[text.trim().toLowerCase()];
  if (readiness !== undefined) return { latch: 'ready', value: readiness };
  const entry = readEntry(
    text,
    {
      width: lineName === undefined ? device.width : 1,
      radix: machine.radix,
      suffixes: machine.assembly.suffixes,
      base: usualBase(machine),
    },
    numberReader(machine),
  );
  if ('refused' in entry) return { refused: { code: 'no-state', problem: entry.refused } };
  if (lineName === undefined) return { latch: 'value', value: entry.value };
  const line = device.lines.get(lineName) ?? (/^\d+$/.test(lineName) ? Number(lineName) : undefined);
  if (line !== undefined && line < device.width) return { latch: 'value', line, value: entry.value };
  return { refused: { code: 'unknown-line', device: device.name, line: lineName, lines: [...device.lines.keys()] } };
}

/** The script with further inputs at the start; with a queue that begins with the script's own, that queue. */
export function withInputs(script: Script, inputs: readonly number[]): Script {
  const own = script.inputs.every((each, at) => inputs[at] === each) ? inputs : [...script.inputs, ...inputs];
  const edits = script.edits.map((each) =>
    each.kind === 'inputs' ? { ...each, queue: [...own, ...each.queue.slice(script.inputs.length)] } : each,
  );
  return { ...script, inputs: own, edits };
}

// ---- writing ----

/** A decimal number, marked where unmarked ones are read in another base. */
const unmarked = (machine: Machine, value: number): string => (usualBase(machine) === 10 ? String(value) : `0d${value}`);

/** The text that reads back as the same script. Edits may come in any order; those of one tick keep theirs. */
export function writeScript(machine: Machine, { inputs, plans, edits, devices }: Script): string {
  const queued = (values: readonly number[]): string => values.map((each) => unmarked(machine, each)).join(' ');
  const lines = devices.map(({ device, kind }) => `${machine.devices[device]!.name} is a ${KIND_NAMES[kind]}`);
  if (inputs.length > 0) lines.push(`input ${queued(inputs)}`);
  for (const plan of plans) lines.push(planText(machine, plan));
  let queue = inputs;
  for (const edit of edits.toSorted((a, b) => a.tick - b.tick)) {
    const by = edit.scripted === false ? 'by hand ' : '';
    if (edit.kind === 'inputs') {
      const grown = queue.every((each, at) => each === edit.queue[at]);
      if (edit.queue.length > queue.length && grown) lines.push(`${by}at ${edit.tick}: input ${queued(edit.queue.slice(queue.length))}`);
      else if (!grown || edit.queue.length < queue.length) lines.push(`${by}at ${edit.tick}: queue ${queued(edit.queue)}`);
      queue = edit.queue;
    } else lines.push(`${by}${edit.tick === 0 ? 'set ' : `at ${edit.tick}: `}${editText(machine, edit)}`);
  }
  return lines.map((each) => `${each}\n`).join('');
}

const READINESS_TEXT: readonly string[] = ['as it is', 'not ready', 'ready'];

/** “KEYS is not ready until 5 reads, then as it is”. */
export function planText(machine: Machine, { device, latch, line, before, until, after }: Plan): string {
  const { name, lines, width } = machine.devices[device]!;
  const place = line === undefined ? name : `${name}.${[...lines].find(([, bit]) => bit === line)?.[0] ?? line}`;
  const shown = (value: number): string =>
    latch === 'ready' ? READINESS_TEXT[value]! : line === undefined ? shownNumber(value, width, machine) : String(value);
  if (until.kind === 'never') return `${place} is ${shown(before)} for ever`;
  const when = until.kind === 'reads' ? `${until.count} reads` : until.kind === 'tick' ? `tick ${until.tick}` : `a ${until.kind}`;
  return `${place} is ${shown(before)} until ${when}, then ${shown(after)}`;
}

function editText(machine: Machine, edit: Exclude<Edit, { kind: 'inputs' }>): string {
  const { radix } = machine;
  switch (edit.kind) {
    case 'register': {
      const { name, width } = machine.registers[edit.register]!;
      return `${name} = ${shownNumber(edit.value, width, machine)}`;
    }
    case 'flag':
      return `${flagName(machine, edit.flag)} = ${edit.value}`;
    case 'cell': {
      const { width } = machine.spaces[edit.space]!;
      return `${cellText(machine, edit.space, edit.address)} = ${shownNumber(edit.value, width, machine)}`;
    }
    case 'latch': {
      const owner = latchOwner(machine, edit.latch);
      if ('port' in owner) return `${machine.ports!.name}[${owner.port}] = ${shownNumber(edit.value, machine.ports!.width, machine)}`;
      const { name, width } = machine.devices[owner.device]!;
      if (owner.which === 'ready') return `${name} is ${READINESS_TEXT[edit.value]!}`;
      return `${name} = ${shownNumber(edit.value % power(radix, width), width, machine)}`;
    }
    default:
      return edit satisfies never;
  }
}

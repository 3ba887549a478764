/** The registers of a document: single ones, arrays, pairs, packed words; and the cells of an instruction in them. */
import type { Slice } from '../../notation/scope';
import type { Expr, Target } from '../../notation/tree';
import { digitsIn, unitOf } from '../../text/number';
import { NAME, type MachineDocument } from '../document/schema';
import type { Composite, Register, RegisterArray, RegisterPlace, View } from '../model/machine';
import { fitting, indexIn, report, widthFor, type DocumentReading } from './reading';
import { itemAt } from '../../text/itemAt';

type Entry = MachineDocument['registers'][string];

export interface Registers {
  readonly registers: readonly Register[];
  readonly arrays: readonly RegisterArray[];
  readonly composites: readonly (Composite & { readonly target: Target })[];
  readonly views: readonly View[];
}

/** What is made while the registers of a document are read. */
interface Made {
  readonly registers: readonly Register[];
  readonly arrays: RegisterArray[];
  readonly composites: (Composite & { readonly target: Target })[];
}

/** Registers, arrays element by element, and what is read from several at once. */
export function resolveRegisters(reading: DocumentReading, wordWidth: number): Registers {
  const entries = Object.entries(reading.document.registers);
  const registers: Register[] = [];
  const arrays: RegisterArray[] = [];
  for (const [name, entry] of entries) {
    if (entry.pair !== undefined || entry.packed !== undefined || entry.choose !== undefined) continue;
    const width = widthFor(reading, ['registers', name], entry, wordWidth);
    if (entry.count === undefined) registers.push(single(reading, name, { entry, width, register: registers.length }));
    else {
      const own = elements(reading, name, entry, width);
      const names = own.map((each) => [each.name, ...(each.also ? [each.also] : [])]);
      arrays.push({ name, first: registers.length, count: entry.count, scale: 1, width, names, named: entry.names !== undefined });
      registers.push(...own);
    }
  }
  const composites: Made['composites'] = [];
  const made: Made = { registers, arrays, composites };
  resolveComposites(reading, entries, made);
  const views = entries.flatMap(([name, entry]) => (entry.choose === undefined ? [] : (resolveView(reading, name, entry, made) ?? [])));
  return { registers, arrays, composites, views };
}

/** Pairs and packed words, in the order of the document; a pair may be of pairs that come later. */
function resolveComposites(reading: DocumentReading, entries: readonly (readonly [string, Entry])[], made: Made): void {
  const found = new Map<string, Made['composites']>();
  const halvesOf = (entry: Entry): readonly string[] => entry.pair!.trim().split(/[\s,]+/);
  let pending = entries.filter(([, entry]) => entry.pair !== undefined);
  for (let before = -1; before !== pending.length;) {
    before = pending.length;
    const names = new Set(pending.map(([name]) => name));
    pending = pending.filter(([name, entry]) => {
      if (halvesOf(entry).some((each) => names.has(each))) return true;
      const from = made.composites.length;
      resolvePair(reading, name, entry, made);
      found.set(name, made.composites.slice(from));
      return false;
    });
  }
  made.composites.length = 0;
  // A pair that only waits for a circle is not in it: the circle's own sentence is enough.
  for (const [name, entry] of pending)
    if (leadsTo(name, name, new Map(pending.map(([each, other]) => [each, halvesOf(other)]))))
      report(reading, ['registers', name, 'pair'], { code: 'pair-of-itself', name, text: entry.pair! });
  for (const [name, entry] of entries) {
    if (entry.packed !== undefined) made.composites.push(packed(reading, name, entry));
    made.composites.push(...(found.get(name) ?? []));
  }
}

function leadsTo(from: string, to: string, halves: ReadonlyMap<string, readonly string[]>): boolean {
  const seen = new Set<string>();
  const visit = (name: string): boolean =>
    (halves.get(name) ?? []).some((each) => each === to || (!seen.has(each) && (seen.add(each), visit(each))));
  return visit(from);
}

function single(
  reading: DocumentReading,
  name: string,
  { entry, width, register }: { entry: Entry; width: number; register: number },
): Register {
  const { title, role, start, zero = false, parts = {} } = entry;
  const read = new Map<string, Slice>();
  for (const [part, text] of Object.entries(parts)) {
    const match = /^(\d+)\s*:\s*(\d+)$/.exec(text.trim());
    const [high, low] = [Number(match?.[1]), Number(match?.[2])];
    if (match && high >= low && high < width) read.set(part, { register, high, low });
    else report(reading, ['registers', name, 'parts', part], { code: 'bad-part', text, width, unit: unitOf(reading.radix) });
  }
  for (const key of ['each', 'names'] as const)
    if (entry[key] !== undefined) report(reading, ['registers', name, key], { code: 'only-with', key, needs: 'count' });
  return {
    name,
    title: title || name,
    ...(role && { role }),
    width,
    start: fitting(reading, ['registers', name, 'start'], start, width),
    parts: read,
    zero,
    ...(entry.also !== undefined && { also: entry.also }),
  };
}

function elements(reading: DocumentReading, name: string, entry: Entry, width: number): Register[] {
  for (const at of Object.keys(entry.each ?? {})) {
    if (Number(at) >= entry.count!)
      report(reading, ['registers', name, 'each', at], { code: 'no-such-part', what: 'register', name: name + at });
  }
  const names = entry.names?.trim().split(/[\s,]+/);
  if (names && (names.length !== entry.count || !names.every((each) => NAME.test(each))))
    report(reading, ['registers', name, 'names'], { code: 'names-differ', name, count: entry.count!, names: names.length });
  if (entry.also !== undefined) report(reading, ['registers', name, 'also'], { code: 'only-with', key: 'also', needs: 'each' });
  return Array.from({ length: entry.count! }, (_, at): Register => {
    const called = names?.[at] ?? `${name}${at}`;
    const own = entry.each?.[at] ?? {};
    const path = own.start === undefined ? ['registers', name, 'start'] : ['registers', name, 'each', at, 'start'];
    const role = own.role ?? entry.role;
    return {
      name: called,
      title: own.title ?? (entry.title ? `${entry.title} ${names ? called : at}` : called),
      ...(role && { role }),
      width,
      start: fitting(reading, path, own.start ?? entry.start, width),
      parts: new Map(),
      zero: own.zero ?? entry.zero ?? false,
      array: name,
      ...(own.also !== undefined && { also: own.also }),
    };
  });
}

const whole = (register: number, width: number): { value: Expr; target: Target } => ({
  value: { kind: 'register', register, width },
  target: { kind: 'register', register, high: width - 1, low: 0, width, whole: true },
});

/** “H L”: two registers as one, high first. “R”: the neighbours of that array, two by two. */
function resolvePair(reading: DocumentReading, name: string, entry: Entry, made: Made): void {
  const path = ['registers', name, 'pair'];
  const names = entry.pair!.trim().split(/[\s,]+/);
  const put = (title: string, own: string, parts: readonly Pick<RegisterPlace, 'value' | 'target'>[]): void => {
    const width = parts.reduce((sum, each) => sum + each.value.width, 0);
    if (width > (reading.radix === 10 ? 18 : 64)) return report(reading, path, { code: 'bad-pair', text: entry.pair! });
    made.composites.push({
      name: own,
      title,
      width,
      packed: false,
      value: { kind: 'join', parts: parts.map((each) => each.value), width },
      target: { kind: 'joined', parts: parts.map((each) => each.target), width },
    });
  };
  if (names.length === 1) {
    const at = indexIn(
      reading,
      path,
      itemAt(names, 0),
      made.arrays.map((each) => each.name),
      'array',
    );
    if (at === undefined) return;
    const { first, count, width } = itemAt(made.arrays, at);
    const pairs = Math.floor(count / 2);
    const called = Array.from({ length: pairs }, (_, pair) => [`${name}${pair}`]);
    made.arrays.push({ name, first, count: pairs, scale: 2, width, names: called, named: false });
    for (let pair = 0; pair < pairs; pair++)
      put(
        `${entry.title || name} ${pair}`,
        `${name}${pair}`,
        [0, 1].map((half) => whole(first + 2 * pair + half, width)),
      );
    return;
  }
  if (names.length !== 2) return report(reading, path, { code: 'bad-pair', text: entry.pair! });
  const places = registerPlaces(made);
  const [high, low] = names.map((each) => {
    const place = places.get(each);
    if (!place) indexIn(reading, path, each, [...places.keys()], 'register');
    return place;
  });
  if (high && low) put(entry.title || name, name, [high, low]);
}

/** The registers and pairs that a place can be: by their names, and as elements of an array. */
export function registerPlaces({
  registers,
  arrays,
  composites,
  views = [],
}: Made & Partial<Pick<Registers, 'views'>>): Map<string, RegisterPlace> {
  const single = registers.map(({ name, width }, at) => ({ name, width, ...whole(at, width) }));
  const places = new Map<string, RegisterPlace>();
  registers.forEach(({ name, also }, at) => {
    for (const each of [name, also]) if (each !== undefined) places.set(each, itemAt(single, at));
  });
  for (const { name, first, count } of arrays.filter((each) => each.scale === 1))
    for (let at = 0; at < count; at++) places.set(`${name}[${at}]`, itemAt(single, first + at));
  for (const { name, width, value, target, packed: flags } of composites) if (!flags) places.set(name, { name, width, value, target });
  for (const { name, options } of views) options.forEach((each, at) => each && places.set(`${name}[${at}]`, each));
  return places;
}

/** “AB CD SP”: registers and pairs of one width, by number. */
function resolveView(reading: DocumentReading, name: string, entry: Entry, made: Made): View | undefined {
  const path = ['registers', name, 'choose'];
  const places = registerPlaces(made);
  const words = entry.choose!.trim().split(/[\s,]+/);
  const options = words.map((word): View['options'][number] | null => {
    if (word === '_') return undefined;
    const place = places.get(word);
    if (!place) return (indexIn(reading, path, word, [...places.keys()], 'register or pair'), null);
    const register = made.registers.find((each) => each.name === place.name);
    return { ...place, names: [...new Set([word, place.name, ...(register?.also ? [register.also] : [])])] };
  });
  const known = options.filter((each) => each !== undefined && each !== null);
  if (options.includes(null)) return undefined;
  const [first] = known;
  const twice = known.find((each, at) => known.findIndex((other) => other.name === each.name) < at);
  if (twice) return void report(reading, path, { code: 'view-twice', name: twice.name });
  if (!first || words.length > 64) return void report(reading, path, { code: 'bad-view', text: entry.choose! });
  const other = known.find((each) => each.width !== first.width);
  if (other)
    return void report(reading, path, {
      code: 'view-widths-differ',
      one: first.name,
      other: other.name,
      width: first.width,
      otherWidth: other.width,
      unit: unitOf(reading.radix),
    });
  return { name, title: entry.title || name, width: first.width, options: options as View['options'] };
}

/** Flags at chosen digits, 0 and 1 at others; a digit that is not named is 0. */
function packed(reading: DocumentReading, name: string, entry: Entry): Composite & { target: Target } {
  const path = ['registers', name, 'packed'];
  const digits = Object.keys(entry.packed!).map(Number);
  const width = widthFor(reading, ['registers', name], entry, Math.max(1, ...digits) + 1);
  const flags = Object.keys(reading.document.flags ?? {});
  const values: Expr[] = [];
  const targets: Target[] = [];
  for (let digit = width - 1; digit >= 0; digit--) {
    const text = entry.packed![digit] ?? '0';
    const fixed = text === '0' || text === '1';
    const flag = fixed ? undefined : indexIn(reading, [...path, digit], text, flags, 'flag');
    values.push(flag === undefined ? { kind: 'literal', value: text === '1' ? 1 : 0, width: 1 } : { kind: 'flag', flag, width: 1 });
    targets.push(flag === undefined ? { kind: 'nowhere', width: 1 } : { kind: 'flag', flag, width: 1 });
  }
  for (const digit of digits)
    if (digit >= width) report(reading, [...path, digit], { code: 'start-too-wide', value: digit, width, unit: unitOf(reading.radix) });
  return {
    name,
    title: entry.title || name,
    width,
    packed: true,
    value: { kind: 'join', parts: values, width },
    target: { kind: 'joined', parts: targets, width },
  };
}

/** The cells of an instruction fill the registers with the role “instruction”, cell one in the highest digits of the first. */
export function instructionSlots(reading: DocumentReading, registers: readonly Register[], cellWidth: number): Slice[] {
  return registers.flatMap(({ role, width, name }, register): Slice[] => {
    if (role !== 'instruction') return [];
    if (width % cellWidth !== 0) {
      report(reading, ['registers', name], {
        code: 'instruction-register-width',
        cell: cellWidth,
        width,
        name,
        unit: unitOf(reading.radix),
      });
      return [];
    }
    return Array.from({ length: width / cellWidth }, (_, at) => ({
      register,
      high: width - at * cellWidth - 1,
      low: width - (at + 1) * cellWidth,
    }));
  });
}

/** Digits that say a place among `count`. */
export const addressDigits = (count: number, radix: number): number => digitsIn(Math.max(1, count - 1), radix);

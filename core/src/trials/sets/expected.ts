/** What is expected of a run, read from what people type: a value, a range, “any”, a sequence, an output, an end. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { numberReader, usualBase } from '../../machine/model/numbers';
import { joinedValue, shownDigits, type Base } from '../../text/number';
import type { WatchedPlace } from '../../engine/watch/breakpoints';
import { readPlace, valueOf, widthOf } from '../../engine/watch/places';
import { explainEntry } from '../../engine/meaning/entryProblems';
import { readEntry } from '../../engine/meaning/services';
import type { State } from '../../engine/meaning/state';
import { unquoted } from './output';
import { noRoomFor, valuesIn } from '../../engine/watch/cellRow';

/** Bounds are inclusive. `signed`: both are meant in two's (ten's) complement. */
export type Wanted =
  | { readonly kind: 'any' }
  | { readonly kind: 'between'; readonly from: bigint; readonly to: bigint; readonly signed: boolean };

/** What an expectation looks at. */
export type Aspect =
  | { readonly kind: 'place'; readonly place: WatchedPlace; readonly width: number }
  /** Two places as one number. */
  | { readonly kind: 'joined'; readonly high: WatchedPlace; readonly low: WatchedPlace; readonly width: number }
  /** What was written to a port or a device, one after the other. */
  | { readonly kind: 'sequence'; readonly place: WatchedPlace; readonly width: number }
  | { readonly kind: 'output' }
  | { readonly kind: 'end' }
  | { readonly kind: 'ticks' | 'instructions' };

export const ENDS = ['halted', 'waiting', 'fault', 'never halts', 'out of ticks'] as const;
export type End = (typeof ENDS)[number];

export type Expectation =
  | { readonly on: 'value'; readonly wanted: Wanted }
  /** Of cells behind each other, from the place of the aspect on. */
  | { readonly on: 'cells'; readonly values: readonly Wanted[] }
  | { readonly on: 'sequence'; readonly values: readonly Wanted[] | 'any' }
  /** `exactly`: to the last blank; else blanks and line ends around it do not count. */
  | { readonly on: 'output'; readonly text: string | undefined; readonly exactly: boolean }
  | { readonly on: 'end'; readonly end: End | 'any' };

export interface SaidWrong {
  readonly wrong: string;
}

const WORDS: Readonly<Record<string, Aspect>> = {
  output: { kind: 'output' },
  end: { kind: 'end' },
  ticks: { kind: 'ticks' },
  instructions: { kind: 'instructions' },
};

/** What the name of a column means: `level`, `join(high, low)`, `sequence of lamps`, `output`, `end`, `ticks`. */
export function readAspect(machine: Machine, program: Program | undefined, name: string): Aspect | SaidWrong {
  const written = name.trim();
  const word = Object.hasOwn(WORDS, written.toLowerCase()) ? WORDS[written.toLowerCase()] : undefined;
  if (word) return word;
  const placeIn = (text: string): { place: WatchedPlace; width: number } | SaidWrong => {
    const place = readPlace(machine, program, text);
    return 'refused' in place ? { wrong: explainEntry(place.refused) } : { place, width: widthOf(machine, place) };
  };
  const sequence = /^sequence\s+of\s+(.+)$/i.exec(written)?.[1];
  if (sequence !== undefined) {
    const found = placeIn(sequence);
    if ('wrong' in found) return found;
    if (found.place.kind !== 'port' && found.place.kind !== 'device')
      return { wrong: `A sequence is kept of ports and devices; ${sequence} is neither.` };
    return { kind: 'sequence', ...found };
  }
  const joined = /^join\(\s*(.+?)\s*,\s*([^,]+?)\s*\)$/i.exec(written);
  if (joined) {
    const [high, low] = [placeIn(joined[1]!), placeIn(joined[2]!)];
    if ('wrong' in high) return high;
    if ('wrong' in low) return low;
    return { kind: 'joined', high: high.place, low: low.place, width: high.width + low.width };
  }
  const found = placeIn(written);
  return 'wrong' in found ? found : { kind: 'place', ...found };
}

/** How many digits the values of an aspect have; undefined of what is no such value. */
export const aspectWidth = (aspect: Aspect): number | undefined => ('width' in aspect ? aspect.width : undefined);

/** Reads what is expected of an aspect; unmarked values in `base`, ticks and instructions always in decimal. */
export function readExpectation(
  machine: Machine,
  aspect: Aspect,
  { column, text, base }: { readonly column: string; readonly text: string; readonly base: Base | undefined },
): Expectation | SaidWrong {
  const written = text.trim();
  const any = /^any$/i.test(written);
  switch (aspect.kind) {
    case 'output':
      return any ? { on: 'output', text: undefined, exactly: false } : readOutput(written);
    case 'end': {
      const end = ENDS.find((each) => each === written.toLowerCase());
      if (any || end) return { on: 'end', end: any ? 'any' : end! };
      return { wrong: `“${written}” is no end of a run. There are: ${ENDS.join(', ')}, any.` };
    }
    case 'sequence': {
      if (any) return { on: 'sequence', values: 'any' };
      const values = allWanted(machine, aspect.width, written.split(/[\s,]+/), base);
      return 'wrong' in values ? values : { on: 'sequence', values };
    }
    case 'ticks':
    case 'instructions':
      return readCount(written);
    case 'place': {
      const words = valuesIn(written);
      const values = allWanted(machine, aspect.width, words, base);
      if ('wrong' in values) return values;
      if (values.length === 1) return { on: 'value', wanted: values[0]! };
      const problem = noRoomFor(machine, aspect.place, values.length, column);
      return problem ? { wrong: explainEntry(problem) } : { on: 'cells', values };
    }
    case 'joined': {
      const wanted = readWanted(machine, aspect.width, written, base);
      return 'wrong' in wanted ? wanted : { on: 'value', wanted };
    }
    default:
      return aspect satisfies never;
  }
}

function readOutput(written: string): Expectation {
  const exact = unquoted(written);
  return { on: 'output', text: exact ?? written, exactly: exact !== undefined };
}

/** “54”, “at most 54”, “40 to 54”. */
function readCount(written: string): Expectation | SaidWrong {
  if (/^any$/i.test(written)) return { on: 'value', wanted: { kind: 'any' } };
  const most = /^at\s+most\s+(\d{1,15})$/i.exec(written)?.[1];
  const range = /^(\d{1,15})(?:\s+to\s+(\d{1,15}))?$/i.exec(written);
  if (most === undefined && !range) return { wrong: `“${written}” is no count. Write “54”, “at most 54” or “40 to 54”.` };
  const from = most === undefined ? range![1]! : '0';
  return between(BigInt(from), BigInt(most ?? range![2] ?? range![1]!), false);
}

function between(from: bigint, to: bigint, signed: boolean): Expectation | SaidWrong {
  if (from > to) return { wrong: `${from} is greater than ${to}: a range begins with its lower end.` };
  return { on: 'value', wanted: { kind: 'between', from, to, signed } };
}

function allWanted(machine: Machine, width: number, words: readonly string[], base: Base | undefined): readonly Wanted[] | SaidWrong {
  const values: Wanted[] = [];
  for (const word of words) {
    const wanted = readWanted(machine, width, word, base);
    if ('wrong' in wanted) return wanted;
    values.push(wanted);
  }
  return values;
}

/** A value, “3 to 9”, “-5 to 5”, “at most 9”, “at least 3”, “any”. */
function readWanted(machine: Machine, width: number, written: string, base: Base | undefined): Wanted | SaidWrong {
  if (/^any$/i.test(written)) return { kind: 'any' };
  const count = BigInt(machine.radix) ** BigInt(width);
  const bound = /^at\s+(most|least)\s+(.+)$/i.exec(written);
  const range = /^(.+?)\s+to\s+(.+)$/i.exec(written);
  const texts = bound ? [bound[2]!] : range ? [range[1]!, range[2]!] : [written];
  const signed = (bound !== null || range !== null) && texts.some((each) => each.trim().startsWith('-'));
  const values: bigint[] = [];
  for (const text of texts) {
    const value = readWide(machine, width, text, base);
    if (typeof value !== 'bigint') return value;
    values.push(signed && value * 2n >= count ? value - count : value);
  }
  const [first, second = first!] = values as [bigint, bigint?];
  const least = signed ? -count / 2n : 0n;
  const from = bound?.[1]?.toLowerCase() === 'most' ? least : first;
  const to = bound?.[1]?.toLowerCase() === 'least' ? (signed ? count / 2n - 1n : count - 1n) : second;
  const made = between(from, to, signed);
  return 'wrong' in made ? made : made.on === 'value' ? made.wanted : { kind: 'any' };
}

/** A value of any width; those of up to 53 bits by the rule of every field. */
function readWide(machine: Machine, width: number, text: string, base: Base | undefined): bigint | SaidWrong {
  const { radix, assembly } = machine;
  if (width <= (radix === 2 ? 52 : 15)) {
    const rules = { width, radix, suffixes: assembly.suffixes, base: base ?? usualBase(machine) };
    const entry = readEntry(text, rules, numberReader(machine, base));
    return 'refused' in entry ? { wrong: explainEntry(entry.refused) } : BigInt(entry.value);
  }
  const bare = text.trim().replace(/_/g, '');
  const marks: Readonly<Record<number, string>> = { 16: '0x', 8: '0o', 2: '0b', 10: '' };
  const marked =
    /^-?0[xob]/i.test(bare) || radix === 10
      ? bare
      : `${bare.startsWith('-') ? '-' : ''}${marks[base ?? usualBase(machine)]}${bare.replace(/^-/, '').replace(/^0d/i, '')}`;
  const count = BigInt(radix) ** BigInt(width);
  try {
    const size = BigInt(marked.replace(/^-/, ''));
    const value = marked.startsWith('-') ? count - size : size;
    if (value >= 0n && value < count) return value;
    return { wrong: `${text.trim()} does not fit ${width} ${radix === 10 ? 'digits' : 'bits'}.` };
  } catch {
    return { wrong: `“${text.trim().slice(0, 20)}” is no number.` };
  }
}

/** Whether a value of `width` digits is as wanted. */
export function meets(wanted: Wanted, value: bigint, width: number, radix: number): boolean {
  if (wanted.kind === 'any') return true;
  const count = BigInt(radix) ** BigInt(width);
  const meant = wanted.signed && value * 2n >= count ? value - count : value;
  return meant >= wanted.from && meant <= wanted.to;
}

/** What an expectation looks at: of several cells each by itself. */
export const lookedAt = ({ aspect, expectation }: { readonly aspect: Aspect; readonly expectation: Expectation }): Aspect[] => {
  if (aspect.kind !== 'place' || aspect.place.kind !== 'cell' || expectation.on !== 'cells') return [aspect];
  const { place } = aspect;
  return expectation.values.map((_, at) => ({ ...aspect, place: { ...place, address: place.address + at } }));
};

/** So many cells from an aspect's on, at the end of a run. */
export const seenCells = (machine: Machine, state: State, { place, count }: { place: WatchedPlace; count: number }): bigint[] =>
  place.kind === 'cell'
    ? Array.from({ length: count }, (_, at) => BigInt(valueOf(machine, state, { ...place, address: place.address + at })))
    : [];

/** What an aspect of values is at the end of a run. */
export function seenValue(machine: Machine, state: State, aspect: Aspect & { kind: 'place' | 'joined' }): bigint {
  if (aspect.kind === 'place') return BigInt(valueOf(machine, state, aspect.place));
  const part = (place: WatchedPlace) => ({ value: valueOf(machine, state, place), width: widthOf(machine, place) });
  return BigInt(joinedValue([part(aspect.high), part(aspect.low)], machine.radix));
}

/** A value as the table shows it: digits of its base, without a mark. */
export const shownValue = (machine: Machine, value: bigint, width: number, base: Base): string =>
  shownDigits(value, width, { radix: machine.radix, base });

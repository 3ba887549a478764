/** Looks for a set that tries something no other has: small inputs first, then values near what the program holds, then by chance. */
import type { Program } from '../../image/program';
import { flagName, type Machine } from '../../machine/model/machine';
import { power, shownDigits, type Base } from '../../text/number';
import { usualBase } from '../../machine/model/numbers';
import { inputKindOf } from '../../engine/meaning/services';
import { readPlace, widthOf } from '../../engine/watch/places';
import { runnerOf } from '../judge/run';
import { SetReader } from '../sets/read';
import { emptySet, freeName, INPUT, placesOf, type Entry, type SetTable, type TrialSet } from '../sets/table';
import { Coverage, type Target } from './coverage';
import { addressText } from '../../engine/tell/names';

export interface Proposal {
  readonly set: TrialSet;
  /** Sets that were tried before this one. */
  readonly tried: number;
}

/** `why`: in a sentence, why there is none. */
export interface NoProposal {
  readonly why: string;
  readonly tried: number;
}

export interface Searching {
  readonly machine: Machine;
  readonly program: Program;
  readonly table: SetTable;
}

/** Sets that are tried at most, and ticks of each and of all. */
const [MOST_TRIED, MOST_EACH, MOST_TICKS] = [4000, 100_000, 20_000_000];
/** Values that are interesting of one place, at most. */
const MOST_VALUES = 24;
const MOST_INPUTS = 6;

/** Yields how much is done, from 0 to 1, and ends with the set or with why there is none. */
export function* propose({ machine, program, table }: Searching, target: Target): Generator<number, Proposal | NoProposal> {
  const places = givable(machine, program, table);
  if (places.length === 0)
    return {
      why: 'The program is given nothing that could be changed: no set gives a value, no “.input” line names a place, and it reads nothing.',
      tried: 0,
    };
  const reader = new SetReader(machine, program, table.base);
  const base = table.base ?? (usualBase(machine) as Base);
  let tried = 0;
  let ticks = 0;
  const known = new Set<string>();
  for (const values of candidates(machine, program, places)) {
    if (tried >= MOST_TRIED || ticks >= MOST_TICKS) break;
    const key = JSON.stringify(values);
    if (known.has(key)) continue;
    known.add(key);
    const set = {
      ...emptySet(''),
      given: places.map((each, at) => entryFor(machine, each, values[at]!, base)).filter((each) => each.text !== ''),
    };
    const read = reader.read(set);
    tried++;
    if ('problems' in read) continue;
    const runner = runnerOf(machine, program, read.trial.script);
    const coverage = new Coverage(machine, program);
    coverage.add(runner, Math.min(table.mostTicks, MOST_EACH));
    ticks += runner.ticks;
    if (coverage.has(target)) {
      const name = freeName(table.sets, nameFor(machine, target));
      return { set: { ...set, name, purpose: purposeFor(machine, target) }, tried };
    }
    if (tried % 5 === 0) yield Math.min(0.99, Math.max(tried / MOST_TRIED, ticks / MOST_TICKS));
  }
  return {
    why: `None of ${tried.toLocaleString('en-US')} sets does it. It may be impossible, or need values that are hard to find.`,
    tried,
  };
}

const nameFor = (machine: Machine, target: Target): string => {
  const at = addressText(machine, target.address);
  switch (target.kind) {
    case 'reach':
      return `reaches ${at}`;
    case 'equal':
      return `equal at ${at}`;
    case 'flag':
      return `${flagName(machine, target.flag)} ${target.value} at ${at}`;
    default:
      return `${target.kind} at ${at}`;
  }
};

function purposeFor(machine: Machine, target: Target): string {
  const at = addressText(machine, target.address);
  switch (target.kind) {
    case 'reach':
      return `comes to the instruction at ${at}`;
    case 'taken':
      return `the branch at ${at} is taken`;
    case 'not taken':
      return `the branch at ${at} falls through`;
    case 'equal':
      return `the comparison at ${at} is of equal values`;
    case 'flag':
      return `the instruction at ${at} makes ${flagName(machine, target.flag)} ${target.value}`;
    default:
      return target satisfies never;
  }
}

interface Givable {
  readonly place: string;
  /** Digits of a value; of the queue, of each input. */
  readonly width: number;
  readonly queue: boolean;
}

/** What sets give already, what the program says that it is given, and its queue where it reads. */
function givable(machine: Machine, program: Program, { sets }: SetTable): Givable[] {
  const names = new Set([...placesOf(sets, 'given'), ...program.declared.filter((each) => each.way === 'input').map((each) => each.name)]);
  if (program.facts.services.length > 0) names.add(INPUT);
  return [...names].flatMap((place): Givable[] => {
    if (place.toLowerCase() === INPUT)
      return [{ place: INPUT, width: inputKindOf(machine) === 'numbers' ? machine.wordWidth : 7, queue: true }];
    const found = readPlace(machine, program, place);
    return 'refused' in found ? [] : [{ place, width: widthOf(machine, found), queue: false }];
  });
}

function entryFor(machine: Machine, { place, width, queue }: Givable, values: readonly number[], base: Base): Entry {
  const shown = (value: number): string => shownDigits(value, width, { radix: machine.radix, base });
  if (!queue) return { place, text: shown(values[0]!) };
  const numbers = inputKindOf(machine) === 'numbers';
  return { place, text: values.map((each) => (numbers ? shown(each) : `0d${each}`)).join(' ') };
}

type Draw = (size: number) => number;

/** The same numbers every time: what is found once is found again. */
function drawing(): Draw {
  let x = 0x2545_f491;
  return (size) => {
    x = (Math.imul(x, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((x / 2 ** 32) * size);
  };
}

/** For each place its values: of the queue several, of all else one. */
function* candidates(machine: Machine, program: Program, places: readonly Givable[]): Generator<readonly (readonly number[])[]> {
  const constants = [...new Set([...program.cells.map((each) => each.value)])];
  const telling = places.map(({ width }) => tellingValues(machine.radix, width, constants));
  const one = ({ queue }: Givable, value: number): number[] => (queue ? [value, 0] : [value]);
  // All alike, then two that belong together: equal, one apart, and the complement, which makes sums of nothing.
  for (const value of telling[0]!) {
    yield places.map((each, at) => one(each, value % power(machine.radix, places[at]!.width)));
    for (const by of [0, 1, -1])
      yield places.map((each, at) => {
        const size = power(machine.radix, each.width);
        return one(each, (((at % 2 === 0 ? value : size - value + by) % size) + size) % size);
      });
  }
  const draw = drawing();
  const sample = (at: number): number =>
    draw(3) === 0 ? draw(power(machine.radix, places[at]!.width)) : telling[at]![draw(telling[at]!.length)]!;
  // Each combination of telling values where there are few, else by chance.
  const [first, second] = telling;
  if (places.length === 2) for (const a of first!) for (const b of second!) yield [one(places[0]!, a), one(places[1]!, b)];
  for (let turn = 0; turn < 4 * MOST_TRIED; turn++)
    yield places.map((each, at) => {
      if (!each.queue) return [sample(at)];
      const count = draw(MOST_INPUTS + 1);
      return [...Array.from({ length: count }, () => sample(at)), ...(draw(2) === 0 ? [0] : [])];
    });
}

/** 0, 1, 2, the ends of the range, what the program holds and its neighbours. */
function tellingValues(radix: number, width: number, constants: readonly number[]): number[] {
  const size = power(radix, width);
  const half = Math.floor(size / 2);
  const small = [0, 1, 2, 3, 4, 5, 8, size - 1, size - 2, half, half - 1, half + 1];
  const near = constants.flatMap((each) => [each, each + 1, each - 1, half + each]);
  return [...new Set([...small, ...near])].filter((each) => each >= 0 && each < size).slice(0, MOST_VALUES);
}

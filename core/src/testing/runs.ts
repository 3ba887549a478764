/** Runs of small programs as tests begin and ask them. */
import type { Breakpoint, BreakOn } from '../engine/watch/breakpoints';
import { readWatched, type Watched } from '../engine/watch/conditions';
import { readPlace } from '../engine/watch/places';
import { explainEntry } from '../engine/meaning/entryProblems';
import { explainStop } from '../engine/tell/explainStop';
import { Runner, type Goal, type Stop } from '../engine/control/runner';
import { readScript } from '../engine/timeline/script';
import { machineFrom, programFrom } from './demo';
import { smallMachine, type Small } from './small';

/** From here to where it stops, if it does within 100,000 instructions. */
export function go(runner: Runner, goal?: Goal): Stop | undefined {
  runner.begin(goal);
  return runner.run(100_000);
}

export const told = (runner: Runner, stop: Stop | undefined): string => (stop ? explainStop(runner, stop) : 'still running');

export const register = ({ machine, state }: Runner, name: string): number =>
  state.registers[machine.registers.findIndex((each) => each.name === name)]!;

export function watched(runner: Runner, text: string): Watched {
  const read = readWatched(runner.machine, runner.program, text);
  if ('refused' in read) throw new Error(explainEntry(read.refused));
  return read;
}

export function placed(runner: Runner, text: string) {
  const place = readPlace(runner.machine, runner.program, text);
  if ('refused' in place) throw new Error(explainEntry(place.refused));
  return place;
}

export const breakOn = (on: BreakOn, more: Partial<Breakpoint> = {}): Breakpoint => ({ id: 1, on, enabled: true, ignore: 0, ...more });

export function small(shape: Small, source: string, script = ''): Runner {
  const machine = machineFrom(smallMachine(shape));
  const program = programFrom(machine, source);
  const read = readScript(machine, program, script);
  if (!read.script) throw new Error(read.problems.map((each) => each.sentence).join(' '));
  return new Runner(machine, program, read.script);
}

/** The same run, which ends where nothing outside could change it any more. */
export function closed(runner: Runner): Runner {
  runner.options = { ...runner.options, endless: 'stop' };
  return runner;
}

/** A link register, one to save it in, one that routines keep; every instruction but CALL, PUT and GO has one cell. */
export const LINKED: Small = {
  registers: 'L: {role: link}\nS: {role: general}\nK: {role: kept}',
  ticks: { BACK: 'PC <- L, return', KEEP: 'S <- L', REST: 'L <- S', TOUCH: 'K <- K + 1' },
  calls: true,
};

/** A keyboard, two switches and a timer, all of them polled. */
export const KEYS = `devices:
  keys: {kind: keyboard, data: 'M[0xF0]', status: 'M[0xF1]', ready: 7}
  lock: {kind: switches, data: 'M[0xF2]', status: 'M[0xF3]', ready: 0, lines: {open: 0, shut: 1}}
  clock: {kind: timer, data: 'M[0xF4]', status: 'M[0xF5]', ready: 0}`;

/** Instructions that ask them. */
export const POLL = {
  ASK: 'A <- M[0xF1]',
  LOCK: 'A <- M[0xF3]',
  VALUE: 'A <- M[0xF2]',
  TIME: 'A <- M[0xF5]',
  SET: 'M[0xF4] <- A',
  UNTIL: 'if A = 0: PC <- 0',
};

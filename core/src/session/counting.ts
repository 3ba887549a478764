/** What a run has been through, counted: a copy of it is run anew up to the present tick. Knows no page. */
import { Runner } from '../engine/control/runner';
import { instructionAt, lineAt, ownLine, addressText } from '../engine/tell/names';
import type { CountsTaken } from '../engine/watch/counts';
import { withDevices } from '../engine/timeline/script';
import { itemAt } from '../text/itemAt';
import { readRunFile, runFileOf } from '../trials/runFiles';
import type { CountedPart, CountedRun } from './protocol';
import type { Current, Run } from './run';
import type { Texts } from './texts';

/** Ticks between two looks at the clock. */
const PORTION = 200_000;
/** Runs up to so many ticks are counted at once. */
const SHORT = 20_000;

export class Counting {
  private readonly texts: Texts;
  private readonly run: Run;

  constructor(texts: Texts, run: Run) {
    this.texts = texts;
    this.run = run;
  }

  /** Whether the run is so short that it can be counted at every step. */
  isShort(): boolean {
    return (this.run.current?.runner.ticks ?? 0) <= SHORT;
  }

  /** From the start to now. Never answers where the counting of a long run was given up. */
  count(): Promise<CountedRun | { readonly refused: string }> {
    return this.done((runner) => shown(runner, runner.counts!));
  }

  /** How often each cell was executed, read and written, by memory; fetches count as reads. */
  heat(): Promise<Heat | { readonly refused: string }> {
    return this.done((runner) => heatOf(runner, runner.counts!));
  }

  private async done<T>(told: (runner: Runner) => T): Promise<T | { readonly refused: string }> {
    const { current } = this.run;
    if (!current) return { refused: 'Nothing is loaded yet.' };
    const counting = this.counted(current);
    const answer = (found: Runner | { readonly refused: string }): T | { readonly refused: string } =>
      'refused' in found ? found : told(found);
    if (this.isShort()) {
      for (;;) {
        const { done, value } = counting.next();
        if (done) return answer(value);
      }
    }
    return new Promise((resolve) => this.run.search(counting, (found) => resolve(answer(found))));
  }

  /** Yields how much is done, from 0 to 1. */
  private *counted({ runner, kept, devices, program }: Current): Generator<number, Runner | { readonly refused: string }> {
    const { machine, machineText, partTexts: parts } = this.texts;
    const { ticks } = runner;
    // The same way as a kept run: with all that it was given, and when.
    const file = JSON.stringify(runFileOf(runner, { machineText, kept, parts, devices, note: '' }));
    const read = readRunFile(file, machine!, machineText);
    if ('refused' in read) return { refused: 'This run cannot be run anew, so it cannot be counted.' };
    const copy = new Runner(withDevices(machine!, { devices: read.devices }), program, read.beginning);
    copy.count();
    copy.begin();
    while (copy.ticks < ticks) {
      const before = copy.ticks;
      const stop = copy.run(Math.min(PORTION, ticks - copy.ticks));
      if (copy.ticks === before && stop) break;
      yield copy.ticks / ticks;
    }
    return copy;
  }
}

/** By memory, then by address: executions, reads, writes. */
export type Heat = readonly ReadonlyMap<number, readonly [executions: number, reads: number, writes: number]>[];

function heatOf({ machine }: Runner, { executions, reads, writes }: CountsTaken): Heat {
  return machine.spaces.map((_, space) => {
    const executed = space === machine.programSpace ? executions : new Map<number, number>();
    const [read, written] = [itemAt(reads, space), itemAt(writes, space)];
    const addresses = new Set([...executed.keys(), ...read.keys(), ...written.keys()]);
    return new Map([...addresses].map((at) => [at, [executed.get(at) ?? 0, read.get(at) ?? 0, written.get(at) ?? 0] as const]));
  });
}

function shown(runner: Runner, counts: CountsTaken): CountedRun {
  const { machine, program, state } = runner;
  const total = (list: ReadonlyMap<number, number>): number => [...list.values()].reduce((sum, each) => sum + each, 0);
  const mnemonics = new Map<string, CountedPart>();
  for (const [form, count] of counts.forms) {
    const { mnemonic, family } = itemAt(machine.forms, form);
    const known = mnemonics.get(mnemonic);
    mnemonics.set(mnemonic, { name: mnemonic, family, count: (known?.count ?? 0) + count });
  }
  const lines = new Map<number, number>();
  for (const [address, count] of counts.executions) {
    const line = ownLine(program, address);
    if (line !== undefined) lines.set(line, Math.max(lines.get(line) ?? 0, count));
  }
  const at = (address: number) => ({
    address: addressText(machine, address),
    ...(lineAt(program, address) !== undefined && { where: lineAt(program, address)! }),
    ...(ownLine(program, address) !== undefined && { line: ownLine(program, address)! }),
    text: instructionAt(machine, program, state, address) ?? '',
  });
  return {
    ticks: runner.ticks,
    instructions: state.control.instructions,
    mix: [...mnemonics.values()].sort((a, b) => b.count - a.count),
    phases: machine.phases.map((name, phase) => ({ name, count: counts.phases[phase] ?? 0 })),
    memory: machine.spaces.map(({ name, title }, space) => ({
      name: machine.spaces.length > 1 ? name : title,
      reads: total(itemAt(counts.reads, space)),
      writes: total(itemAt(counts.writes, space)),
    })),
    lines: [...lines].sort(([a], [b]) => a - b),
    branches: [...counts.branches].sort(([a], [b]) => a - b).map(([address, each]) => ({ ...at(address), ...each })),
    deepest: counts.deepest,
  };
}

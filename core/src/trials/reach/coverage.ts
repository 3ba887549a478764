/**
 * What no set has tried: lines never reached, branches that went one way only, flags that an instruction never set or
 * never cleared, comparisons of unequal values only, devices that were always ready, cells that nobody looks at.
 */
import { indexOf, type Program } from '../../image/program';
import { canBranch, effectsOf } from '../../machine/model/effects';
import type { Form, Machine } from '../../machine/model/machine';
import { flatActions, partsOf, type Expr } from '../../notation/tree';
import { instructionsOf, type ProgramInstruction } from '../../assembler/assist/instructions';
import type { Runner } from '../../engine/control/runner';
import { CELL, FLAG } from '../../engine/meaning/writes';
import { deviceLatch } from '../../engine/meaning/state';
import { addressText, cellName, lineAt, ownLine } from '../../engine/tell/names';
import type { Aspect } from '../sets/expected';

/** Something that a set could be made for; `address` of the instruction that it is about. */
export type Target =
  | { readonly kind: 'reach'; readonly address: number }
  | { readonly kind: 'taken' | 'not taken' | 'equal'; readonly address: number }
  | { readonly kind: 'flag'; readonly address: number; readonly flag: number; readonly value: 0 | 1 };

/** One thing that was never tried, or a branch that went both ways. */
export interface Untried {
  readonly what: 'line' | 'trap' | 'branch' | 'flag' | 'comparison' | 'device' | 'cell';
  /** Of the instruction; empty for devices and cells. */
  readonly address: string;
  readonly line?: number;
  /** Where it stands, where that is no line of the program's own text. */
  readonly where?: string;
  readonly text: string;
  /** “never taken”, “C never 1, Z never 0”, “both ways”. */
  readonly note: string;
  readonly tried: boolean;
  /** What a set can be proposed for. */
  readonly targets: readonly Target[];
}

interface Ways {
  taken: number;
  notTaken: number;
}

/** Ticks of a set that are looked at. */
export const MOST_LOOKED = 500_000;

export class Coverage {
  private readonly instructions: readonly ProgramInstruction[];
  private readonly reached = new Set<number>();
  private readonly branches = new Map<number, Ways>();
  /** By address, then by flag: 1 where it was made 0, 2 where it was made 1, 3 both. */
  private readonly flags = new Map<number, Map<number, number>>();
  private readonly written = new Map<number, Set<number>>();
  private readonly devices: { busy: number; ready: number }[];
  private readonly comparisons = new Set<number>();
  private readonly equal = new Set<number>();
  private readonly zero: number;
  private readonly forms = new Map<string, number>();

  constructor(
    private readonly machine: Machine,
    private readonly program: Program,
  ) {
    this.instructions = instructionsOf(machine, program);
    this.devices = machine.devices.map(() => ({ busy: 0, ready: 0 }));
    this.zero = machine.flags.findIndex((each) => each.rule === 'zero');
    if (this.zero >= 0) for (const { address, form } of this.instructions) if (compares(form)) this.comparisons.add(address);
  }

  /** Goes through a run from its start to its end, tick by tick; false where that is cut off, after `MOST_LOOKED` ticks. */
  add(runner: Runner, mostTicks: number): boolean {
    const { executor } = runner.timeline;
    const { state } = runner;
    runner.options = { ...runner.options, closely: Infinity };
    let instructions = 0;
    runner.afterTick = () => {
      const { control } = state;
      const { here } = control;
      const { writes } = executor;
      for (let at = 0; at < writes.count; at++) {
        const { kind, index, place, value } = writes.at(at);
        if (kind === FLAG) this.flagSet(here, index, value);
        else if (kind === CELL) this.cellWritten(index, place);
      }
      if (control.instructions === instructions) return;
      instructions = control.instructions;
      this.reached.add(here);
      const mnemonic = control.form?.mnemonic;
      if (mnemonic !== undefined) this.forms.set(mnemonic, (this.forms.get(mnemonic) ?? 0) + 1);
      if (control.form && canBranch(this.machine, control.form)) this.branched(here, control.jumped);
    };
    runner.begin();
    const stop = runner.run(Math.min(mostTicks, MOST_LOOKED));
    this.devices.forEach((sums, device) => {
      sums.busy += state.latches[deviceLatch(this.machine, device, 'busyPolls')]!;
      sums.ready += state.latches[deviceLatch(this.machine, device, 'readyPolls')]!;
    });
    return stop !== undefined || mostTicks <= MOST_LOOKED;
  }

  private flagSet(here: number, flag: number, value: number): void {
    const flags = this.flags.get(here) ?? new Map<number, number>();
    this.flags.set(here, flags);
    flags.set(flag, (flags.get(flag) ?? 0) | (value ? 2 : 1));
    if (flag === this.zero && value === 1 && this.comparisons.has(here)) this.equal.add(here);
  }

  private cellWritten(space: number, address: number): void {
    const cells = this.written.get(space) ?? new Set<number>();
    this.written.set(space, cells);
    cells.add(address);
  }

  private branched(here: number, jumped: boolean): void {
    const ways = this.branches.get(here) ?? { taken: 0, notTaken: 0 };
    this.branches.set(here, ways);
    if (jumped) ways.taken++;
    else ways.notTaken++;
  }

  /** Whether something has been tried. */
  has(target: Target): boolean {
    const { address } = target;
    switch (target.kind) {
      case 'reach':
        return this.reached.has(address);
      case 'taken':
        return (this.branches.get(address)?.taken ?? 0) > 0;
      case 'not taken':
        return (this.branches.get(address)?.notTaken ?? 0) > 0;
      case 'equal':
        return this.equal.has(address);
      case 'flag':
        return ((this.flags.get(address)?.get(target.flag) ?? 0) & (target.value ? 2 : 1)) !== 0;
      default:
        return target satisfies never;
    }
  }

  /** How often each instruction was executed, most often first. */
  mix(): { name: string; count: number }[] {
    return [...this.forms].map(([name, count]) => ({ name, count })).sort((a, b) => b.count - a.count);
  }

  /** Everything that no run has tried, and the branches that were, in the order of the program. `looked`: what sets expect something of. */
  untried(looked: readonly Aspect[]): Untried[] {
    const found = this.instructions.flatMap((each) => this.ofInstruction(each));
    return [...found, ...this.ofDevices(), ...this.ofCells(looked)];
  }

  private ofInstruction({ address, text, form }: ProgramInstruction): Untried[] {
    const { machine, program } = this;
    const line = ownLine(program, address);
    const where = line === undefined ? lineAt(program, address) : undefined;
    const about = {
      address: addressText(machine, address),
      text,
      ...(line !== undefined && { line }),
      ...(where !== undefined && { where }),
    };
    if (!this.reached.has(address)) {
      const { services, enters } = effectsOf(machine, form);
      const traps = services.length > 0 || enters.length > 0;
      const note = traps ? 'never asked for' : 'never reached';
      return [{ ...about, what: traps ? 'trap' : 'line', note, tried: false, targets: [{ kind: 'reach', address }] }];
    }
    const list: Untried[] = [];
    const ways = this.branches.get(address);
    if (ways) {
      const note = ways.taken === 0 ? 'never taken' : ways.notTaken === 0 ? 'always taken' : 'both ways';
      const targets: Target[] =
        ways.taken === 0 ? [{ kind: 'taken', address }] : ways.notTaken === 0 ? [{ kind: 'not taken', address }] : [];
      list.push({ ...about, what: 'branch', note, tried: targets.length === 0, targets });
    }
    if (this.comparisons.has(address) && !this.equal.has(address))
      list.push({ ...about, what: 'comparison', note: 'never of equal values', tried: false, targets: [{ kind: 'equal', address }] });
    const missing = [...(this.flags.get(address) ?? [])].flatMap(([flag, mask]): (Target & { kind: 'flag' })[] =>
      mask === 3 ? [] : [{ kind: 'flag', address, flag, value: mask === 1 ? 1 : 0 }],
    );
    if (missing.length > 0 && !constantFlags(this.machine, form)) {
      const note = missing.map(({ flag, value }) => `${machine.flags[flag]!.name} never ${value}`).join(', ');
      list.push({ ...about, what: 'flag', note, tried: false, targets: missing });
    }
    return list;
  }

  private ofDevices(): Untried[] {
    return this.machine.devices.flatMap(({ name }, device): Untried[] => {
      const { busy, ready } = this.devices[device]!;
      if (ready === 0 || busy > 0) return [];
      return [{ what: 'device', address: '', text: name, note: 'always ready when asked', tried: false, targets: [] }];
    });
  }

  /** Cells with a name that were written, and that no set expects anything of. */
  private ofCells(looked: readonly Aspect[]): Untried[] {
    const { machine, program } = this;
    const places = looked.flatMap((each) => (each.kind === 'place' ? [each.place] : each.kind === 'joined' ? [each.high, each.low] : []));
    const seen = new Set(places.map((each) => (each.kind === 'cell' ? `${each.space} ${each.address}` : '')));
    return [...this.written].flatMap(([space, cells]) =>
      [...cells]
        .sort((a, b) => a - b)
        .filter((address) => !seen.has(`${space} ${address}`))
        .filter((address) => indexOf(program).labelIn(space === machine.programSpace ? undefined : space, address) !== undefined)
        .map((address): Untried => {
          const note = 'written, and no set expects anything of it';
          return { what: 'cell', address: '', text: cellName(machine, program, space, address), note, tried: false, targets: [] };
        }),
    );
  }
}

/** It compares two values, and moves nothing. */
const compares = ({ schedule }: Form): boolean =>
  schedule.some(({ tick, part }) =>
    part === 'first' ? false : flatActions(tick.actions).some((each) => each.kind === 'compare' && each.flagged.operation.operator === '-'),
  );

/** Its flags come of nothing but what is written in the instruction, so they can never be others. */
function constantFlags(machine: Machine, form: Form): boolean {
  const { reads } = effectsOf(machine, form);
  if (reads.length > 0) return false;
  return !form.schedule.some(
    ({ part, tick }) => part === 'execute' && flatActions(tick.actions).some((each) => each.kind === 'transfer' && looksUp(each.value)),
  );
}

/** It reads a cell, a port or what is there only while it runs. */
const looksUp = (expr: Expr): boolean => expr.kind === 'cell' || expr.kind === 'port' || partsOf(expr).some(looksUp);

/** Where two runs part: two sets on one program, or two programs on one set. Instruction by instruction, side by side. */
import type { Program } from '../../image/program';
import { canBranch } from '../../machine/model/effects';
import type { Machine, Role } from '../../machine/model/machine';
import { flagValues } from '../../engine/meaning/composites';
import { Runner, type Stop } from '../../engine/control/runner';
import { addressText, instructionAt, lineAt } from '../../engine/tell/names';
import { explainStop } from '../../engine/tell/explainStop';
import { shownDigits } from '../../text/number';
import { narrateInstruction } from '../../engine/tell/narrateInstruction';
import { plain } from '../../engine/tell/telling';
import { withDevices, type Script } from '../../engine/timeline/script';
import type { TickReport } from '../../engine/meaning/report';

export interface Side {
  readonly program: Program;
  readonly script: Script;
}

/** One side at the instruction where the runs part, and what it does next. */
export interface SideAt {
  /** Ticks done before it: where the bench goes to. */
  readonly tick: number;
  readonly address: string;
  readonly line?: number;
  readonly where?: string;
  readonly text: string;
  /** What the instruction did, in words; how the run ended where it did none. */
  readonly did: string;
  /** Registers and flags before it. */
  readonly before: readonly { readonly name: string; readonly value: string }[];
  readonly after: readonly SideStep[];
}

export interface SideStep {
  readonly address: string;
  readonly text: string;
  readonly did: string;
}

export interface Parting {
  /** Instructions that are the same on both sides before. */
  readonly same: number;
  readonly parts: boolean;
  /** What parts them, in a sentence. */
  readonly sentence: string;
  readonly left: SideAt;
  readonly right: SideAt;
  /** Of two programs that go the same way: the first instruction with another outcome in registers or flags. */
  readonly values?: { readonly at: number; readonly left: SideAt; readonly right: SideAt; readonly differ: readonly Differing[] };
}

/** A register or a flag that is another one on the two sides. */
export interface Differing {
  readonly kind: 'register' | 'flag';
  readonly name: string;
}

/** Instructions that are compared at most. */
const MOST_COMPARED = 50_000;
/** Instructions that are told behind the place. */
const TOLD = 3;

interface Step {
  readonly here: number;
  readonly form: number | undefined;
  readonly tick: number;
  readonly stop: Stop | undefined;
}

class Walk {
  readonly runner: Runner;

  constructor(
    readonly machine: Machine,
    { program, script }: Side,
  ) {
    this.runner = new Runner(withDevices(machine, script), program, script);
  }

  /** One instruction; where it went on to is where PC stands then. */
  step(): Step {
    const { runner } = this;
    const tick = runner.ticks;
    const stop = runner.instruction();
    const { here, form } = runner.state.control;
    return { here, form: form?.index, tick, stop: runner.ticks === tick || stop?.kind !== 'halted' ? stop : undefined };
  }

  get counter(): number {
    return this.runner.state.registers[this.machine.programCounter]!;
  }

  /** The instruction that begins at a tick, told. */
  at(tick: number): SideAt {
    const { runner, machine } = this;
    runner.timeline.travel(tick);
    const before = [
      ...machine.registers.map(({ name, width }, at) => ({ name, value: shownDigits(runner.state.registers[at]!, width, machine) })),
      ...flagValues(machine, runner.state).map((value, at) => ({ name: machine.flags[at]!.name, value: String(value) })),
    ];
    const address = this.counter;
    const line = lineAt(runner.program, address);
    const own = line && /^line (\d+)$/.exec(line)?.[1];
    const [first, ...after] = this.told(TOLD + 1);
    return {
      ...{ tick, address: addressText(machine, address), text: first?.text ?? '', did: first?.did ?? '', before, after },
      ...(own !== undefined ? { line: Number(own) } : line !== undefined && { where: line }),
    };
  }

  private told(count: number): SideStep[] {
    const { runner, machine } = this;
    const steps: SideStep[] = [];
    while (steps.length < count) {
      const address = this.counter;
      const text = instructionAt(machine, runner.program, runner.state, address) ?? '';
      const reports: TickReport[] = [];
      let stop: Stop | undefined;
      do {
        const before = runner.ticks;
        stop = runner.tick();
        const { last } = runner.timeline;
        if (runner.ticks > before && last) reports.push(last);
      } while (!stop && runner.state.control.step !== 0);
      const ended = stop && reports.length === 0 ? explainStop(runner, stop) : undefined;
      const did =
        ended ?? plain(narrateInstruction({ machine: runner.machine, program: runner.program, state: runner.state }, reports) ?? []);
      steps.push({
        address: addressText(machine, address),
        text,
        did: stop && !ended && stop.kind !== 'halted' ? explainStop(runner, stop) : did,
      });
      if (stop) break;
    }
    return steps;
  }
}

/**
 * The first instruction after which the two go different ways. Sides with one program are compared by address; others by
 * what is executed, so that a shifted program is no difference. Yields how much was compared, from 0 to 1.
 */
export function* parting(machine: Machine, left: Side, right: Side, most = MOST_COMPARED): Generator<number, Parting> {
  const [a, b] = [new Walk(machine, left), new Walk(machine, right)];
  const alike = left.program === right.program;
  let same = 0;
  let values: Values | undefined;
  let branch: { readonly ticks: readonly [number, number]; readonly otherwise: boolean } | undefined;
  for (;;) {
    const [x, y] = [a.step(), b.step()];
    const differs = alike ? x.here !== y.here || a.counter !== b.counter : x.form !== y.form;
    const ends = (x.stop?.kind ?? '') !== (y.stop?.kind ?? '');
    const halts = a.runner.state.control.halted !== b.runner.state.control.halted;
    if (differs || ends || halts || x.stop || y.stop || a.runner.state.control.halted || same >= most) {
      const parts = differs || ends || halts;
      // Another instruction than the other's stands here because the one before went elsewhere.
      const before = parts && branch ? told(a, b, { same: same - 1, parts, cut: false, ticks: branch.ticks, values }) : undefined;
      if (before && (branch!.otherwise || before.left.text !== before.right.text)) return before;
      if (!alike && !parts) values ??= otherValues(a, b, same, [x.tick, y.tick]);
      return told(a, b, { same, parts, cut: same >= most, ticks: [x.tick, y.tick], values });
    }
    if (!alike) values ??= otherValues(a, b, same, [x.tick, y.tick]);
    branch = alike ? undefined : branching(a, x, b, y);
    same++;
    if (same % 500 === 0) yield Math.min(0.99, same / most);
  }
}

/** Both have just come from a branch: whether one of them jumped and the other did not. */
function branching(a: Walk, x: Step, b: Walk, y: Step): { ticks: readonly [number, number]; otherwise: boolean } | undefined {
  const form = x.form === undefined ? undefined : a.machine.forms[x.form];
  if (!form || !canBranch(a.machine, form)) return undefined;
  const jumped = (walk: Walk, { here }: Step): boolean => walk.counter !== here + form.format.cells;
  return { ticks: [x.tick, y.tick], otherwise: jumped(a, x) !== jumped(b, y) };
}

interface Values {
  /** Instructions before it. */
  readonly at: number;
  readonly ticks: readonly [number, number];
  readonly differ: readonly Differing[];
}

/** Registers that say where a run is, not what it has found. */
const WHERE: ReadonlySet<Role | undefined> = new Set<Role | undefined>(['program counter', 'instruction', 'memory address', 'memory data']);

/** What an instruction that both have done came to otherwise; undefined where all is the same. */
function otherValues(a: Walk, b: Walk, at: number, ticks: readonly [number, number]): Values | undefined {
  const { machine } = a;
  const [x, y] = [a.runner.state, b.runner.state];
  const [flags, others] = [flagValues(machine, x), flagValues(machine, y)];
  const differ: Differing[] = [
    ...machine.registers.flatMap(({ name, role }, index): Differing[] =>
      !WHERE.has(role) && x.registers[index] !== y.registers[index] ? [{ kind: 'register', name }] : [],
    ),
    ...machine.flags.flatMap(({ name }, index): Differing[] => (flags[index] === others[index] ? [] : [{ kind: 'flag', name }])),
  ];
  return differ.length > 0 ? { at, ticks, differ } : undefined;
}

interface Found {
  readonly same: number;
  readonly parts: boolean;
  /** No more is compared. */
  readonly cut: boolean;
  readonly ticks: readonly [number, number];
  readonly values: Values | undefined;
}

function told(a: Walk, b: Walk, { same, parts, cut, ticks, values }: Found): Parting {
  const [left, right] = [a.at(ticks[0]), b.at(ticks[1])];
  const count = `${same.toLocaleString('en-US')} instruction${same === 1 ? '' : 's'}`;
  const sentence = !parts
    ? cut
      ? `The same for ${count}; more are not compared.`
      : 'The same instructions to the end; only values differ.'
    : left.text === right.text && left.address === right.address
      ? `The same for ${count}; then ${left.text} goes different ways.`
      : `The same for ${count}; then ${left.text || 'one ends'} here and ${right.text || 'one ends'} there.`;
  const sides = values && !parts && { at: values.at, left: a.at(values.ticks[0]), right: b.at(values.ticks[1]), differ: values.differ };
  return { same, parts, sentence, left, right, ...(sides && { values: sides }) };
}

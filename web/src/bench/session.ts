/**
 * One bench's engine, as the worker holds it: a machine, a program, a run. Turns commands into ticks and ticks into
 * views. Knows no worker and no page; clock and scheduling are handed in.
 */
import { assembleOne } from '@zettak/core/assembler/byHand';
import { narrate, type Segment, type Telling } from '@zettak/core/engine/narrate';
import { compositeValue, flagValues } from '@zettak/core/engine/composites';
import { addressText, instructionAt, lengthAt } from '@zettak/core/engine/names';
import { Runner, type Stop } from '@zettak/core/engine/runner';
import { readEntries } from '@zettak/core/engine/services';
import { BY_HAND, deviceLatch, LOADED, NEVER, type State } from '@zettak/core/engine/state';
import { explainStop } from '@zettak/core/engine/stops';
import { explainFlag } from '@zettak/core/engine/why';
import { indexOf, type Program } from '@zettak/core/image/program';
import { power, readNumber } from '@zettak/core/text/number';
import { handView } from './handView';
import { decodedLines, interesting, phaseTicks, SHOWING, upcoming, wakeEntries, wanted } from './viewParts';
import { Workshop } from './workshop';
import type { Command, Entry, HandView, Loaded, MachineCheck, Speed, StatusKind, View, Where } from './protocol';

export interface Scheduler {
  /** Milliseconds from any fixed moment. */
  now(): number;
  /** Calls `act` once after `delay` ms, letting messages in before; returns its undoing. */
  later(delay: number, act: () => void): () => void;
}

/** A fast run works this long, in ms, before it looks up. */
const SLICE = 8;
const FRAME = 33;

export class Session extends Workshop {
  private program: Program | undefined;
  private runner: Runner | undefined;
  private stop: Stop | undefined;
  private running = false;
  private resumes = false;
  private cancel: (() => void) | undefined;
  private speed: Speed = 4;
  private flag: number | undefined;
  private breakLines: readonly number[] = [];
  private published = 0;
  /** Addresses where the loaded program is unfinished. */
  private gaps: readonly number[] = [];
  /** Cells entered by hand, by space and address: entered again at every load until they are put back. */
  private readonly hand = new Map<string, { readonly space: number; readonly address: number; readonly value: number }>();
  private listener: (view: View) => void = () => {};

  constructor(private readonly scheduler: Scheduler) {
    super();
  }

  /** Told once per change; one listener at a time. */
  subscribe(listener: (view: View) => void): void {
    this.listener = listener;
    if (this.runner) this.publish(false);
  }

  /** Changes the machine; the program has to be loaded again. */
  useMachine(text: string): MachineCheck {
    const check = this.checkMachine(text);
    if (check.machine) {
      this.halt();
      this.machine = check.machine;
      this.runner = undefined;
      this.program = undefined;
      this.stop = undefined;
      this.flag = undefined;
      this.hand.clear();
    }
    return check;
  }

  /**
   * Assembles and loads; with errors it loads nothing, or with `unfinished` the part that is finished, which stops
   * where something is missing. Cells outside the image stay unless `clear`; cells entered by hand are entered again.
   */
  load(source: string, { clear, inputs, unfinished = false }: { clear: boolean; inputs: readonly number[]; unfinished?: boolean }): Loaded {
    const { rows, problems, program: whole, partial, base } = this.assembled(source);
    const program = whole ?? (unfinished ? partial?.program : undefined);
    const shared = { rows, problems, base };
    if (!this.machine || !program) return { ...shared, loaded: false, partial: partial !== undefined };
    this.halt();
    const before = this.runner?.state;
    const keep = clear ? undefined : before;
    this.program = program;
    this.gaps = whole ? [] : (partial?.stops ?? []);
    if (clear) this.hand.clear();
    this.runner = new Runner(this.machine, program, { ...(keep && { keep }), inputs });
    for (const cell of this.hand.values()) this.runner.edit({ kind: 'cell', ...cell, mark: BY_HAND });
    this.keepSwitches(before);
    this.stop = undefined;
    this.setBreakpoints(this.breakLines);
    this.publish(false);
    const { facts, symbols, routines, declared } = program;
    return { ...shared, facts, symbols, routines, declared, loaded: true, partial: false };
  }

  /** Source lines to pause before; lines without an instruction are passed over. */
  setBreakpoints(lines: readonly number[]): void {
    this.breakLines = lines;
    if (!this.runner || !this.program) return;
    const wanted = new Set(lines);
    const rows = this.program.rows.filter((each) => each.kind === 'code' && wanted.has(each.line));
    this.runner.breakpoints = new Set([...rows.map((each) => each.address!), ...this.gaps]);
  }

  setSpeed(speed: Speed): void {
    this.speed = speed;
    if (this.running) this.schedule();
  }

  selectFlag(flag: number): void {
    this.flag = flag;
    if (this.runner && !this.running) this.publish(false);
  }

  command(command: Command): void {
    const { runner } = this;
    if (!runner) return;
    if (command === 'pause') return this.pause();
    if (command === 'run') return this.run();
    this.halt();
    this.resumes = false;
    runner.recall();
    const before = runner.ticks;
    this.stop = undefined;
    switch (command) {
      case 'tick':
        this.stop = runner.tick();
        break;
      case 'instruction':
        this.stop = runner.instruction();
        break;
      case 'back':
        runner.back();
        break;
      case 'instructionBack':
        runner.instructionBack();
        break;
      case 'start':
        runner.toStart();
        break;
      default:
        command satisfies never;
    }
    this.publish(command === 'tick' && runner.ticks === before + 1);
  }

  travel(tick: number): void {
    if (!this.runner) return;
    this.halt();
    this.resumes = false;
    this.stop = undefined;
    this.runner.travel(tick);
    this.runner.recall();
    this.publish(false);
  }

  /** Queues a number as typed, or says why it is refused. A run that waits for it goes on. */
  queueInput(text: string): Entry {
    const entry = this.readInput(text);
    if ('values' in entry) {
      entry.values.forEach((each) => this.runner?.queueInput(each));
      if (this.stop?.kind === 'waiting') this.stop = undefined;
      if (this.resumes) this.run();
      else this.publish(false);
    }
    return entry;
  }

  /** How a number would be read. */
  readInput(text: string): Entry {
    return this.machine ? readEntries(text, this.machine, readNumber) : { refused: 'There is no machine yet.' };
  }

  /** Sets the lines of switches by hand, from the present tick on. */
  setSwitches(name: string, value: number): void {
    const { runner, machine } = this;
    const device = machine?.devices.findIndex((each) => each.name === name && each.kind === 'switches') ?? -1;
    if (!runner || !machine || device === -1) return;
    const latch = deviceLatch(machine, device, 'value');
    runner.edit({ kind: 'latch', latch, value: value % power(machine.radix, machine.devices[device]!.width) });
    this.publish(false);
  }

  /** Switches stay as a hand has set them. */
  private keepSwitches(before: State | undefined): void {
    const { machine, runner } = this;
    if (!before || !machine || !runner) return;
    machine.devices.forEach(({ kind }, device) => {
      const latch = deviceLatch(machine, device, 'value');
      if (kind === 'switches') runner.edit({ kind: 'latch', latch, value: before.latches[latch]! });
    });
  }

  /** Enters a value into a cell by hand, as a recorded change of the run. */
  setCell(space: number, address: number, value: number): void {
    const { runner, machine } = this;
    const memory = machine?.spaces[space];
    if (!runner || !memory || address < 0 || address >= memory.cells * memory.banks || value >= power(machine.radix, memory.width)) return;
    this.hand.set(`${space} ${address}`, { space, address, value });
    runner.edit({ kind: 'cell', space, address, value, mark: BY_HAND });
    this.publish(false);
  }

  /** Puts every cell that was entered by hand back to what the program has there. */
  putBack(): void {
    const { runner, machine, program } = this;
    if (!runner || !machine || !program) return;
    const image = [...(program.system?.cells ?? []), ...program.cells];
    for (const { space, address } of this.hand.values()) {
      const loaded = image.findLast((each) => each.space === space && each.address === address);
      const put = loaded ? { value: loaded.value, mark: LOADED } : { value: machine.spaces[space]!.fill, mark: NEVER };
      runner.edit({ kind: 'cell', space, address, ...put });
    }
    this.hand.clear();
    this.publish(false);
  }

  /** Cells from an address on, each with what it means, and how far they agree with a text that assembles. */
  handRows(source: string, from: number, count: number): HandView {
    const { runner, machine } = this;
    if (!runner || !machine) return { rows: [], cells: 0, agree: 0, differ: [] };
    return handView({ machine, state: runner.state, program: this.assembled(source).program, from, count });
  }

  /**
   * One instruction, done at once where PC points, as a recorded change of the run: its cells lie there for that long
   * only, and unless it jumps PC comes back, so that the program goes on as if it had not been.
   */
  applyOne(text: string): { readonly done: string } | { readonly refused: string; readonly column: number } {
    const { runner, machine, program } = this;
    if (!runner || !machine) return { refused: 'Nothing is loaded yet.', column: 1 };
    this.halt();
    runner.recall();
    const { state } = runner;
    if (state.control.step !== 0) return { refused: 'Finish the instruction under way first (→).', column: 1 };
    if (state.control.halted) return { refused: 'The machine has halted. Go back or start over first.', column: 1 };
    const { programSpace: space, programCounter } = machine;
    const address = state.registers[programCounter]!;
    const made = assembleOne(machine, text, { address, program });
    if ('problem' in made) return { refused: made.problem.sentence, column: made.problem.column };
    const before = made.cells.map((_, at) => ({ value: state.spaces[space]![address + at]!, mark: state.marks[space]![address + at]! }));
    made.cells.forEach((value, at) => runner.edit({ kind: 'cell', space, address: address + at, value, mark: BY_HAND }));
    this.stop = runner.instruction();
    before.forEach((each, at) => runner.edit({ kind: 'cell', space, address: address + at, ...each }));
    const { step, jumped, halted } = state.control;
    if (step === 0 && !jumped && !halted) runner.edit({ kind: 'register', register: programCounter, value: address });
    this.publish(false);
    return {
      done: `${text.trim()}, ${made.cells.length} ${made.cells.length === 1 ? 'cell' : 'cells'}, at ${addressText(machine, address)}`,
    };
  }

  removeInput(index: number): void {
    if (this.runner?.removeInput(index)) this.publish(false);
  }

  private run(): void {
    if (!this.runner || this.running || this.runner.state.control.halted) return;
    this.running = true;
    this.resumes = true;
    this.stop = undefined;
    this.first = true;
    this.schedule();
    if (this.running) this.publish(false);
  }

  private first = false;

  private pause(): void {
    this.resumes = false;
    if (!this.running) return;
    this.halt();
    this.runner!.recall();
    this.publish(false);
  }

  private halt(): void {
    this.cancel?.();
    this.cancel = undefined;
    this.running = false;
  }

  private schedule(): void {
    this.cancel?.();
    const slow = this.speed !== 'full';
    const delay = slow ? 1000 / (this.speed as number) : 0;
    this.cancel = this.scheduler.later(delay, () => (slow ? this.slowTick() : this.fastSlice()));
  }

  private slowTick(): void {
    const runner = this.runner!;
    const address = runner.state.registers[this.machine!.programCounter]!;
    if (runner.state.control.step === 0 && !this.first && runner.breakpoints.has(address)) return this.end({ kind: 'breakpoint', address });
    this.first = false;
    runner.recall();
    const before = runner.ticks;
    const stop = runner.tick();
    const moved = runner.ticks === before + 1;
    if (stop) return this.end(stop, moved);
    this.publish(moved);
    this.schedule();
  }

  private fastSlice(): void {
    const runner = this.runner!;
    const until = this.scheduler.now() + SLICE;
    let stop: Stop | undefined;
    do {
      stop = runner.run(2000, { first: this.first });
      this.first = false;
    } while (!stop && this.scheduler.now() < until);
    if (stop) return this.end(stop);
    if (this.scheduler.now() - this.published >= FRAME) this.publish(false);
    this.schedule();
  }

  private end(stop: Stop, moved = false): void {
    this.halt();
    this.stop = stop;
    if (stop.kind !== 'waiting') this.resumes = false;
    this.runner!.recall();
    this.publish(moved);
  }

  private publish(moved: boolean): void {
    this.published = this.scheduler.now();
    this.listener(this.view(moved));
  }

  private view(moved: boolean): View {
    const runner = this.runner!;
    const { machine, program, state } = runner;
    const { control } = state;
    const telling: Telling = { machine, program, state };
    const fast = this.running && this.speed === 'full';
    const preview = fast ? undefined : runner.preview();
    const last = runner.last;
    const flag = fast ? undefined : (this.flag ?? interesting(last?.flags ?? []));
    const reason = flag !== undefined && flag < machine.flags.length ? explainFlag(telling, flag, runner.whyFlag(flag)) : undefined;
    const { status, sentence } = this.describe(telling);
    const executing = control.here < 0 ? undefined : this.where(control.here);
    const waiting = this.stop?.kind === 'waiting' ? wanted(machine, this.stop.report) : undefined;
    return {
      status,
      sentence,
      ticks: control.ticks,
      instructions: control.instructions,
      furthest: runner.furthest,
      registers: [...state.registers],
      flags: flagValues(machine, state, runner.inputs),
      spaces: state.spaces.map((each, at) => ({ cells: each.slice(), marks: state.marks[at]!.slice() })),
      composites: machine.composites.map((each) => compositeValue(machine, state, each)),
      devices: machine.devices.flatMap(({ name, title, kind, width, lines }, device) =>
        SHOWING.has(kind)
          ? [{ name, title, kind, width, lines: [...lines], value: state.latches[deviceLatch(machine, device, 'value')]! }]
          : [],
      ),
      ...(executing && { executing }),
      next: this.where(state.registers[machine.programCounter]!),
      ...(last && { last }),
      lastSentence: this.lastSentence(telling),
      ...(preview && { coming: preview.report }),
      comingSentence: preview ? narrate(telling, preview.report, 'coming') : [],
      phases: phaseTicks(machine, runner),
      decoded: decodedLines(machine, runner),
      ...(reason && { why: { flag: flag!, reason } }),
      wake: fast ? [] : wakeEntries(telling, runner),
      upcoming: fast ? [] : upcoming(telling, runner),
      output: control.output,
      inputs: [...runner.inputs],
      inputsUsed: control.inputs,
      ...(waiting && { waiting }),
      moved,
      loaded: program.source,
    };
  }

  private lastSentence(telling: Telling): Segment[] {
    const { last } = this.runner!;
    if (this.stop?.kind === 'fault') return narrate(telling, this.stop.report, 'done');
    if (last) return narrate(telling, last, 'done');
    return [{ kind: 'text', text: 'The program is loaded. Nothing has moved yet.' }];
  }

  private describe(telling: Telling): { status: StatusKind; sentence: string } {
    const { control } = telling.state;
    if (this.running) return { status: 'running', sentence: `Running, tick ${control.ticks.toLocaleString('en-US')}` };
    if (this.stop) return { status: this.stop.kind, sentence: explainStop(telling, this.stop) };
    if (control.halted) return { status: 'halted', sentence: explainStop(telling, { kind: 'halted' }) };
    const { last } = this.runner!;
    if (!last) return { status: 'ready', sentence: 'Ready to run' };
    const form = last.form === undefined ? undefined : telling.machine.forms[last.form];
    const of = last.total === undefined ? '' : ` of ${last.total}`;
    return { status: 'paused', sentence: `Paused after tick ${last.step}${of}${form ? `, ${form.mnemonic}` : ''}` };
  }

  private where(address: number): Where {
    const { machine, program, state } = this.runner!;
    const text = instructionAt(machine, program, state, address);
    const row = indexOf(program).rowAt.get(address);
    const line = row?.system ? undefined : row?.line;
    return { address, length: lengthAt(machine, state, address), ...(text && { text }), ...(line && { line }) };
  }
}

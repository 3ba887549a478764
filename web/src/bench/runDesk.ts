/**
 * The run on the bench: loads programs, goes forward and back, until something stops it. Turns commands into ticks and
 * ticks into views. Knows no worker and no page; clock and scheduling are handed in.
 */
import { readWatched } from '@zettak/core/engine/watch/conditions';
import { Runner, type Goal, type Stop } from '@zettak/core/engine/control/runner';
import { depthOf } from '@zettak/core/engine/meaning/callStack';
import type { Beginning } from '@zettak/core/engine/timeline/history';
import { readScript, withDevices, withInputs, type Script, type ScriptProblem } from '@zettak/core/engine/timeline/script';
import { BY_HAND, deviceLatch, unloaded, type State } from '@zettak/core/engine/meaning/state';
import type { Program } from '@zettak/core/image/program';
import { breaksOf } from './breaksOf';
import { textOfError } from './guard';
import { viewOf } from './viewOf';
import { Workshop } from './workshop';
import type { BreakSpec, BreakState, Command, Loaded, MachineCheck, Speed, StartingOver, StartOffer, View } from './protocol';

export interface Scheduler {
  /** Milliseconds from any fixed moment. */
  now(): number;
  /** Calls `act` once after `delay` ms, letting messages in before; returns its undoing. */
  later(delay: number, act: () => void): () => void;
}

/** A fast run works this long, in ms, before it looks up. */
const SLICE = 8;
const FRAME = 33;
const [SMALLEST, LARGEST] = [2000, 4_000_000];
/** A run that only goes in circles looks this seldom. */
const IDLE = 30;
/** Ids of breakpoints that the bench sets itself, where a program is unfinished. */
const GAP = -1;

/** The longest queue of inputs that the bench holds. */
export const MOST_QUEUED = 20_000;
export const TOO_MANY = `The bench takes at most ${MOST_QUEUED.toLocaleString('en-US')} inputs; the command line takes more.`;

/** Inputs that a run is given, first to last. */
export const givenBy = ({ inputs = [], edits = [] }: Beginning): number =>
  Math.max(inputs.length, ...edits.map((each) => (each.kind === 'inputs' ? each.queue.length : 0)));

interface Loading {
  readonly clear: boolean;
  readonly inputs: readonly number[];
  readonly unfinished?: boolean;
}

export class RunDesk extends Workshop {
  protected program: Program | undefined;
  protected runner: Runner | undefined;
  protected stop: Stop | undefined;
  protected machineText = '';
  /** Devices that stand in for others in the run on the bench. */
  protected devices: Script['devices'] = [];
  /** Cells entered by hand, by space and address: entered again at every load until they are put back. */
  protected readonly hand = new Map<string, { readonly space: number; readonly address: number; readonly value: number }>();
  /** The cells as they were before the program was loaded. */
  protected keptState: State | undefined;
  private running = false;
  private resumes = false;
  private cancel: (() => void) | undefined;
  private speed: Speed = 4;
  private flag: number | undefined;
  private specs: readonly BreakSpec[] = [];
  private refused: readonly BreakState[] = [];
  private published = 0;
  /** Ticks that are done before the clock is looked at. */
  private portion = SMALLEST;
  private goal: Goal | undefined;
  /** A step over or out that something stopped. */
  private unfinished: Goal | undefined;
  private since = { ticks: 0, instructions: 0 };
  /** Addresses where the loaded program is unfinished. */
  private gaps: readonly number[] = [];
  private scriptText = '';
  /** Ticks that a run may take before it stops by itself, and what is left of them. */
  private budget: number | undefined;
  private left = Infinity;
  private searching: number | undefined;
  private listener: (view: View) => void = () => {};
  private failure: (text: string) => void = () => {};
  /** Views that were told and are not shown yet; and what is to be told when they are. */
  private unshown = 0;
  private due: { readonly moved: boolean; readonly sentence?: string } | undefined;
  /** Tick of the last view. */
  private told = 0;

  protected readonly scheduler: Scheduler;

  constructor(scheduler: Scheduler) {
    super();
    this.scheduler = {
      now: () => scheduler.now(),
      later: (delay, act) =>
        scheduler.later(delay, () => {
          try {
            act();
          } catch (error) {
            this.failed(error);
          }
        }),
    };
  }

  /** Told of mistakes of the engine's own. */
  onFailure(listener: (text: string) => void): void {
    this.failure = listener;
  }

  /** The run stands still; a load begins anew. */
  failed(error: unknown): void {
    this.halt();
    this.resumes = false;
    this.runner = undefined;
    this.due = undefined;
    this.failure(textOfError(error));
  }

  /** Told of changes, as fast as it says that it has shown them (`shown`); one listener at a time. */
  subscribe(listener: (view: View) => void): void {
    this.listener = listener;
    this.unshown = 0;
    this.due = undefined;
    if (this.runner) this.publish(false);
  }

  /** A view has been shown: the next one may come. */
  shown(): void {
    this.unshown = Math.max(0, this.unshown - 1);
    const { due } = this;
    if (this.unshown > 0 || !due || !this.runner) return;
    this.send(due);
  }

  /** Changes the machine; the program has to be loaded again. */
  useMachine(text: string): MachineCheck {
    const check = this.checkMachine(text);
    if (check.machine) {
      this.halt();
      this.machineText = text;
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
  load(source: string, { clear, inputs, unfinished = false }: Loading): Loaded {
    const { rows, problems, program: whole, partial, base } = this.assembled(source);
    const program = whole ?? (unfinished ? partial?.program : undefined);
    const shared = { rows, problems, base };
    if (!this.machine || !program) return { ...shared, loaded: false, partial: partial !== undefined };
    this.halt();
    const before = this.runner?.state;
    const keep = before && this.program && !clear ? unloaded(this.machine, before, this.program) : undefined;
    this.gaps = whole ? [] : (partial?.stops ?? []);
    if (clear) this.hand.clear();
    this.put(program, { ...(keep && { keep }), inputs });
    for (const cell of this.hand.values()) this.runner!.edit({ kind: 'cell', ...cell, mark: BY_HAND });
    this.keepSwitches(before);
    this.publish(false, { now: true });
    const { facts, symbols, routines, declared, parts } = program;
    return { ...shared, facts, symbols, routines, declared, parts, loaded: true, partial: false };
  }

  /** A new run of a program. Lines of the script come on top of the inputs. */
  protected put(program: Program, { inputs = [], devices, ...beginning }: Beginning & Partial<Pick<Script, 'devices'>>): void {
    const machine = this.machine!;
    this.program = program;
    this.keptState = beginning.keep;
    const script = readScript(machine, program, this.scriptText).script;
    this.devices = devices ?? script?.devices ?? [];
    const outside = withDevices(machine, { devices: this.devices });
    this.runner = new Runner(outside, program, script ? { ...withInputs(script, inputs), ...beginning } : { inputs, ...beginning });
    this.stop = undefined;
    this.goal = undefined;
    this.unfinished = undefined;
    this.since = { ticks: 0, instructions: 0 };
    this.applyBreaks();
  }

  /** Switches stay as a hand has set them. */
  private keepSwitches(before: State | undefined): void {
    const { machine, runner } = this;
    if (!before || !machine || !runner) return;
    runner.machine.devices.forEach(({ kind }, device) => {
      const latch = deviceLatch(machine, device, 'value');
      const planned = runner.state.plans.some((each) => each.device === device && each.latch === 'value');
      if (kind === 'switches' && !planned && runner.state.latches[latch] !== before.latches[latch])
        runner.edit({ kind: 'latch', latch, value: before.latches[latch]! });
    });
  }

  // ---- what the run is given ----

  /** The script for the runs to come: problems where it means nothing; it counts from the next start on. */
  setScript(text: string): readonly ScriptProblem[] {
    const { machine } = this;
    if (!machine) return [];
    const { problems, script } = readScript(machine, this.program, text);
    if (script && givenBy(script) > MOST_QUEUED) return [{ line: 1, sentence: TOO_MANY }];
    if (problems.length === 0) this.scriptText = text;
    return problems;
  }

  protected get script(): Script | undefined {
    return this.machine && readScript(this.machine, this.program, this.scriptText).script;
  }

  /** The ways of starting over, each with what it costs now. */
  startOffers(): StartOffer[] {
    const { runner, machine } = this;
    if (!runner || !machine) return [];
    const ticks = `${runner.furthest.toLocaleString('en-US')} ${runner.furthest === 1 ? 'tick' : 'ticks'}`;
    const past =
      runner.furthest > 0 ? `The run of ${ticks} so far, with its way back, is forgotten` : 'Nothing has run yet, so no run is lost';
    const count = (marks: readonly number[]): number =>
      runner.state.marks.reduce((sum, each) => sum + each.reduce((all, mark) => all + (marks.includes(mark) ? 1 : 0), 0), 0);
    const written = count([2, 4]);
    const cells = (number: number): string => `${number === 0 ? 'no' : number} ${number === 1 ? 'cell' : 'cells'}`;
    return [
      { way: 'again', loses: 'Nothing is lost: the run stays, and can be gone through again.' },
      {
        way: 'data',
        loses: `${past}. The program's cells are as assembled; ${written === 0 ? 'it wrote none.' : `of the ${cells(written)} that it wrote, those outside it stay.`}`,
      },
      {
        way: 'reload',
        loses: `${past}. The text of the program is assembled anew; cells outside it stay${this.hand.size > 0 ? `, and ${cells(this.hand.size)} entered by hand` : ''}.`,
      },
      { way: 'clear', loses: `${past}. All memory goes: ${cells(written)} that it wrote, ${cells(this.hand.size)} entered by hand.` },
    ];
  }

  /** `again` and `data`; the other ways assemble a text, which `load` does. */
  startOver(way: Extract<StartingOver, 'again' | 'data'>): void {
    const { runner, program } = this;
    if (!runner || !program) return;
    if (way === 'again') return this.command('start');
    this.halt();
    const before = runner.state;
    this.put(program, { keep: unloaded(runner.machine, before, program), inputs: runner.inputs });
    for (const cell of this.hand.values()) this.runner!.edit({ kind: 'cell', ...cell, mark: BY_HAND });
    this.keepSwitches(before);
    this.publish(false);
  }

  setBreakpoints(specs: readonly BreakSpec[]): void {
    this.specs = specs;
    this.applyBreaks();
    if (this.runner && !this.running) this.publish(false);
  }

  private applyBreaks(): void {
    const { runner, program, machine } = this;
    if (!runner || !program || !machine) return;
    const { list, refused } = breaksOf(machine, program, this.specs);
    const gaps = this.gaps.map((address, at) => ({ id: GAP - at, on: { kind: 'address', address } as const, enabled: true, ignore: 0 }));
    runner.breakpoints = [...list, ...gaps];
    this.refused = refused;
  }

  setSpeed(speed: Speed): void {
    this.speed = speed;
    if (this.running) this.schedule();
  }

  /** From the next start of a run on it stops after so many ticks, and can go on; undefined: never. */
  setBudget(ticks: number | undefined): void {
    this.budget = ticks;
  }

  selectFlag(flag: number): void {
    this.flag = flag;
    if (this.runner && !this.running) this.publish(false);
  }

  // ---- commands ----

  command(command: Command): void {
    const { runner } = this;
    if (!runner) return;
    if (command === 'pause') return this.pause();
    if (command === 'run') return this.run(undefined);
    if (command === 'output') return this.run({ kind: 'output' });
    if (command === 'over') return this.run(runner.overGoal());
    if (command === 'finish') return this.unfinished && this.run(this.unfinished);
    if (command === 'out') return this.out(runner);
    this.rest();
    this.mark();
    runner.recall();
    const before = runner.ticks;
    switch (command) {
      case 'tick':
        this.stop = runner.tick();
        break;
      case 'phase':
        this.stop = runner.phase();
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
      case 'overBack':
        return this.backTo(0);
      case 'outBack':
        return this.backTo(1);
      case 'start':
        runner.toStart();
        break;
      default:
        command satisfies never;
    }
    this.publish(command === 'tick' && runner.ticks === before + 1);
  }

  private out(runner: Runner): void {
    const goal = runner.outGoal();
    if (goal) return this.run(goal);
    this.rest();
    this.say('No call is open that could be left: the run is in the main program.');
  }

  /** A sentence in place of the status, until something else happens. */
  protected say(sentence: string): void {
    if (this.runner) this.publish(false, { sentence });
  }

  /** Back to the last boundary before this one where so many calls fewer are open, or still fewer. */
  private backTo(fewer: number): void {
    const runner = this.runner!;
    if (runner.ticks === 0) return this.publish(false);
    const { control } = runner.state;
    const now = depthOf(control) - (control.step > 0 && control.chain && control.chain.tick > control.ticks - control.step ? 1 : 0);
    this.search(runner.searchBack({ kind: 'calls', most: now - fewer }, runner.ticks - 1), (tick) => {
      if (tick === undefined) return this.say('No such boundary lies before this one.');
      this.travel(tick);
    });
  }

  travel(tick: number): void {
    if (!this.runner) return;
    this.rest();
    this.runner.travel(tick);
    this.runner.recall();
    this.mark();
    this.publish(false);
  }

  /** Runs to the instruction on a line, or until a condition holds; or says why that means nothing. */
  runUntil(wanted: { readonly line: number } | { readonly condition: string }): { readonly refused: string } | undefined {
    const { machine, program } = this;
    if (!machine || !program) return { refused: 'Nothing is loaded yet.' };
    if ('condition' in wanted) {
      const condition = readWatched(machine, program, wanted.condition);
      if ('refused' in condition) return condition;
      return void this.run({ kind: 'condition', condition });
    }
    const row = program.rows.find((each) => each.kind === 'code' && each.line >= wanted.line);
    if (!row) return { refused: `No instruction stands on line ${wanted.line} or behind it.` };
    return void this.run({ kind: 'address', address: row.address! });
  }

  /** The run that waited for an input goes on, if it was on its way. */
  protected afterInput(): void {
    if (this.stop?.kind === 'waiting') this.stop = undefined;
    if (this.resumes) this.run(this.goal);
    else this.publish(false);
  }

  protected run(goal: Goal | undefined): void {
    const { runner } = this;
    if (!runner || this.running || runner.state.control.halted) return;
    this.rest();
    runner.recall();
    this.mark();
    this.running = true;
    this.resumes = true;
    this.goal = goal;
    this.unfinished = undefined;
    this.left = this.budget ?? Infinity;
    runner.begin(goal);
    this.schedule();
    if (this.running) this.publish(false);
  }

  /** What is done from now on counts as “this time”. */
  private mark(): void {
    const { ticks, instructions } = this.runner!.state.control;
    this.since = { ticks, instructions };
  }

  /** Stops whatever is under way, for good. */
  protected rest(): void {
    this.halt();
    this.resumes = false;
    this.stop = undefined;
  }

  private pause(): void {
    this.resumes = false;
    if (!this.running && this.searching === undefined) return;
    this.halt();
    this.publish(false, { now: true });
    if (this.runner!.last) return;
    // It stands still at once; the ticks just behind, which a fast run has not kept, are looked up after that.
    this.cancel = this.scheduler.later(0, () => {
      this.runner!.recall();
      this.publish(false, { now: true });
    });
  }

  private halt(): void {
    this.cancel?.();
    this.cancel = undefined;
    this.running = false;
    this.searching = undefined;
  }

  /** Goals are gone to as fast as the machine goes. */
  private get fast(): boolean {
    return this.speed === 'full' || this.goal !== undefined;
  }

  private schedule(): void {
    this.cancel?.();
    const { fast, runner } = this;
    // What is known to go in circles needs no haste.
    const idle = fast && runner?.loop !== undefined;
    const delay = fast ? (idle ? IDLE : 0) : 1000 / (this.speed as number);
    this.cancel = this.scheduler.later(delay, () => (fast ? this.fastSlice() : this.slowTick()));
  }

  private slowTick(): void {
    const runner = this.runner!;
    runner.recall();
    const before = runner.ticks;
    const stop = runner.runTick();
    const moved = runner.ticks === before + 1;
    this.left -= runner.ticks - before;
    if (stop || this.left <= 0) return this.end(stop ?? runner.spent(), moved);
    this.publish(moved);
    this.schedule();
  }

  private fastSlice(): void {
    const runner = this.runner!;
    const until = this.scheduler.now() + SLICE;
    let stop: Stop | undefined;
    do {
      const began = this.scheduler.now();
      const before = runner.ticks;
      stop = runner.run(Math.min(this.portion, this.left));
      this.left -= runner.ticks - before;
      if (!stop && this.left <= 0) stop = runner.spent();
      const took = this.scheduler.now() - began;
      if (took < SLICE / 4) this.portion = Math.min(LARGEST, this.portion * 2);
      else if (took > SLICE) this.portion = Math.max(SMALLEST, Math.floor(this.portion / 4));
    } while (!stop && this.scheduler.now() < until);
    if (stop) return this.end(stop);
    if (this.scheduler.now() - this.published >= FRAME) this.publish(false);
    this.schedule();
  }

  private end(stop: Stop, moved = false): void {
    this.halt();
    this.stop = stop;
    if (stop.kind !== 'waiting') {
      this.resumes = false;
      if (stop.kind === 'breakpoint' || stop.kind === 'budget') this.unfinished = this.goal;
      this.goal = undefined;
    }
    this.runner!.recall();
    this.publish(moved);
  }

  // ---- looking through the run ----

  /** Looks through the run in slices, so that the page stays alive; any command gives it up. */
  protected search(search: Generator<number, number | undefined>, then: (tick: number | undefined) => void): void {
    this.halt();
    this.searching = 0;
    const slice = (): void => {
      const until = this.scheduler.now() + SLICE;
      do {
        const { done, value } = search.next();
        if (done) {
          this.searching = undefined;
          this.cancel = undefined;
          return then(value);
        }
        this.searching = value;
      } while (this.scheduler.now() < until);
      if (this.scheduler.now() - this.published >= FRAME) this.publish(false);
      this.cancel = this.scheduler.later(0, slice);
    };
    slice();
  }

  // ---- telling ----

  /**
   * The next view goes out when the last one is shown, so that nothing queues; of several in between only the newest
   * does. With `now` it is there when the command that made it is answered.
   */
  protected publish(moved: boolean, { sentence, now = false }: { sentence?: string; now?: boolean } = {}): void {
    const due = { moved, ...(sentence !== undefined && { sentence }) };
    if (this.unshown > 0 && !now) this.due = due;
    else this.send(due);
  }

  private send({ moved, sentence }: { readonly moved: boolean; readonly sentence?: string }): void {
    this.due = undefined;
    this.unshown++;
    this.published = this.scheduler.now();
    const { ticks } = this.runner!;
    // Only a single tick can be shown as a movement.
    const view = this.view(moved && ticks === this.told + 1);
    this.told = ticks;
    this.listener(sentence === undefined ? view : { ...view, sentence });
  }

  private view(moved: boolean): View {
    const { running, stop, goal, unfinished, flag, since, refused, searching } = this;
    const { last, ticks } = this.runner!;
    const unknown = last === undefined && ticks > 0;
    const fast = (running && this.fast) || searching !== undefined || unknown;
    return viewOf({ runner: this.runner!, stop, running, fast, goal, unfinished, flag, since, refused, searching, moved });
  }
}

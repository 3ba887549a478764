/**
 * The run on a bench: begun, driven forward and back, until something stops it. Turns commands into ticks and ticks into
 * views. Knows no worker and no page; clock and scheduling are handed in.
 */
import { readWatched } from '../engine/watch/conditions';
import { Runner, type Goal, type Stop } from '../engine/control/runner';
import { depthOf } from '../engine/meaning/callStack';
import type { Beginning } from '../engine/timeline/timeline';
import { readScript, withDevices, withInputs, type Script, type ScriptProblem } from '../engine/timeline/script';
import type { State } from '../engine/meaning/state';
import type { Telling } from '../engine/tell/telling';
import type { Program } from '../image/program';
import type { Machine } from '../machine/model/machine';
import { Drive, type Scheduler } from './drive';
import { rulerAt, type InHand } from './inHand';
import { readBreakpoints } from './readBreakpoints';
import { ViewFlow } from './viewFlow';
import { viewOf } from './viewOf';
import { Watches } from './watches';
import type { BreakSpec, BreakState, Command, Speed, View } from './protocol';
import { explainEntry } from '../engine/meaning/entryProblems';

/** Ids of breakpoints that are set where a program is unfinished. */
const GAP = -1;

/** The longest queue of inputs that a bench holds. */
const MOST_QUEUED = 20_000;
const TOO_MANY = `The bench takes at most ${MOST_QUEUED.toLocaleString('en-US')} inputs; the command line takes more.`;

/** Why so many inputs are refused; undefined where they are not. */
export const refusedQueue = (length: number): string | undefined => (length > MOST_QUEUED ? TOO_MANY : undefined);

/** Inputs that a run is given, first to last. */
export const givenBy = ({ inputs = [], edits = [] }: Beginning): number =>
  Math.max(inputs.length, ...edits.map((each) => (each.kind === 'inputs' ? each.queue.length : 0)));

/** One program on one machine, and its run. */
export interface Current {
  readonly program: Program;
  readonly runner: Runner;
  /** Devices that stand in for others in this run. */
  readonly devices: Script['devices'];
  /** The cells as they were before the program was loaded. */
  readonly kept: State | undefined;
  /** Addresses where the program is unfinished: the run stops before them. */
  readonly gaps: readonly number[];
  /** Ticks before which something that the teacher set has stopped it. */
  readonly stops: Set<number>;
}

/** Ticks a second above which not every one is shown. */
const MOST_PICTURES = 30;

/** Stops of a run that are remembered. */
const MOST_STOPS = 5_000;

/** Commands after which a teacher speaks of instructions, not of ticks. */
const WHOLE: ReadonlySet<Command> = new Set<Command>(['instruction', 'over', 'out', 'instructionBack']);

type Start = Beginning & Partial<Pick<Current, 'devices' | 'gaps'>>;

export class Run {
  private machine: Machine | undefined;
  private held: Current | undefined;
  private readonly drive: Drive;
  readonly views: ViewFlow;
  private stop: Stop | undefined;
  private goal: Goal | undefined;
  /** A step over or out that something stopped. */
  private unfinished: Goal | undefined;
  /** A run that waits goes on by itself. */
  private resumes = false;
  private flag: number | undefined;
  private specs: readonly BreakSpec[] = [];
  private refused: readonly BreakState[] = [];
  private since = { ticks: 0, instructions: 0 };
  private scriptText = '';
  private readonly watches = new Watches();
  /** The last command took whole instructions. */
  private whole = false;
  private budget: number | undefined;
  private asked: Telling['asked'];

  constructor(scheduler: Scheduler) {
    this.drive = new Drive(scheduler, {
      // Nobody sees more than thirty pictures a second.
      ticked: (moved) => (this.drive.speed !== 'full' && this.drive.speed > MOST_PICTURES ? this.views.glance() : this.publish({ moved })),
      sliced: () => this.views.glance(),
      ended: (stop, moved) => this.ended(stop, moved),
    });
    const ticks = (): number | undefined => this.held?.runner.ticks;
    this.views = new ViewFlow(() => scheduler.now(), {
      get ticks() {
        return ticks();
      },
      view: (moved) => this.view(moved),
    });
  }

  /** The program on the machine, and its run; undefined before the first one. */
  get current(): Current | undefined {
    return this.held;
  }

  /** Gives up the run; the next one is on this machine. */
  useMachine(machine: Machine): void {
    this.machine = machine;
    this.flag = undefined;
    this.giveUp();
  }

  /** No run is left: a load begins anew. */
  giveUp(): void {
    this.rest();
    this.held = undefined;
    this.views.forget();
  }

  /** A new run of a program. Lines of the script come on top of the inputs. Nothing is told yet. */
  begin(program: Program, { inputs = [], devices: given, gaps = [], ...beginning }: Start): Runner {
    const machine = this.machine!;
    this.rest();
    const script = readScript(machine, program, this.scriptText).script;
    const devices = given ?? script?.devices ?? [];
    const outside = withDevices(machine, { devices });
    const runner = new Runner(outside, program, script ? { ...withInputs(script, inputs), ...beginning } : { inputs, ...beginning });
    this.held = { program, runner, devices, kept: beginning.keep, gaps, stops: new Set() };
    this.goal = undefined;
    this.unfinished = undefined;
    this.since = { ticks: 0, instructions: 0 };
    this.applyBreakpoints();
    return runner;
  }

  // ---- what runs are given ----

  /** The script for the runs to come: problems where it means nothing; it counts from the next start on. */
  setScript(text: string): readonly ScriptProblem[] {
    const { machine } = this;
    if (!machine) return [];
    const { problems, script } = readScript(machine, this.held?.program, text);
    const refused = script && refusedQueue(givenBy(script));
    if (refused) return [{ line: 1, sentence: refused }];
    if (problems.length === 0) this.scriptText = text;
    return problems;
  }

  /** All of them; those that mean nothing here say so in the next view. */
  setBreakpoints(specs: readonly BreakSpec[]): void {
    this.specs = specs;
    this.applyBreakpoints();
    if (!this.drive.running) this.publish();
  }

  private applyBreakpoints(): void {
    const { held, machine } = this;
    if (!held || !machine) return;
    const { list, refused } = readBreakpoints(machine, held.program, this.specs);
    const gaps = held.gaps.map((address, at) => ({ id: GAP - at, on: { kind: 'address', address } as const, enabled: true, ignore: 0 }));
    held.runner.breakpoints = [...list, ...gaps];
    this.refused = refused;
  }

  /** Values that every view tells from now on. */
  setWatches(texts: readonly string[]): void {
    this.watches.set(texts);
    if (!this.drive.running) this.publish();
  }

  /** What sentences tell beyond the usual. */
  setTelling(asked: Telling['asked']): void {
    this.asked = asked;
    if (!this.drive.running) this.publish();
  }

  /** Of the run under way and of those to come. */
  setSpeed(speed: Speed): void {
    this.drive.speed = speed;
  }

  /** From the next start of a run on it stops after so many ticks, and can go on; undefined: never. */
  setBudget(ticks: number | undefined): void {
    this.budget = ticks;
  }

  /** Views explain this flag from now on. */
  selectFlag(flag: number): void {
    this.flag = flag;
    if (!this.drive.running) this.publish();
  }

  // ---- commands ----

  /** Without a run it does nothing; a command gives up what is under way. */
  command(command: Command): void {
    const runner = this.held?.runner;
    if (!runner) return;
    this.whole = WHOLE.has(command);
    switch (command) {
      case 'pause':
        return this.pause(runner);
      case 'run':
        return this.go(undefined);
      case 'output':
        return this.go({ kind: 'output' });
      case 'over':
        return this.go(runner.overGoal());
      case 'finish':
        return this.unfinished && this.go(this.unfinished);
      case 'out':
        return this.out(runner);
      case 'overBack':
        return this.backTo(runner, 0);
      case 'outBack':
        return this.backTo(runner, 1);
      default:
        return this.step(runner, command);
    }
  }

  private step(runner: Runner, command: 'tick' | 'phase' | 'instruction' | 'back' | 'instructionBack' | 'start'): void {
    this.arrive(runner);
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
        runner.timeline.back();
        break;
      case 'instructionBack':
        runner.timeline.instructionBack();
        break;
      case 'start':
        runner.timeline.toStart();
        break;
      default:
        command satisfies never;
    }
    this.publish({ moved: command === 'tick' && runner.ticks === before + 1 });
  }

  private out(runner: Runner): void {
    const goal = runner.outGoal();
    if (goal) return this.go(goal);
    this.rest();
    this.publish({ sentence: 'No call is open that could be left: the run is in the main program.' });
  }

  /** Back to the last boundary before this one where so many calls fewer are open, or still fewer. */
  private backTo(runner: Runner, fewer: number): void {
    this.arrive(runner);
    if (runner.ticks === 0) return this.publish();
    const { control } = runner.state;
    const now = depthOf(control) - (control.step > 0 && control.callStack && control.callStack.tick > control.ticks - control.step ? 1 : 0);
    this.drive.search(runner.timeline.searchBack({ kind: 'calls', most: now - fewer }, runner.ticks - 1), (tick) => {
      if (tick === undefined) return this.publish({ sentence: 'No such boundary lies before this one.' });
      this.travel(tick);
    });
  }

  /** To a tick of the run so far, or as far as it has come. */
  travel(tick: number): void {
    const runner = this.held?.runner;
    if (!runner) return;
    this.rest();
    runner.timeline.travel(tick);
    runner.timeline.recall();
    this.mark(runner);
    this.publish();
  }

  /** To a tick that somebody else's run of the same stands at: gone through here where this one has not come so far. */
  follow(tick: number): void {
    const runner = this.held?.runner;
    if (!runner || runner.ticks === tick) return;
    this.rest();
    runner.timeline.reach(tick);
    this.mark(runner);
    this.publish({ now: true });
  }

  /** Runs to the instruction on a line, or until a condition holds; or says why that means nothing. */
  runUntil(wanted: { readonly line: number } | { readonly condition: string }): { readonly refused: string } | undefined {
    const { machine, held } = this;
    if (!machine || !held) return { refused: 'Nothing is loaded yet.' };
    if ('condition' in wanted) {
      const condition = readWatched(machine, held.program, wanted.condition);
      if ('refused' in condition) return { refused: explainEntry(condition.refused) };
      return void this.go({ kind: 'condition', condition });
    }
    const row = held.program.rows.find((each) => each.kind === 'code' && each.line >= wanted.line);
    if (!row) return { refused: `No instruction stands on line ${wanted.line} or behind it.` };
    return void this.go({ kind: 'address', address: row.address! });
  }

  /** The run that waited for an input goes on, if it was on its way. */
  afterInput(): void {
    if (this.stop?.kind === 'waiting') this.stop = undefined;
    if (this.resumes) this.go(this.goal);
    else this.publish();
  }

  /** One instruction at once, without telling of it. */
  instruction(): void {
    this.stop = this.held?.runner.instruction();
  }

  /** Looks through the run, so that the page stays alive; any command gives it up. */
  search<T>(search: Generator<number, T>, then: (found: T) => void): void {
    this.rest();
    this.drive.search(search, then);
  }

  private go(goal: Goal | undefined): void {
    const runner = this.held?.runner;
    if (!runner || this.drive.running || runner.state.control.halted) return;
    this.arrive(runner);
    this.resumes = true;
    this.goal = goal;
    this.unfinished = undefined;
    this.drive.go(runner, { goal, budget: this.budget });
    if (this.drive.running) this.publish();
  }

  /** Stops whatever is under way, for good. */
  rest(): void {
    this.drive.halt();
    this.resumes = false;
    this.stop = undefined;
  }

  /** The run stands here with the tick just done, and what is done from now on counts as “this time”. */
  private arrive(runner: Runner): void {
    this.rest();
    runner.timeline.recall();
    this.mark(runner);
  }

  private mark(runner: Runner): void {
    this.watches.mark(runner);
    const { ticks, instructions } = runner.state.control;
    this.since = { ticks, instructions };
  }

  private pause(runner: Runner): void {
    this.resumes = false;
    if (!this.drive.running && this.drive.searched === undefined) return;
    this.drive.halt();
    this.publish({ now: true });
    if (runner.timeline.last) return;
    // It stands still at once; the ticks just behind, which a fast run has not kept, are looked up after that.
    this.drive.soon(() => {
      runner.timeline.recall();
      this.publish({ now: true });
    });
  }

  private ended(stop: Stop, moved: boolean): void {
    this.stop = stop;
    if (stop.kind === 'breakpoint' && this.held && this.held.stops.size < MOST_STOPS) this.held.stops.add(this.held.runner.ticks);
    if (stop.kind !== 'waiting') {
      this.resumes = false;
      if (stop.kind === 'breakpoint' || stop.kind === 'budget') this.unfinished = this.goal;
      this.goal = undefined;
    }
    this.publish({ moved });
  }

  // ---- telling ----

  /** The fields of the instruction that a cell of the program space belongs to; undefined where it is none. */
  rulerAt(address: number): InHand | undefined {
    const { held } = this;
    return held && rulerAt({ machine: held.runner.machine, program: held.program, state: held.runner.state }, address);
  }

  /** Tells how things stand; `sentence` stands in place of the status, `now` waits for nothing. */
  publish({ moved = false, ...how }: { moved?: boolean; sentence?: string; now?: boolean } = {}): void {
    this.views.publish({ moved, ...how });
  }

  private view(moved: boolean): View {
    const { drive, stop, goal, unfinished, flag, since, refused } = this;
    const { runner } = this.held!;
    const unknown = runner.timeline.last === undefined && runner.ticks > 0;
    return viewOf({
      ...{ runner, stop, goal, unfinished, flag, since, refused, moved },
      running: drive.running,
      whole: this.whole,
      asked: this.asked,
      watches: this.watches.shown(runner),
      searching: drive.searched,
      fast: drive.fast || unknown,
      brisk: drive.brisk || unknown,
    });
  }
}

/**
 * One program on one machine with its text, its run and what hands do to it: what a screen holds, in the page's worker or
 * anywhere else. Takes commands, gives plain views.
 */
import { systemOf } from '../assembler/assemble';
import { unloaded } from '../engine/meaning/state';
import { emptyProgram } from '../image/program';
import type { Scheduler } from './drive';
import { Counting } from './counting';
import { Definition } from './definition';
import { Files } from './files';
import { textOfError } from './guard';
import { Hand } from './hand';
import { Past } from './past';
import { Run } from './run';
import { RunSoFar } from './runSoFar';
import { startOffers } from './startOffers';
import { Texts } from './texts';
import type { Loaded, MachineCheck, StartingOver, StartOffer, View } from './protocol';
import { ViewPacker, type PackedView } from './viewPack';
import { itemAt } from '../text/itemAt';

interface Loading {
  readonly clear: boolean;
  readonly inputs: readonly number[];
  readonly unfinished?: boolean;
}

export class Session {
  readonly texts = new Texts();
  readonly run: Run;
  readonly hand: Hand;
  readonly past: Past;
  readonly counting: Counting;
  readonly files: Files;
  readonly definition: Definition;
  readonly soFar: RunSoFar;
  private failure: (text: string) => void = () => {};

  constructor({ now, later }: Scheduler) {
    const looked = (act: () => void) => (): void => {
      try {
        act();
      } catch (error) {
        this.failed(error);
      }
    };
    this.run = new Run({ now, later: (delay, act) => later(delay, looked(act)) });
    this.hand = new Hand(this.texts, this.run);
    this.past = new Past(this.texts, this.run);
    this.counting = new Counting(this.texts, this.run);
    this.files = new Files(this.texts, this.run);
    this.soFar = new RunSoFar(this.run, { now, later: (delay, act) => later(delay, looked(act)) });
    this.definition = new Definition(this.texts, { now, later: (delay, act) => later(delay, looked(act)) });
  }

  /** Told of mistakes of the engine's own. */
  onFailure(listener: (text: string) => void): void {
    this.failure = listener;
  }

  /** The run is given up; a load begins anew. */
  failed(error: unknown): void {
    this.run.giveUp();
    this.failure(textOfError(error));
  }

  /** Told of changes, as fast as it says that it has shown them (`shown`); one listener at a time. */
  subscribe(listener: (view: View) => void): void {
    this.run.views.subscribe(listener);
  }

  /** The same as what has changed since the last one, for who keeps that; what the listener returns comes when it is shown. */
  subscribePacked(listener: (packed: PackedView) => Promise<void>): void {
    const packer = new ViewPacker();
    const shown = (): void => this.shown();
    this.subscribe((view) => void listener(packer.pack(view)).then(shown, shown));
  }

  /** A view has been shown: the next one may come. */
  shown(): void {
    this.run.views.shown();
  }

  /** Tells how things stand. */
  show(): void {
    this.run.publish({ now: true });
  }

  /** Changes the machine; until a program is loaded there is none on it. Tells nothing of that by itself. */
  useMachine(text: string, language?: number): MachineCheck {
    const check = this.texts.useMachine(text, language);
    if (!check.machine) return check;
    this.hand.forget();
    const { machine } = check;
    this.run.useMachine(machine);
    this.run.begin(emptyProgram(itemAt(machine.registers, machine.programCounter).start, systemOf(machine)?.program), {});
    return check;
  }

  /**
   * Assembles and loads; with errors it loads nothing, or with `unfinished` the part that is finished, which stops
   * where something is missing. Cells outside the image stay unless `clear`; cells entered by hand are entered again.
   */
  load(source: string, { clear, inputs, unfinished = false }: Loading): Loaded {
    const { rows, problems, program: whole, partial, base } = this.texts.assembled(source);
    const program = whole ?? (unfinished ? partial?.program : undefined);
    const { machine } = this.texts;
    if (!machine || !program) return { rows, problems, base, loaded: false, partial: partial !== undefined };
    const { current } = this.run;
    const keep = current && !clear ? unloaded(machine, current.runner.state, current.program) : undefined;
    if (clear) this.hand.forget();
    const gaps = whole ? [] : (partial?.stops ?? []);
    const runner = this.run.begin(program, { ...(keep && { keep }), inputs, gaps });
    this.hand.forgetSteps();
    this.hand.enterAgain(runner, current?.runner.state);
    this.run.publish({ now: true });
    const { facts, symbols, routines, declared, parts } = program;
    return { rows, problems, base, facts, symbols, routines, declared, parts, loaded: true, partial: false };
  }

  /** The ways of starting over, each with what it costs now. */
  startOffers(): StartOffer[] {
    const { current } = this.run;
    return current ? startOffers(current.runner, this.hand.cellCount) : [];
  }

  /** `again` and `data`; the other ways assemble a text, which `load` does. */
  startOver(way: Extract<StartingOver, 'again' | 'data'>): void {
    const { current } = this.run;
    if (!current) return;
    if (way === 'again') return this.run.command('start');
    const { runner, program, gaps } = current;
    const keep = unloaded(runner.machine, runner.state, program);
    const begun = this.run.begin(program, { keep, inputs: runner.timeline.handed, gaps });
    this.hand.forgetSteps();
    this.hand.enterAgain(begun, runner.state);
    this.run.publish();
  }
}

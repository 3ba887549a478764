/** Puts a program and its machine on the bench. */
import type { DocumentDetail } from '@zettak/api/documents';
import { textOf } from '../app/textOf';
import { keep, kept, tabMemory } from '../app/preferences';
import { baseTexts } from '../documents/baseTexts';
import { client } from '../documents/client';
import { Draft } from '../documents/drafts';
import { engine, onFailure, onView } from '../session/engine';
import { fetchCourse, sendParts } from './course';
import { lookForNewerMachine, useDocument, type DocumentState } from './document';
import { KeptRun, putRunBack } from './keptRun';
import { followLink } from './link';
import { load, NO_PROGRAM } from './loading';
import { useLooks } from './looks';
import { openNotes } from './notes';
import { forgetMotion, forgetView, keptWatches, takeCrash, takeView, ticksIn, useRun, withItsView } from './run';
import { forgetPredictions } from './predictions';
import { readBreakpoints } from './breakpoints';
import { sendTelling } from './telling';
import { say, useText } from './text';

/** What the browser remembers: the program that was opened last. */
export const LAST_PROGRAM = 'program';

/** Opens one program after another; of two under way the later counts. */
class Opener {
  private subscribed: Promise<void> | undefined;
  private turn = 0;
  private keptRun: KeptRun | undefined;
  private under: { readonly id: string | undefined; readonly done: Promise<void> } | undefined;

  /** Without an id the program opened last, or the first. What is being opened already is waited for. */
  open(id: string | undefined): Promise<void> {
    if (this.under && this.under.id === id) return this.under.done;
    const under = { id, done: this.openAnew(id) };
    this.under = under;
    return under.done.finally(() => {
      if (this.under === under) this.under = undefined;
    });
  }

  private async openAnew(id: string | undefined): Promise<void> {
    const turn = ++this.turn;
    const isWanted = (): boolean => turn === this.turn;
    // What lies there still of another program's machine is not what this program is for.
    let otherwise: Partial<DocumentState> = {};
    const fails = (failure: string): void => void (isWanted() && useDocument.setState({ failure, ...otherwise }));
    try {
      const wanted = id ?? kept(LAST_PROGRAM);
      const lies = useDocument.getState();
      const early = wanted === undefined || (lies.program?.id === wanted && lies.machine) ? undefined : client.get('program', wanted);
      // Whether there is such a program, the list tells.
      early?.catch(() => undefined);
      const [programs] = await Promise.all([client.list('program'), (this.subscribed ??= this.subscribe())]);
      const found = programs.find((each) => each.id === wanted) ?? (id ? undefined : programs[0]);
      useDocument.setState({ programs });
      if (!found) return fails(id ? `There is no program “${id}”. Choose another above.` : 'There is no program yet. Create one above.');
      if (useDocument.getState().program?.id === found.id && useDocument.getState().machine) {
        useDocument.setState({ failure: undefined });
        await lookForNewerMachine();
        await takeHandedOver(found.id);
        return await followLink();
      }
      const [program, machine] = await Promise.all([
        early && found.id === wanted ? early : client.get('program', found.id),
        client.get('machine', found.machine!),
      ]);
      if (!isWanted()) return;
      const draft = await Draft.open('program', program, (saveState) => useDocument.setState({ saveState }));
      if (!isWanted()) return draft.close();
      if (useDocument.getState().program?.machine !== program.machine)
        otherwise = { machine: undefined, machineName: '', machineVersion: 0 };
      this.put(program, draft);
      // The fresh run that comes first is no reason to forget it.
      const before = this.keptRun?.text;
      await takeMachineVersion(machine.id, machine.versions.at(-1)?.number ?? 0, isWanted);
      if (!isWanted()) return;
      const { failure } = useDocument.getState();
      if (failure !== undefined) return fails(failure);
      if (before !== undefined && useRun.getState().view) await putRunBack(before, useText.getState().source);
      await takeHandedOver(found.id);
      await followLink();
    } catch (error) {
      fails(textOf(error));
    }
  }

  /** The run of the program on the bench is given up for good. */
  forgetRun(): void {
    this.keptRun?.forget();
  }

  private put(program: DocumentDetail, draft: Draft): void {
    useDocument.getState().draft?.close();
    this.keptRun?.close();
    this.keptRun = new KeptRun(program.id);
    keep(LAST_PROGRAM, program.id);
    useDocument.setState({ program, draft, saveState: { kind: 'saved' }, failure: undefined, newerVersion: undefined });
    useText.setState(({ taken }) => ({
      ...{ source: draft.text, taken: taken + 1, symbols: [], offersPart: false },
      ...{ message: undefined, note: undefined, renaming: undefined },
    }));
    const budget = kept(`budget.${program.id}`);
    forgetView();
    useRun.setState(NO_PROGRAM);
    useRun.setState({ breakpoints: readBreakpoints(program.id), budget, watched: keptWatches(program.id) });
    openNotes(program.id);
    forgetPredictions();
    useLooks.setState({ pointed: undefined, space: undefined });
  }

  private async subscribe(): Promise<void> {
    await onView((view) => {
      this.keptRun?.keepSoon(view);
      takeView(view);
    });
    await onFailure(takeCrash);
  }
}
/** A run that another screen has handed over: with all that it was given, at its tick. */
async function takeHandedOver(program: string): Promise<void> {
  const text = tabMemory.kept(`open.${program}`);
  if (text === undefined) return;
  tabMemory.forget(`open.${program}`);
  const opened = await engine.files.openRun(text);
  if ('refused' in opened) return say(opened.refused);
  if (opened.source !== useText.getState().source) say('This run is of another state of the text; what is typed stands as it is.');
}

const opener = new Opener();

/** Without an id the program opened last, or the first. What goes wrong is told in the document's `failure`. */
export const openProgram = (id: string | undefined): Promise<void> => opener.open(id);

/** After a mistake of the engine's own: a new run of what is typed, in an empty memory. */
export async function startAnew(): Promise<void> {
  forgetView();
  useRun.setState({ crash: undefined });
  opener.forgetRun();
  await load({ clear: true, inputs: [] });
}

/**
 * Puts a version of the machine on the bench, and loads the program into it where it has no errors. It ends as it stands
 * once it is not wanted any more: another program has been opened meanwhile.
 */
export async function takeMachineVersion(id: string, number: number, isWanted = (): boolean => true): Promise<void> {
  const fails = (failure: string): void => void (isWanted() && useDocument.setState({ failure }));
  if (number === 0) {
    const { name } = await client.get('machine', id);
    // Nothing of another program is left that a step could move.
    if (isWanted()) await engine.run.giveUp();
    return fails(`The machine ${name} has no version yet. Open it under Machines and save one.`);
  }
  const [version, course] = await Promise.all([client.version('machine', id, number), fetchCourse(id)]);
  const inputs = useRun.getState().view?.handed ?? [];
  const bases = await baseTexts(version.text);
  if (!isWanted()) return;
  // Views are held back only now: whoever asked for another program meanwhile does not wait for a slow answer about this one.
  await withItsView(async () => {
    void engine.texts.setBases(bases);
    const { machine, problems } = await engine.useMachine(version.text, version.language);
    if (!isWanted()) return;
    if (!machine) return fails(`Version ${number} of ${id} has problems: ${problems[0]?.sentence ?? ''}`);
    forgetMotion();
    forgetView();
    useDocument.setState({
      ...{ machine, machineName: machine.name, machineVersion: number },
      ...{ newerVersion: undefined, failure: undefined },
    });
    const { breakpoints: stops, speed, budget, watched } = useRun.getState();
    // The engine takes them in this order; nothing waits for each by itself.
    const [help, systemRows] = await Promise.all([
      engine.texts.help(),
      engine.texts.systemRows(),
      sendTelling(),
      // The devices' script of another program is none of this one's.
      engine.run.setScript(''),
      engine.run.setWatches([...watched]),
      engine.run.setBreakpoints([...stops]),
      engine.run.setSpeed(speed),
      engine.run.setBudget(ticksIn(budget)),
      engine.texts.setChecksOff([...useText.getState().checksOff]),
      sendParts(course),
    ]);
    if (!isWanted()) return;
    useDocument.setState({ help, systemRows, course });
    if (!(await load({ clear: false, inputs, unasked: true }))) await engine.show();
  });
}

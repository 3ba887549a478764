/** The run on the bench: mirrors the engine's views, passes on commands. Computes nothing the core could. */
import { create } from 'zustand';
import type { IncludedPart, RoutineBorder } from '@zettak/core/image/program';
import type { TickReport } from '@zettak/core/engine/meaning/report';
import { isRunning, TOKENS_UP_TO, type BreakSpec, type Command, type Speed, type View } from '@zettak/core/session/protocol';
import { keep, keptValue } from '../app/preferences';
import { note } from '../documents/journal';
import { engine, viewShown } from '../session/engine';
import { Motion } from '../datapath/motion';
import { afterPaint } from '../ui/follow';
import { useDocument } from './document';
import { windowsShown } from './looks';
import { keepBreakpoints } from './breakpoints';
import { useText } from './text';
import { APART, PARTS, Turns, type Part } from './turns';

export interface RunState {
  readonly view?: View | undefined;
  /** The last view in which the run stood still: for what is not drawn anew at every tick. */
  readonly still?: View | undefined;
  /** The views that words, and marks, are drawn of: those of a quick run only now and then. There with the first view. */
  readonly told?: View | undefined;
  readonly marked?: View | undefined;
  /** The views that the drawing is of; registers, flags and memory; and windows on memory. There with the first view. */
  readonly drawn?: View | undefined;
  readonly valued?: View | undefined;
  readonly windowed?: View | undefined;
  /** A tick whose tokens are under way, for `duration` ms. */
  readonly motion?: { readonly report: TickReport; readonly duration: number } | undefined;
  readonly speed: Speed;
  /** Every breakpoint and print-point. */
  readonly breakpoints: readonly BreakSpec[];
  /** Values that are watched, as typed. */
  readonly watched: readonly string[];
  /** Ticks after which a run stops by itself, as typed; empty: never. */
  readonly budget: string;
  /** The engine has made a mistake: the text of it. */
  readonly crash?: string | undefined;
  /** Of the loaded program. */
  readonly routines: readonly RoutineBorder[];
  /** Cells that it keeps free: first and last place, by space. */
  readonly rooms: readonly { readonly space: number; readonly from: number; readonly to: number }[];
  /** Cells of its instructions, the system program's among them. */
  readonly code: ReadonlySet<number>;
  /** Parts that it takes in. */
  readonly parts: readonly IncludedPart[];
  /** By space, its labels by address. */
  readonly labels: readonly ReadonlyMap<number, string>[];
  /** By space, addresses of its data with their labels. */
  readonly dataLabels: readonly ReadonlyMap<number, string>[];
}

export const useRun = create<RunState>()(() => ({
  speed: 4,
  breakpoints: [],
  watched: [],
  budget: '',
  routines: [],
  rooms: [],
  code: new Set(),
  parts: [],
  labels: [],
  dataLabels: [],
}));

const set = useRun.setState;
const get = useRun.getState;

// ---- views ----

const stillness = window.matchMedia('(prefers-reduced-motion: reduce)');

/** How long, in ms, the tokens of a view travel; undefined where none do. */
function travelTime({ status, moved, last }: View): number | undefined {
  const { speed } = get();
  const running = isRunning(status);
  if (!moved || !last || last.transfers.length === 0 || stillness.matches) return undefined;
  if (running && (speed === 'full' || speed > TOKENS_UP_TO)) return undefined;
  return running ? Math.min(650, 780 / (speed as number)) : 520;
}

const turns = new Turns();
const ofParts = (takes: (part: Part) => boolean, view: View | undefined): Partial<Record<Part, View | undefined>> =>
  Object.fromEntries(PARTS.filter(takes).map((part) => [part, view]));
/** Draws the rest of the last picture, where none follows. */
let rest: ReturnType<typeof setTimeout> | undefined;

const motion = new Motion<View>((view) => {
  const running = isRunning(view.status);
  const turn = turns.next(performance.now(), running && get().told !== undefined, windowsShown());
  set({ view, motion: undefined, ...ofParts((part) => turn[part], view), ...(!running && { still: view }) });
  clearTimeout(rest);
  if (PARTS.some((part) => !turn[part])) rest = setTimeout(() => get().view === view && set(ofParts(() => true, view)), 2 * APART);
  afterPaint(viewShown);
});

/** There is no run to be seen any more. */
export const forgetView = (): void => set({ view: undefined, still: undefined, motion: undefined, ...ofParts(() => true, undefined) });

/** While something else is on its way that belongs to the next view. */
const waiting: { for: number; view?: View | undefined } = { for: 0 };

/** Views that come while `act` goes on are shown in one go with what it has brought: the newest of them, when it is done. */
export async function withItsView<T>(act: () => Promise<T>): Promise<T> {
  waiting.for++;
  try {
    return await act();
  } finally {
    const { view } = waiting;
    if (--waiting.for === 0) waiting.view = undefined;
    if (waiting.for === 0 && view) takeView(view);
  }
}

/** A view of the engine, which is told when it is shown. */
export function takeView(view: View): void {
  if (waiting.for > 0) {
    // One is told of for each that came.
    if (waiting.view) viewShown();
    waiting.view = view;
    return;
  }
  motion.land();
  const duration = travelTime(view);
  motion.travel(view, duration ?? 0);
  if (duration === undefined) motion.land();
  else set({ motion: { report: view.last!, duration } });
}

/** Tokens under way belong to a run that is given up. */
export function forgetMotion(): void {
  if (motion.forget()) viewShown();
}

/** The engine has made a mistake of its own: its text. */
export function takeCrash(crash: string): void {
  forgetMotion();
  set({ crash });
}

// ---- commands ----

/** Passes a command on; the next view tells what became of it. */
export function command(name: Command): void {
  if (useText.getState().note !== undefined) useText.setState({ note: undefined });
  if (name === 'run') note('ran');
  void engine.run.command(name);
}

/** To a tick of the run so far. */
export const travel = (tick: number): void => void engine.run.travel(tick);
/** Asks why a flag, by its number, is as it is. */
export const selectFlag = (flag: number): void => void engine.run.selectFlag(flag);

/** Ticks a second, or as fast as the machine goes. */
export function setSpeed(speed: Speed): void {
  set({ speed });
  void engine.run.setSpeed(speed);
}

/** All of them; remembered with the program. */
export function setBreakpoints(stops: readonly BreakSpec[]): void {
  const { program } = useDocument.getState();
  set({ breakpoints: stops });
  if (program) keepBreakpoints(program.id, stops);
  void engine.run.setBreakpoints([...stops]);
}

const watchName = (program: string): string => `watches.${program}`;

/** All of them; remembered with the program. */
export function setWatches(watched: readonly string[]): void {
  const { program } = useDocument.getState();
  set({ watched });
  if (program) keep(watchName(program.id), JSON.stringify(watched));
  void engine.run.setWatches([...watched]);
}

/** Those that are remembered with a program; rubbish in the storage counts as none. */
export function keptWatches(program: string): readonly string[] {
  const found = keptValue(watchName(program));
  return Array.isArray(found) && found.every((each) => typeof each === 'string') ? (found as readonly string[]) : [];
}

/** What is typed as a number of ticks; undefined where it is none. */
export const ticksIn = (text: string): number | undefined => {
  const ticks = Number(text.replaceAll(/[\s,_]/g, ''));
  return text.trim() !== '' && Number.isSafeInteger(ticks) && ticks > 0 ? ticks : undefined;
};

/** Runs stop by themselves after so many ticks, and can go on. */
export function setBudget(budget: string): void {
  const { program } = useDocument.getState();
  set({ budget });
  if (program) keep(`budget.${program.id}`, budget);
  void engine.run.setBudget(ticksIn(budget));
}

/** The view that registers, flags and memory are of, for whoever is there only while there is one. */
export const useValued = (): View => useRun((state) => state.valued!);
/** And the one that windows on memory are of. */
export const useWindowed = (): View => useRun((state) => state.windowed!);
/** And the one that words are drawn of. */
export const useTold = (): View => useRun((state) => state.told!);
/** And the one that the drawing is of. */
export const useDrawn = (): View => useRun((state) => state.drawn!);

/** The tick just done, whose marks values carry, in the picture of a part: none while its tokens are still under way. */
export const useLast = (part: 'valued' | 'windowed' = 'valued'): TickReport | undefined =>
  useRun((state) => (state.motion ? undefined : state[part]?.last));

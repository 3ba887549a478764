/** What a class says before a step, and what came of it; counted for as long as the page lives. */
import { create } from 'zustand';
import { isRunning, type View } from '@zettak/core/session/protocol';
import { engine } from '../session/engine';
import { useRun } from './run';

export interface Prediction {
  readonly id: number;
  /** PC, a register, a flag, a cell, as the notation and the program call it. */
  readonly place: string;
  /** What is said, as typed; empty: nothing yet. */
  readonly text: string;
  /** How that is read, or why it is refused. */
  readonly reading: string;
  readonly value?: number | undefined;
}

/** What was said of a place before a command, and what it came to. */
export interface Judged {
  readonly place: string;
  readonly said: string;
  readonly came: string;
  readonly right: boolean;
  /** The tick that the run had come to. */
  readonly tick: number;
}

interface Predictions {
  readonly list: readonly Prediction[];
  /** The latest first. */
  readonly judged: readonly Judged[];
  readonly right: number;
  readonly wrong: number;
}

const MOST_JUDGED = 40;
const FRESH: Predictions = { list: [], judged: [], right: 0, wrong: 0 };

export const usePredictions = create<Predictions>()(() => FRESH);

const get = usePredictions.getState;
const set = usePredictions.setState;

export function addPrediction(place: string): void {
  const { list } = get();
  if (list.some((each) => each.place === place)) return;
  set({ list: [...list, { id: Math.max(0, ...list.map((each) => each.id)) + 1, place, text: '', reading: '' }] });
}
export const dropPrediction = (id: number): void => set({ list: get().list.filter((each) => each.id !== id) });

/** Another program lies on the bench. */
export const forgetPredictions = (): void => set(FRESH);

/** Back to nothing said and nothing counted; the places stay. */
export const countAnew = (): void => set({ judged: [], right: 0, wrong: 0 });

/** What the class says of a place; read at once, and judged after the next step. */
export async function sayOf(id: number, text: string, base: number): Promise<void> {
  const change = (part: Partial<Prediction>): void =>
    set({ list: get().list.map((each) => (each.id === id ? { ...each, ...part } : each)) });
  change({ text, reading: '', value: undefined });
  const own = get().list.find((each) => each.id === id);
  if (!own || text.trim() === '') return;
  const meant = await engine.hand.meant(own.place, text, base);
  if (get().list.find((each) => each.id === id)?.text !== text) return;
  if ('refused' in meant) change({ reading: meant.refused });
  else change({ reading: `is ${meant.reading}`, value: meant.value });
}

async function judge(tick: number): Promise<void> {
  const said = get().list.filter((each) => each.value !== undefined);
  // Said once, judged once, whatever comes meanwhile.
  set({ list: get().list.map((each) => (each.value === undefined ? each : { ...each, text: '', reading: '', value: undefined })) });
  const judged: Judged[] = [];
  for (const { place, text, value } of said) {
    const now = await engine.hand.valueAt(place);
    if (now) judged.push({ place, said: text.trim(), came: now.shown, right: now.value === value, tick });
  }
  const { judged: before, right, wrong } = get();
  const rights = judged.filter((each) => each.right).length;
  set({ judged: [...judged, ...before].slice(0, MOST_JUDGED), right: right + rights, wrong: wrong + judged.length - rights });
}

/** Judges whenever the run has come on and stands still. */
export function watchPredictions(): () => void {
  let before: View | undefined = useRun.getState().view;
  return useRun.subscribe(({ view, motion }) => {
    if (!view || motion || isRunning(view.status)) return;
    const on = before !== undefined && view.loaded === before.loaded && view.ticks > before.ticks;
    before = view;
    if (on && get().list.some((each) => each.value !== undefined)) void judge(view.ticks);
  });
}

/** The windows on memory at the foot of the bench: which memory, how it is read, what it follows; remembered. */
import { create } from 'zustand';
import { keep, keptValue } from '../../app/preferences';
import { PAIRINGS, type Pairing } from '@zettak/core/session/cellText';
import type { ValueBase } from '../looks';

export const FOLLOWED = ['nothing', 'PC', 'stack', 'writes', 'reads'] as const;
export type Followed = (typeof FOLLOWED)[number];

export interface MemoryWindow {
  readonly id: number;
  /** Of one that the machine does not have, the program's. */
  readonly space: number;
  /** Without one the machine's own. */
  readonly base?: ValueBase | undefined;
  /** A line a cell, with all that it can be read as; else rows of cells. */
  readonly list: boolean;
  readonly follow: Followed;
  /** Cells are tinted by how often the run has executed, read and written them. */
  readonly heat?: boolean | undefined;
  /** Two cells beside each other are shown and entered as one number; otherwise each by itself. */
  readonly pairs?: Pairing | undefined;
}

/** More have no room beside each other. */
export const MOST_WINDOWS = 3;

const KEPT = 'memory-windows';
const FIRST: MemoryWindow = { id: 1, space: 0, list: false, follow: 'nothing' };

function isWindow(found: unknown): found is MemoryWindow {
  const { id, space, list, follow, pairs } = (found ?? {}) as Partial<MemoryWindow>;
  if (pairs !== undefined && !PAIRINGS.includes(pairs)) return false;
  return typeof id === 'number' && typeof space === 'number' && typeof list === 'boolean' && FOLLOWED.includes(follow!);
}

function keptWindows(): readonly MemoryWindow[] {
  const found = keptValue(KEPT);
  const windows = Array.isArray(found) ? (found as unknown[]).filter(isWindow).slice(0, MOST_WINDOWS) : [];
  return windows.length > 0 ? windows : [FIRST];
}

export const useWindows = create<{ readonly windows: readonly MemoryWindow[] }>()(() => ({ windows: keptWindows() }));

function put(windows: readonly MemoryWindow[]): void {
  useWindows.setState({ windows });
  keep(KEPT, JSON.stringify(windows));
}

export function changeWindow(id: number, change: Partial<MemoryWindow>): void {
  put(useWindows.getState().windows.map((each) => (each.id === id ? { ...each, ...change } : each)));
}

/** Another one like the last. */
export function addWindow(): void {
  const { windows } = useWindows.getState();
  if (windows.length >= MOST_WINDOWS) return;
  put([...windows, { ...(windows.at(-1) ?? FIRST), id: Math.max(0, ...windows.map((each) => each.id)) + 1 }]);
}

export function closeWindow(id: number): void {
  const windows = useWindows.getState().windows.filter((each) => each.id !== id);
  put(windows.length > 0 ? windows : [FIRST]);
}

/** How the bench is looked at: which panels stand where, in which base, what somebody points at. */
import { create } from 'zustand';
import { keep, kept } from '../app/preferences';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { Base } from '@zettak/core/text/number';
import { setFolded, useLayout } from './layout';

export type ValueBase = 'hex' | 'oct' | 'dec' | 'bin' | 'char';

const BY_BASE: Readonly<Record<Base, ValueBase>> = { 2: 'bin', 8: 'oct', 10: 'dec', 16: 'hex' };
const BASE_OF: Readonly<Record<Exclude<ValueBase, 'char'>, Base>> = { hex: 16, oct: 8, dec: 10, bin: 2 };

/** What a memory can be shown as: the machine's own base first. */
export const shownAs = ({ radix, base }: Machine): readonly ValueBase[] =>
  radix === 10 ? ['dec', 'char'] : [...new Set<ValueBase>([BY_BASE[base], 'hex', 'dec', 'bin', 'char'])];

/** The base of a panel as somebody has chosen it; the machine's own where nobody has, or where it cannot be. */
export function chosenBase(machine: Machine, chosen: ValueBase | undefined): ValueBase {
  const [own, ...others] = shownAs(machine);
  return chosen !== undefined && others.includes(chosen) ? chosen : (own ?? 'hex');
}

/** The base in which a panel reads numbers without a mark: the one that it shows; of characters the machine's own. */
export function baseRead(machine: Machine, chosen: ValueBase | undefined): Base {
  const shown = chosenBase(machine, chosen);
  return shown === 'char' ? machine.base : BASE_OF[shown];
}

/** A place that somebody points at, as the notation and the questions of the bench name it. */
export interface Pointed {
  readonly place: string;
  /** As the panel calls it. */
  readonly name: string;
  readonly cell: boolean;
  /** Its box on the screen. */
  readonly at: { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
}

/** What of the bench goes on paper by itself. */
export type OnPaper = 'listing' | 'run';

export interface LooksState {
  /** Of memory; without one, the machine's own. */
  readonly base?: ValueBase | undefined;
  /** The memory that is shown; without one, the program's. */
  readonly space?: number | undefined;
  /** The bench is set for writing: tools stand beside the source. */
  readonly writing: boolean;
  /** It is set for a room: only what a class looks at, and larger. */
  readonly projecting: boolean;
  /** The window for the layout is open. */
  readonly layingOut: boolean;
  /** What stands at its foot. */
  readonly dock: string;
  readonly writeTool: string;
  /** The run so far is shown as a list, a line an instruction. */
  readonly listed: boolean;
  /** The ways of starting over are being offered. */
  readonly startingOver: boolean;
  /** Line of the cursor in the source, from 1. */
  readonly cursorLine: number;
  /** What is shown as a sheet to be printed. */
  readonly onPaper?: OnPaper | undefined;
  /** A value that somebody asks about. */
  readonly pointed?: Pointed | undefined;
}

const [WRITING, DOCK, LAST_TOOL, WRITE_TOOL, LISTED] = ['writing', 'dock', 'dock-tool', 'tool', 'listed'];
/** What stands at the foot where nothing else was chosen. */
export const WAKE = 'wake';
/** Where windows on memory stand. */
export const WINDOWS = 'memory';

export const useLooks = create<LooksState>()(() => ({
  writing: kept(WRITING) === 'yes',
  projecting: false,
  layingOut: false,
  dock: kept(DOCK) || WAKE,
  writeTool: kept(WRITE_TOOL),
  listed: kept(LISTED) === 'yes',
  startingOver: false,
  cursorLine: 1,
}));

const set = useLooks.setState;

/** How the memory is looked at. */
export type Looks = Partial<Pick<LooksState, 'base' | 'space'>>;
/** For as long as the page lives. */
export const setLooks = (looks: Looks): void => set(looks);

/** Remembered. */
export function setWriting(writing: boolean): void {
  keep(WRITING, writing ? 'yes' : 'no');
  set({ writing, projecting: false });
}

/** For as long as the page lives. */
export const setProjecting = (projecting: boolean): void => set({ projecting });

/** Windows on memory can be seen. */
export const windowsShown = (): boolean => {
  const { dock, projecting } = useLooks.getState();
  return dock === WINDOWS && !projecting && !useLayout.getState().folded;
};

/** Remembered; a foot that is folded is opened. */
export function chooseDock(dock: string): void {
  keep(DOCK, dock);
  set({ dock });
  setFolded(false);
}

/** The tool that stood there last, or the run so far again. */
export function turnDock(): void {
  const { dock } = useLooks.getState();
  if (useLayout.getState().folded) return setFolded(false);
  if (dock !== WAKE) keep(LAST_TOOL, dock);
  chooseDock(dock === WAKE ? kept(LAST_TOOL) || 'stops' : WAKE);
}

/** Remembered. */
export function chooseWriteTool(writeTool: string): void {
  keep(WRITE_TOOL, writeTool);
  set({ writeTool });
}

/** Remembered. */
export function setListed(listed: boolean): void {
  keep(LISTED, listed ? 'yes' : 'no');
  set({ listed });
}

/** Opens or closes the window for the layout. */
export const setLayingOut = (layingOut: boolean): void => set({ layingOut });
/** Opens or closes the window with the ways of starting over. */
export const setStartingOver = (startingOver: boolean): void => set({ startingOver });
/** Shows a sheet to be printed; undefined closes it. */
export const setOnPaper = (onPaper: OnPaper | undefined): void => set({ onPaper });
/** From 1. */
export const setCursorLine = (cursorLine: number): void => set({ cursorLine });
/** Opens what can be done with a place; undefined closes it. */
export const askAbout = (pointed: Pointed | undefined): void => set({ pointed });

/** Where the panels of the bench stand and how much room each has; remembered, and kept under names for lessons. */
import { create } from 'zustand';
import { keep, keptValue } from '../app/preferences';
import { LAYOUT } from '../documents/lessonBench';

/** How the bench is set: to watch a run, or to write, with tools beside the source. */
export type Setting = 'watching' | 'writing';

export interface Layout {
  /** Per cent of each column, from left to right. */
  readonly watching: readonly number[];
  readonly writing: readonly number[];
  /** Source above, console below. */
  readonly program: readonly number[];
  /** The height of the foot in per cent: of the run so far, and of a tool. */
  readonly wake: number;
  readonly tool: number;
  readonly folded: boolean;
  /** Long lines of the source go on below instead of scrolling. */
  readonly wraps: boolean;
  /** By machine: registers and panels that a lesson does without. */
  readonly hidden: Readonly<Record<string, readonly string[]>>;
}

export const PLAIN: Layout = {
  watching: [29, 48, 23],
  writing: [27, 23, 29, 21],
  program: [78, 22],
  wake: 19,
  tool: 31,
  folded: false,
  wraps: false,
  hidden: {},
};

const NAMED = 'layouts';

/** Of something that was kept; undefined where it is no layout, as of another version. */
function layoutIn(found: unknown): Layout | undefined {
  if (typeof found !== 'object' || found === null) return undefined;
  const fits = Object.entries(PLAIN).every(([key, plain]: [string, unknown]) => {
    const own = (found as Record<string, unknown>)[key];
    if (Array.isArray(plain)) return Array.isArray(own) && own.length === plain.length && isSound(own);
    return typeof own === typeof plain && own !== null;
  });
  return fits ? (found as Layout) : undefined;
}

/** Shares of a whole; what a page that is folded up says is none. */
const isSound = (list: readonly unknown[]): boolean => list.every((each) => typeof each === 'number' && each >= 0 && each <= 100);

function namedIn(found: unknown): Readonly<Record<string, Layout>> {
  const entries = Object.entries(typeof found === 'object' && found !== null ? found : {});
  return Object.fromEntries(entries.flatMap(([name, each]) => (layoutIn(each) ? [[name, layoutIn(each)!]] : [])));
}

interface LayoutState extends Layout {
  readonly named: Readonly<Record<string, Layout>>;
}

export const useLayout = create<LayoutState>()(() => ({
  ...PLAIN,
  ...layoutIn(keptValue(LAYOUT)),
  named: namedIn(keptValue(NAMED)),
}));

function put(change: Partial<Layout>): void {
  useLayout.setState(change);
  const { named: _, ...layout } = useLayout.getState();
  keep(LAYOUT, JSON.stringify(layout));
}

export function setColumns(setting: Setting, list: readonly number[]): void {
  if (isSound(list)) put({ [setting]: [...list] });
}
export function setProgramHeights(list: readonly number[]): void {
  if (isSound(list)) put({ program: [...list] });
}
/** Of what stands in the dock now. */
export function setDockHeight(of: 'wake' | 'tool', height: number): void {
  if (height >= 5 && height <= 80) put({ [of]: height });
}
export const setFolded = (folded: boolean): void => put({ folded });
export const setWraps = (wraps: boolean): void => put({ wraps });

/** Panels that a lesson can do without; any other name is that of a register. */
export const OPTIONAL = ['memory', 'instruction in hand', 'flags'] as const;

const NOTHING: readonly string[] = [];
/** What a machine's lesson does without. */
export const useHidden = (machine: string): readonly string[] => useLayout((state) => state.hidden[machine] ?? NOTHING);

export function setHidden(machine: string, names: readonly string[]): void {
  const { hidden } = useLayout.getState();
  put({ hidden: { ...hidden, [machine]: names } });
}

/** As the bench comes. */
export const resetLayout = (): void => put(PLAIN);

/** Keeps the present one under a name; one that has it is replaced. */
export function keepLayout(name: string): void {
  const { named, ...layout } = useLayout.getState();
  putNamed({ ...named, [name]: layout });
}
export function takeLayout(name: string): void {
  const found = useLayout.getState().named[name];
  if (found) put(found);
}
export function dropLayout(name: string): void {
  const { [name]: _, ...rest } = useLayout.getState().named;
  putNamed(rest);
}

function putNamed(named: LayoutState['named']): void {
  useLayout.setState({ named });
  keep(NAMED, JSON.stringify(named));
}

/** From the text to the machine: loading it, the finished part of it, and the ways of starting over. */
import type { ProgramSymbol } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { isRunning, type Command, type Listing, type Loaded, type StartingOver } from '@zettak/core/session/protocol';
import { showsNothingHidden } from './sharing/share';
import { note } from '../documents/journal';
import { engine } from '../session/engine';
import { useDocument } from './document';
import { command, forgetMotion, useRun, withItsView, type RunState } from './run';
import { useText } from './text';

interface Loading {
  readonly clear: boolean;
  readonly inputs?: readonly number[];
  /** Load the finished part of a text with errors. */
  readonly unfinished?: boolean;
  /** Nobody has asked for it: that nothing was loaded is no news. */
  readonly unasked?: boolean;
}

/** The one press: assembles and loads. With errors nothing is loaded, and the message says so. */
export const load = (how: Loading): Promise<boolean> =>
  withItsView(async () => {
    const { source } = useText.getState();
    const { clear, inputs = useRun.getState().view?.handed ?? [], unfinished = false } = how;
    const found = await engine.load(source, { clear, inputs: [...inputs], unfinished });
    take(source, found, how);
    return found.loaded;
  });

function take(source: string, { loaded, partial, ...listing }: Loaded, { unasked = false }: Loading): void {
  const [first, ...more] = listing.problems.filter((each) => each.grade === 'error');
  useText.setState({ listing, listed: source, ...(listing.symbols && { symbols: listing.symbols }) });
  if (!loaded && unasked) return;
  useText.setState({ offersPart: partial });
  note('assembled', first ? `${more.length + 1} ${more.length === 0 ? 'error' : 'errors'}` : '');
  if (!loaded) {
    const count = more.length > 0 ? ` There are ${more.length + 1} errors.` : '';
    useText.setState({ message: first ? `Nothing was loaded. Line ${first.line}: ${first.sentence}${count}` : 'Nothing was loaded.' });
    return;
  }
  showsNothingHidden();
  const message = first && `The part before line ${first.line} is loaded. The run stops where something is missing.`;
  useText.setState({ message });
  const { machine } = useDocument.getState();
  if (machine) useRun.setState(shapeOf(machine, listing));
}

/** As long as no program is loaded. */
export const NO_PROGRAM: Pick<RunState, 'labels' | 'dataLabels' | 'routines' | 'parts' | 'rooms' | 'code'> = {
  ...{ labels: [], dataLabels: [], routines: [], parts: [], rooms: [], code: new Set() },
};

/** Where the parts of a loaded program lie. */
function shapeOf(
  { spaces, programSpace }: Machine,
  { rows, symbols = [], routines = [], parts = [] }: Listing,
): Pick<RunState, 'labels' | 'dataLabels' | 'routines' | 'parts' | 'rooms' | 'code'> {
  const labels = spaces.map((_, space) => labelsIn(symbols, space, programSpace));
  const { systemRows } = useDocument.getState();
  const data = new Set(
    rows.flatMap((row) => (row.kind === 'data' || row.kind === 'room' ? [`${row.space ?? programSpace} ${row.address!}`] : [])),
  );
  const dataLabels = labels.map((each, space) => new Map([...each].filter(([address]) => data.has(`${space} ${address}`))));
  const rooms = [rows, ...parts.map((each) => each.rows)]
    .flat()
    .flatMap(({ kind, space = programSpace, address, size = 0 }) =>
      kind === 'room' && address !== undefined && size > 0 ? [{ space, from: address, to: address + size - 1 }] : [],
    );
  const code = new Set(
    [rows, systemRows, ...parts.map((each) => each.rows)]
      .flat()
      .flatMap((row) => (row.kind === 'code' ? row.words.map((_, at) => row.address! + at) : [])),
  );
  return { labels, dataLabels, routines, parts, rooms, code };
}

/** Of several names for one cell the first counts: a routine's before those inside it. */
function labelsIn(symbols: readonly ProgramSymbol[], space: number, programSpace: number): ReadonlyMap<number, string> {
  const own = symbols.filter((each) => each.kind === 'label' && (each.space ?? programSpace) === space);
  return new Map(own.toReversed().map((each) => [each.at ?? each.value, each.name]));
}

/** Commands that carry the run on. */
const FORWARD: ReadonlySet<Command> = new Set(['run', 'tick', 'instruction', 'over', 'out', 'phase', 'output']);

/**
 * Carries the run on with what is typed: a changed text is assembled and loaded first, where the run is at its start.
 * Later the run goes on with the program that the machine holds, and a note says that. All other commands just pass.
 */
export async function proceed(name: Command): Promise<void> {
  const { view } = useRun.getState();
  const isChanged = view !== undefined && view.status !== 'empty' && view.loaded !== useText.getState().source;
  if (!FORWARD.has(name) || !isChanged || isRunning(view.status)) return command(name);
  if (view.ticks === 0 && !(await load({ clear: false }))) return;
  command(name);
  if (view.ticks > 0) useText.setState({ note: 'The machine still holds the older program. Assemble and load to run the changed source.' });
}

/** Whichever is possible now. */
export const runOrPause = (): void => void proceed(isRunning(useRun.getState().view?.status) ? 'pause' : 'run');

/** Loads what comes before the first error, and runs it. */
export async function runFinishedPart(): Promise<void> {
  if (await load({ clear: false, unfinished: true })) command('run');
}

/** One of the ways of starting over; what is typed in the editor counts for the last two. */
export async function startOver(way: StartingOver): Promise<void> {
  forgetMotion();
  if (way === 'reload' || way === 'clear') await load({ clear: way === 'clear' });
  else await engine.startOver(way);
}

/** The screen opens a program with its sets, and hands a run over to the bench. */
import { NO_SETS } from '@zettak/core/trials/sets/table';
import { textOf } from '../app/textOf';
import { keep, kept, tabMemory } from '../app/preferences';
import { baseTexts } from '../documents/baseTexts';
import { client } from '../documents/client';
import { Draft } from '../documents/drafts';
import { partTexts } from '../documents/partTexts';
import { trialEngine } from '../session/trialEngine';
import { sayHere, useTrials } from './state';
import { offerColumns, recheck, takeSource, takeText } from './reading';
import { runSets } from './running';

const set = useTrials.setState;
const get = useTrials.getState;

const LAST = 'program';

/** Nothing of another program stands there while this one cannot be opened. */
function fails(failure: string): void {
  get().draft?.close();
  set({ failure, program: undefined, tried: undefined, draft: undefined, table: NO_SETS, rows: new Map(), unreadable: false });
}

/** Opens one program after another; of two under way the later counts. */
const opening = { turn: 0 };

/** Without an id the program that was opened last, or the first. */
export async function openTrials(id: string | undefined): Promise<void> {
  const turn = ++opening.turn;
  try {
    const wanted = id ?? kept(LAST);
    const early = wanted === undefined ? undefined : { program: client.get('program', wanted), results: client.results(wanted) };
    // Whether there is such a program, the list tells.
    for (const each of Object.values(early ?? {})) each.catch(() => undefined);
    const [programs, trials] = await Promise.all([client.list('program'), client.list('trial')]);
    const found = programs.find((each) => each.id === wanted) ?? (id === undefined ? programs[0] : undefined);
    set({ programs });
    if (!found)
      return fails(
        id === undefined ? 'There is no program yet. Write one on the bench first.' : `There is no program “${id}”. Choose another above.`,
      );
    const asked = found.id === wanted ? early : undefined;
    const [program, machine] = await Promise.all([
      asked?.program ?? client.get('program', found.id),
      client.get('machine', found.machine!),
    ]);
    const number = machine.versions.at(-1)?.number;
    if (number === undefined) return fails(`The machine ${machine.name} has no version yet. Open it under Machines and save one.`);
    const trial = trials.find((each) => each.program === program.id);
    const [version, parts, document, results] = await Promise.all([
      client.version('machine', machine.id, number),
      partTexts(machine.id),
      trial && client.get('trial', trial.id),
      asked?.results ?? client.results(program.id),
    ]);
    const { text, language } = version;
    const bases = await baseTexts(text);
    if (turn !== opening.turn) return;
    await trialEngine.use({ text, language, bases, parts });
    const draft = document && (await Draft.open('trial', document, (saveState) => set({ saveState })));
    if (turn !== opening.turn) return draft?.close();
    get().draft?.close();
    keep(LAST, program.id);
    set({
      ...{
        program,
        machineName: machine.name,
        machineVersion: number,
        draft,
        saveState: { kind: 'saved' },
        failure: undefined,
        kept: results,
      },
      ...{
        past: [],
        future: [],
        more: { given: [], expected: [] },
        work: undefined,
        chosen: undefined,
        reached: undefined,
        parted: undefined,
        said: undefined,
      },
      again: kept(`again.${program.id}`) === 'yes',
    });
    await takeSource(program.draft);
    takeText(draft?.text ?? '');
    offerColumns();
  } catch (error) {
    if (turn === opening.turn) fails(textOf(error));
  }
}

const ranBefore = (): number[] => get().table.sets.flatMap((each, at) => (get().rows.has(each.name) ? [at] : []));

/** After the window comes back: the program may have been changed on the bench. */
export async function lookAgain(): Promise<void> {
  const { program, source, again, work } = get();
  if (!program || work) return;
  const now = await client.get('program', program.id).catch(() => undefined);
  if (!now || get().program?.id !== now.id || now.draft === source) return;
  set({ program: now });
  await takeSource(now.draft);
  await recheck();
  if (again && get().rows.size > 0) await runSets(ranBefore());
}

/** Once more, after the server was away; what is open stays, with all that can be undone. */
export const openAgain = (id: string | undefined): Promise<void> =>
  get().program && get().failure === undefined ? lookAgain() : openTrials(id);

/** Puts the run of a set before the bench, which takes it when it opens; where to go then. `other`: on another program's text. */
export async function ontoBench(
  name: string,
  tick?: number,
  other?: { readonly program: string; readonly source: string },
): Promise<string | undefined> {
  const { table, program } = get();
  const at = table.sets.findIndex((each) => each.name === name);
  const file = await trialEngine.fileFor(table, at, tick, other?.source);
  const id = other?.program ?? program?.id;
  if ('wrong' in file || id === undefined) {
    sayHere('wrong' in file ? file.wrong : '');
    return undefined;
  }
  if (!tabMemory.keep(`open.${id}`, file.text)) {
    sayHere('The browser has no room to hand the run over.');
    return undefined;
  }
  // While such a run stands on the bench it is not shared with a class.
  if (table.sets[at]?.hidden) tabMemory.keep(`hidden.${id}`, 'yes');
  else tabMemory.forget(`hidden.${id}`);
  return `/bench/${id}`;
}

/** Sets are run and what came is kept; what was never tried is looked for, proposed and compared. */
import { CALLED_OFF, keyOfSet } from '@zettak/core/session/trialBench';
import type { Target, Untried } from '@zettak/core/trials/reach/coverage';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import { quotedOutput } from '@zettak/core/trials/sets/output';
import type { TrialSet } from '@zettak/core/trials/sets/table';
import { itemAt } from '@zettak/core/text/itemAt';
import { textOf } from '../app/textOf';
import { keep } from '../app/preferences';
import { client } from '../documents/client';
import { told, trialEngine } from '../session/trialEngine';
import { columnsOf, sayHere, useTrials, type KeptRow, type Work } from './state';
import { changeSet, edit, withSets } from './editing';

const set = useTrials.setState;
const get = useTrials.getState;

/** One thing at a time; what is under way is called off. */
async function working<T>(what: string, total: number, act: (tell: (done: number) => void) => Promise<T>): Promise<T | undefined> {
  const work: Work = { what, done: 0, total };
  set({ work, said: undefined });
  try {
    const found = await act((done) => set((state) => (state.work?.what === what ? { work: { ...work, done } } : {})));
    return found;
  } catch (error) {
    sayHere(`That went wrong: ${textOf(error)}`);
    return undefined;
  } finally {
    set((state) => (state.work?.what === what ? { work: undefined } : {}));
  }
}

export function callOff(): void {
  void trialEngine.callOff();
  set({ work: undefined });
}

/** Runs the sets at these places of the table, all without a list. */
export async function runSets(which: readonly number[] = get().table.sets.map((_, at) => at)): Promise<void> {
  const { table, tried, program } = get();
  if (!tried?.facts || !program) return sayHere('The program has errors: it cannot be run. Mend it on the bench.');
  const { key } = tried.facts;
  const keep = get().old ? new Map<string, KeptRow>() : new Map(get().rows);
  set({ old: false, rows: keep });
  const done = await working('running', which.length, async (tell) => {
    let at = 0;
    const took = (list: readonly TrialRow[], count: number): void => {
      const rows = new Map(get().rows);
      for (const row of list) rows.set(row.name, { row, set: keyOfSet(itemAt(table.sets, itemAt(which, at++))) });
      set({ rows });
      tell(count);
    };
    return trialEngine.run(table, which, told(took));
  });
  if (done === undefined) return;
  if (done === CALLED_OFF) sayHere('Called off; the rows that were done stay.');
  await keepRows(program.id, key);
}

async function keepRows(program: string, key: string): Promise<void> {
  const { table, rows } = get();
  const list = table.sets.flatMap((each) => rows.get(each.name) ?? []);
  const text = JSON.stringify(list);
  try {
    await client.keepResults(program, key, text);
    const entry = { key, rows: text, createdAt: new Date().toISOString() };
    set((state) => ({ kept: [entry, ...state.kept.filter((each) => each.key !== key)] }));
  } catch (error) {
    sayHere(`The results stand here, and are not kept: ${textOf(error)}`);
  }
}

/** Everything of one row, also which instruction set each flag. */
export async function wholeRow(name: string): Promise<void> {
  const { table, rows, old } = get();
  const at = table.sets.findIndex((each) => each.name === name);
  const known = rows.get(name);
  if (at < 0 || !known || old || known.row.flags.some((each) => each.by !== undefined) || known.row.verdict === 'unread') return;
  const row = await trialEngine.row(table, at);
  if (row && get().table === table && get().rows.get(name) === known)
    set((state) => ({ rows: new Map(state.rows).set(name, { ...known, row }) }));
}

/** What these sets, or all, have never tried. */
export async function lookReached(which: readonly number[] = get().table.sets.map((_, at) => at)): Promise<void> {
  const { table } = get();
  const found = await working('looking', 1, async (tell) => trialEngine.reached(table, which, told(tell)));
  if (!found || found === CALLED_OFF) return;
  const over = which.length === 1 && table.sets.length > 1 ? table.sets[itemAt(which, 0)]?.name : undefined;
  set({ reached: { ...found, over } });
}

export async function proposeFor({ targets, address, text }: Untried, target: Target | undefined = targets[0]): Promise<void> {
  if (!target) return;
  const { table } = get();
  const what = `looking for a set for ${address} ${text}`;
  const found = await working(what, 1, async (tell) => trialEngine.propose(table, target, told(tell)));
  if (!found || found === CALLED_OFF) return;
  if ('why' in found) return sayHere(found.why);
  edit(withSets([...get().table.sets, found.set]));
  set({ chosen: found.set.name });
  await runSets([get().table.sets.length - 1]);
  await lookReached();
  sayHere(`“${found.set.name}” is proposed after ${found.tried.toLocaleString('en-US')} tries. Say what you expect of it.`);
}

export interface Other {
  readonly set: string;
  readonly says: string;
  readonly source?: string;
  /** The id of the program that the source is of, where it is another one. */
  readonly program?: string;
}

/** Where the runs of a set and of another one, or of another text of the program, part. */
export async function part(left: string, right: Other): Promise<void> {
  const { table } = get();
  const at = (name: string): number => table.sets.findIndex((each) => each.name === name);
  const other = { set: at(right.set), ...(right.source !== undefined && { source: right.source }) };
  const found = await working('comparing', 1, async (tell) => trialEngine.part(table, at(left), other, told(tell)));
  if (!found || found === CALLED_OFF) return;
  if ('wrong' in found) return sayHere(found.wrong);
  set({ parted: { found, left: { set: left, says: left }, right } });
}

export function setAgain(again: boolean): void {
  const { program } = get();
  if (program) keep(`again.${program.id}`, again ? 'yes' : 'no');
  set({ again });
}

/** Whether a row came of the set as it is now. */
export const isFresh = (kept: KeptRow | undefined, one: TrialSet): boolean => kept !== undefined && kept.set === keyOfSet(one);

/** What came of a set is what is expected of it from now on, in every column of the table. */
export function takeOver(at: number): void {
  const { table, rows, more } = get();
  const one = itemAt(table.sets, at);
  const row = rows.get(one.name)?.row;
  if (!row) return;
  const columns = columnsOf(table, more, 'expected');
  const came = new Map(row.seen.map((each) => [each.column, each.seen]));
  const expected = columns.flatMap((place) => {
    const seen = came.get(place);
    if (seen === undefined || seen === '' || seen.startsWith('…')) return one.expected.filter((each) => each.place === place);
    return [{ place, text: place.toLowerCase() === 'output' ? quotedOutput(seen) : seen }];
  });
  changeSet(at, { expected });
  const words = `“${one.name}” expects what came. Read it through before you trust it.`;
  if (expected.length === 0) return sayHere('There is no column yet: add a place under “expected”.');
  void runSets([at]).then(() => sayHere(words));
}

/** All sets on another text of the program. */
export async function runOther(source: string, says: string): Promise<readonly TrialRow[] | undefined> {
  const { table } = get();
  const which = table.sets.map((_, at) => at);
  const rows: TrialRow[] = [];
  const done = await working(`running ${says}`, which.length, async (tell) =>
    trialEngine.run(
      table,
      which,
      told((list: readonly TrialRow[], count: number) => {
        rows.push(...list);
        tell(count);
      }),
      source,
    ),
  );
  return done === 'done' ? rows : undefined;
}

/** Takes the texts of a program and of its sets in: what the screen shows of them, and the rows that are kept. */
import { NO_SETS, readTable } from '@zettak/core/trials/sets/table';
import { trialEngine } from '../session/trialEngine';
import { useTrials, type KeptRow } from './state';

const set = useTrials.setState;
const get = useTrials.getState;

export async function takeSource(source: string): Promise<void> {
  const tried = await trialEngine.take(source);
  set({ source, tried, reached: undefined, parted: undefined });
  takeKept();
}

/** A table without sets begins with the places that the program names itself. */
export function offerColumns(): void {
  const { table, tried } = get();
  if (table.sets.length > 0 || !tried?.facts) return;
  const { inputs, outputs, reads } = tried.facts;
  set({
    more: { given: [...inputs, ...(inputs.length === 0 && reads ? ['input'] : [])], expected: outputs.length > 0 ? outputs : ['output'] },
  });
}

export function takeText(text: string): void {
  const read = readTable(text);
  if ('problem' in read)
    return set({
      table: NO_SETS,
      unreadable: true,
      failure: `The sets of this program cannot be read. ${read.problem.sentence} Import a file to replace them.`,
    });
  set({ table: read.table, unreadable: false });
  void recheck();
}

/** Rows of the present texts where there are any, else the newest of others, told as old. */
function takeKept(): void {
  const { kept: results, tried } = get();
  const key = tried?.facts?.key;
  const own = results.find((each) => each.key === key);
  const found = own ?? results[0];
  set({ rows: found ? rowsIn(found.rows) : new Map(), old: found !== undefined && !own });
}

function rowsIn(text: string): Map<string, KeptRow> {
  try {
    const list = JSON.parse(text) as readonly KeptRow[];
    return new Map(list.map((each) => [each.row.name, each]));
  } catch {
    return new Map();
  }
}

export async function recheck(): Promise<void> {
  const { table } = get();
  const problems = await trialEngine.check(table);
  if (get().table === table) set({ problems });
}

/** What the other page has saved. */
export const takeOther = (text: string): void => takeText(text);

/** Puts a set among those that a program has, wherever it comes from. */
import type { DocumentDetail } from '@zettak/api/documents';
import { emptySet, freeName, readTable, withEntry, writeTable, type TrialSet } from '@zettak/core/trials/sets/table';
import { textOf } from '../app/textOf';
import { client } from './client';

type Table = Parameters<typeof writeTable>[0];

/** Changes the sets of a program as the server has them; the sentence that `change` gives, or why nothing was done. */
async function changeSets(
  { id, name }: Owner,
  change: (table: Table) => { readonly table: Table; readonly says: string },
): Promise<string> {
  try {
    const found = (await client.list('trial')).find((each) => each.program === id);
    const document = found ? await client.get('trial', found.id) : await client.create('trial', { name, text: '', program: id });
    const read = readTable(document.draft);
    if ('problem' in read) return `The sets of this program cannot be read, so nothing was changed. ${read.problem.sentence}`;
    const { table, says } = change(read.table);
    await client.saveDraft('trial', document.id, { text: writeTable(table, document.draft), revision: document.revision });
    return says;
  } catch (error) {
    return `Nothing was kept: ${textOf(error)}`;
  }
}

type Owner = Pick<DocumentDetail, 'id' | 'name'>;

/** A set more; the sentence that tells of it, or of why it was not done. */
export const addToSets = (program: Owner, set: TrialSet): Promise<string> =>
  changeSets(program, (table) => {
    const made = { ...set, name: freeName(table.sets, set.name) };
    return {
      table: { ...table, sets: [...table.sets, made] },
      says: `Kept as the set “${made.name}”, with what came as what is expected. It stands under Trials.`,
    };
  });

/** Expects a value of a place in one of the sets, in a new one where there is none of that name. */
export const expectInSet = (program: Owner, name: string, place: string, text: string): Promise<string> =>
  changeSets(program, (table) => {
    const own = table.sets.find((each) => each.name === name) ?? emptySet(name);
    const made = { ...own, expected: withEntry(own.expected, place, text) };
    const sets = table.sets.includes(own) ? table.sets.map((each) => (each === own ? made : each)) : [...table.sets, made];
    return { table: { ...table, sets }, says: `“${name}” expects ${text} in ${place}.` };
  });

/** Names of the sets of a program, as the server has them. */
export async function setNames(program: string): Promise<string[]> {
  const found = (await client.list('trial')).find((each) => each.program === program);
  const read = found ? readTable((await client.get('trial', found.id)).draft) : undefined;
  return read && 'table' in read ? read.table.sets.map((each) => each.name) : [];
}

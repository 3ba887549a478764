/** Puts a set among those that a program has, wherever it comes from. */
import type { DocumentDetail } from '@zettak/api/documents';
import { freeName, NO_SETS, readTable, writeTable, type TrialSet } from '@zettak/core/trials/sets/table';
import { client } from './client';

/** The sentence that tells of it, or of why it was not done. */
export async function addToSets({ id, name }: DocumentDetail, set: TrialSet): Promise<string> {
  try {
    const found = (await client.list('trial')).find((each) => each.program === id);
    const document = found ? await client.get('trial', found.id) : await client.create('trial', { name, text: '', program: id });
    const read = readTable(document.draft);
    if ('problem' in read) return `The sets of this program cannot be read, so nothing was added. ${read.problem.sentence}`;
    const { sets } = document.draft.trim() === '' ? NO_SETS : read.table;
    const made = { ...set, name: freeName(sets, set.name) };
    await client.saveDraft('trial', document.id, {
      text: writeTable({ ...read.table, sets: [...sets, made] }),
      revision: document.revision,
    });
    return `Kept as the set “${made.name}”, with what came as what is expected. It stands under Trials.`;
  } catch (error) {
    return `The set was not kept: ${error instanceof Error ? error.message : String(error)}`;
  }
}

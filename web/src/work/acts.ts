/** What a student does: try the shown sets, hand in, keep a hand-in as a file. */
import type { Receipt } from '@zettak/api/work';
import { sealed, type Bundle } from '@zettak/core/trials/handIns/bundle';
import { finalState } from '@zettak/core/trials/handIns/claims';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import { readTable } from '@zettak/core/trials/sets/table';
import { textOf } from '../app/textOf';
import { keep } from '../app/preferences';
import { client, Refused, Unreachable } from '../documents/client';
import { journal, note } from '../documents/journal';
import { workClient } from '../documents/workClient';
import { told, trialEngine } from '../session/trialEngine';
import { saveFile } from '../ui/saveFile';
import { programOf, useWork } from './state';

const set = useWork.setState;
const get = useWork.getState;

/** The program as it is now: it may have been changed on the bench. */
export async function lookAtProgram(): Promise<void> {
  const { assignment, source } = get();
  if (!assignment?.content) return;
  const { draft } = await client.get('program', programOf(assignment.id));
  if (draft !== source) set({ source: draft, rows: undefined, wrong: undefined });
}

export function nameLabel(label: string): void {
  keep('label', label);
  set({ label });
}

/** Runs the shown sets; returns their rows, none where the program does not assemble, which is told. */
export async function tryShown(): Promise<readonly TrialRow[]> {
  const { assignment } = get();
  const content = assignment?.content;
  if (!assignment || !content) return [];
  set({ busy: true, said: undefined });
  try {
    await lookAtProgram();
    const { source } = get();
    const read = readTable(content.sets);
    if ('problem' in read) return [];
    await trialEngine.use({ text: content.machine, language: content.language, bases: content.bases, parts: content.parts });
    const { facts, problems } = await trialEngine.take(source);
    const first = problems.find((each) => each.grade === 'error');
    if (!facts) {
      set({ rows: undefined, wrong: first ? `Line ${first.line}: ${first.sentence}` : 'It does not assemble.' });
      return [];
    }
    const rows: TrialRow[] = [];
    const table = { ...read.table, mostTicks: content.mostTicks ?? read.table.mostTicks };
    const which = table.sets.map((_, at) => at);
    await trialEngine.run(
      table,
      which,
      told((some: readonly TrialRow[]) => void rows.push(...some)),
    );
    note('tried', `${rows.filter((each) => each.verdict === 'holds').length} of ${rows.length} hold`);
    set({ rows: [...rows], wrong: undefined });
    return rows;
  } finally {
    set({ busy: false });
  }
}

async function bundleNow(): Promise<Bundle | undefined> {
  const { assignment, label } = get();
  const content = assignment?.content;
  if (!assignment || !content) return undefined;
  const rows = await tryShown();
  const sets = (await client.list('trial')).find((each) => each.program === programOf(assignment.id));
  note('handed in');
  return sealed({
    ...{ zettak: 'hand-in', version: 1, assignment: assignment.id, state: content.key, label: label.trim() },
    machine: { name: content.machineName, version: content.machineVersion },
    handedInAt: new Date().toISOString(),
    source: get().source,
    sets: sets ? (await client.get('trial', sets.id)).draft : '',
    results: rows.map((row) => ({
      ...{ set: row.name, verdict: row.verdict, ticks: row.ticks, instructions: row.instructions, end: row.end ?? '' },
      final: finalState(row),
    })),
    journal: [...(journal()?.all ?? [])],
  });
}

const fileOf = (bundle: Bundle): string => `${bundle.label.replace(/[\\/:*?"<>|]/g, '-')}.hand-in.json`;

/** Hands in; without a server the hand-in becomes a file that can be given in later. */
export async function handIn(): Promise<void> {
  const { tokens } = get();
  if (!tokens) return saveHandIn();
  set({ failure: undefined });
  try {
    const bundle = await bundleNow();
    if (!bundle) return;
    set({ busy: true });
    try {
      const receipt = await workClient.handIn(tokens, JSON.stringify(bundle));
      const { receipts } = get();
      const known = receipts.some((each) => each.signature === receipt.signature);
      set({ receipts: known ? receipts : [...receipts, receipt], away: false, said: receiptSays(receipt) });
    } catch (error) {
      if (!(error instanceof Unreachable)) throw error;
      saveFile(fileOf(bundle), JSON.stringify(bundle, undefined, 1));
      set({
        away: true,
        said: `The server cannot be reached, so your hand-in was saved as “${fileOf(bundle)}”. Give that file to your teacher, or hand in again later.`,
      });
    }
  } catch (error) {
    set({ failure: error instanceof Refused ? error.detail : textOf(error) });
  } finally {
    set({ busy: false });
  }
}

const receiptSays = ({ label, number, arrivedAt, late }: Receipt): string =>
  `Handed in as ${label}${number > 1 ? `, for the ${number}. time` : ''}, at ${new Date(arrivedAt).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}${late ? ', which is late' : ''}. The receipt is below.`;

/** The hand-in as a file, whatever the network says. */
export async function saveHandIn(): Promise<void> {
  const bundle = await bundleNow();
  if (!bundle) return;
  saveFile(fileOf(bundle), JSON.stringify(bundle, undefined, 1));
  set({ said: `Your hand-in was saved as “${fileOf(bundle)}”. Give that file to your teacher.` });
}

/** Another task of the same lesson. */
export function chooseTask(id: string): void {
  const assignment = get().choices.find((each) => each.id === id);
  if (!assignment) return;
  keep('folder task', id);
  set({ assignment, source: '', rows: undefined, wrong: undefined, said: undefined });
  void lookAtProgram();
}

export const saveReceipt = (receipt: Receipt): void =>
  saveFile(`receipt ${receipt.label} ${receipt.number}.json`, JSON.stringify(receipt, undefined, 1));

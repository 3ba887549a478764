/** Sets are written, named, moved and brought in; every change can be undone and is saved. */
import { readSetsCsv } from '@zettak/core/trials/sets/csv';
import {
  emptySet,
  freeName,
  MOST_SETS,
  readTable,
  withEntry,
  writeTable,
  type SetTable,
  type TrialSet,
} from '@zettak/core/trials/sets/table';
import { itemAt } from '@zettak/core/text/itemAt';
import { textOf } from '../app/textOf';
import { client } from '../documents/client';
import { Draft } from '../documents/drafts';
import { trialEngine } from '../session/trialEngine';
import { columnsOf, sayHere, useTrials } from './state';
import { recheck } from './reading';

const set = useTrials.setState;
const get = useTrials.getState;

const MOST_UNDO = 200;

/** Another table in place of this one; undone with one press. */
export function edit(table: SetTable, layout?: string): void {
  const { table: before, past, unreadable } = get();
  if (table === before) return;
  // What cannot be read is not written over by a single entry.
  if (unreadable) return sayHere('The sets of this program cannot be read: import a file that replaces them first.');
  set({ table, past: [...past.slice(1 - MOST_UNDO), before], future: [], said: undefined });
  save(table, layout);
}

export function undo(): void {
  const { past, table, future } = get();
  const before = past.at(-1);
  if (!before) return;
  set({ table: before, past: past.slice(0, -1), future: [table, ...future] });
  save(before);
}

export function redo(): void {
  const { past, table, future } = get();
  const [next, ...rest] = future;
  if (!next) return;
  set({ table: next, past: [...past, table], future: rest });
  save(next);
}

/** One creation at a time: the document of sets is made with the first set. */
const creating: { under: Promise<void> | undefined } = { under: undefined };

/** In the layout of the text that it takes the place of, or of another that was brought in. */
function save(table: SetTable, layout?: string): void {
  void recheck();
  const { draft, program } = get();
  if (draft) return draft.change(writeTable(table, layout ?? draft.text));
  if (!program) return;
  creating.under ??= createDocument(program.id, program.name).finally(() => (creating.under = undefined));
}

async function createDocument(program: string, name: string): Promise<void> {
  set({ saveState: { kind: 'saving' } });
  try {
    const document = await client.create('trial', { name, text: '', program });
    const draft = await Draft.open('trial', document, (saveState) => set({ saveState }));
    if (get().program?.id !== program) return draft.close();
    set({ draft });
    draft.change(writeTable(get().table));
  } catch (error) {
    set({ saveState: { kind: 'refused', sentence: `The sets are not kept yet: ${textOf(error)} Change one to try again.` } });
  }
}

export const withSets = (sets: readonly TrialSet[]): SetTable => ({ ...get().table, sets });

export function changeSet(at: number, change: Partial<TrialSet>): void {
  edit(withSets(get().table.sets.map((each, index) => (index === at ? { ...each, ...change } : each))));
}

/** False where another set is called so. */
export function renameSet(at: number, name: string): boolean {
  const { sets } = get().table;
  const wanted = name.trim();
  if (wanted === '' || sets.some((each, index) => index !== at && each.name === wanted)) return false;
  const before = itemAt(sets, at).name;
  changeSet(at, { name: wanted });
  const rows = new Map(get().rows);
  const row = rows.get(before);
  if (row) {
    rows.delete(before);
    rows.set(wanted, { ...row, row: { ...row.row, name: wanted } });
  }
  set((state) => ({ rows, chosen: state.chosen === before ? wanted : state.chosen }));
  return true;
}

export function enter(at: number, of: 'given' | 'expected', place: string, text: string): void {
  const one = get().table.sets[at];
  if (one) changeSet(at, { [of]: withEntry(one[of], place, text.trim()) });
}

/** A new set behind the others, or behind one that it is a copy of. */
export function addSet(name: string, copied?: TrialSet): void {
  const { sets } = get().table;
  if (sets.length >= MOST_SETS) return sayHere(`A program has at most ${MOST_SETS} sets.`);
  const made = { ...(copied ?? emptySet('')), name: freeName(sets, name.trim() || 'set') };
  const at = copied ? sets.findIndex((each) => each.name === copied.name) + 1 : sets.length;
  edit(withSets([...sets.slice(0, at), made, ...sets.slice(at)]));
  set({ chosen: made.name });
}

export function removeSet(at: number): void {
  const { sets } = get().table;
  const name = itemAt(sets, at).name;
  edit(withSets(sets.filter((_, index) => index !== at)));
  set({ chosen: sets[at + 1]?.name ?? sets[at - 1]?.name });
  sayHere(`“${name}” is taken out. Undo brings it back.`);
}

export function moveSet(at: number, by: 1 | -1): void {
  const { sets } = get().table;
  const other = at + by;
  if (other < 0 || other >= sets.length) return;
  const list = [...sets];
  [list[at], list[other]] = [itemAt(sets, other), itemAt(sets, at)];
  edit(withSets(list));
}

/** The column that stands there, once it means something; the sentence where it does not. */
export async function addColumn(of: 'given' | 'expected', name: string): Promise<string | undefined> {
  const place = name.trim();
  if (place === '') return undefined;
  const { table, more } = get();
  if (columnsOf(table, more, of).includes(place)) return `There is a column ${place} already.`;
  const wrong = await columnProblem(of, place);
  if (wrong !== undefined) return wrong;
  set((state) => ({ more: { ...state.more, [of]: [...state.more[of], place] } }));
  return undefined;
}

async function columnProblem(of: 'given' | 'expected', place: string): Promise<string | undefined> {
  const { base } = get().table;
  if (of === 'expected') {
    const column = await trialEngine.column(place, base);
    return 'wrong' in column ? column.wrong : undefined;
  }
  const read = await trialEngine.reading('given', place, '0', base);
  return read.wrong ? read.says : undefined;
}

export function removeColumn(of: 'given' | 'expected', place: string): void {
  const { table } = get();
  set((state) => ({ more: { ...state.more, [of]: state.more[of].filter((each) => each !== place) } }));
  if (table.sets.some((each) => each[of].some((entry) => entry.place === place)))
    edit(withSets(table.sets.map((each) => ({ ...each, [of]: each[of].filter((entry) => entry.place !== place) }))));
}

/** Rows of a spreadsheet over the cells from one of them on; sets are added where rows go past the end. */
export function paste(at: number, column: number, text: string): void {
  const rows = text
    .replace(/\r\n?/g, '\n')
    .replace(/\n$/, '')
    .split('\n')
    .map((each) => each.split('\t'));
  const { table, more } = get();
  const [given, expected] = [columnsOf(table, more, 'given'), columnsOf(table, more, 'expected')];
  const columns = [
    { of: 'name' as const, place: '' },
    ...given.map((place) => ({ of: 'given' as const, place })),
    ...expected.map((place) => ({ of: 'expected' as const, place })),
  ];
  const sets = [...table.sets];
  let lost = 0;
  rows.forEach((fields, row) => {
    const index = at + row;
    if (index >= MOST_SETS) return void lost++;
    let made = sets[index] ?? emptySet(freeName(sets, fields[0] && column === 0 ? fields[0].trim() : 'set'));
    fields.forEach((field, offset) => {
      const target = columns[column + offset];
      if (!target) return void (field.trim() !== '' && lost++);
      if (target.of === 'name') {
        const others = sets.filter((_, other) => other !== index);
        if (field.trim() !== '') made = { ...made, name: freeName(others, field.trim()) };
      } else made = { ...made, [target.of]: withEntry(made[target.of], target.place, field.trim()) };
    });
    sets[index] = made;
  });
  edit(withSets(sets));
  sayHere(`${rows.length} ${rows.length === 1 ? 'row' : 'rows'} pasted${lost > 0 ? `; ${lost} entries had no place` : ''}.`);
}

/** Sets from a file, CSV or YAML: those of a name that is here are replaced, the others are added. */
export async function importSets(file: File): Promise<void> {
  if (file.size > 8_000_000) return sayHere(`${file.name} is too large for a file of sets.`);
  const text = new TextDecoder('utf-8').decode(await file.arrayBuffer());
  const csv = /\.csv$/i.test(file.name);
  const read = csv ? readSetsCsv(text) : readTable(text);
  if ('problem' in read)
    return sayHere(`${file.name}${read.problem.line === undefined ? '' : `, line ${read.problem.line}`}: ${read.problem.sentence}`);
  const sets = 'sets' in read ? read.sets : read.table.sets;
  const problems = 'sets' in read ? read.problems : [];
  const { table } = get();
  const incoming = new Map(sets.map((each) => [each.name, each]));
  const replaced = table.sets.filter((each) => incoming.has(each.name)).length;
  const here = table.sets.map((each) => incoming.get(each.name) ?? each);
  const fresh = sets.filter((each) => !table.sets.some((own) => own.name === each.name));
  const all = [...here, ...fresh].slice(0, MOST_SETS);
  if (sets.length > 0) set({ unreadable: false, failure: undefined });
  if (sets.length > 0)
    edit(
      'table' in read
        ? {
            ...read.table,
            sets: all,
            sheet: read.table.sheet.problem || read.table.sheet.method.length > 0 ? read.table.sheet : table.sheet,
          }
        : { ...table, sets: all },
      // The remarks of a file that is all there is come with it.
      'table' in read && table.sets.length === 0 ? text : undefined,
    );
  const [first] = problems;
  const more = problems.length > 1 ? ` And ${problems.length - 1} more.` : '';
  sayHere(`${file.name}: ${fresh.length} added, ${replaced} replaced.${first ? ` Line ${first.line}: ${first.sentence}${more}` : ''}`);
}

/** What can be done with sets: open, edit, undo, run, ask what was never tried, propose, part, take in and give out. */
import { CALLED_OFF, keyOfSet } from '@zettak/core/session/trialBench';
import type { Target, Untried } from '@zettak/core/trials/reach/coverage';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import { quotedOutput } from '@zettak/core/trials/sets/fromRun';
import { readSetsCsv } from '@zettak/core/trials/sets/csv';
import {
  emptySet,
  freeName,
  MOST_SETS,
  NO_SETS,
  readTable,
  withEntry,
  writeTable,
  type SetTable,
  type TrialSet,
} from '@zettak/core/trials/sets/table';
import { itemAt } from '@zettak/core/text/itemAt';
import { keep, kept, tabMemory } from '../app/preferences';
import { baseTexts } from '../documents/baseTexts';
import { client } from '../documents/client';
import { Draft } from '../documents/drafts';
import { partTexts } from '../documents/partTexts';
import { told, trialEngine } from '../session/trialEngine';
import { columnsOf, sayHere, useTrials, type KeptRow, type Work } from './state';

const set = useTrials.setState;
const get = useTrials.getState;

const LAST = 'program';
const textOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));

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

async function takeSource(source: string): Promise<void> {
  const tried = await trialEngine.take(source);
  set({ source, tried, reached: undefined, parted: undefined });
  takeKept();
}

/** A table without sets begins with the places that the program names itself. */
function offerColumns(): void {
  const { table, tried } = get();
  if (table.sets.length > 0 || !tried?.facts) return;
  const { inputs, outputs, reads } = tried.facts;
  set({
    more: { given: [...inputs, ...(inputs.length === 0 && reads ? ['input'] : [])], expected: outputs.length > 0 ? outputs : ['output'] },
  });
}

function takeText(text: string): void {
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

async function recheck(): Promise<void> {
  const { table } = get();
  const problems = await trialEngine.check(table);
  if (get().table === table) set({ problems });
}

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

const ranBefore = (): number[] => get().table.sets.flatMap((each, at) => (get().rows.has(each.name) ? [at] : []));

// ---- editing ----

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

/** What the other page has saved. */
export const takeOther = (text: string): void => takeText(text);

const withSets = (sets: readonly TrialSet[]): SetTable => ({ ...get().table, sets });

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

// ---- running ----

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

// ---- to and fro ----

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

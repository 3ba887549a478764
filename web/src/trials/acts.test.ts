/** Sets as the screen of trials keeps them: edited, undone, run, taken in, over an engine and a keeper of documents without a page. */
import 'fake-indexeddb/auto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BackupDocument } from '@zettak/api/backup';
import type { Untried } from '@zettak/core/trials/reach/coverage';
import { keepIn } from '../documents/client';
import { openLessonDocuments } from '../documents/lessonClient';
import { memory, until } from '../testing/page';
import { addColumn, addSet, changeSet, enter, importSets, moveSet, paste, redo, removeColumn, removeSet, renameSet, undo } from './editing';
import { callOff, isFresh, lookReached, part, proposeFor, runOther, runSets, setAgain, takeOver, wholeRow } from './running';
import { lookAgain, ontoBench, openTrials } from './opening';
import { columnsOf, useTrials } from './state';

jest.mock('../app/tab', () => ({ startTab: () => ({ id: 'this', before: undefined, isAlive: () => true }) }));
jest.mock('../session/trialEngine', () => {
  const { TrialBench } = jest.requireActual<typeof import('@zettak/core/session/trialBench')>('@zettak/core/session/trialBench');
  const { scheduler } = jest.requireActual<typeof import('../testing/page')>('../testing/page');
  return { trialEngine: new TrialBench(scheduler), told: (act: unknown) => act };
});

const demo = (path: string): string => readFileSync(join(__dirname, '../../../demo', path), 'utf8');
const at = '2026-11-02T08:00:00.000Z';
const plain = { machine: null, program: null, revision: 1, createdAt: at, updatedAt: at, removedAt: null, versions: [] };
const machine = demo('machines/curlew.yaml');
const documents = (): BackupDocument[] => [
  {
    ...{ ...plain, id: 'curlew', kind: 'machine', name: 'Curlew', draft: machine },
    versions: [{ number: 1, text: machine, machineVersion: null, language: 1, createdAt: at }],
  },
  { ...plain, id: 'quay-watch', kind: 'program', name: 'quay watch', machine: 'curlew', draft: demo('programs/quay-watch.asm') },
  { ...plain, id: 'over', kind: 'program', name: 'over', machine: 'curlew', draft: 'start HALT\n' },
  { ...plain, id: 'quay', kind: 'trial', name: 'quay', machine: 'curlew', program: 'quay-watch', draft: demo('trials/quay-watch.yaml') },
  { ...plain, id: 'bare', kind: 'machine', name: 'Bare', draft: 'zettak: machine\n' },
  { ...plain, id: 'adrift', kind: 'program', name: 'adrift', machine: 'bare', draft: '' },
];

const world = { lesson: 0 };
const state = useTrials.getState;
const names = (): string[] => state().table.sets.map((each) => each.name);
const given = (name: string, place: string): string | undefined =>
  state()
    .table.sets.find((each) => each.name === name)
    ?.given.find((each) => each.place === place)?.text;
const verdicts = (): (string | undefined)[] => names().map((each) => state().rows.get(each)?.row.verdict);
const file = (name: string, text: string): File => new File([text], name);

let client: Awaited<ReturnType<typeof openLessonDocuments>>['client'];
beforeEach(async () => {
  Object.assign(globalThis, { localStorage: memory(), sessionStorage: memory() });
  Object.assign(globalThis, { window: globalThis, location: { pathname: '/trials' } });
  Object.assign(globalThis, { addEventListener: () => undefined });
  ({ client } = await openLessonDocuments(`trials-${++world.lesson}`, documents()));
  keepIn(client);
  await openTrials('quay-watch');
});
afterEach(() => state().draft?.close());

test('a program opens with its sets, a program that is not there or has no machine yet with a sentence', async () => {
  expect(state()).toMatchObject({ machineName: 'Curlew', machineVersion: 1, failure: undefined, past: [] });
  expect(names()).toContain('calm');
  await openTrials('nowhere');
  expect(state()).toMatchObject({ failure: 'There is no program “nowhere”. Choose another above.', program: undefined });
  expect(names()).toEqual([]);
  await openTrials('adrift');
  expect(state().failure).toBe('The machine Bare has no version yet. Open it under Machines and save one.');
  // Without an id that which was opened last.
  await openTrials(undefined);
  expect(state().program?.id).toBe('quay-watch');
});

test('of two programs under way the later one is opened', async () => {
  await Promise.all([openTrials('quay-watch'), openTrials('over')]);
  expect(state().program?.id).toBe('over');
  expect(names()).toEqual([]);
});

test('a program without sets offers the places that it names, and its first set makes the document', async () => {
  await openTrials('over');
  expect(columnsOf(state().table, state().more, 'expected')).toEqual(['output']);
  addSet('first');
  addSet('first');
  expect(names()).toEqual(['first', 'first 2']);
  await until(() => state().draft !== undefined);
  expect(state().draft?.text).toMatch(/name: first 2/);
  expect((await client.list('trial')).filter((each) => each.program === 'over')).toHaveLength(1);
});

test('an entry, a name, a place in the list: each is one step of undo, and a new step drops what could be redone', () => {
  const before = state().table;
  enter(0, 'given', 'level', ' 40 ');
  expect(given('calm', 'level')).toBe('40');
  expect(renameSet(0, ' quiet ')).toBe(true);
  moveSet(0, 1);
  expect(names()[1]).toBe('quiet');
  moveSet(0, -1);
  expect(names()[1]).toBe('quiet');
  undo();
  undo();
  expect(names()[0]).toBe('calm');
  redo();
  expect(names()[0]).toBe('quiet');
  changeSet(0, { purpose: 'another' });
  expect(state().future).toEqual([]);
  undo();
  undo();
  undo();
  expect(state().table).toBe(before);
  undo();
  expect(state().table).toBe(before);
});

test('two sets are never called the same, and a set without a name is none', () => {
  const [first, second] = names();
  expect(renameSet(0, second!)).toBe(false);
  expect(renameSet(0, '   ')).toBe(false);
  expect(names()[0]).toBe(first);
  addSet('copy', state().table.sets[0]);
  expect(names().slice(0, 3)).toEqual([first, 'copy', second]);
  expect(state().chosen).toBe('copy');
});

test('a set that is taken out leaves the next one chosen, and comes back as it was', () => {
  const all = names();
  removeSet(1);
  expect(state().chosen).toBe(all[2]);
  expect(state().said).toBe(`“${all[1]}” is taken out. Undo brings it back.`);
  undo();
  expect(names()).toEqual(all);
  removeSet(all.length - 1);
  expect(state().chosen).toBe(all.at(-2));
});

test('rows of a spreadsheet go over cells and past the end; what has no place is counted', () => {
  const count = names().length;
  const columns = ['given', 'expected'].flatMap((of) => columnsOf(state().table, state().more, of as 'given'));
  paste(count - 1, columns.length, '1\t2\r\n3\t4\r\n');
  expect(state().said).toBe('2 rows pasted; 2 entries had no place.');
  expect(names()).toHaveLength(count + 1);
  undo();
  expect(names()).toHaveLength(count);
  paste(count, 0, 'calm\t7\n');
  expect(names().at(-1)).toBe('calm 2');
  expect(given('calm 2', 'level')).toBe('7');
  expect(state().said).toBe('1 row pasted.');
});

test('a column is taken once it means something; taken out, it takes its entries along', async () => {
  expect(await addColumn('given', '')).toBeUndefined();
  expect(await addColumn('given', 'level')).toBe('There is a column level already.');
  expect(await addColumn('given', 'levle')).toMatch(/levle/);
  expect(await addColumn('expected', 'nowhere')).toMatch(/nowhere/);
  expect(await addColumn('given', 'ACC')).toBeUndefined();
  expect(columnsOf(state().table, state().more, 'given')).toContain('ACC');
  removeColumn('given', 'ACC');
  removeColumn('given', 'level');
  expect(columnsOf(state().table, state().more, 'given')).not.toContain('level');
  undo();
  expect(given('calm', 'level')).toBeDefined();
});

test('rows come of the sets as they were run; a set that is changed since has an old row', async () => {
  await runSets();
  expect(new Set(verdicts())).toEqual(new Set(['holds']));
  const [first] = state().table.sets;
  expect(isFresh(state().rows.get('calm'), first!)).toBe(true);
  enter(0, 'expected', 'later', '1');
  expect(isFresh(state().rows.get('calm'), state().table.sets[0]!)).toBe(false);
  await runSets([0]);
  expect(verdicts()[0]).toBe('differs');
  expect(verdicts()[1]).toBe('holds');
  renameSet(0, 'quiet');
  expect(verdicts()[0]).toBe('differs');
  await wholeRow('quiet');
  expect(
    state()
      .rows.get('quiet')
      ?.row.flags.some((each) => each.by !== undefined),
  ).toBe(true);
});

test('results are kept by the program’s text: of another text they are old, of this one they are there again', async () => {
  await runSets();
  await openTrials('quay-watch');
  expect(state()).toMatchObject({ old: false });
  expect(verdicts()[0]).toBe('holds');
  const { draft, revision } = await client.get('program', 'quay-watch');
  await client.saveDraft('program', 'quay-watch', { text: draft.replace('ADD', 'SUB'), revision });
  await lookAgain();
  expect(state().old).toBe(true);
  setAgain(true);
  await client.saveDraft('program', 'quay-watch', { text: `${draft.replace('ADD', 'SUB')}; more\n`, revision: revision + 1 });
  await lookAgain();
  expect(state().old).toBe(false);
  expect(verdicts()).toContain('differs');
});

test('a program with errors is not run, and says what to do', async () => {
  const { revision } = await client.get('program', 'quay-watch');
  await client.saveDraft('program', 'quay-watch', { text: 'LAOD 3\n', revision });
  await lookAgain();
  await runSets();
  expect(state().said).toBe('The program has errors: it cannot be run. Mend it on the bench.');
});

test('what came is expected from now on, in every column', async () => {
  enter(0, 'expected', 'later', '1');
  await runSets([0]);
  takeOver(0);
  await until(() => state().said !== undefined);
  expect(verdicts()[0]).toBe('holds');
  expect(state().said).toBe('“calm” expects what came. Read it through before you trust it.');
});

test('sets of a file replace those of their name; what a file is not, it says', async () => {
  const count = names().length;
  await importSets(file('more.csv', 'set,given level,colour\ncalm,12,blue\nnew one,13,\n'));
  expect(state().said).toMatch(/^more\.csv: 1 added, 1 replaced\. Line 1: .*“colour”/);
  expect(names()).toHaveLength(count + 1);
  expect(given('calm', 'level')).toBe('12');
  await importSets(file('broken.yaml', 'zettak: sets\nversion: 1\nsets: [{nam: x}]'));
  expect(state().said).toMatch(/^broken\.yaml.*Set 1/);
  await importSets(file('empty.csv', ''));
  expect(state().said).toMatch(/^empty\.csv/);
  expect(names()).toHaveLength(count + 1);
});

test('sets that cannot be read are not written over by an entry, but by a file', async () => {
  const { revision } = await client.get('trial', 'quay');
  await client.saveDraft('trial', 'quay', { text: 'sets: [', revision });
  await openTrials('quay-watch');
  expect(state().unreadable).toBe(true);
  addSet('lost?');
  expect(names()).toEqual([]);
  expect(state().said).toMatch(/import a file that replaces them first/);
  await importSets(file('sets.yaml', demo('trials/quay-watch.yaml')));
  expect(state()).toMatchObject({ unreadable: false, failure: undefined });
  expect(names()).toContain('calm');
});

test('what was never tried is told over all sets or one; a set is proposed, or why there is none', async () => {
  await lookReached([0]);
  expect(state().reached).toMatchObject({ over: 'calm' });
  await lookReached();
  expect(state().reached?.over).toBeUndefined();
  const open = (text: string): Untried => state().reached!.untried.find((each) => each.text === text)!;
  const count = names().length;
  // Shifted right, no value has its uppermost bit.
  await proposeFor(open('SHR'));
  expect(state().said).toMatch(/none|no set/i);
  expect(names()).toHaveLength(count);
  await proposeFor({ ...open('LOAD level'), targets: [] });
  expect(names()).toHaveLength(count);
  await proposeFor(open('LOAD level'));
  expect(state().said).toMatch(/is proposed after [\d,]+ tries\. Say what you expect of it\.$/);
  expect(given(state().chosen!, 'level')).toBe('00');
  expect(open('LOAD level')).toBeUndefined();
});

test('runs part where they do, and a run goes onto the bench as a file', async () => {
  await part('calm', { set: names()[1]!, says: names()[1]! });
  expect(state().parted?.left.set).toBe('calm');
  expect(await ontoBench('calm', 3)).toBe('/bench/quay-watch');
  expect(JSON.parse(sessionStorage.getItem('zettak.open.quay-watch')!)).toHaveProperty('machine');
  changeSet(0, { hidden: true });
  await ontoBench('calm');
  expect(sessionStorage.getItem('zettak.hidden.quay-watch')).toBe('yes');
  changeSet(0, { hidden: false });
  await ontoBench('calm');
  expect(sessionStorage.getItem('zettak.hidden.quay-watch')).toBeNull();
});

test('another text runs beside, leaving the rows of this one; what is called off ends', async () => {
  await runSets();
  const rows = state().rows;
  const other = await runOther(state().source.replace('ADD', 'SUB'), 'version 1');
  expect(other?.map((each) => each.name)).toEqual(names());
  expect(other?.some((each) => each.verdict === 'differs')).toBe(true);
  expect(state().rows).toBe(rows);
  const under = runSets();
  callOff();
  await under;
  expect(state().work).toBeUndefined();
});

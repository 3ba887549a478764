/** Sets of a program that come from other screens, on a keeper of documents without a server. */
import 'fake-indexeddb/auto';
import { emptySet, readTable } from '@zettak/core/trials/sets/table';
import { demoText, draftDocument, machineDocument } from '../testing/bench';
import { addToSets, expectInSet, setNames } from './addToSets';
import { client, keepIn, Unreachable } from './client';
import { givenTo, keepGiven } from './given';
import { Journal } from './journal';
import { openLessonDocuments } from './lessonClient';
import { memory } from '../testing/page';

const watch = { id: 'quay-watch', name: 'quay watch' };
const short = { id: 'short', name: 'short' };
let fresh = 0;

beforeEach(async () => {
  // Where somebody has written remarks, the layout is somebody's, too.
  const file = `# For the second week.\n${demoText('trials/quay-watch.yaml')}`;
  const sets = { ...draftDocument('trial', 'sets', file, 'curlew'), program: 'quay-watch' };
  const documents = [
    machineDocument('curlew', 'Curlew'),
    draftDocument('program', 'quay-watch', demoText('programs/quay-watch.asm'), 'curlew'),
    draftDocument('program', 'short', 'start HALT\n', 'curlew'),
    sets,
  ];
  keepIn((await openLessonDocuments(`sets ${fresh++}`, documents)).client);
});

const draft = async (): Promise<string> => (await client.get('trial', 'sets')).draft;
const table = async () => {
  const read = readTable(await draft());
  if ('problem' in read) throw new Error(read.problem.sentence);
  return read.table;
};

test('a set is put behind those that there are, under a name that is free, and the rest of the file stays', async () => {
  const before = await draft();
  const [first] = await setNames('quay-watch');
  const says = await addToSets(watch, { ...emptySet(first!), expected: [{ place: 'ACC', text: '1' }] });
  const names = await setNames('quay-watch');
  expect(new Set(names).size).toBe(names.length);
  expect(says).toBe(`Kept as the set “${names.at(-1)}”, with what came as what is expected. It stands under Trials.`);
  expect(await draft()).toContain(before.trimEnd());
});

test('what is expected goes into the set of that name, over what stood there, or into a new one', async () => {
  const count = (await table()).sets.length;
  const [first] = await setNames('quay-watch');
  expect(await expectInSet(watch, first!, 'later', '12')).toBe(`“${first}” expects 12 in later.`);
  expect(await expectInSet(watch, first!, 'later', '13')).toBe(`“${first}” expects 13 in later.`);
  const own = (await table()).sets.find((each) => each.name === first)!;
  expect(own.expected.filter((each) => each.place === 'later')).toEqual([{ place: 'later', text: '13' }]);
  await expectInSet(watch, 'another', 'C', '1');
  expect((await table()).sets.length).toBe(count + 1);
  expect((await table()).sets.at(-1)).toMatchObject({ name: 'another', expected: [{ place: 'C', text: '1' }] });
});

test('a program without sets has none, and gets its file with the first', async () => {
  expect(await setNames('short')).toEqual([]);
  await addToSets(short, emptySet('first'));
  expect(await setNames('short')).toEqual(['first']);
});

test('sets that cannot be read are left as they are, and so they are where the server cannot be reached', async () => {
  const { revision } = await client.get('trial', 'sets');
  await client.saveDraft('trial', 'sets', { text: 'sets: [', revision });
  expect(await addToSets(watch, emptySet('more'))).toMatch(/^The sets of this program cannot be read, so nothing was changed\. /);
  expect(await draft()).toBe('sets: [');
  expect(await setNames('quay-watch')).toEqual([]);
  const away = { ...client, list: () => Promise.reject(new Unreachable('The server cannot be reached.')) };
  keepIn(away);
  expect(await addToSets(watch, emptySet('more'))).toBe('Nothing was kept: The server cannot be reached.');
});

test('what a program was given is remembered as far as it is numbers, and not without end', () => {
  Object.assign(globalThis, { localStorage: memory() });
  expect(givenTo('tide')).toEqual([]);
  keepGiven('tide', [3, 1, 4]);
  expect(givenTo('tide')).toEqual([3, 1, 4]);
  expect(givenTo('other')).toEqual([]);
  keepGiven(
    'tide',
    Array.from({ length: 5000 }, (_, at) => at),
  );
  expect(givenTo('tide').length).toBe(2000);
  for (const rubbish of ['{', '{"a":1}', '[1,"2"]', 'null']) {
    localStorage.setItem('zettak.given.tide', rubbish);
    expect(givenTo('tide')).toEqual([]);
  }
});

test('a journal notes the same thing once in a minute, goes on from what was kept, and ends somewhere', () => {
  let now = Date.parse('2026-11-02T08:00:00.000Z');
  const saved: number[] = [];
  const journal = new Journal(
    [{ at: new Date(now).toISOString(), what: 'ran', says: '' }],
    (all) => void saved.push(all.length),
    () => now,
  );
  journal.note('ran');
  now += 59_999;
  journal.note('ran');
  expect(saved).toEqual([]);
  now += 2;
  journal.note('ran');
  journal.note('assembled', 'x'.repeat(500));
  journal.note('ran');
  expect(saved).toEqual([2, 3, 4]);
  expect(journal.all[2]!.says.length).toBe(200);
  for (let at = 0; at < 9000; at++) journal.note('assembled', String(at));
  expect(journal.all.length).toBe(4000);
});

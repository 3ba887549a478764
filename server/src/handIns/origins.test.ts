import { sealed } from '@zettak/core/trials/handIns/bundle';
import { testServer, type TestServer } from '../testing/server';
import { checkRoom, MOST_OF_STUDENT } from './room';
import { handIns } from '../database/schema';

const ID = 'quay-count';
const [STUDENT, STRANGER] = ['student-token-of-bench-40', 'student-token-of-nobody-1'];
let server: TestServer;
let link: string;

const bundleOf = (label: string, source: string): string =>
  JSON.stringify(
    sealed({
      ...{ zettak: 'hand-in', version: 1, assignment: ID, state: '', machine: { name: 'Curlew', version: 1 }, label },
      ...{ handedInAt: '2026-11-26T10:00:00Z', source, sets: '', journal: [], results: [] },
    }),
  );
const handIn = (label: string, source: string, student: string) =>
  server.call('POST', '/api/work/hand-ins', { bundle: bundleOf(label, source) }, { 'x-zettak-link': link, 'x-zettak-student': student });
const receipts = (student: string) =>
  server.call('GET', '/api/work/receipts', undefined, { 'x-zettak-link': link, 'x-zettak-student': student });
const rowsOf = async (label: string) => {
  const { body } = await server.call('GET', `/api/assignments/${ID}/matrix`);
  return (body.rows as { id: number; label: string; origin: string; beside: boolean; number: number }[]).filter(
    (each) => each.label === label,
  );
};

beforeAll(async () => {
  server = await testServer();
  link = (await server.call('POST', `/api/assignments/${ID}/link`)).body.token as string;
}, 60_000);
afterAll(() => server.close());

test('a stranger under a label that the teacher brought replaces nothing; the teacher decides, and a deleted choice decides nothing', async () => {
  const [brought] = await rowsOf('bench 01');
  expect(await handIn('bench 01', 'start HALT ; mine', STRANGER)).toMatchObject({ status: 201, body: { number: 1 } });
  const rows = await rowsOf('bench 01');
  expect(rows.map(({ origin, beside }) => [origin, beside])).toEqual([
    ['teacher', false],
    ['link', true],
  ]);
  expect(rows[0]!.id).toBe(brought!.id);
  expect((await server.call('POST', `/api/hand-ins/${rows[1]!.id}/choice`)).status).toBe(204);
  expect((await rowsOf('bench 01')).map(({ origin, beside }) => [origin, beside])).toEqual([
    ['link', false],
    ['teacher', true],
  ]);
  const marks = (await server.call('GET', `/api/assignments/${ID}/marks.csv`)).text;
  expect(marks.match(/^bench 01,/gm)).toHaveLength(1);
  await server.call('DELETE', `/api/hand-ins/${rows[1]!.id}`);
  expect((await rowsOf('bench 01')).map(({ id, beside }) => [id, beside])).toEqual([[brought!.id, false]]);
  expect((await server.call('POST', '/api/hand-ins/999999/choice')).status).toBe(404);
});

test('whoever takes a label first does not keep its owner out', async () => {
  await handIn('bench 77', 'start HALT ; first', STRANGER);
  expect(await handIn('bench 77', 'start HALT ; owner', STUDENT)).toMatchObject({ status: 201, body: { number: 1, label: 'bench 77' } });
  expect(await handIn('bench 77', 'start HALT ; owner again', STUDENT)).toMatchObject({ status: 201, body: { number: 2 } });
  expect((await rowsOf('bench 77')).map((each) => [each.beside, each.number])).toEqual([
    [false, 1],
    [true, 2],
  ]);
});

test('labels through the link are cleaned like those of files: look-alikes are one label', async () => {
  await handIn('bench 78', 'start HALT', STUDENT);
  for (const label of ['bench\u200B 78', 'bench\n78', '\u202Ebench 78\u2069'])
    expect(await handIn(label, `start HALT ; ${label.length}`, STUDENT)).toMatchObject({ status: 201, body: { label: 'bench 78' } });
  expect(await rowsOf('bench 78')).toHaveLength(1);
  expect(await handIn('\u200B', 'start HALT', STUDENT)).toMatchObject({ status: 422 });
});

test('receipts and lists need no text that was handed in, however many there are', async () => {
  const before = (await receipts(STUDENT)).body;
  expect(before.length).toBeGreaterThan(3);
  server.database.queries.run('UPDATE hand_in_texts SET bundle = NULL WHERE bundle IS NOT NULL');
  expect((await receipts(STUDENT)).body).toEqual(before);
  expect((await rowsOf('bench 77')).length).toBe(2);
});

test('one student has room for a class of exercises, and not for the whole place', () => {
  const { queries } = server.database;
  const of = { assignment: ID, hash: '', file: '', arrivedAt: '2026-11-26T10:00:00Z' };
  const student = { studentHash: 'a', bytes: 10 };
  for (let at = 1; at < MOST_OF_STUDENT; at++)
    queries
      .insert(handIns)
      .values({ ...of, label: `x ${at}`, studentHash: 'a', size: 100 })
      .run();
  expect(() => checkRoom(queries, ID, student)).not.toThrow();
  queries
    .insert(handIns)
    .values({ ...of, label: 'x', studentHash: 'a', size: 100 })
    .run();
  expect(() => checkRoom(queries, ID, student)).toThrow(/handed in 200 times/);
  expect(() => checkRoom(queries, ID, { studentHash: 'b', bytes: 10 })).not.toThrow();
  queries
    .insert(handIns)
    .values({ ...of, label: 'y', studentHash: 'b', size: 59_999_995 })
    .run();
  expect(() => checkRoom(queries, ID, { studentHash: 'b', bytes: 10 })).toThrow(/60 MB/);
});

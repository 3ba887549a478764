import { join } from 'node:path';
import { pino } from 'pino';
import type { HandInRow, Matrix } from '@zettak/api/matrix';
import { sealed, type Bundle } from '@zettak/core/trials/handIns/bundle';
import { startJobs } from '../checking/jobs';
import { testServer, type TestServer } from '../testing/server';

const ID = 'quay-count';
let server: TestServer;
beforeAll(async () => {
  server = await testServer({ first: true });
  await server.checked(ID);
}, 60_000);
afterAll(() => server.close());

const matrix = async (): Promise<Matrix> => (await server.call('GET', `/api/assignments/${ID}/matrix`)).body as Matrix;
const rowOf = async (label: string): Promise<HandInRow> => (await matrix()).rows.find((each) => each.label === label)!;
const bring = (entries: readonly { label: string; text: string; file?: string }[]) =>
  server.call('POST', `/api/assignments/${ID}/hand-ins`, { entries });

test('the demo assignment is checked at the first start: 24 hand-ins, grouped by their mistakes', async () => {
  const { rows, groups, alike, teacher, progress, sets } = await matrix();
  expect(rows.map((each) => each.label)).toEqual(Array.from({ length: 24 }, (_, at) => `bench ${String(at + 1).padStart(2, '0')}`));
  expect(rows.every((each) => each.state === 'done')).toBe(true);
  expect(groups[0]!.members.length).toBe(3);
  expect(alike).toEqual([{ kind: 'renamed', members: [7, 19] }]);
  expect(teacher).toEqual({ holds: 7, ticks: 236, cells: 24 });
  expect(progress).toEqual({ waiting: 0, done: 24, total: 24 });
  expect(sets.filter((each) => each.hidden).length).toBe(4);
});

test('a second hand-in of a label is shown in place of the first, which stays in its history; the same text is no second one', async () => {
  const { source } = (await server.call('GET', '/api/hand-ins/1')).body;
  expect((await bring([{ label: 'bench 02', text: source, file: 'again.asm' }])).body.same).toBe(0);
  await server.checked(ID);
  expect(await rowOf('bench 02')).toMatchObject({ number: 2, checked: { holds: 7 } });
  expect((await bring([{ label: 'bench 02', text: source, file: 'again.asm' }])).body.same).toBe(1);
  const { id } = await rowOf('bench 02');
  const { history } = (await server.call('GET', `/api/hand-ins/${id}`)).body;
  expect(history.map((each: { holds: number }) => each.holds)).toEqual([7, 2]);
  expect((await server.call('DELETE', `/api/hand-ins/${id}`)).status).toBe(204);
  expect(await rowOf('bench 02')).toMatchObject({ number: 1, checked: { holds: 2 } });
});

test('a bundle is run again: claims that are not so, and a changed text, are told', async () => {
  const { source } = (await server.call('GET', '/api/hand-ins/2')).body;
  const content: Omit<Bundle, 'hash'> = {
    ...{ zettak: 'hand-in', version: 1, assignment: ID, state: '', machine: { name: 'Curlew', version: 1 }, label: 'bench 30' },
    ...{ handedInAt: '2026-11-26T09:00:00Z', source, sets: '', journal: [] },
    results: [{ set: 'calm', verdict: 'holds', ticks: 160, instructions: 20, end: 'halted' }],
  };
  const whole = JSON.stringify(sealed(content));
  await bring([
    { label: 'bench 30', text: whole },
    { label: 'bench 31', text: whole.replace('CMP ', 'SUB ') },
  ]);
  await server.checked(ID);
  expect((await rowOf('bench 30')).broken).toEqual(['“calm”: said to be “holds”, and is “differs”.']);
  expect((await rowOf('bench 31')).broken[0]).toMatch(/it was changed since hand-in/);
  for (const label of ['bench 30', 'bench 31']) await server.call('DELETE', `/api/hand-ins/${(await rowOf(label)).id}`);
});

test('what cannot be taken is told, and nothing of it is taken', async () => {
  const before = (await matrix()).rows.length;
  expect(
    await bring([
      { label: 'a', text: 'HALT' },
      { label: 'b', text: '{"zettak": "hand-in", "version": 9}' },
    ]),
  ).toMatchObject({ status: 422 });
  expect(await bring([{ label: ' ', text: 'HALT' }])).toMatchObject({
    status: 400,
    body: { detail: expect.stringMatching(/label/) as string },
  });
  expect(await bring([{ label: 'x\u202Ey', text: 'HALT' }])).toMatchObject({ status: 400 });
  expect(await bring([])).toMatchObject({ status: 400 });
  expect((await matrix()).rows.length).toBe(before);
  expect((await server.call('GET', '/api/assignments/nowhere/matrix')).status).toBe(404);
  expect((await server.call('GET', '/api/hand-ins/x')).status).toBe(404);
});

test('labels and sources with markup stay the text that they are', async () => {
  const label = '<img src=x onerror=alert(1)>';
  await bring([{ label, text: '<script>alert(1)</script>' }]);
  await server.checked(ID);
  const row = await rowOf(label);
  expect(row.checked!.errors!.length).toBeGreaterThan(0);
  await server.call('DELETE', `/api/hand-ins/${row.id}`);
});

test('marks follow the rule, remarks stand beside them, and both are CSV', async () => {
  const { assignment, groups } = await matrix();
  const rule = { each: 2, sets: { calm: 5 }, assembles: 1 };
  expect((await server.call('PUT', `/api/assignments/${ID}`, { revision: assignment.revision, marks: rule })).body.marks).toEqual(rule);
  await server.call('PUT', `/api/assignments/${ID}/remarks`, { of: 'group', about: groups[0]!.key, text: 'Look at line 9.' });
  await server.call('PUT', `/api/assignments/${ID}/remarks`, { of: 'label', about: 'bench 01', text: 'Well done.' });
  const csv = await server.call('GET', `/api/assignments/${ID}/marks.csv`);
  expect(csv.headers.get('content-disposition')).toMatch(/^attachment; filename=quay-count-marks\.csv$/);
  const lines = csv.text.split('\r\n');
  expect(lines.find((each) => each.startsWith('bench 01'))).toMatch(/^bench 01,18,18,7,7,236,24,.*,,,Well done\.$/);
  expect(lines.filter((each) => each.includes('Look at line 9.')).length).toBe(3);
  await server.call('PUT', `/api/assignments/${ID}/remarks`, { of: 'label', about: 'bench 01', text: ' ' });
  expect((await matrix()).remarks.map((each) => each.of)).toEqual(['group']);
});

test('what decides over verdicts is checked anew when it changes, and an older revision overwrites nothing', async () => {
  const { assignment } = await matrix();
  const change = { revision: assignment.revision, mostCells: 25 };
  expect((await server.call('PUT', `/api/assignments/${ID}`, change)).body.key).not.toBe(assignment.key);
  await server.checked(ID);
  expect((await rowOf('bench 24')).checked!.mistake).toMatchObject({ key: 'cells' });
  expect((await rowOf('bench 01')).checked!.mistake).toBeUndefined();
  expect((await server.call('PUT', `/api/assignments/${ID}`, change)).status).toBe(409);
  await server.call('PUT', `/api/assignments/${ID}`, { revision: assignment.revision + 1, mostCells: null });
  await server.checked(ID);
  // The same texts have the same key: verdicts are there again without another check.
  expect((await matrix()).assignment.key).toBe(assignment.key);
});

test('an assignment is made of a program with its sets, and keeps them whatever happens to those', async () => {
  const programs = (await server.call('GET', '/api/programs')).body as { id: string; name: string }[];
  const program = programs.find((each) => each.name === 'quay watch')!;
  const course = (await server.call('POST', '/api/courses', { name: 'Second course' })).body;
  const made = (await server.call('POST', '/api/assignments', { course: course.id, name: 'Watch', program: program.id })).body;
  expect(made).toMatchObject({ machineName: 'Curlew', machineVersion: 1, linked: false });
  const document = (await server.call('GET', `/api/programs/${program.id}`)).body;
  await server.call('PUT', `/api/programs/${program.id}/draft`, { text: 'HALT', revision: document.revision });
  expect((await server.call('GET', `/api/assignments/${made.id}`)).body.solution).toBe(document.draft);
  const renewed = await server.call('PUT', `/api/assignments/${made.id}`, { revision: 1, renew: true });
  expect(renewed.body).toMatchObject({ solution: 'HALT', revision: 2 });
  expect((await server.call('POST', '/api/assignments', { course: course.id, name: 'x', program: 'nowhere' })).status).toBe(404);
  expect((await server.call('DELETE', `/api/courses/${course.id}`)).status).toBe(204);
  expect((await server.call('GET', `/api/assignments/${made.id}`)).status).toBe(404);
});

test('a course goes out as files and comes in again beside itself; what is no course is told', async () => {
  const files = (await server.call('GET', '/api/courses/harbour-watch/files')).body as Record<string, string>;
  expect(Object.keys(files).sort()).toEqual([
    'course.json',
    ...['frame.asm', 'machine.yaml', 'part-1.asm', 'part-2.asm', 'sets.yaml', 'solution.asm'].map((each) => `${ID}/${each}`),
  ]);
  const { body } = await server.call('POST', '/api/courses/files', files);
  expect(body).toMatchObject({ id: 'harbour-watch-2', name: 'Harbour watch' });
  const again = (await server.call('GET', `/api/courses/${body.id}/files`)).body as Record<string, string>;
  expect(again[`${ID}-2/sets.yaml`]).toBe(files[`${ID}/sets.yaml`]);
  expect((await server.call('GET', `/api/assignments/${ID}-2`)).body.key).toBe((await matrix()).assignment.key);
  await server.call('DELETE', `/api/courses/${body.id}`);
  for (const wrong of [{}, { 'course.json': '{' }, { ...files, 'course.json': files['course.json']!.replace('machine.yaml', '../x') }])
    expect((await server.call('POST', '/api/courses/files', wrong)).status).toBe(422);
});

test('notes and layout of a bench go with an assignment, out as a file and in again; what is none is told', async () => {
  const { revision } = (await matrix()).assignment;
  const bench = { notes: [{ text: 'Count from 0.', at: { kind: 'panel', panel: 'registers' } }], layout: { wraps: true }, hidden: ['X'] };
  const changed = await server.call('PUT', `/api/assignments/${ID}`, { revision, bench });
  expect(changed.body).toMatchObject({ bench, key: (await matrix()).assignment.key });
  const files = (await server.call('GET', '/api/courses/harbour-watch/files')).body as Record<string, string>;
  expect(JSON.parse(files[`${ID}/bench.json`]!)).toEqual(bench);
  const { body } = await server.call('POST', '/api/courses/files', files);
  expect((await server.call('GET', `/api/assignments/${ID}-2`)).body.bench).toEqual(bench);
  await server.call('DELETE', `/api/courses/${body.id}`);
  const wrong = await server.call('POST', '/api/courses/files', { ...files, [`${ID}/bench.json`]: '{"notes": 3}' });
  expect([wrong.status, wrong.body.detail]).toEqual([422, `${ID}/bench.json holds no notes and layout of a bench. Nothing was taken.`]);
  const without = await server.call('PUT', `/api/assignments/${ID}`, { revision: changed.body.revision, bench: null });
  expect(without.body.bench).toBeNull();
});

test('checking is told while it goes on, can be called off, and is taken up again', async () => {
  const response = await fetch(`${server.base}/api/assignments/${ID}/events`);
  const reader = response.body!.getReader();
  const told: string[] = [];
  const reading = (async () => {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      told.push(Buffer.from(value).toString());
    }
  })();
  expect((await server.call('POST', `/api/assignments/${ID}/checks`)).status).toBe(202);
  await server.call('DELETE', `/api/assignments/${ID}/checks`);
  await server.checked(ID);
  expect((await matrix()).rows.some((each) => each.state === 'called off')).toBe(true);
  await server.call('POST', `/api/assignments/${ID}/checks`);
  await server.checked(ID);
  expect((await matrix()).rows.every((each) => each.state === 'done')).toBe(true);
  await new Promise((resolve) => setTimeout(resolve, 400));
  await reader.cancel();
  await reading;
  const events = told
    .join('')
    .match(/data: .*/g)!
    .map((each) => JSON.parse(each.slice(6)) as { waiting: number; done: number });
  expect(events.length).toBeGreaterThan(1);
  expect(events.at(-1)).toEqual({ waiting: 0, done: 24, total: 24 });
}, 60_000);

test('a check that kills its worker is told and passed over, and the others are done', async () => {
  const { handIns, courses } = server.services;
  const jobs = startJobs({
    handIns,
    courses,
    log: pino({ level: 'silent' }),
    worker: join(__dirname, '../testing/deadly.cjs'),
    count: 1,
  });
  await server.services.jobs.close();
  handIns.take(ID, [{ label: 'deadly', file: '', source: '; kill', bundle: undefined }]);
  handIns.queue(ID, true);
  jobs.wake();
  await server.checked(ID);
  await jobs.close();
  const rows = handIns.rows(ID);
  expect(rows.find((each) => each.label === 'deadly')).toMatchObject({
    state: 'failed',
    sentence: expect.stringMatching(/ended its worker/) as string,
  });
  expect(rows.filter((each) => each.state === 'done').length).toBe(24);
}, 60_000);

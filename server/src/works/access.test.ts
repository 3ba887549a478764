import fc from 'fast-check';
import { sealed } from '@zettak/core/trials/handIns/bundle';
import { setPassphrase } from '../access/passphrase';
import { testServer, type TestServer } from '../testing/server';

const ID = 'quay-count';
const PASSPHRASE = 'seven herring gulls';
const OPENS = '2026-11-26T08:00:00Z';
const CLOSES = '2026-11-26T18:00:00Z';
const STUDENT = 'student-token-of-bench-40';
const OTHER = 'student-token-of-bench-41';
let server: TestServer;
let link: string;
let cookie: string;

const teacher = (method: string, path: string, body?: unknown) => server.call(method, path, body, { cookie, 'x-zettak': '1' });
const student = (method: string, path: string, body?: unknown, token = STUDENT) =>
  server.call(method, path, body, { 'x-zettak-link': link, 'x-zettak-student': token });

beforeAll(async () => {
  server = await testServer({ level: 'trace' });
  await server.checked(ID);
  await setPassphrase(server.services.settings, PASSPHRASE);
  const entered = await server.call('POST', '/api/session', { passphrase: PASSPHRASE });
  cookie = entered.headers.get('set-cookie')!.split(';')[0]!;
  link = (await teacher('POST', `/api/assignments/${ID}/link`)).body.token as string;
  const { revision } = (await teacher('GET', `/api/assignments/${ID}`)).body;
  const notes = [
    { text: 'the note of a given line', at: { kind: 'line', line: 9, words: '.output count, decimal, "levels"' } },
    { text: 'the note of the solution', at: { kind: 'line', line: 4, words: 'CMPX  #times' } },
  ];
  const bench = { notes, layout: {}, hidden: ['X'] };
  await teacher('PUT', `/api/assignments/${ID}`, { revision, opensAt: OPENS, closesAt: CLOSES, bench });
}, 60_000);
afterAll(() => server.close());

const bundleText = (label: string, source = 'start HALT\n', assignment = ID): string =>
  JSON.stringify(
    sealed({
      ...{ zettak: 'hand-in', version: 1, assignment, state: '', machine: { name: 'Curlew', version: 1 }, label, handedInAt: OPENS },
      ...{ source, sets: '', journal: [], results: [] },
    }),
  );

/** Every path that a teacher can ask for, with the ids of the demo. */
const TEACHERS: readonly (readonly [string, string])[] = [
  ...['machines', 'programs', 'trials', 'parts', 'frames', 'snippets'].flatMap((kind): [string, string][] => [
    ['GET', `/api/${kind}`],
    ['POST', `/api/${kind}`],
    ['GET', `/api/${kind}/quay-count`],
    ['GET', `/api/${kind}/sets-quay-count`],
    ['PUT', `/api/${kind}/quay-count/draft`],
    ['DELETE', `/api/${kind}/quay-count`],
    ['POST', `/api/${kind}/quay-count/versions`],
    ['GET', `/api/${kind}/quay-count/versions/1`],
    ['POST', `/api/${kind}/quay-count/back`],
  ]),
  ['GET', '/api/backup'],
  ['POST', '/api/backup'],
  ['GET', '/api/results/quay-count'],
  ['PUT', '/api/results/quay-count/abcdef01'],
  ['GET', '/api/courses'],
  ['POST', '/api/courses'],
  ['GET', '/api/courses/harbour-watch/files'],
  ['POST', '/api/courses/files'],
  ['PUT', '/api/courses/harbour-watch'],
  ['DELETE', '/api/courses/harbour-watch'],
  ['POST', '/api/assignments'],
  ...['', '/texts', '/matrix', '/marks.csv', '/events'].map((path): [string, string] => ['GET', `/api/assignments/${ID}${path}`]),
  ['PUT', `/api/assignments/${ID}`],
  ['DELETE', `/api/assignments/${ID}`],
  ['POST', `/api/assignments/${ID}/link`],
  ['DELETE', `/api/assignments/${ID}/link`],
  ['PUT', `/api/assignments/${ID}/remarks`],
  ['POST', `/api/assignments/${ID}/hand-ins`],
  ['DELETE', `/api/assignments/${ID}/hand-ins`],
  ['POST', `/api/assignments/${ID}/checks`],
  ['DELETE', `/api/assignments/${ID}/checks`],
  ['GET', '/api/hand-ins/1'],
  ['POST', '/api/hand-ins/1/choice'],
  ['DELETE', '/api/hand-ins/1'],
  ['POST', '/api/receipts'],
  ['POST', '/api/share'],
  ['PUT', '/api/share'],
  ['DELETE', '/api/share'],
];

test.each(TEACHERS)('%s %s refuses whoever has no session, a student with tokens too', async (method, path) => {
  const body = method === 'GET' || method === 'DELETE' ? undefined : {};
  expect((await server.call(method, path, body)).status).toBe(401);
  expect((await student(method, path, body)).status).toBe(401);
});

test.each([
  ['GET', '/api/worker'],
  ['POST', '/api/worker/jobs'],
  ['GET', '/api/worker/texts/abc'],
  ['POST', '/api/worker/verdicts'],
])('%s %s refuses everybody where there is no queue, whatever token is shown', async (method, path) => {
  const headers = { authorization: `Bearer ${'a'.repeat(32)}` };
  expect((await server.call(method, path, method === 'GET' ? undefined : {}, headers)).status).toBe(401);
});

test('every path refuses by default, whether there is anything or not', async () => {
  const segment = fc.constantFrom('machines', 'work', 'session', 'health', '..', '%2e%2e', 'assignments', ID, 'WORK', 'x', '');
  await fc.assert(
    fc.asyncProperty(fc.array(segment, { minLength: 1, maxLength: 4 }), async (parts) => {
      const path = `/api/${parts.join('/')}`;
      const { pathname } = new URL(path, server.base);
      fc.pre(pathname.startsWith('/api') && !/^\/api\/(health|session|work(\/.*)?)$/.test(pathname));
      expect((await server.call('GET', path)).status).toBe(401);
    }),
    { numRuns: 60 },
  );
});

test('neither a hidden set nor the solution is in anything that a student can get', async () => {
  const got = await Promise.all([
    student('GET', '/api/work'),
    student('GET', '/api/work/draft'),
    student('GET', '/api/work/receipts'),
    student('POST', '/api/work/hand-ins', { bundle: bundleText('bench 40') }),
    student('PUT', '/api/work/draft', { content: 'x' }),
    ...TEACHERS.map(([method, path]) => student(method, path, method === 'GET' || method === 'DELETE' ? undefined : {})),
  ]);
  const all = got.map((each) => each.text).join('\n');
  expect(all).toContain('spring tide');
  expect(all).toContain('the note of a given line');
  for (const secret of [
    'between the bases',
    'low water',
    'all over',
    'last one',
    'over 96, below',
    '97 110',
    'JUMPC below',
    'CMPX  #times',
    'the note of the solution',
  ])
    expect(all).not.toContain(secret);
  await server.checked(ID);
});

test('a student gets the task, the shown sets alone, and how many are hidden', async () => {
  const { body } = await student('GET', '/api/work');
  expect(body).toMatchObject({ id: ID, state: 'open', closesAt: CLOSES, content: { machineName: 'Curlew', hidden: 4 } });
  expect(body.content.sets.match(/- name:/g).length).toBe(3);
  expect(Object.keys(body.content).sort()).not.toContain('solution');
});

test('a draft is the student’s own, and no other’s', async () => {
  expect((await student('PUT', '/api/work/draft', { content: 'my work' })).status).toBe(204);
  expect((await student('GET', '/api/work/draft')).body).toEqual({ content: 'my work' });
  expect((await student('GET', '/api/work/draft', undefined, OTHER)).body).toEqual({ content: null });
});

test('a hand-in gives a receipt that the server has signed; any change of it shows', async () => {
  const { status, body } = await student('POST', '/api/work/hand-ins', { bundle: bundleText('bench 40', 'start INC\n HALT\n') });
  expect(status).toBe(201);
  expect(body).toMatchObject({
    zettak: 'receipt',
    assignment: ID,
    label: 'bench 40',
    number: 2,
    late: false,
    arrivedAt: server.time.toISOString(),
  });
  expect((await teacher('POST', '/api/receipts', body)).body).toEqual({ ours: true });
  expect((await teacher('POST', '/api/receipts', { ...body, late: true })).body).toEqual({ ours: false });
  expect((await teacher('POST', '/api/receipts', { ...body, signature: '0'.repeat(64) })).body).toEqual({ ours: false });
  expect((await student('GET', '/api/work/receipts')).body.length).toBe(2);
  expect((await student('GET', '/api/work/receipts', undefined, OTHER)).body).toEqual([]);
  // The very same again is the same hand-in.
  expect((await student('POST', '/api/work/hand-ins', { bundle: bundleText('bench 40', 'start INC\n HALT\n') })).body).toEqual(body);
});

test('late is what arrives after the end, by the server’s clock; before the opening nothing is told', async () => {
  const now = server.time;
  server.time = new Date('2026-11-26T18:00:01Z');
  expect((await student('GET', '/api/work')).body.state).toBe('after');
  expect((await student('POST', '/api/work/hand-ins', { bundle: bundleText('bench 42', 'HALT') }, OTHER)).body).toMatchObject({
    late: true,
  });
  server.time = new Date('2026-11-26T07:59:59Z');
  expect((await student('GET', '/api/work')).body).toEqual({
    id: ID,
    name: 'Quay count',
    opensAt: OPENS,
    closesAt: CLOSES,
    state: 'before',
  });
  expect((await student('POST', '/api/work/hand-ins', { bundle: bundleText('bench 43') }, OTHER)).status).toBe(422);
  expect((await student('PUT', '/api/work/draft', { content: 'x' })).status).toBe(422);
  server.time = now;
  await server.checked(ID);
});

test('a wrong link, a bundle for another assignment, no bundle at all: told, and nothing taken', async () => {
  expect((await server.call('GET', '/api/work')).status).toBe(401);
  expect((await server.call('GET', '/api/work', undefined, { 'x-zettak-link': 'A'.repeat(22) })).status).toBe(404);
  expect((await student('POST', '/api/work/hand-ins', { bundle: bundleText('bench 40', 'HALT', 'other') })).status).toBe(422);
  expect((await student('POST', '/api/work/hand-ins', { bundle: 'HALT' })).status).toBe(422);
  expect((await student('POST', '/api/work/hand-ins', {})).status).toBe(400);
});

test('a session needs the passphrase, lies in a cookie that no script reads, and writes only from our pages', async () => {
  const wrong = await server.call('POST', '/api/session', { passphrase: 'seven herring gull' });
  expect(wrong).toMatchObject({ status: 401 });
  const entered = await server.call('POST', '/api/session', { passphrase: PASSPHRASE });
  expect(entered.headers.get('set-cookie')).toMatch(/HttpOnly.*SameSite=Strict/);
  const own = entered.headers.get('set-cookie')!.split(';')[0]!;
  expect((await server.call('GET', '/api/session', undefined, { cookie: own })).body).toEqual({ guarded: true, open: true });
  expect((await server.call('GET', '/api/courses', undefined, { cookie: own })).status).toBe(200);
  expect((await server.call('POST', '/api/courses', { name: 'x' }, { cookie: own })).status).toBe(403);
  const foreign = await server.call(
    'POST',
    '/api/courses',
    { name: 'x' },
    { cookie: own, 'x-zettak': '1', origin: 'http://elsewhere.example' },
  );
  expect(foreign.status).toBe(403);
  await server.call('DELETE', '/api/session', undefined, { cookie: own, 'x-zettak': '1' });
  expect((await server.call('GET', '/api/courses', undefined, { cookie: own })).status).toBe(401);
});

test('a session ends after twelve hours', async () => {
  const now = server.time;
  server.time = new Date(now.getTime() + 12 * 3_600_000 + 1);
  expect((await teacher('GET', '/api/courses')).status).toBe(401);
  server.time = now;
  expect((await teacher('GET', '/api/courses')).status).toBe(200);
});

test('on the computer itself a right passphrase passes after any number of wrong ones', async () => {
  for (let turn = 0; turn < 12; turn++) expect((await server.call('POST', '/api/session', { passphrase: `no ${turn}` })).status).toBe(401);
  expect((await server.call('POST', '/api/session', { passphrase: PASSPHRASE })).status).toBe(200);
}, 30_000);

test('no token and no passphrase is in the database or in the log', () => {
  const { queries } = server.database;
  const tables = ['assignments', 'hand_ins', 'works', 'sessions', 'settings'];
  const kept = tables.map((table) => JSON.stringify(queries.all(`SELECT * FROM ${table}`))).join('\n');
  expect(server.logged.length).toBeGreaterThan(50);
  for (const secret of [link, STUDENT, OTHER, cookie.split('=')[1]!, PASSPHRASE]) {
    expect(kept).not.toContain(secret);
    expect(server.logged.join('\n')).not.toContain(secret);
  }
});

test('a new link ends the one before', async () => {
  const before = link;
  link = (await teacher('POST', `/api/assignments/${ID}/link`)).body.token as string;
  expect((await student('GET', '/api/work')).status).toBe(200);
  expect((await server.call('GET', '/api/work', undefined, { 'x-zettak-link': before })).status).toBe(404);
  await teacher('DELETE', `/api/assignments/${ID}/link`);
  expect((await student('GET', '/api/work')).status).toBe(404);
});

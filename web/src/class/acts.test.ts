/** A class as a teacher opens and changes it, over a server that takes its time, and whose answers may come out of order. */
import type { HandInDetail, HandInRow, Matrix, Progress } from '@zettak/api/matrix';
import {
  bringFiles,
  callOffChecks,
  checkAgain,
  choose,
  countThis,
  dropAssignment,
  leaveClass,
  openClass,
  refresh,
  remark,
  removeHandIn,
  sendBrought,
} from './acts';
import { useClass } from './state';

const store = new Map<string, string>();
Object.assign(globalThis, {
  localStorage: { getItem: (key: string) => store.get(key) ?? null, setItem: (key: string, text: string) => void store.set(key, text) },
});

/** What the server keeps, how long it takes for each question, and what it was asked. */
const server = {
  rows: {} as Record<string, HandInRow[]>,
  late: {} as Record<string, number>,
  fails: new Set<string>(),
  asked: [] as string[],
  followed: [] as string[],
  tell: undefined as ((progress: Progress) => void) | undefined,
};
jest.mock('../session/trialEngine', () => ({ trialEngine: {} }));
jest.mock('../documents/courseClient', () => {
  const answer = async <T>(question: string, act: () => T): Promise<T> => {
    server.asked.push(question);
    await new Promise((resolve) => setTimeout(resolve, server.late[question] ?? 0));
    if (server.fails.has(question)) throw new Error(`${question} was refused.`);
    return act();
  };
  const matrixOf = (id: string): Matrix =>
    ({
      assignment: { id, course: 'watch', revision: 1 },
      rows: server.rows[id]!,
      groups: [],
      progress: { done: 0, total: 0 },
    }) as unknown as Matrix;
  return {
    courseClient: {
      list: () => answer('list', () => [{ id: 'watch', name: 'Watch', assignments: Object.keys(server.rows).map((id) => ({ id })) }]),
      matrix: (id: string) => answer(`matrix ${id}`, () => matrixOf(id)),
      handIn: (id: number) => answer(`hand-in ${id}`, () => ({ id, source: `of ${id}` }) as unknown as HandInDetail),
      check: (id: string) => answer(`check ${id}`, () => true),
      callOff: (id: string) => answer(`call off ${id}`, () => true),
      remark: (id: string, { of, about, text }: Record<string, string>) => answer(`remark ${id} ${of} ${about}: ${text}`, () => true),
      choose: (id: number) =>
        answer(`choose ${id}`, () =>
          Object.values(server.rows).forEach((list) => list.forEach((each, at) => (list[at] = { ...each, beside: each.id !== id }))),
        ),
      removeOne: (id: number) =>
        answer(`remove ${id}`, () =>
          Object.values(server.rows).forEach((list) =>
            list.splice(
              list.findIndex((each) => each.id === id),
              1,
            ),
          ),
        ),
      drop: (id: string) => answer(`drop ${id}`, () => delete server.rows[id]),
      bring: (id: string, { entries }: { entries: { label: string }[] }) =>
        answer(`bring ${id} ${entries.length}`, () => {
          const known = new Set(server.rows[id]!.map((each) => each.label));
          return { same: entries.filter((each) => known.has(each.label)).length };
        }),
      follow: (id: string, tell: (progress: Progress) => void) => {
        server.followed.push(id);
        server.tell = tell;
        return () => void server.followed.splice(server.followed.indexOf(id), 1);
      },
    },
  };
});

const row = (id: number): HandInRow => ({ id, label: `bench ${id}`, arrivedAt: '', late: false }) as unknown as HandInRow;
const state = useClass.getState;
const settle = (ms = 20): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

beforeEach(() => {
  store.clear();
  Object.assign(server, {
    rows: { count: [row(1), row(2)], sum: [row(3)] },
    late: {},
    fails: new Set(),
    asked: [],
    followed: [],
    tell: undefined,
  });
  useClass.setState({
    matrix: undefined,
    chosen: undefined,
    detail: undefined,
    failure: undefined,
    said: undefined,
    brought: undefined,
    opened: false,
  });
});
afterEach(() => leaveClass());

test('the first assignment is opened where none is named, then the one that was opened last; its first hand-in is chosen', async () => {
  await openClass(undefined);
  await settle();
  expect(state()).toMatchObject({ opened: true, chosen: 1, detail: { source: 'of 1' }, failure: undefined });
  await openClass('sum');
  leaveClass();
  await openClass(undefined);
  expect(state().matrix?.assignment.id).toBe('sum');
  expect(server.followed).toEqual(['sum']);
});

test('an assignment that is gone is told; the list stays, so that another can be chosen', async () => {
  await openClass('nowhere');
  expect(state()).toMatchObject({ failure: 'There is no assignment “nowhere”. Choose another above.', matrix: undefined, opened: true });
  expect(state().courses[0]?.assignments).toHaveLength(2);
});

test('of two assignments opened one after the other the later is shown and followed, whichever is answered last', async () => {
  server.late = { 'matrix count': 40, 'matrix sum': 5 };
  await Promise.all([openClass('count'), settle(2).then(() => openClass('sum'))]);
  await settle(60);
  expect(state().matrix?.assignment.id).toBe('sum');
  expect(state().chosen).toBe(3);
  expect(server.followed).toEqual(['sum']);
});

test('progress is shown at once and fetched once, however often it is told; what came meanwhile is fetched once more', async () => {
  await openClass('count');
  server.late = { 'matrix count': 20 };
  server.asked = [];
  for (let done = 1; done <= 5; done++) server.tell!({ done, total: 5 } as unknown as Progress);
  expect(state().progress).toMatchObject({ done: 5 });
  await settle(80);
  expect(server.asked.filter((each) => each === 'matrix count')).toHaveLength(2);
});

test('a hand-in that is chosen while another is on its way is the one that is shown, and the other one’s refusal is not', async () => {
  await openClass('count');
  server.late = { 'hand-in 1': 30 };
  server.fails.add('hand-in 1');
  choose(1);
  choose(2);
  await settle(60);
  expect(state()).toMatchObject({ chosen: 2, detail: { id: 2 }, failure: undefined });
  choose(1);
  await settle(60);
  expect(state()).toMatchObject({ chosen: 1, detail: undefined, failure: 'hand-in 1 was refused.' });
});

test('a refusal that belongs to an assignment left behind is not told of the next one', async () => {
  await openClass('count');
  server.late = { 'matrix count': 30 };
  server.fails.add('matrix count');
  const old = refresh();
  await openClass('sum');
  await old;
  expect(state().failure).toBeUndefined();
  expect(state().matrix?.assignment.id).toBe('sum');
});

test('a hand-in that is deleted is not chosen any more', async () => {
  await openClass('count');
  choose(1);
  await removeHandIn(1, 'bench 1');
  expect(state()).toMatchObject({ chosen: 2, said: 'The newest hand-in of bench 1 is deleted for good.' });
});

test('files are read, sent in portions under their labels, and what was here already is counted', async () => {
  await openClass('count');
  await bringFiles([]);
  expect(state().brought).toBeUndefined();
  await bringFiles(['bench 1.asm', 'bench 9.asm'].map((path) => ({ path, file: new File([`HALT ; ${path}\n`], path) })));
  expect(state().brought?.files).toHaveLength(2);
  await sendBrought(['bench 1', 'bench 9']);
  expect(state()).toMatchObject({ brought: undefined, said: '2 hand-ins are here. One was here already.' });
  const files = Array.from({ length: 450 }, (_, at) => ({ file: `${at}.asm`, text: 'HALT' }));
  useClass.setState({ brought: { files, problems: [] } as never });
  server.asked = [];
  await sendBrought(files.map((_, at) => `label ${at}`));
  expect(server.asked.filter((each) => each.startsWith('bring'))).toEqual(['bring count 200', 'bring count 200', 'bring count 50']);
  expect(state().said).toBe('450 hand-ins are here.');
});

test('where a portion is refused the files stay to be sent again, and it is told why', async () => {
  await openClass('count');
  useClass.setState({ brought: { files: [{ file: 'a.asm', text: 'HALT' }], problems: [] } as never });
  server.fails.add('bring count 1');
  await sendBrought(['bench 1']);
  expect(state()).toMatchObject({ failure: 'bring count 1 was refused.', brought: { files: [{ file: 'a.asm' }] } });
});

test('checks begin, are called off, and remarks are kept for the assignment that is open', async () => {
  await openClass('sum');
  server.asked = [];
  await checkAgain();
  await callOffChecks();
  await remark('group', 'base', 'Look at the base.');
  expect(server.asked.filter((each) => !each.startsWith('matrix'))).toEqual([
    'check sum',
    'call off sum',
    'remark sum group base: Look at the base.',
  ]);
  server.fails.add('check sum');
  await checkAgain();
  expect(state().failure).toBe('check sum was refused.');
  await remark('group', 'base', 'Again.');
  expect(state().failure).toBeUndefined();
});

test('a dropped assignment is left; one that cannot be dropped stays', async () => {
  await openClass('count');
  server.fails.add('drop count');
  expect(await dropAssignment()).toBe(false);
  expect(state().matrix?.assignment.id).toBe('count');
  server.fails.clear();
  expect(await dropAssignment()).toBe(true);
  expect(state()).toMatchObject({ matrix: undefined, chosen: undefined });
  expect(server.followed).toEqual([]);
});

test('of two origins of one label the chosen one counts; a refused choice is told, and nothing else is said', async () => {
  const row = (id: number, beside: boolean): HandInRow => ({ id, label: 'bench 01', beside }) as unknown as HandInRow;
  server.rows = { twice: [row(1, false), row(2, true)] };
  await openClass('twice');
  const [, other] = useClass.getState().matrix!.rows;
  server.fails = new Set(['choose 2']);
  useClass.setState({ said: undefined });
  await countThis(other!);
  expect(useClass.getState()).toMatchObject({ said: undefined, failure: 'choose 2 was refused.' });
  server.fails = new Set();
  await countThis(other!);
  expect(useClass.getState().matrix!.rows.map((each) => each.beside)).toEqual([true, false]);
  expect(useClass.getState().said).toBe('The other hand-in of bench 01 counts now.');
});

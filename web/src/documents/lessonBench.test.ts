import { benchForStudents, readLessonBench } from '@zettak/core/trials/handIns/lessonBench';
import { benchFor, putBench, wordsOf } from './lessonBench';

const store = new Map<string, string>();
beforeAll(() => {
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    value: { getItem: (key: string) => store.get(key) ?? null, setItem: (key: string, value: string) => void store.set(key, value) },
  });
});
beforeEach(() => store.clear());

const line = { kind: 'line', line: 3, words: 'ADD rise' };
const panel = { kind: 'panel', panel: 'flags' };
const layout = { watching: [30, 40, 30], wraps: true };
const put = (name: string, value: unknown): void => void store.set(`zettak.${name}`, JSON.stringify(value));
const get = (name: string): unknown => JSON.parse(store.get(`zettak.${name}`) ?? 'null');

test('what is pinned and laid out is taken, of this program and its machine alone', () => {
  expect(benchFor('quay', 'curlew')).toBeUndefined();
  put('notes.quay', [{ id: 4, text: 'Why C?', at: panel }]);
  put('layout', { ...layout, hidden: { curlew: ['X', 'memory'], gannet: ['R1'] } });
  const bench = benchFor('quay', 'curlew')!;
  expect(bench).toEqual({ notes: [{ text: 'Why C?', at: panel }], layout, hidden: ['X', 'memory'] });
  expect(wordsOf(bench)).toBe('one note, the layout, without 2 parts');
  expect(benchFor('other', 'dunlin')).toEqual({ notes: [], layout, hidden: [] });
});

test('rubbish in the storage is nothing to give', () => {
  store.set('zettak.notes.quay', '{"a":');
  store.set('zettak.layout', '7');
  expect(benchFor('quay', 'curlew')).toBeUndefined();
});

const bench = readLessonBench(JSON.stringify({ notes: [{ text: 'Why C?', at: panel }], layout, hidden: ['X'] }))!;

test('a bench that nobody has set takes it all; the same once more changes nothing', () => {
  putBench(bench, 'work-1', 'machine-1');
  expect(get('notes.work-1')).toEqual([{ id: 1, text: 'Why C?', at: panel }]);
  expect(get('layout')).toEqual({ ...layout, hidden: { 'machine-1': ['X'] } });
  put('notes.work-1', []);
  putBench(bench, 'work-1', 'machine-1');
  expect(get('notes.work-1')).toEqual([]);
});

test('one’s own notes and one’s own layout stay; notes that the assignment has no longer go', () => {
  putBench(bench, 'work-1', 'machine-1');
  put('notes.work-1', [...(get('notes.work-1') as object[]), { id: 2, text: 'mine', at: line }]);
  put('layout', { watching: [50, 25, 25], wraps: false, hidden: { 'machine-1': ['X'], own: ['Y'] } });
  putBench({ ...bench, notes: [{ text: 'Look at H.', at: { kind: 'panel', panel: 'flags' } }], hidden: [] }, 'work-1', 'machine-1');
  expect((get('notes.work-1') as { text: string }[]).map((each) => each.text)).toEqual(['Look at H.', 'mine']);
  expect(get('layout')).toEqual({ watching: [50, 25, 25], wraps: false, hidden: { 'machine-1': [], own: ['Y'] } });
});

test('a note of a line that the frame does not have stays with the teacher, for its words are those of the solution', () => {
  const noted = readLessonBench(JSON.stringify({ notes: [line, { ...line, words: 'HALT' }].map((at) => ({ text: 'x', at })) }))!;
  expect(benchForStudents(noted, 'start LOAD a\n HALT\n').notes.map(({ at }) => at)).toEqual([{ ...line, words: 'HALT' }]);
});

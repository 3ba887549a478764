import { keepBreakpoints, lineStop, nextId, readBreakpoints, withLines } from './breakpoints';
import type { BreakSpec } from '@zettak/core/session/protocol';

const store = new Map<string, string>();
beforeAll(() => {
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    value: { getItem: (key: string) => store.get(key) ?? null, setItem: (key: string, value: string) => void store.set(key, value) },
  });
});
beforeEach(() => store.clear());

const watch: BreakSpec = { id: 9, kind: 'change', text: 'ACC', enabled: false, ignore: 3, print: 'X' };

test('what is kept is read as it was', () => {
  keepBreakpoints('quay', [lineStop(1, 4), watch]);
  expect(readBreakpoints('quay')).toEqual([lineStop(1, 4), watch]);
  expect(readBreakpoints('other')).toEqual([]);
});

test.each([
  '{',
  '"x"',
  '{"id":1}',
  '[1, null, {}]',
  '[{"id":1,"kind":"piano","text":"","print":""}]',
  '[{"id":"a","kind":"output","text":"","print":""}]',
  '[{"id":1,"kind":"line","text":"","print":""}]',
])('the rubbish %s counts as no breakpoints', (text) => {
  store.set('zettak.stops.quay', text);
  expect(readBreakpoints('quay')).toEqual([]);
});

test('lines that move take along what was set for them; others begin plain', () => {
  const stops = [{ ...lineStop(1, 4), ignore: 2 }, { ...lineStop(2, 8), print: 'ACC' }, watch];
  expect(withLines(stops, [5, 9])).toEqual([{ ...lineStop(1, 5), ignore: 2 }, { ...lineStop(2, 9), print: 'ACC' }, watch]);
  expect(withLines(stops, [4])).toEqual([{ ...lineStop(1, 4), ignore: 2 }, watch]);
  expect(withLines(stops, [8, 4, 6])).toEqual([
    { ...lineStop(1, 4), ignore: 2 },
    lineStop(10, 6),
    { ...lineStop(2, 8), print: 'ACC' },
    watch,
  ]);
  expect(nextId([])).toBe(1);
});

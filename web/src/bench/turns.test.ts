import { APART, PARTS, Turns, type Part, type Turn } from './turns';

/** The turns of pictures that come `every` ms, the first at 0. */
const pictures = (every: number, count: number, { running = true, windows = false } = {}): Turn[] => {
  const turns = new Turns();
  return Array.from({ length: count }, (_, at) => turns.next(at * every, running, windows));
};
const all: Turn = { told: true, marked: true, drawn: true, valued: true, windowed: true };
const of = (list: readonly Turn[], part: Part): number => list.filter((each) => each[part]).length;

test('A run whose ticks can be read is drawn whole at every picture', () => {
  for (const every of [APART, 250, 1000]) expect(pictures(every, 20)).toEqual(new Array(20).fill(all));
});

test('What stands still is drawn whole, however soon it comes', () => {
  expect(pictures(5, 20, { running: false })).toEqual(new Array(20).fill(all));
  const turns = new Turns();
  for (let now = 0; now < 90; now += 30) turns.next(now, true, false);
  expect(turns.next(91, false, false)).toEqual(all);
});

test('The first picture of a run is whole, later ones carry words or marks and never both', () => {
  for (const every of [7, 17, 33, 83, 120]) {
    const [first, ...others] = pictures(every, 200);
    expect(first).toEqual(all);
    expect(others.filter((each) => each.told && each.marked)).toEqual([]);
  }
});

/** Of ten seconds of thirty pictures each, how often a second a part comes. */
const rate = (part: Part, windows: boolean): number => of(pictures(33, 304, { windows }).slice(1), part) / 10;

test('At thirty pictures a second the drawing comes fifteen times, values nine times, words and marks three times each', () => {
  expect(rate('drawn', false)).toBeCloseTo(15, 0);
  expect(rate('valued', false)).toBeCloseTo(9, 0);
  for (const part of ['told', 'marked'] as const) expect(rate(part, false)).toBeCloseTo(3, 0);
  expect(rate('windowed', false)).toBe(0);
});

test('Windows on memory come as often as values, and take a little from all', () => {
  expect(rate('windowed', true)).toBeCloseTo(rate('valued', true), 0);
  expect(rate('windowed', true)).toBeGreaterThan(6);
  expect(rate('drawn', true)).toBeGreaterThan(10);
  for (const part of ['told', 'marked'] as const) expect(rate(part, true)).toBeGreaterThan(2);
});

test('Of thirty pictures a second none carries two things, and none nothing', () => {
  for (const every of [7, 17, 33])
    for (const windows of [false, true])
      for (const each of pictures(every, 200, { windows }).slice(1)) expect(PARTS.filter((part) => each[part])).toHaveLength(1);
});

test('No part waits twice as long as it should, or three times where there are windows', () => {
  for (const every of [7, 17, 33])
    for (const windows of [false, true]) {
      const list = pictures(every, 400, { windows }).slice(1);
      for (const [part, ms] of Object.entries({ drawn: 66, valued: 100, told: 400, marked: 400, ...(windows && { windowed: 100 }) })) {
        const shown = list.flatMap((each, at) => (each[part as Part] ? [at * every] : []));
        const waits = shown.slice(1).map((at, index) => at - shown[index]!);
        expect(Math.max(...waits)).toBeLessThanOrEqual((windows ? 3 : 2) * ms);
      }
    }
});

test('A window that is opened in a quick run is in its next picture', () => {
  const turns = new Turns();
  for (let now = 0; now < 990; now += 33) turns.next(now, true, false);
  expect(turns.next(990, true, true)).toMatchObject({ windowed: true, drawn: false });
});

test('At twelve a second every picture carries the drawing and values, and words or marks', () => {
  for (const each of pictures(83, 60).slice(1)) {
    expect(each).toMatchObject({ drawn: true, valued: true, windowed: true });
    expect(each.told).not.toBe(each.marked);
  }
});

test('A pause between two pictures makes the next one whole', () => {
  const turns = new Turns();
  for (let now = 0; now < 500; now += 33) turns.next(now, true, false);
  expect(turns.next(495 + APART, true, false)).toEqual(all);
});

import { APART, SELDOM, Turns, type Turn } from './turns';

/** The turns of pictures that come `every` ms, the first at 0. */
const pictures = (every: number, count: number, running = true): Turn[] => {
  const turns = new Turns();
  return Array.from({ length: count }, (_, at) => turns.next(at * every, running));
};
const all: Turn = { told: true, marked: true, drawn: true, valued: true };
const of = (list: readonly Turn[], part: keyof Turn): number => list.filter((each) => each[part]).length;

test('A run whose ticks can be read is drawn whole at every picture', () => {
  for (const every of [APART, 250, 1000]) expect(pictures(every, 20)).toEqual(new Array(20).fill(all));
});

test('What stands still is drawn whole, however soon it comes', () => {
  expect(pictures(5, 20, false)).toEqual(new Array(20).fill(all));
  const turns = new Turns();
  for (let now = 0; now < 90; now += 30) turns.next(now, true);
  expect(turns.next(91, false)).toEqual(all);
});

test('The first picture of a run is whole, later ones carry words or marks and never both', () => {
  for (const every of [7, 17, 33, 83, 120]) {
    const [first, ...others] = pictures(every, 200);
    expect(first).toEqual(all);
    expect(others.filter((each) => each.told && each.marked)).toEqual([]);
  }
});

test('At thirty pictures a second words and marks come three times a second each, values nine times, the drawing fifteen times', () => {
  const seconds = pictures(33, 301).slice(1);
  for (const part of ['told', 'marked'] as const) expect(of(seconds, part) / 10).toBeCloseTo(3, 0);
  expect(of(seconds, 'drawn')).toBe(150);
  expect(of(seconds, 'valued')).toBeGreaterThan(85);
});

test('Of thirty pictures a second none carries two things, and none nothing', () => {
  for (const every of [7, 17, 33]) {
    const others = pictures(every, 200).slice(1);
    for (const each of others) expect(Object.values(each).filter(Boolean)).toEqual([true]);
    for (const part of ['told', 'marked'] as const)
      expect(of(others, part)).toBeGreaterThanOrEqual(Math.floor((200 * every) / (SELDOM + 2 * every)));
  }
});

test('At twelve a second every picture carries the drawing and values, and words or marks', () => {
  for (const each of pictures(83, 60).slice(1)) {
    expect(each).toMatchObject({ drawn: true, valued: true });
    expect(each.told).not.toBe(each.marked);
  }
});

test('A pause between two pictures makes the next one whole', () => {
  const turns = new Turns();
  for (let now = 0; now < 500; now += 33) turns.next(now, true);
  expect(turns.next(495 + APART, true)).toEqual(all);
});

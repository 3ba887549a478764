import fc from 'fast-check';
import { goOn, wholeWords, zoomed } from './stretch';

test('a stretch stays within the run, whatever is done with it', () => {
  const act = fc.oneof(
    fc.record({ by: fc.double({ min: 0.1, max: 10, noNaN: true }), around: fc.double({ min: 0, max: 1, noNaN: true }) }),
    fc.record({ by: fc.oneof(fc.double({ min: -3, max: 3, noNaN: true }), fc.constantFrom(Infinity, -Infinity)) }),
  );
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e9 }), fc.array(act, { maxLength: 20 }), (furthest, acts) => {
      let stretch = { from: 0, to: furthest };
      for (const each of acts) {
        stretch = 'around' in each ? zoomed(stretch, { ...each, furthest }) : goOn(stretch, each.by, furthest);
        expect(stretch.from).toBeGreaterThanOrEqual(0);
        expect(stretch.to).toBeLessThanOrEqual(furthest * (1 + 1e-9));
        expect(stretch.to - stretch.from).toBeGreaterThan(Math.min(furthest, 12) * 0.999);
      }
    }),
  );
});

test('the place that it is made longer around stays where it is', () => {
  const near = zoomed({ from: 0, to: 1000 }, { by: 0.5, around: 0.25, furthest: 1000 });
  expect(near).toEqual({ from: 125, to: 625 });
  expect(goOn(near, 0.5, 1000)).toEqual({ from: 375, to: 875 });
  expect(goOn(near, Infinity, 1000)).toEqual({ from: 500, to: 1000 });
});

test.each([
  ['COPY now, work', 14, 'COPY now, work'],
  ['COPY now, work', 13, 'COPY now'],
  ['COPY now, work', 9, 'COPY now'],
  ['COPY now, work', 8, 'COPY'],
  ['COPY now, work', 4, 'COPY'],
  ['COPY now, work', 3, ''],
  ['COPY', 0, ''],
  ['COPY', -3, ''],
])('of “%s” so much fits whole into %d letters: “%s”', (text, letters, whole) => expect(wholeWords(text, letters)).toBe(whole));

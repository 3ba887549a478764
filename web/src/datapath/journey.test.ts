import fc from 'fast-check';
import { alongPath, covers, framesOf, halfOf, restOf } from './journey';

const point = fc.record({ x: fc.integer({ min: 0, max: 600 }), y: fc.integer({ min: 0, max: 400 }) });
const way = fc.array(point, { minLength: 2, maxLength: 6 });
const placeOf = (frame: Keyframe): { x: number; y: number } => {
  const [, x, y] = /translate\((.*)px, (.*)px\)/.exec(String(frame.transform))!;
  return { x: Number(x), y: Number(y) };
};

test('key frames come one after the other, begin at the beginning, and end right before the goal', () => {
  fc.assert(
    fc.property(way, fc.constantFrom(0 as const, 1 as const), fc.boolean(), (points, stage, stays) => {
      const stages = stage === 1 ? 2 : fc.sample(fc.constantFrom(1, 2), 1)[0]!;
      const frames = framesOf(points, { stage, stages, stays, rest: { short: 24, at: alongPath(points, 1, 24) } });
      const offsets = frames.map((each) => Number(each.offset));
      expect(offsets).toEqual([...offsets].sort((a, b) => a - b));
      expect(offsets[0]).toBe(0);
      expect(offsets.at(-1)).toBe(1);
      expect(placeOf(frames[0]!)).toEqual(points[0]);
      expect(placeOf(frames.at(-1)!)).toEqual(alongPath(points, 1, 24));
      // Before its stage it is not there; after it only where nothing follows.
      expect(frames[0]!.opacity).toBe(stage === 1 ? 0 : 1);
      expect(frames.at(-1)!.opacity).toBe(stage === 0 && stages === 2 && !stays ? 0 : 1);
    }),
  );
});

test('a token keeps its pace: halfway in time is halfway on the path', () => {
  const points = [
    { x: 0, y: 0 },
    { x: 100, y: 0 },
    { x: 100, y: 124 },
  ];
  const frames = framesOf(points, { stage: 0, stages: 1, stays: true, rest: { short: 24, at: { x: 100, y: 100 } } });
  expect(frames.map((each) => [each.offset, placeOf(each)])).toEqual([
    [0, { x: 0, y: 0 }],
    [0.5, { x: 100, y: 0 }],
    [1, { x: 100, y: 100 }],
  ]);
  expect(alongPath(points, 0.5, 24)).toEqual({ x: 100, y: 0 });
});

describe('a token that would cover a part beside its way', () => {
  const part = { x: 40, y: 40, width: 50, height: 52 };
  const up = (from: number) => [
    { x: 100, y: from },
    { x: 100, y: 60 },
    { x: 114, y: 60 },
  ];

  test('stops further back, on its way', () => {
    const { at, short } = restOf(up(400), '000066', [part]);
    expect(covers(at, '000066', part)).toBe(false);
    expect(at).toEqual(alongPath(up(400), 1, short));
    expect(at.x).toBe(100);
  });

  test('makes room where its way is too short for that, and still lies on its line', () => {
    const { at } = restOf(up(100), '000066', [part]);
    expect(covers(at, '000066', part)).toBe(false);
    expect(at.x).toBeGreaterThan(100);
    expect(at.x - halfOf('000066')).toBeLessThan(100);
  });

  test('and stops as always where the part is what it comes from or goes to', () => {
    const goal = { x: 114, y: 40, width: 60, height: 40 };
    expect(restOf(up(400), '000066', [goal])).toEqual(restOf(up(400), '000066', []));
  });
});

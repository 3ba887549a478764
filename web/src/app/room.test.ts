import { scaleFor } from './room';

test.each([
  [1280, 800, 1],
  [1024, 768, 1],
  [1366, 768, 1],
  [1920, 1080, 1.35],
  [2560, 1440, 1.8],
  [5120, 2880, 2.5],
  [3000, 820, 1],
])('in a window of %i × %i everything is drawn %f times as large', (width, height, scale) => {
  expect(scaleFor(width, height)).toBe(scale);
});

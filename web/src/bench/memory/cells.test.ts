import { machineNamed } from '@zettak/core/testing/demo';
import { LOADED, NEVER } from '@zettak/core/engine/meaning/state';
import { cellsBeside, charactersOf, heatLevel, heatWords } from './cells';

test('heat has four shades, each ten times as often as the one before', () => {
  expect([undefined, [0, 0, 0] as const].map(heatLevel)).toEqual([0, 0]);
  expect([1, 9, 10, 99, 100, 1000, 1e6].map((count) => heatLevel([count, 0, 0]))).toEqual([1, 1, 2, 2, 3, 4, 4]);
  expect(heatLevel([0, 3, 40])).toBe(2);
  expect(heatWords([2, 2, 0])).toBe('executed 2×, read 2×');
});

test('as many cells stand beside each other as there is room for, and of pairs whole ones only', () => {
  const bits = machineNamed('Curlew').spaces[0]!;
  const digits = machineNamed('Plover').spaces[0]!;
  const beside = (room: number, order?: 'high first'): number[] => [
    cellsBeside(bits, 2, { base: 'hex', room, order }),
    cellsBeside(digits, 10, { base: 'dec', room, order }),
  ];
  expect(beside(200)).toEqual([16, 10]);
  expect(beside(40)).toEqual([8, 5]);
  expect(beside(3)).toEqual([1, 1]);
  for (const room of [3, 20, 40, 60, 90, 200]) for (const count of beside(room, 'high first')) expect(count % 2).toBe(0);
});

test('characters of cells are plain text, small names between, and nothing where nothing was ever written', () => {
  const cells = Uint32Array.from([0x65, 0x62, 0x62, 10, 0, 0x41, 0x1f600, 13]);
  const marks = Uint8Array.from([LOADED, LOADED, LOADED, LOADED, NEVER, LOADED, LOADED, LOADED]);
  expect(charactersOf({ cells, marks }, 0, 8)).toEqual(['ebb', 'LF', ' A·', 'CR', '']);
  expect(charactersOf({ cells, marks }, 1, 2)).toEqual(['bb']);
  expect(charactersOf({ cells, marks }, 3, 1)).toEqual(['', 'LF', '']);
});

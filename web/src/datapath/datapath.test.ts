import { curlew, curlewText, machineFrom, programFrom, programText } from '@zettak/core/testing/demo';
import { Runner } from '@zettak/core/engine/control/runner';
import type { Machine } from '@zettak/core/machine/model/machine';
import { layOut, type Box } from './layout';
import { journeysOf, wiresOf, type Point } from './routes';

/** Curlew's ticks with six more registers, none of which the drawing has heard of. */
const crowded = machineFrom(
  curlewText.replace(
    '  SP:  {',
    [
      '  Y:   {title: second index, role: index, bits: 8}',
      ...[1, 2, 3, 4, 5].map((each) => `  G${each}: {title: general ${each}, role: general, bits: 8}`),
      '  SP:  {',
    ].join('\n'),
  ),
);

const overlap = (a: Box, b: Box): boolean => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

test.each<[string, Machine]>([
  ['the demo machine', curlew],
  ['a machine with thirteen registers', crowded],
])('of %s every register has a box of its own inside the processor', (_, machine) => {
  const { registers, alu, processor, spaces } = layOut(machine);
  expect(registers.map((each) => each.register).sort((a, b) => a - b)).toEqual(machine.registers.map((_each, at) => at));
  const boxes = [...registers, alu];
  boxes.forEach((a, at) => {
    expect(a.x >= 0 && a.y >= 0 && a.x + a.width <= processor.width && a.y + a.height <= processor.height).toBe(true);
    expect(boxes.slice(at + 1).filter((b) => overlap(a, b))).toEqual([]);
  });
  expect(spaces.filter((each) => overlap(each, processor))).toEqual([]);
});

const straight = (points: readonly Point[]): boolean =>
  points.slice(1).every((each, at) => each.x === points[at]!.x || each.y === points[at]!.y);

test.each(['quay-watch', 'highest-water', 'over-the-sill'])(
  'every token of %s travels along lines that are drawn, between the right boxes',
  (name) => {
    const runner = new Runner(curlew, programFrom(curlew, programText(name)), { inputs: [120, 158, 0] });
    const drawing = layOut(curlew);
    const wires = new Set(
      wiresOf(curlew, drawing)
        .map((each) => [JSON.stringify(each.points), JSON.stringify(each.points.toReversed())])
        .flat(),
    );
    let tokens = 0;
    while (!runner.tick()) {
      for (const { points, stage } of journeysOf(curlew, drawing, runner.timeline.last!)) {
        expect(straight(points)).toBe(true);
        expect([0, 1]).toContain(stage);
        const loop = points.length === 4 && points[0]!.y === points[3]!.y;
        if (!loop) expect(wires.has(JSON.stringify(points))).toBe(true);
        tokens++;
      }
    }
    expect(tokens).toBeGreaterThan(40);
  },
);

test('a line that no tick uses is not drawn', () => {
  const drawing = layOut(crowded);
  const idle = drawing.registers.find((each) => crowded.registers[each.register]!.name === 'G1')!;
  const touches = wiresOf(crowded, drawing).some((wire) =>
    wire.points.some((each) => each.x === idle.x + idle.width && Math.abs(each.y - idle.y - idle.height / 2) < 1),
  );
  expect(touches).toBe(false);
});

test('addresses travel before the data they fetch', () => {
  const runner = new Runner(curlew, programFrom(curlew, programText('quay-watch')));
  runner.tick();
  runner.tick();
  expect(journeysOf(curlew, layOut(curlew), runner.timeline.last!).map(({ path, text, stage }) => [path, text, stage])).toEqual([
    ['address', '00', 0],
    ['data', '12', 1],
    ['address', '01', 0],
  ]);
});

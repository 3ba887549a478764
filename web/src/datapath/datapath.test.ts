import fc from 'fast-check';
import { curlew, curlewText, demoMachines, fixtures, machineFrom, programFrom, programText } from '@zettak/core/testing/demo';
import { drawnMachine } from '@zettak/core/testing/generated';
import { smallMachine } from '@zettak/core/testing/small';
import { Runner } from '@zettak/core/engine/control/runner';
import type { Machine } from '@zettak/core/machine/model/machine';
import { INSTRUCTIONS_HEIGHT, layOut, type Box } from './layout';
import { besideWay, covers, restsOf, roomOf } from './journey';
import { linesOf, segmentsOf, type Segment } from './lines';
import { journeysOf, wiresOf, type Point, type Wire } from './routes';

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

/** The inside of a part that a piece of a line goes through. */
function throughPart(wires: readonly Wire[], parts: readonly Box[]): string[] {
  return wires
    .flatMap(({ points }) =>
      segmentsOf(points).flatMap(({ upright, at, from, to }) => {
        const line = upright ? { x: at, y: from, width: 0, height: to - from } : { x: from, y: at, width: to - from, height: 0 };
        return parts.filter((part) => {
          const inside = { x: part.x + 0.5, y: part.y + 0.5, width: part.width - 1, height: part.height - 1 };
          return overlap({ ...line, width: line.width + 0.001, height: line.height + 0.001 }, inside);
        });
      }),
    )
    .map((each) => JSON.stringify(each));
}

/** Points where a piece of one way crosses a piece of another and neither ends there. */
function crossings(wires: readonly Wire[]): Set<string> {
  const pieces = wires.flatMap((each) => segmentsOf(each.points));
  const [upright, level] = [pieces.filter((each) => each.upright), pieces.filter((each) => !each.upright)];
  const bends = new Set(wires.flatMap((each) => each.points.map(({ x, y }) => `${x} ${y}`)));
  const inside = ({ from, to }: Segment, at: number): boolean => from < at && at < to;
  const found = upright.flatMap((a) => level.flatMap((b) => (inside(a, b.at) && inside(b, a.at) ? [`${a.at} ${b.at}`] : [])));
  return new Set(found.filter((each) => !bends.has(each)));
}

/** What is wrong with the drawing of a machine; and how often its lines cross. */
function faultsOf(machine: Machine): { readonly faults: readonly string[]; readonly crossings: number } {
  const drawing = layOut(machine);
  const { registers, files, alu, processor, spaces, outside } = drawing;
  const wires = wiresOf(machine, drawing);
  const loose = registers.filter((each) => each.look !== 'cell');
  const parts: readonly Box[] = [...loose, ...files, alu];
  const faults = throughPart(wires, [...parts, ...spaces, outside]);
  parts.forEach((a, at) => {
    if (a.x < 0 || a.y < 0 || a.x + a.width > processor.width || a.y + a.height > processor.height)
      faults.push(`outside ${JSON.stringify(a)}`);
    for (const b of parts.slice(at + 1)) if (overlap(a, b)) faults.push(`${JSON.stringify(a)} over ${JSON.stringify(b)}`);
  });
  for (const each of registers.filter(({ look }) => look === 'cell'))
    if (!files.some((file) => overlap(file, each))) faults.push(`no file around ${each.register}`);
  for (const space of spaces) if (overlap(space, processor) || overlap(space, outside)) faults.push('a memory over another part');
  // Every piece is upright or level, so that what crosses crosses at right angles.
  for (const { points } of wires) if (!straight(points)) faults.push(`slanting ${JSON.stringify(points)}`);
  return { faults, crossings: crossings(wires).size };
}

const all: [string, Machine][] = [...demoMachines, ...fixtures].map(({ name, text }) => [name, machineFrom(text)]);

test.each([...all, ['a machine with thirteen registers', crowded] as [string, Machine]])(
  'in the drawing of %s no line goes through a part, no part lies over another, every register is there',
  (_, machine) => {
    const { faults, crossings: crossed } = faultsOf(machine);
    expect(faults).toEqual([]);
    expect(crossed).toBeLessThanOrEqual(6);
    const drawn = layOut(machine).registers.map((each) => each.register);
    expect(drawn.sort((a, b) => a - b)).toEqual(machine.registers.map((_each, at) => at));
  },
);

test('machines that nobody has written are drawn without faults, too', () => {
  fc.assert(
    fc.property(drawnMachine, ({ text }) => {
      expect(faultsOf(machineFrom(text)).faults).toEqual([]);
    }),
    { numRuns: 40 },
  );
});

test.each([1, 2, 3, 4, 5, 6])('of %d memories, the one with programs has room for its instructions, the others for a cell', (count) => {
  const others = Array.from({ length: count - 1 }, (_, at) => `  D${at}: {cells: 16}`);
  const machine = machineFrom(smallMachine().replace('  M: {cells: 256}\n', ['  M: {cells: 256}', ...others, ''].join('\n')));
  const { spaces, processor } = layOut(machine);
  expect(spaces).toHaveLength(count);
  expect(spaces[0]!.height).toBeGreaterThanOrEqual(INSTRUCTIONS_HEIGHT);
  for (const each of spaces.slice(1)) expect(each.height).toBeGreaterThanOrEqual(57);
  spaces.slice(1).forEach((each, at) => expect(each.y).toBeCloseTo(spaces[at]!.y + spaces[at]!.height + 8));
  expect(spaces.at(-1)!.y + spaces.at(-1)!.height).toBeCloseTo(processor.height);
  expect(faultsOf(machine).faults).toEqual([]);
});

test('what a lesson hides is not drawn, and no line leads to it', () => {
  const drawing = layOut(curlew, ['MAR', 'MDR', 'X', 'SP']);
  expect(drawing.registers.map((each) => curlew.registers[each.register]!.name)).toEqual(['PC', 'IR', 'ACC']);
  const shown = layOut(curlew);
  expect(wiresOf(curlew, drawing).length).toBeLessThan(wiresOf(curlew, shown).length);
  expect(wiresOf(curlew, drawing).every((each) => each.points.length > 1)).toBe(true);
});

test('lines that lie on one another are one, and a dot stands where they meet', () => {
  const wire = (path: Wire['path'], ...points: [number, number][]): Wire => ({ path, points: points.map(([x, y]) => ({ x, y })) });
  const { data, address, dots } = linesOf([
    wire('data', [0, 0], [10, 0], [10, 10]),
    wire('data', [0, 5], [10, 5], [10, 10]),
    wire('address', [10, 5], [10, 20]),
  ]);
  expect(data).toHaveLength(3);
  expect(data.filter((each) => each.upright)).toEqual([{ upright: true, at: 10, from: 0, to: 10 }]);
  expect(address).toEqual([{ upright: true, at: 10, from: 10, to: 20 }]);
  expect(dots).toEqual([{ x: 10, y: 5 }]);
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
        expect(wires.has(JSON.stringify(points))).toBe(true);
        tokens++;
      }
    }
    expect(tokens).toBeGreaterThan(40);
  },
);

/** Where tokens that have arrived cover a value, or another token: of each the tick, its text and what it covers. */
function covered(machine: Machine, source: string, ticks = 400): string[] {
  const drawing = layOut(machine);
  const runner = new Runner(machine, programFrom(machine, source), { inputs: [120, 158, 0] });
  const found: string[] = [];
  for (let tick = 0; tick < ticks && !runner.tick(); tick++) {
    const journeys = journeysOf(machine, drawing, runner.timeline.last!);
    const rests = restsOf(journeys, drawing.registers);
    const rooms = journeys.map(({ text }, at) => roomOf(rests[at]!.at, text));
    for (const [number, { points, text }] of journeys.entries()) {
      const what = `${runner.timeline.last!.text}: ${text} over`;
      const beside = besideWay(points, drawing.registers);
      for (const box of drawing.registers)
        if (beside.includes(box) && covers(rests[number]!.at, text, box)) found.push(`${what} ${machine.registers[box.register]!.name}`);
      for (const [other, room] of rooms.entries())
        if (other < number && overlap(room, rooms[number]!)) found.push(`${what} ${journeys[other]!.text}`);
    }
  }
  return found;
}

test.each(demoMachines.flatMap(({ text, programs }) => programs.map((each) => [each.name, text, each.text] as const)))(
  'no token of %s stops over a value that it has nothing to do with, or over another',
  (_name, machine, source) => expect(covered(machineFrom(machine), source)).toEqual([]),
);

test('what travels to a memory is the address that arrives there, whatever was added to a register for it', () => {
  const machine = machineFrom(
    smallMachine({
      registers: 'SP: {role: stack pointer, start: 0x20}',
      ticks: { PUSH: 'SP <- SP - 1, M[SP - 1] <- A', PEEK: 'A <- M[SP + 3]', AT: 'A <- M[SP]' },
    }),
  );
  const runner = new Runner(machine, programFrom(machine, '  PUSH\n  PEEK\n  AT\n  HALT\n'), {});
  const addresses: string[] = [];
  while (!runner.tick()) {
    if (!/SP/.test(runner.timeline.last!.text)) continue;
    addresses.push(
      ...journeysOf(machine, layOut(machine), runner.timeline.last!).flatMap((each) => (each.path === 'address' ? [each.text] : [])),
    );
  }
  expect(addresses).toEqual(['1F', '22', '1F']);
});

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
  ]);
});

test('a file of many wide registers is lower than eight rows, which would make all the rest small; a single column stays one', () => {
  const file = (count: number) => {
    const text = smallMachine({ registers: `R: {count: ${count}, bits: 32}`, ticks: { TRY: 'R[0] <- R[1]' } });
    return layOut(machineFrom(text)).files.find((each) => each.title === 'R')!;
  };
  expect(file(16).height).toBeLessThan(8 * 44);
  expect(file(16).width).toBeGreaterThan(file(2).width);
  expect(file(2).height).toBeGreaterThan(44 + 8);
});

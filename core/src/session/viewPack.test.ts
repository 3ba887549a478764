import { bench } from '../testing/bench';
import { demoMachines } from '../testing/demo';
import type { View } from './protocol';
import { ViewPacker, ViewUnpacker } from './viewPack';

const same = (one: Uint32Array | Uint8Array, other: Uint32Array | Uint8Array): boolean =>
  one.length === other.length && one.every((each, at) => each === other[at]);

test.each(demoMachines)('$name: what is unpacked is what was packed, through steps, jumps back and starts', ({ text, programs }) => {
  for (const { text: source } of programs.slice(0, 2)) {
    const { session, views, advance } = bench(source, text);
    const way = [
      'tick',
      'tick',
      'instruction',
      'instruction',
      'back',
      'instruction',
      'phase',
      'start',
      'over',
      'run',
      'instructionBack',
    ] as const;
    for (const command of way) {
      session.run.command(command);
      advance(20);
    }
    const [packer, unpacker] = [new ViewPacker(), new ViewUnpacker()];
    expect(views.length).toBeGreaterThan(way.length);
    for (const { spaces, ...rest } of views) {
      const { spaces: unpacked, ...others } = unpacker.unpack(structuredClone(packer.pack({ ...rest, spaces })));
      expect(others).toEqual(rest);
      // Cell by cell it takes half a minute to say the same.
      expect(unpacked.every((each, at) => same(each.cells, spaces[at]!.cells) && same(each.marks, spaces[at]!.marks))).toBe(true);
      expect(unpacked).toHaveLength(spaces.length);
    }
  }
});

test('parts that have not changed are the very ones of the view before', () => {
  const { session, views } = bench('LOAD #5\nSTORE x\nADD #1\nHALT\nx .room 1');
  for (let tick = 0; tick < 8; tick++) session.run.command('tick');
  const [packer, unpacker] = [new ViewPacker(), new ViewUnpacker()];
  const shown: View[] = views.map((each) => unpacker.unpack(structuredClone(packer.pack(each))));
  const [one, other] = [shown.at(-2)!, shown.at(-1)!];
  expect(other.spaces).toBe(one.spaces);
  expect(other.devices).toBe(one.devices);
  expect(other.inputs).toBe(one.inputs);
  expect(other.wake[0]).toBe(one.wake[0]);
  expect(other.registers).not.toBe(one.registers);
});

test('a memory that is still shown stays as it is when the next view comes', () => {
  const { session, views } = bench('LOAD #5\nSTORE x\nHALT\nx .room 1');
  session.run.command('instruction');
  session.run.command('instruction');
  const [packer, unpacker] = [new ViewPacker(), new ViewUnpacker()];
  const shown: View[] = views.map((each) => unpacker.unpack(structuredClone(packer.pack(each))));
  const at = [...shown.at(-1)!.spaces[0]!.cells].findIndex((each, cell) => each !== shown.at(-2)!.spaces[0]!.cells[cell]);
  expect(at).toBe(5);
  expect(shown.at(-2)!.spaces[0]!.cells[at]).toBe(0);
  expect(shown.at(-1)!.spaces[0]!.cells[at]).toBe(5);
});

import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { curlew, machineFrom, machineNamed, programFrom } from '../testing/demo';
import { smallMachine } from '../testing/small';
import { programSpaceOf } from '../machine/model/machine';
import { readCellsCsv, writeCellsCsv } from './cellsCsv';
import { readIntelHex, writeIntelHex } from './intelHex';
import { listingOf, listingText, symbolsText } from './listing';
import { readRaw, writeRaw } from './raw';
import { readWords, writeWords } from './words';

const machineOf = (bits: number) =>
  machineFrom(
    smallMachine({ word: `bits: ${bits}`, space: 'cells: 65536' })
      .replace('alone: opcode 8', `alone: opcode ${bits}`)
      .replace('both:  opcode 8, value 8', `both:  opcode ${bits}, value ${bits}`),
  );
const machines = new Map([8, 12, 16, 24, 32].map((bits) => [bits, machineOf(bits)]));

/** Cells with gaps, each address once. */
const image = (bits: number) =>
  fc
    .uniqueArray(fc.tuple(fc.nat(65_535), fc.nat(2 ** Math.min(31, bits) - 1)), { maxLength: 60, selector: ([address]) => address })
    .map((list) => list.map(([address, value]) => ({ address, value })).sort((a, b) => a.address - b.address));

const drawn = fc.constantFrom(...machines.keys()).chain((bits) => fc.record({ bits: fc.constant(bits), cells: image(bits) }));
const order = fc.constantFrom('high first' as const, 'low first' as const);

test('Intel HEX read back equals the image, gaps and start included', () => {
  fc.assert(
    fc.property(drawn, order, fc.nat(65_535), ({ bits, cells }, first, start) => {
      const machine = machines.get(bits)!;
      const written = writeIntelHex(machine, programSpaceOf(machine), { cells, order: first, start });
      if ('refused' in written) throw new Error(written.refused);
      expect(readIntelHex(machine, programSpaceOf(machine), written.text, first)).toEqual({ cells, start, problems: [] });
    }),
    { numRuns: 150 },
  );
});

test('raw binary, CSV and typed words read back equal the image', () => {
  fc.assert(
    fc.property(drawn, order, ({ bits, cells }, first) => {
      const machine = machines.get(bits)!;
      const space = programSpaceOf(machine);
      const csv = writeCellsCsv(
        machine,
        cells.map((each) => ({ ...each, space: 0 })),
      );
      expect(readCellsCsv(machine, csv)).toEqual({ cells: cells.map((each) => ({ ...each, space: 0 })), problems: [] });
      expect(readWords(machine, space, writeWords(machine, space, cells))).toEqual({ cells, problems: [] });
      const near = cells.map((each, at) => ({ ...each, address: 100 + 2 * at }));
      const raw = writeRaw(machine, space, { cells: near, order: first });
      if ('refused' in raw) throw new Error(raw.refused);
      const back = readRaw(machine, space, { ...raw, order: first }).cells;
      expect(back.filter((_, at) => at % 2 === 0)).toEqual(near);
      expect(back.filter((_, at) => at % 2 === 1).every((each) => each.value === space.fill)).toBe(true);
    }),
    { numRuns: 100 },
  );
});

const hasObjcopy = spawnSync('objcopy', ['--version']).status === 0;
const withObjcopy = hasObjcopy ? test : test.skip;

withObjcopy(`the system’s objcopy reads our Intel HEX${hasObjcopy ? '' : ' (not tried: objcopy is not installed)'}`, () => {
  const machine = machines.get(8)!;
  const cells = Array.from({ length: 300 }, (_, at) => ({ address: 0x40 + at, value: (at * 7) % 256 }));
  const written = writeIntelHex(machine, programSpaceOf(machine), { cells, start: 0x40 });
  const folder = mkdtempSync(join(tmpdir(), 'zettak-'));
  const file = (name: string): string => join(folder, name);
  writeFileSync(file('a.hex'), 'text' in written ? written.text : '');
  execFileSync('objcopy', ['-I', 'ihex', '-O', 'binary', file('a.hex'), file('a.bin')]);
  expect([...readFileSync(file('a.bin'))]).toEqual(cells.map((each) => each.value));
  execFileSync('objcopy', ['-I', 'binary', '-O', 'ihex', file('a.bin'), file('b.hex')]);
  const back = readIntelHex(machine, programSpaceOf(machine), readFileSync(file('b.hex'), 'utf8'));
  expect(back.problems).toEqual([]);
  expect(back.cells.map((each) => each.value)).toEqual(cells.map((each) => each.value));
});

test.each([
  [':00000001FF\n:0100000012ED', 2, /behind the end record/],
  ['0100000012ED\n:00000001FF', 1, /starts with a colon/],
  [':01000000\n:00000001FF', 1, /says that it has 1 data bytes/],
  [':0100000012EC\n:00000001FF', 1, /checksum is EC and should be ED/],
  [':0100000612E7\n:00000001FF', 1, /no record of type 06/],
  [':0100000012ED', 1, /end record .* is missing/],
  [':0100000012ED\n:0100000013EC\n:00000001FF', 2, /another value on line 1/],
  [':0101000012EC\n:00000001FF', 1, /Cell 256 is past the end of M, which has 256 cells/],
])('damaged Intel HEX %j is told on line %i', (text, line, sentence) => {
  const { problems } = readIntelHex(curlew, programSpaceOf(curlew), text);
  expect(problems[0]!.line).toBe(line);
  expect(problems[0]!.sentence).toMatch(sentence);
});

test('records before a damaged one and behind it are read', () => {
  const { cells, problems } = readIntelHex(curlew, programSpaceOf(curlew), ':0100000012ED\n:0100010012EE\n:0100020014E9\n:00000001FF');
  expect(cells).toEqual([
    { address: 0, value: 0x12 },
    { address: 2, value: 0x14 },
  ]);
  expect(problems).toHaveLength(1);
});

test('a decimal machine is pointed to CSV, and CSV carries its cells', () => {
  const plover = machineNamed('Plover');
  const space = programSpaceOf(plover);
  expect(writeIntelHex(plover, space, { cells: [] })).toEqual({ refused: expect.stringMatching(/Use CSV/) as string });
  expect(writeRaw(plover, space, { cells: [] })).toEqual({ refused: expect.stringMatching(/Use CSV/) as string });
  const program = programFrom(plover, 'READ\nWRITE\nHALT');
  expect(readCellsCsv(plover, writeCellsCsv(plover, program.cells)).cells.map((each) => each.value)).toEqual(
    program.cells.map((each) => each.value),
  );
});

test('CSV goes by its header, and wrong rows are told by line', () => {
  const dunlin = machineNamed('Dunlin');
  const { cells, problems } = readCellsCsv(
    dunlin,
    'value,address,bank,space\n3,2,1,DATA\n99,2,1,DATA\n1,2,1,NONE\nx,1,0,DATA\n\n1,9999,0,DATA',
  );
  const { cells: size } = dunlin.spaces[1]!;
  expect(cells).toEqual([{ space: 1, address: size + 2, value: 3 }]);
  expect(problems.map((each) => each.line)).toEqual([3, 4, 5, 7]);
  expect(readCellsCsv(dunlin, 'a,b\n1,2').problems[0]!.sentence).toMatch(/names the columns/);
});

test('CSV fields may be quoted, hold commas and line breaks, and lines are counted as an editor counts them', () => {
  const text = '\uFEFF"address","value","what, and where"\r\n"5","0",""\r\n6,1,"a sill,\nand a gate"\r\n7,none,"""so"""\r\n';
  const { cells, problems } = readCellsCsv(curlew, text);
  expect(cells).toEqual([
    { space: 0, address: 5, value: 0 },
    { space: 0, address: 6, value: 1 },
  ]);
  expect(problems.map((each) => each.line)).toEqual([5]);
});

test('typed words: an address with a colon, remarks, a base mark; what is wrong keeps its cell', () => {
  const { cells, problems } = readWords(curlew, programSpaceOf(curlew), '40: 12 xyz 0x03 0B ; remark\n1FF 7');
  expect(cells).toEqual([
    { address: 0x40, value: 0x12 },
    { address: 0x42, value: 3 },
    { address: 0x43, value: 0x0b },
    { address: 0x45, value: 7 },
  ]);
  expect(problems).toEqual([
    { line: 1, sentence: expect.stringMatching(/no number in base 16/) as string },
    { line: 2, sentence: expect.stringMatching(/511 does not fit a cell/) as string },
  ]);
});

test('no reader throws over rubbish', () => {
  const space = programSpaceOf(curlew);
  fc.assert(
    fc.property(fc.string({ maxLength: 200 }), (text) => {
      for (const each of [readIntelHex(curlew, space, text), readWords(curlew, space, text), readCellsCsv(curlew, text)])
        expect(Array.isArray(each.problems)).toBe(true);
    }),
    { numRuns: 400 },
  );
});

test('a listing shows routine borders, short forms, room and the parts that are taken in', () => {
  const gannet = machineNamed('Gannet');
  const program = programFrom(
    gannet,
    'start PUSH R1\n CALL twice\n POP R1\n HALT\n.routine twice\n ADD R1, R1, R1\n RET\n.end\nspare .room 2',
  );
  const lines = listingOf(gannet, program);
  expect(lines[0]!.expanded.map((each) => each.text)).toEqual(['ADD R4, R4, #-1', 'STORE R1, [R4+0]']);
  expect(lines.map((each) => each.border)).toEqual([, , , , 'begin', , , 'end', ,].map((each) => each));
  expect(lines[5]!.routine).toBe('twice');
  const text = listingText(gannet, program);
  expect(text).toMatch(/= ADD R4, R4, #-1/);
  expect(text).toMatch(/000[0-9A-F] +·· +9 {2}spare \.room 2/);
  expect(symbolsText(gannet, program)).toMatch(/twice +0006 +line 5 +used on 2/);
});

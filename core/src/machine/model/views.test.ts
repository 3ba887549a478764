import { curlew, curlewText, machineFrom } from '../../testing/demo';
import { cardOf } from './card';
import { freeOpcodes, mapAsText, opcodeMap } from './opcodeMap';
import { readYaml } from '../document/yaml';
import { makeSource } from '../../text/source';

/** A machine with 4-bit opcodes in 8-bit cells, so that one form takes sixteen first cells. */
const halves = machineFrom(
  [
    'machine: Halves',
    'word: {bits: 8}',
    'spaces: {M: {cells: 16, bits: 8}}',
    'registers:',
    '  PC: {role: program counter, bits: 4}',
    '  IR: {role: instruction, bits: 8}',
    '  ACC: {role: accumulator, bits: 8}',
    'formats: {short: "opcode 4, place 4", bare: "opcode 8"}',
    'cycle:',
    '  phases: [All]',
    '  first: {phase: All, ticks: "IR <- M[PC], PC <- PC + 1"}',
    '  decode: {phase: All}',
    '  execute: {phase: All}',
    'instructions:',
    '  TAKE: {forms: [{write: "TAKE {place}", code: short opcode=1, execute: "ACC <- M[place]"}]}',
    '  STOP: {forms: [{write: STOP, code: bare opcode=0xF0, execute: halt}]}',
  ].join('\n'),
);

test('the card tells cells, own ticks, flags in the machine’s order, and the count of all ticks', () => {
  const row = (written: string) => cardOf(curlew).find((each) => each.written === written);
  expect(row('CMP #value')).toMatchObject({
    cells: ['3B', 'value'],
    execute: ['compare ACC - value ; flags Z N C V H P'],
    flags: ['Z', 'N', 'C', 'V', 'H', 'P'],
    ticks: 6,
  });
  expect(row('JUMP{c} address')).toMatchObject({ cells: ['5 c', 'address'], flags: [], ticks: 6 });
  expect(row('JUMP{c} address')?.spelled.slice(0, 2)).toEqual([
    { operation: 'JUMPZ', means: 'zero: Z = 1' },
    { operation: 'JUMPNZ', means: 'not zero: Z = 0' },
  ]);
  expect(row('PASS')).toMatchObject({ cells: ['0E'], execute: [], flags: [], ticks: 3 });
  expect(cardOf(halves).map((each) => each.cells)).toEqual([['1 place'], ['F0']]);
});

test('the opcode map counts what each form takes, at any size of opcode', () => {
  expect(opcodeMap(halves)).toMatchObject({
    width: 8,
    used: 17,
    free: 239,
    entries: [
      { demands: [{ cell: 0, low: 4, width: 4, value: 1 }], match: 0x10, count: 16 },
      { demands: [{ cell: 0, low: 0, width: 8, value: 0xf0 }], match: 0xf0, count: 1 },
    ],
  });
  expect(freeOpcodes(halves, 3)).toEqual([0, 1, 2]);
  expect(freeOpcodes(curlew, 300)).toHaveLength(256 - curlew.forms.length - 7);
  expect(mapAsText(halves).split('\n')[3]).toMatch(/^10 {2}(TAKE +){15}TAKE$/);
});

test('places in YAML are those of the values, in blocks, in quotes and in braces', () => {
  const text = 'a:\n  b: |\n    one\n\n      two\n  c: {d: "x", e: y}\nf: [p, q]\n';
  const yaml = readYaml(makeSource('t', text));
  const at = (path: (string | number)[]): string => text.slice(yaml.spanOf(path).start, yaml.spanOf(path).end);
  expect([at(['a', 'c', 'd']), at(['a', 'c', 'e']), at(['f', 1]), at(['a'])]).toEqual(['"x"', 'y', 'q', 'a']);
  expect(yaml.linesOf(['a', 'b'])).toEqual([
    { text: 'one', offset: text.indexOf('one') },
    { text: 'two', offset: text.indexOf('two') },
  ]);
  expect(at(['a', 'missing'])).toBe('a');
});

test('every tick of a document knows its own place', () => {
  for (const form of curlew.forms) {
    for (const { tick, part } of form.schedule) {
      if (part !== 'decode') expect(curlewText.slice(tick.span.start, tick.span.end)).toBe(tick.text);
    }
  }
});

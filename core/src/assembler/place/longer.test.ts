import { readMachine } from '../../machine/read';
import type { Machine } from '../../machine/model/machine';
import { decode } from '../../machine/model/encode';
import { exampleOf } from '../../machine/model/examples';
import { assemble } from '../assemble';
import { disassemble } from '../assist/disassemble';

/** Instructions in a short and a long form whose fields have names of their own. */
const TEXT = `machine: Turnstone
word: {bits: 8}
spaces:
  P: {cells: 256}
registers:
  PC: {role: program counter}
  IR: {role: instruction, bits: 16, parts: {head: '15:8', tail: '7:0'}}
  A: {role: accumulator}
  R: {count: 8}
flags:
  Z: {rule: zero}
conditions:
  Z: {code: 0, when: Z = 1}
  NZ: {code: 1, when: Z = 0, also: NE}
formats:
  short: opcode 2, number 6 signed
  long: opcode 8, place 8 either
  near: opcode 3, c 1 condition, step 4 from next
  far: opcode 7, when 1 condition, target 8
  few: opcode 4, r 2 register R, n 2
  all: opcode 4, n 4, zero 5, which 3 register R
  word: opcode 6, way 2 names up=1 down=2
  many: opcode 6, way 2 names left=1 up=2, amount 8
cycle:
  phases: [Fetch, Look, Do]
  first: {phase: Fetch, ticks: 'IR.head <- P[PC], PC <- PC + 1'}
  decode: {phase: Look}
  more: {phase: Fetch, ticks: 'IR.tail <- P[PC], PC <- PC + 1'}
  execute: {phase: Do}
instructions:
  LIT:
    forms:
      - {write: 'LIT {number}', code: short opcode=0, execute: 'A <- extend(number, 8) ; flags Z'}
      - {write: 'LIT {place}', code: long opcode=0x40, execute: A <- place}
  IF:
    forms:
      - {write: 'IF{c} {step}', code: near opcode=3, execute: 'if c holds: PC <- next + extend(step, 8)'}
      - {write: 'IF{when} {target}', code: far opcode=0x21, execute: 'if when holds: PC <- target'}
  INC:
    forms:
      - {write: 'INC {r}, {n}', code: few opcode=8, execute: 'R[r] <- R[r] + n'}
      - {write: 'INC {which}, {n}', code: all opcode=9, execute: 'R[which] <- R[which] + n'}
  GO:
    forms:
      - {write: 'GO {place}', code: long opcode=0x44, execute: 'PC <- place'}
      - {write: 'GO {way}', code: word opcode=0x2A, execute: 'A <- way'}
      - {write: 'GO {way}, {amount}', code: many opcode=0x2B, execute: 'A <- amount + way'}
  REST:
    forms:
      - {write: REST, code: long opcode=0x48 place=0, execute: halt}
`;

const machine: Machine = (() => {
  const { machine: found, problems } = readMachine(TEXT);
  expect(problems.filter((each) => each.grade === 'error')).toEqual([]);
  return found!;
})();

const wordsOf = (line: string): readonly number[] | string => {
  const { rows, problems } = assemble(machine, `        ${line}\n        REST\n`);
  return problems.find((each) => each.grade === 'error')?.sentence ?? rows.find((each) => each.kind === 'code')!.words;
};

test.each<[line: string, words: readonly number[] | RegExp]>([
  ['LIT 31', [0x1f]],
  ['LIT 32', [0x40, 32]],
  ['LIT -33', [0x40, 0xdf]],
  ['LIT 256', /256 \(0x100\) does not fit the field place of LIT/],
  ['IFZ here + 3', [0x62]],
  ['IFNE 100', [0x43, 100]],
  ['IFZ 0x1FF', /does not fit the field target of IF/],
  ['INC R1, 2', [0x86]],
  ['INC R5, 2', [0x92, 0x05]],
  ['INC R1, 9', [0x99, 0x01]],
  ['INC R1, 16', /16 \(0x10\) does not fit the field n of INC: 0 to 15/],
  ['GO down', [0xaa]],
  ['GO 7', [0x44, 7]],
  ['GO up, 5', [0xae, 5]],
  ['GO left, 5', [0xad, 5]],
  ['GO down, 5', /GO/],
])('“%s” takes the first form that it fits, whatever the fields are called', (line, words) => {
  if (words instanceof RegExp) expect(wordsOf(line)).toMatch(words);
  else expect(wordsOf(line)).toEqual(words);
});

test('A number is assembled as what it is or not at all', () => {
  for (let value = -600; value <= 1100; value++) {
    const words = wordsOf(`LIT ${value}`);
    if (typeof words === 'string') {
      expect(value < -128 || value > 255).toBe(true);
      continue;
    }
    const decoded = decode(machine, (at) => words[at], 0);
    const read = 'refused' in decoded ? undefined : decoded.operands[0]!.value;
    expect((read! + 256) % 256).toBe((value + 256) % 256);
  }
});

test('Each form has an example that is assembled into it, and comes back from its cells', () => {
  for (const form of machine.forms) {
    const { line, words, at } = exampleOf(machine, form)!;
    const { rows, problems } = assemble(machine, `        .origin ${at}\n        ${line}\n        REST\n`);
    expect([line, problems.filter((each) => each.grade === 'error')]).toEqual([line, []]);
    expect([line, rows.find((each) => each.kind === 'code')!.words]).toEqual([line, words]);
    const decoded = decode(machine, (cell) => words[cell], at);
    expect([line, 'refused' in decoded ? undefined : decoded.form.written]).toEqual([line, form.written]);
    const cells = words.map((value, cell) => ({ space: 0, address: at + cell, value }));
    const back = assemble(machine, disassemble(machine, cells).text);
    expect(back.rows.flatMap((each) => each.words)).toEqual(words);
  }
});

test('A mistake names both forms once', () => {
  expect(wordsOf('LIT R1')).toMatch(
    /“R1” is a register, where a number or a name is expected\. It is written: LIT number {2}or {2}LIT place\./,
  );
});

test('Forms that have no more room than one before them are told, and those that share no name are not', () => {
  const same = TEXT.replace("'GO {way}, {amount}', code: many", "'GO {way}', code: other").replace(
    'formats:\n',
    'formats:\n  other: opcode 6, way 2 names WEST=1 up=2\n',
  );
  expect(readMachine(same).problems.map((each) => each.code)).toContain('forms-alike');
  expect(readMachine(same.replace('WEST=1 up=2', 'WEST=1 east=2')).problems.map((each) => each.code)).not.toContain('forms-alike');
});

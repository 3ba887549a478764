import { curlewText, fixtures, machineFrom, machineNamed, programFrom, runnerFor } from '../../testing/demo';
import { smallMachine } from '../../testing/small';
import type { Machine } from '../../machine/model/machine';
import { narrate } from './narrate';
import { Runner } from '../control/runner';
import { branchAhead } from './branchAhead';
import { explainFlag } from './why';

const told = (runner: Runner): string =>
  narrate(runner, runner.timeline.last!, 'done')
    .map((each) => each.text)
    .join('');
const coming = (runner: Runner): string =>
  narrate(runner, runner.timeline.preview()!.report, 'coming')
    .map((each) => each.text)
    .join('');

/** The demo machine with SHL's tick replaced. */
const withTick = (tick: string): Machine => machineFrom(curlewText.replace('ACC <- ACC << 1 ; flags Z N C V P', tick));

/** Runs a program up to and through the last tick of its instruction number `at`, from 1. */
function after(source: string, at: number, machine?: Machine, inputs: number[] = []): Runner {
  const runner = runnerFor(source, inputs, machine);
  for (let instruction = 0; instruction < at; instruction++) runner.instruction();
  return runner;
}

test.each<[string, string, number, string]>([
  [
    'LOAD #5\nHALT',
    'a number from the instruction',
    1,
    '05 from the value field of the instruction went to ACC, replacing 00. No flag changed: Z 0, N 0.',
  ],
  [
    'LOAD #0\nHALT',
    'a value that was there already',
    1,
    '00 from the value field of the instruction went to ACC, which held it already. Z became 1; unchanged: N 0.',
  ],
  ['LOAD #7\nSTORE level\nHALT\nlevel .room 1', 'a cell with a name', 2, '07 from MDR was written to level, replacing 00.'],
  ['LOAD #7\nSTORE 0x80\nHALT', 'a cell without a name', 2, '07 from MDR was written to cell 0x80, replacing 00.'],
  [
    'LOAD #3\nSUB #5\nHALT',
    'a subtraction',
    2,
    'The ALU takes 05 in the value field from 03 in ACC. ACC becomes FE, it was 03. Exactly it is −2, too little for 8 bits without a sign: it wrapped to FE. N became 1, C became 1, H became 1; unchanged: Z 0, V 0, P 0.',
  ],
  [
    'LOAD #3\nCMP #3\nHALT',
    'a comparison',
    2,
    'The ALU only compares: it takes 03 in the value field from 03 in ACC and keeps nothing but flags. They are equal. Z became 1, P became 1; unchanged: N 0, C 0, V 0, H 0.',
  ],
  [
    'LOAD #3\nAND #1\nHALT',
    'logic',
    2,
    'The ALU joins by AND 03 in ACC and 01 in the value field. ACC becomes 01, it was 03. No flag changed: Z 0, N 0, P 0.',
  ],
  [
    'LOAD #0xC1\nSHL\nHALT',
    'a shift',
    2,
    'The ALU shifts left C1 in ACC by 1 place. ACC becomes 82, it was C1. C became 1, P became 1; unchanged: Z 0, N 1, V 0.',
  ],
  ['JUMP end\nend HALT', 'a jump', 1, '02 from the address field of the instruction, where end lies, went to PC, which held it already.'],
  [
    'LOAD #0\nJUMPZ end\nLOAD #1\nend HALT',
    'a jump that is taken',
    2,
    'The jump was taken, because Z is 1. 06 from the address field of the instruction, where end lies, went to PC, replacing 04.',
  ],
  ['LOAD #65\nTRAP showSign\nHALT', 'a written character', 2, 'The trap showSign wrote "A" to the console, from ACC, 41.'],
  ['LOAD #65\nTRAP showNumber\nHALT', 'a written number', 2, 'The trap showNumber wrote "65" to the console, from ACC, 41.'],
  ['LOAD #t\nTRAP showText\nHALT\nt .text "ebb", 0', 'a written text', 2, 'The trap showText wrote the text at 05 to the console: "ebb".'],
  ['TRAP finish', 'the end', 1, 'The trap finish ended the program.'],
  ['HALT', 'a halt', 1, 'The machine has halted.'],
])('after %j the last tick tells of %s', (source, _, at, sentence) => {
  expect(told(after(source, at))).toBe(sentence);
});

test('a number that a trap read is told with its register', () => {
  expect(told(after('TRAP askLevel\nHALT', 1, undefined, [0x4b]))).toBe(
    'The trap askLevel took 4B from the input queue and put it into ACC.',
  );
});

test('the return address is told as such', () => {
  const runner = runnerFor('CALL away\nHALT\naway RET');
  for (let tick = 0; tick < 6; tick++) runner.tick();
  expect(told(runner)).toBe(
    'SP has moved back by 1, to EF. 02 (the address after this instruction) went to MDR, replacing 00. One value more on the stack S.',
  );
});

test('decode tells what the opcode means and how many cells follow', () => {
  const runner = runnerFor('LOAD #5\nHALT');
  runner.tick();
  runner.tick();
  runner.tick();
  expect(told(runner)).toBe('1F means LOAD #value: bring a value into the accumulator. Its value follows in one more cell.');
});

test('what has come whole is told with its numbers and names, as a program would write it', () => {
  const gannet = machineNamed('Gannet');
  expect(sentencesOf(gannet, 'ADD R1, R2, #-3\nHALT', 3)).toMatch(/^\w{4} means ADD R1, R2, #-3: /);
  expect(sentencesOf(gannet, 'both CALL both', 3)).toMatch(/^3000 means CALL both: .* It is complete\.$/);
});

test('what is about to happen is told in the present', () => {
  const runner = runnerFor('LOAD #5\nHALT');
  expect(coming(runner)).toBe('00 from PC goes to MAR, which held it already.');
  for (let tick = 0; tick < 5; tick++) runner.tick();
  expect(coming(runner)).toBe('05 from the value field of the instruction goes to ACC, replacing 00. No flag changed: Z 0, N 0.');
});

test.each<[string, string]>([
  ['ACC <- ~ACC', 'The ALU turns over every bit of 0F in ACC. ACC becomes F0, it was 0F.'],
  ['ACC <- -ACC', 'The ALU negates 0F in ACC. ACC becomes F1, it was 0F.'],
  ['ACC <- ACC ^ 0xFF', 'The ALU joins by exclusive OR 0F in ACC and FF. ACC becomes F0, it was 0F.'],
  ['C <- 1', 'C became 1.'],
  ['ACC <- 7', '07 as written in the tick went to ACC, replacing 0F.'],
  ['ACC[7:4] <- 3', '3 as written in the tick went to ACC[7:4], replacing 0.'],
  ['MDR <- IR.op', '38 from the op field of the instruction went to MDR, replacing 00.'],
  ['if Z = 1: ACC <- 0 else ACC <- 1', 'Z = 1 did not hold, because Z is 0. 01 as written in the tick went to ACC, replacing 0F.'],
])('the tick “%s” is told as %j', (tick, sentence) => {
  expect(told(after('LOAD #15\nSHL\nHALT', 2, withTick(tick)))).toBe(sentence);
});

test('each flag rule gives its reason in words', () => {
  const runner = after('LOAD #0x50\nADD #0x50\nHALT', 2);
  const reasons = runner.machine.flags.map((_, flag) =>
    explainFlag(runner, flag, runner.timeline.whyFlag(flag)).sentence.split('. ').at(-1),
  );
  expect(reasons).toEqual([
    'The result is not 0.',
    'The top bit is 1: read as signed, −96; a signed overflow made this sign wrong, for exactly it is 160.',
    'Nothing was carried out of the top.',
    'Read as signed, 80 + 80 = 160, which does not fit 8 bits.',
    'A carry did not cross from the lower half.',
    'The result has 2 one bits.',
  ]);
});

test('a flag that nothing has set says so, and one given a value too', () => {
  const runner = runnerFor('HALT');
  expect(explainFlag(runner, 0, runner.timeline.whyFlag(0))).toEqual({
    sentence: 'Z is 0 since the start: nothing has set it yet.',
    columns: [],
  });
  const given = after('SHL\nHALT', 1, withTick('C <- 1'));
  expect(explainFlag(given, 2, given.timeline.whyFlag(2)).sentence).toBe('C = 1: set by SHL at 0x00, tick 4, which gave it this value.');
});

test('borrows stand over the columns of a subtraction', () => {
  const runner = after('LOAD #0x10\nSUB #0x01\nHALT', 2);
  const { columns } = explainFlag(runner, 2, runner.timeline.whyFlag(2));
  expect(columns.map((each) => `${each.sign}${each.binary} ${each.shown}`)).toEqual([
    '    1 111  borrows',
    '0001 0000 10',
    '−0000 0001 01',
    '0000 1111 0F',
  ]);
});

const sentencesOf = (machine: Machine, source: string, ticks: number): string => {
  const runner = new Runner(machine, programFrom(machine, source));
  for (let tick = 0; tick < ticks; tick++) runner.tick();
  return told(runner);
};

test('registers that are written and read as one are told as one, by the name of the pair', () => {
  const registers = 'D: {bits: 8}\nE: {bits: 8}\nDE: {pair: D E}\nH: {bits: 8}';
  const machine = machineFrom(smallMachine({ registers, ticks: { SET: 'DE <- 0xFFFE', UP: 'DE <- DE + 3', ODD: 'A <- D + E' } }));
  expect(sentencesOf(machine, 'SET\nHALT', 3)).toBe('FFFE as written in the tick went to DE, replacing 0000.');
  expect(sentencesOf(machine, 'SET\nUP\nHALT', 6)).toBe(
    'The ALU adds 0003 to FFFE in DE. DE becomes 0001, it was FFFE. Exactly it is 0x10001, too much for 16 bits without a sign: it wrapped to 0001.',
  );
  // Two registers that happen to be a pair are two operands.
  expect(sentencesOf(machine, 'SET\nODD\nHALT', 6)).toMatch(/^The ALU adds FE in E to FF in D\. A becomes FD/);
});

test.each([
  ['join(next[7:4], X[3:0])', '00 (0 from next[7:4], then 0 from X[3:0]) went to ACC'],
  ['join(C, ACC[7:1])', '1A (0 from C, then 1A from ACC[7:1]) went to ACC'],
  ['join(0xA, ACC[7:4])', 'A3 (A, then 3 from ACC[7:4]) went to ACC'],
  ['join(ACC[3:0], X[3:0] + 1)', '51 (5 from ACC[3:0], then 1) went to ACC'],
])('what is put together is told part by part: %s', (value, sentence) => {
  expect(told(after('LOAD #0x35\nSHL\nHALT', 2, withTick(`ACC <- ${value}`)))).toContain(sentence);
});

test.each([
  ['ACC <- X[3:0] * ACC[3:0]', 'The ALU multiplies 3 in X[3:0] by 5 in ACC[3:0]. ACC becomes 0F'],
  ['ACC <- low(ACC * X)', 'The ALU multiplies 35 in ACC by 13 in X. ACC becomes EF, it was 35. Of 03EF it keeps the low 8 bits.'],
  ['ACC <- (ACC * X)[15:8]', 'ACC becomes 03, it was 35. Of 03EF it keeps bits 15 to 8.'],
  ['ACC <- extend(ACC[7:4] - X[3:0], 8)', 'The ALU takes 3 in X[3:0] from 3 in ACC[7:4]. ACC becomes 00'],
  ['ACC <- extend(ACC[7:4] + 5, 8)', 'ACC becomes F8, it was 35. Its sign was repeated.'],
  ['ACC <- join(0b000_0000, ACC < X)', '00 (00, then 0) went to ACC'],
  ['ACC <- extend(X[3:0] + 0, 8)', 'ACC becomes 03'],
  ['ACC <- extend(ACC[2:0], 8)', 'FD (5 from ACC[2:0], its sign repeated) went to ACC'],
  ['ACC <- extend(ACC[3:0], 8)', '05 from ACC[3:0] went to ACC'],
  ['ACC[3:0] <- X[7:4]', '1 from X[7:4] went to ACC[3:0]'],
  ['ACC[3:0] <- low(X)', '3 from X[3:0] went to ACC[3:0]'],
  ['ACC[0] <- ACC < X', '0 (worked out from 35 in ACC and 13 in X) went to ACC[0]'],
])('what digits are taken of is told as it was worked out: %s', (tick, sentence) => {
  expect(told(after('LOADX #0x13\nLOAD #0x35\nSHL\nHALT', 3, withTick(tick)))).toContain(sentence);
});

test('a target of which a part comes from the instruction is told so, and not as the next address', () => {
  expect(sentencesOf(machineNamed('Gannet'), 'CALL both\n.cells 0, 0\nboth HALT', 4)).toBe(
    '0001 (the address after this instruction) went to R5, replacing 0000. ' +
      '0003 (0 from next[15:12], then 003 from the target field) went to PC, replacing 0001. This called both; it will come back to 0x0001.',
  );
});

test('cells behind each other that are read as one are told from the first to the last, either way round', () => {
  const wide = machineFrom(fixtures.find((each) => each.name === 'turnstone')!.text);
  expect(sentencesOf(wide, 'UPPER R2, #1', 1)).toBe('11200001 from cell 0x0000 to cell 0x0003 went to IR, replacing 00000000.');
  const registers = 'D: {bits: 8}\nE: {bits: 8}\nDE: {pair: D E}';
  const ticks = { DOWN: 'DE <- join(M[2], M[1])', PARTS: 'A <- join(M[5][3:0], M[4][3:0])' };
  const narrow = machineFrom(smallMachine({ registers, ticks }));
  expect(sentencesOf(narrow, 'DOWN\nHALT', 3)).toBe('0001 from cell 0x02 down to cell 0x01 went to DE, replacing 0000.');
  expect(sentencesOf(narrow, 'PARTS\nHALT', 3)).toBe(
    '00 (0 from cell 0x05[3:0], then 0 from cell 0x04[3:0]) went to A, which held it already.',
  );
});

test('a pair of 64 bits is told to its last digit', () => {
  const wide = machineFrom(fixtures.find((each) => each.name === 'turnstone')!.text);
  const source = 'UPPER R2, #0xFFFF\nMUL R2, R2\nHALT';
  const runner = new Runner(wide, programFrom(wide, source));
  while (runner.state.control.instructions < 2) runner.tick();
  runner.timeline.back();
  expect(told(runner)).toMatch(/^The ALU multiplies FFFF0000 in R2 by FFFF0000 in R2, both read as signed\. W becomes 0000000100000000/);
});

test.each([
  ['LOAD #0x9E\nCMP #0x2B\nHALT', 'Without a sign, 158 is greater than 43; with a sign, −98 is less than 43.'],
  ['LOAD #3\nCMP #5\nHALT', 'With a sign and without, 3 is less than 5.'],
  ['LOAD #5\nCMP #5\nHALT', 'They are equal.'],
])('after %j the comparison tells both verdicts: %s', (source, verdict) => {
  expect(told(after(source, 2))).toContain(verdict);
});

test('flags that were left alone are told when that is asked for', () => {
  const { machine, program, state, timeline } = after('LOAD #3\nAND #1\nHALT', 2);
  const telling = { machine, program, state, asked: { untouched: true } };
  const words = narrate(telling, timeline.last!, 'done')
    .map((each) => each.text)
    .join('');
  expect(words).toMatch(/Left alone: C 0, V 0, H 0\.$/);
});

test.each([
  ['LOAD #0\nJUMPZ end\nLOAD #1\nend HALT', 1, 'JUMPZ end: the jump will be taken, because Z is 1.'],
  ['LOAD #1\nJUMPZ end\nLOAD #1\nend HALT', 1, 'JUMPZ end: falls through, because Z is 0.'],
  ['LOAD #1\nHALT', 1, undefined],
])('before the branch of %j it is told what it will do', (source, instructions, sentence) => {
  const runner = runnerFor(source);
  while (runner.state.control.instructions < instructions) runner.tick();
  const before = JSON.stringify([...runner.state.registers]);
  const words = branchAhead(runner)
    ?.map((each) => each.text)
    .join('');
  if (sentence === undefined) expect(words).toBeUndefined();
  else expect(words).toContain(sentence);
  expect(JSON.stringify([...runner.state.registers])).toBe(before);
});

test('a distance backwards is told with its sign, and reaches its target without wrapping', () => {
  const back = (machine: Machine, source: string, ticks: number): string => sentencesOf(machine, source, ticks);
  expect(back(machineNamed('Gannet'), 'again JUMP again', 4)).toBe(
    'The jump was taken. The ALU adds −1 (FFFF) to 0001 in PC. PC becomes 0000, it was 0001.',
  );
  const narrow = machineFrom(
    smallMachine({ pc: ', bits: 12', ticks: { BACK: 'PC <- next + extend(A[3:0], 12)', LESS: 'B <- B - extend(A[3:0], 8)' } }),
  );
  expect(back(narrow, 'PUT 14\nBACK', 7)).toBe(
    'The ALU adds −2 (FFE) to 03, the address after this instruction. PC becomes 001, it was 003.',
  );
  expect(back(narrow, 'PUT 14\nLESS', 7)).toBe('The ALU takes −2 (FE) from 00 in B. B becomes 02, it was 00.');
  expect(back(narrow, 'PUT 14\nLESS\nPUT 3\nLESS', 14)).toBe(
    'The ALU takes 03 in A[3:0] from 02 in B. B becomes FF, it was 02. Exactly it is −1, too little for 8 bits without a sign: it wrapped to FF.',
  );
});

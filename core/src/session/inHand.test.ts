import { demoMachines, fixtures, machineFrom } from '../testing/demo';
import { assemble } from '../assembler/assemble';
import { Runner } from '../engine/control/runner';
import { programSpaceOf } from '../machine/model/machine';
import { inHand } from './inHand';
import { smallMachine } from '../testing/small';
import { decodedLines } from './viewParts';
import { Watches } from './watches';

const runnerOf = (name: string, source?: string): Runner => {
  const { text, programs } = demoMachines.find((each) => each.name === name)!;
  const machine = machineFrom(text);
  return new Runner(machine, assemble(machine, source ?? programs[0]!.text).program!, {});
};
const handOf = (runner: Runner) => inHand({ machine: runner.machine, program: runner.program, state: runner.state }, runner);

test('fields come as their cells are fetched, and say what they mean once they are decoded', () => {
  const runner = runnerOf('Curlew', '       LOAD rise\n       HALT\nrise   .cells 7\n');
  expect(handOf(runner)).toBeUndefined();
  const seen: string[] = [];
  for (let tick = 0; tick < 8; tick++) {
    runner.tick();
    seen.push(
      handOf(runner)!
        .fields.map((each) => `${each.kind} ${each.digits} ${each.says}`.trim())
        .join(' | '),
    );
  }
  expect(seen.slice(0, 5)).toEqual([
    'gap',
    expect.stringMatching(/^unused \w\w$/),
    expect.stringMatching(/^code \w\w LOAD \| gap$/),
    expect.stringMatching(/LOAD \| gap$/),
    expect.stringMatching(/LOAD \| operand 03 address = 0x03 rise$/),
  ]);
});

test('a field of several cells says what it is when the last of them has come', () => {
  const text = smallMachine()
    .replace('formats:\n', 'formats:\n  far: opcode 4, long 12\n')
    .replace('instructions:\n', "instructions:\n  FAR: {forms: [{write: 'FAR {long}', code: far opcode=9, execute: 'A <- low(long)'}]}\n");
  const machine = machineFrom(text);
  const runner = new Runner(machine, assemble(machine, ' FAR 0xE27\n HALT').program!, {});
  const seen: string[] = [];
  do {
    runner.tick();
    const fields = handOf(runner)!.fields.map((each) => (each.kind === 'gap' ? '..' : each.says || each.digits));
    seen.push(`${fields.join(' ')} | ${decodedLines(machine, runner).slice(1).join()}`);
  } while (runner.state.control.step > 0);
  expect([...new Set(seen)]).toEqual(['9E | ', 'FAR .. | ', 'FAR long = 0xE27 | E27 = long']);
});

test('a number that happens to be the place of something is not called so', () => {
  const runner = runnerOf('Curlew', '       LOAD #3\n       HALT\nrise   .cells 7\n');
  runner.instruction();
  expect(handOf(runner)!.fields.at(-1)!.says).toBe('value = 0x03');
});

test('a condition without a name is told by when it holds, where it stands by itself', () => {
  const machine = machineFrom(fixtures.find((each) => each.name === 'dotterel')!.text);
  const runner = new Runner(machine, assemble(machine, ' GO over\nover GO over\n').program!, {});
  runner.instruction();
  expect(handOf(runner)!.fields.map((each) => each.says)).toEqual(['GO', 'c = always', expect.stringMatching(/^address = \S+ over$/)]);
  expect(decodedLines(machine, runner)[1]).toBe('always = c');
  expect(handOf(runner)!.text).toBe('GO over');
});

test('a condition is not called by the label that has its code; a cell of another memory is called by its own', () => {
  const text = smallMachine({
    space: 'cells: 256}\n  D: {cells: 16, bits: 8',
    parts: 'flags: {Z: {rule: zero}}\nconditions:\n  SAME: {code: 1, when: Z = 1}\n  OTHER: {code: 2, when: Z = 0}',
  })
    .replace('cycle:\n', '  jump: opcode 4, c 4 condition, to 8\n  level: opcode 8, place 8\ncycle:\n')
    .replace(
      'instructions:\n',
      "instructions:\n  IF: {forms: [{write: 'IF {c}, {to}', code: jump opcode=9, execute: 'if c holds: PC <- to'}]}\n  GET: {forms: [{write: 'GET {place}', code: level opcode=60, execute: 'A <- D[place[3:0]]'}]}\n",
    );
  const machine = machineFrom(text);
  const source = ' .start on\n HALT\non IF SAME, on\n GET tide\n HALT\n .space D\nebb .cells 4\ntide .cells 7\n';
  const runner = new Runner(machine, assemble(machine, source).program!, {});
  runner.instruction();
  expect(handOf(runner)!.fields.map((each) => each.says)).toEqual(['IF', 'c = SAME', 'to = 0x01 on']);
  runner.instruction();
  expect(handOf(runner)!.fields.map((each) => each.says)).toEqual(['GET', 'place = 0x01 tide']);
});

test.each(demoMachines)('$name: the digits of all fields side by side are the cells, at every tick', ({ text, programs }) => {
  const machine = machineFrom(text);
  const { width } = programSpaceOf(machine);
  for (const each of programs) {
    const { program } = assemble(machine, each.text);
    if (!program) continue;
    const runner = new Runner(machine, program, { inputs: [3, 2, 1, 0] });
    for (let tick = 0; tick < 300; tick++) {
      if (runner.tick()) break;
      const hand = handOf(runner);
      if (!hand) continue;
      const total = hand.fields.reduce((sum, field) => sum + field.width, 0);
      expect(total % width).toBe(0);
      if (machine.radix !== 2 || hand.text === '' || hand.fields.some((field) => field.kind === 'gap')) continue;
      const bits = hand.fields.map((field) => field.bits).join('');
      const cells = runner.state.spaces[machine.programSpace]!;
      const read = Array.from({ length: total / width }, (_, at) =>
        (cells[runner.state.control.here + at] ?? 0).toString(2).padStart(width, '0'),
      );
      expect(bits).toBe(read.join(''));
    }
  }
});

test.each(fixtures)('$name: a machine of another shape has an instruction in hand, too', ({ text }) => {
  const machine = machineFrom(text);
  const form = machine.forms.find((each) => each.operands.length === 0)!;
  const { program } = assemble(machine, `  ${form.written}\n`);
  const runner = new Runner(machine, program!, {});
  runner.instruction();
  expect(handOf(runner)!.fields.map((each) => each.says)).toContain(form.mnemonic);
});

test('watched values are as they are, and as they were when the last command began', () => {
  const runner = runnerOf('Curlew', 'start  LOAD #0x9E\n       ADD  #1\n       HALT\n');
  const watches = new Watches();
  watches.set(['ACC', 'ACC + 1', 'Z', 'nowhere', 'M[0]', 'start']);
  watches.mark(runner);
  runner.instruction();
  expect(watches.shown(runner)).toEqual([
    { text: 'ACC', now: '0x9E = 158 = −98', before: '0x00 = 0' },
    { text: 'ACC + 1', now: expect.stringMatching(/= 159/), before: expect.stringMatching(/= 1$/) },
    { text: 'Z', now: '0', before: '0' },
    { text: 'nowhere', now: '', before: '', refused: expect.stringMatching(/nowhere/) },
    { text: 'M[0]', now: expect.stringMatching(/^0x/), before: expect.stringMatching(/^0x/) },
    { text: 'start', now: expect.stringMatching(/^0x/), before: expect.stringMatching(/^0x/) },
  ]);
  watches.mark(runner);
  expect(watches.shown(runner)[0]).toMatchObject({ now: '0x9E = 158 = −98', before: '0x9E = 158 = −98' });
  watches.set([]);
  expect(watches.shown(runner)).toEqual([]);
});

import { assemble } from '../../assembler/assemble';
import { curlew, demoMachines, machineFrom } from '../../testing/demo';
import { smallMachine } from '../../testing/small';
import { Runner } from '../control/runner';
import type { TickReport } from '../meaning/report';
import { narrateInstruction } from './narrateInstruction';

/** Sentences of the first instructions of a program, each whole. */
function told(runner: Runner, most: number): string[] {
  const sentences: string[] = [];
  while (sentences.length < most && !runner.state.control.halted) {
    const reports: TickReport[] = [];
    do {
      const stop = runner.tick();
      if (stop && stop.kind !== 'halted') return sentences;
      if (runner.timeline.last) reports.push(runner.timeline.last);
    } while (runner.state.control.step > 0);
    const telling = { machine: runner.machine, program: runner.program, state: runner.state };
    sentences.push(
      narrateInstruction(telling, reports)!
        .map((each) => each.text)
        .join(''),
    );
  }
  return sentences;
}

test('an instruction is told from end to end: where its value came from and where it went, its flags, its jump', () => {
  const source = `
start  LOAD  level
       ADD   rise
       CMP   #0xC0
       STORE later
       JUMP  end
       LOAD  #1
end    HALT
level  .cells 0x9E
rise   .cells 43
later  .room 1
`;
  const runner = new Runner(curlew, assemble(curlew, source).program!, {});
  const sentences = told(runner, 7);
  expect(sentences[0]).toMatch(/^9E from level went to ACC, replacing 00\. .*N became 1/);
  expect(sentences[1]).toMatch(/^The ALU adds 2B in rise to 9E in ACC\. ACC becomes C9, it was 9E\./);
  expect(sentences[2]).not.toMatch(/MDR/);
  expect(sentences[3]).toMatch(/^C9 from ACC was written to later/);
  expect(sentences[4]).toMatch(/went to PC|PC/);
  expect(sentences.at(-1)).toMatch(/The machine has halted\./);
});

test('what only passes through a temporary register is left out, and so is what the instruction itself chooses', () => {
  const machine = machineFrom(
    smallMachine({
      registers: 'T: {role: temporary}\nU: {role: temporary}',
      ticks: {
        SUM: 'T <- A\nU <- B\nT <- T + U\nB <- T',
        PICK: 'if I1[0] = 0 or I1[0] = 1: T <- A else T <- B\nB <- T',
        LESS: 'if A = 0: T <- A else T <- B\nB <- T',
      },
    }),
  );
  const runner = new Runner(machine, assemble(machine, 'PUT 3\nSUM\nPICK\nLESS\nHALT').program!, {});
  expect(told(runner, 4).slice(1)).toEqual([
    'The ALU adds 00 in B to 03 in A. T stays 03. 03 from T went to B, replacing 00.',
    '03 from A went to B, which held it already.',
    'A = 0 did not hold, because A is 0x03. 03 from B went to B, which held it already.',
  ]);
});

test('of some digits of a register that only carried a value the register is told, with those digits', () => {
  const machine = machineFrom(
    smallMachine({ registers: 'D: {role: memory data}', ticks: { LOW: 'D <- M[5]\nA <- join(B[3:0], D[3:0])' } }),
  );
  const runner = new Runner(machine, assemble(machine, 'LOW\nHALT').program!, {});
  runner.state.spaces[0]![5] = 7;
  expect(told(runner, 1)).toEqual(['07 (0 from B[3:0], then 7 from D[3:0]) went to A, replacing 00.']);
});

test.each(demoMachines)(
  '$name: no instruction of the course is told as coming from a register that only carried its value',
  ({ text, programs }) => {
    const machine = machineFrom(text);
    const carriers = machine.registers.filter((each) => each.role === 'memory data').map((each) => each.name);
    for (const { text: source } of programs) {
      const { program } = assemble(machine, source);
      if (!program) continue;
      for (const sentence of told(new Runner(machine, program, { inputs: [3, 1, 2, 0] }), 60)) {
        expect(sentence).not.toBe('');
        for (const name of carriers) expect(sentence).not.toMatch(new RegExp(`(from|in) ${name}\\b`));
      }
    }
  },
);

test('what does nothing that can be seen says so', () => {
  const runner = new Runner(curlew, assemble(curlew, '  LOAD #0\n  HALT\n').program!, {});
  expect(told(runner, 1)[0]).toMatch(/^00 from the value field of the instruction went to ACC, which held it already\./);
  expect(narrateInstruction({ machine: curlew, program: undefined, state: runner.state }, [])).toBeUndefined();
});

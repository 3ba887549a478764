import { programFrom } from '../../testing/demo';
import { Runner } from '../../engine/control/runner';
import { readWholeMachine } from '../../assembler/machines';
import { beginningOf, COUNTERS, MEMORIES, STORES, WIDTHS, WORDS, type Answers } from './beginning';

const all = WORDS.flatMap((word) =>
  [WIDTHS[word].least, WIDTHS[word].usual + 4, WIDTHS[word].greatest].flatMap((width) =>
    MEMORIES.flatMap((memory) =>
      STORES.flatMap((store) => COUNTERS.map((counter): Answers => ({ name: 'Ruff', word, width, memory, store, counter }))),
    ),
  ),
);

test.each(all)('$width $word, $memory, $store, PC at $counter: six instructions without a problem, and a program that runs', (answers) => {
  const { document, program } = beginningOf(answers);
  const { machine, problems } = readWholeMachine(document);
  expect(problems.map((each) => `${each.line} ${each.sentence}\n${document}`)).toEqual([]);
  expect(new Set(machine!.forms.map((each) => each.mnemonic)).size).toBe(6);
  expect(machine!.wordWidth).toBe(answers.width);
  expect(machine!.radix).toBe(answers.word === 'bits' ? 2 : 10);
  const runner = new Runner(machine!, programFrom(machine!, program));
  while (!runner.state.control.halted && !runner.tick());
  expect(runner.state.control).toMatchObject({ halted: true, output: '3\n2\n1\n' });
});

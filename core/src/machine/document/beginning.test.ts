import { programFrom } from '../../testing/demo';
import { Runner } from '../../engine/control/runner';
import { readWholeMachine } from '../../assembler/machines';
import { editDocument } from './edits';
import { beginningOf, emptyMachine, COUNTERS, MEMORIES, STORES, WIDTHS, WORDS, type Answers } from './beginning';

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

test('an empty machine has no error, and takes its first instruction', () => {
  const text = emptyMachine('Ruff');
  expect(readWholeMachine(text).problems.filter((each) => each.grade === 'error')).toEqual([]);
  const made = editDocument(text, {
    ...{ kind: 'insert', path: ['instructions', 'STOP'] },
    value: { forms: [{ write: 'STOP', code: 'alone opcode=1', execute: 'halt' }] },
  });
  if ('refused' in made) throw new Error(JSON.stringify(made.refused));
  expect(readWholeMachine(made.text).machine?.forms).toHaveLength(1);
});

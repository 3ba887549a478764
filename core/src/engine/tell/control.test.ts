import { curlew, demoMachines, fixtures, machineFrom, runnerFor } from '../../testing/demo';
import { controlDone, controlTable } from './control';

test('the control table has a row for every tick and marks what each asks for', () => {
  const { head, rows } = controlTable(curlew);
  const fetch = rows.find(([instruction, tick]) => instruction === 'ADD address' && tick === '2')!;
  const on = head.filter((_, at) => at > 3 && fetch[at] === '1');
  expect(fetch[3]).toBe('IR.op <- M[MAR], PC <- PC + 1');
  expect(on).toEqual(['read', 'PC + 1', 'load IR']);
  const last = rows.findLast(([instruction]) => instruction === 'ADD address')!;
  expect(head.filter((_, at) => at > 3 && last[at] === '1')).toEqual([
    'load ACC',
    'add',
    'set Z',
    'set N',
    'set C',
    'set V',
    'set H',
    'set P',
  ]);
});

test.each([...demoMachines, ...fixtures])('$name: the table is rectangular and every column is used', ({ text }) => {
  const machine = machineFrom(text);
  const { head, rows } = controlTable(machine);
  expect(rows).toHaveLength(machine.forms.reduce((sum, each) => sum + each.schedule.length, 0));
  for (const row of rows) expect(row).toHaveLength(head.length);
  head.forEach((word, at) => expect([word, rows.some((row) => row[at] !== '')]).toEqual([word, true]));
});

test('a tick that was done tells what it asked of memory, ALU and counters', () => {
  const runner = runnerFor('LOAD level\nADD level\nHALT\nlevel .cells 5');
  const words: string[][] = [];
  while (!runner.state.control.halted) {
    runner.tick();
    words.push(controlDone(curlew, runner.timeline.last!).map((each) => each.word));
  }
  expect(words.slice(0, 2)).toEqual([[], ['read', 'PC + 1']]);
  expect(words).toContainEqual(['add']);
});

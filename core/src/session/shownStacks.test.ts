import { bench } from '../testing/bench';
import { demoMachines } from '../testing/demo';

const source = `start  LOAD #7
       PUSH ACC
       CALL outer
       HALT
outer  CALL inner
       RET
inner  LOAD #1
       RET
`;

/** Commands one after the other, to where an instruction has been done so many times. */
function after(instructions: number) {
  const { session, last } = bench(source.replace('PUSH ACC', 'PUSH'));
  for (let step = 0; step < instructions; step++) session.run.command('instruction');
  return last();
}

test('what lies on a stack is told: return addresses by the call that they belong to, and what was pushed', () => {
  const view = after(4);
  const [stack] = view.stacks;
  expect(stack).toMatchObject({ name: 'S', pointer: 'SP', depth: 3, room: 29 });
  expect(stack!.items.map((each) => [each.place, each.what])).toEqual([
    ['0xED', 'return address of inner, to line 6'],
    ['0xEE', 'return address of outer, to line 4'],
    ['0xEF', ''],
  ]);
  expect(stack!.items[2]!.value).toBe('07');
  expect(view.calls.map((each) => [each.name, each.returnLine])).toEqual([
    ['outer', 4],
    ['inner', 6],
  ]);
});

test('what was taken off a stack still lies there and is shown, nearest first', () => {
  const [stack] = after(7).stacks;
  expect(stack).toMatchObject({ full: true, depth: 1, room: 31 });
  expect(stack!.popped.map((each) => each.place)).toEqual(['0xEE', '0xED']);
});

test('a stack without values in a memory tells how deep it is', () => {
  const dunlin = demoMachines.find((each) => each.name === 'Dunlin')!;
  const { session, last } = bench('start CALL away\n HALT\naway RET', dunlin.text);
  expect(last().stacks).toMatchObject([{ name: 'CALLS', full: false, depth: 0, items: [] }]);
  session.run.command('instruction');
  expect(last().stacks[0]).toMatchObject({ depth: 1, room: 3 });
});

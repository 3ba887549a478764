import { runnerFor } from '../../testing/demo';

/** Long enough to be compiled; at its end it writes over the branch that it went through. */
const source = `start  LOADX #0
outer  LOAD  #0
loop   INC
turn   JUMPNZ loop
       INCX
       CMPX  #8
       JUMPNZ outer
       LOAD  #0x0F
       STORE turn
       HALT
`;

test('a branch that was leapt over is counted, whatever is written over it later', () => {
  const runner = runnerFor(source);
  runner.count();
  runner.begin();
  while (!runner.state.control.halted) runner.run(10_000);
  expect(runner.timeline.leaper.longRuns).toBe('compiled');
  const turn = runner.program.symbols.find((each) => each.name === 'turn')!.value;
  expect(runner.state.spaces[0]![turn]).toBe(0x0f);
  expect(runner.counts!.branches.get(turn)).toEqual({ taken: 8 * 255, notTaken: 8 });
  expect(runner.counts!.executions.get(turn)).toBe(8 * 256);
});

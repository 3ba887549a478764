/** What an instruction is decoded into fits the room that is kept for it. */
import { Runner } from '../engine/control/runner';
import { demoMachines, machineFrom, programFrom } from '../testing/demo';
import { decodedLines, longestDecoded, wanted } from './viewParts';

test.each(demoMachines.flatMap(({ text, programs }) => programs.map((each) => [each.name, text, each.text] as const)))(
  'the lines that instructions of %s are decoded into are no longer than is told, and have no mark of a base',
  (_name, text, source) => {
    const machine = machineFrom(text);
    const runner = new Runner(machine, programFrom(machine, source), { inputs: [120, 158, 0] });
    const most = longestDecoded(machine);
    let longest = 0;
    for (let tick = 0; tick < 300 && !runner.tick(); tick++)
      for (const each of decodedLines(machine, runner)) {
        expect(each).not.toMatch(/\b0[xob]\w/);
        longest = Math.max(longest, each.length);
      }
    expect(longest).toBeGreaterThan(4);
    expect(longest).toBeLessThanOrEqual(most);
  },
);

test('numbers of an octal machine stand without their mark, too', () => {
  const text = demoMachines.find((each) => each.name === 'Curlew')!.text.replace(/^ {2}bits: 8$/m, '  bits: 8\n  base: octal');
  const machine = machineFrom(text);
  const runner = new Runner(machine, programFrom(machine, 'LOAD level\nHALT\nlevel .cells 7'));
  while (decodedLines(machine, runner).length === 0) runner.tick();
  // The address is known when its cell has come.
  expect(decodedLines(machine, runner)).toEqual([expect.stringMatching(/^0\d+ = LOAD$/)]);
  runner.tick();
  runner.tick();
  expect(decodedLines(machine, runner)).toEqual([expect.stringMatching(/^0\d+ = LOAD$/), '003 = address']);
});

test.each([
  ['', 'askLevel', 'wants a number for ACC: −128 to 255'],
  ['\n  base: octal', 'askLevel', 'wants a number for ACC: −0o200 to 0o377'],
])('a number that is waited for is told in the base in which it is read', (base, who, what) => {
  const text = demoMachines.find((each) => each.name === 'Curlew')!.text.replace(/^ {2}bits: 8$/m, `  bits: 8${base}`);
  const machine = machineFrom(text);
  const runner = new Runner(machine, programFrom(machine, 'TRAP askLevel\nHALT\n'));
  let stop = runner.tick();
  while (!stop) stop = runner.tick();
  expect(stop.kind === 'waiting' && wanted(machine, stop.report)).toEqual({ who, what });
});

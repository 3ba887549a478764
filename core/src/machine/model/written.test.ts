/** Written forms in which a value would be one word with what stands before it. */
import { assemble } from '../../assembler/assemble';
import { readWholeMachine } from '../../assembler/machines';
import { decodedText } from '../../engine/tell/names';
import { machineFrom, programFrom } from '../../testing/demo';
import { withMend } from '../../testing/mending';
import { smallMachine } from '../../testing/small';
import { decode } from './encode';
import { plainWritten } from './spellings';

const GLUED = smallMachine()
  .replace('cycle:\n', '  some: opcode 6, n 2\n  deep: opcode 8, step 8 signed\ncycle:\n')
  .replace(
    'instructions:\n',
    `instructions:
  CLR: {forms: [{write: 'CLR R{n}', code: some opcode=20, execute: A <- n}]}
  NEAR: {forms: [{write: 'NEAR [B{step}]', code: deep opcode=90, execute: A <- step}]}
`,
  );

test('a hole right behind a word is told with a mend, and whatever is written by the machine can be assembled', () => {
  const { machine, problems } = readWholeMachine(GLUED);
  expect(problems.map(({ code, grade }) => [code, grade])).toEqual([
    ['field-behind-word', 'warning'],
    ['field-behind-word', 'warning'],
  ]);
  expect(machine!.forms.map(plainWritten)).toEqual(expect.arrayContaining(['CLR R n', 'NEAR [B step]']));
  for (const line of ['CLR R 2', 'NEAR [B 5]', 'NEAR [B -5]', 'NEAR [B+5]']) {
    const cells = programFrom(machine!, line).cells.map((each) => each.value);
    const decoded = decode(machine!, (offset) => cells[offset], 0);
    if ('refused' in decoded) throw new Error(JSON.stringify(decoded.refused));
    const back = decodedText(machine!, undefined, decoded);
    expect(programFrom(machine!, back).cells.map((each) => each.value)).toEqual(cells);
  }
  expect(assemble(machine!, 'CLR R2').program).toBeUndefined();
});

test('with the mend nothing is told any more; a mark between them, a register and a name in the operation need none', () => {
  const [first, second] = readWholeMachine(GLUED).problems;
  const mended = withMend(withMend(GLUED, second!.mend!), first!.mend!);
  expect(mended).toContain("'CLR R {n}'");
  expect(readWholeMachine(mended).problems).toEqual([]);
  const others = GLUED.replace('CLR R{n}', 'CLR R.{n}').replace('[B{step}]', '[B+{step}]');
  expect(readWholeMachine(others).problems).toEqual([]);
  expect(machineFrom(others).forms.length).toBeGreaterThan(3);
});

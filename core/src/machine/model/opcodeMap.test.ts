import { demoMachines, fixtures, machineFrom } from '../../testing/demo';
import { readWholeMachine } from '../../assembler/machines';
import { itemAt } from '../../text/itemAt';
import { power } from '../../text/number';
import { decoderOf, demandsOf } from './encode';
import { programSpaceOf } from './machine';
import { firstCells, fixedAt, freeOpcodes } from './opcodeMap';

const machines = [...demoMachines, ...fixtures].map(({ name, text }) => [name, machineFrom(text)] as const);

test.each(machines)('%s: a map of at most 256 entries has each form where its first cells are, and none clashes', (_, machine) => {
  const { cells, step } = firstCells(machine);
  const { width } = programSpaceOf(machine);
  expect(cells.length).toBeLessThanOrEqual(256);
  expect(cells.length * step).toBe(power(machine.radix, width));
  const { byFirst } = decoderOf(machine);
  cells.forEach(({ first, forms, clash }, at) => {
    expect(first).toBe(at * step);
    expect(clash).toBe(false);
    // A few of the cells that the entry stands for.
    for (const offset of new Set([0, 1, Math.floor(step / 2), step - 1].filter((each) => each < step)))
      for (const form of byFirst(first + offset)) expect(forms).toContain(form);
  });
  expect(new Set(cells.flatMap((each) => each.forms)).size).toBe(machine.forms.length);
});

test('cells that mean two things are marked with both forms, where only encodings clash', () => {
  const curlew = itemAt(demoMachines, 0).text;
  const { clashing, machine } = readWholeMachine(curlew.replace('opcode=0x26', 'opcode=0x12'));
  expect(machine).toBeUndefined();
  const marked = firstCells(clashing!).cells.filter((each) => each.clash);
  expect(marked.map((each) => [each.first, each.forms.map((form) => form.written)])).toEqual([
    [0x12, ['LOAD {address}', 'STORE {address}']],
  ]);
  // Where more is wrong there is no machine to be drawn.
  expect(readWholeMachine(curlew.replace('opcode=0x26', 'opcode=0x12').replace('ACC <- value', 'ACX <- value')).clashing).toBeUndefined();
});

test.each(machines)('%s: an instruction that is given a free code begins with it', (_, machine) => {
  const [free] = freeOpcodes(machine, 1);
  const { width } = programSpaceOf(machine);
  for (const form of machine.forms) {
    if (free === undefined) continue;
    const names = form.fixed.map((each) => each.field.name);
    const fixed = fixedAt(machine, form.format, names, free);
    const moved = {
      ...form,
      fixed: fixed.map((each) => ({ field: form.format.fields.find(({ name }) => name === each.field)!, value: each.value })),
    };
    for (const { cell, low, width: digits, value } of demandsOf(moved, width, machine.radix))
      if (cell === 0 && moved.fixed.some(({ field }) => field.pieces.some((piece) => piece.low === low + (form.format.cells - 1) * width)))
        expect(Math.floor(free / power(machine.radix, low)) % power(machine.radix, digits)).toBe(value);
  }
});

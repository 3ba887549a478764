import { assemble } from '../../assembler/assemble';
import { demoMachines, fixtures, machineFrom } from '../../testing/demo';
import { shownDigits } from '../../text/number';
import { deviceWords, registerWords, ruleWords, serviceWords, spaceWords, stackWords } from './describe';
import { readPlace } from '../../engine/watch/places';
import { readScript } from '../../engine/timeline/script';
import { exampleOf, namesForExamples, scriptForExamples } from './examples';
import { programSpaceOf } from './machine';

test.each([...demoMachines, ...fixtures].map(({ name, text }) => [name, text] as const))(
  '%s: the example of every form assembles to the cells that stand beside it',
  (_name, text) => {
    const machine = machineFrom(text);
    const { width } = programSpaceOf(machine);
    for (const form of machine.forms) {
      const example = exampleOf(machine, form);
      if (!example) throw new Error(`${form.written} has no example`);
      const data = form.inline === 'string' ? ' "x"' : form.inline === 'cells' ? ' 1' : '';
      const source = `.origin 0d${example.at}\n${example.line}${data}\n`;
      const { rows, problems } = assemble(machine, machine.radix === 10 ? source.replace('0d', '') : source);
      expect([example.line, problems.filter((each) => each.grade === 'error').map((each) => each.sentence)]).toEqual([example.line, []]);
      const words = rows.find((each) => each.kind === 'code' && !each.system)?.words.slice(0, form.format.cells) ?? [];
      expect(words.map((each) => shownDigits(each, width, machine))).toEqual(example.cells);
    }
  },
);

test('parts of machines in words', () => {
  const [curlew, avocet] = [machineFrom(demoMachines[0]!.text), machineFrom(fixtures.find((each) => each.name === 'avocet')!.text)];
  expect(spaceWords(curlew, curlew.spaces[0]!)).toBe('0x00 to 0xFF, 256 cells of 8 bits');
  expect(curlew.registers.map((each) => registerWords(curlew, each))).toContain('8 bits, 0 to 255; 0xF0 at the start');
  expect(curlew.flags.map(ruleWords)).toContain('1 where the result, read with its sign, does not fit');
  const formulas = machineFrom(
    demoMachines[0]!.text.replace('rule: zero}', "formula: 'result=0'}").replace('rule: negative}', "formula: 'result[7]'}"),
  );
  expect(formulas.flags.slice(0, 2).map(ruleWords)).toEqual(['1 where result = 0', '1 unless result[7] is 0']);
  expect(curlew.stacks.map((each) => stackWords(curlew, each))).toEqual(['0xD0 to 0xEF, grows down; SP points at the top value']);
  const devices = [...demoMachines, ...fixtures].flatMap(({ text }) => {
    const machine = machineFrom(text);
    return machine.devices.map((each) => deviceWords(machine, each));
  });
  expect(
    devices.filter((each) => !/^(data|status) \w+\[[^\]]+\](; status \w+\[[^\]]+\], bit \d+ is [01] when it is ready)?$/.test(each)),
  ).toEqual([]);
  expect(devices.filter((each) => each.includes('is ready')).length).toBeGreaterThan(1);
  expect(avocet.traps.map(serviceWords)).toEqual(['write number, from A', 'write number, from AB', 'read number, into CD']);
});

test('names for examples are those of the machine, of registers that programs reckon in', () => {
  const names = [...demoMachines, ...fixtures].map((each) => {
    const machine = machineFrom(each.text);
    const { register, flag, cell } = namesForExamples(machine);
    expect(machine.registers.some((own) => own.name === register && own.role !== 'program counter')).toBe(true);
    expect(machine.flags.length === 0 ? undefined : machine.flags[0]!.name).toBe(flag);
    expect(readPlace(machine, undefined, cell)).not.toHaveProperty('refused');
    return [each.name, register, cell];
  });
  expect(names).toContainEqual(['Dunlin', 'ACC', 'DATA[0, 0x4]']);
  const scripts = [...demoMachines, ...fixtures].map((each) => {
    const machine = machineFrom(each.text);
    const script = scriptForExamples(machine);
    expect([each.name, readScript(machine, undefined, script).problems]).toEqual([each.name, []]);
    return script;
  });
  expect(scripts.filter((each) => each.includes('is not ready until')).length).toBeGreaterThan(1);
  expect(scripts.filter((each) => each.includes('is 0 until tick')).length).toBeGreaterThan(0);
});

test('an example writes to no register that is always 0, as long as there are others', () => {
  const machine = machineFrom(fixtures.find((each) => each.name === 'whinchat')!.text);
  expect(machine.forms.flatMap((form) => (form.mnemonic === 'MULS' ? [exampleOf(machine, form)!.line] : []))).toEqual(['MULS R1, R2, R3']);
});

test('an example of a longer form has a value that the shorter one has no room for', () => {
  const machine = machineFrom(fixtures.find((each) => each.name === 'dotterel')!.text);
  expect(machine.forms.flatMap((form) => (form.mnemonic === 'SET' ? [exampleOf(machine, form)!.line] : []))).toEqual([
    'SET A, 0o005',
    'SET A, 0o000200',
  ]);
});

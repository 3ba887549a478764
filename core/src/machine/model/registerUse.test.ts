import { demoMachines, machineFrom, machineNamed } from '../../testing/demo';
import { registersByGroup, servicesWith } from './registerUse';

test('every register stands in one group, in the order of its document', () => {
  for (const { text } of demoMachines) {
    const machine = machineFrom(text);
    const groups = registersByGroup(machine);
    expect(groups.flat().toSorted((a, b) => a - b)).toEqual(machine.registers.map((_, at) => at));
    for (const group of groups) expect([...group]).toEqual(group.toSorted((a, b) => a - b));
  }
});

test('where a run stands, what it works with, where its stack is', () => {
  const curlew = machineNamed('Curlew');
  const names = registersByGroup(curlew).map((group) => group.map((at) => curlew.registers[at]!.name));
  expect(names).toEqual([['PC', 'IR', 'MAR', 'MDR'], ['ACC', 'X'], ['SP']]);
});

test('a service reads its argument and the length, and brings its result', () => {
  const curlew = machineNamed('Curlew');
  const accumulator = curlew.registers.findIndex((each) => each.name === 'ACC');
  const { reads, brings } = servicesWith(curlew, accumulator);
  const kinds = (names: readonly string[]) => names.map((name) => curlew.traps.find((each) => each.name === name)!.service.split(' ')[0]);
  expect(kinds(reads).filter((kind) => kind === 'read')).toEqual([]);
  expect(reads.length).toBeGreaterThan(0);
  expect(brings.length).toBeGreaterThan(0);
  expect(kinds(brings).every((kind) => kind === 'read')).toBe(true);
  const counter = curlew.registers.findIndex((each) => each.name === 'PC');
  expect(servicesWith(curlew, counter)).toEqual({ reads: [], brings: [] });
});

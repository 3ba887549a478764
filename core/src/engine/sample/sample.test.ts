import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { systemOf } from '../../assembler/assemble';
import { readWholeMachine } from '../../assembler/machines';
import type { Machine } from '../../machine/model/machine';
import { findCases, type Cases } from './cases';
import { tryForm } from './sample';
import { NOTHING_GIVEN } from './bed';

const folder = join(__dirname, '../../../../demo/machines');
const machineOf = (name: string): Machine => readWholeMachine(readFileSync(join(folder, name), 'utf8')).machine!;
const demos = readdirSync(folder).filter((each) => each.endsWith('.yaml'));

const formOf = (machine: Machine, written: string) => machine.forms.find((each) => each.written === written)!;

function casesOf(machine: Machine, written: string): Cases | undefined {
  const search = findCases(machine, formOf(machine, written), systemOf(machine)?.program);
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
  }
}

test.each(demos)('every instruction of %s is tried to its end, and something happens', (file) => {
  const machine = machineOf(file);
  const idle: string[] = [];
  for (const form of machine.forms) {
    const sample = tryForm(machine, form, NOTHING_GIVEN, systemOf(machine)?.program);
    expect(sample?.ticks.length).toBeGreaterThanOrEqual(machine.opening.length);
    expect(['done', 'halted', 'waiting']).toContain(sample?.ended);
    expect(sample?.ticks.every((each) => each.sentence.length > 3)).toBe(true);
    if (sample!.ended !== 'halted' && sample!.places.every((each) => each.before === each.after)) idle.push(form.written);
  }
  expect(idle).toEqual([]);
});

test('what somebody has set is what the instruction finds', () => {
  const machine = machineOf('curlew.yaml');
  const sample = tryForm(machine, formOf(machine, 'ADD {address}'), {
    operands: { address: 0x30 },
    places: { ACC: 0x5a, 'M[48]': 0xb7, 'flag C': 0 },
  })!;
  const after = Object.fromEntries(sample.places.map((each) => [each.key, [each.before, each.after]]));
  expect(after).toMatchObject({ ACC: [0x5a, 0x11], 'M[48]': [0xb7, 0xb7], 'flag C': [0, 1], PC: [8, 10] });
  expect(sample.line).toBe('ADD 48');
  expect(sample.ticks.at(-1)!.sentence).toMatch(/ALU adds/);
});

test('an operand that does not fit is not taken, and a place that there is not changes nothing', () => {
  const machine = machineOf('curlew.yaml');
  const form = formOf(machine, 'LOAD #{value}');
  const sample = tryForm(machine, form, { operands: { value: 4096 }, places: { NOWHERE: 3, 'M[99999]': 1, 'flag Q': 1 } })!;
  expect(sample.operands).toEqual({ value: 5 });
});

test('the cases of an addition make each flag 0 and 1, and each row is true', () => {
  const machine = machineOf('curlew.yaml');
  const { inputs, flags, rows, never, result } = casesOf(machine, 'ADD {address}')!;
  expect(never).toEqual([]);
  expect(flags).toEqual(machine.flags.map((each) => each.name));
  expect(result).toEqual({ name: 'ACC', width: 8 });
  expect(inputs.map((each) => each.name)).toEqual(expect.arrayContaining(['ACC', 'M[5]']));
  expect(rows.length).toBeLessThanOrEqual(6);
  const [acc, cell] = ['ACC', 'M[5]'].map((name) => inputs.findIndex((each) => each.name === name)) as [number, number];
  for (const row of rows) {
    const sum = row.values[acc]! + row.values[cell]!;
    expect(row.result).toBe(sum % 256);
    expect(row.flags[flags.indexOf('Z')]).toBe(sum % 256 === 0 ? 1 : 0);
    expect(row.flags[flags.indexOf('C')]).toBe(sum > 255 ? 1 : 0);
    expect(row.flags[flags.indexOf('N')]).toBe((sum >> 7) & 1);
  }
});

test('what a flag never becomes is known, where all values were tried', () => {
  const text = readFileSync(join(folder, 'curlew.yaml'), 'utf8').replace('ACC <- value ; flags Z N', 'ACC <- value & 0x7F ; flags Z N');
  const machine = readWholeMachine(text).machine!;
  const found = casesOf(machine, 'LOAD #{value}')!;
  expect(found.never).toEqual([{ flag: 'N', value: 1 }]);
  expect(found.exhaustive).toBe(true);
  expect(found.tried).toBeGreaterThanOrEqual(256);
});

test('an instruction that sets no flag has no cases', () => {
  const machine = machineOf('curlew.yaml');
  expect(casesOf(machine, 'STORE {address}')).toBeUndefined();
});

test('a decimal machine has its cases in digits', () => {
  const machine = machineOf('plover.yaml');
  const found = casesOf(machine, 'SUB {address}')!;
  expect(found.never).toEqual([]);
  expect(found.inputs.every((each) => each.radix === 10 && each.width === 4)).toBe(true);
});

import fc from 'fast-check';
import type { Machine } from '../../machine/model/machine';
import { programSpaceOf } from '../../machine/model/machine';
import { curlew, demoMachines, fixtures, machineFrom, programFrom } from '../../testing/demo';
import { drawnMachine } from '../../testing/generated';
import { power } from '../../text/number';
import { assemble } from '../assemble';
import { disassemble, type Loaded } from './disassemble';

const plain = (cells: readonly Loaded[]): string[] =>
  cells.map(({ space, address, value }) => `${space}:${address}=${value}`).sort((a, b) => a.localeCompare(b));

function roundTrip(machine: Machine, cells: readonly Loaded[], start: number | undefined): string {
  const { text } = disassemble(machine, cells, start);
  const { program, problems } = assemble(machine, text);
  const errors = problems.filter((each) => each.grade === 'error').filter((each) => each.code !== 'nothing-to-run');
  if (errors.length > 0) throw new Error(`${errors[0]!.line}: ${errors[0]!.sentence}\n${text}`);
  if (program) {
    expect(plain(program.cells)).toEqual(plain(cells));
    if (start !== undefined && /^\w+ /m.test(text)) expect(program.start).toBe(start);
  }
  return text;
}

const programs = demoMachines.flatMap(({ name, text, programs: list }) =>
  list.map((each) => [`${name}: ${each.name}`, text, each.text] as const),
);

test.each(programs)('%s assembles, disassembles and assembles to the same cells', (_name, machineText, source) => {
  const machine = machineFrom(machineText);
  const program = programFrom(machine, source);
  const text = roundTrip(machine, program.cells, program.start);
  expect(text).not.toMatch(/undefined|NaN/);
});

const all = [...demoMachines, ...fixtures].map(({ name, text }) => [name, machineFrom(text)] as const);

test.each(all)('any cells of %s are disassembled to a program that gives them again', (_name, machine) => {
  const { cells: size, width } = programSpaceOf(machine);
  const own = machine.system?.from === 0 ? machine.system.to + 1 : 0;
  fc.assert(
    fc.property(
      fc.array(fc.nat(power(machine.radix, Math.min(width, 9)) - 1), { minLength: 1, maxLength: 40 }),
      fc.nat(30),
      (values, at) => {
        const from = Math.min(own + at, size - values.length);
        const cells = values.map((value, offset) => ({ space: machine.programSpace, address: from + offset, value }));
        roundTrip(machine, cells, undefined);
      },
    ),
    { numRuns: 60 },
  );
});

test('any cells of drawn machines come back too', () => {
  fc.assert(
    fc.property(drawnMachine, fc.array(fc.nat(65_535), { minLength: 1, maxLength: 20 }), ({ text, cell }, values) => {
      const machine = machineFrom(text);
      const { cells: size } = programSpaceOf(machine);
      const cells = values.slice(0, size).map((value, address) => ({ space: 0, address, value: value % 2 ** cell }));
      roundTrip(machine, cells, 0);
    }),
    { numRuns: 80 },
  );
});

test('targets, routines and data get names, services their own', () => {
  const { cells, start } = programFrom(
    curlew,
    'main LOAD level\nloop TRAP showNumber\n CALL low1\n JUMPNZ loop\n HALT\nlow1 DEC\n RET\nlevel .cells 9',
  );
  const { text } = disassemble(curlew, cells, start);
  expect(text).toMatch(/^start_00 LOAD +cell_0B$/m);
  expect(text).toMatch(/^place_02 TRAP +showNumber$/m);
  expect(text).toMatch(/CALL +routine_09$/m);
  expect(text).toMatch(/^cell_0B {2}\.cells +0x09$/m);
});

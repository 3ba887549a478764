import { itemAt } from '../../text/itemAt';
import { demoMachines, machineFrom, machineNamed } from '../../testing/demo';
import { pointedCells, pointersOf } from './pointers';
import type { Machine } from './machine';

const names = (machine: Machine): string[] =>
  pointersOf(machine).map((each) => `${each.name} in ${itemAt(machine.spaces, each.space).name}`);
const holding = (machine: Machine, values: Readonly<Record<string, number>>): number[] =>
  machine.registers.map((each) => values[each.name] ?? 0);

test('what holds an address is found in the ticks: registers, and pairs that an operand numbers', () => {
  expect(names(machineNamed('Curlew'))).toEqual(['MAR in M']);
  expect(names(machineNamed('Dunlin'))).toEqual(['P0 in DATA', 'P1 in DATA', 'P2 in DATA', 'P3 in DATA']);
  for (const { text } of demoMachines) expect(names(machineFrom(text)).join()).not.toMatch(/\bPC in/);
});

test('a selector leads to its cell in the bank that is chosen, and goes round where the machine does', () => {
  const dunlin = machineNamed('Dunlin');
  const data = dunlin.spaces.findIndex((each) => each.name === 'DATA');
  const first = pointedCells(dunlin, holding(dunlin, { BANK: 2, R0: 1, R1: 3, R2: 0xf, R3: 0xf }));
  expect(first[0]).toEqual({ name: 'P0', space: data, address: 2 * 64 + 0x13 });
  expect(first[1]).toEqual({ name: 'P1', space: data, address: 2 * 64 + (0xff % 64) });
});

test('an address that no cell has leads nowhere', () => {
  const machine = machineFrom(`machine: Tern
word: {bits: 8}
spaces: {M: {cells: 64}}
registers: {PC: {role: program counter, bits: 6}, IR: {role: instruction}, MAR: {role: memory address}, ACC: {role: accumulator}}
formats: {plain: opcode 8}
cycle:
  phases: [Fetch, Decode, Execute]
  first:
    phase: Fetch
    ticks: |
      IR <- M[PC], PC <- PC + 1
  decode: {phase: Decode}
  execute: {phase: Execute}
instructions:
  GET:
    title: bring a cell
    family: move data
    forms:
      - write: GET
        code: plain opcode=1
        execute: |
          ACC <- M[MAR]
  HALT:
    title: stop
    family: control
    forms:
      - write: HALT
        code: plain opcode=0
        execute: |
          halt
`);
  expect(pointedCells(machine, holding(machine, { MAR: 12 }))).toEqual([{ name: 'MAR', space: 0, address: 12 }]);
  expect(pointedCells(machine, holding(machine, { MAR: 64 }))).toEqual([]);
});

import { curlew, runnerFor } from '../../testing/demo';
import { instructionAt, lengthAt, placeName } from './names';
import type { PlaceRef } from '../meaning/report';

const source = `start   LOAD  level+1
        STORE 0x44
        JUMP  start
        .origin 0x40
level   .cells 1, 2, 3
room    .room 2`;

test('an instruction is told as its source wrote it, while its cells are as assembled', () => {
  const { machine, program, state } = runnerFor(source);
  const texts = [0, 2, 4].map((address) => instructionAt(machine, program, state, address));
  expect(texts).toEqual(['LOAD level+1', 'STORE 0x44', 'JUMP start']);
});

test('a changed instruction is decoded from memory instead', () => {
  const { machine, program, state } = runnerFor(source);
  state.spaces[0]!.set([0x3a, 0x07]);
  expect(instructionAt(machine, program, state, 0)).toBe('ADD #0x07');
  expect(lengthAt(machine, state, 0)).toBe(2);
});

test('the middle of an instruction, data, and nothing at all are decoded as they stand, or not at all', () => {
  const { machine, program, state } = runnerFor(source);
  expect(instructionAt(machine, program, state, 1)).toBeUndefined();
  expect(instructionAt(machine, program, state, 0x80)).toBeUndefined();
  expect(lengthAt(machine, state, 0x80)).toBe(1);
});

test('an instruction that would reach past the end of memory is none', () => {
  const { machine, state } = runnerFor(source);
  state.spaces[0]![255] = 0x12;
  expect(instructionAt(machine, undefined, state, 255)).toBeUndefined();
});

test.each<[PlaceRef, string]>([
  [{ kind: 'register', register: 4, high: 7, low: 0 }, 'ACC'],
  [{ kind: 'register', register: 1, high: 15, low: 8 }, 'IR.op'],
  [{ kind: 'register', register: 1, high: 11, low: 4 }, 'IR[11:4]'],
  [{ kind: 'flag', flag: 2 }, 'C'],
  [{ kind: 'cell', space: 0, address: 0x40 }, 'level'],
  [{ kind: 'cell', space: 0, address: 0x99 }, 'cell 0x99'],
])('the place %j is called %s', (place, name) => {
  expect(placeName(curlew, runnerFor(source).program, place)).toBe(name);
});

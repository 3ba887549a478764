/** What the flow of a program is said to be, against what its runs really do. */
import fc from 'fast-check';
import { Runner } from '../../engine/control/runner';
import { decode } from '../../machine/model/encode';
import { effectsOf, fallsFor, registerFor, valueFor } from '../../machine/model/effects';
import type { Form, Machine } from '../../machine/model/machine';
import { curlew, demoMachines, machineFrom, machineNamed, programFrom } from '../../testing/demo';
import { assemble } from '../assemble';

const formOf = (machine: Machine, written: string): Form => {
  const found = machine.forms.find((each) => each.written.replace(/[{}]/g, '') === written);
  if (!found) throw new Error(`There is no ${written}`);
  return found;
};

/** The effects of one instruction, with everything put in that its cells tell. */
function told(machine: Machine, line: string): Record<string, unknown> {
  const program = programFrom(machine, line);
  const row = program.rows.find((each) => each.kind === 'code')!;
  const own = { cells: row.words, at: row.address! };
  const decoded = decode(machine, (offset) => row.words[offset], row.address!);
  if ('refused' in decoded) throw new Error(`${line} cannot be decoded`);
  const effects = effectsOf(machine, decoded.form);
  const name = (register: number | undefined): string => (register === undefined ? '?' : machine.registers[register]!.name);
  return {
    falls: fallsFor(machine, own, effects),
    goes: effects.jumps.map((each) => valueFor(machine, own, each) ?? '?'),
    reads: [...new Set(effects.reads.map((each) => name(registerFor(machine, own, each))))],
    writes: [...new Set(effects.writes.map((each) => name(registerFor(machine, own, each))))],
    stores: effects.stores.map((each) => valueFor(machine, own, each.address) ?? '?'),
  };
}

const nothing = { falls: true, goes: [], reads: [], writes: [], stores: [] };

test.each<[string, string, Record<string, unknown>]>([
  ['Curlew', 'STORE 0x90', { ...nothing, reads: ['ACC'], writes: ['MAR', 'MDR'], stores: [0x90] }],
  ['Curlew', 'STORE 0x90+X', { ...nothing, reads: ['X', 'ACC'], writes: ['MAR', 'MDR'], stores: ['?'] }],
  ['Curlew', 'JUMP 0x30', { ...nothing, falls: false, goes: [0x30] }],
  ['Curlew', 'JUMPZ 0x30', { ...nothing, goes: [0x30] }],
  ['Plover', 'JUMPZ 42', { ...nothing, goes: [42] }],
  ['Plover', 'STORE 42', { ...nothing, reads: ['ACC'], writes: ['MAR', 'MDR'], stores: [42] }],
  ['Gannet', 'JUMP 0x0010', { ...nothing, falls: false, goes: [0x10] }],
  ['Gannet', 'JUMP [R3]', { ...nothing, falls: false, goes: ['?'], reads: ['R3'] }],
  ['Gannet', 'ADD R1, R2, R3', { ...nothing, reads: ['R2', 'R3'], writes: ['R1'] }],
  ['Gannet', 'STORE R4, [R5 + 2]', { ...nothing, reads: ['R5', 'R4'], writes: ['MAR', 'MDR'], stores: ['?'] }],
])('on %s, %s is followed by what its ticks say', (name, line, expected) => {
  expect(told(machineNamed(name), line)).toEqual(expected);
});

test('fields are known as addresses, targets and numbers of services by what the ticks do with them', () => {
  const gannet = machineNamed('Gannet');
  const fields = (machine: Machine, written: string): string[][] => {
    const { addressFields, targetFields, requestFields } = effectsOf(machine, formOf(machine, written));
    return [[...addressFields], [...targetFields], [...requestFields]];
  };
  expect(fields(curlew, 'LOAD address')).toEqual([['address'], [], []]);
  expect(fields(curlew, 'LOAD #value')).toEqual([[], [], []]);
  expect(fields(curlew, 'CALL address')[1]).toEqual(['address']);
  expect(fields(curlew, 'TRAP number')).toEqual([[], [], ['number']]);
  expect(fields(gannet, 'TRAP number')).toEqual([[], [], ['number']]);
  expect(fields(gannet, 'LOAD d, place')).toEqual([['place'], [], []]);
  expect(fields(gannet, 'JUMPc target')).toEqual([[], ['target'], []]);
});

test('a trap whose routine never comes back ends a program, one that does goes on', () => {
  const gannet = machineNamed('Gannet');
  expect(assemble(gannet, 'start TRAP finish\nn .cells 1\n.cells n').problems).toEqual([]);
  expect(assemble(gannet, 'start TRAP sayLetter\nn .cells 1\n.cells n').problems.map((each) => each.code)).toEqual(['runs-into-data']);
});

test('a call of a routine that only halts does not come back', () => {
  expect(assemble(curlew, 'CALL end\nn .cells 1\nend HALT\n.cells n').problems).toEqual([]);
  expect(assemble(curlew, 'CALL a\nn .cells 1\na CALL b\nRET\nb RET\n.cells n').problems.map((each) => each.code)).toEqual([
    'runs-into-data',
  ]);
});

const PLAIN = ['INC', 'DEC', 'SHR', 'LOAD #0', 'LOAD #3', 'CMP #1', 'ADD #200'];
const JUMPS = ['JUMP', 'JUMPZ', 'JUMPNZ', 'JUMPN', 'JUMPC', 'CALL'];
const ENDS = ['HALT', 'RET', 'TRAP finish', '.cells 7'];

/** Programs of up to 14 lines, each with a label, that jump, call, return, halt and have data among them. */
const drawn = fc
  .array(
    fc.oneof(
      { weight: 4, arbitrary: fc.constantFrom(...PLAIN).map((each) => () => each) },
      {
        weight: 4,
        arbitrary: fc.tuple(fc.constantFrom(...JUMPS), fc.nat(13)).map(
          ([jump, to]) =>
            (lines: number) =>
              `${jump} l${to % lines}`,
        ),
      },
      { weight: 2, arbitrary: fc.constantFrom(...ENDS).map((each) => () => each) },
    ),
    { minLength: 1, maxLength: 14 },
  )
  .map((lines) => lines.map((each, at) => `l${at} ${each(lines.length)}`).join('\n'));

const MOST = 300;

/** Addresses in the order in which a run comes by them, and how it ended. */
function run(source: string): { visited: Set<number>; stop: string } {
  const program = programFrom(curlew, source);
  const runner = new Runner(curlew, program);
  const visited = new Set<number>();
  for (let step = 0; step < MOST; step++) {
    visited.add(runner.state.registers[curlew.programCounter]!);
    const stop = runner.instruction();
    if (stop) return { visited, stop: stop.kind };
  }
  return { visited, stop: 'goes on' };
}

const LEAVES = new Set(['runs-into-data', 'runs-past-end', 'jump-outside', 'jump-into-data', 'jump-into-middle']);

test('no run comes where it is said that none can, none halts where none can, and none leaves unannounced', () => {
  fc.assert(
    fc.property(drawn, (source) => {
      const { program, problems } = assemble(curlew, source);
      if (!program) return;
      const { visited, stop } = run(source);
      const rows = program.rows.filter((each) => each.kind === 'code');
      for (const each of problems) {
        if (each.code === 'never-reached') expect(visited.has(program.rows[each.line - 1]!.address!)).toBe(false);
        if (each.code === 'no-halt') expect(stop).not.toBe('halted');
      }
      const beginnings = new Set(rows.map((each) => each.address!));
      // A return without a call goes wherever the empty stack says: that is a fault, and nobody's flow.
      const strays = [...visited].filter((each) => !beginnings.has(each));
      if (strays.length > 0 && stop !== 'fault') expect(problems.some((each) => LEAVES.has(each.code))).toBe(true);
    }),
    { numRuns: Number(process.env.ZETTAK_MUTATIONS ?? 80) },
  );
});

test('a program from which every check is silent runs without leaving it', () => {
  fc.assert(
    fc.property(drawn, (source) => {
      const { program, problems } = assemble(curlew, source);
      if (!program || problems.some((each) => LEAVES.has(each.code))) return;
      const { visited } = run(source);
      const beginnings = new Set(program.rows.filter((each) => each.kind === 'code').map((each) => each.address!));
      expect([...visited].filter((each) => !beginnings.has(each))).toEqual([]);
    }),
    { numRuns: Number(process.env.ZETTAK_MUTATIONS ?? 100) },
  );
});

test.each(demoMachines.flatMap(({ text, programs }) => programs.map((each) => [each.name, text, each.text] as const)))(
  'in %s every instruction that runs is one that can be reached',
  (_name, machineText, text) => {
    const machine = machineFrom(machineText);
    const program = programFrom(machine, text);
    const runner = new Runner(machine, program, { inputs: [120, 46, 0] });
    const own = new Set(program.rows.flatMap((each) => (each.kind === 'code' ? (each.expanded ?? [each]).map((one) => one.address) : [])));
    const { system } = machine;
    for (let step = 0; step < 2000; step++) {
      const at = runner.state.registers[machine.programCounter]!;
      expect(own.has(at) || (system !== undefined && at >= system.from && at <= system.to)).toBe(true);
      if (runner.instruction()) break;
    }
  },
);

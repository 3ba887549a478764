import fc from 'fast-check';
import { assemble } from '../../assembler/assemble';
import { decode, encode, rangeOf } from '../../machine/model/encode';
import type { Form, Machine } from '../../machine/model/machine';
import { drawnMachine, type Drawn } from '../../testing/generated';
import { machineFrom, programFrom } from '../../testing/demo';
import { Runner } from '../control/runner';
import { copyState } from '../meaning/state';

const numRuns = Number(process.env.ZETTAK_RUNS ?? 8);

const cellsOf = (machine: Machine, form: Form, values: ReadonlyMap<string, number>, at = 0): readonly number[] => {
  const encoded = encode(machine, form, values, at);
  if ('refused' in encoded) throw new Error(`Refused: ${JSON.stringify(encoded.refused)}`);
  return encoded.cells;
};

const operandsFor = (form: Form, pick: (size: number) => number): Map<string, number> =>
  new Map(
    form.operands.map((field) => {
      const { least, greatest } = rangeOf(field, 2);
      return [field.name, least + pick(greatest - least + 1)];
    }),
  );

/** Numbers drawn from a seed, so that a failing case can be run again. */
function picker(seed: number): (size: number) => number {
  let x = seed | 1;
  return (size) => {
    x = (Math.imul(x, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((x / 2 ** 32) * size);
  };
}

const unsigned = (value: number, width: number): number => (value < 0 ? value + 2 ** width : value);

test('encode, then decode, is the identity on drawn machines', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      const pick = picker(seed);
      for (const form of machine.forms) {
        const values = operandsFor(form, pick);
        const cells = cellsOf(machine, form, values);
        const decoded = decode(machine, (offset) => cells[offset], 0);
        if ('refused' in decoded) throw new Error(`Refused: ${JSON.stringify(decoded.refused)}`);
        expect(decoded.form).toBe(form);
        for (const { field, value } of decoded.operands) expect(value).toBe(unsigned(values.get(field.name)!, field.width));
      }
    }),
    { numRuns },
  );
});

test('what the assembler writes from the written form is what encode gives', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      const pick = picker(seed);
      for (const form of machine.forms) {
        const values = operandsFor(form, pick);
        const source = form.pieces.map((each) => ('text' in each ? each.text : String(values.get(each.field)))).join('');
        const { program, problems } = assemble(machine, source);
        expect(problems.filter((each) => each.grade === 'error')).toEqual([]);
        expect(program!.cells.map((each) => each.value)).toEqual(cellsOf(machine, form, values));
      }
    }),
    { numRuns },
  );
});

/** The operation on whole numbers of any size: the reference for results and flags. */
function reference({ operator }: Drawn['operations'][number], a: bigint, b: bigint, width: number, noBorrow: boolean) {
  const size = 1n << BigInt(width);
  const signed = (value: bigint): bigint => (value >= size / 2n ? value - size : value);
  const exact = { '+': a + b, '-': a - b, '&': a & b, '|': a | b, '^': a ^ b }[operator];
  const result = ((exact % size) + size) % size;
  const arithmetic = operator === '+' || operator === '-';
  const reading = operator === '+' ? signed(a) + signed(b) : signed(a) - signed(b);
  const out = exact < 0n || exact >= size;
  return {
    result: Number(result),
    Z: result === 0n ? 1 : 0,
    N: result >= size / 2n ? 1 : 0,
    ...(arithmetic && { C: Number(operator === '-' && noBorrow ? !out : out), V: reading < -(size / 2n) || reading >= size / 2n ? 1 : 0 }),
  };
}

test('results and flags agree with plain big numbers at every width', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), (drawn, seed) => {
      const machine = machineFrom(drawn.text);
      const pick = picker(seed);
      const { cell, noBorrow, address } = drawn;
      for (const operation of drawn.operations) {
        const runner = new Runner(machine, programFrom(machine, 'STOP'));
        const [a, b] = [pick(2 ** cell), pick(2 ** cell)];
        const at = 2 ** address - 1;
        const operand = operation.from === 'value' ? b : at;
        runner.state.spaces[0]!.set([operation.opcode, operand]);
        if (operation.from === 'cell') runner.state.spaces[0]![at] = b;
        const accumulator = machine.registers.findIndex((each) => each.name === 'ACC');
        runner.state.registers[accumulator] = a;
        expect(runner.instruction()).toBeUndefined();
        const expected = reference(operation, BigInt(a), BigInt(b), cell, noBorrow);
        const flags = Object.fromEntries(machine.flags.map((each, flag) => [each.name, runner.state.flags[flag]]));
        expect({ result: runner.state.registers[accumulator], ...flags }).toMatchObject(expected);
        expect(runner.state.registers[machine.programCounter]).toBe(2 % 2 ** address);
      }
    }),
    { numRuns },
  );
});

function randomRunner(machine: Machine, seed: number): Runner {
  const pick = picker(seed);
  const runner = new Runner(machine, programFrom(machine, 'STOP'));
  const cells = runner.state.spaces[0]!;
  for (let address = 0; address < Math.min(cells.length, 200); address++) {
    const form = machine.forms[pick(machine.forms.length)]!;
    const words = cellsOf(machine, form, operandsFor(form, pick), address);
    words.forEach((word, at) => address + at < cells.length && (cells[address + at] = word));
    address += words.length - 1;
  }
  return runner;
}

test('running silently and telling every tick reach the same state', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      const [fast, told] = [randomRunner(machine, seed), randomRunner(machine, seed)];
      const stop = fast.run(500, { first: true });
      while (told.ticks < fast.ticks && !told.tick());
      expect(told.state).toEqual(fast.state);
      if (!stop) expect(fast.ticks).toBe(500);
    }),
    { numRuns },
  );
});

test('forward, then back, is the identity, and so is forward again', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), fc.integer({ min: 1, max: 120 }), ({ text }, seed, length) => {
      const runner = randomRunner(machineFrom(text), seed);
      const states = [copyState(runner.state)];
      while (runner.ticks < length && !runner.tick()) states.push(copyState(runner.state));
      if (runner.ticks === states.length) states.push(copyState(runner.state));
      for (let at = runner.ticks - 1; at >= 0; at--) {
        runner.timeline.back();
        expect(runner.state).toEqual(states[at]);
      }
      for (let at = 1; at < states.length; at++) {
        runner.tick();
        expect(runner.state).toEqual(states[at]);
      }
    }),
    { numRuns },
  );
});

test('a preview tells what the tick will do, and changes nothing', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const runner = randomRunner(machineFrom(text), seed);
      for (let tick = 0; tick < 20; tick++) {
        const before = copyState(runner.state);
        const preview = runner.timeline.preview();
        expect(runner.state).toEqual(before);
        if (runner.tick() || !preview) return;
        expect(runner.timeline.last).toEqual(preview.report);
      }
    }),
    { numRuns },
  );
});

test('every transfer that is told is what the state then holds', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const runner = randomRunner(machineFrom(text), seed);
      for (let tick = 0; tick < 80 && !runner.tick(); tick++) {
        for (const { target, value } of runner.timeline.last!.transfers) {
          if (target.kind === 'cell') expect(runner.state.spaces[target.space]![target.address]).toBe(value);
          if (target.kind !== 'register') continue;
          const size = 2 ** (target.high - target.low + 1);
          expect(Math.floor(runner.state.registers[target.register]! / 2 ** target.low) % size).toBe(value);
        }
        for (const { flag, after } of runner.timeline.last!.flags) expect(runner.state.flags[flag]).toBe(after);
      }
    }),
    { numRuns },
  );
});

import fc from 'fast-check';
import { decoderOf } from '../../machine/model/encode';
import { programSpaceOf, type Machine } from '../../machine/model/machine';
import { demoMachines, fixtures, machineFrom } from '../../testing/demo';
import { drawnMachine } from '../../testing/generated';
import { digitsAt, power } from '../../text/number';
import { decodingOf, LOOK_IT_UP } from './decode';

/** What the compiled executor makes of a first cell, by the rules of its own. */
function formFor(machine: Machine, cell: number): number {
  const { runs, table, demands, variants } = decodingOf(machine);
  const formOf = (variant: number): number => variants[variant]?.form.index ?? LOOK_IT_UP;
  const { radix } = machine;
  if (demands.length > 0) {
    const meets = demands.find((each) => each.demands.every(({ low, width, value }) => digitsAt(cell, low, width, radix) === value));
    return formOf(meets?.variant ?? LOOK_IT_UP);
  }
  let at = 0;
  let index = 0;
  for (const { low, width } of runs) {
    index += digitsAt(cell, low, width, radix) * power(radix, at);
    at += width;
  }
  return formOf(table[index]!);
}

/** What the tick executor makes of it, where that is settled by the first cell. */
function law(machine: Machine, cell: number): number {
  const forms = decoderOf(machine).byFirst(cell);
  return forms.length === 1 && !forms[0]!.settledLate ? forms[0]!.index : LOOK_IT_UP;
}

const cellsOf = (machine: Machine): number => power(machine.radix, programSpaceOf(machine).width);

test.each([...demoMachines, ...fixtures].map(({ name, text }) => [name, text] as const))(
  '%s: every first cell means the same',
  (_name, text) => {
    const machine = machineFrom(text);
    const size = cellsOf(machine);
    const step = Math.max(1, Math.floor(size / 9973));
    const wrong: number[] = [];
    for (let cell = 0; cell < size; cell += step) if (formFor(machine, cell) !== law(machine, cell)) wrong.push(cell);
    expect(wrong).toEqual([]);
    expect(decodingOf(machine)).toBe(decodingOf(machine));
  },
);

test('drawn machines: every first cell means the same, and tables stay small', () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      const cell = seed % cellsOf(machine);
      expect(formFor(machine, cell)).toBe(law(machine, cell));
      expect(decodingOf(machine).table.length).toBeLessThanOrEqual(cellsOf(machine));
    }),
    { numRuns: 60 },
  );
});

import { demoMachines } from '../../testing/demo';
import { applyChanges } from '../../machine/document/edits';
import { renameEverywhere } from '../../machine/document/renaming';
import type { Machine } from '../../machine/model/machine';
import { assemble } from '../assemble';
import { readWholeMachine } from '../machines';
import { followNames, newNames } from './followRename';

const textOf = (name: string): string => demoMachines.find((each) => each.name === name)!.text;
const machineOf = (text: string): Machine => readWholeMachine(text).machine!;

function renamed(machine: string, path: readonly string[], name: string): { before: Machine; after: Machine } {
  const text = textOf(machine);
  const made = renameEverywhere(text, path, name);
  if ('refused' in made) throw new Error(JSON.stringify(made.refused));
  return { before: machineOf(text), after: machineOf(applyChanges(text, made.changes)) };
}

const followed = ({ before, after }: { before: Machine; after: Machine }, program: string): string =>
  applyChanges(program, followNames(before, program, newNames(before, after)));

test.each<[string, string, readonly string[], string, string, string]>([
  ['an instruction', 'Curlew', ['instructions', 'LOAD'], 'BRING', ' LOAD 5 ; LOAD\nLOADS LOAD #1\n', ' BRING 5 ; LOAD\nLOADS BRING #1\n'],
  ['a part of an operation', 'Curlew', ['conditions', 'NZ'], 'NOTZ', 'a JUMPNZ a\n JUMPZ a\n', 'a JUMPNOTZ a\n JUMPZ a\n'],
  [
    'registers of an array',
    'Gannet',
    ['registers', 'R'],
    'Q',
    ' ADD R1, R2, R3\n LOAD r4, [R1 + 2]\n',
    ' ADD Q1, Q2, Q3\n LOAD Q4, [Q1 + 2]\n',
  ],
  ['a device', 'Gannet', ['devices', 'lamps'], 'lights', ' .cells lamps.data, lamps.horn\n', ' .cells lights.data, lights.horn\n'],
])('%s is called by its new name', (_, machine, path, name, program, wanted) => {
  expect(followed(renamed(machine, path, name), program)).toBe(wanted);
});

test('a name that a program defines itself is its own', () => {
  const both = renamed('Gannet', ['registers', 'R'], 'Q');
  expect(followed(both, 'lamps .cells 1\n LOAD R1, lamps\n')).toBe('lamps .cells 1\n LOAD Q1, lamps\n');
});

test.each(demoMachines.flatMap(({ name, programs }) => programs.slice(0, 1).map((each) => [name, each.name, each.text] as const)))(
  '%s, %s: all operations renamed, it assembles to the same cells',
  (name, _, program) => {
    let text = textOf(name);
    const before = machineOf(text);
    for (const mnemonic of new Set(before.forms.map((each) => each.mnemonic))) {
      const made = renameEverywhere(text, ['instructions', mnemonic], `${mnemonic}Q`);
      if ('refused' in made) continue;
      const next = applyChanges(text, made.changes);
      if (readWholeMachine(next).machine) text = next;
    }
    const after = machineOf(text);
    expect(after.forms.some((each) => each.mnemonic.endsWith('Q'))).toBe(true);
    const moved = followed({ before, after }, program);
    const parts = new Map(
      demoMachines.find((each) => each.name === name)!.parts.map((each) => [each.name, followed({ before, after }, each.text)]),
    );
    const old = new Map(demoMachines.find((each) => each.name === name)!.parts.map((each) => [each.name, each.text]));
    expect(assemble(after, moved, { parts }).program?.cells).toEqual(assemble(before, program, { parts: old }).program?.cells);
  },
);

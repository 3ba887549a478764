import { readWholeMachine } from '../assembler/machines';
import { demoMachines } from '../testing/demo';
import type { Machine } from '../machine/model/machine';
import { changesBetween, consequenceFor, unusedBy } from './consequences';
import { footprintOf } from './footprint';

const [curlew, plover] = ['Curlew', 'Plover'].map((name) => demoMachines.find((each) => each.name === name)!) as [
  (typeof demoMachines)[number],
  (typeof demoMachines)[number],
];
const machineOf = (text: string): Machine => {
  const { machine, problems } = readWholeMachine(text);
  if (!machine) throw new Error(problems[0]?.sentence);
  return machine;
};
const swap = (text: string, from: string, to: string): string => {
  if (!text.includes(from)) throw new Error(`There is no ${from}`);
  return text.replace(from, to);
};

test.each<[string, string, string, RegExp]>([
  ['a flag more', 'ACC <- value ; flags Z N', 'ACC <- value ; flags Z N P', /^LOAD #value now sets P\.$/],
  [
    'a flag less',
    'ACC <- ACC + value ; flags Z N C V H P',
    'ACC <- ACC + value ; flags Z N',
    /^ADD #value leaves C, V, H and P alone now\.$/,
  ],
  ['another code', 'opcode=0x1F', 'opcode=0x1E', /^LOAD #value begins with 0x1E instead of 0x1F\.$/],
  ['another tick', 'ACC <- ACC << 1 ;', 'ACC <- ACC << 2 ;', /^SHL does something else in its ticks\.$/],
  ['a tick more', 'compare X - value', 'MDR <- X\n          compare X - value', /^CMPX #value takes 7 ticks instead of 6\.$/],
  [
    'a wider register',
    'SP:  {title: stack pointer, role: stack pointer, bits: 8, start: 0xF0}',
    'SP:  {title: stack pointer, role: stack pointer, bits: 8, start: 0xE0}',
    /^The register SP begins with 0xE0 instead of 0xF0\.$/,
  ],
  ['another rule', 'subtract: borrow', 'subtract: no borrow', /^The flag C now says .*nothing was borrowed/],
  ['a memory', 'cells: 256, bits: 8}', 'cells: 240, bits: 8}', /^The memory M has 240 cells instead of 256 cells\.$/],
  [
    'a trap',
    '2: {name: showNumber, service: write number',
    '2: {name: showNumber, service: write signed',
    /^The trap showNumber is write signed at number 2 instead of write number at number 2\.$/,
  ],
])('%s is told in words', (_, from, to, words) => {
  const changed = changesBetween(machineOf(curlew.text), machineOf(swap(curlew.text, from, to)));
  expect(changed).toHaveLength(1);
  expect(changed[0]).toMatch(words);
});

test('what is gone and what is new is told together; words and remarks are no change', () => {
  const before = machineOf(plover.text);
  expect(changesBetween(before, machineOf(plover.text.replace('# Plover', '# Not')))).toEqual([]);
  expect(changesBetween(before, machineOf(swap(plover.text, 'title: show the accumulator', 'title: show it')))).toEqual([]);
  const after = machineOf(swap(swap(plover.text, 'write: TENTH', 'write: TENTHS'), '  TENTH:', '  TENTHS:'));
  expect(changesBetween(before, after)).toEqual(['TENTH is gone.', 'TENTHS is new.']);
});

const counting =
  'start   LOAD  n\nagain   WRITE\n        SUB   one\n        JUMPZ done\n        JUMP  again\ndone    HALT\nn       .cells 3\none     .cells 1\n';

test.each<[string, string, string, string, string, RegExp]>([
  ['nothing that it uses', 'ACC <- low(ACC * MDR)', 'ACC <- low(MDR * ACC)', counting, 'same', /stays as it is/],
  ['its codes', 'opcode=4', 'opcode=0', counting, 'cells', /other cells \(1 of 8\), and does the same/],
  [
    'its ticks',
    'ACC <- ACC - MDR ; flags Z N C',
    'MAR <- PC\n          ACC <- ACC - MDR ; flags Z N C',
    counting,
    'ticks',
    /does the same in \d+ ticks instead of \d+/,
  ],
  ['what it writes', 'ACC <- ACC - MDR ;', 'ACC <- ACC - MDR - MDR ;', counting, 'runs', /goes on, where it halted|writes/],
  ['an operation that it has', 'write: SUB {address}', 'write: SUB ({address})', counting, 'broken', /does not assemble any more\. Line 3/],
  ['an error that it had before', 'opcode=4', 'opcode=0', ' NOTHING\n', 'as before', /does not assemble, as before/],
])('a program, where the machine changes %s', (_, from, to, source, kind, says) => {
  const found = consequenceFor(machineOf(plover.text), machineOf(swap(plover.text, from, to)), { source });
  expect(found.says).toMatch(says);
  expect(found.kind).toBe(kind);
});

test('a program that did not assemble may do so on the new version', () => {
  const after = machineOf(plover.text);
  const before = machineOf(swap(swap(plover.text, 'write: SUB', 'write: MINUS'), '  SUB:', '  MINUS:'));
  expect(consequenceFor(before, after, { source: counting })).toEqual({ kind: 'mended', says: 'assembles now' });
});

test('what a course has no use for is told part by part', () => {
  const machine = machineOf(plover.text);
  const found = unusedBy(machine, [{ source: counting }, { source: ' NOTHING\n' }]);
  expect(found).toMatchObject({ programs: 1, instructions: ['STORE', 'ADD', 'MUL', 'TENTH', 'JUMPN', 'READ'], traps: ['askNumber'] });
  expect(found.registers).toEqual([]);
  const all = unusedBy(
    machineOf(curlew.text),
    curlew.programs.map((each) => ({ source: each.text, parts: Object.fromEntries(curlew.parts.map((part) => [part.name, part.text])) })),
  );
  expect(all.programs).toBe(curlew.programs.length);
  // A jump with a condition in its name is a use of it.
  expect(all.instructions).not.toContain('JUMP');
});

test('a program’s footprint is where its code, data and room lie; of one with errors it is why there is none', () => {
  const machine = machineOf(plover.text);
  expect(footprintOf(machine, { source: counting })).toEqual({
    ...{ cells: 8, size: 200 },
    regions: [
      { from: 0, to: 5, kind: 'code' },
      { from: 6, to: 7, kind: 'data' },
    ],
  });
  expect(footprintOf(machine, { source: ' NOTHING\n' })).toMatchObject({ cells: 0, problem: expect.stringMatching(/^Line 1: /) });
});

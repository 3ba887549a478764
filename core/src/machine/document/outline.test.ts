import { demoMachines } from '../../testing/demo';
import { readWholeMachine } from '../../assembler/machines';
import { editDocument } from './edits';
import { duplicateOf, outlineOf } from './outline';
import { rootOf } from './parsed';
import { treeOf, treeOfNode } from './tree';

const curlew = demoMachines[0]!.text;

test('an outline names the parts of a document with what they are, each at its place', () => {
  const sections = outlineOf(curlew)!;
  expect(sections.map((each) => each.name)).toEqual([
    'spaces',
    'registers',
    'flags',
    'conditions',
    'formats',
    'instructions',
    'traps',
    'stacks',
    'faults',
  ]);
  const registers = sections[1]!.parts;
  expect(registers.map((each) => `${each.name}: ${each.says}`)).toContain('ACC: accumulator');
  for (const { span, name, path } of registers) {
    expect(curlew.slice(span!.start, span!.end)).toBe(name);
    expect(path).toEqual(['registers', name]);
  }
  expect(outlineOf('machine: [')).toBeUndefined();
  expect(outlineOf('')).toBeUndefined();
  expect(outlineOf('- a\n')).toBeUndefined();
});

test('a part is written once more under a free name, its forms with it', () => {
  const edit = duplicateOf(treeOfNode(rootOf(curlew)), ['instructions', 'PASS'])!;
  expect(edit).toMatchObject({ path: ['instructions', 'PASS2'], value: { forms: [{ write: 'PASS2', code: 'alone opcode=0x0E' }] } });
  const result = editDocument(curlew, edit);
  if ('refused' in result) throw new Error('refused');
  expect(result.rewritten).toBeUndefined();
  // What it clashes with is told, with a code that is free.
  const [problem] = readWholeMachine(result.text).problems;
  expect(problem).toMatchObject({ code: 'encodings-overlap', mend: { title: 'Give PASS2 0x10' } });
  expect(duplicateOf(treeOfNode(rootOf(curlew)), ['traps', '1'])).toMatchObject({ path: ['traps', '6'] });
  expect(duplicateOf(treeOfNode(rootOf(curlew)), ['registers', 'NOPE'])).toBeUndefined();
});

test('what is inherited stands in the outline too, and what is written over it is told', () => {
  const base = treeOf({ registers: { PC: { role: 'program counter' }, ACC: { title: 'accumulator' } }, flags: { Z: { rule: 'zero' } } });
  const [registers, flags] = outlineOf('machine: Ruff\nregisters:\n  ACC: {title: sum}\n  T: {title: spare}\n', base)!;
  expect(registers!.parts.map(({ name, says, span, overrides }) => [name, says, span !== undefined, overrides])).toEqual([
    ['PC', 'program counter', false, undefined],
    ['ACC', 'sum', true, true],
    ['T', 'spare', true, undefined],
  ]);
  expect(flags!.parts).toMatchObject([{ name: 'Z', says: 'zero' }]);
});

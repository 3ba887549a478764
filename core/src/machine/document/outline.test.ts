import { demoMachines } from '../../testing/demo';
import { readWholeMachine } from '../../assembler/machines';
import { editDocument } from './edits';
import { duplicateOf, outlineOf, placesOf } from './outline';
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
  for (const { name, path } of registers) expect(path).toEqual(['registers', name]);
  const places = placesOf(sections);
  expect(places.map(({ part }) => part)).toEqual(sections.flatMap((each) => each.parts));
  for (const { part, span } of places) expect(curlew.slice(span.start, span.end)).toBe(part.name);
  expect(outlineOf('machine: [')).toBeUndefined();
  expect(outlineOf('')).toBeUndefined();
  expect(outlineOf('- a\n')).toBeUndefined();
});

test('a letter that is typed moves the places of few parts', () => {
  const [before, after] = [curlew, curlew.replace('title: ', 'title: x')].map((each) => outlineOf(each)!.flatMap(({ parts }) => parts));
  const others = after!.filter((each, at) => JSON.stringify(each) !== JSON.stringify(before![at]));
  expect(others.length).toBeGreaterThan(0);
  expect(others.length).toBeLessThanOrEqual(outlineOf(curlew)!.length + 1);
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
  expect(registers!.parts.map(({ name, says, place, overrides }) => [name, says, place !== undefined, overrides])).toEqual([
    ['PC', 'program counter', false, undefined],
    ['ACC', 'sum', true, true],
    ['T', 'spare', true, undefined],
  ]);
  expect(flags!.parts).toMatchObject([{ name: 'Z', says: 'zero' }]);
});

import fc from 'fast-check';
import { curlew, demoMachines, machineFrom, machineNamed, programFrom } from '../../testing/demo';
import { listingText } from '../../formats/listing';
import { assemble } from '../assemble';
import { agreementOf, assembleOne } from './byHand';
import { inColumns } from './columns';
import { helpOf } from './help';
import { occurrencesAt, renameAt, explainRename } from './occurrences';
import { cleanListing, compareCodes } from './paste';
import { applyChanges } from '../../machine/document/edits';
import { spellingsOf } from '../../machine/model/spellings';

const programs = demoMachines.flatMap(({ text, programs: list }) => list.map((each) => [each.name, text, each.text] as const));
const cellsOf = (machine: typeof curlew, text: string) =>
  programFrom(machine, text).cells.map(({ space, address, value }) => [space, address, value]);

test.each(programs)('columns change no cell of %s, and putting it into columns twice changes nothing more', (_name, machineText, text) => {
  const machine = machineFrom(machineText);
  const once = inColumns(machine, text);
  expect(cellsOf(machine, once)).toEqual(cellsOf(machine, text));
  expect(inColumns(machine, once)).toBe(once);
  expect(once.split('\n')).toHaveLength(text.split('\n').length);
});

test('labels, operations, operands and remarks stand in columns; what cannot be read stays', () => {
  expect(inColumns(curlew, 'a: LOAD #1 ;one\n  STORE   n;two\n; three\n LAOD 5\nn .cells  1 , 2\nk=3')).toBe(
    'a:      LOAD   #1  ;one\n        STORE  n   ;two\n; three\n LAOD 5\nn       .cells 1 , 2\nk       = 3',
  );
});

test('columns never change what random texts mean', () => {
  const word = fc.constantFrom('a', 'LOAD', 'b:', '#5', 'HALT', '.cells', '1', ',', '"x ; y"', "';'", '; r', '=', '  ', '.text');
  const line = fc.array(word, { maxLength: 6 }).map((each) => each.join(' '));
  fc.assert(
    fc.property(fc.array(line, { maxLength: 8 }), (lines) => {
      const text = lines.join('\n');
      const before = assemble(curlew, text);
      const after = assemble(curlew, inColumns(curlew, text));
      expect(after.problems.map((each) => [each.line, each.code])).toEqual(before.problems.map((each) => [each.line, each.code]));
      expect(after.program?.cells).toEqual(before.program?.cells);
    }),
    { numRuns: 300 },
  );
});

test.each(programs)('a listing of %s pasted back gives the same cells', (_name, machineText, text) => {
  const machine = machineFrom(machineText);
  const cleaned = cleanListing(machine, listingText(machine, programFrom(machine, text)));
  expect(cleaned!.changed).toBeGreaterThan(3);
  expect(cellsOf(machine, cleaned!.text)).toEqual(cellsOf(machine, text));
});

test('other layouts are cleaned too, labels with hexadecimal letters stay, and a program is not taken for a listing', () => {
  const pasted = '0001  00: 12 40   start LOAD level\n0002  02: 0F            HALT\n0003  40: 09   fade .cells 9\nlevel = fade';
  expect(
    cleanListing(curlew, pasted)!
      .text.split('\n')
      .map((each) => each.trim()),
  ).toEqual(['start LOAD level', 'HALT', 'fade .cells 9', 'level = fade']);
  for (const [, , text] of programs) expect(cleanListing(curlew, text)).toBeUndefined();
});

const compared = (machine: typeof curlew, listing: string) => {
  const cleaned = cleanListing(machine, listing)!;
  return compareCodes(machine, assemble(machine, cleaned.text).rows, cleaned);
};

test.each(programs)('the codes of the own listing of %s are those that come out again', (_name, machineText, text) => {
  const machine = machineFrom(machineText);
  const { same, differences } = compared(machine, listingText(machine, programFrom(machine, text)));
  expect(differences).toEqual([]);
  expect(same).toBeGreaterThan(3);
});

test('codes that are others are told with their line; lines without codes are passed over', () => {
  expect(compared(curlew, '00 12 03 start LOAD level\n02 0E HALT\n03 level .cells 9')).toEqual({
    same: 1,
    differences: [{ line: 2, sentence: 'The listing has 0E, this machine makes 0F of it.' }],
  });
  expect(compared(curlew, '1 start LOAD level\n2 HALT\n3 level .cells 9').differences).toEqual([]);
});

const source = 'a LOAD n\nCALL half\nJUMP half.a\nHALT\n.routine half\na JUMPZ a\nRET\n.end\nn .cells a';
const spans = (offset: number) => occurrencesAt(curlew, source, offset)?.list.map((each) => `${each.line}${each.defines ? '!' : ''}`);

test('a name is found where it is defined and used, its routine counted', () => {
  expect(spans(0)).toEqual(['1!', '9']);
  expect(spans(source.indexOf('a JUMPZ'))).toEqual(['3', '6!', '6']);
  expect(spans(source.indexOf('half'))).toEqual(['2', '5!']);
  expect(spans(source.indexOf('LOAD') + 1)).toBeUndefined();
});

test('the name of a trap that is asked for is no use of a routine that is called so', () => {
  const named = 'CALL showNumber\nHALT\nshowNumber TRAP showNumber\nRET';
  const list = occurrencesAt(curlew, named, 6)!.list.map((each) => each.line);
  expect(list).toEqual([1, 3]);
  expect(occurrencesAt(curlew, named, named.lastIndexOf('showNumber') + 2)).toBeUndefined();
  const result = renameAt(curlew, named, { offset: 6, name: 'tell' });
  expect('edits' in result && result.edits.map((each) => named.slice(0, each.span.start).split('\n').length)).toEqual([1, 3]);
});

test('a name is renamed everywhere and nothing else, or refused with the reason', () => {
  const renamed = (offset: number, name: string): string => {
    const result = renameAt(curlew, source, { offset, name });
    if ('refused' in result) return explainRename(result.refused);
    return result.edits.toReversed().reduce((text, { span, text: put }) => text.slice(0, span.start) + put + text.slice(span.end), source);
  };
  expect(renamed(0, 'go')).toBe('go LOAD n\nCALL half\nJUMP half.a\nHALT\n.routine half\na JUMPZ a\nRET\n.end\nn .cells go');
  expect(renamed(source.indexOf('half'), 'part')).toBe(source.replaceAll('half', 'part'));
  expect(renamed(source.indexOf('a JUMPZ'), 'again')).toBe(
    'a LOAD n\nCALL half\nJUMP half.again\nHALT\n.routine half\nagain JUMPZ again\nRET\n.end\nn .cells a',
  );
  expect(renamed(0, 'n')).toMatch(/defined already/);
  expect(renamed(0, 'add')).toMatch(/is an operation/);
  expect(renamed(0, 'showNumber')).toMatch(/name of this machine/);
  expect(renamed(0, '2x')).toMatch(/letters, digits/);
  expect(assemble(curlew, renamed(0, 'go')).program!.cells).toEqual(assemble(curlew, source).program!.cells);
});

test.each([
  ['a main name that a routine would take for its own', ' JUMP x\nx JUMP x\n.routine r\nq JUMP q\n JUMP x\n.end', 6, 'q', 5],
  ['a name that an instruction has a meaning for', ' LOAD #here\n JUMP x\nx HALT', 18, 'here', 1],
  ['a name that is a number in the base of the text', ' .base 16\n LOAD #0fe\n JUMP x\nx HALT', 27, 'fe', undefined],
])('a rename is refused with the line that it would change: %s', (_, text, offset, name, line) => {
  const result = renameAt(curlew, text, { offset, name });
  if (line !== undefined)
    return expect('refused' in result && explainRename(result.refused)).toBe(
      `Line ${line} would mean something else with “${name}”. Choose another name.`,
    );
  const after = 'edits' in result ? applyChanges(text, result.edits) : text;
  expect(assemble(curlew, after).program!.cells).toEqual(assemble(curlew, text).program!.cells);
});

test('drawn renames to names that exist elsewhere change no cell', () => {
  const texts = demoMachines.find((each) => each.name === 'Curlew')!.programs.map((each) => each.text);
  fc.assert(
    fc.property(
      fc.constantFrom(...texts),
      fc.nat(),
      fc.nat(),
      fc.constantFrom('here', 'next', 'ACC', 'fe', '0fe'),
      (text, from, to, odd) => {
        const words = [...text.matchAll(/[A-Za-z_]\w*/g)];
        const name = to % 3 === 0 ? odd : words[to % words.length]![0];
        const result = renameAt(curlew, text, { offset: words[from % words.length]!.index, name });
        if ('edits' in result)
          expect(assemble(curlew, applyChanges(text, result.edits)).program?.cells).toEqual(assemble(curlew, text).program!.cells);
      },
    ),
    { numRuns: Number(process.env.ZETTAK_RENAMES ?? 60) },
  );
});

test('help has every form with its sentence, and the machine’s own names', () => {
  for (const { text } of demoMachines) {
    const machine = machineFrom(text);
    const { offers } = helpOf(machine);
    expect(offers.filter((each) => each.encoding !== '')).toHaveLength(machine.forms.flatMap(spellingsOf).length);
    offers.forEach((each) => expect(each.sentence).toMatch(/\.$/));
  }
  expect(helpOf(curlew).offers.find((each) => each.written === 'JUMPNE {address}')).toMatchObject({
    title: 'not zero: Z = 0',
    sentence: 'JUMPNE address: go on at an address, not zero: Z = 0; it leaves the flags alone and takes 2 cells and 6 ticks.',
  });
  expect(helpOf(machineNamed('Gannet')).names.map((each) => each.name)).toEqual(expect.arrayContaining(['lamps.horn', 'sayText', 'R7']));
});

test('cells entered by hand are compared with the program', () => {
  const program = programFrom(curlew, 'LOAD #5\nHALT');
  const memory = new Uint32Array(256);
  memory.set([0x1f, 6, 0x0f]);
  expect(agreementOf(curlew, program, memory)).toEqual({ cells: 3, agree: 2, differ: [{ address: 1, is: 6, should: 5 }] });
});

test('one instruction is assembled at an address with the names of the program, or its problem told', () => {
  const program = programFrom(curlew, 'go LOAD n\nJUMP go\nn .cells 1');
  expect(assembleOne(curlew, 'STORE n', { address: 0x80, program })).toEqual({ cells: [0x26, 4] });
  expect(assembleOne(curlew, 'LAOD n', { address: 0, program })).toMatchObject({
    problem: { column: 1, mend: { edits: [{ span: { start: 0, end: 4 }, text: 'LOAD' }] } },
  });
  expect(assembleOne(curlew, '', { address: 0 })).toHaveProperty('problem');
  const gannet = machineNamed('Gannet');
  expect(assembleOne(gannet, 'PUSH R1', { address: 0x200 })).toHaveProperty('cells.length', 2);
});

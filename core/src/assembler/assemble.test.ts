import fc from 'fast-check';
import { curlew, demoMachines, machineFrom, programFrom } from '../testing/demo';
import { assemble } from './assemble';

const wordsOf = (source: string): number[] => programFrom(curlew, source).cells.map((each) => each.value);

test.each<[string, string, number[]]>([
  ['a direct and an immediate operand', 'LOAD 0x40\nLOAD #5', [0x12, 0x40, 0x1f, 5]],
  [
    'decimal, hexadecimal, binary and characters',
    ".cells 10, 0x1F, 0b1010_0101, 'A', '\\n', ';'\nHALT",
    [10, 0x1f, 0xa5, 65, 10, 59, 0x0f],
  ],
  ['negative values as two’s complement', 'ADD #-5\n.cells -128', [0x3a, 0xfb, 0x80]],
  ['sums and differences', 'a = 10\nLOAD #a + 5 - 0x3\nLOAD a-1', [0x1f, 12, 0x12, 9]],
  ['a label before its definition', 'JUMP end\nend: HALT', [0x40, 2, 0x0f]],
  ['labels with and without colon, alone or not', 'one\ntwo: HALT\nthree HALT\n.cells one, two, three', [0x0f, 0x0f, 0, 0, 1]],
  ['a constant defined by later names', 'a = b + 1\nLOAD #a\nb = c\nc = 3', [0x1f, 4]],
  ['texts with values behind them', 'HALT\n.text "Hi", 0', [0x0f, 72, 105, 0]],
  ['names in any case', 'Level = 4\nload #LEVEL', [0x1f, 4]],
  ['an indexed, an indirect and a direct operand', 'LOAD a+X\nLOAD (a+1)\nLOAD a + 2\na = 8', [0x13, 8, 0x14, 9, 0x12, 10]],
  ['names of services', 'TRAP showNumber', [0xf0, 2]],
  ['remarks with quotes in them', 'HALT ; it\'s "done', [0x0f]],
  ['text with a semicolon', 'HALT\n.text "a;b" ; remark', [0x0f, 97, 59, 98]],
  ['Windows line ends', 'LOAD #1\r\nHALT\r\n', [0x1f, 1, 0x0f]],
])('assembles %s', (_, source, words) => expect(wordsOf(source)).toEqual(words));

test('origin and room move the address, and room writes nothing', () => {
  const program = programFrom(curlew, 'HALT\n.origin 0x40\na .cells 1\nb .room 3\nc .cells 2');
  expect(program.cells.map(({ address, value }) => [address, value])).toEqual([
    [0, 0x0f],
    [0x40, 1],
    [0x44, 2],
  ]);
  expect(program.symbols).toMatchObject([
    { name: 'a', value: 0x40 },
    { name: 'b', value: 0x41 },
    { name: 'c', value: 0x44 },
  ]);
});

test('the program starts at its first instruction, and its facts say what it takes', () => {
  const { start, facts } = programFrom(curlew, 'data .cells 7, 8\n go LOAD data\n HALT\nspare .cells 1');
  expect(start).toBe(2);
  expect(facts).toMatchObject({ start: 2, last: 5, used: 6, free: 250, names: 3, unusedNames: ['spare'], base: 10, warnings: 0 });
});

test('each row tells what its line became', () => {
  const { rows } = assemble(curlew, '; remark\nstart LOAD  level ; cm\n\nlevel .cells 9');
  expect(rows).toEqual([
    { line: 1, kind: 'none', words: [] },
    { line: 2, kind: 'code', address: 0, words: [0x12, 2], text: 'LOAD level' },
    { line: 3, kind: 'none', words: [] },
    { line: 4, kind: 'data', address: 2, words: [9] },
  ]);
});

test.each<[string, string, string, number, number, RegExp]>([
  ['an unknown operation', 'HALT\n  LAOD #1', 'unknown-operation', 2, 3, /Did you mean LOAD/],
  ['a misspelt operation behind a label', 'x LAOD #1', 'unknown-operation', 1, 3, /Did you mean LOAD/],
  ['a misspelt operation alone on its line', 'HLAT', 'lone-name', 1, 1, /Did you mean HALT/],
  ['an unknown directive', '.orgin 5\nHALT', 'unknown-operation', 1, 1, /Did you mean .origin/],
  ['a missing operand', 'LOAD', 'operands-do-not-fit', 1, 1, /LOAD #value {2}or {2}LOAD address/],
  ['too many operands', 'HALT 3', 'operands-do-not-fit', 1, 6, /It is written: HALT/],
  ['two operands', 'LOAD 1 2', 'operands-do-not-fit', 1, 6, /LOAD #value/],
  ['an immediate where none is', 'STORE #4', 'operands-do-not-fit', 1, 7, /STORE address/],
  ['a forgotten base prefix', 'LOAD #3A', 'bad-number', 1, 7, /starts with 0x: 0x3A/],
  ['a hexadecimal digit too many', 'LOAD #0xZZ', 'bad-number', 1, 7, /0x3A or 0b111010/],
  ['an unknown name', 'LOAD levle\nlevel .cells 1', 'unknown-name', 1, 6, /Did you mean level/],
  ['a value out of range', 'LOAD #300', 'value-out-of-range', 1, 7, /300 \(0x12C\) does not fit the field value of LOAD: -128 to 255/],
  ['an address out of range', 'LOAD 256', 'value-out-of-range', 1, 6, /field address of LOAD: 0 to 255/],
  ['a cell value out of range', 'HALT\n.cells 1, 256', 'value-out-of-range', 2, 11, /a cell of 8 bits/],
  ['a name defined twice', 'a .cells 1\na .cells 2\nHALT', 'name-twice', 2, 1, /on line 1 already/],
  ['an operation with a colon', 'halt:\nHALT', 'operation-with-colon', 1, 1, /only a label/],
  ['an operation used as a label', 'JUMP sub\nx HALT', 'name-is-operation', 1, 6, /“sub” is an operation of this machine/],
  ['a circle of constants', 'a = b\nb = a\nLOAD #a', 'constant-circle', 1, 1, /defined by itself/],
  ['an open text', '.text "abc\nHALT', 'quote-open', 1, 7, /not closed/],
  ['an unknown escape', '.text "a\\q"\nHALT', 'unknown-escape', 1, 7, /\\q/],
  ['an origin outside memory', '.origin 0x100\nHALT', 'address-outside', 1, 9, /ends at 255 \(0xFF\)/],
  ['an origin not known yet', '.origin later\nHALT\nlater = 4', 'not-yet-known', 1, 9, /further down/],
  ['code past the end', '.origin 255\nLOAD 1', 'address-outside', 2, 1, /256 \(0x100\), past the end of M/],
  ['signs at the start of a line', 'HALT\n+ 4', 'line-starts-wrong', 2, 1, /cannot start with “\+”/],
  ['something behind a value', 'a = 4 5\nLOAD #a', 'left-over', 1, 7, /“5” is too much/],
  ['a list that ends in a comma', 'HALT\n.cells 1,', 'value-expected', 2, 10, /the line ends/],
  ['no instruction at all', '; only a remark', 'nothing-to-run', 1, 1, /no instruction/],
])('tells %s with line, column and remedy', (_, source, code, line, column, words) => {
  const { program, problems } = assemble(curlew, source);
  expect(program).toBeUndefined();
  expect(problems).toMatchObject([{ code, grade: 'error', line, column }]);
  expect(problems[0]!.sentence).toMatch(words);
});

test('reports all errors in one pass, and none that another error caused', () => {
  const { problems } = assemble(curlew, 'a = 3A\nLOAD #a\nx FOO\nJUMP x\nLOAD #999\nLOAD nowhere');
  expect(problems.map(({ line, code }) => `${line} ${code}`)).toEqual([
    '1 bad-number',
    '3 unknown-operation',
    '5 value-out-of-range',
    '6 unknown-name',
  ]);
});

test('a mend puts the forgotten prefix before the number', () => {
  const source = 'LOAD #3A';
  const { span, text } = assemble(curlew, source).problems[0]!.mend!.edits[0]!;
  expect(wordsOf(source.slice(0, span.start) + text + source.slice(span.end))).toEqual([0x1f, 0x3a]);
});

test.each([
  ['code over code', 'HALT\nHALT\n.origin 0\nLOAD #1'],
  ['room over code', 'HALT\nHALT\n.origin 0\n.room 2'],
  ['data over room', '.origin 8\n.room 4\n.origin 11\n.cells 1\n.origin 0\nHALT'],
])('%s is told once, as an error, and nothing is made', (_, source) => {
  const { program, partial, problems } = assemble(curlew, source);
  expect([program, partial]).toEqual([undefined, undefined]);
  expect(problems.filter((each) => each.code === 'cells-overlap')).toMatchObject([{ grade: 'error', line: 4 }]);
});

test.each(demoMachines.flatMap(({ text, programs }) => programs.map((each) => [each.name, text, each.text] as const)))(
  'the demo program %s assembles without a problem',
  (_name, machine, text) => {
    expect(assemble(machineFrom(machine), text).problems).toEqual([]);
  },
);

test('a chain of ten thousand constants is no crash', () => {
  const source = Array.from({ length: 10_000 }, (_, at) => `a${at} = a${at + 1} + 0`).join('\n') + '\nHALT';
  expect(assemble(curlew, source).problems.some((each) => each.grade === 'error')).toBe(true);
});

test('never throws, and every line that is not only a remark yields cells, a name, an effect or a problem', () => {
  const runs = Number(process.env.ZETTAK_MUTATIONS ?? 400);
  const word = fc.constantFrom(
    'LOAD',
    'HALT',
    'x',
    'y',
    ':',
    '=',
    '#',
    '5',
    '0x',
    '3A',
    ',',
    '+',
    '-',
    '"a',
    '"b"',
    "'",
    "'c'",
    '.cells',
    '.origin',
    '.room',
    '.text',
    ';',
    '.',
    '\\',
    '€',
    '999',
  );
  const line = fc.oneof(
    fc.string({ maxLength: 20 }),
    fc.array(word, { maxLength: 6 }).map((each) => each.join(' ')),
  );
  fc.assert(
    fc.property(fc.array(line, { maxLength: 12 }), (lines) => {
      const source = lines.join('\n');
      const { program, rows, problems } = assemble(curlew, source);
      expect(program === undefined).toBe(problems.some((each) => each.grade === 'error'));
      problems.forEach((each) => expect(each.sentence).not.toContain('undefined'));
      if (!program) return;
      source.split('\n').forEach((text, at) => {
        if (text.replace(/;.*/s, '').trim() === '') return;
        const named = program.symbols.some((each) => each.line === at + 1);
        expect(named || rows[at]!.kind !== 'none' || /\.origin/i.test(text)).toBe(true);
      });
    }),
    { numRuns: runs },
  );
});

const courseTexts = demoMachines.flatMap(({ text, parts, frames, snippets }) => {
  const known = new Map(parts.map((each) => [each.name, each.text]));
  const including = parts.map((each) => ({ name: each.name, text: `.include "${each.name}"\nHALT` }));
  return [...including, ...frames, ...snippets].map((each) => [each.name, text, each.text, known] as const);
});

test.each(courseTexts)(
  'the course text %s fits its machine: only names of the program it is put into are missing',
  (_name, machine, text, parts) => {
    const { problems } = assemble(machineFrom(machine), text, { parts });
    expect(problems.filter((each) => each.grade === 'error' && each.code !== 'unknown-name')).toEqual([]);
  },
);

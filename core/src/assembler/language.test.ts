import fc from 'fast-check';
import { decode } from '../machine/model/encode';
import { curlew, demoMachines, machineFrom, machineNamed, programFrom } from '../testing/demo';
import { smallMachine } from '../testing/small';
import { assemble } from './assemble';

const wordsOf = (source: string): number[] => programFrom(curlew, source).cells.map((each) => each.value);
const valueOf = (expression: string): number => programFrom(curlew, `x = ${expression}\nHALT\n.origin 0x40\n.cells 1`).symbols[0]!.value;

test.each([
  ['2 + 3 * 4', 14],
  ['(2 + 3) * 4', 20],
  ['-7 / 2', -3],
  ['-7 % 3', -1],
  ['7 - 2 - 1', 4],
  ['1 << 4 + 1', 32],
  ['0xF0 | 0x0F & 3', 0xf3],
  ['6 ^ 3 & 1', 7],
  ['~0', -1],
  ['~0x0F & 0xFF', 0xf0],
  ['-1 >> 4', -1],
  ['low(0x1234)', 0x34],
  ['high(0x1234)', 0x12],
  ['high(-1)', -1],
  ["'A' + 1", 66],
  ['--3', 3],
  ['0o17 + 0d9', 24],
  ['1 << 40', 2 ** 40],
])('%s is %i', (text, value) => expect(valueOf(text)).toBe(value));

test('operators agree with whole-number arithmetic on 32 bits', () => {
  const operators = {
    '+': (a: number, b: number) => a + b,
    '-': (a: number, b: number) => a - b,
    '&': (a: number, b: number) => a & b,
    '|': (a: number, b: number) => a | b,
    '^': (a: number, b: number) => a ^ b,
  };
  const small = fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 });
  fc.assert(
    fc.property(small, small, fc.constantFrom(...Object.entries(operators)), (a, b, [sign, work]) => {
      expect(valueOf(`(${a}) ${sign} (${b})`)).toBe(work(a, b));
    }),
    { numRuns: 120 },
  );
});

test('here is the address of the line, and differences of labels are numbers', () => {
  expect(wordsOf('HALT\nJUMP here\n.cells here, here - first\nfirst .cells 1')).toEqual([0x0f, 0x40, 1, 3, 3 - 5 + 256, 1]);
});

test('a base holds from its line on, and marks still count', () => {
  expect(wordsOf('.cells 10\n.base 16\n.cells 10, 0FF, 0d10, 0b11\n.base 2\n.cells 101\n.base 10\nHALT')).toEqual([
    10, 16, 255, 10, 3, 5, 0x0f,
  ]);
  const { problems } = assemble(curlew, '.base 16\nHALT\nn .cells 0b11\n.cells n');
  expect(problems).toMatchObject([{ code: 'two-bases', line: 3 }]);
});

test('a memory that is gone back to goes on where it was left', () => {
  const machine = machineNamed('dunlin');
  const [other] = machine.spaces.filter((_, at) => at !== machine.programSpace);
  const program = machine.spaces[machine.programSpace]!.name;
  const source = `.space ${other!.name}\n.cells 1, 2\n.space ${program}\n.cells 3\n.space ${other!.name}\n.cells 4\n.space ${program}\n.cells 5`;
  const { rows } = assemble(machine, source);
  expect(rows.filter((each) => each.kind === 'data').map((each) => each.address)).toEqual([0, 0, 2, 1]);
});

test('letters behind numbers are read where the machine allows them', () => {
  const machine = machineFrom(smallMachine({ parts: 'assembly:\n  letters: {h: 16, b: 2}\n  constants: {SILL: 75}' }));
  const { cells } = programFrom(machine, 'HALT\nn .cells 2Ah, 101b, 9, SILL\n.cells n');
  expect(cells.map((each) => each.value)).toEqual([1, 42, 5, 9, 75, 1]);
  expect(assemble(curlew, 'LOAD #2Ah\nHALT').problems[0]!.code).toBe('bad-number');
});

test('exact names differ by capital letters; operations never do', () => {
  expect(wordsOf('.case exact\nload #level\nLOAD #Level\nhalt\nlevel = 1\nLevel = 2')).toEqual([0x1f, 1, 0x1f, 2, 0x0f]);
  expect(assemble(curlew, 'HALT\nlevel = 1\nLevel = 2').problems.some((each) => each.code === 'name-twice')).toBe(true);
});

test('names of a routine are its own, shadow the program’s, and are reached with a dot from outside', () => {
  const source = 'JUMP a.loop\nloop HALT\n.routine a\nloop JUMP loop\n.end\n.routine b\nloop JUMP loop\nn = 3\n.cells n\n.end';
  expect(wordsOf(source)).toEqual([0x40, 3, 0x0f, 0x40, 3, 0x40, 5, 3]);
  const { symbols, routines, rows } = programFrom(curlew, source);
  expect(symbols.map((each) => each.name)).toEqual(['loop', 'a', 'a.loop', 'b', 'b.loop', 'b.n']);
  expect(routines).toEqual([
    { name: 'a', from: 3, to: 4, line: 3, end: 5 },
    { name: 'b', from: 5, to: 7, line: 6, end: 10 },
  ]);
  expect(rows[3]!.routine).toBe('a');
});

test('the program starts where .start says', () => {
  expect(programFrom(curlew, '.start go\na HALT\ngo JUMP a').start).toBe(1);
  expect(assemble(curlew, '.start 0x100\nHALT').problems[0]!.code).toBe('address-outside');
});

test('fill, room and alignment move the address; only fill writes', () => {
  const { cells } = programFrom(curlew, 'HALT\n.fill 2, 7\n.align 4\na .cells 1\nb .room 3\n.align 8\n.cells a, b');
  expect(cells.map(({ address, value }) => [address, value])).toEqual([
    [0, 0x0f],
    [1, 7],
    [2, 7],
    [4, 1],
    [8, 4],
    [9, 5],
  ]);
});

const withStrings = (strings: string) => machineFrom(smallMachine({ parts: `assembly: {strings: ${strings}}` }));

test.each([
  ['end 0', [65, 66, 0]],
  ['end 0x1F', [65, 66, 31]],
  ['length', [2, 65, 66]],
  ['last 7', [65, 66 + 128]],
])('a string on a machine that marks with “%s”', (strings, cells) => {
  const { cells: own } = programFrom(withStrings(strings), 'HALT\nt .string "AB"\n.cells t');
  expect(own.map((each) => each.value).slice(1, -1)).toEqual(cells);
});

test('a string that holds its own end, or nothing to mark, is refused', () => {
  expect(assemble(withStrings('end 65'), 'HALT\n.string "AB"').problems[0]!.code).toBe('end-inside-text');
  expect(assemble(withStrings('last 7'), 'HALT\n.string ""').problems[0]!.code).toBe('text-empty');
});

const saying = machineFrom(
  smallMachine({ parts: '' }).replace(
    'instructions:',
    "instructions:\n  SAY: {forms: [{write: SAY, code: alone opcode=90, execute: PC <- PC, inline: string}]}\n  SUMS: {forms: [{write: 'SUMS {value}', code: both opcode=91, execute: A <- value, inline: cells}]}",
  ),
);

test('data may follow an instruction where the machine says so, and the next line lies behind it', () => {
  const { cells, rows } = programFrom(saying, 'SAY "no"\nSUMS 3, 4, n\nn HALT');
  expect(cells.map((each) => each.value)).toEqual([90, 110, 111, 0, 91, 3, 4, 8, 1]);
  expect(rows[2]!.address).toBe(8);
});

const aligning = machineFrom(smallMachine({ parts: 'assembly: {align: 4}' }));

test('instructions are aligned where the machine demands it, with a remark', () => {
  const { program, problems } = assemble(aligning, '.cells 1\nHALT');
  expect(program!.rows.map((each) => each.address)).toEqual([0, 4]);
  expect(problems).toMatchObject([{ code: 'aligned', grade: 'remark', line: 2 }]);
});

const parts = new Map([
  ['averages', '.routine half\nagain SHR\nJUMPC again\nRET\n.end'],
  ['both', '.include "averages"\nwide = 3'],
  ['bad', 'LAOD #1'],
  ['round', '.include "round"\nring = 1'],
]);

test('a part is taken in once, its lines keep their name, its errors are told where it is taken in', () => {
  const { program, problems } = assemble(curlew, '.start go\n.include "both"\n.include "Averages"\ngo CALL half\nHALT', { parts });
  expect(problems).toEqual([]);
  expect(program!.parts.map((each) => [each.name, each.line])).toEqual([
    ['both', 2],
    ['averages', 2],
  ]);
  expect(program!.parts[1]!.rows[1]).toMatchObject({ part: 'averages', address: 0, text: 'SHR' });
  expect(program!.symbols.find((each) => each.name === 'half')).toMatchObject({ part: 'averages', uses: [4] });
  const bad = assemble(curlew, 'HALT\n .include "bad"', { parts });
  expect(bad.problems).toMatchObject([
    { line: 2, sentence: expect.stringMatching(/^In “bad”, line 1: This machine has no operation “LAOD”/) as string },
  ]);
  expect(assemble(curlew, '.include "round"\nHALT', { parts }).program).toBeDefined();
  expect(assemble(curlew, '.include "rond"\nHALT', { parts }).problems[0]!.mend!.title).toBe('Write "round"');
});

test('declared places have a name, a place, a base and a unit', () => {
  const source = '.input level, hex, "cm"\n.output deep = 0x50\nLOAD level\nSTORE 0x50\nHALT\nlevel .cells 9';
  expect(programFrom(curlew, source).declared).toEqual([
    { way: 'input', name: 'level', space: 0, address: 5, base: 'hex', unit: 'cm', line: 1 },
    { way: 'output', name: 'deep', space: 0, address: 0x50, base: 'decimal', unit: '', line: 2 },
  ]);
  expect(assemble(curlew, 'HALT\n.input a, wide').problems[0]!.code).toBe('declaration-wrong');
});

test('the part of a program before its first error can run, and stops before what is missing', () => {
  const { program, partial } = assemble(curlew, 'LOAD n\nLAOD #1\nHALT\nn .cells 9');
  expect(program).toBeUndefined();
  expect(partial!.stops).toEqual([2]);
  expect(partial!.program.cells.map((each) => each.value)).toEqual([0x12, 3, 0x0f, 9]);
  expect(assemble(curlew, 'LAOD #1\nHALT').partial).toBeUndefined();
});

test('uses of names are noted line by line', () => {
  const { symbols } = programFrom(curlew, 'a LOAD b\nJUMPZ a\nJUMP a\nHALT\nb .cells a, a');
  expect(symbols.map(({ name, uses }) => [name, uses])).toEqual([
    ['a', [2, 3, 5]],
    ['b', [1]],
  ]);
});

test('services that a program asks for, and jumps outside, stand in its facts', () => {
  const { facts } = programFrom(curlew, 'TRAP askLevel\nTRAP showNumber\nTRAP showNumber\nJUMPZ 0xF0\nTRAP finish');
  expect(facts).toMatchObject({ services: ['askLevel', 'showNumber', 'finish'], outside: [0xf0], warnings: 1 });
});

const words = [
  '.cells',
  '.origin',
  '.room',
  '.text',
  '.string',
  '.fill',
  '.align',
  '.space',
  '.routine',
  '.end',
  '.start',
  '.input',
  '.include',
  '.base',
  '.case',
  'x',
  'y',
  'x.y',
  'here',
  'low(',
  ':',
  '=',
  '#',
  '5',
  '0x',
  '3A',
  '0b1',
  ',',
  '+',
  '-',
  '*',
  '/',
  '%',
  '&',
  '|',
  '^',
  '~',
  '<<',
  '(',
  ')',
  '"a',
  '"b"',
  "'",
  "'c'",
  ';',
  '.',
  '\\',
  '€',
  '999',
  '\t',
  '[',
  '{',
  '@',
];
const line = fc.oneof(
  fc.string({ maxLength: 20 }),
  fc.array(fc.constantFrom(...words), { maxLength: 6 }).map((each) => each.join(' ')),
);
/** A demo program with a few characters changed, left out or put in, or a text of random lines. */
const source = fc.oneof(
  fc.array(line, { maxLength: 12 }).map((lines) => ({ on: 'Curlew', text: lines.join('\n') })),
  fc
    .record({
      of: fc.constantFrom(...demoMachines.flatMap(({ name, programs }) => programs.map((each) => ({ on: name, text: each.text })))),
      changes: fc.array(fc.tuple(fc.nat(2000), fc.nat(2), fc.constantFrom(...words)), { maxLength: 4 }),
    })
    .map(({ of, changes }) => ({
      on: of.on,
      text: changes.reduce((text, [at, out, put]) => text.slice(0, at % text.length) + put + text.slice((at % text.length) + out), of.text),
    })),
);
const byName = new Map(demoMachines.map(({ name, text }) => [name, machineFrom(text)]));

test('never throws, and every line that is more than a remark yields cells, a name, an effect or a problem', () => {
  fc.assert(
    fc.property(source, ({ on, text }) => {
      const { program, rows, problems } = assemble(byName.get(on)!, text);
      expect(program === undefined).toBe(problems.some((each) => each.grade === 'error'));
      problems.forEach((each) => expect(each.sentence).not.toMatch(/undefined|NaN|\[object/));
      text.split('\n').forEach((written, at) => {
        if (written.replace(/;.*/s, '').trim() === '' || problems.length >= 500) return;
        const number = at + 1;
        const named = program?.symbols.some((each) => each.line === number) || /^\s*[A-Za-z_]\w*\s*(:|=|;|$)/.test(written);
        const effect = /\.(origin|space|routine|end|start|input|output|include|base|case|align|room|fill|cells|text)/i.test(written);
        const told = problems.some((each) => each.line === number);
        expect(named || effect || told || rows[at]?.kind !== 'none').toBe(true);
      });
    }),
    { numRuns: Number(process.env.ZETTAK_MUTATIONS ?? 500) },
  );
});

test('work is bounded on texts that grow step by step, nest deeply or include each other', () => {
  const gannet = machineNamed('Gannet');
  const deep = `LOAD #${'('.repeat(5000)}1`;
  expect(assemble(curlew, deep).problems.map((each) => each.code)).toEqual(['value-too-long']);
  expect(assemble(curlew, `x = ${'1+'.repeat(5000)}1\nHALT`).problems.map((each) => each.code)).toContain('value-too-long');
  const jumps = Array.from({ length: 2000 }, (_, at) => `l${at} JUMP l${1999 - at}`).join('\n');
  expect(assemble(gannet, jumps).problems.length).toBeGreaterThan(0);
  const many = new Map(Array.from({ length: 200 }, (_, at) => [`p${at}`, `.include "p${at + 1}"`] as const));
  expect(assemble(curlew, '.include "p0"\nHALT', { parts: many }).problems.some((each) => each.code === 'too-many-parts')).toBe(true);
});

test('memory filled over and over ends in a sentence, and so do short forms of short forms', () => {
  const filling = assemble(curlew, `HALT\n${'.origin 0\n.fill 256, 1\n'.repeat(3000)}`);
  expect(filling.problems.filter((each) => each.grade === 'error').map((each) => each.code)).toEqual(['too-many-cells']);
  const lines = (of: string): string => `{forms: [{write: ${of[0]!}, for: "${`${of.slice(1)}\\n`.repeat(20)}"}]}`;
  const forms = ['QRR', 'RSS', 'STT', 'TUU', 'UVV'].map((each) => `  ${each[0]!}: ${lines(each[0]! + each[1]!)}`);
  const bomb = machineFrom(smallMachine({ parts: `short forms:\n${forms.join('\n')}\n  V: {forms: [{write: V, for: HALT}]}` }));
  expect(assemble(bomb, 'Q').problems.map((each) => each.code)).toContain('address-outside');
});

test('a value that is known only by way of a later name is told as such', () => {
  const { problems } = assemble(curlew, 'n = end - 1\n.room n\nHALT\nend .cells 1\n.cells end');
  expect(problems).toMatchObject([
    { code: 'not-yet-known', line: 2, sentence: expect.stringMatching(/“end” is only defined further down/) as string },
  ]);
});

test('where source exists, what is decoded goes by its spelling', () => {
  const { cells } = programFrom(curlew, 'LOAD #5\nHALT');
  const decoded = decode(curlew, (offset) => cells[offset]?.value, 0);
  expect('form' in decoded && decoded.form.mnemonic).toBe('LOAD');
});

test('a routine may be called as the trap that it asks for: behind TRAP the name is the trap, elsewhere the routine', () => {
  const source = ['  LOAD #5', '  CALL showNumber', '  HALT', 'showNumber TRAP showNumber', '  RET', '  .cells showNumber'].join('\n');
  const { cells } = programFrom(curlew, source);
  const plain = programFrom(
    curlew,
    source.replace('CALL showNumber', 'CALL show').replace('\nshowNumber', '\nshow').replace('.cells showNumber', '.cells show'),
  );
  expect(cells).toEqual(plain.cells);
  const inRoutine = programFrom(curlew, '  CALL say\n  HALT\n  .routine say\nshowNumber TRAP SHOWNUMBER\n  RET\n  .end\n');
  expect(inRoutine.cells).toEqual(programFrom(curlew, '  CALL say\n  HALT\n  .routine say\n  TRAP showNumber\n  RET\n  .end\n').cells);
  // A name that the trap has not got, told apart by case, is the program's.
  expect(assemble(curlew, `  .case exact\nshownumber = 2\n  TRAP shownumber\n  HALT\n`).program!.cells[0]!.value).toBe(
    programFrom(curlew, '  TRAP 2\n  HALT\n').cells[0]!.value,
  );
});

import { readWholeMachine } from '../../assembler/machines';
import { assemble } from '../../assembler/assemble';
import { narrate } from '../../engine/tell/narrate';
import { Runner } from '../../engine/control/runner';
import { curlewText, demoMachines, machineFrom, machineNamed } from '../../testing/demo';
import { smallMachine, type Small } from '../../testing/small';
import { decode, encode, type Refusal } from '../model/encode';
import { documentSchema } from '../document/schema';
import { cardAsMarkdown, cardOf } from '../model/card';
import { starter } from '../../testing/starter';
import { decodeTree, mapAsText, opcodeMap, type DecodeTree } from '../model/opcodeMap';

const problemsOf = (text: string) => readWholeMachine(text).problems;
const lineOf = (text: string, part: string): number => text.slice(0, text.indexOf(part)).split('\n').length;

const WRONG: readonly (readonly [name: string, small: Small | string, code: string, grade: string, words: RegExp, at: string])[] = [
  ['bits on a decimal machine', { word: 'digits: 3', registers: 'D: {bits: 4}' }, 'wrong-unit', 'error', /counts in digits/, 'bits: 4'],
  [
    'a bit operator on a decimal machine',
    { word: 'digits: 3', ticks: { X: 'A <- A & B' } },
    'bits-on-decimal',
    'error',
    /works on bits/,
    'A & B',
  ],
  [
    'parity on a decimal machine',
    { word: 'digits: 3', parts: 'flags:\n  P: {rule: parity}', ticks: { X: 'A <- A + B ; flags P' } },
    'bits-on-decimal',
    'error',
    /parity/,
    'A + B',
  ],
  ['a literal beyond its digits', { word: 'digits: 3', ticks: { X: 'A <- 1000' } }, 'literal-too-wide', 'error', /0 to 999/, '1000'],
  [
    'banks that are not named',
    { space: 'cells: 16, banks: 2', ticks: { X: 'A <- M[B]' } },
    'banks-differ',
    'error',
    /M\[bank, cell\]/,
    'M[PC]',
  ],
  [
    'a register fixed outside its array',
    { registers: 'R: {count: 4}', ticks: { X: 'A <- R[4]' } },
    'element-outside',
    'error',
    /There are 4 of these/,
    'R[4]',
  ],
  ['a pair of what is no register', { registers: 'W: {pair: A Q}' }, 'no-such-part', 'error', /no register “Q”/, 'W: {pair'],
  ['a name that is a word of the notation', { registers: 'halt: {}' }, 'name-reserved', 'error', /word of the notation/, 'halt: {}'],
  ['a service in company', { ticks: { X: 'service 1, A <- 2' } }, 'must-stand-alone', 'error', /stands alone/, 'service 1, A'],
  [
    'a wait on an absent device',
    { ticks: { X: 'wait kees' }, parts: 'devices: {keys: {kind: keyboard}}' },
    'unknown-name',
    'error',
    /Did you mean keys/,
    'kees',
  ],
  [
    'a wait that waits for nothing',
    { ticks: { X: 'wait sill' }, parts: 'devices:\n  sill: {kind: lamps}' },
    'wait-without-status',
    'warning',
    /always ready/,
    '  sill',
  ],
  [
    'devices that overlap',
    { parts: "devices:\n  one: {kind: lamps, data: 'M[5]'}\n  two: {kind: digits, data: 'M[5]'}" },
    'devices-overlap',
    'error',
    /one stands at this place/,
    '  two',
  ],
  [
    'a device outside its space',
    { parts: "devices:\n  one: {kind: lamps, data: 'M[256]'}" },
    'place-outside',
    'error',
    /there are 256, numbered from 0/,
    '  one',
  ],
  [
    'a stack outside its space',
    { parts: 'stacks:\n  S: {pointer: A, space: M, from: 200, to: 256}' },
    'region-outside',
    'error',
    /256 lies outside M/,
    '  S: {',
  ],
  [
    'a stack turned round',
    { parts: 'stacks:\n  S: {pointer: A, space: M, from: 20, to: 10}' },
    'region-turned',
    'error',
    /ends at 10, before/,
    '  S: {',
  ],
  ['a fault of no kind', { parts: 'faults:\n  divison: stop' }, 'no-such-part', 'error', /Did you mean division/, '  divison'],
  [
    'a fault that cannot be ignored',
    { parts: 'faults:\n  division: ignore' },
    'bad-disposition',
    'error',
    /stop, value and a number, trap and a number/,
    '  division',
  ],
  ['a trap without a way in', { parts: 'faults:\n  division: trap 3' }, 'trap-without-entry', 'error', /under traps, enter/, '  division'],
  [
    'a fault whose trap faults again',
    { parts: 'traps:\n  enter: {phase: Execute, ticks: A <- A / B}\nfaults:\n  division: trap 3' },
    'fault-faults-again',
    'warning',
    /it divides/,
    '  division',
  ],
  ['cause outside of enter', { ticks: { X: 'A <- cause' } }, 'cause-outside-enter', 'error', /traps, enter/, 'A <- cause'],
  [
    'a flag with two origins',
    { parts: "flags:\n  F: {rule: zero, formula: 'a = b'}" },
    'one-of',
    'error',
    /Only one of rule and formula/,
    '  F:',
  ],
];

test.each(WRONG)('%s is found where it stands', (_name, small, code, grade, words, at) => {
  const text = typeof small === 'string' ? small : smallMachine(small);
  const problem = problemsOf(text).find((each) => each.code === code);
  expect(problem).toMatchObject({ code, grade });
  expect(problem!.sentence).toMatch(words);
  expect(problem!.line).toBe(lineOf(text, at));
});

const gannet = demoMachines.find((each) => each.name === 'Gannet')!.text;
const dunlin = demoMachines.find((each) => each.name === 'Dunlin')!.text;

test.each<[string, string, string | RegExp, string, string, RegExp]>([
  [
    'a relative field whose ticks go elsewhere',
    gannet,
    'target 9 from next',
    'target 9 from here',
    'relative-differs',
    /so that 2 is reached, but its ticks go to 3/,
  ],
  [
    'a distance whose sign its ticks leave out',
    gannet,
    'next + extend(target, 16)',
    'next + target',
    'relative-unsigned',
    /for -1 they go to 513, not to 1\. Write extend\(target, 16\)\.$/,
  ],
  ['a format with a piece too much', gannet, 'place 9 from next', 'place 9 from next, more 2', 'fields-do-not-add-up', /18 bits together/],
  ['a word behind a field that means nothing', gannet, 'value 6 signed', 'value 6 sined', 'bad-field-word', /“sined” means nothing/],
  ['a scale that drops no zeros', gannet, 'value 6 signed', 'value 6 signed scale 3', 'bad-scale', /it is 2, 4 and so on/],
  ['an array that is not there', gannet, 'opcode 4, d 3 register R, a', 'opcode 4, d 3 register Q, a', 'no-such-part', /no array “Q”/],
  [
    'two forms that are read alike',
    gannet,
    "'JUMP [{a}]'",
    "'JUMP [{a}]'\n        code: single opcode=15 detail=1\n        execute: halt\n      - write: 'JUMP  [ {a} ]'",
    'forms-alike',
    /cannot be told from/,
  ],
  ['encodings of two lengths that overlap', dunlin, 'long opcode=5', 'long opcode=1', 'encodings-overlap', /0x10 means two things/],
  ['a short form that loops', gannet, "for: 'ADD {to}, {from}, R0'", "for: 'MOVE {to}, {from}'", 'short-form-loops', /stands for itself/],
  [
    'a short form for nothing known',
    gannet,
    "for: 'ADD {to}, {from}, R0'",
    "for: 'ADDD {to}, {from}, R0'",
    'short-form-unknown',
    /Did you mean ADD/,
  ],
  [
    'a system program that does not assemble',
    gannet,
    'finish  HALT',
    'finish  HALTT',
    'system-problem',
    /line 5: This machine has no operation/,
  ],
  ['a system program that leaves its cells', gannet, 'to: 0xE1FF', 'to: 0xE150', 'system-leaves-cells', /outside its own 57600 to 57680/],
  [
    'a vector entry without a routine',
    gannet,
    '.cells sayNumber, sayText',
    '.cells sayNumber, keep1',
    'vector-without-routine',
    /Entry 1 of the vector table/,
  ],
  [
    'an instruction register too short',
    dunlin,
    'role: instruction, bits: 16',
    'role: instruction, bits: 8',
    'instruction-too-long',
    /2 cells/,
  ],
  [
    'an instruction register that splits a cell',
    dunlin,
    'role: instruction, bits: 16',
    'role: instruction, bits: 12',
    'instruction-register-width',
    /whole cells of 8 bits/,
  ],
])('%s is an error with a reason', (_name, base, from, to, code, words) => {
  const text = base.replace(from, to);
  expect(text).not.toBe(base);
  const { machine, problems } = readWholeMachine(text);
  const problem = problems.find((each) => each.code === code);
  expect(problem?.sentence ?? JSON.stringify(problems.slice(0, 2))).toMatch(words);
  expect(machine).toBeUndefined();
});

test.each([
  ['wrong-unit', smallMachine({ registers: 'D: {digits: 4}' })],
  ['value-cut', smallMachine({ registers: 'W: {bits: 16}', ticks: { X: 'A <- W' } })],
  ['unknown-phase', smallMachine().replace('decode: {phase: Decode}', 'decode: {phase: Decide}')],
  ['no-such-part', smallMachine({ parts: 'stacks:\n  S: {pointer: AA, space: M, from: 1, to: 10}' })],
])('the mend of “%s” puts it right', (code, text) => {
  const problem = problemsOf(text).find((each) => each.code === code)!;
  const mended = problem
    .mend!.edits.toReversed()
    .reduce((now, { span, text: put }) => now.slice(0, span.start) + put + now.slice(span.end), text);
  expect(problemsOf(mended).filter((each) => each.code === code)).toEqual([]);
});

test('a field that the encoding fixes has its value in ticks, unless something else of the machine bears its name', () => {
  const run = (registers: string): number => {
    const machine = machineFrom(smallMachine({ registers, ticks: { X: 'A <- opcode + 1' } }));
    const runner = new Runner(machine, assemble(machine, 'X\nHALT').program!);
    while (!runner.tick());
    return runner.state.registers[machine.registers.findIndex((each) => each.name === 'A')]!;
  };
  expect(run('')).toBe(17);
  expect(run('opcode: {role: general, start: 4}')).toBe(5);
});

test('a machine that is based on another takes all but what it changes', () => {
  const late = `machine: Late Curlew
based on: Curlew
cycle:
  first:
    ticks: |
      MAR <- PC
      IR.op <- M[MAR]
  more:
    ticks: |
      MAR <- MAR + 1
      IR.low <- M[MAR]
  finish:
    phase: Execute
    ticks: PC <- next
instructions:
  PASS: removed
`.replace('Late Curlew', 'LateCurlew');
  const base = (name: string): string | undefined => (name === 'Curlew' ? curlewText : undefined);
  const { machine, problems } = readWholeMachine(late, { base });
  expect(problems).toEqual([]);
  expect(machine!.forms).toHaveLength(machineFrom(curlewText).forms.length - 1);
  const { program } = assemble(machine!, 'LOAD #3\nSTORE 0x80\nHALT');
  const runner = new Runner(machine!, program!);
  runner.run(100, { first: true });
  expect(runner.state.spaces[0]![0x80]).toBe(3);
  expect(readWholeMachine(late).problems[0]).toMatchObject({ code: 'no-base', line: 2 });
  const circle = readWholeMachine('machine: A\nbased on: A', { base: () => 'machine: A\nbased on: A' });
  expect(circle.problems.some((each) => /in a circle/.test(each.sentence))).toBe(true);
});

test('a mistake in the base is told where the base is named, one in the change at its own line', () => {
  const base = (): string => curlewText.replace('ACC <- ACC | MDR', 'ACX <- ACC | MDR');
  expect(readWholeMachine('machine: B\nbased on: Curlew\n', { base }).problems[0]).toMatchObject({ line: 2, code: 'unknown-name' });
  const change =
    'machine: B\nbased on: Curlew\ninstructions:\n  OR:\n    forms:\n      - write: OR {address}\n        code: direct opcode=0x37\n        execute: |\n          ACX <- ACC';
  expect(readWholeMachine(change, { base: () => curlewText }).problems[0]).toMatchObject({ line: 9, code: 'unknown-name' });
});

test('the machine’s own words replace the plain sentence, with values in their places', () => {
  const words = `words:
  notes: Read it aloud.
  phases: {Fetch: 'The next cell, {PC.old}, is fetched.'}
  instructions: {PUT: 'A becomes {A}, it was {A.old}.'}
  ticks: {X 1: 'First {B} goes to A at {here}.'}`;
  const machine = machineFrom(smallMachine({ parts: words, ticks: { X: 'A <- B\nB <- 0' } }));
  const { program } = assemble(machine, 'PUT 9\nX\nHALT');
  const runner = new Runner(machine, program!);
  const told: string[] = [];
  while (!runner.tick())
    told.push(
      narrate({ machine, program, state: runner.state }, runner.timeline.last!, 'done')
        .map((each) => each.text)
        .join(''),
    );
  expect(told.slice(0, 4)).toEqual([
    'The next cell, 00, is fetched.',
    expect.stringMatching(/means PUT/),
    'The next cell, 01, is fetched.',
    'A becomes 09, it was 00.',
  ]);
  expect(told[6]).toBe('First 00 goes to A at 02.');
  expect(machine.words.notes).toBe('Read it aloud.');
});

test.each([
  ["instructions: {PUT: 'now {AA}'}", /\{AA\} names nothing/],
  ["instructions: {PUTT: 'now'}", /Did you mean PUT/],
  ["ticks: {PUT 7: 'now'}", /no tick “PUT 7”/],
  ["phases: {Fetched: 'now'}", /no phase “Fetched”/],
])('words that fit nothing are refused: %s', (words, sentence) => {
  expect(
    problemsOf(smallMachine({ parts: `words:\n  ${words}` }))
      .map((each) => each.sentence)
      .join(' '),
  ).toMatch(sentence);
});

const refusalOf = (result: object): Refusal | undefined => ('refused' in result ? (result.refused as Refusal) : undefined);

test('encode and decode say why they refuse', () => {
  const machine = machineNamed('Turnstone');
  const branch = machine.forms.find((each) => each.mnemonic === 'JUMPEQ')!;
  const at = 1000;
  expect(refusalOf(encode(machine, branch, new Map([['target', at + 2]]), at))).toMatchObject({ reason: 'not a multiple', of: 4 });
  const far = machineNamed('Dunlin');
  const short = far.forms.find((each) => each.mnemonic === 'JUMPZ')!;
  expect(refusalOf(encode(far, short, new Map([['address', 0x300]]), 0x210))).toMatchObject({
    reason: 'other page',
    least: 0x200,
    greatest: 0x2ff,
  });
  expect(refusalOf(decode(machine, (offset) => [1, 0, 0, 1][offset], 0))).toMatchObject({ reason: 'undefined later digits' });
  expect(refusalOf(decode(machine, () => undefined, 0))).toMatchObject({ reason: 'past the end' });
});

test('cells that only later digits tell apart are decoded, and undefined digits stop before anything is executed', () => {
  const machine = machineFrom(
    smallMachine({})
      .replace('  both:  opcode 8, value 8 either', '  both:  opcode 8, value 8 either\n  twin: opcode 8, more 8')
      .replace(
        'instructions:\n',
        'instructions:\n  ONE: {forms: [{write: ONE, code: twin opcode=9 more=1, execute: A <- 1}]}\n  TWO: {forms: [{write: TWO, code: twin opcode=9 more=2, execute: A <- 2}]}\n',
      ),
  );
  const runs = (source: string) => {
    const runner = new Runner(machine, assemble(machine, source).program!);
    return { stop: runner.run(100, { first: true }), a: runner.state.registers[3] };
  };
  expect(runs('ONE\nTWO\nHALT')).toEqual({ stop: { kind: 'halted' }, a: 2 });
  expect(runs('ONE\n.cells 9, 3\nHALT')).toMatchObject({
    stop: { kind: 'fault', fault: { kind: 'undefined opcode', cell: 9, address: 2 } },
    a: 1,
  });
});

const formsIn = (tree: DecodeTree): number[] =>
  tree.kind === 'form' ? [tree.form] : tree.kind === 'look' ? tree.branches.flatMap((each) => formsIn(each.tree)) : [];

test.each(demoMachines)('the decode tree of $name leads to every form once; its card and its map name them all', ({ text }) => {
  const machine = machineFrom(text);
  expect(formsIn(decodeTree(machine)).sort((a, b) => a - b)).toEqual(machine.forms.map((each) => each.index));
  const card = cardAsMarkdown(machine);
  for (const row of cardOf(machine)) {
    expect(card).toContain(`\`${row.written.replaceAll('|', '\\|')}\``);
    expect(row.sentence).toMatch(new RegExp(`takes (one cell|[2-4] cells) and ${row.ticks} ticks`));
  }
  const { used, size, free } = opcodeMap(machine);
  expect(used + free).toBe(size);
  for (const { mnemonic } of machine.forms) expect(mapAsText(machine)).toContain(mnemonic);
});

test('the document’s JSON Schema names every part that the demo machines use', () => {
  const schema = documentSchema() as { properties: Record<string, unknown>; required: string[]; additionalProperties: boolean };
  const used = new Set(demoMachines.flatMap(({ text }) => [...text.matchAll(/^([a-z][a-z ]*):/gm)].map((each) => each[1]!)));
  expect([...used].filter((each) => !(each in schema.properties))).toEqual([]);
  expect(schema.additionalProperties).toBe(false);
  expect(schema.required).toEqual(expect.arrayContaining(['machine', 'word', 'spaces', 'registers', 'formats', 'cycle', 'instructions']));
});

test('reserved cells, other spaces and register names are kept from programs, in sentences', () => {
  const machine = machineNamed('Gannet');
  const sentences = (source: string): string =>
    assemble(machine, source)
      .problems.map((each) => each.sentence)
      .join(' ');
  expect(sentences('.origin 0xE110\nHALT')).toMatch(/belong to the system program/);
  expect(sentences('R3 HALT')).toMatch(/is a register of this machine/);
  expect(sentences('ADD R1, R2, R9')).toMatch(/There is no “R9” here. Did you mean R0/);
  expect(sentences('JUMP far\n.origin 0x2000\nfar HALT')).toMatch(/does not fit the field target of JUMP/);
  expect(sentences('CALL far\n.origin 0x2000\nfar HALT')).toMatch(/on another page: .* reaches 0 to 4095/);
  expect(sentences('.space DATA\nHALT')).toMatch(/no memory “DATA”. It has: M/);
  const split = machineNamed('Dunlin');
  expect(assemble(split, 'NOP\n.space DATA, 4\n.cells 1').problems[0]!.sentence).toMatch(/a bank of DATA: 0 to 3/);
  expect(
    assemble(split, '.space DATA\nNOP')
      .problems.map((each) => each.sentence)
      .join(' '),
  ).toMatch(/Instructions lie in PROG/);
});

test('forms that differ only in range start at the shortest and only grow', () => {
  const text = smallMachine({})
    .replace('formats:', 'formats:\n  near: opcode 8, target 8 from next\n  far: opcode 8, target 16')
    .replace('  I2: {role: instruction}', '  I2: {role: instruction}\n  I3: {role: instruction}')
    .replace(
      'instructions:\n',
      "instructions:\n  SKIP: {forms: [{write: 'SKIP {target}', code: near opcode=20, execute: 'PC <- next + target'}, {write: 'SKIP {target}', code: far opcode=21, execute: 'PC <- low(target)'}]}\n",
    )
    .replace('cells: 256', 'cells: 1024')
    .replace('PC: {role: program counter', 'PC: {role: program counter, bits: 16');
  const machine = machineFrom(text.replace('PC <- next + target', 'PC <- next + extend(target, 16)'));
  const sizes = (source: string): number[] =>
    assemble(machine, source)
      .program!.rows.filter((each) => each.kind === 'code')
      .map((each) => each.words.length);
  expect(sizes('SKIP a\na HALT')).toEqual([2, 1]);
  expect(sizes('SKIP a\n.room 200\na HALT')).toEqual([3, 1]);
  // The first grows because the second does.
  expect(sizes('SKIP a\n.room 123\nSKIP b\na HALT\n.room 300\nb HALT')).toEqual([2, 3, 1, 1]);
  expect(sizes('SKIP a\n.room 125\nSKIP b\na HALT\n.room 300\nb HALT')).toEqual([3, 3, 1, 1]);
});

test('cells of different lengths that begin alike are refused, for decode could not tell how much to fetch', () => {
  const text = smallMachine()
    .replace('  I2: {role: instruction}', '  I2: {role: instruction}\n  I3: {role: instruction}')
    .replace('formats:', 'formats:\n  two: opcode 8, more 8\n  three: opcode 8, more 8, rest 8')
    .replace(
      'instructions:\n',
      "instructions:\n  ONE: {forms: [{write: ONE, code: two opcode=9 more=1, execute: halt}]}\n  TWO: {forms: [{write: 'TWO {rest}', code: three opcode=9 more=2, execute: A <- rest}]}\n",
    );
  expect(problemsOf(text).find((each) => each.grade === 'error')).toMatchObject({
    code: 'lengths-differ',
    sentence: expect.stringMatching(/0x09, but have different lengths/),
  });
});

test('the machine that a new document begins with has no problem, and runs', () => {
  const { machine, problems } = readWholeMachine(starter);
  expect(problems).toEqual([]);
  const runner = new Runner(machine!, assemble(machine!, 'LOAD 40\nADD two\nSTORE 0x80\nHALT\ntwo .cells 2').program!);
  expect(runner.run(100, { first: true })).toEqual({ kind: 'halted' });
  expect(runner.state.spaces[0]![0x80]).toBe(42);
});

test.each<[string, string, string, RegExp]>([
  ['a name with a blank', '  ACC: {', '  "A CC": {', /letters, digits and _ only/],
  ['a name of markup', '  ACC: {', '  <b>: {', /letters, digits and _ only/],
  ['a name with a right-to-left mark', '  ACC: {', '  AC\u202eC: {', /letters, digits and _ only/],
  ['a memory of no cells', 'cells: 256', 'cells: 0', /a whole number from 1 to 65536/],
  ['a memory of less than none', 'cells: 256', 'cells: -1', /a whole number from 1 to 65536/],
  ['a memory that is too large', 'cells: 256', 'cells: 65537', /a whole number from 1 to 65536/],
  ['a width of 0', 'bits: 16}', 'bits: 0}', /a whole number from 1 to 32/],
  ['a width of a number of another kind', 'bits: 16}', 'bits: 1e3}', /a whole number from 1 to 32/],
  ['a field of no width', 'alone: opcode 8', 'alone: opcode 0, more 8', /no list of fields/],
  ['too many banks', 'cells: 256}', 'cells: 65536, banks: 256}', /at most 262144/],
])('%s is refused in a sentence', (_name, from, to, words) => {
  const text = starter.replace(from, to);
  expect(text).not.toBe(starter);
  const { machine, problems } = readWholeMachine(text);
  expect(machine).toBeUndefined();
  expect(problems.map((each) => each.sentence).join(' ')).toMatch(words);
});

test('anchors multiplied a million times over are refused before they unfold', () => {
  const bomb = [
    'a: &a [x, x, x, x, x, x, x, x, x]',
    ...'bcdefgh'.split('').map((each, at) => `${each}: &${each} [${`*${'abcdefg'[at]!}, `.repeat(9)}x]`),
  ].join('\n');
  const { machine, problems } = readWholeMachine(bomb);
  expect(machine).toBeUndefined();
  expect(problems[0]!.code).toBe('yaml-alias');
  expect(problems.length).toBeLessThan(200);
});

test('a text whose first line is its deepest is told as such', () => {
  const text = starter.replace('          MAR <- address\n          M[MAR] <- ACC', '            MAR <- address\n          M[MAR] <- ACC');
  expect(text).not.toBe(starter);
  expect(problemsOf(text)[0]!.sentence).toMatch(/as deep as its first line, and this line stands further left/);
  expect(problemsOf(text)[0]!.line).toBe(lineOf(text, '          M[MAR] <- ACC'));
});

const PAIRED = (pairs: string): string =>
  smallMachine({ registers: `C: {role: general}\nD: {role: general}\n${pairs}`, ticks: { TRY: 'A <- B' } });

test('a pair may be of pairs that come later, and the order is that of the document', () => {
  const { composites } = machineFrom(PAIRED('WIDE: {pair: AB CD}\nAB: {pair: A B}\nCD: {pair: C D}'));
  expect(composites.map((each) => [each.name, each.width])).toEqual([
    ['WIDE', 32],
    ['AB', 16],
    ['CD', 16],
  ]);
});

test.each([
  ['itself', 'X: {pair: X A}', ['X']],
  ['a circle', 'X: {pair: Y A}\nY: {pair: X B}', ['X', 'Y']],
  ['a circle that a third one waits for', 'X: {pair: Y A}\nY: {pair: X B}\nZ: {pair: X C}', ['X', 'Y']],
])('a pair of %s has a sentence of its own', (_, pairs, names) => {
  const { problems } = readWholeMachine(PAIRED(pairs));
  expect(
    problems.filter((each) => each.code === 'pair-of-itself').map((each) => /“(\w)” would be made of itself/.exec(each.sentence)![1]),
  ).toEqual(names);
});

test('a formula with b names the flag and the tick that has no b', () => {
  const { problems } = readWholeMachine(
    smallMachine({ parts: 'flags: {Q: {formula: a = b}}', ticks: { X: 'A <- A + B ; flags Q', Y: 'A <- ~A ; flags Q' } }),
  );
  expect(problems.map((each) => each.sentence)).toEqual([
    expect.stringMatching(/^The formula of flag Q needs b, but the operation of this tick has one operand/),
  ]);
  expect(problems[0]!.line).toBe(lineOf(smallMachine({ ticks: { X: 'A <- A + B', Y: 'A <- ~A' } }), 'A <- ~A'));
});

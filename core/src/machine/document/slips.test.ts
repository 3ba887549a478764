import { parse } from 'yaml';
import { readWholeMachine } from '../../assembler/machines';
import { starter } from '../../testing/starter';

type Change = (text: string) => string;
const put =
  (from: string, to: string): Change =>
  (text) => {
    expect(text).toContain(from);
    return text.replace(from, to);
  };
/** What is changed in the starter, and all that is told of it: line, column and sentence. */
const MISTAKES: readonly [what: string, change: Change, told: string][] = [
  [
    'a second document',
    (t) => `${t}---\n${t}`,
    '84:1 A second document begins here, and a machine is one document. Take out this line and all behind it.',
  ],
  [
    'pasted twice',
    (t) => t + t,
    '85:1 The document begins a second time here: it stands in the text twice, first from line 2 on. Take out this line and all behind it.',
  ],
  ['tab as indent', put('  M: {title', '\tM: {title'), '7:2 This line begins with a tab; blanks are needed.'],
  [
    'tab in ticks',
    put('          ACC <- value ; flags Z', '\t  ACC <- value ; flags Z'),
    '50:4 This line begins with a tab; blanks are needed.',
  ],

  ['empty', () => '', '1:1 The document is empty. Begin with “machine: NAME”, or with a ready machine.'],
  ['only blank', () => '\n\n  \n', '1:1 The document is empty. Begin with “machine: NAME”, or with a ready machine.'],
  ['only remark', () => '# later\n', '1:1 The document is empty. Begin with “machine: NAME”, or with a ready machine.'],
  [
    'missing }',
    put('  M: {title: memory, cells: 256}', '  M: {title: memory, cells: 256'),
    '7:3 A closing “}” is missing at the end of this line.',
  ],
  [
    'missing } in the middle of registers',
    put('  MAR: {title: memory address register, role: memory address}', '  MAR: {title: memory address register, role: memory address'),
    '13:3 A closing “}” is missing at the end of this line.',
  ],
  ['missing colon', put('  LOAD:\n', '  LOAD\n'), '43:3 A colon is missing behind “LOAD”.'],
  ['missing colon top', put('spaces:\n', 'spaces\n'), '6:1 A colon is missing behind “spaces”.'],
  ['missing colon in line', put('  Z: {title: zero, rule: zero}', '  Z {title: zero, rule: zero}'), '17:3 A colon is missing behind “Z”.'],
  [
    'forms too shallow',
    put(
      '    forms:\n      - write: LOAD {value}\n        code: value opcode=0x10\n        execute: |\n          ACC <- value ; flags Z\n',
      '  forms:\n    - write: LOAD {value}\n      code: value opcode=0x10\n      execute: |\n        ACC <- value ; flags Z\n',
    ),
    '46:3 “forms” stands as far left as the names of instructions; it is a part of LOAD and belongs two blanks deeper.',
  ],
  [
    'forms too deep',
    put('    title: bring a number into the accumulator', '      title: bring a number into the accumulator'),
    '44:7 This line stands further right than its neighbours.',
  ],
  ['undeclared flag', put('ACC <- value ; flags Z', 'ACC <- value ; flags C'), '50:32 There is no flag “C”. There is: Z.'],
  ['undeclared flag Z N', put('ACC <- value ; flags Z', 'ACC <- value ; flags Z N'), '50:34 There is no flag “N”. There is: Z.'],
  ['word: 8', put('word: {bits: 8}', 'word: 8'), '4:7 Say what 8 counts: “word: {bits: 8}”, or “word: {digits: 8}” of a decimal machine.'],
  [
    'encoding error',
    put('code: value opcode=0x10', 'code: value opcode=0x1000'),
    '48:15 4096 does not fit into opcode, which has 8 bits (0 to 255).',
  ],
  ['unknown format', put('code: value opcode=0x10', 'code: valeu opcode=0x10'), '48:15 There is no format “valeu”. Did you mean value?'],
  ['all flag ticks broken', put('ACC <- value ; flags Z', 'ACX <- value ; flags Z'), '50:11 This machine has no “ACX”. Did you mean ACC?'],
  [
    'wide product',
    put('ACC <- value ; flags Z', 'ACC <- low(ACC * ACC * ACC * ACC * ACC * ACC * ACC * ACC * Z)'),
    '50:22 This value would have 65 bits; at most 64 are possible.',
  ],
  [
    '64-bit pair',
    put('ACC <- value ; flags Z', 'ACC <- low(rotl(join(IR, IR, IR, IR), 1))'),
    '50:22 rotl takes values of at most 32 bits; this one has 64.',
  ],
  ['unknown register', put('MAR <- address\n', 'MRA <- address\n'), '58:11 This machine has no “MRA”. Did you mean MAR?'],
  [
    'refused name',
    put('  LOAD:\n', '  LOAD-IT:\n'),
    '43:3 instructions, LOAD-IT: “LOAD-IT” cannot be a name here: letters, digits and _ only, starting with a letter.',
  ],
  [
    'blank in name',
    put('  LOAD:\n', '  LOAD IT:\n'),
    '43:3 instructions, LOAD IT: “LOAD IT” cannot be a name here: letters, digits and _ only, starting with a letter.',
  ],
  [
    'digit first',
    put('  ACC: {title: accumulator', '  2ACC: {title: accumulator'),
    '14:3 registers, 2ACC: “2ACC” cannot be a name here: letters, digits and _ only, starting with a letter.',
  ],
  [
    'missing quote',
    put('title: a machine to begin with', "title: 'a machine to begin with"),
    "3:1 A closing ' is missing at the end of this line.",
  ],
  ['commented key', put('  LOAD:\n', '  #LOAD:\n'), '43:3 This remark hides the name “LOAD”, and what stands below belongs to it.'],
  [
    'commented key in the middle',
    put('  STORE:\n', '  #STORE:\n'),
    '51:3 This remark hides the name “STORE”, and what stands below belongs to it.',
  ],
  ['no PC', put(', role: program counter', ''), '10:1 No register has the role “program counter”; every machine needs one.'],
  ['duplicate key', put('  STORE:\n', '  LOAD:\n'), '51:3 This is not YAML: this name stands here twice; each may stand once.'],
  [
    'same opcode',
    put('opcode=0x11', 'opcode=0x10'),
    '56:15 0x10 means two things: LOAD {value} and STORE {address} share it. Give one of them another opcode.',
  ],
  [
    'no opcode',
    put('code: value opcode=0x10', 'code: value'),
    '48:15 Nothing in the first cell is fixed, so decode cannot tell this instruction. Give a field of value a value.',
  ],
  [
    'missing field in write',
    put('- write: LOAD {value}', '- write: LOAD'),
    '47:16 The field value is neither fixed nor written: “LOAD” has no {value}.',
  ],
  [
    'open brace',
    put('- write: LOAD {value}', '- write: LOAD {value'),
    '47:16 “LOAD {value” does not start with the mnemonic LOAD, or a brace is open.',
  ],
  [
    'unquoted hash',
    put('- write: LOAD {value}', '- write: LOAD #{value}'),
    '47:16 YAML takes “#{value}” as a remark, so it is not part of the value. Put the value into quotes.',
  ],
  ['a key misspelt', put('        execute: |', '        exceute: |'), '49:9 “exceute” means nothing here. Did you mean execute?'],
  [
    'a key of another part',
    put('word: {bits: 8}', 'word: {bits: 8, cells: 4}'),
    '4:17 “cells” means nothing here. What can stand here: bits, digits, base.',
  ],
  ['a top key misspelt', put('formats:\n', 'fromats:\n'), '20:1 “fromats” means nothing here. Did you mean formats?'],
  [
    'a phase misspelt',
    put('decode: {phase: Decode}', 'decode: {phase: Decod}'),
    '33:19 “Decod” is not in the list of phases: Fetch, Decode, Execute.',
  ],
  ['no arrow', put('ACC <- value ; flags Z', 'ACC = value ; flags Z'), '50:15 “=” is written “<-” here.'],
  ['arrow one sign', put('ACC <- value ; flags Z', 'ACC < value'), '50:15 Here the arrow “<-” is expected, but “<” stands there.'],
  [
    'decimal and bits',
    put('word: {bits: 8}', 'word: {bits: 8, digits: 3}'),
    '4:25 A word has bits, or digits on a decimal machine, and not both.',
  ],
  ['cells as text', put('cells: 256', 'cells: many'), '7:29 spaces, M, cells: a whole number from 1 to 65536 is expected here.'],
  [
    'fields not adding up',
    put('value: opcode 8, value 8 either', 'value: opcode 8, value 7 either'),
    '22:10 The fields of value have 15 bits together; whole cells of 8 bits, one to four, are needed.',
  ],

  [
    'less indented tick',
    put('      MAR <- PC\n      IR.cell', '    MAR <- PC\n      IR.cell'),
    '31:5 This line stands too far left to belong to the text under “|” of line 30.',
  ],
  [
    'trap number',
    put('instructions:\n', 'traps:\n  one: {name: a, service: end}\ninstructions:\n'),
    '43:3 traps, one: “one” is no number of a trap.',
  ],

  [
    'based on nothing',
    put('machine: Starter', 'machine: Starter\nbased on: Tern'),
    '3:11 No machine “Tern” is known here, so nothing can be based on it.',
  ],
  [
    'windows line ends + tab',
    (t) => t.replaceAll('\n', '\r\n').replace('  M: {', '\tM: {'),
    '7:2 This line begins with a tab; blanks are needed.',
  ],
  [
    'html',
    () => '<!doctype html><html></html>',
    '1:1 This is no machine document: it has no names with colons, as “machine: Tern” and “word: {bits: 8}”.',
  ],
  ['json array', () => '[1, 2]', '1:1 This is no machine document: it has no names with colons, as “machine: Tern” and “word: {bits: 8}”.'],
  ['a word', () => 'hello', '1:1 This is no machine document: it has no names with colons, as “machine: Tern” and “word: {bits: 8}”.'],
];

const tellingOf = (text: string): string[] =>
  readWholeMachine(text).problems.map(
    ({ line, column, grade, sentence }) => `${line}:${column} ${grade === 'error' ? '' : `${grade}: `}${sentence}`,
  );

test(`there are ${MISTAKES.length} mistakes, and none twice`, () => {
  expect(MISTAKES.length).toBeGreaterThanOrEqual(40);
  expect(new Set(MISTAKES.map(([what]) => what)).size).toBe(MISTAKES.length);
});

test.each(MISTAKES)('%s: one error, at its place, with its sentence', (_what, change, told) => {
  expect(tellingOf(change(starter))).toEqual([told]);
});

test.each(MISTAKES.filter(([, change]) => readWholeMachine(change(starter)).problems[0]?.mend))(
  '%s: the mend takes the mistake away, and brings no other',
  (_what, change) => {
    const text = change(starter);
    const { edits } = readWholeMachine(text).problems[0]!.mend!;
    let mended = text;
    for (const { span, text: put } of [...edits].sort((a, b) => b.span.start - a.span.start))
      mended = mended.slice(0, span.start) + put + mended.slice(span.end);
    expect(readWholeMachine(mended).problems.filter((each) => each.grade === 'error')).toEqual([]);
  },
);

test('a name for several registers, where one is needed, is told as such and not as misspelt', () => {
  const pair = starter
    .replace('  ACC: {', '  HI: {}\n  LO: {}\n  P: {pair: HI LO}\n  ACC: {')
    .replace('instructions:\n', 'stacks:\n  S: {pointer: P, from: 1, to: 2}\ninstructions:\n');
  expect(tellingOf(pair)).toEqual([expect.stringMatching(/^46:\d+ A single register is needed here; P is a pair\.$/)]);
});

test('an encoding error brings no remarks on what would then be unused', () => {
  const text = starter.replace('code: alone opcode=0x01', 'code: alone opcode=0x100');
  expect(tellingOf(text)).toEqual(['82:15 256 does not fit into opcode, which has 8 bits (0 to 255).']);
});

test('a document may begin with --- and with a line for YAML, be written as JSON, and hold --- in its texts', () => {
  const data = parse(starter, { schema: 'failsafe' }) as object;
  for (const text of [
    `---\n${starter}`,
    `%YAML 1.2\n---\n${starter}`,
    JSON.stringify(data),
    `${starter}words:\n  notes: |\n    before\n    ---\n    machine: behind\n`,
  ])
    expect(tellingOf(text).filter((each) => !/^\d+:\d+ remark/.test(each))).toEqual([]);
});

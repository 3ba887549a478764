/** Machines nobody has written: widths, cycles, opcodes and instructions drawn by chance, as documents. */
import fc from 'fast-check';

export interface Drawn {
  readonly text: string;
  readonly cell: number;
  readonly address: number;
  readonly late: boolean;
  readonly noBorrow: boolean;
  readonly operations: readonly Drawing[];
}

export interface Drawing {
  readonly mnemonic: string;
  readonly opcode: number;
  readonly operator: '+' | '-' | '&' | '|' | '^';
  readonly from: 'value' | 'cell';
}

const OPERATORS = ['+', '-', '&', '|', '^'] as const;
const FLAGS = { '+': 'Z N C V', '-': 'Z N C V', '&': 'Z N', '|': 'Z N', '^': 'Z N' } as const;

const execute = ({ operator, from }: Drawing): string[] =>
  from === 'value'
    ? [`ACC <- ACC ${operator} value ; flags ${FLAGS[operator]}`]
    : ['MAR <- address', 'MDR <- M[MAR]', `ACC <- ACC ${operator} MDR ; flags ${FLAGS[operator]}`];

function instruction(drawing: Drawing): string {
  const hole = drawing.from === 'value' ? '{value}' : '@{address}';
  const format = drawing.from === 'value' ? 'immediate' : 'direct';
  return form(drawing.mnemonic, `${drawing.mnemonic} ${hole}`, `${format} opcode=${drawing.opcode}`, execute(drawing));
}

/** YAML of an instruction with one form. */
export const form = (mnemonic: string, write: string, code: string, ticks: readonly string[]): string =>
  [
    `  ${mnemonic}:`,
    '    forms:',
    `      - write: '${write}'`,
    `        code: ${code}`,
    '        execute: |',
    ...ticks.map((each) => `          ${each}`),
  ].join('\n');

/** Spare bits of a direct instruction are written too, so that every bit of an encoding is somebody's. */
function documentOf({ cell, address, late, noBorrow, operations, base }: Omit<Drawn, 'text'> & { readonly base: number }): string {
  const spare = cell - address;
  const direct = spare > 0 ? `opcode ${cell}, spare ${spare}, address ${address}` : `opcode ${cell}, address ${address}`;
  const place = (mnemonic: string): string => (spare > 0 ? `${mnemonic} {address} {spare}` : `${mnemonic} {address}`);
  const fetch = (part: string, from: string): string =>
    [`    ticks: |`, `      MAR <- ${from}`, `      IR.${part} <- M[MAR]${late ? '' : ', PC <- PC + 1'}`].join('\n');
  return [
    'machine: Drawn',
    `word: {bits: ${cell}}`,
    'spaces:',
    `  M: {cells: ${2 ** address}, bits: ${cell}}`,
    'registers:',
    `  PC: {role: program counter, bits: ${address}}`,
    `  IR: {role: instruction, bits: ${2 * cell}, parts: {op: '${2 * cell - 1}:${cell}', low: '${cell - 1}:0'}}`,
    `  MAR: {role: memory address, bits: ${address}}`,
    `  MDR: {role: memory data, bits: ${cell}}`,
    `  ACC: {role: accumulator, bits: ${cell}}`,
    'flags:',
    '  Z: {rule: zero}',
    '  N: {rule: negative}',
    `  C: {rule: carry, subtract: ${noBorrow ? 'no borrow' : 'borrow'}}`,
    '  V: {rule: overflow}',
    'formats:',
    `  alone: opcode ${cell}`,
    `  immediate: opcode ${cell}, value ${cell} either`,
    `  direct: ${direct}`,
    'cycle:',
    '  phases: [Fetch, Decode, Execute]',
    '  first:',
    '    phase: Fetch',
    fetch('op', 'PC'),
    '  decode: {phase: Decode}',
    '  more:',
    '    phase: Fetch',
    fetch('low', late ? 'MAR + 1' : 'PC'),
    '  execute: {phase: Execute}',
    ...(late ? ['  finish: {phase: Execute, ticks: PC <- next}'] : []),
    'instructions:',
    form('STOP', 'STOP', `alone opcode=${base}`, ['halt']),
    form('PUT', place('PUT'), `direct opcode=${base + 1}`, ['MAR <- address, MDR <- ACC', 'M[MAR] <- MDR']),
    form('GO', place('GO'), `direct opcode=${base + 2}`, ['if Z = 0: PC <- address']),
    form('UP', 'UP', `alone opcode=${base + 3}`, ['ACC <- ACC << 1 ; flags Z N C V']),
    ...operations.map((each) => instruction(each).replace('@{address}', spare > 0 ? '@{address} {spare}' : '@{address}')),
  ].join('\n');
}

/** Cells of 5 to 16 bits, up to 256 of them, up to six operations of its own. */
export const drawnMachine: fc.Arbitrary<Drawn> = fc
  .record({
    cell: fc.integer({ min: 5, max: 16 }),
    shorter: fc.integer({ min: 0, max: 2 }),
    late: fc.boolean(),
    noBorrow: fc.boolean(),
    base: fc.integer({ min: 0, max: 8 }),
    picks: fc.array(fc.record({ operator: fc.constantFrom(...OPERATORS), from: fc.constantFrom('value' as const, 'cell' as const) }), {
      minLength: 1,
      maxLength: 6,
    }),
  })
  .map(({ cell, shorter, picks, base, ...rest }) => {
    const operations = picks.map((each, at): Drawing => ({ ...each, mnemonic: `OP${at}`, opcode: base + 4 + at }));
    const shape = { ...rest, cell, address: Math.min(8, cell - shorter), operations };
    return { ...shape, text: documentOf({ ...shape, base }) };
  });

export interface GuardedParts {
  /** Ticks of each guarded instruction. */
  readonly guarded: readonly (readonly string[])[];
  /** What ends every instruction, in one tick. */
  readonly finish: readonly string[];
  /** One tick each. */
  readonly plain: readonly string[];
}

/** Guards, a finish that writes registers, ports and devices, a status word written together with flags, a keyboard held ready. */
export const guardedMachine = ({ guarded, finish, plain }: GuardedParts): string =>
  [
    'machine: Guarded',
    'word: {bits: 8}',
    'spaces: {M: {cells: 256}}',
    'registers:',
    '  PC: {role: program counter}',
    '  I1: {role: instruction}',
    '  I2: {role: instruction}',
    '  A: {role: accumulator}',
    '  T: {role: general}',
    '  SR: {bits: 8, packed: {7: Z, 3: C, 1: 1, 0: N}}',
    'flags: {Z: {rule: zero}, C: {rule: carry}, N: {rule: negative}}',
    'ports: {name: CLOCK, count: 2}',
    'devices:',
    "  lamps: {kind: lamps, data: 'CLOCK[0]'}",
    "  keys: {kind: keyboard, data: 'M[0xF0]', status: 'M[0xF1]', ready: 7, clears: no}",
    'formats:',
    '  alone: opcode 8',
    '  both: opcode 8, value 8 either',
    "  maybe: {fields: 'opcode 4, value 4', only if: Z = 1}",
    'cycle:',
    '  phases: [Fetch, Decode, Execute]',
    "  first: {phase: Fetch, ticks: 'I1.cell <- M[PC], PC <- PC + 1'}",
    '  decode: {phase: Decode}',
    "  more: {phase: Fetch, ticks: 'I1.cell <- M[PC], PC <- PC + 1'}",
    '  execute: {phase: Execute}',
    ...(finish.length > 0 ? [`  finish: {phase: Execute, ticks: '${finish.join(', ')}'}`] : []),
    'instructions:',
    form('STOP', 'STOP', 'alone opcode=1', ['halt']),
    form('PUT', 'PUT {value}', 'both opcode=2', ['A <- value']),
    form('GO', 'GO {value}', 'both opcode=3', ['PC <- value']),
    form('DEC', 'DEC', 'alone opcode=4', ['A <- A - 1 ; flags Z C N']),
    form('TAKE', 'TAKE', 'alone opcode=5', ['M[0xF1] <- A']),
    form('KEY', 'KEY', 'alone opcode=6', ['A <- M[0xF0]']),
    ...plain.map((tick, at) => form(`DO${at}`, `DO${at}`, `alone opcode=${16 + at}`, [tick])),
    ...guarded.map((ticks, at) => form(`MAY${at}`, `MAY${at} {value}`, `maybe opcode=${4 + at}`, ticks)),
  ].join('\n');

const GUARDED_TICKS = [
  'A <- A + value',
  'T <- A',
  'CLOCK[1] <- A',
  'A <- A ^ T ; flags Z N',
  'SR <- A ; flags Z',
  'M[value] <- A',
  'PC <- value',
];
const FINISHES = ['T <- T + 1', 'CLOCK[0] <- T', 'CLOCK[1] <- A'];
const PLAIN_TICKS = [
  'SR <- A ; flags Z',
  'SR <- A + T ; flags Z C N',
  'A <- SR',
  'if C = 1: SR <- T ; flags N',
  'A <- A << 1 ; flags Z C N',
  'T <- A',
];

export const drawnGuarded: fc.Arbitrary<string> = fc
  .record({
    guarded: fc.array(fc.array(fc.constantFrom(...GUARDED_TICKS), { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 3 }),
    finish: fc.subarray(FINISHES),
    plain: fc.array(fc.constantFrom(...PLAIN_TICKS), { minLength: 1, maxLength: 4 }),
  })
  .map(guardedMachine);

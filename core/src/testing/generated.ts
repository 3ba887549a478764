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

/** A small machine for tests that change one thing about it. */

export interface Small {
  /** Lines of further top-level parts: flags, devices, faults … */
  readonly parts?: string;
  /** Further registers, one a line. */
  readonly registers?: string;
  /** Ticks by mnemonic; each is an instruction of one cell, opcode by its place, from 16. */
  readonly ticks?: Readonly<Record<string, string>>;
  readonly word?: string;
  readonly space?: string;
  readonly pc?: string;
  /** With CALL address (5), which needs a register L. */
  readonly calls?: boolean;
}

const indented = (text: string, by: string): string =>
  text
    .split('\n')
    .filter((each) => each.trim())
    .map((each) => `${by}${each}`)
    .join('\n');

/** Instructions: HALT (1), PUT value (2, brings a value into A), GO address (3), and those given. */
export function smallMachine({
  parts = '',
  registers = '',
  ticks = {},
  word = 'bits: 8',
  space = 'cells: 256',
  pc = '',
  calls = false,
}: Small = {}): string {
  const own = Object.entries(ticks).map(
    ([mnemonic, text], at) =>
      `  ${mnemonic}:\n    forms:\n      - write: ${mnemonic}\n        code: alone opcode=${16 + at}\n        execute: |\n${indented(text, '          ')}`,
  );
  return `machine: Small
word: {${word}}
spaces:
  M: {${space}}
registers:
  PC: {role: program counter${pc}}
  I1: {role: instruction}
  I2: {role: instruction}
  A:  {role: accumulator}
  B:  {role: general}
${indented(registers, '  ')}
formats:
  alone: opcode ${word.startsWith('digits') ? 3 : 8}
  both:  opcode ${word.startsWith('digits') ? 3 : 8}, value ${word.startsWith('digits') ? 3 : 8} either
cycle:
  phases: [Fetch, Decode, Execute]
  first: {phase: Fetch, ticks: 'I1.cell <- M[PC], PC <- PC + 1'}
  decode: {phase: Decode}
  more: {phase: Fetch, ticks: 'I1.cell <- M[PC], PC <- PC + 1'}
  execute: {phase: Execute}
instructions:
  HALT: {forms: [{write: HALT, code: alone opcode=1, execute: halt}]}
  PUT: {forms: [{write: 'PUT {value}', code: both opcode=2, execute: A <- value}]}
  GO: {forms: [{write: 'GO {value}', code: both opcode=3, execute: PC <- value}]}
  PUTB: {forms: [{write: 'PUTB {value}', code: both opcode=4, execute: B <- value}]}
${calls ? "  CALL: {forms: [{write: 'CALL {value}', code: both opcode=5, execute: 'L <- next, PC <- value, call next'}]}\n" : ''}${own.join('\n')}
${parts}
`;
}

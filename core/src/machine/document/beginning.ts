/** A complete small machine of six instructions, and a program for it, from the answers to four questions. */

export const WORDS = ['bits', 'digits'] as const;
export const MEMORIES = ['one', 'two', 'banks'] as const;
export const STORES = ['accumulator', 'named', 'numbered', 'stack'] as const;
export const COUNTERS = ['fetch', 'end'] as const;

export interface Answers {
  /** Letters, digits and _. */
  readonly name: string;
  /** What a word is made of, and of how many: 8 to 32 bits, 3 to 9 digits. */
  readonly word: (typeof WORDS)[number];
  readonly width: number;
  /** One memory; another one for data; or data in banks. */
  readonly memory: (typeof MEMORIES)[number];
  /** What there is to compute with. */
  readonly store: (typeof STORES)[number];
  /** Whether PC moves while an instruction is fetched, or at its end. */
  readonly counter: (typeof COUNTERS)[number];
}

export const WIDTHS: Readonly<Record<Answers['word'], { readonly least: number; readonly greatest: number; readonly usual: number }>> = {
  bits: { least: 8, greatest: 32, usual: 8 },
  digits: { least: 3, greatest: 9, usual: 3 },
};

export interface Beginning {
  readonly document: string;
  readonly program: string;
}

/** Sizes that follow from the answers, in the machine's own digits. */
interface Shape {
  readonly unit: 'bits' | 'digits';
  readonly word: number;
  readonly address: number;
  readonly cells: number;
  /** Instructions have two cells: one for what to do, one for its value. */
  readonly long: boolean;
  /** Digits that number a register; 0 where none is numbered. */
  readonly number: number;
  readonly registers: number;
  /** Digits of a bank's number in an instruction. */
  readonly bank: number;
  readonly program: string;
  readonly data: string;
}

const BANKS = 4;

function shapeOf({ word, width, memory, store }: Answers): Shape {
  const decimal = word === 'digits';
  const number = store === 'named' || store === 'numbered' ? (decimal ? 1 : store === 'named' ? 2 : 3) : 0;
  const bank = memory === 'banks' ? (decimal ? 1 : 2) : 0;
  const address = decimal ? 2 : 8;
  const long = decimal ? width < 1 + number + bank + address : width < 4 + number + bank + address;
  return {
    unit: decimal ? 'digits' : 'bits',
    ...{ word: width, address, long, number, bank, cells: decimal ? 100 : 256 },
    registers: store === 'named' ? 4 : decimal ? 10 : 8,
    program: memory === 'one' ? 'M' : 'PROG',
    data: memory === 'one' ? 'M' : 'DATA',
  };
}

/** The document reads without a problem, and the program counts down from 3 and writes each number. */
export function beginningOf(answers: Answers): Beginning {
  const shape = shapeOf(answers);
  return { document: documentOf(answers, shape), program: programOf(answers) };
}

function documentOf(answers: Answers, shape: Shape): string {
  const { name, word, store } = answers;
  const say = (width: number): string => `${shape.unit}: ${width}`;
  const kind = word === 'bits' ? `${shape.word}-bit` : `${shape.word}-digit`;
  const sections = [
    `# ${name}: six instructions to begin with. Everything can be changed; what does not fit is told as you change it.
machine: ${name}
title: a small ${kind} machine with ${COMPUTES[store]}

word: {${say(shape.word)}}
`,
    spacesOf(answers, shape),
    registersOf(answers, shape, say),
    `flags:
  Z: {title: zero, rule: zero}
  N: {title: negative, rule: negative}
`,
    formatsOf(shape),
    cycleOf(answers, shape),
    instructionsOf(answers, shape),
    `traps:
  1: {name: show, service: write number, argument: ${shownFrom(answers)}}
`,
  ];
  return sections.join('\n');
}

const COMPUTES: Readonly<Record<Answers['store'], string>> = {
  accumulator: 'one accumulator',
  named: 'four named registers',
  numbered: 'numbered registers',
  stack: 'a stack to compute on',
};

const shownFrom = ({ store }: Answers): string => ({ accumulator: 'ACC', named: 'A', numbered: 'R0', stack: 'TOP' })[store];

type Say = (width: number) => string;

function spacesOf({ memory }: Answers, { cells, program, data }: Shape): string {
  const size = `cells: ${cells}`;
  if (memory === 'one') return `spaces:\n  ${program}: {title: memory, ${size}}\n`;
  const banks = memory === 'banks' ? `, banks: ${BANKS}` : '';
  return `# Programs lie in ${program}, what they work with in ${data}${banks && ', of which an instruction names a bank'}.
spaces:
  ${program}: {title: program memory, ${size}}
  ${data}: {title: data memory, ${size}${banks}}
`;
}

function registersOf({ store }: Answers, { address, long, word, registers, cells, data }: Shape, say: Say): string {
  const lines = [
    `  PC:  {title: program counter, role: program counter, ${say(address)}}`,
    `  IR:  {title: instruction register, role: instruction, ${say(word * (long ? 2 : 1))}}`,
    `  MAR: {title: memory address register, role: memory address, ${say(address)}}`,
  ];
  if (store === 'accumulator') lines.push('  ACC: {title: accumulator, role: accumulator}');
  if (store === 'named') lines.push('  R:   {title: register, role: general, count: 4, names: A B C D}');
  if (store === 'numbered') lines.push(`  R:   {title: register, role: general, count: ${registers}}`);
  if (store === 'stack')
    lines.push(
      '  TOP: {title: value from the top of the stack, role: accumulator}',
      `  SP:  {title: stack pointer, role: stack pointer, ${say(address)}, start: ${cells - 1}}`,
    );
  const stack =
    store === 'stack'
      ? `\n# It grows down from the last cell; the pointer stands at the next free one.
stacks:
  S: {title: values to compute with, pointer: SP, space: ${data}, from: ${cells - 20}, to: ${cells - 1}, grows: down, points at: free}\n`
      : '';
  return `# PC says where the next instruction lies, IR holds it, MAR says which cell is meant.\nregisters:\n${lines.join('\n')}\n${stack}`;
}

/** Fields of the formats, each filled up to whole cells. */
function formatsOf({ word, address, long, number, bank }: Shape): string {
  const fill = (taken: number): number => word - taken;
  const r = number > 0 ? [`r ${number} register R`] : [];
  const b = bank > 0 ? [`bank ${bank}`] : [];
  const first = (more: readonly string[], width: number): string[] => [
    `opcode ${fill(number + bank)}`,
    ...(number + bank > width ? [`zero ${number + bank - width}`] : []),
    ...more,
  ];
  const second = (name: string, width: number, words = ''): string[] => {
    const rest = word - width;
    return [...(rest > 0 ? [`zero ${rest}`] : []), `${name} ${width}${words}`];
  };
  const join = (...parts: readonly (readonly string[])[]): string => parts.flat().join(', ');
  const one = (more: readonly string[], width: number, name: string, words = ''): string => {
    const opcode = word - width - address;
    const code = Math.min(opcode, word === address + width ? 0 : 8);
    const rest = opcode - code;
    return join([`opcode ${code}`], rest > 0 ? [`zero ${rest}`] : [], more, [`${name} ${address}${words}`]);
  };
  const lines = long
    ? {
        alone: join(first([], 0)),
        value: join(first(r, number), second('value', word, ' either')),
        place: join(first([...b, ...r], bank + number), second('address', address)),
        jump: join(first([], 0), second('address', address)),
      }
    : {
        alone: join(
          [`opcode ${Math.min(8, word - number - bank - address)}`],
          [`zero ${word - Math.min(8, word - number - bank - address)}`],
        ),
        value: one([...(bank > 0 ? [`zero ${bank}`] : []), ...r], number + bank, 'value', ' either'),
        place: one([...b, ...r], number + bank, 'address'),
        jump: one(number + bank > 0 ? [`zero ${number + bank}`] : [], number + bank, 'address'),
      };
  return `# Fields from left to right, with their widths.\nformats:\n${Object.entries(lines)
    .map(([name, fields]) => `  ${name}: ${fields}`)
    .join('\n')}\n`;
}

function cycleOf({ counter }: Answers, { long, program }: Shape): string {
  const moves = counter === 'fetch' ? ', PC <- PC + 1' : '';
  const more = long
    ? `  more:
    phase: Fetch
    ticks: |
      MAR <- ${counter === 'fetch' ? 'PC' : 'MAR + 1'}
      IR.cell <- ${program}[MAR]${moves}
`
    : '';
  const finish =
    counter === 'end'
      ? `  finish:
    phase: Execute
    ticks: |
      PC <- next
`
      : '';
  return `# What every instruction shares. ${counter === 'fetch' ? 'PC moves on while it is fetched.' : 'PC moves on at the end, unless the instruction has set it.'}
cycle:
  phases: [Fetch, Decode, Execute]
  first:
    phase: Fetch
    ticks: |
      MAR <- PC
      IR.cell <- ${program}[MAR]${moves}
  decode: {phase: Decode}
${more}  execute: {phase: Execute}
${finish}`;
}

interface Instruction {
  readonly name: string;
  readonly title: string;
  readonly family: string;
  readonly write: string;
  readonly code: string;
  readonly ticks: readonly string[];
}

function instructionsOf(answers: Answers, shape: Shape): string {
  const widest = answers.store === 'numbered' || answers.store === 'named';
  const opcodes = ['1', '2', '3', '4', '5', '6'];
  const list = answers.store === 'stack' ? onStack(shape) : inRegisters(answers, shape, widest);
  const lines = list.map(
    ({ name, title, family, write, code, ticks }, at) => `  ${name}:
    title: ${title}
    family: ${family}
    forms:
      - write: '${write}'
        code: ${code} opcode=${opcodes[at] ?? '7'}
        execute: |
${ticks.map((each) => `          ${each}`).join('\n')}`,
  );
  return `# Each line of ticks is one clock; everything on it happens at once.\ninstructions:\n${lines.join('\n')}\n`;
}

const cellOf = ({ data, bank }: Shape): string => (bank > 0 ? `${data}[bank, MAR]` : `${data}[MAR]`);
const placeOf = ({ bank }: Shape): string => (bank > 0 ? '{bank}, {address}' : '{address}');

/** A number of fewer digits than the word is brought to its width, so that −1 stays −1. */
const valueOf = ({ long, word, unit }: Shape): string => (long || unit === 'digits' ? 'value' : `extend(value, ${word})`);

function inRegisters({ store }: Answers, shape: Shape, several: boolean): Instruction[] {
  const [r, value] = [several ? 'R[r]' : 'ACC', valueOf(shape)];
  const which = several ? '{r}, ' : '';
  const what = several ? 'a register' : 'the accumulator';
  const shown = store === 'named' ? 'A' : store === 'numbered' ? 'R0' : 'the accumulator';
  return [
    {
      name: 'PUT',
      title: `put a number into ${what}`,
      family: 'move data',
      write: `PUT ${which}{value}`,
      code: 'value',
      ticks: [`${r} <- ${value} ; flags Z N`],
    },
    {
      ...{ name: 'KEEP', title: `keep ${what} in a cell of the memory`, family: 'move data', write: `KEEP ${which}${placeOf(shape)}` },
      ...{ code: 'place', ticks: ['MAR <- address', `${cellOf(shape)} <- ${r}`] },
    },
    {
      name: 'TAKE',
      title: `take a number away from ${what}`,
      family: 'arithmetic',
      write: `TAKE ${which}{value}`,
      code: 'value',
      ticks: [`${r} <- ${r} - ${value} ; flags Z N`],
    },
    ...ending(shown, ['service show']),
  ];
}

function onStack(shape: Shape): Instruction[] {
  const cell = shape.bank > 0 ? `${shape.data}[0, SP]` : `${shape.data}[SP]`;
  return [
    {
      name: 'PUSH',
      title: 'put a number onto the stack',
      family: 'move data',
      write: 'PUSH {value}',
      code: 'value',
      ticks: [`${cell} <- ${valueOf(shape)}, SP <- SP - 1, push S`],
    },
    {
      ...{
        name: 'KEEP',
        title: 'take the top of the stack away and keep it in a cell',
        family: 'move data',
        write: `KEEP ${placeOf(shape)}`,
      },
      ...{ code: 'place', ticks: ['SP <- SP + 1, MAR <- address, pop S', `TOP <- ${cell}`, `${cellOf(shape)} <- TOP`] },
    },
    {
      ...{
        name: 'TAKE',
        title: 'take the top of the stack away from the value below it',
        family: 'arithmetic',
        write: 'TAKE',
        code: 'alone',
      },
      ticks: ['SP <- SP + 1, pop S', `TOP <- ${cell}`, 'SP <- SP + 1', `${cell} <- ${cell} - TOP ; flags Z N`, 'SP <- SP - 1'],
    },
    ...ending('the top of the stack', [`TOP <- ${cell.replace('SP]', 'SP + 1]')}`, 'service show']),
  ];
}

const ending = (shown: string, show: readonly string[]): Instruction[] => [
  {
    name: 'JUMPNZ',
    title: 'go on at an address unless Z is 1',
    family: 'choose and repeat',
    write: 'JUMPNZ {address}',
    code: 'jump',
    ticks: ['if Z = 0: PC <- address'],
  },
  { name: 'SHOW', title: `write ${shown} as a number`, family: 'in, out, stop', write: 'SHOW', code: 'alone', ticks: show },
  { name: 'HALT', title: 'stop the machine', family: 'in, out, stop', write: 'HALT', code: 'alone', ticks: ['halt'] },
];

function programOf({ name, store, memory }: Answers): string {
  const several = store === 'named' ? 'A, ' : store === 'numbered' ? 'R0, ' : '';
  const place = `${several}${memory === 'banks' ? '1, ' : ''}20`;
  const lines =
    store === 'stack'
      ? [
          '        PUSH    3',
          'again   SHOW',
          '        PUSH    1',
          '        TAKE',
          '        JUMPNZ  again',
          `        KEEP    ${place}`,
          '        HALT',
        ]
      : [
          `        PUT     ${several}3`,
          'again   SHOW',
          `        TAKE    ${several}1`,
          '        JUMPNZ  again',
          `        KEEP    ${place}`,
          '        HALT',
        ];
  return [`; A first program for ${name}: it counts down from 3.`, '', ...lines, ''].join('\n');
}

/** The document that an empty machine begins with: what every machine has, and nothing to do yet. */
export const emptyMachine = (name: string): string => `# An empty machine: instructions come under their own heading.
machine: ${name}
title: a machine to begin with
word: {bits: 8}

spaces:
  M: {title: memory, cells: 256}

# PC says where the next instruction lies, IR holds it, MAR says which cell is meant.
registers:
  PC:  {title: program counter, role: program counter}
  IR:  {title: instruction register, role: instruction, bits: 16}
  MAR: {title: memory address register, role: memory address}

# Fields from left to right, with their widths in bits.
formats:
  alone: opcode 8
  value: opcode 8, value 8 either
  place: opcode 8, address 8

# What every instruction shares; IR.cell is where the cell that is being fetched belongs.
cycle:
  phases: [Fetch, Decode, Execute]
  first:
    phase: Fetch
    ticks: |
      MAR <- PC
      IR.cell <- M[MAR], PC <- PC + 1
  decode: {phase: Decode}
  more:
    phase: Fetch
    ticks: |
      MAR <- PC
      IR.cell <- M[MAR], PC <- PC + 1
  execute: {phase: Execute}

instructions: {}
`;

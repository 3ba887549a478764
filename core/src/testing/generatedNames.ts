/** Machines nobody has written, made of names: registers, views, conditions, guards, bases, drawn by chance. */
import fc from 'fast-check';
import { form } from './generated';

export interface DrawnNames {
  readonly text: string;
  readonly late: boolean;
}

const LETTERS = ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'K'];

/** What a condition can ask, over the flags Z, N, C and the registers of the array. */
const ASKED = [
  'Z = 1',
  'not Z = 1',
  'flags.C = 1',
  'N = 1 and Z = 0',
  'N = 0 or flags.C = 1',
  'not (Z = 1 or N = 1)',
  'R[0] = R[1]',
  'signed(R[0]) < signed(R[1])',
  'R[1][0] = 1',
];
const NAMES = ['Z', 'NZ', 'CY', 'GT', 'GE', 'MORE', 'SAME', 'LESS', 'ODD'];

interface Shape {
  readonly letters: readonly string[];
  readonly view: readonly (number | undefined)[];
  readonly codes: readonly number[];
  readonly always: boolean;
  readonly also: boolean;
  readonly ways: readonly number[];
  readonly late: boolean;
  readonly dot: boolean;
  readonly wraps: boolean;
  readonly base: string | undefined;
  readonly pairs: boolean;
}

function documentOf({ letters, view, codes, always, also, ways, late, dot, wraps, base, pairs }: Shape): string {
  const wide = pairs && letters.length >= 4;
  const conditions = codes.map(
    (code, at) => `  ${NAMES[at]}: {code: ${code}, when: '${ASKED[at]}'${also && at === 0 ? ', also: EQ ZERO' : ''}}`,
  );
  const point = dot ? '.' : '';
  return [
    'machine: Drawn-names',
    `word: {bits: 16${base ? `, base: ${base}` : ''}}`,
    'spaces: {M: {cells: 256}}',
    'registers:',
    '  PC: {role: program counter, bits: 8}',
    '  IR: {role: instruction}',
    '  MAR: {role: memory address, bits: 8}',
    `  R: {count: ${letters.length}, names: ${letters.join(' ')}, each: {0: {also: FIRST}}}`,
    `  S: {choose: ${view.map((each) => (each === undefined ? '_' : letters[each])).join(' ')}}`,
    ...(wide ? [`  UP: {pair: ${letters[0]} ${letters[1]}}`, `  DN: {pair: ${letters[2]} ${letters[3]}}`, '  W: {choose: DN UP}'] : []),
    'flags: {Z: {rule: zero}, N: {rule: negative}, C: {rule: carry}}',
    'conditions:',
    ...(always ? [`  '': {code: ${codes.length === 0 ? 0 : 15}}`] : []),
    ...conditions,
    'formats:',
    '  two: opcode 4, to 3 register S, from 3 register S, any 6',
    '  put: opcode 4, r 3 register R, value 8 either, zero 1',
    '  wide: opcode 4, u 1 register ' + (wide ? 'W' : 'S') + ', v 1 register ' + (wide ? 'W' : 'S') + ', any 10',
    `  turn: opcode 4, to 3 register S, way 2 names ${ways.map((each, at) => `${['left', 'right', 'half', 'over'][at]}=${each}`).join(' ')}, any 7`,
    '  jump: opcode 4, c 4 condition, address 8',
    "  point: {fields: 'opcode 4, c 4 condition, to 3 register S, any 5', only if: c holds}",
    '  alone: opcode 4, any 12',
    '  few: opcode 4, s 3 register S, small 3, any 6',
    '  many: opcode 4, r 3 register R, large 8, any 1',
    'cycle:',
    '  phases: [Fetch, Decode, Execute]',
    `  first: {phase: Fetch, ticks: 'IR <- M[PC]${late ? '' : ', PC <- PC + 1'}'}`,
    '  decode: {phase: Decode}',
    '  execute: {phase: Execute}',
    ...(late ? ['  finish: {phase: Execute, ticks: PC <- next}'] : []),
    ...(wraps ? ['faults: {register outside: wrap}'] : []),
    'instructions:',
    form('HALT', 'HALT', 'alone opcode=0', ['halt']),
    form('MOVE', 'MOVE {to}, {from}', 'two opcode=1', ['S[to] <- S[from]']),
    form('PUT', 'PUT {r}, #{value}', 'put opcode=2', ['R[r] <- extend(value, 16)']),
    form('ADD', 'ADD {to}, {from}', 'two opcode=3', ['S[to] <- S[to] + S[from] ; flags Z N C']),
    ...(wide ? [form('SUM', 'SUM {u}, {v}', 'wide opcode=4', ['W[u] <- W[u] + W[v]'])] : []),
    form('TURN', 'TURN.{way} {to}', 'turn opcode=5', [`if way = ${ways[0]}: S[to] <- rotl(S[to], 1) else S[to] <- S[to] >> 1`]),
    form('JUMP', `JUMP${point}{c} {address}`, 'jump opcode=6', ['if c holds: PC <- address']),
    form('STEP', `STEP.{c} {to}`, 'point opcode=7', ['MAR <- low(S[to])', 'S[to] <- S[to] + M[MAR] ; flags Z N C']),
    form('STOP', `STOP.{c} {to}`, 'point opcode=8', ['halt']),
    form('PLUS', 'PLUS{to} #{value}', 'plus opcode=9', ['S[to] <- S[to] + value ; flags Z N C']).replace('plus opcode', 'put2 opcode'),
    // Written alike: the first whose registers and room do is taken.
    form('INC', 'INC {s}, {small}', 'few opcode=10', ['S[s] <- S[s] + small']),
    form('', 'INC {r}, {large}', 'many opcode=11', ['R[r] <- R[r] + large']).split('\n').slice(2).join('\n'),
    ...(base === 'octal' ? ['assembly: {letters: {q: 8}}'] : []),
  ]
    .join('\n')
    .replace('  alone: opcode', '  put2: opcode 4, to 3 register S, value 8, any 1\n  alone: opcode');
}

/** Two to eight registers, a view with gaps, up to nine conditions, names for two bits, all in one cell of 16 bits. */
export const drawnNames: fc.Arbitrary<DrawnNames> = fc
  .record({
    letters: fc.shuffledSubarray(LETTERS, { minLength: 2, maxLength: 8 }),
    gaps: fc.array(fc.boolean(), { minLength: 8, maxLength: 8 }),
    order: fc.shuffledSubarray([0, 1, 2, 3, 4, 5, 6, 7], { minLength: 8, maxLength: 8 }),
    codes: fc.shuffledSubarray([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14], { minLength: 0, maxLength: 9 }),
    also: fc.boolean(),
    ways: fc.shuffledSubarray([0, 1, 2, 3], { minLength: 1, maxLength: 4 }),
    late: fc.boolean(),
    dot: fc.boolean(),
    wraps: fc.boolean(),
    base: fc.constantFrom(undefined, 'octal', 'hex', 'binary', 'decimal'),
    pairs: fc.boolean(),
    always: fc.boolean(),
  })
  .map(({ letters, gaps, order, codes, always, ...rest }) => {
    // Each register once, the rest of the eight numbers empty, in a drawn order.
    const view = order.map((each, at) => (each < letters.length && !(gaps[at] && each > 0) ? each : undefined));
    const shape = { ...rest, letters, view, codes, always: always || codes.length === 0 };
    return { text: documentOf(shape), late: rest.late };
  });

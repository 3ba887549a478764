import fc from 'fast-check';
import { checkTick } from './check';
import { parseTick } from './parse';
import { withMend } from '../testing/mending';
import { explainNotation } from './problems';
import type { Meaning, Scope } from './scope';

const register = (index: number, width: number, parts: [string, number, number][] = []): Meaning => ({
  kind: 'register',
  register: index,
  width,
  parts: new Map(parts.map(([name, high, low]) => [name, { register: index, high, low }])),
});

const flag = (index: number, rule?: 'zero' | 'carry') =>
  ({ kind: 'flag', flag: index, ...(rule && { rule }), noBorrow: false, into: 4, odd: false }) as const;
const flags = new Map([
  ['Z', flag(0, 'zero')],
  ['C', flag(1, 'carry')],
  ['I', flag(2)],
]);

const scope: Scope = {
  addressWidth: 8,
  flags,
  radix: 2,
  names: new Map<string, Meaning>([
    ['ACC', register(0, 8)],
    ['PC', register(1, 8)],
    [
      'IR',
      register(2, 16, [
        ['op', 15, 8],
        ['low', 7, 0],
      ]),
    ],
    ...flags,
    ['M', { kind: 'space', space: 0, width: 8, addressWidth: 8, banks: 1 }],
    ['showNumber', { kind: 'service', number: 1 }],
    ['address', { kind: 'value', value: { kind: 'slice', register: 2, high: 7, low: 0, width: 8, name: 'address', field: true } }],
  ]),
};

function read(text: string) {
  const { tick: syntax, problems } = parseTick(text, 0);
  if (!syntax) return { problems };
  const checked = checkTick(syntax, scope);
  return { tick: checked.tick, problems: checked.problems };
}

test.each([
  'PC <- PC + 1',
  'IR.op <- M[PC], PC <- PC + 1',
  'ACC ← M[address] ; flags Z',
  'M[PC] <- ACC',
  'IR[7:4] <- 3',
  'ACC[0] <- C',
  'if Z = 1: PC <- address',
  'if C != Z: PC <- address, ACC <- 0 else ACC <- ~ACC',
  'compare ACC - M[PC] ; flags Z C',
  'ACC <- ACC + 1 + C ; flags Z C',
  'halt',
  'service address',
  'C <- 0, ACC <- ACC & 7 ; flags Z C',
  'PC <- next',
  'ACC <- (ACC - 1) << 1',
  'ACC <- rotl(ACC, 1) ; flags Z C',
  'ACC <- rotr(ACC, 1, C) ; flags Z C',
  'ACC <- asr(ACC, 1) ; flags Z C',
  'IR <- ACC * ACC',
  'IR <- join(ACC, PC)',
  'IR <- extend(ACC, 16)',
  'ACC <- low(IR)',
  'if signed(ACC) < signed(PC): PC <- address',
])('reads “%s” without a problem', (text) => {
  const { tick, problems } = read(text);
  expect(problems).toEqual([]);
  expect(tick?.actions.length).toBeGreaterThan(0);
});

test.each([
  ['ACC <- cause[0]', 'one-value', 7, '“cause” is one value, which has no cells. Write cause without brackets.'],
  ['ACC <- ACX', 'unknown-name', 7, 'Did you mean ACC?'],
  ['ACC <- addr-ss', 'unknown-name', 7, 'Did you mean address?'],
  ['ACC <-', 'tick-expected', 6, 'the end of the line'],
  ['ACC + 1', 'tick-expected', 4, 'the arrow'],
  ['ACC <- 0x1G', 'bad-number', 7, '0x1G'],
  ['ACC <- 256', 'literal-too-wide', 7, '8 bits'],
  ['M <- ACC', 'not-a-target', 0, 'M'],
  ['ACC <- M', 'not-a-value', 7, 'a memory'],
  ['ACC <- ACC[X]', 'not-indexed', 7, 'ACC is neither a memory nor an array. Digits of it are named by written numbers: ACC[0].'],
  ['ACC <- ACC[1, 2]', 'not-indexed', 7, 'ACC is no memory with banks'],
  ['IR.high <- ACC', 'unknown-part', 0, 'op, low'],
  ['ACC <- IR[16:9]', 'slice-outside', 7, 'bits 15 to 0'],
  ['ACC <- 1, ACC <- 2', 'two-writers', 0, 'ACC is written twice'],
  ['IR <- 1, IR.low <- 2', 'two-writers', 0, 'IR is written twice'],
  ['ACC <- ACC & 1 ; flags C', 'rule-without-meaning', 0, 'C <- 0'],
  ['ACC <- 1 ; flags I', 'flag-without-rule', 17, 'I has no rule'],
  ['halt ; flags Z', 'flags-need-one-operation', 0, 'nothing in this tick'],
  ['ACC <- 1, PC <- 2 ; flags Z', 'flags-need-one-operation', 0, 'several results'],
  ['ACC <- turn(ACC, 1)', 'wrong-function', 7, 'rotl(value, places)'],
  ['ACC <- rotr(ACC, 1, PC)', 'wrong-function', 7, 'rotr(value, places, flag)'],
  ['ACC <- extend(IR, 8)', 'wrong-function', 7, 'extend(value, digits)'],
  ['IR <- IR * IR * IR * IR * 2', 'too-wide', 6, 'at most 64'],
  ['ACC <- join(IR, IR, IR, IR, ACC)', 'too-wide', 7, '72 bits'],
  ['halt, service 1', 'must-stand-alone', 0, 'stands alone'],
  ['if Z: service 1', 'must-stand-alone', 0, 'stands alone'],
  ['if Z = 1 PC <- 0', 'tick-expected', 9, '“:” after the condition'],
  [`ACC <- ${'('.repeat(200)}1`, 'too-deep', 47, 'Split'],
])('explains “%s” as %s', (text, code, start, words) => {
  const { tick, problems } = read(text);
  expect(tick).toBeUndefined();
  expect(problems).toHaveLength(1);
  expect(problems[0]).toMatchObject({ code, grade: 'error', span: { start } });
  expect(explainNotation(problems[0]!)).toContain(words);
});

/** All that is wrong with a line, one after the other, and the line with the first mend of each. */
function mended(text: string): { readonly told: readonly string[]; readonly line: string } {
  const { problems } = read(text);
  const [problem] = problems.filter((each) => each.grade === 'error');
  if (!problem?.mend) return { told: problems.map(explainNotation), line: text };
  const line = withMend(text, problem.mend);
  const rest = mended(line);
  return { told: [explainNotation(problem), ...rest.told], line: rest.line };
}

test.each([
  ['ACC := ACC + 1', '“:=” is written “<-” here.', 'ACC <- ACC + 1'],
  ['ACC = ACC + 1', '“=” is written “<-” here.', 'ACC <- ACC + 1'],
  ['ACC <- 1, PC = 2', '“=” is written “<-” here.', 'ACC <- 1, PC <- 2'],
  ['if Z = 1: PC := address', '“:=” is written “<-” here.', 'if Z = 1: PC <- address'],
  ['ACC -> M[address]', '“ACC -> M[address]” is written “M[address] <- ACC” here.', 'M[address] <- ACC'],
  ['if Z == 1: PC <- address', '“==” is written “=” here.', 'if Z = 1: PC <- address'],
  ['if Z = 1 && C = 0: PC <- address', '“&&” is written “and” here.', 'if Z = 1 and C = 0: PC <- address'],
  ['if Z = 1||C = 0: PC <- address', '“||” is written “or” here.', 'if Z = 1 or C = 0: PC <- address'],
  ['if Z <> 1: PC <- address', '“<>” is written “!=” here.', 'if Z != 1: PC <- address'],
  ['if Z = 1 AND C = 0: PC <- address', '“AND” is written “and” here.', 'if Z = 1 and C = 0: PC <- address'],
  ['if !Z: PC <- address', '“!” is written “not” here.', 'if not Z: PC <- address'],
  ['if NOT Z: PC <- address', '“NOT” is written “not” here.', 'if not Z: PC <- address'],
  ['ACC <- ACC xor M[address]', '“xor” is written “^” here.', 'ACC <- ACC ^ M[address]'],
  ['ACC <- ACC mod 4', '“mod” is written “%” here.', 'ACC <- ACC % 4'],
  ['ACC <- ACC + 1 ; Z C', '“; Z C” is written “; flags Z C” here.', 'ACC <- ACC + 1 ; flags Z C'],
  ['ACC <- ACC + 1 ; flags Z, C', '“flags Z, C” is written “flags Z C” here.', 'ACC <- ACC + 1 ; flags Z C'],
  ['ACC <- ACC + 1 ; flags ZC', '“ZC” is written “Z C” here.', 'ACC <- ACC + 1 ; flags Z C'],
  [
    'ACC - M[address] ; flags Z C',
    '“ACC - M[address]” is written “compare ACC - M[address]” here.',
    'compare ACC - M[address] ; flags Z C',
  ],
  ['ACC <- M(address)', '“M(…)” is written “M[…]” here.', 'ACC <- M[address]'],
  ['M(ACC) <- PC', '“M(…)” is written “M[…]” here.', 'M[ACC] <- PC'],
  ['ACC <- MEMORY[address]', 'This machine has no “MEMORY”. Did you mean M?', 'ACC <- M[address]'],
  ['stop', '“stop” is written “halt” here.', 'halt'],
  ['if Z = 1: HLT', '“HLT” is written “halt” here.', 'if Z = 1: halt'],
  ['service showNumbr', 'There is no service “showNumbr”. Did you mean showNumber?', 'service showNumber'],
])('a habit from elsewhere, “%s”, is told in one sentence, and its mend reads', (text, says, line) => {
  expect(mended(text)).toEqual({ told: [says], line });
  expect(read(line).tick).toBeDefined();
});

test('several habits on one line are mended one after the other', () => {
  expect(mended('if Z == 1 && C == 0: PC := M(address)').line).toBe('if Z = 1 and C = 0: PC <- M[address]');
});

test('what is no habit is told as before', () => {
  const says = (text: string): string => explainNotation(read(text).problems[0]!);
  expect(says('service print')).toBe('There is no service “print”. There are: showNumber.');
  expect(says('ACC - 1')).toBe('Here the arrow “<-” is expected, but “-” stands there.');
  expect(says('ACC <- 1 ; flags Z 2')).toMatch(/^Here a comma, “; flags …” or the end of the line is expected, but “2”/);
  expect(says('waits')).toMatch(/^Here the arrow “<-” is expected, but the end of the line/);
});

test('remarks when a named wider value is cut, and still accepts it', () => {
  const { tick, problems } = read('ACC <- IR');
  expect(tick).toBeDefined();
  expect(problems).toMatchObject([{ code: 'value-cut', grade: 'remark', width: 16, into: 8 }]);
});

test('the two branches of an if may write the same register', () => {
  expect(read('if Z = 1: PC <- address else PC <- next').problems).toEqual([]);
});

test('never throws over any text', () => {
  const words = fc.constantFrom(
    'ACC',
    'M',
    '[',
    ']',
    '<-',
    '+',
    '-',
    'if',
    ':',
    'else',
    ',',
    ';',
    'flags',
    'Z',
    '1',
    '0x',
    '(',
    ')',
    '~',
    'halt',
    'service',
    '…',
    '.',
    'IR',
  );
  fc.assert(
    fc.property(
      fc.oneof(
        fc.string(),
        fc.array(words, { maxLength: 15 }).map((each) => each.join(' ')),
      ),
      (text) => {
        const { tick, problems } = read(text);
        expect(tick !== undefined || problems.some((each) => each.grade === 'error')).toBe(true);
        problems.forEach((each) => expect(explainNotation(each)).not.toContain('undefined'));
      },
    ),
    { numRuns: 1500 },
  );
});

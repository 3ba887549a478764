import fc from 'fast-check';
import { curlew, curlewText } from '../testing/demo';
import { decode, encode, formOf, rangeOf, type Decoded } from './model/encode';
import { readMachine } from './read';

const edit = (from: string | RegExp, to: string): string => {
  const text = curlewText.replace(from, to);
  if (text === curlewText) throw new Error(`The demo machine has no ${from}`);
  return text;
};

test('the demo machine has no problem of any grade', () => {
  const { machine, problems } = readMachine(curlewText);
  expect(problems).toEqual([]);
  expect(machine).toMatchObject({ name: 'Curlew', wordWidth: 8, phases: ['Fetch', 'Decode', 'Execute'] });
  expect(new Set(machine!.forms.map((each) => each.mnemonic)).size).toBeGreaterThanOrEqual(20);
});

test('an instruction’s ticks are the shared cycle with its own in between', () => {
  const add = curlew.forms.find((each) => each.written === 'ADD {address}')!;
  expect(add.schedule.map(({ part, tick }) => `${part}: ${tick.text}`)).toEqual([
    'first: MAR <- PC',
    'first: IR.op <- M[MAR], PC <- PC + 1',
    'decode: ',
    'more: MAR <- PC',
    'more: IR.low <- M[MAR], PC <- PC + 1',
    'execute: MAR <- address',
    'execute: MDR <- M[MAR]',
    'execute: ACC <- ACC + MDR ; flags Z N C V H P',
  ]);
});

test('encode, then decode, is the identity for every instruction and operand', () => {
  const cases = fc.constantFrom(...curlew.forms).chain((form) => {
    const values = form.operands.map((each) =>
      each.named && each.names
        ? fc.constantFrom(...each.names.keys())
        : fc.integer({ min: rangeOf(each, 2).least, max: rangeOf(each, 2).greatest }),
    );
    return fc.record({ form: fc.constant(form), values: fc.tuple(...values) });
  });
  fc.assert(
    fc.property(cases, ({ form, values }) => {
      const encoded = encode(curlew, form, new Map(form.operands.map((each, at) => [each.name, values[at] as number])), 0);
      const { cells } = encoded as { cells: number[] };
      expect(cells).toHaveLength(form.format.cells);
      const decoded = decode(curlew, (offset) => cells[offset], 0) as Decoded;
      expect(decoded.form).toBe(form);
      expect(decoded.operands.map((each) => each.value)).toEqual(values.map((each) => ((each as number) + 256) % 256));
    }),
  );
});

test('a value outside its field is refused by encode, and an unused opcode by decode', () => {
  const load = curlew.forms[0]!;
  expect(encode(curlew, load, new Map([['value', 256]]), 0)).toMatchObject({ refused: { reason: 'outside', least: -128, greatest: 255 } });
  expect(decode(curlew, () => 0x7f, 0)).toEqual({ refused: { reason: 'undefined first cell', cell: 0x7f } });
  expect(formOf(curlew, 0x7f)).toBeUndefined();
});

const lineOf = (text: string, part: string): number => text.slice(0, text.indexOf(part)).split('\n').length;

test.each([
  ['not YAML', 'machine: A\n: [', 'not-yaml', /not YAML/],
  ['a tab as indentation', 'machine: X\nword:\n\tbits: 8', 'slip', /tab/],
  ['an empty document', '', 'slip', /is empty/],
  ['anchors', 'machine: &a X\ntitle: *a', 'yaml-alias', /Write the part out/],
])('%s ends in a sentence with a place', (_, text, code, words) => {
  const { machine, problems } = readMachine(text);
  expect(machine).toBeUndefined();
  expect(problems[0]).toMatchObject({ grade: 'error', line: expect.any(Number) });
  expect(problems.find((each) => each.code === code)?.sentence).toMatch(words);
});

test.each<[string, string | RegExp, string, string, RegExp, string]>([
  ['an unknown register in a tick', 'MDR <- ACC', 'MDR <- ACX', 'unknown-name', /no “ACX”. Did you mean ACC/, 'MDR <- ACX'],
  [
    'two instructions on one opcode',
    'opcode=0x26',
    'opcode=0x33',
    'encodings-overlap',
    /0x33 means two things: STORE \{address\} and ADD/,
    'code: direct opcode=0x33\n        execute: |\n          MAR <- address\n          MDR <- M[MAR]\n          ACC <- ACC + MDR',
  ],
  ['an opcode too wide', 'opcode=0x0F', 'opcode=0x10F', 'field-too-narrow', /does not fit into opcode/, 'opcode=0x10F'],
  ['a misspelt format', 'code: request', 'code: requst', 'unknown-format', /Did you mean request/, 'code: requst'],
  ['fields that do not add up', 'opcode 8, address 8', 'opcode 8, address 7', 'fields-do-not-add-up', /15 bits/, 'opcode 8, address 7'],
  ['a format without opcode', 'code: alone opcode=0x61', 'code: alone', 'no-opcode', /cannot tell/, 'code: alone\n'],
  [
    'an operand that is not written',
    'write: STOREX {address}',
    'write: STOREX',
    'field-without-value',
    /neither fixed nor written/,
    'write: STOREX\n',
  ],
  ['a misspelt key', 'family: traps', 'famly: traps', 'unknown-key', /Did you mean family/, 'famly'],
  ['a misspelt role', 'role: accumulator', 'role: acumulator', 'wrong-shape', /one of these words/, 'ACC: {title: accumulator, role'],
  ['no program counter', 'role: program counter, ', '', 'role-missing', /program counter/, 'registers:'],
  [
    'an instruction register too narrow',
    "bits: 16, parts: {op: '15:8', low: '7:0'}",
    'bits: 8',
    'instruction-too-long',
    /longest format has 2 cells/,
    'IR:  {',
  ],
  ['an unknown phase', 'phase: Decode', 'phase: Think', 'unknown-phase', /Fetch, Decode, Execute/, 'phase: Think'],
  ['a trap without its register', ', result: ACC', '', 'trap-register-missing', /needs a register/, '1: {name: askLevel'],
  ['a number of cells past the limit', 'cells: 256', 'cells: 0', 'wrong-shape', /from 1 to 65536/, 'cells: 0'],
  ['a name with blanks', '  SHR:\n', '  S R:\n', 'wrong-shape', /letters, digits/, 'S R:'],
  ['a name that is a prototype', '  SHR:\n', '  __proto__:\n', 'wrong-shape', /cannot be a name/, '__proto__'],
])('%s is found where it stands', (_, from, to, code, words, at) => {
  const text = edit(from, to);
  const { machine, problems } = readMachine(text);
  expect(machine).toBeUndefined();
  const problem = problems.find((each) => each.code === code);
  expect(problem?.sentence).toMatch(words);
  expect(problem?.line).toBe(lineOf(text, at));
});

test('a remark that swallowed part of a written form is told with a mend', () => {
  const text = edit("write: 'ADD #{value}'", 'write: ADD #{value}');
  const problem = readMachine(text).problems.find((each) => each.code === 'yaml-remark-in-value')!;
  const { span, text: mended } = problem.mend!.edits[0]!;
  expect(readMachine(text.slice(0, span.start) + mended + text.slice(span.end)).problems).toEqual([]);
});

const mended = (text: string, code: string): string => {
  const { span, text: put } = readMachine(text).problems.find((each) => each.code === code)!.mend!.edits[0]!;
  return text.slice(0, span.start) + put + text.slice(span.end);
};

test('two instructions on one opcode are mended by the next opcode that is free', () => {
  const text = edit('opcode=0x26', 'opcode=0x33');
  expect(readMachine(text).problems[0]!.mend!.title).toBe('Give ADD 0x3E');
  const { machine, problems } = readMachine(mended(text, 'encodings-overlap'));
  expect(problems).toEqual([]);
  expect(formOf(machine!, 0x3e)?.written).toBe('ADD {address}');
});

test('a misspelt name in a tick is mended by the nearest one', () => {
  expect(mended(edit('MDR <- ACC\n', 'MDR <- ACX\n'), 'unknown-name')).toBe(curlewText);
});

test.each<[string, string | RegExp, string, string, 'warning' | 'remark']>([
  ['a register that nothing uses', '  SP:  {', '  Q: {title: spare, bits: 8}\n  SP:  {', 'register-unused', 'remark'],
  [
    'two instructions with the same effect',
    'ACC <- ACC & value ; flags Z N P',
    'ACC <- ACC ^ value ; flags Z N P',
    'same-effect',
    'remark',
  ],
  ['a flag that nothing sets', '  P: {title', '  I: {title: enable}\n  P: {title', 'flag-never-set', 'warning'],
  ['a wider value that is cut', 'ACC <- value ; flags Z N\n', 'ACC <- IR ; flags Z N\n', 'value-cut', 'remark'],
])('%s is told, and the machine still runs', (_, from, to, code, grade) => {
  const { machine, problems } = readMachine(edit(from, to));
  expect(machine).toBeDefined();
  expect(problems).toMatchObject([{ code, grade }]);
});

test('thousands of instructions on one opcode are refused with bounded work', () => {
  const many = Array.from(
    { length: 250 },
    (_, at) => `  OP${at}:\n    forms:\n      - write: OP${at}\n        code: alone opcode=0x01\n`,
  ).join('');
  const { machine, problems } = readMachine(edit('instructions:\n', `instructions:\n${many}`));
  expect(machine).toBeUndefined();
  expect(problems.filter((each) => each.code === 'encodings-overlap').length).toBeLessThanOrEqual(50);
});

test('a machine that cannot halt is warned about, and still a machine', () => {
  const text = curlewText.replace(/  HALT:[\s\S]*?halt\n/, '').replace(/  5: .*\n/, '');
  expect(readMachine(text)).toMatchObject({ machine: { name: 'Curlew' }, problems: [{ code: 'no-way-to-halt', grade: 'warning' }] });
});

test('a document of five million characters is refused in a sentence', () => {
  expect(readMachine('a'.repeat(5_000_000)).problems).toMatchObject([{ code: 'document-too-long' }]);
});

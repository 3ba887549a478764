/** What students get wrong, with the line, the code and the remedy that they are told. */
import { curlew, demoMachines, fixtures, machineFrom } from '../testing/demo';
import { smallMachine } from '../testing/small';
import { mendsOf } from '../text/diagnostic';
import { assemble } from './assemble';
import { CHECKS } from './check/checks';

const machines = new Map([...demoMachines, ...fixtures].map(({ name, text }) => [name.toLowerCase(), machineFrom(text)]));
const TWICE = "short forms:\n  TWICE:\n    forms:\n      - write: 'TWICE {n}'\n        for: |\n          PUT {n}\n          PUT {n} + 1\n";
machines.set('twice', machineFrom(smallMachine({ parts: TWICE })));
machines.set(
  'asking',
  machineFrom(
    smallMachine({
      ticks: { ASK: 'service A' },
      parts: 'traps:\n  7: {name: show, service: write number, argument: B}\n  8: {name: get, service: read number, result: B}',
    }),
  ),
);

interface Mistake {
  readonly what: string;
  readonly on?: string;
  readonly source: string;
  readonly told: string;
  readonly says: RegExp;
  /** The text of the line once the mend has been taken. */
  readonly mended?: string;
}

const MISTAKES: readonly Mistake[] = [
  {
    what: 'letters swapped',
    source: 'start LAOD #5\nHALT',
    told: '1 unknown-operation',
    says: /Did you mean LOAD/,
    mended: 'start LOAD #5',
  },
  { what: 'a hexadecimal number without its mark', source: 'LOAD #3A\nHALT', told: '1 bad-number', says: /0x3A/, mended: 'LOAD #0x3A' },
  {
    what: 'a hexadecimal number that starts with a letter',
    source: 'LOAD #FF\nHALT',
    told: '1 unknown-name',
    says: /0xFF/,
    mended: 'LOAD #0xFF',
  },
  {
    what: 'an address meant in hexadecimal',
    source: 'HALT\n.origin 40\nn .cells 1\n.cells n',
    told: '2 two-bases',
    says: /0x40/,
    mended: '.origin 0x40',
  },
  { what: 'an operand address without its mark', source: 'LOAD 90\nHALT', told: '1 two-bases', says: /144 \(0x90\)/, mended: 'LOAD 0x90' },
  { what: 'a jump to a number', source: 'go LOAD #1\nJUMPZ 0\nHALT', told: '2 bare-target', says: /That is go now/, mended: 'JUMPZ go' },
  { what: 'a missing halt', source: 'LOAD n\nSTORE n\nn .cells 1', told: '2 runs-into-data', says: /Is a halt or a jump missing/ },
  { what: 'nothing behind the last instruction', source: 'LOAD #1', told: '1 runs-past-end', says: /Is a halt missing/ },
  { what: 'data before the program', source: 'n .cells 1\nLOAD n\nJUMP n', told: '3 jump-into-data', says: /in the data of line 1/ },
  {
    what: 'a jump into the middle',
    source: 'a LOAD #1\nJUMPZ a+1\nHALT',
    told: '2 jump-into-middle',
    says: /middle of the instruction on line 1/,
  },
  { what: 'a jump out of the program', source: 'JUMPZ 0x80\nHALT', told: '1 jump-outside', says: /where the program has nothing/ },
  { what: 'a loop without a way out', source: 'loop INC\nJUMP loop', told: '1 no-halt', says: /never ends by itself/ },
  { what: 'code behind a jump', source: 'JUMP end\nINC\nDEC\nend HALT', told: '2 never-reached', says: /These 2 instructions/ },
  { what: 'a name that nobody uses', source: 'HALT\nspare .cells 1', told: '2 never-used', says: /“spare” is never used/ },
  {
    what: 'a name misspelt',
    source: 'LOAD levle\nHALT\nlevel .cells 1',
    told: '1 unknown-name',
    says: /Did you mean level/,
    mended: 'LOAD level',
  },
  { what: 'a name defined twice', source: 'a HALT\na .cells 1\n.cells a', told: '2 name-twice', says: /on line 1 already/ },
  { what: 'an operation with a colon', source: 'LOAD #1\nHALT:', told: '2 operation-with-colon', says: /only a label/, mended: 'HALT' },
  { what: 'an operation as a label', source: 'JUMP sub\nsub: HALT', told: '2 operation-as-label', says: /easily misread/ },
  { what: 'a register as a label', on: 'gannet', source: 'R1 HALT', told: '1 name-is-register', says: /is a register/ },
  { what: 'an operand missing', source: 'LOAD\nHALT', told: '1 operands-do-not-fit', says: /LOAD #value/ },
  { what: 'an operand too many', source: 'HALT 3', told: '1 operands-do-not-fit', says: /It is written: HALT/ },
  { what: 'a mark missing', on: 'gannet', source: 'PUT R1, 5\nHALT', told: '1 operands-do-not-fit', says: /PUT to, #value/ },
  {
    what: 'the mark of a value missing',
    on: 'dunlin',
    source: 'BANK 2\nHALT',
    told: '1 operands-do-not-fit',
    says: /BANK #value/,
    mended: 'BANK #2',
  },
  { what: 'a value too large', source: 'LOAD #300\nHALT', told: '1 value-out-of-range', says: /-128 to 255/ },
  { what: 'a cell too large', source: 'HALT\nn .cells 256\n.cells n', told: '2 value-out-of-range', says: /a cell of 8 bits/ },
  { what: 'a value too small', source: 'LOAD #-129\nHALT', told: '1 value-out-of-range', says: /-128 to 255/ },
  { what: 'a character in no quotes', source: 'LOAD #A\nHALT', told: '1 unknown-name', says: /0xA/ },
  { what: 'an open text', source: 'HALT\nt .text "low\n.cells t', told: '2 quote-open', says: /not closed/ },
  { what: 'several characters between single quotes', source: "LOAD #'ab'\nHALT", told: '1 not-one-character', says: /there are 2/ },
  { what: 'an escape that is none', source: 'HALT\nt .text "a\\q"\n.cells t', told: '2 unknown-escape', says: /\\n, \\t/ },
  {
    what: 'a text that runs on',
    on: 'gannet',
    source: 'ADDR R1, t\nTRAP sayText\nHALT\nt .text "low"\nn .cells 5\n.cells n',
    told: '4 text-runs-on',
    says: /runs on into “n”/,
    mended: 't .text "low", 0',
  },
  {
    what: 'two pieces over each other',
    source: 'HALT\nn .cells 1\n.origin 1\nm .cells 2\n.cells n, m',
    told: '4 cells-overlap',
    says: /which line 2 has filled/,
  },
  { what: 'a store into an instruction', source: 'STORE go\ngo LOAD #1\nHALT', told: '1 writes-code', says: /the instruction on line 2/ },
  {
    what: 'a subroutine that is fallen into',
    source: 'LOAD #1\nCALL half\nhalf SHR\nRET',
    told: '2 falls-into-routine',
    says: /falls into half/,
  },
  {
    what: 'a routine that falls into the next',
    source: 'CALL a\nCALL b\nHALT\n.routine a\nINC\n.end\n.routine b\nRET\n.end',
    told: '5 falls-into-routine',
    says: /falls into b on line 8/,
  },
  {
    what: 'a return register lost',
    on: 'gannet',
    source: 'CALL a\nHALT\na CALL b\nRET\nb RET',
    told: '3 link-lost',
    says: /Save it first/,
  },
  {
    what: 'a saved return register not brought back',
    on: 'gannet',
    source: 'CALL a\nHALT\na PUSH R5\nCALL b\nRET\nb RET',
    told: '4 link-lost',
    says: /way back/,
  },
  {
    what: 'a result thrown away',
    source: 'TRAP askLevel\nLOAD #1\nHALT',
    told: '2 result-lost',
    says: /what askLevel on line 1 brought/,
  },
  {
    what: 'a service prepared and forgotten',
    on: 'asking',
    source: 'PUT 7\nPUT 1\nASK\nHALT',
    told: '1 service-not-asked',
    says: /number of show into A/,
  },
  { what: 'a service not prepared', on: 'asking', source: 'PUTB 1\nASK\nHALT', told: '2 service-not-prepared', says: /number into A/ },
  {
    what: 'a base forgotten in a short form',
    on: 'gannet',
    source: 'start PUT R1, #FF\nHALT',
    told: '1 unknown-name',
    says: /0xFF/,
    mended: 'start PUT R1, #0xFF',
  },
  {
    what: 'a name misspelt in a short form that has it twice',
    on: 'twice',
    source: 'TWICE levle\nHALT\nlevel = 3',
    told: '1 unknown-name',
    says: /Did you mean level/,
    mended: 'TWICE level',
  },
  {
    what: 'a value too great for both lines of a short form',
    on: 'twice',
    source: 'TWICE 999\nHALT',
    told: '1 value-out-of-range',
    says: /999/,
  },
  { what: 'a routine without an end', source: 'CALL a\nHALT\n.routine a\nRET', told: '3 routine-without-end', says: /Write \.end/ },
  {
    what: 'two routines of one name with names of their own',
    source: 'CALL a\nHALT\n.routine a\nagain INC\nJUMPZ again\nRET\n.end\n.routine a\nJUMPZ again\nRET\n.end',
    told: '8 name-twice',
    says: /on line 3 already/,
  },
  { what: 'an end without a routine', source: 'HALT\n.end', told: '2 end-without-routine', says: /No routine is open/ },
  {
    what: 'a routine inside a routine',
    source: 'HALT\n.routine a\nRET\n.routine b\nRET\n.end',
    told: '4 routine-open',
    says: /line 2 has not ended/,
    mended: '.end',
  },
  {
    what: 'a directive misspelt',
    source: 'HALT\n.orgin 5',
    told: '2 unknown-operation',
    says: /Did you mean \.origin/,
    mended: '.origin 5',
  },
  { what: 'a name that is known only later', source: '.room n\nHALT\nn = 4', told: '1 not-yet-known', says: /further down/ },
  { what: 'constants in a circle', source: 'a = b\nb = a\nLOAD #a\nHALT', told: '1 constant-circle', says: /defined by itself/ },
  { what: 'a division by 0', source: 'n = 0\nLOAD #5 / n\nHALT', told: '2 division-by-zero', says: /divides by 0/ },
  { what: 'a bracket left open', source: 'LOAD #(1 + 2\nHALT', told: '1 bracket-open', says: /closing bracket/ },
  { what: 'code past the end', source: 'HALT\n.origin 255\nLOAD 1\nLOAD 2\nHALT', told: '3 address-outside', says: /past the end of M/ },
  {
    what: 'cells of the system program',
    on: 'gannet',
    source: '.origin 0xE100\nHALT',
    told: '2 cells-reserved',
    says: /belong to the system program/,
  },
  {
    what: 'an instruction among data',
    on: 'dunlin',
    source: 'HALT\n.space DATA\nHALT',
    told: '3 instruction-outside',
    says: /Write \.space PROG/,
  },
  {
    what: 'a memory that is none',
    on: 'dunlin',
    source: 'HALT\n.space DATE\n.cells 1',
    told: '2 unknown-space',
    says: /It has: PROG, DATA/,
  },
  {
    what: 'a part that the course does not have',
    source: '.include "averages"\nHALT',
    told: '1 unknown-part',
    says: /The course has no part/,
  },
  { what: 'a base that is none', source: '.base 12\nHALT', told: '1 unknown-base', says: /2, 8, 10 or 16/ },
  { what: 'a declared place that is nowhere', source: 'HALT\n.input level', told: '2 declared-nowhere', says: /is no label/ },
  {
    what: 'an operation of another machine, alone on its line',
    source: 'CALL half\nHALT\nhalf SHR\nRTN\nRET',
    told: '4 lone-name',
    says: /“RTN” is no operation .* Did you mean RET\? If it is meant as a label, put a colon behind it\./,
    mended: 'RET',
  },
  {
    what: 'a name alone on its line that is near nothing',
    source: 'LOAD #1\nsomewhere\nHALT',
    told: '2 lone-name',
    says: /no operation of this machine, and nothing uses it as a name\. If/,
    mended: 'somewhere:',
  },
  {
    what: 'a comment that was copied and not adapted',
    source: 'CALL half\nCALL double\nHALT\n; half of the level\nhalf SHR\nRET\n; half of the level\ndouble SHL\nRET',
    told: '7 comment-of-another',
    says: /names half, and stands at double/,
  },
  {
    what: 'the only service that is prepared, and forgotten',
    on: 'asking',
    source: 'PUT 7\nHALT',
    told: '1 service-not-asked',
    says: /number of show into A/,
  },
  { what: 'nothing to run', source: '; later', told: '1 nothing-to-run', says: /no instruction/ },
  { what: 'a sign at the start', source: 'HALT\n+ 4', told: '2 line-starts-wrong', says: /cannot start/ },
  { what: 'a digit that the base does not have', source: 'LOAD #0b12\nHALT', told: '1 bad-number', says: /no .*number/ },
];

test(`there are ${MISTAKES.length} mistakes, and none twice`, () => {
  expect(MISTAKES.length).toBeGreaterThanOrEqual(40);
  expect(new Set(MISTAKES.map((each) => each.what)).size).toBe(MISTAKES.length);
});

test.each(MISTAKES.map((each) => [each.what, each] as const))('%s', (_what, { on = 'curlew', source, told, says, mended }) => {
  const { problems, program } = assemble(machines.get(on)!, source);
  expect(problems.map((each) => `${each.line} ${each.code}`)).toEqual([told]);
  const [problem] = problems;
  expect(problem!.sentence).toMatch(says);
  expect(problem!.sentence).not.toMatch(/undefined|NaN/);
  expect(program === undefined).toBe(problem!.grade === 'error');
  if (mended === undefined) return;
  const [edit] = problem!.mend!.edits;
  const text = source.slice(0, edit!.span.start) + edit!.text + source.slice(edit!.span.end);
  expect(text.split('\n')[problem!.line - 1]).toBe(mended);
  expect(assemble(machines.get(on)!, text).problems.some((each) => each.code === problem!.code)).toBe(false);
});

const switchable = MISTAKES.filter(({ told }) => CHECKS.some((each) => told.endsWith(` ${each.code}`)));

test.each(switchable.map((each) => [each.told.split(' ')[1]!, each] as const))(
  'the check %s can be switched off',
  (code, { on = 'curlew', source }) => {
    const off = new Set(CHECKS.flatMap((each) => (each.code === code ? [each.code] : [])));
    const { problems, program } = assemble(machines.get(on)!, source, { off });
    expect(problems).toEqual([]);
    expect(program).toBeDefined();
  },
);

test('every check but one is among the mistakes, and that one needs a machine that aligns', () => {
  const met = new Set(switchable.map((each) => each.told.split(' ')[1]));
  expect(CHECKS.map((each) => each.code).filter((each) => !met.has(each))).toEqual(['aligned']);
});

test('a name alone on its line is a label where anything uses it, at the start of the program, and with a colon', () => {
  const codes = (source: string) => assemble(curlew, source).problems.map((each) => `${each.line} ${each.code}`);
  expect(codes('start\n LOAD #1\nagain\n DEC\n JUMPNZ again\n HALT')).toEqual([]);
  expect(codes('LOAD #1\nend_of_it:\nHALT')).toEqual(['2 never-used']);
  expect(codes('LOAD #1\nagain\nDEC\nJUMPNZ agian\nHALT')).toEqual(['4 unknown-name']);
  const { problems, partial } = assemble(curlew, 'LOAD #1\nRTN\nHALT');
  expect(mendsOf(problems[0]!).map((each) => each.title)).toEqual(['Write RET', 'Write RTN:']);
  expect(partial!.stops).toEqual([2]);
});

test('a bare jump target where no label stands offers to make one', () => {
  const source = 'LOAD #9\n  DEC ; down\n  JUMPNZ 2\nHALT\nat2 .cells at2';
  const [problem] = assemble(curlew, source).problems;
  expect(problem).toMatchObject({ line: 3, code: 'bare-target', mend: { title: 'Name line 2 at2_2' } });
  let text = source;
  for (const { span, text: put } of problem!.mend!.edits.toReversed()) text = text.slice(0, span.start) + put + text.slice(span.end);
  expect(text).toBe('LOAD #9\n  at2_2: DEC ; down\n  JUMPNZ at2_2\nHALT\nat2 .cells at2');
  expect(assemble(curlew, text).problems).toEqual([]);
});

import { exampleOf } from '../../machine/model/examples';
import type { Machine } from '../../machine/model/machine';
import { demoMachines, fixtures, machineFrom } from '../../testing/demo';
import { withMend } from '../../testing/mending';
import { DECIMAL } from '../../text/number';
import { mendsOf, type Problem } from '../../text/diagnostic';
import { assemble } from '../assemble';
import { tokenizeLine } from '../read/tokenize';

const machines: readonly Machine[] = [...demoMachines, ...fixtures].map((each) => machineFrom(each.text));
const named = (name: string): Machine => machines.find((each) => each.name === name)!;

const errorsOf = (machine: Machine, text: string): readonly Problem[] =>
  assemble(machine, text).problems.filter((each) => each.grade === 'error');

test.each<[wrong: string, says: string, mend: string | undefined]>([
  ['PUT R1 #5', '“,” is missing behind R1. It is written: PUT to, #value.', 'PUT R1, #5'],
  ['PUT R1, 5', '“#” is missing before 5. It is written: PUT to, #value.', 'PUT R1, #5'],
  ['LOAD R3, [R4 + 0', '“]” is missing behind 0. It is written: LOAD d, [a + value].', 'LOAD R3, [R4 + 0]'],
  ['LOAD R3, R4 + 0]', '“[” is missing before R4. It is written: LOAD d, [a + value].', 'LOAD R3, [R4 + 0]'],
  ['ADD R9, R1, R2', 'There is no “R9” here. Did you mean R0? It is written: ADD d, a, b.', 'ADD R0, R1, R2'],
  ['ADD RO, R1, R2', 'There is no “RO” here. Did you mean R0? It is written: ADD d, a, b.', 'ADD R0, R1, R2'],
  ['ADD R1,, R2, R3', '“,” does not belong here. It is written: ADD d, a, b.', 'ADD R1, R2, R3'],
  ['JUMP #0', '“#” does not belong here. It is written: JUMP target.', 'JUMP 0'],
  ['ADD R1, R2', 'ADD takes 3 operands, and 2 stand here. It is written: ADD d, a, b  or  ADD d, a, #value.', undefined],
  ['HALT R1', 'HALT takes no operand, and one stands here. It is written: HALT.', undefined],
  ['PUT', 'PUT takes 2 operands, and none stands here. It is written: PUT to, #value.', undefined],
  [
    'LOAD R2, [R4 + R1]',
    '“R1” is a register, where a number or a name is expected. It is written: LOAD d, [a + value]  or  LOAD d, place.',
    undefined,
  ],
  ['LOAD R2, (R4 + 0)', '“R4” is a register, where a number or a name is expected.', undefined],
  ['JUMPGT level', 'JUMP cannot end with “GT”: Z, EQ, NZ, NE, N, P, C, NC, L can stand there.', undefined],
  ['ADD level, R1, R2', '“level” cannot stand here, but R0, R1, R2, R3, R4, R5, R6, R7 can. It is written: ADD d, a, b.', undefined],
])('On Gannet “%s” is told as what it is', (wrong, says, mend) => {
  const text = `        ${wrong}\nlevel   .cells 1`;
  const problems = errorsOf(named('Gannet'), text);
  expect(problems.map((each) => each.sentence)).toEqual([says]);
  const offered = problems[0]!.mend && withMend(text, problems[0]!.mend).split('\n')[0]!.trim().replace(', ,', ',');
  expect(offered).toBe(mend);
});

test.each<[wrong: string, says: RegExp, mend: string | undefined]>([
  ['PUT R1, #5 // five', /^A remark begins with a semicolon here, not with “\/\/”\.$/, 'PUT R1, #5 ; five'],
  ["PUT R1, #5 /* don't */", /^A remark begins with a semicolon here, not with “\/\*”\.$/, "PUT R1, #5 ; don't */"],
  ['PUT R1, #5 # five', /^A remark begins with a semicolon here, not with “#”\.$/, 'PUT R1, #5 ; five'],
  ['HALT -- the end', /^A remark begins with a semicolon here, not with “--”/, 'HALT ; the end'],
  ['HALT ! the end', /^A remark begins with a semicolon here, not with “!”/, 'HALT ; the end'],
  ['// a whole line', /not with “\/\/”\.$/, '; a whole line'],
  ['# a whole line', /not with “#”\.$/, '; a whole line'],
  ['-- a whole line', /not with “--”\.$/, '; a whole line'],
  ['* a whole line', /not with “\*”\.$/, '; a whole line'],
  ['PUT R1, #$1F', /^“\$1F” is no number here: it is written 0x1F\./, 'PUT R1, #0x1F'],
  ['PUT R1, #%101', /^“%101” is no number here: it is written 0b101\./, 'PUT R1, #0b101'],
  ['PUT R1, #1Fh', /^“1Fh” is no number here\. A hexadecimal number starts with 0x: 0x1F\.$/, 'PUT R1, #0x1F'],
  ['PUT R1, #17q', /^“17q” is no number here\. An octal number starts with 0o: 0o17\.$/, 'PUT R1, #0o17'],
  ['.word 5', /^There is no directive “\.word”\. There are: \.origin, \.start, \.cells,/, undefined],
  ['.cell 5', /^There is no directive “\.cell”\. Did you mean \.cells\?$/, '.cells 5'],
])('Habits from elsewhere: “%s” is told in one sentence', (wrong, says, mend) => {
  const problems = errorsOf(named('Gannet'), `        ${wrong}\n        HALT`);
  expect(problems.map((each) => each.sentence)).toEqual([expect.stringMatching(says)]);
  expect(problems[0]!.mend && withMend(`        ${wrong}`, problems[0]!.mend).trim()).toBe(mend);
});

test('A name that the program has not is no value that lacks its mark; one that it has is', () => {
  const says = (text: string): string => errorsOf(named('Gannet'), text)[0]!.sentence;
  expect(says(' ADD R1, R2, tide\n HALT')).toMatch(/^“tide” cannot stand here, but R0/);
  expect(says(' ADD R1, R2, tide\n HALT\ntide = 4')).toMatch(/^“#” is missing before tide/);
});

/** Lines that are written as every machine of the house writes them, each with one of its marks left out or put twice. */
const slips = machines.flatMap((machine) =>
  machine.forms.flatMap((form) => {
    const line = exampleOf(machine, form)?.line;
    if (line === undefined) return [];
    const marks = tokenizeLine(line, 0, DECIMAL, []).filter((each) => each.kind === 'sign');
    return marks.flatMap(({ start, end, text }) => [
      { machine, line: line.slice(0, start) + line.slice(end) },
      { machine, line: line.slice(0, end) + text + line.slice(end) },
    ]);
  }),
);

test('On every machine, a mend that is offered for a mark makes the line right', () => {
  expect(slips.length).toBeGreaterThan(200);
  let offered = 0;
  for (const { machine, line } of slips) {
    const text = ` ${line}`;
    for (const problem of errorsOf(machine, text).filter((each) => each.code === 'operands-do-not-fit')) {
      for (const mend of mendsOf(problem)) {
        offered++;
        expect([machine.name, line, mend.title, errorsOf(machine, withMend(text, mend)).map((each) => each.code)]).toEqual([
          ...[machine.name, line, mend.title],
          expect.not.arrayContaining(['operands-do-not-fit']),
        ]);
      }
    }
  }
  expect(offered).toBeGreaterThan(60);
});

/** On the demo's first machine, whose jumps end with a condition, and whose names are easily taken for labels. */
test.each<[wrong: string, says: RegExp, mend: string | undefined]>([
  ['JUMPGE a', /^JUMP cannot end with “GE”: Z, EQ, .*, L can stand there\.$/, undefined],
  ['JUMPNNZ a', /^This machine has no operation “JUMPNNZ”\. Did you mean JUMPNZ\?$/, 'JUMPNZ a'],
  ['JUMPFORWARD a', /^This machine has no operation “JUMPFORWARD”\./, undefined],
  ['LOAD #5 ADD #6', /^“ADD” begins a second instruction\. Each stands on a line of its own\.$/, 'LOAD #5\n        ADD #6'],
  ['NOT NOT', /^“NOT” begins a second instruction/, 'NOT\n        NOT'],
  ['.cells 1 2 3, 4', /^A comma is missing before 2\.$/, '.cells 1, 2, 3, 4'],
  ['.cells 1 ) 2', /^“\)” is too much on this line\./, undefined],
  ['.org 0x20', /Did you mean \.origin\?$/, '.origin 0x20'],
  ['.str "a"', /Did you mean \.string\?$/, '.string "a"'],
])('What students write: “%s” is told in one sentence', (wrong, says, mend) => {
  const text = `a       NOP\n        ${wrong}\n`.replace('NOP', 'HALT');
  const problems = errorsOf(named('Curlew'), text);
  expect(problems.map((each) => each.sentence)).toEqual([expect.stringMatching(says)]);
  const offered = problems[0]!.mend && withMend(text, problems[0]!.mend).split('\n').slice(1).join('\n').trim();
  expect(offered?.replaceAll(',  ', ', ').replace(/(\d) ?,(?=\d)/g, '$1, ')).toBe(mend);
});

test('A label that is an operation is told where it stands, once; with a colon it is one', () => {
  const text = '        CALL sub\n        CALL sub\n        HALT\nsub     LOAD #5\n        RET\n';
  const [problem, more] = errorsOf(named('Curlew'), text);
  expect([problem!.line, problem!.sentence, more]).toEqual([
    4,
    expect.stringMatching(/^“sub” is an operation .* needs a colon/),
    undefined,
  ]);
  expect(errorsOf(named('Curlew'), withMend(text, problem!.mend!))).toEqual([]);
  const [either] = errorsOf(named('Curlew'), 'NOT LOAD #5\n HALT');
  expect(mendsOf(either!).map((each) => each.title)).toEqual(['Put it on a line of its own', 'Write NOT:']);
});

import fc from 'fast-check';
import { assemble } from '../../assembler/assemble';
import { programFrom, quayCount, curlew } from '../../testing/demo';
import { smallMachine } from '../../testing/small';
import { normalForm } from './alike';
import { readAssignment, type Assignment, type AssignmentTexts } from './assignment';
import { hashOfBundle, looksLikeBundle, readBundle, sealed, sha256Of, type Bundle } from './bundle';
import { HandInCheck, type CheckedHandIn } from './check';
import { claimsBroken, finalState } from './claims';
import { missingFrozen } from './frozen';
import { alikeOf, mistakeGroups } from './groups';
import { labelsOf, plainLabel } from './labels';
import { readCsv, withoutGuard } from '../../formats/csv';
import { Judge } from '../judge/run';
import { marksCsv, marksOf, USUAL_RULE } from './marks';

function assignmentFrom(texts: AssignmentTexts): Assignment {
  const assignment = readAssignment(texts);
  if ('wrong' in assignment) throw new Error(assignment.wrong);
  return assignment;
}

const checker = new HandInCheck(assignmentFrom(quayCount.texts));
const checked = new Map(quayCount.handIns.map(({ label, source }) => [label, checker.check(source)]));

const MISTAKES: readonly (readonly [string, number, string | undefined, number | undefined])[] = [
  ['bench 01', 7, undefined, undefined],
  ['bench 02', 2, 'branch JUMPZ JUMPC', 9],
  ['bench 03', 4, 'branch JUMPN JUMPC', 9],
  ['bench 04', 2, 'base 96 0x96', 3],
  ['bench 05', 0, 'halt', 17],
  ['bench 06', 0, 'place', 15],
  ['bench 07', 7, undefined, undefined],
  ['bench 08', 0, 'assembly lone-name', 11],
  ['bench 09', 2, 'branch JUMPZ JUMPC', 11],
  ['bench 10', 1, 'mode CMP … CMP #…', 8],
  ['bench 12', 2, 'base 96 0x96', 7],
  ['bench 13', 0, 'target', 17],
  ['bench 14', 0, 'place', 17],
  ['bench 15', 3, 'next', 15],
  ['bench 16', 4, 'leaves over', undefined],
  ['bench 18', 0, 'halt', 19],
  ['bench 21', 0, 'assembly unknown-name', 15],
  ['bench 22', 5, 'leaves over', undefined],
  ['bench 24', 7, undefined, undefined],
];
test.each(MISTAKES)('%s: %i sets hold, and its mistake is %s', (label, holds, key, line) => {
  const found = checked.get(label)!;
  expect({ holds: found.holds, key: found.mistake?.key, line: found.mistake?.line }).toEqual({ holds, key, line });
  expect(found.rows.length).toBe(key?.startsWith('assembly') ? 0 : 7);
});

test('a mistake is proven: the sentence says with which change how many sets hold', () => {
  expect(checked.get('bench 02')!.mistake!.here).toBe('With JUMPC in place of JUMPZ on line 9, 7 of 7 sets hold; as it is, 2.');
  expect(checked.get('bench 05')!.mistake!.here).toBe('With HALT behind line 17, 7 of 7 sets hold; as it is, 0.');
});

const CALLS = `start LOAD level
 CALL twice
 CALL onward
 STORE later
 HALT
twice SHL
 RET
onward INC
 RET
level .cells 4
later .cells 0
 .output later`;
const calling = new HandInCheck(
  assignmentFrom({
    ...{ ...quayCount.texts, frame: '', solution: CALLS },
    sets: 'zettak: sets\nversion: 1\nsets:\n  - {name: one, expected: {later: 9}}\n  - {name: two, given: {level: 7}, expected: {later: 15}}\n',
  }),
);

test.each([
  [' HALT\n', 'halt', 'With HALT behind line 4, 2 of 2 sets hold; as it is, 0.', 'runs on behind its last instruction: HALT is missing'],
  [' SHL\n RET\n', 'return', 'With RET behind line 6, 2 of 2 sets hold; as it is, 0.', 'a routine does not come back: RET is missing'],
  [' INC\n RET\n', 'return', 'With RET behind line 8, 2 of 2 sets hold; as it is, 0.', 'a routine does not come back: RET is missing'],
])('without %j it is told what is missing, where a routine is run into', (ending, key, here, sentence) => {
  const found = calling.check(CALLS.replace(ending, ending.replace(/ (HALT|RET)\n/, '')));
  expect(found.mistake).toMatchObject({ key, here, sentence });
});

test('a round that no single change ends is told with its instructions', () => {
  const { mistake } = checker.check('start LOADX #0\nround CMPX #4\n INCX\n DECX\n JUMP round\ncount .cells 0\n .output count\n');
  expect(mistake).toMatchObject({ key: 'round CMPX INCX DECX JUMP', line: 2 });
  expect(mistake!.sentence).toBe('never halts: round of 4 instructions (CMPX INCX DECX JUMP)');
});

test('the first difference says what was expected, what came, and at which instruction the run parts from the teacher’s', () => {
  const { first } = checked.get('bench 03')!;
  expect(first).toMatchObject({ set: 'just the edge', parts: { line: 9 } });
  expect(first!.sentence).toBe('In “just the edge” count became 3; 2 was expected. So did output.');
  expect(first!.parts!.sentence).toMatch(
    /^At instruction 13 .* JUMPN below on line 9: Fell through .*because N is 0.*JUMPC below.*taken, because C is 1/,
  );
});

test('the tick of the first difference is where the instruction of its line begins', () => {
  const { first } = checked.get('bench 06')!;
  expect(first!.parts!.sentence).toMatch(/JUMPNZ round on line 15/);
  expect(first!.parts!.tick).toBeGreaterThan(0);
  expect(first!.parts!.teacherTick).toBe(first!.parts!.tick);
});

test('the teacher’s own program is what the dots are compared with', () => {
  expect(checker.teacher()).toEqual({ holds: 7, ticks: 236, cells: 24 });
});

const members = quayCount.handIns.map(({ label, source }, id) => ({ id, label, hash: sha256Of(source), checked: checked.get(label) }));
const labelsIn = (ids: readonly number[]): string[] => ids.map((id) => members[id]!.label);

test('hand-ins with the same mistake fall together, largest group first', () => {
  const groups = mistakeGroups(members);
  expect(labelsIn(groups.find((each) => each.key === 'base 96 0x96')!.members)).toEqual(['bench 04', 'bench 12', 'bench 20']);
  const sizes = groups.map((each) => each.members.length);
  expect(sizes).toEqual([...sizes].sort((a, b) => b - a));
  expect(groups.flatMap((each) => each.members).length).toBe(members.filter((each) => each.checked?.mistake).length);
});

test('programs that are equal up to names, order of data and blank lines are told, and no others', () => {
  expect(alikeOf(members).map((each) => [each.kind, labelsIn(each.members)])).toEqual([['renamed', ['bench 07', 'bench 19']]]);
});

test('one text under two labels is told as the same, and a second hand-in of one label is not', () => {
  const twice = [members[0]!, { ...members[0]!, id: 90, label: 'bench 90' }, { ...members[1]!, id: 91 }];
  expect(alikeOf(twice)).toEqual([{ kind: 'same', members: [0, 90] }]);
});

test('names of any kind leave the normal form alone; another value, instruction or order of instructions does not', () => {
  const text = (a: string, b: string, first: string, second: string) =>
    `start LOAD ${a}\n ADD ${b}\n STORE ${a}\n CMP #7\n JUMPZ start\n HALT\n${first}\n${second}`;
  const form = (source: string) => normalForm(curlew, programFrom(curlew, source));
  const own = form(text('low', 'high', 'low .cells 3', 'high .cells 9'));
  const name = fc.stringMatching(/^[a-z]{3,8}q$/);
  fc.assert(
    fc.property(name, name, fc.boolean(), (a, b, turned) => {
      fc.pre(a !== b);
      const data = [`${a} .cells 3`, `${b} .cells 9`];
      if (turned) data.reverse();
      expect(form(text(a, b, data[0]!, `; a remark\n\n${data[1]!}`))).toBe(own);
    }),
    { numRuns: 40 },
  );
  expect(form(text('low', 'high', 'low .cells 4', 'high .cells 9'))).not.toBe(own);
  expect(form(text('low', 'high', 'low .cells 3', 'high .cells 9').replace('CMP #7', 'CMP #8'))).not.toBe(own);
  expect(form(text('low', 'high', 'low .cells 3', 'high .cells 9').replace('ADD high\n STORE low', 'STORE low\n ADD high'))).not.toBe(own);
});

const HOP = smallMachine({ ticks: { INCB: 'B <- B + 1' } }).replace(
  'instructions:\n',
  `instructions:
  HOP:
    forms:
      - write: 'HOP {value}'
        code: both opcode=60
        execute: PC <- next + value
`,
);

test('a jump by a count of cells that takes PC for the current instruction is told as that', () => {
  const sets = 'zettak: sets\nversion: 1\nsets:\n  - {name: one, expected: {B: 1}}\n  - {name: two, given: {B: 4}, expected: {B: 5}}\n';
  const solution = 'PUT 0\nHOP 1\nHALT\nINCB\nHALT\n';
  const assignment = assignmentFrom({ machine: HOP, language: 1, bases: {}, parts: {}, frame: '', solution, sets });
  const { mistake, holds } = new HandInCheck(assignment).check('PUT 0\nHOP 3\nHALT\nINCB\nHALT\n');
  expect(holds).toBe(0);
  expect(mistake).toMatchObject({
    key: 'next',
    line: 2,
    here: expect.stringMatching(/^With 1 in place of 3 on line 2, 2 of 2 sets hold/) as string,
  });
});

/** Conditions, ways and names of places are operands here: what is to be told of them is no other operation. */
const IF = smallMachine({
  ticks: { DEC: 'A <- A - 1 ; flags Z N', INCB: 'B <- B + 1' },
  parts: `flags: {Z: {rule: zero}, N: {rule: negative}}
conditions:
  SAME: {code: 1, when: Z = 1, also: EQ}
  OTHER: {code: 2, when: Z = 0}
  BELOW: {code: 3, when: N = 1}`,
})
  .replace('cycle:\n', '  jump: opcode 4, c 4 condition, to 8\n  step: opcode 8, way 8 names up=1 down=2\ncycle:\n')
  .replace(
    'instructions:\n',
    `instructions:
  IF: {forms: [{write: 'IF {c}, {to}', code: jump opcode=9, execute: 'if c holds: PC <- to'}]}
  STEP: {forms: [{write: 'STEP {way}', code: step opcode=60, execute: 'if way = 1: B <- B + 1 else B <- B - 1'}]}
`,
  );
const COUNTED = 'start PUT 3\nround INCB\n DEC\n IF OTHER, round\n STEP up\nover INCB\n HALT\n';
const counted = new HandInCheck(
  assignmentFrom({
    ...{ machine: IF, language: 1, bases: {}, parts: {}, frame: '', solution: COUNTED },
    sets: 'zettak: sets\nversion: 1\nsets:\n  - {name: none, expected: {B: 5}}\n  - {name: two, given: {B: 2}, expected: {B: 7}}\n',
  }),
);
test.each([
  ['IF OTHER,', 'IF eq,', 'branch EQ OTHER', 'EQ where OTHER is to be asked', 'With OTHER in place of EQ on line 4'],
  ['STEP up', 'STEP down', 'operation DOWN up', 'DOWN where up is meant', 'With up in place of DOWN on line 5'],
  ['OTHER, round', 'OTHER, over', 'place', 'jumps to another place than is meant', 'With round in place of over on line 4'],
])('with %s written as %s the mistake is %s', (was, written, key, sentence, change) => {
  const { mistake, holds } = counted.check(COUNTED.replace(was, written));
  expect(holds).toBe(0);
  expect(mistake).toMatchObject({ key, sentence, here: `${change}, 2 of 2 sets hold; as it is, 0.` });
});

test('a cell of data in the place of another is told as that', () => {
  const solution = 'start LOAD high\n SUB low\n STORE rise\n HALT\nlow .cells 3\nhigh .cells 9\nrise .cells 0\n';
  const sets =
    'zettak: sets\nversion: 1\nsets:\n  - {name: one, expected: {rise: 6}}\n  - {name: two, given: {low: 1}, expected: {rise: 8}}\n';
  const { machine, language } = quayCount.texts;
  const check = new HandInCheck(assignmentFrom({ machine, language, bases: {}, parts: {}, frame: '', solution, sets }));
  expect(check.check(solution.replace('SUB low', 'SUB high')).mistake).toMatchObject({
    key: 'name',
    sentence: 'takes another of its own data than is meant',
    here: 'With low in place of high on line 2, 2 of 2 sets hold; as it is, 0.',
  });
});

test('a flag that the same instruction sets otherwise is told as that, with the instruction', () => {
  const check = new HandInCheck(
    assignmentFrom({
      ...{ machine: quayCount.texts.machine, language: quayCount.texts.language, bases: {}, parts: {}, frame: '' },
      solution: 'start LOAD x\n AND #0x3F\n CMP low\n HALT\nx .cells 21\nlow .cells 22\n',
      sets: 'zettak: sets\nversion: 1\nsets:\n  - {name: one, expected: {C: 1}}\n  - {name: two, given: {x: 22}, expected: {C: 0}}\n',
    }),
  );
  const { mistake, first } = check.check('start LOAD x\n AND #0x3F\n CMP low\n HALT\nx .cells 21\nlow .cells 3\n');
  expect(mistake).toMatchObject({ key: 'flag C', sentence: "C is set otherwise than in the teacher's", line: 3 });
  expect(mistake!.here).toMatch(/^CMP low: /);
  expect(first!.parts!.sentence).toMatch(/^The same instructions, but other values from instruction 3 on\./);
});

test('how a run stood at its end is one text, whoever ran it, and with which other sets', () => {
  const { machine, table } = assignmentFrom(quayCount.texts);
  const shown = { ...table, sets: table.sets.filter((each) => !each.hidden) };
  for (const { label, source } of quayCount.handIns) {
    const { program } = assemble(machine, source, { parts: new Map(Object.entries(quayCount.texts.parts)) });
    if (!program) continue;
    const judge = new Judge({ machine, program, table: shown });
    const here = shown.sets.map((each) => finalState(judge.row(each)));
    const there = checked.get(label)!.rows.filter((each) => !each.hidden);
    expect(there.map((each) => each.final)).toEqual(here);
  }
  expect(checked.get('bench 01')!.rows[0]!.final).toMatch(/^count = 0; output = 0\n; Z = 1; N = 0; C = 0/);
});

test('limits are kept: too many cells is a mistake of its own, and an endless program ends', () => {
  const tight = new HandInCheck(assignmentFrom({ ...quayCount.texts, mostCells: 20 }));
  expect(tight.check(quayCount.texts.solution).mistake).toMatchObject({
    key: 'cells',
    here: 'It takes 24 cells; at most 20 are asked for.',
  });
  const counting = checker.check(
    'start LOAD a\n INC\n STORE a\n LOAD b\n ADDC #0\n STORE b\n JUMP start\na .cells 0\nb .cells 0\ncount .cells 0\n',
  );
  expect(counting.rows.map((each) => each.end)).toContain('out of ticks');
  expect(counting.mistake?.key).toBe('ticks');
});

test('anything at all can be handed in: every text is checked to an end', () => {
  fc.assert(
    fc.property(
      fc.oneof(fc.string(), fc.string({ unit: 'binary' }), fc.constantFrom('\0', ';', '.origin 9999999', 'HALT'.repeat(99))),
      (text) => {
        const found = checker.check(text);
        expect(found.errors === undefined || found.errors.length > 0).toBe(true);
      },
    ),
    { numRuns: 60 },
  );
});

test('an assignment that cannot be checked says why', () => {
  expect(readAssignment({ ...quayCount.texts, machine: 'machine: x' })).toMatchObject({
    wrong: expect.stringMatching(/^The machine cannot be read/) as string,
  });
  expect(readAssignment({ ...quayCount.texts, sets: 'no: sets' })).toMatchObject({
    wrong: expect.stringMatching(/^The sets cannot be read/) as string,
  });
  expect(readAssignment({ ...quayCount.texts, solution: 'LOAD nowhere' })).toMatchObject({
    wrong: expect.stringMatching(/^The teacher's program .*Line 1/) as string,
  });
});

test('given lines may have others between them, with other blanks; a changed or moved one is told', () => {
  const frame = 'one LOAD #1 ;!\n; yours\ntwo   HALT   ;!\n';
  expect(missingFrozen(frame, 'one  LOAD #1\nADD #2\ntwo HALT ;!')).toEqual([]);
  expect(missingFrozen(frame, 'two HALT ;!\none LOAD #1 ;!')).toEqual(['two HALT']);
  expect(missingFrozen(frame, 'one LOAD #2\ntwo HALT')).toEqual(['one LOAD #1']);
});

const LABELS: readonly (readonly [string, string, boolean])[] = [
  ['bench 7.asm', 'bench 07', true],
  ['Week 5/bench-12.asm', 'bench 12', true],
  ['week5/group_3/program.asm', 'group 03', true],
  ['bench_007_final.asm', 'bench 07', true],
  ['41207_submission_file/quay.asm', 'quay', false],
  ['a/main.asm', 'a', false],
  ['../../etc/passwd.asm', 'passwd', false],
  ['\u202Etxt.asm', 'txt', false],
  ['.asm', 'without a name', false],
];
test.each(LABELS)('%j is labelled %s', (file, label, clear) => {
  expect(labelsOf([file])).toEqual([{ file, label, clear }]);
});

test('two files with one label are both unclear', () => {
  expect(labelsOf(['a/bench 1.asm', 'b/bench 01.asm']).map((each) => each.clear)).toEqual([false, false]);
});

const content: Omit<Bundle, 'hash'> = {
  ...{ zettak: 'hand-in', version: 1, assignment: 'quay-count', state: 'ab', machine: { name: 'Curlew', version: 1 }, label: 'bench 02' },
  ...{
    handedInAt: '2026-11-26T10:00:00Z',
    source: 'HALT',
    sets: '',
    journal: [{ at: '2026-11-26T09:00:00Z', what: 'assembled', says: '2 errors' }],
  },
  results: [{ set: 'calm', verdict: 'holds', ticks: 10, instructions: 3, end: 'halted' }],
};

test('a bundle carries a sum over all of it: any change of it shows', () => {
  const own = sealed(content);
  const text = JSON.stringify(own);
  expect(looksLikeBundle(text)).toBe(true);
  expect(readBundle(text)).toEqual({ bundle: own, whole: true });
  expect(readBundle(text.replace('HALT', 'STOP'))).toMatchObject({ whole: false });
  // The order in which a file has its fields is no change.
  expect(readBundle(JSON.stringify(Object.fromEntries(Object.entries(own).reverse())))).toMatchObject({ whole: true });
  expect(hashOfBundle({ ...content, label: 'bench 03' })).not.toBe(own.hash);
  expect(sha256Of('abc')).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
});

test('what is no bundle is refused with its place', () => {
  expect(readBundle('{')).toEqual({ wrong: 'This hand-in is no JSON.' });
  expect(readBundle('{"zettak":"sets"}')).toMatchObject({ wrong: expect.stringMatching(/zettak: this is no hand-in of Zettak/) as string });
  expect(readBundle(JSON.stringify({ ...sealed(content), more: 1 }))).toMatchObject({ wrong: expect.any(String) as string });
});

test('claims are compared with the re-run, hidden sets and all', () => {
  const row = { set: 'calm', verdict: 'differs', ticks: 10 } as CheckedHandIn['rows'][number];
  const found = { rows: [row] } as unknown as CheckedHandIn;
  expect(claimsBroken(content, true, found)).toEqual(['“calm”: said to be “holds”, and is “differs”.']);
  expect(claimsBroken(content, false, { ...found, rows: [{ ...row, verdict: 'holds' }] })).toEqual([
    'The sum over the hand-in is not the one that it carries: it was changed since hand-in.',
  ]);
  expect(claimsBroken(content, true, { ...found, rows: [{ ...row, verdict: 'holds' }] })).toEqual([]);
});

test('points follow the rule: each set, a weight of its own, what assembles, few ticks only where all holds', () => {
  const rule = { ...USUAL_RULE, sets: { b: 3 }, assembles: 2, ticks: { most: 50, points: 4 } };
  const row = (set: string, verdict: 'holds' | 'differs') => ({ set, verdict }) as CheckedHandIn['rows'][number];
  const all = { rows: [row('a', 'holds'), row('b', 'holds')], ticks: 50, cells: 9 };
  expect(marksOf(rule, ['a', 'b'], all)).toEqual({ points: 10, of: 10 });
  expect(marksOf(rule, ['a', 'b'], { ...all, ticks: 51 })).toEqual({ points: 6, of: 10 });
  expect(marksOf(rule, ['a', 'b'], { ...all, rows: [row('a', 'holds'), row('b', 'differs')] })).toEqual({ points: 3, of: 10 });
  expect(marksOf(rule, ['a', 'b'], { ...all, rows: [], errors: [{ line: 1, sentence: '' }] })).toEqual({ points: 0, of: 10 });
});

test('marks are CSV in which no label is taken for a formula', () => {
  const row = { points: 1, of: 2, arrivedAt: 't', late: true, holds: 1, sets: 2, ticks: 3, cells: 4, mistake: 'a "b", c', remark: '' };
  const [, line] = marksCsv([{ ...row, label: '=1+1' }]).split('\r\n');
  expect(line).toBe(`"'=1+1",1,2,1,2,3,4,t,yes,"a ""b"", c",`);
});

test.each([
  ['zero-width blanks', 'bench\u200B\u2060 07'],
  ['a line break', 'bench\n07'],
  ['marks of direction', '\u202Ebench 07\u2069'],
  ['fillers that nobody sees', 'bench\u3164 07\uFE0F'],
])('labels that differ by %s are one', (_, label) => expect(plainLabel(label)).toBe('bench 07'));

test.each(['=1+1', ' =1+1', '\u200B=1+1', 'a\n=1+1', '\t@SUM(A1)', '+1', 'x\r\n -2'])('no cell of a table is a formula: %j', (text) => {
  const row = marksCsv([
    {
      ...{ label: text, points: 1, of: 1, holds: 1, sets: 1, ticks: 1, cells: 1 },
      ...{ arrivedAt: '', late: false, mistake: '', remark: text },
    },
  ]);
  const cells = readCsv(row)[1]!.fields;
  expect([cells[0], cells[10]]).toEqual([expect.stringMatching(/^'/), expect.stringMatching(/^'/)]);
  expect(withoutGuard(cells[0]!).trim()).toBe(text.trim());
});

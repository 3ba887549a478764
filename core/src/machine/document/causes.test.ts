import fc from 'fast-check';
import { readWholeMachine } from '../../assembler/machines';
import { demoMachines, fixtures } from '../../testing/demo';
import { withMend } from '../../testing/mending';
import { mendsOf, type Problem } from '../../text/diagnostic';

const documents = [...demoMachines, ...fixtures].map(({ name, text }) => ({ name: name.toLowerCase(), text }));
const documentOf = (name: string): string => documents.find((each) => each.name === name)!.text;

const errorsOf = (text: string): readonly Problem[] => readWholeMachine(text).problems.filter((each) => each.grade === 'error');

interface Wrong {
  readonly what: string;
  readonly on: string;
  readonly from: string;
  readonly to: string;
  readonly says: RegExp;
  /** What the line of the error has. */
  readonly at: string;
  /** The mend gives the document back as it was. */
  readonly mends?: boolean;
}

test.each<Wrong>([
  {
    what: 'a field that is misspelt where it is defined',
    ...{ on: 'plover', from: 'place: opcode 1, address 3', to: 'place: opcode 1, ddress 3', at: 'ddress 3', mends: true },
    says: /^Nothing names “ddress”, but “address” is named in \d+ places and stands nowhere\. Did you mean address\?$/,
  },
  {
    what: 'a memory that is called as a register is, and named in many ticks',
    ...{ on: 'knot', from: '  MAR: {', to: '  M: {role: general}\n  MAR: {', at: 'title: memory' },
    says: /^M is the name of a register already\. Every name means one thing\.$/,
  },
  {
    what: 'a format that is misspelt where it is defined',
    ...{ on: 'plover', from: 'alone: opcode', to: 'alonne: opcode', at: 'alonne:', mends: true },
    says: /^Nothing names “alonne”, but “alone” is named in \d+ places/,
  },
  {
    what: 'a register that is misspelt where it is defined',
    ...{ on: 'knot', from: '  MAR: {', to: '  MARR: {', at: 'MARR:', mends: true },
    says: /^Nothing names “MARR”, but “MAR” is named in \d+ places/,
  },
  {
    what: 'an instruction whose forms begin otherwise',
    ...{ on: 'curlew', from: '  LOADX:', to: '  LOADXX:', at: 'LOADXX:', mends: true },
    says: /^Nothing names “LOADXX”, but “LOADX” is named in \d+ places/,
  },
  {
    what: 'a field of a request that is misspelt where it is defined',
    ...{ on: 'avocet', from: 'ask: opcode 8, number 8', to: 'ask: opcode 8, nmuber 8', at: 'nmuber', mends: true },
    says: /^Nothing names “nmuber”, but “number” is named in 2 places/,
  },
  {
    what: 'digits without a use that are misspelt',
    ...{ on: 'whinchat', from: 'd 4 register R, zero 20', to: 'd 4 register R, zro 20', at: 'zro 20', mends: true },
    says: /^Nothing gives the field zro a value: .* Digits without a use are called zero or any\. Did you mean zero\?$/,
  },
  {
    what: 'an open brace in an instruction that has a short form of its name',
    ...{
      on: 'dotterel',
      from: "'LDA {a}, {address}({x})'\n        code",
      to: "'LDA {a}, {address({x})'\n        code",
      at: '{address({x})',
    },
    says: /or a brace is open\.$/,
  },
  {
    what: 'a word behind a field that means nothing',
    ...{ on: 'turnstone', from: 'a 4 register R, value 16 signed', to: 'a 4 registeer R, value 16 signed', at: 'registeer' },
    says: /^“registeer” means nothing behind the field a\./,
  },
  {
    what: 'an array that is not there',
    ...{ on: 'dunlin', from: 'r 3 register R', to: 'r 3 register RR', at: 'register RR' },
    says: /^There is no array “RR” on this machine\. Did you mean R\?/,
  },
  {
    what: 'a field written under another name in one form',
    ...{ on: 'sanderling', from: "'JUMP {address}'", to: "'JUMP {addres}'", at: '{addres}' },
    says: /^There is no field “addres” here\. Did you mean address\?/,
  },
  {
    what: 'a key that is misspelt, where the part it belongs to lacks one',
    ...{ on: 'turnstone', from: 'word: {', to: 'wordd: {', at: 'wordd', mends: true },
    says: /^“wordd” means nothing here\. Did you mean word\?/,
  },
  {
    what: 'a key without a blank behind its colon',
    ...{ on: 'dunlin', from: 'pointer: DEPTH', to: 'pointer:DEPTH', at: 'pointer:DEPTH', mends: true },
    says: /^“pointer:DEPTH” means nothing here\. Did you mean pointer\?/,
  },
  {
    what: 'ticks under each other without the bar',
    ...{
      on: 'plover',
      from: 'execute: |\n          MAR <- address\n',
      to: 'execute:\n          MAR <- address\n',
      at: 'execute:',
      mends: true,
    },
    says: /^Ticks on lines of their own stand behind a bar: “execute: \|”\.$/,
  },
  {
    what: 'a tick with an error in the cycle of a machine whose instructions have several cells',
    ...{ on: 'turnstone', from: 'M[PC + 1]', to: 'M[PPC + 1]', at: 'M[PPC + 1]' },
    says: /^This machine has no “PPC”\. Did you mean PC\?/,
  },
  {
    what: 'a formula with an error',
    ...{ on: 'sanderling', from: "formula: 'result[0] = 1'", to: "formula: 'result[0]] = 1'", at: 'result[0]]' },
    says: /^Here the end of the line is expected/,
  },
  {
    what: 'a tick with an error in an instruction that has words of its own',
    ...{ on: 'plover', from: 'MAR <- address, MDR <- ACC', to: 'MAR <- address, MDR := ACC', at: ':=', mends: true },
    says: /^“:=” is written “<-” here\.$/,
  },
  {
    what: 'an instruction register that is too short for the longest instructions',
    ...{ on: 'dunlin', from: 'role: instruction, bits: 16', to: 'role: instruction, bits: 8', at: 'IR:' },
    says: /^IR is too short: the longest format has 2 cells, 16 in width\./,
  },
  {
    what: 'an instruction register that is too short, in a machine whose instructions name the rest of theirs in every tick',
    ...{ on: 'sanderling', from: 'role: instruction, bits: 24', to: 'role: instruction, bits: 16', at: 'IR:' },
    says: /^IR is too short: the longest format has 3 cells, 24 in width\./,
  },
])('$what: one error, at its line', ({ on, from, to, says, at, mends = false }) => {
  const right = documentOf(on);
  expect(right).toContain(from);
  const wrong = right.replace(from, to);
  const errors = errorsOf(wrong);
  expect(errors.map((each) => each.sentence)).toEqual([expect.stringMatching(says)]);
  expect(wrong.split('\n')[errors[0]!.line - 1]).toContain(at);
  if (mends) expect(withMend(wrong, errors[0]!.mend!)).toBe(right);
});

test('two things that are wrong are told both', () => {
  const wrong = documentOf('plover')
    .replace('place: opcode 1, address 3', 'place: opcode 1, ddress 3')
    .replace('MDR <- M[MAR]', 'MDR <- M[MXR]');
  expect(errorsOf(wrong).map((each) => each.code)).toEqual(['misspelt-definition', 'unknown-name']);
});

/** In a line of a document a character is left out, put twice, swapped with the next, or another stands in its place. */
const slip = fc.record({
  ...{ document: fc.nat(documents.length - 1), line: fc.nat(99_999), at: fc.nat(9999), kind: fc.nat(3) },
  other: fc.constantFrom(...'#,[](:;.0xR9 /\'"-{}<=&|*'),
});

test('a slip in a document is one error nearly always, and its mend brings no others', () => {
  const runs = Number(process.env.ZETTAK_RUNS ?? 120);
  const several: string[] = [];
  fc.assert(
    fc.property(slip, ({ document, line, at, kind, other }) => {
      const { name, text } = documents[document]!;
      const lines = text.split('\n');
      const index = line % lines.length;
      const own = lines[index]!;
      if (own.trim() === '') return;
      const indent = own.length - own.trimStart().length;
      const place = indent + (at % (own.length - indent));
      const [before, letter, after] = [own.slice(0, place), own.charAt(place), own.slice(place + 1)];
      const written = [before + after, before + letter + letter + after, before + after.slice(0, 1) + letter + after.slice(1)];
      const wrong = lines.with(index, written[kind] ?? before + other + after).join('\n');
      const errors = errorsOf(wrong);
      if (errors.length > 1) several.push(`${name}: ${lines[index]} > ${errors.map((each) => each.sentence).join(' ')}`);
      for (const problem of errors)
        for (const mend of mendsOf(problem)) {
          const left = errorsOf(withMend(wrong, mend));
          expect({ says: problem.sentence, more: left.length > errors.length && left }).toEqual({ says: problem.sentence, more: false });
        }
    }),
    { numRuns: runs, seed: 20_261_127 },
  );
  expect(several.length).toBeLessThan(runs / 50);
});

test.each([
  ['a width that no register has', 'role: stack pointer, bits: 8,', 'role: stack pointer, bits: 99,'],
  ['a name that is none', 'phases: [Fetch,', 'phases: [Fetch it,'],
])('%s is told at its line, and points to no other', (_what, from, to) => {
  const text = documentOf('curlew');
  expect(text).toContain(from);
  const [error, ...others] = errorsOf(text.replace(from, to));
  expect(others.filter((each) => each.code === 'wrong-shape')).toEqual([]);
  expect(text.replace(from, to).split('\n')[error!.line - 1]).toContain(to);
  expect(error!.related ?? []).toEqual([]);
});

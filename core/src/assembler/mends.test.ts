import fc from 'fast-check';
import { demoMachines, machineFrom } from '../testing/demo';
import { withMend } from '../testing/mending';
import { mendsOf, type Problem } from '../text/diagnostic';
import { assemble } from './assemble';

/** So many slips of the hand, always the same ones. */
const ways = { numRuns: Number(process.env.ZETTAK_RUNS ?? 150), seed: 20_261_127 };

const programs = demoMachines.flatMap(({ text, programs: own, parts }) => {
  const machine = machineFrom(text);
  const known = new Map(parts.map((each) => [each.name, each.text]));
  return own.map((each) => ({ machine, text: each.text, parts: known }));
});

interface Slip {
  readonly program: number;
  readonly line: number;
  readonly at: number;
  readonly kind: number;
  readonly other: string;
}

/** In a line of a program a character is left out, put twice, swapped with the next, or another stands in its place. */
const slips: fc.Arbitrary<Slip> = fc.record({
  ...{ program: fc.nat(programs.length - 1), line: fc.nat(9999), at: fc.nat(9999), kind: fc.nat(3) },
  other: fc.constantFrom(...'#,[](:;.0xR9 $/\'"'),
});

/** What a slip makes of its program: the line, and all errors of the text. */
function made({ program, line, at, kind, other }: Slip) {
  const { machine, text, parts } = programs[program]!;
  const errorsOf = (source: string): readonly Problem[] =>
    assemble(machine, source, { parts }).problems.filter((each) => each.grade === 'error');
  const lines = text.split('\n');
  const number = (line % lines.length) + 1;
  const own = lines[number - 1]!;
  const place = own === '' ? 0 : at % own.length;
  const [before, letter, after] = [own.slice(0, place), own.charAt(place), own.slice(place + 1)];
  const written = [before + after, before + letter + letter + after, before + after.slice(0, 1) + letter + after.slice(1)];
  const wrong = lines.with(number - 1, written[kind] ?? before + other + after).join('\n');
  return { number, wrong, errors: errorsOf(wrong), errorsOf, name: machine.name };
}

test('a mend that is offered takes its error away, and brings no other', () => {
  let offered = 0;
  fc.assert(
    fc.property(slips, (slip) => {
      const { wrong, errors, errorsOf, name } = made(slip);
      for (const problem of errors) {
        for (const mend of mendsOf(problem)) {
          offered++;
          const left = errorsOf(withMend(wrong, mend));
          const stays = left.filter((each) => each.line === problem.line && each.sentence === problem.sentence);
          const line = wrong.split('\n')[problem.line - 1];
          expect({ name, line, says: problem.sentence, mend: mend.title, stays, more: left.length > errors.length && left }).toEqual({
            ...{ name, line, says: problem.sentence, mend: mend.title },
            ...{ stays: [], more: false },
          });
        }
      }
    }),
    ways,
  );
  expect(offered).toBeGreaterThan(ways.numRuns / 10);
});

test('a slip in one line is one error there, unless it makes two names of one', () => {
  fc.assert(
    fc.property(slips, (slip) => {
      const { number, errors } = made(slip);
      const here = errors.filter((each) => each.line === number && each.code !== 'unknown-name');
      expect(here.map((each) => each.sentence).slice(1)).toEqual([]);
    }),
    ways,
  );
});

const gannet = programs.find((each) => each.machine.name === 'Gannet')!.machine;

test.each<[lines: string, says: readonly string[]]>([
  // The first word is a label that others name: the second one is wrong.
  [
    ' LOAD R1, [R4 + 0]\n JUMP over\nover r.oom 1',
    ['This machine has no operation “r.oom”. If it is meant as a label, put a colon behind it.'],
  ],
  [' JUMP more\nmore HLT', ['This machine has no operation “HLT”. Did you mean HALT?']],
  [' JUMP sum\n HALT\nsum cells 0', ['This machine has no operation “cells”. Did you mean .cells?']],
  [' JUMP sum\n HALT\nsum . cells 0', ['Behind the label “sum” stands an operation or a directive, not “.”.']],
  [' JUMP over\nover$ HALT', ['Behind the label “over” stands an operation or a directive, not “$”.']],
  // Nothing else is said of a line whose text does not end.
  ['note .text "High tide, 0\n HALT', ['The text is not closed. Put the same quote mark behind it.']],
  [" PUT R1, #'x\n HALT", ['The character is not closed. Put the same quote mark behind it.']],
  // Named again and again, and misspelt where it is defined: told once, there.
  [
    ' LOAD R1, [R4 + highest]\n STORE R1, [R4 + highest]\n HALT\nhigest .room 1',
    ['Nothing uses “higest”, but “highest” is used 2 times and no line defines it. Did you mean highest?'],
  ],
  [' LOAD R1, [R4 + highest]\n HALT\nhigest .room 1', ['No line defines “highest”. Did you mean higest?']],
  // What a short form stands for is told as the short form.
  [' MOVE RR, R6\n HALT', ['There is no “RR” here. Did you mean R0? It is written: MOVE to, from.']],
])('%j: one sentence, about the word that is wrong', (lines, says) => {
  expect(
    assemble(gannet, lines)
      .problems.filter((each) => each.grade === 'error')
      .map((each) => each.sentence),
  ).toEqual(says);
});

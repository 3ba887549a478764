import fc from 'fast-check';
import { assemble } from '../assembler/assemble';
import { disassemble } from '../assembler/assist/disassemble';
import { readWholeMachine } from '../assembler/machines';
import { Runner } from '../engine/control/runner';
import { decodedText } from '../engine/tell/names';
import { decode, encode, formOf } from '../machine/model/encode';
import type { Machine } from '../machine/model/machine';
import { areAlike } from '../machine/model/shapes';
import { spellingsOf } from '../machine/model/spellings';
import { fixtures, machineFrom, programFrom } from './demo';
import { assertSeen } from './draws';
import { compareRuns, picker, whole } from './executors';
import { drawnNames } from './generatedNames';
import { smallMachine } from './small';
import { readScript, writeScript } from '../engine/timeline/script';
import { readCellsCsv, writeCellsCsv } from '../formats/cellsCsv';
import { readEdits } from '../engine/watch/places';
import { readWatched } from '../engine/watch/conditions';

const numRuns = Number(process.env.ZETTAK_RUNS ?? 8);
const machineOf = (name: string): Machine => machineFrom(fixtures.find((each) => each.name === name)!.text);
const avocet = machineOf('avocet');
const knot = machineOf('knot');

const cellsOf = (machine: Machine, line: string): number[] => programFrom(machine, line).cells.map((each) => each.value);
const back = (machine: Machine, cells: readonly number[]): string => {
  const decoded = decode(machine, (offset) => cells[offset], 0);
  if ('refused' in decoded) throw new Error(JSON.stringify(decoded.refused));
  return decodedText(machine, undefined, decoded);
};

test.each<[line: string, cells: readonly number[], back: string]>([
  ['MOVE B, A', [0x42], 'MOVE B, A'],
  ['move b, acc', [0x42], 'MOVE B, A'],
  ['MOVE R[1], R[0]', [0x42], 'MOVE B, A'],
  ['MOVE T, (PQ)', [0x7e], 'MOVE T, (PQ)'],
  ['MOVE (PQ), D', [0x71], 'MOVE (PQ), D'],
  ['MOVE B, #5', [0x07, 5], 'MOVE B, #0x05'],
  ['ADD PQ, AB', [0xc7], 'ADD PQ, AB'],
  ['ADD A, T', [0x97], 'ADD A, T'],
  ['LOAD SP, #0x7000', [0xd2, 0x70, 0], 'LOAD SP, #0x7000'],
  ['STEP CD, down', [0xe2], 'STEP CD, down'],
  ['JUMPNZ 0', [0xf2, 0, 0], 'JUMPNZ 0x0000'],
  ['JUMPNE 0', [0xf2, 0, 0], 'JUMPNZ 0x0000'],
  ['JUMP 0', [0xf6, 0, 0], 'JUMP 0x0000'],
  ['RET', [0xfe], 'RET'],
  ['RET.eq', [0xf9], 'RET.Z'],
])('“%s” is exactly its cells, and is read back', (line, cells, written) => {
  expect(cellsOf(avocet, line)).toEqual(cells);
  expect(back(avocet, cells)).toBe(written);
});

test.each<[line: string, says: RegExp]>([
  ['MOVE B, E', /It is written: MOVE to, from/],
  ['MOVE (PQ), (PQ)', /It is written/],
  ['JUMPXX 0', /^JUMP cannot end with “XX”: Z, EQ, /],
  ['ADD A, AB', /It is written/],
  ['STEP CD, sideways', /It is written: STEP w, way/],
  ['RETNZ', /RETNZ/],
  ['MOVE R[9], A', /It is written/],
])('“%s” is refused with what may stand there', (line, says) => {
  expect(
    assemble(avocet, `${line}\nHALT`)
      .problems.map((each) => each.sentence)
      .join(' '),
  ).toMatch(says);
});

test('codes without a name are of no form, and are an undefined opcode', () => {
  for (const cells of [[0x76], [0xf4, 0, 0], [0xff], [0xfc], [0xe0], [0xe3]])
    expect(cells[0] === 0xff ? back(avocet, [0xff, 0, 0]) : decode(avocet, (offset) => cells[offset], 0)).toEqual(
      cells[0] === 0xff ? 'CALL 0x0000' : { refused: { reason: 'undefined first cell', cell: cells[0] } },
    );
});

const run = (machine: Machine, source: string, inputs: readonly number[] = []): Runner => {
  const runner = new Runner(machine, programFrom(machine, source), { inputs });
  for (let ticks = 0; ticks < 20_000 && !runner.state.control.halted; ticks++) if (runner.tick()) break;
  return runner;
};
const valueOf = ({ machine, state }: Runner, name: string): number =>
  state.registers[machine.registers.findIndex((each) => each.name === name)]!;

test('pairs, views, services of pairs and a register with the name of a flag do what they say', () => {
  const runner = run(
    avocet,
    'LOAD AB, #300\nLOAD CD, #0x0102\nADD CD, AB\nMOVE C, #7\nSTEP PQ, down\nTRAP showDouble\nTRAP askDouble\nHALT',
    [515],
  );
  expect([valueOf(runner, 'C'), valueOf(runner, 'D')]).toEqual([2, 3]);
  expect([valueOf(runner, 'P'), valueOf(runner, 'Q')]).toEqual([255, 255]);
  expect(runner.state.control.output).toBe('300\n');
});

test('a guarded instruction is passed over, counted, told, and gone through backwards', () => {
  const source = 'MOVE A, #1\nSUB A, #1\nRET.NZ\nHALT';
  const runner = new Runner(avocet, programFrom(avocet, source), {});
  const states = [structuredClone(whole(runner.state))];
  const told: string[] = [];
  while (!runner.state.control.halted && !runner.tick()) {
    states.push(structuredClone(whole(runner.state)));
    const { guard } = runner.timeline.last!;
    if (guard) told.push(`${guard.text} ${guard.holds}`);
  }
  expect(told).toEqual(['NZ (not Z = 1) false']);
  expect(runner.state.control.instructions).toBe(4);
  for (let at = runner.ticks; at > 0; at--) {
    runner.timeline.back();
    expect(whole(runner.state)).toEqual(states[at - 1]);
  }
});

test('an octal machine reads and shows octal, in programs, conditions and sentences', () => {
  const runner = run(knot, '.start here\nhere LOAD G0, Ä\nADD G[0], Ü\nSKIPP\nHALT\nROLL 3\nHALT\nÄ .cells 17\nÜ .cells 10');
  expect(valueOf(runner, 'G0')).toBe(0o270);
  expect(assemble(knot, 'JUMP 81\nHALT').problems[0]).toMatchObject({
    sentence: expect.stringMatching(/A decimal number starts with 0d: 0d81/),
  });
  expect(assemble(knot, 'a HALT\nA HALT').problems.filter((each) => each.grade === 'error')).toEqual([]);
  expect(
    disassemble(
      knot,
      programFrom(knot, 'JUMP 7\nHALT').cells.map((each) => ({ ...each })),
      0,
    ).text,
  ).toContain('0o');
});

/** Of a narrower field a number has fewer digits. */
const plain = (line: string): string => line.replaceAll(/(0[xob])0+(?=[\dA-F])/g, '$1');

test('encode, then decode, is the identity on drawn machines; what is written is read back as the same cells', () => {
  fc.assert(
    fc.property(drawnNames, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      const pick = picker(seed);
      for (const form of machine.forms)
        for (const { settles } of spellingsOf(form)) {
          const values = new Map(
            form.operands.map((field) => [
              field.name,
              field.names ? [...field.names.keys()][pick(field.names.size)]! : pick(2 ** Math.min(field.width, 8)),
            ]),
          );
          for (const { field, value } of settles) values.set(field.name, value);
          const encoded = encode(machine, form, values, 0);
          if ('refused' in encoded) throw new Error(JSON.stringify(encoded.refused));
          const decoded = decode(machine, (offset) => encoded.cells[offset], 0);
          if ('refused' in decoded) throw new Error(`${form.written}: ${JSON.stringify(decoded.refused)}`);
          expect(decoded.form).toBe(form);
          expect(new Map(decoded.operands.map((each) => [each.field.name, each.value]))).toEqual(values);
          const line = decodedText(machine, undefined, decoded);
          const cells = cellsOf(machine, line);
          // Of two that are written alike the first is taken where it does, and means the same.
          const earlier = machine.forms.find((each) => each.index < form.index && areAlike(each, form) && each.mnemonic === form.mnemonic);
          const asEarlier = earlier && plain(back(machine, cells)) === plain(line) && formOf(machine, cells[0]!) === earlier;
          if (!asEarlier) expect([line, ...cells]).toEqual([line, ...encoded.cells]);
        }
    }),
    { numRuns },
  );
});

test('both executors agree on drawn machines of names, conditions and guards', () => {
  let leapt = 0;
  assertSeen(
    fc.property(drawnNames, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      leapt += compareRuns(machine, seed, { size: () => 1, leaps: 60 });
      leapt += compareRuns(machine, seed ^ 0x77, { size: (pick) => 1 + pick(30), leaps: 20 });
    }),
    () => leapt > 1000,
    { numRuns: 3 * numRuns },
  );
});

test('forward, then back at every tick, on drawn machines, through guards', () => {
  let passed = 0;
  fc.assert(
    fc.property(drawnNames, fc.nat(), ({ text }, seed) => {
      const machine = machineFrom(text);
      const pick = picker(seed);
      const lines = Array.from({ length: 40 }, () => {
        const form = machine.forms[1 + pick(machine.forms.length - 1)]!;
        const values = new Map(
          form.operands.map((field) => [
            field.name,
            field.names ? [...field.names.keys()][pick(field.names.size)]! : pick(2 ** Math.min(field.width, 6)),
          ]),
        );
        const encoded = encode(machine, form, values, 0);
        if ('refused' in encoded) throw new Error(JSON.stringify(encoded.refused));
        const decoded = decode(machine, (offset) => encoded.cells[offset], 0);
        if ('refused' in decoded) throw new Error(JSON.stringify(decoded.refused));
        return decodedText(machine, undefined, decoded);
      });
      const { program } = assemble(machine, [...lines, 'HALT'].join('\n'));
      if (!program) throw new Error(lines.join('\n'));
      const runner = new Runner(machine, program, {});
      const states = [structuredClone(whole(runner.state))];
      for (let tick = 0; tick < 120 && !runner.state.control.halted && !runner.tick(); tick++) {
        states.push(structuredClone(whole(runner.state)));
        if (runner.timeline.last?.guard?.holds === false) passed++;
      }
      for (let at = runner.ticks; at > 0; at--) {
        runner.timeline.back();
        expect(whole(runner.state)).toEqual(states[at - 1]);
      }
    }),
    { numRuns },
  );
  expect(passed).toBeGreaterThan(0);
});

/** The sentences about Avocet with one change. */
const problemsWith = (from: string, to: string): string => {
  const { text } = fixtures.find((each) => each.name === 'avocet')!;
  if (!text.includes(from)) throw new Error(`There is no “${from}”`);
  return readWholeMachine(text.replace(from, to))
    .problems.map((each) => `${each.grade}: ${each.sentence}`)
    .join(' ');
};

test.each<[what: string, from: string, to: string, says: RegExp]>([
  ['as many names as registers', 'names: A B C D P Q T', 'names: A B C', /R has 7 registers, so as many names/],
  ['a second name that is taken', 'also: ACC', 'also: SP', /SP is the name of a register already/],
  ['registers that differ in case only', 'names: A B C D P Q T', 'names: A B C D P Q b', /b and B differ in case only/],
  ['a view of nothing', 'choose: CD PQ SP AB', 'choose: CD PQ SP XY', /no register or pair “XY”/],
  ['a view of two widths', 'choose: CD PQ SP AB', 'choose: CD PQ SP A', /All places of a view have one width: CD has 16 bits, A 8/],
  ['a register twice in a view', 'choose: CD PQ SP AB', 'choose: CD PQ SP CD', /CD stands in this view twice/],
  ['a condition without a code', 'Z: { code: 1, when', 'Z: { when', /code: this part is missing/],
  ['two conditions with one code', 'CY: { code: 0', 'CY: { code: 3', /has the code 3, which CY has already/],
  ['a condition name twice', 'also: NE', 'also: EQ', /The condition Z has the name “EQ” too/],
  ['a condition that reads a cell', 'when: flags.C = 1', "when: 'M[3] = 1'", /looks at registers and flags only; a memory cell is neither/],
  ['a condition that can never hold', 'when: N = 0 and Z = 0', 'when: N = 0 and N = 1', /warning: GT can never hold/],
  ['a condition that is a number', 'when: N = 0 and Z = 0', 'when: A', /stands between conditions; A is none/],
  ['a guard over no condition', 'only if: c holds', 'only if: fixed holds', /asks for a condition that none of its fields names/],
  ['a guard over nothing known', 'only if: c holds', 'only if: K9 = 1', /no “K9”/],
  [
    'a spelling that a mnemonic has',
    '  HALT:',
    '  JUMPNZ:\n    forms:\n      - write: JUMPNZ {address}\n        code: jump opcode=0x1F c=6\n        execute: PC <- address\n  HALT:',
    /“JUMPNZ address” can be JUMP\{c\} \{address\} or JUMPNZ \{address\}/,
  ],
  ['a service that no trap has', 'service number', 'service 9', /There is no trap 9 on this machine\. There are: 1, 2, 3/],
  ['a name like a number', 'machine: Avocet', 'machine: Avocet\nassembly: {letters: {b: 16}}', /“AB” reads like the number 0AB/],
  ['a later language', 'machine: Avocet', 'machine: Avocet\nlanguage: 7', /written in language 7; this program knows languages up to 2/],
  ['a comparison beside bits', 'if c holds: PC', 'if Z = 1 & N = 0: PC', /“&” works on bits and binds tighter than a comparison/],
  [
    'a decimal number in a join',
    'join(MDR, M[MAR])',
    'join(MDR, M[MAR], 0)',
    /In a join a number is as wide as it is written: 0 says no width/,
  ],
  ['a value of a field twice', 'names up=1 down=2', 'names up=1 UP=2', /“names up=1” means nothing/],
])('%s is told in a sentence', (_what, from, to, says) => {
  expect(problemsWith(from, to)).toMatch(says);
});

test('a second name stands wherever a document names a register: stacks, words, examples, traps, pairs', () => {
  const { machine, problems } = readWholeMachine(
    smallMachine({
      registers:
        'R: {role: general, count: 4, each: {2: {also: TOP, start: 0xF0}, 3: {also: LAST}}}\nBOTH: {pair: TOP LAST}\nEVEN: {choose: R0 TOP}',
      ticks: { PUSH: 'TOP <- TOP - 1, push S', DROP: 'EVEN[1] <- LAST' },
      parts: [
        'stacks: {S: {pointer: TOP, space: M, from: 0x80, to: 0xEF, grows: down}}',
        'traps: {1: {name: tell, service: write number, argument: LAST}}',
        "words: {instructions: {PUSH: 'The top is now {TOP}, it was {TOP.old}.'}}",
      ].join('\n'),
    }).replace('code: alone opcode=17\n', 'code: alone opcode=17\n        examples: [{before: LAST=9, after: TOP=9}]\n'),
  );
  expect(problems.map((each) => each.sentence)).toEqual([]);
  const top = machine!.registers.findIndex((each) => each.also === 'TOP');
  expect(machine!.stacks[0]!.pointer).toBe(top);
  expect(machine!.words.instructions.get('PUSH')).toContainEqual(expect.objectContaining({ kind: 'register', index: top }));
  expect(problemsWith('pointer: SP', 'pointer: ACCU')).toMatch(/no register “ACCU”.*Did you mean ACC/);
});

test('in language 1 what means something else now is told, read as before, and mended', () => {
  const text = fixtures
    .find((each) => each.name === 'avocet')!
    .text.replace('if c holds: PC', 'if Z = 1 & N = 0: PC')
    .replace('MOVE {to}, {from}', 'MOVE {to}, {from}');
  const { machine, problems } = readWholeMachine(text, { language: 1 });
  expect(machine).toBeDefined();
  const told = problems.find((each) => each.code === 'comparison-beside-bits')!;
  expect(told).toMatchObject({ grade: 'remark', mend: { title: 'Write and' } });
  const mended = told.mend!.edits.reduceRight((all, { span, text: put }) => all.slice(0, span.start) + put + all.slice(span.end), text);
  expect(mended).toContain('if Z = 1 and N = 0: PC');
  expect(readWholeMachine(mended).problems.filter((each) => each.grade === 'error')).toEqual([]);
});

test('64 bits are counted, compared and joined; to turn them is refused with what is possible', () => {
  const wide = (tick: string): string =>
    smallMachine({
      registers: 'H: {bits: 32, start: 0xFFFFFFFF}\nL: {bits: 32, start: 0xFFFFFFFF}\nHL: {pair: H L}',
      ticks: { TRY: tick },
    });
  for (const tick of ['HL <- HL + 1', 'HL <- HL - 1', 'HL <- -HL', 'HL <- HL + HL', 'if HL > L: A <- 7', 'HL <- ~HL'])
    for (let seed = 1; seed < 12; seed++) compareRuns(machineFrom(wide(tick)), seed * 77, { size: () => 1, leaps: 40 });
  const runner = run(machineFrom(wide('HL <- HL + 1')), 'TRY\nHALT');
  expect([valueOf(runner, 'H'), valueOf(runner, 'L')]).toEqual([0, 0]);
  expect(readWholeMachine(wide('HL <- rotl(HL, 1)')).problems[0]?.sentence).toBe('rotl takes values of at most 32 bits; this one has 64.');
});

test('pairs of pairs, and a number of a view, are what a service may take', () => {
  const { text } = fixtures.find((each) => each.name === 'avocet')!;
  const machine = machineFrom(
    text
      .replace('  PQ: {', '  ABCD: {title: all four, pair: AB CD}\n  PQ: {')
      .replace('argument: AB', 'argument: ABCD')
      .replace('result: CD', "result: 'W[0]'"),
  );
  const runner = run(machine, 'LOAD AB, #1\nTRAP askDouble\nTRAP showDouble\nHALT', [5]);
  expect(runner.state.control.output).toBe(`${2 ** 16 + 5}\n`);
});

test('what an octal machine writes down is read back: scripts, tables of cells, edits', () => {
  const runner = run(knot, 'LOAD G0, n\nHALT\nn .cells 17', [8, 64]);
  const script = writeScript(knot, { inputs: [8, 64], plans: [], devices: [], edits: [] });
  expect(readScript(knot, runner.program, script).script?.inputs).toEqual([8, 64]);
  const cells = [{ space: 0, address: 15, value: 0o17 }];
  const table = writeCellsCsv(knot, cells);
  expect(table).toContain('0o0017,0o0017');
  expect(readCellsCsv(knot, table)).toMatchObject({ problems: [], cells });
  expect(readEdits(knot, undefined, 'G0 = 17')).toMatchObject([{ value: 0o17 }]);
  expect(readEdits(knot, undefined, 'G0 = 17q')).toMatchObject([{ value: 0o17 }]);
  expect(readEdits(knot, undefined, 'G[1] = 0d17')).toMatchObject([{ value: 17 }]);
  expect(readWatched(knot, undefined, 'G0[11] = 1 and M[17] = 10')).toMatchObject({ text: 'G0[11] = 1 and M[17] = 10' });
});

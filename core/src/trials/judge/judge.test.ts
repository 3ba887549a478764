import { assemble } from '../../assembler/assemble';
import { curlew, demoMachines, demoProgram, machineFrom, machineNamed, programFrom } from '../../testing/demo';
import { picker } from '../../testing/executors';
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { sentencesOf, writeJunit, writeRowsCsv } from '../sets/csv';
import { emptySet, NO_SETS, readTable, type SetTable, type TrialSet } from '../sets/table';
import type { TrialRow } from './row';
import { Judge } from './run';
import { Track } from './track';
import { BY_HAND } from '../../engine/meaning/state';

const tableOf = (sets: readonly TrialSet[], more: Partial<SetTable> = {}): SetTable => ({ ...NO_SETS, ...more, sets });
const rowsOf = (machine: Machine, program: Program, table: SetTable, quickly = true): TrialRow[] => {
  const judge = new Judge({ machine, program, table }, quickly);
  return table.sets.map((each) => judge.row(each));
};
const entriesOf = (list: Readonly<Record<string, string>>) => Object.entries(list).map(([place, text]) => ({ place, text }));
const set = (given: Readonly<Record<string, string>>, expected: Readonly<Record<string, string>>, name = 'x'): TrialSet => ({
  ...{ ...emptySet(name), given: entriesOf(given), expected: entriesOf(expected) },
});
const quayWatch = programFrom(curlew, demoProgram('quay watch'));
const rowFor = (source: string, one: TrialSet, more: Partial<SetTable> = {}, machine = curlew): TrialRow =>
  rowsOf(machine, programFrom(machine, source), tableOf([one], more))[0]!;

it('the sets of the demo programs hold, and there are at least 24', () => {
  let sets = 0;
  for (const { text, programs } of demoMachines) {
    const machine = machineFrom(text);
    for (const program of programs) {
      const read = readTable(program.sets);
      if ('problem' in read) throw new Error(`${program.name}: ${read.problem.sentence}`);
      const rows = rowsOf(machine, programFrom(machine, program.text), read.table);
      expect(rows.map((each) => [each.name, each.verdict, ...sentencesOf(each)])).toEqual(rows.map((each) => [each.name, 'holds']));
      sets += rows.length;
    }
  }
  expect(sets).toBeGreaterThanOrEqual(24);
});

it('a run on a track leaves nothing for the next: its end is that of a run on a track of its own, cell by cell', () => {
  const pick = picker(7);
  for (const { text, programs } of demoMachines) {
    const machine = machineFrom(text);
    for (const { text: source } of programs) {
      const program = programFrom(machine, source);
      const track = new Track(machine, program);
      const inputs = program.declared.filter((each) => each.way === 'input');
      for (let turn = 0; turn < 4; turn++) {
        const edits = inputs.map(
          ({ space, address }) => ({ kind: 'cell', space, address, value: pick(8), mark: BY_HAND, tick: 0 }) as const,
        );
        const script = { inputs: [pick(60), pick(60), 0], plans: [], devices: [], edits: turn % 2 === 0 ? edits : [] };
        // One that has not come to its end leaves the most behind.
        const [end, own] = [track, new Track(machine, program)].map((each) => each.go(script, turn === 1 ? 300 : 40_000));
        expect(end?.stop).toEqual(own?.stop);
        expect(end?.remarks).toEqual(own?.remarks);
        for (const part of ['registers', 'flags', 'flagTicks', 'latches', 'spaces', 'marks'] as const)
          expect(end?.state[part]).toEqual(own?.state[part]);
      }
    }
  }
});

it('together, one by one, in any order, quickly or by the law: the same rows', () => {
  const pick = picker(77);
  for (const { text, programs } of demoMachines) {
    const machine = machineFrom(text);
    for (const { text: source, sets } of programs) {
      const program = programFrom(machine, source);
      const read = readTable(sets);
      const { table } = read as { table: SetTable };
      const drawn = Array.from({ length: 3 }, (_, at) => ({
        ...emptySet(`drawn ${at}`),
        given: program.declared
          .filter((each) => each.way === 'input')
          .map(({ name }) => ({ place: name, text: String(pick(2 ** 7)) }))
          .concat([{ place: 'input', text: [pick(90), pick(90), 0].join(' ') }]),
        expected: [{ place: 'output', text: 'any' }],
      }));
      const whole = tableOf([...table.sets, ...drawn], { base: table.base, mostTicks: 50_000 });
      const rows = rowsOf(machine, program, whole);
      expect(rowsOf(machine, program, whole, false)).toEqual(rows);
      const backwards = rowsOf(machine, program, { ...whole, sets: whole.sets.toReversed() });
      // Columns stand in the order in which sets name them first.
      const sorted = (list: TrialRow[]): TrialRow[] =>
        list.map((each) => ({ ...each, seen: each.seen.toSorted((a, b) => (a.column < b.column ? -1 : 1)) }));
      expect(sorted(backwards.toReversed())).toEqual(sorted(rows));
      const judge = new Judge({ machine, program, table: whole });
      whole.sets.forEach((each, at) => expect(new Judge({ machine, program, table: whole }).row(each)).toEqual(rows[at]));
      for (let turn = 0; turn < 3; turn++) {
        const at = pick(whole.sets.length);
        expect(judge.row(whole.sets[at]!)).toEqual(rows[at]);
      }
    }
  }
}, 60_000);

it('of programs with a line left out, which fault, wait and go round, the quick rows are those of the law', () => {
  const pick = picker(13);
  const ends = new Map<string, number>();
  for (const { text, programs } of demoMachines) {
    const machine = machineFrom(text);
    for (const { text: source, sets } of programs) {
      const { table } = readTable(sets) as { table: SetTable };
      const lines = source.split('\n');
      for (let turn = 0; turn < 5; turn++) {
        const out = pick(lines.length);
        const { program } = assemble(machine, lines.filter((_, at) => at !== out).join('\n'));
        if (!program) continue;
        const few = tableOf(table.sets.slice(0, 2), { base: table.base, mostTicks: 20_000 });
        const rows = rowsOf(machine, program, few);
        expect(rows).toEqual(rowsOf(machine, program, few, false));
        for (const { end = 'unread' } of rows) ends.set(end, (ends.get(end) ?? 0) + 1);
      }
    }
  }
  expect(['halted', 'fault', 'waiting', 'never halts'].filter((end) => !ends.has(end))).toEqual([]);
}, 60_000);

it('marks what differs in its very cell', () => {
  const [row] = rowsOf(curlew, quayWatch, tableOf([set({ level: '200', rise: '100' }, { later: '44', over: '1', C: '0 to 1' })]));
  expect(row).toMatchObject({ verdict: 'differs', differs: 1, end: 'halted' });
  expect(row!.seen).toEqual([
    { column: 'later', seen: '44', expected: '44', holds: true },
    { column: 'over', seen: '108', expected: '1', holds: false },
    { column: 'C', seen: expect.any(String), expected: '0 to 1', holds: true },
  ]);
  expect(sentencesOf(row!)).toEqual(['over: expected 1, came 108.']);
});

describe('what is expected', () => {
  const holds = (expected: Readonly<Record<string, string>>, given: Readonly<Record<string, string>> = { level: '158', rise: '43' }) =>
    rowsOf(curlew, quayWatch, tableOf([set(given, expected)]))[0]!.verdict === 'holds';

  it('is a value, a range, signed or not, a bound, two places as one number', () => {
    expect(holds({ later: '201' })).toBe(true);
    expect(holds({ later: '0xC9' })).toBe(true);
    expect(holds({ later: '-55' })).toBe(true);
    expect(holds({ later: '-60 to -50' })).toBe(true);
    expect(holds({ later: '-54 to 5' })).toBe(false);
    expect(holds({ later: '200 to 202' })).toBe(true);
    expect(holds({ later: '202 to 255' })).toBe(false);
    expect(holds({ later: 'at most 201', over: 'at least 9' })).toBe(true);
    expect(holds({ later: 'at most 200' })).toBe(false);
    expect(holds({ 'join(later, over)': String(201 * 256 + 9) })).toBe(true);
    expect(holds({ 'join(over, later)': String(201 * 256 + 9) })).toBe(false);
    expect(holds({ ACC: 'any', C: '1', ticks: 'at most 50', instructions: '8' })).toBe(true);
    expect(holds({ ticks: 'at most 49' })).toBe(false);
  });

  it('is an output, to the last blank in quotes', () => {
    const source = demoProgram('over the sill');
    expect(rowFor(source, set({}, { output: '"37\\n0\\n128\\n"' })).verdict).toBe('holds');
    expect(rowFor(source, set({}, { output: '37\n0\n128' })).verdict).toBe('holds');
    expect(rowFor(source, set({}, { output: '"37\\n0\\n128"' })).verdict).toBe('differs');
  });

  it('is a row of cells behind each other, given and expected in one entry', () => {
    const source = ' LOAD a\n STORE b\n LOAD last\n STORE copy\n HALT\na .cells 1, 2\nlast .cells 3\nb .room 1\ncopy .room 1';
    const row = (expected: Readonly<Record<string, string>>) => rowFor(source, set({ a: '5 -2 0x10' }, expected));
    expect(row({ a: '5 254 16', b: '5 16' }).verdict).toBe('holds');
    expect(row({ a: '5, any, 10 to 20', b: 'at most 9, at least 16' }).verdict).toBe('holds');
    const wrong = row({ a: '5 254 17', b: '5' });
    expect(wrong).toMatchObject({ verdict: 'differs', differs: 1 });
    expect(wrong.seen.map((each) => each.seen)).toEqual(['5 254 16', '5']);
    for (const [text, says] of [
      ['1 2 x', /“x” is no number/],
      [Array(300).fill('1').join(' '), /^These are 300 values, and from a on there are 247 cells\.$/],
      ['1, , 2', /^Type a number first/],
    ] as const) {
      expect(rowFor(source, set({ a: text }, {})).problems.map((each) => each.sentence)).toEqual([expect.stringMatching(says)]);
      expect(rowFor(source, set({}, { a: text })).problems.map((each) => each.sentence)).toEqual([expect.stringMatching(says)]);
    }
    expect(rowFor(source, set({ ACC: '1 2' }, {})).problems[0]?.sentence).toMatch(/ACC is no cell\.$/);
    expect(rowFor(source, set({}, { C: '0 1' })).problems[0]?.sentence).toMatch(/C is no cell\.$/);
  });

  it('is as long in every set as the longest row that one of them expects', () => {
    const program = programFrom(curlew, ' LOAD a\n HALT\na .cells 1, 2\nlast .cells 3');
    const sets = [
      set({}, { a: '1 2 3' }),
      set({ a: '7' }, {}, 'open'),
      set({}, { a: '1' }, 'short'),
      set({}, { a: '1 2 3 4 x' }, 'faulty'),
    ];
    const seen = rowsOf(curlew, program, tableOf(sets)).map((each) => each.seen.map((one) => one.seen));
    expect(seen).toEqual([['1 2 3'], ['7 2 3'], ['1'], []]);
    // Past the end none of it counts.
    const over = rowsOf(curlew, program, tableOf([set({}, { a: Array(300).fill('1').join(' ') }), set({}, {}, 'open')]));
    expect(over[1]!.seen.map((each) => each.seen)).toEqual(['1']);
  });

  it('is the sequence of what was written to lamps', () => {
    const gannet = machineNamed('Gannet');
    const source = 'start PUT R1, #1\n TRAP light\n PUT R1, #4\n TRAP light\n PUT R1, #1\n TRAP light\n HALT';
    const verdict = (text: string) => rowFor(source, set({}, { 'sequence of lamps': text }), {}, gannet).verdict;
    expect(verdict('1 4 1')).toBe('holds');
    expect(verdict('1 any 1')).toBe('holds');
    expect(verdict('1 4')).toBe('differs');
    expect(verdict('1 4 2')).toBe('differs');
  });
});

describe('how a run ends', () => {
  it('is by halting, unless a set says otherwise', () => {
    const loop = 'start JUMP start';
    expect(rowFor(loop, set({}, { ACC: '0' }))).toMatchObject({ verdict: 'differs', end: 'never halts', shouldHalt: true });
    expect(sentencesOf(rowFor(loop, set({}, { ACC: '0' })))[0]).toMatch(/^It should have halted\./);
    expect(rowFor(loop, set({}, { end: 'never halts' }))).toMatchObject({ verdict: 'holds', differs: 0 });
    expect(rowFor(demoProgram('highest water'), set({ input: '5' }, { end: 'waiting' })).verdict).toBe('holds');
    expect(rowFor(demoProgram('highest water'), set({ input: '5' }, { highest: '5' })).verdict).toBe('differs');
  });

  it('is told when the ticks that it may take are used up, and nothing hangs', () => {
    const long = 'start INC\n STORE x\n LOAD y\n INCX\n JUMP start\nx .room 1\ny .room 1';
    expect(rowFor(long, set({}, { ACC: '0' }), { mostTicks: 500 })).toMatchObject({ end: 'out of ticks', verdict: 'differs' });
  });

  it('tells cells that were never written, inputs that are left, code that was written over', () => {
    const row = rowFor('start LOAD x\n STORE start\n HALT\nx .room 1', set({ input: '7 8' }, {}));
    expect(row.verdict).toBe('ran');
    expect(row.remarks.join(' ')).toMatch(/which nothing has ever written.*own code.*2 inputs were left over: 7, 8\./);
  });
});

it('a wrong program fails where it should, and only there', () => {
  const read = readTable(demoMachines[0]!.programs[0]!.sets) as { table: SetTable };
  const wrong = programFrom(curlew, demoProgram('quay watch').replace('ADD   rise', 'SUB   rise'));
  const rows = rowsOf(curlew, wrong, read.table);
  expect(rows.map((each) => each.verdict)).toEqual(['differs', 'differs', 'differs', 'differs', 'differs']);
  expect(rows[0]!.seen.filter((each) => each.holds === false).map((each) => each.column)).toEqual(['later']);
});

it('says which instruction set each flag, where it is asked', () => {
  const judge = new Judge({ machine: curlew, program: quayWatch, table: tableOf([set({}, {})]) });
  const { flags } = judge.row(set({}, {}), { whole: true });
  expect(flags.find((each) => each.name === 'H')?.by).toMatch(/^SUB #quay, line 10$/);
});

it('sets with mistakes stand beside those that run', () => {
  const rows = rowsOf(curlew, quayWatch, tableOf([set({ nowhere: '1' }, {}, 'a'), set({}, { later: '201' }, 'b')]));
  expect(rows.map((each) => each.verdict)).toEqual(['unread', 'holds']);
  const xml = writeJunit('a <b> & "c"\u0000', rows);
  expect(xml).toContain('tests="2" failures="0" errors="1"');
  expect(xml).toContain('a &lt;b&gt; &amp; &quot;c&quot;');
  expect(xml).not.toContain('\u0000');
  expect(writeRowsCsv(rows).split('\r\n')[0]).toBe('set,verdict,end,instructions,ticks,expected later,seen later,flags,remarks');
});

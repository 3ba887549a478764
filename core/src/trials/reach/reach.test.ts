import { curlew, demoProgram, machineNamed, programFrom } from '../../testing/demo';
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { Judge, runnerOf } from '../judge/run';
import { SetReader } from '../sets/read';
import { emptySet, NO_SETS, type TrialSet } from '../sets/table';
import { Coverage, type Target, type Untried } from './coverage';
import { parting, type Parting } from './parting';
import { propose, type NoProposal, type Proposal } from './propose';

const given = (list: Readonly<Record<string, string>>): TrialSet => ({
  ...emptySet('x'),
  given: Object.entries(list).map(([place, text]) => ({ place, text })),
});
const scriptOf = (machine: Machine, program: Program, set: TrialSet) => {
  const read = new SetReader(machine, program, undefined).read(set);
  if ('problems' in read) throw new Error(read.problems[0]!.sentence);
  return read.trial.script;
};
const coverageOf = (program: Program, sets: readonly TrialSet[], machine = curlew): Coverage => {
  const coverage = new Coverage(machine, program);
  for (const each of sets) coverage.add(runnerOf(machine, program, scriptOf(machine, program, each)), 100_000);
  return coverage;
};
const notes = (list: readonly Untried[]): string[] => list.map(({ what, text, note }) => `${what} ${text}: ${note}`);
const end = <T>(search: Generator<number, T>): T => {
  for (;;) {
    const { done, value } = search.next();
    if (done) return value;
    expect(value).toBeGreaterThanOrEqual(0);
    expect(value).toBeLessThan(1);
  }
};
const found = (program: Program, target: Target, machine = curlew, sets: readonly TrialSet[] = []): Proposal | NoProposal =>
  end(propose({ machine, program, table: { ...NO_SETS, sets } }, target));

const BRANCHES = `start LOAD level
 CMP #0x40
 JUMPZ same
 ADD rise
 JUMPC high
 STORE later
 HALT
same LOAD #1
 HALT
high LOAD #2
 HALT
level .cells 3
rise .cells 4
later .room 1
 .input level, decimal
 .input rise, decimal`;

describe('what was never tried', () => {
  const program = programFrom(curlew, BRANCHES);

  it('is told line by line: not reached, one way only, flags that never changed, cells that nobody looks at', () => {
    const list = notes(coverageOf(program, [given({})]).untried([]));
    expect(list).toContain('branch JUMPZ same: never taken');
    expect(list).toContain('branch JUMPC high: never taken');
    expect(list).toContain('line LOAD #1: never reached');
    expect(list).toContain('comparison CMP #0x40: never of equal values');
    expect(list.find((each) => each.startsWith('flag ADD rise'))).toMatch(/Z never 1.*C never 1/);
    expect(list).toContain('cell later: written, and no set expects anything of it');
  });

  it('shrinks with every set, and a branch that went both ways says so', () => {
    const list = notes(coverageOf(program, [given({}), given({ level: '64' }), given({ level: '200', rise: '100' })]).untried([]));
    expect(list).toContain('branch JUMPZ same: both ways');
    expect(list).toContain('branch JUMPC high: both ways');
    expect(list.filter((each) => each.startsWith('line') || each.startsWith('comparison'))).toEqual([]);
  });

  it('names devices that were always ready, and traps that were never asked for', () => {
    const gannet = machineNamed('Gannet');
    const log = programFrom(gannet, demoProgram('harbour log'));
    const list = notes(coverageOf(log, [given({ input: '"."' })], gannet).untried([]));
    expect(list).toContain('device keys: always ready when asked');
    const waiting = programFrom(curlew, demoProgram('highest water'));
    expect(notes(coverageOf(waiting, [given({ input: '5' })]).untried([]))).toContain('trap TRAP showNumber: never asked for');
  });
});

describe('a set is proposed', () => {
  const holdsFor = (program: Program, target: Target, proposal: Proposal | NoProposal, machine = curlew): boolean =>
    'set' in proposal && coverageOf(program, [proposal.set], machine).has(target);
  const addressOf = (program: Program, text: string): number => program.rows.find((each) => each.text === text)!.address!;

  it('for a branch on a carry, on a zero, and for a loop of a certain length', () => {
    const program = programFrom(curlew, BRANCHES);
    const carry: Target = { kind: 'taken', address: addressOf(program, 'JUMPC high') };
    expect(holdsFor(program, carry, found(program, carry))).toBe(true);
    const zero: Target = { kind: 'taken', address: addressOf(program, 'JUMPZ same') };
    expect(holdsFor(program, zero, found(program, zero))).toBe(true);
    const sum: Target = {
      kind: 'flag',
      address: addressOf(program, 'ADD rise'),
      flag: curlew.flags.findIndex((each) => each.name === 'Z'),
      value: 1,
    };
    expect(holdsFor(program, sum, found(program, sum))).toBe(true);
    const loop = programFrom(
      curlew,
      `start LOADX #0\nmore INCX\n LOAD times\n SUB #1\n STORE times\n JUMPNZ more\n CMPX #7\n JUMPZ seven\n HALT\nseven LOAD #1\n HALT\ntimes .cells 2\n .input times, decimal`,
    );
    const seven: Target = { kind: 'reach', address: addressOf(loop, 'LOAD #1') };
    const proposal = found(loop, seven);
    expect(holdsFor(loop, seven, proposal)).toBe(true);
    expect('set' in proposal && proposal.set.given).toEqual([{ place: 'times', text: '7' }]);
  });

  it('through the queue, too', () => {
    const program = programFrom(curlew, demoProgram('highest water'));
    const target: Target = { kind: 'reach', address: addressOf(program, 'STORE highest') };
    const again = found(program, { kind: 'taken', address: addressOf(program, 'JUMPC next') });
    expect(holdsFor(program, { kind: 'taken', address: addressOf(program, 'JUMPC next') }, again)).toBe(true);
    expect(holdsFor(program, target, found(program, target))).toBe(true);
  });

  it('or it is said that there is none', () => {
    const never = programFrom(curlew, 'start LOAD #0\n JUMPNZ lost\n HALT\nlost HALT\nlevel .cells 1\n .input level, decimal');
    const address = never.rows.find((each) => each.text === 'JUMPNZ lost')!.address!;
    expect(found(never, { kind: 'taken', address })).toMatchObject({ why: expect.stringMatching(/^None of \d[\d,]* sets does it/) });
    const nothing = programFrom(curlew, 'start LOAD #0\n JUMPNZ start\n HALT');
    expect(found(nothing, { kind: 'taken', address: 2 })).toMatchObject({ why: expect.stringContaining('given nothing') });
  });
});

describe('where two runs part', () => {
  const program = programFrom(curlew, BRANCHES);
  const partingOf = (left: TrialSet, right: TrialSet, other = program): Parting =>
    end(parting(curlew, { program, script: scriptOf(curlew, program, left) }, { program: other, script: scriptOf(curlew, other, right) }));

  it('two sets: at the branch that one takes', () => {
    const found = partingOf(given({}), given({ level: '64' }));
    expect(found).toMatchObject({ parts: true, same: 2, sentence: 'The same for 2 instructions; then JUMPZ same goes different ways.' });
    expect(found.left).toMatchObject({ line: 3, text: 'JUMPZ same' });
    expect(found.left.did).not.toBe(found.right.did);
    expect(found.left.after[0]?.text).toBe('ADD rise');
    expect(found.right.after[0]?.text).toBe('LOAD #1');
    expect(found.right.before).toContainEqual({ name: 'Z', value: '1' });
  });

  it('two sets that go the same way part nowhere', () => {
    expect(partingOf(given({}), given({ level: '4' }))).toMatchObject({
      parts: false,
      sentence: expect.stringContaining('only values differ'),
    });
  });

  it('two programs: at the first instruction that is another, wherever it stands', () => {
    const shifted = programFrom(
      curlew,
      BRANCHES.replace('start LOAD level', 'nothing .cells 0\nstart LOAD level').replace('ADD rise', 'SUB rise'),
    );
    expect(partingOf(given({}), given({}), shifted)).toMatchObject({
      parts: true,
      same: 3,
      sentence: 'The same for 3 instructions; then ADD rise here and SUB rise there.',
    });
  });
});

it('the judge and the coverage agree on how far a run came', () => {
  const program = programFrom(curlew, demoProgram('mean level'));
  const judge = new Judge({ machine: curlew, program, table: { ...NO_SETS, sets: [emptySet('x')] } });
  const runner = runnerOf(curlew, program, scriptOf(curlew, program, emptySet('x')));
  new Coverage(curlew, program).add(runner, 100_000);
  expect(runner.ticks).toBe(judge.row(emptySet('x')).ticks);
});

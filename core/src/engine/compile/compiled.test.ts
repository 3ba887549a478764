import fc from 'fast-check';
import { programSpaceOf, withRole, type Machine } from '../../machine/model/machine';
import { drawnGuarded, drawnMachine, guardedMachine } from '../../testing/generated';
import { demoMachines, demoProgram, fixtures, machineFrom, machineNamed, programFrom } from '../../testing/demo';
import { assertSeen } from '../../testing/draws';
import { compareRuns, drawnState, expectEqual, picker } from '../../testing/executors';
import { smallMachine } from '../../testing/small';
import { power } from '../../text/number';
import { CompiledRun, UNGUARDED } from './compiled';
import { compile } from './compile';
import { PLAIN } from './compiled';
import { TickExecutor } from '../meaning/interpret';
import { Peeker, readWatched, type Watched } from '../watch/conditions';
import { depthOf } from '../meaning/callStack';
import type { Program } from '../../image/program';
import { Runner } from '../control/runner';
import { found } from '../timeline/search';
import { createState, restoreState, type Plan } from '../meaning/state';
import type { Breakpoint, BreakOn } from '../watch/breakpoints';
import { explainEntry } from '../meaning/entryProblems';

const numRuns = Number(process.env.ZETTAK_RUNS ?? 3);
/** Another one each time; a failing run is done again with that of its name. */
const seed = Number(process.env.ZETTAK_SEED ?? Date.now() % 2 ** 31);

/** Large memories take long to draw. */
const runsOf = (machine: Machine): number => (programSpaceOf(machine).cells > 1000 ? Math.ceil(numRuns / 5) : numRuns);

const all = [...demoMachines, ...fixtures].map(({ name, text }) => [name, text] as const);

test.each(all)(`%s, seed ${seed}: both executors reach the same state after every instruction`, (_name, text) => {
  const machine = machineFrom(text);
  let leapt = 0;
  assertSeen(
    fc.property(fc.nat(), (drawn) => {
      leapt += compareRuns(machine, drawn, { size: () => 1, leaps: 150 });
    }),
    () => leapt > 0,
    { numRuns: runsOf(machine), seed },
  );
});

test.each(all)(`%s, seed ${seed}: both executors reach the same state after leaps of any length`, (_name, text) => {
  const machine = machineFrom(text);
  fc.assert(
    fc.property(fc.nat(), (seed) => {
      compareRuns(machine, seed, { size: (pick) => 1 + pick(40), leaps: 40 });
      // With cells that need a look a leap stops anywhere, before the first tick of an instruction too.
      compareRuns(machine, seed, { size: (pick) => 1 + pick(40), leaps: 40, guarded: { ...UNGUARDED, tellsNever: true } });
    }),
    { numRuns: runsOf(machine), seed },
  );
});

test(`drawn machines, seed ${seed}: both executors reach the same state after every instruction`, () => {
  fc.assert(
    fc.property(drawnMachine, fc.nat(), ({ text }, seed) => {
      compareRuns(machineFrom(text), seed, { size: () => 1, leaps: 100 });
    }),
    { numRuns, seed },
  );
});

test(`guards, a finish with effects, status words written with flags, seed ${seed}: both executors reach the same state`, () => {
  fc.assert(
    fc.property(drawnGuarded, fc.nat(), (text, drawn) => {
      const machine = machineFrom(text);
      compareRuns(machine, drawn, { size: () => 1, leaps: 60 });
      compareRuns(machine, drawn, { size: (pick) => 1 + pick(20), leaps: 40 });
    }),
    { numRuns: 3 * numRuns, seed },
  );
});

test('a guarded instruction of two ticks that is passed over first of all leaves the right tick to a finish that writes a port', () => {
  const finish = ['T <- T + 1', 'CLOCK[0] <- T'];
  const machine = machineFrom(guardedMachine({ guarded: [['A <- A + value', 'A <- A + value']], finish, plain: [] }));
  const program = programFrom(machine, ' PUT 3\nagain MAY0 4\n MAY0 5\n DEC\n GO again');
  const [fast, slow] = [new Runner(machine, program), new Runner(machine, program)];
  fast.begin();
  fast.run(18_762);
  while (slow.ticks < 18_762) slow.tick();
  expect(fast.ticks).toBe(18_762);
  expectEqual(fast.state, slow.state);
});

test('a status word keeps what was written to it, and a rule sets the flags that it does not hold', () => {
  const machine = machineFrom(guardedMachine({ guarded: [['T <- A']], finish: [], plain: ['SR <- A ; flags Z'] }));
  const program = programFrom(machine, ' PUT 0x80\nagain DO0\n GO again');
  const [fast, slow] = [new Runner(machine, program), new Runner(machine, program)];
  fast.begin();
  fast.run(20_002);
  while (slow.ticks < fast.ticks) slow.tick();
  expect([...fast.state.flags]).toEqual([1, 0, 0]);
  expectEqual(fast.state, slow.state);
});

/** Ticks that try each operator, rule and way of writing at some width; the machine is a small one. */
const OPERATIONS = `A <- A + B ; flags Z N C V H P
A <- A - B ; flags Z N C V H P
A <- A + B + C ; flags Z N C V H P
A <- A - B - C ; flags Z N C V H P
A <- -A ; flags Z N C V H P
A <- A & B ; flags Z N P
A <- A ^ B ; flags Z N P
A <- ~A ; flags Z N P
A <- A << 1 ; flags Z N C V
A <- A << low(B) ; flags Z N C V
A <- A >> 3 ; flags Z N C V
A <- A >> low(B) ; flags Z N C V
A <- asr(A, low(B)) ; flags Z N C V
A <- rotl(A, low(B)) ; flags Z N C V
A <- rotr(A, 1, C) ; flags Z N C V
A <- rotl(A, low(B), C) ; flags Z N C
A <- A * B ; flags Z N P
A <- A / B ; flags Z N
A <- A % B ; flags Z N
compare A - B ; flags Z N C V
if A < B: A <- B, B <- A
if signed(A < B): A <- B else B <- A
if (A = B) | (C = 1): PC <- B[5:0]
A[3:1] <- B[2:0]
A <- join(B[3:0], A[7:4])
A <- extend(B[3:0], 8)
R[B[1:0]] <- A, A <- R[B[3:2]]
M[A] <- B
A <- M[B]
M[A] <- M[B]
PC <- B[6:0]
C <- A[0], Z <- B[7]`;

test('every operator, rule and way of writing does the same in both executors', () => {
  const lines = OPERATIONS.split('\n');
  const texts = lines.flatMap((line): string[] => {
    const text = smallMachine({
      parts:
        'flags: {Z: {rule: zero}, N: {rule: negative}, C: {rule: carry}, V: {rule: overflow}, H: {rule: half-carry, into: 4}, P: {rule: parity}}',
      registers: 'R: {count: 4}',
      ticks: { TRY: line },
    });
    try {
      machineFrom(text);
      return [text];
    } catch {
      return [];
    }
  });
  expect(texts.length).toBeGreaterThan(24);
  for (const [at, text] of texts.entries()) {
    const machine = machineFrom(text);
    for (let seed = 1; seed <= 12; seed++) compareRuns(machine, seed * 7919 + at, { size: () => 1, leaps: 60 });
  }
});

/** A word of 24 bits, or 6 digits, that says what it means at both ends; or in more places than a table takes. */
const wide = (word: string, digits: number, zeros: boolean): string => `machine: Wide
word: {${word}}
spaces:
  M: {cells: 100}
registers:
  PC: {role: program counter}
  IR: {role: instruction}
  A:  {role: accumulator}
formats:
  value: opcode 2, value ${digits - 4}, kind 2
  alone: opcode 2, ${zeros ? `zero ${digits - 4}` : `any ${digits - 4}`}, kind 2
cycle:
  phases: [Fetch, Decode, Execute]
  first: {phase: Fetch, ticks: 'IR <- M[PC], PC <- PC + 1'}
  decode: {phase: Decode}
  execute: {phase: Execute}
instructions:
  HALT: {forms: [{write: HALT, code: alone opcode=1 kind=0, execute: halt}]}
  PUT: {forms: [{write: 'PUT {value}', code: value opcode=2 kind=1, execute: A <- value}]}
  ADD: {forms: [{write: 'ADD {value}', code: value opcode=2 kind=2, execute: A <- A + value}]}
  NEXT: {forms: [{write: NEXT, code: alone opcode=3 kind=3, execute: A <- A + 1}]}`;

test.each([
  ['24 bits, by a table', wide('bits: 24', 24, false)],
  ['24 bits, one form after another', wide('bits: 24', 24, true)],
  ['6 digits, by a table', wide('digits: 6', 6, false)],
  ['6 digits, one form after another', wide('digits: 6', 6, true)],
])('first cells of %s: both executors do the same', (_name, text) => {
  const machine = machineFrom(text);
  let leapt = 0;
  for (let seed = 1; seed <= numRuns; seed++) leapt += compareRuns(machine, seed * 7919, { size: () => 1, leaps: 80 });
  expect(leapt).toBeGreaterThan(numRuns * 5);
});

test('the same machine read again is not compiled again', () => {
  const { text } = demoMachines.find((each) => each.name === 'Curlew')!;
  const { Module } = WebAssembly;
  const count = jest.spyOn(WebAssembly, 'Module').mockImplementation((bytes) => new Module(bytes));
  const options = { counts: true };
  const runs = [0, 1, 2].map(() => CompiledRun.for(machineFrom(text), options));
  expect(runs.every((each) => each !== undefined)).toBe(true);
  expect(count.mock.calls.length).toBeLessThanOrEqual(1);
  CompiledRun.for(machineFrom(text.replace('Curlew', 'Other')), options);
  expect(count.mock.calls.length).toBeLessThanOrEqual(2);
  expect(count.mock.calls.length).toBeGreaterThan(0);
  count.mockRestore();
});

test('most ticks of the machines that ship are compiled; what is left needs a look always', () => {
  const shares = demoMachines.map(({ name, text }) => {
    const { ticks } = compile(machineFrom(text), PLAIN)!;
    return [name, ticks.compiled > 4 * ticks.left];
  });
  expect(shares).toEqual(demoMachines.map(({ name }) => [name, true]));
});

/** Counts a cell to 50, adding in a routine each time and counting down in between. */
const LONG = `start LOAD #60
loop CALL half
 DEC
 JUMPNZ loop
 LOAD count
 INC
 STORE count
 CMP #50
 JUMPNZ start
 HALT
half STORE level
 SHR
 LOAD level
 RET
 .origin 0x80
level .cells 0
count .cells 0`;

test('a long run is done by the compiled executor, and ends as the ticks one by one do', () => {
  const machine = machineNamed('Curlew');
  const program = programFrom(machine, LONG);
  const [fast, slow] = [new Runner(machine, program), new TickExecutor(machine, createState(machine))];
  fast.begin();
  let stop;
  while (!stop) stop = fast.run(200_000);
  expect([stop.kind, fast.timeline.leaper.longRuns]).toEqual(['halted', 'compiled']);
  const other = new Runner(machine, program);
  while (other.ticks < fast.ticks && other.tick() === undefined);
  expectEqual(fast.state, other.state);
  expect(slow.machine).toBe(machine);
});

test('breakpoints, watches, reads and goals stop a long run where the ticks one by one do', () => {
  const machine = machineNamed('Curlew');
  const program = programFrom(machine, LONG);
  const at = (name: string): number => program.symbols.find((each) => each.name === name)!.value;
  const register = withRole(machine, 'accumulator')!;
  const base = { enabled: true, id: 1 };
  const asks = (text: string) => ({ kind: 'condition', condition: conditionOf(machine, program, text) }) as const;
  const breaks = [
    { ...base, on: { kind: 'address', address: at('half') } as const, ignore: 1000 },
    { ...base, on: { kind: 'change', place: { kind: 'cell', space: 0, address: at('count') } } as const, ignore: 40 },
    { ...base, on: { kind: 'read', space: 0, address: at('count') } as const, ignore: 40 },
    { ...base, on: { kind: 'change', place: { kind: 'register', register } } as const, ignore: 2000 },
    { ...base, on: { kind: 'write', place: { kind: 'flag', flag: 1 } } as const, ignore: 2000 },
    { ...base, on: asks('M[count] = 45'), ignore: 0 },
    { ...base, on: asks('ACC < 3'), ignore: 100 },
    { ...base, on: asks('(Z = 0) & (M[level] > 0x1C) & (M[ACC] = 0)'), ignore: 0 },
  ];
  for (const each of breaks) {
    const [fast, slow] = [new Runner(machine, program), new Runner(machine, program)];
    const stops = [fast, slow].map((runner) => {
      runner.breakpoints = [each];
      runner.begin();
      for (;;) {
        const stop = runner === fast ? runner.run(50_000) : runner.runTick();
        if (stop) return stop;
      }
    });
    expect(stops[0]).toMatchObject({ kind: 'breakpoint' });
    expect(stops[0]).toEqual(stops[1]);
    expect(fast.ticks).toBe(slow.ticks);
    expectEqual(fast.state, slow.state);
  }
});

test('a step over a long routine leaps, and stops where it returns', () => {
  const machine = machineNamed('Curlew');
  const runner = new Runner(
    machine,
    programFrom(
      machine,
      ' CALL long\n HALT\nlong LOAD #200\nouter STORE n\n LOAD #0\ninner INC\n JUMPNZ inner\n LOAD n\n DEC\n JUMPNZ outer\n RET\nn .cells 0',
    ),
  );
  runner.begin(runner.overGoal());
  let stop;
  while (!stop) stop = runner.run(500_000);
  expect(stop).toMatchObject({ kind: 'reached' });
  expect(runner.state.control).toMatchObject({ callStack: undefined, step: 0 });
  expect(runner.timeline.leaper.longRuns).toBe('compiled');
});

test('out of a routine whose call is not known: a long run leaps, and stops where the stack is shorter', () => {
  const machine = machineNamed('Curlew');
  const source =
    ' LOAD #back\n PUSH\n RET\nback LOAD #40\n PUSH\nouter STORE n\n LOAD #0\ninner INC\n JUMPNZ inner\n LOAD n\n DEC\n JUMPNZ outer\n POP\n HALT\nn .cells 0';
  const program = programFrom(machine, source);
  const [fast, slow] = [new Runner(machine, program), new Runner(machine, program)];
  for (const runner of [fast, slow]) {
    for (let count = 0; count < 5; count++) runner.instruction();
    expect(runner.state.control.callStackBroken).toBe(true);
    runner.begin(runner.outGoal());
  }
  let stop, expected;
  while (!stop) stop = fast.run(500_000);
  while (!expected) expected = slow.runTick();
  expect([stop.kind, fast.timeline.leaper.longRuns, fast.ticks]).toEqual(['reached', 'compiled', slow.ticks]);
  expect(stop).toEqual(expected);
  expectEqual(fast.state, slow.state);
});

test('remarks come at the same ticks whichever executor runs', () => {
  const machine = machineNamed('Gannet');
  const program = programFrom(machine, demoProgram('highest of five'));
  const runners = [new Runner(machine, program), new Runner(machine, program)];
  for (const [at, runner] of runners.entries()) {
    runner.begin();
    for (let turn = 0; turn < 40_000; turn++) if (at === 0 ? runner.run(1000) : runner.runTick()) break;
  }
  expect(runners[0]!.runRemarks).toEqual(runners[1]!.runRemarks);
});

test('travel over a long run that leapt gives the states of stepping', () => {
  const machine = machineNamed('Curlew');
  const program = programFrom(machine, LONG);
  const runner = new Runner(machine, program);
  runner.begin();
  while (!runner.run(100_000));
  const steps = new Runner(machine, program);
  for (const target of [10, 5003, 40_001, 41_000, runner.timeline.furthest]) {
    runner.timeline.travel(target);
    while (steps.ticks < target && steps.tick() === undefined);
    expectEqual(runner.state, steps.state);
  }
});

test('both executors count the same', () => {
  for (const [name, source] of [
    ['Curlew', LONG],
    ['Gannet', demoProgram('highest of five')],
    ['Plover', demoProgram('foghorn')],
  ] as const) {
    const machine = machineNamed(name);
    const program = programFrom(machine, source);
    const [fast, slow] = [new Runner(machine, program), new Runner(machine, program)];
    fast.count();
    slow.count();
    fast.begin();
    slow.begin();
    let stop;
    while (!stop) stop = fast.run(100_000);
    while (!slow.runTick());
    expect(fast.counts).toEqual(slow.counts);
    expect([...fast.counts!.forms.values()].reduce((sum, each) => sum + each, 0)).toBe(fast.state.control.instructions);
    expect(fast.counts!.phases.reduce((sum, each) => sum + each, 0)).toBe(fast.ticks);
    if (name === 'Curlew') expect(fast.timeline.leaper.longRuns).toBe('compiled');
  }
});

test('until a condition holds: a long run leaps, and stops at the boundary where it first does', () => {
  const machine = machineNamed('Curlew');
  const program = programFrom(machine, LONG);
  for (const text of ['M[count] = 49', '(M[count] = 30) & (M[level] = 7)', '(ACC = 30) & (M[count] = 35)']) {
    const goal = { kind: 'condition', condition: conditionOf(machine, program, text) } as const;
    const [fast, slow] = [new Runner(machine, program), new Runner(machine, program)];
    for (const each of [fast, slow]) each.begin(goal);
    let stop, expected;
    while (!stop) stop = fast.run(100_000);
    while (!expected) expected = slow.runTick();
    expect([stop.kind, fast.timeline.leaper.longRuns]).toEqual(['reached', 'compiled']);
    expect(fast.ticks).toBe(slow.ticks);
    expectEqual(fast.state, slow.state);
  }
});

test('looking back and forward over a long run finds what stepping through it finds', () => {
  const machine = machineNamed('Curlew');
  const program = programFrom(machine, LONG);
  const runner = new Runner(machine, program);
  runner.begin();
  while (!runner.run(100_000));
  expect(runner.timeline.leaper.longRuns).toBe('compiled');
  const [start, end] = [runner.timeline.furthest - 70_000, runner.timeline.furthest];
  runner.timeline.travel(start);
  const conditions = ['M[count] = 0', 'M[level] = 30', 'ACC = 12', '1', '0', 'PC = half'].map((text) =>
    conditionOf(machine, program, text),
  );
  const peeker = new Peeker(machine, runner.state);
  const held: { tick: number; depth: number; holds: boolean[] }[] = [];
  const look = (): void => {
    const { control } = runner.state;
    if (control.step === 0)
      held.push({ tick: runner.ticks, depth: depthOf(control), holds: conditions.map((each) => peeker.value(each) === 1) });
  };
  for (look(); runner.ticks < end && !runner.tick(); look());
  look();
  const firstOf = (from: number, fits: (each: (typeof held)[0]) => boolean) => held.find((each) => each.tick > from && fits(each))?.tick;
  const lastOf = (until: number, fits: (each: (typeof held)[0]) => boolean) =>
    held.findLast((each) => each.tick <= until && fits(each))?.tick;
  for (const tick of [start + 9, start + 12_345, start + 40_000, end - 3, end]) {
    for (const [at, condition] of conditions.entries()) {
      const sought = { kind: 'condition', condition } as const;
      const fits = ({ holds }: (typeof held)[0]): boolean => holds[at]!;
      expect([condition.text, tick, found(runner.timeline.searchForward(sought, tick))]).toEqual([
        condition.text,
        tick,
        firstOf(tick, fits),
      ]);
      const last = lastOf(tick, fits);
      if (last !== undefined)
        expect([condition.text, tick, found(runner.timeline.searchBack(sought, tick))]).toEqual([condition.text, tick, last]);
    }
    for (const most of [0, 1])
      expect(found(runner.timeline.searchBack({ kind: 'calls', most }, tick))).toBe(lastOf(tick, ({ depth }) => depth <= most));
  }
  expect(found(runner.timeline.searchForward({ kind: 'condition', condition: conditions[4]! }, -1))).toBeUndefined();
  expect(found(runner.timeline.searchBack({ kind: 'condition', condition: conditions[4]! }))).toBeUndefined();
});

const conditionOf = (machine: Machine, program: Program | undefined, text: string): Watched => {
  const read = readWatched(machine, program, text);
  if ('refused' in read) throw new Error(explainEntry(read.refused));
  return read;
};

/** What may be watched of a machine, drawn by chance. */
function drawnBreak(machine: Machine, pick: (size: number) => number, id: number): Breakpoint {
  const space = machine.programSpace;
  const start = machine.fixedStart ?? machine.registers[machine.programCounter]!.start;
  const address = Math.min(machine.spaces[space]!.cells - 1, start + pick(300));
  const cell = { kind: 'cell', space, address } as const;
  const register = { kind: 'register', register: pick(machine.registers.length) } as const;
  const flag = { kind: 'flag', flag: pick(Math.max(1, machine.flags.length)) } as const;
  const watched = machine.registers[pick(machine.registers.length)]!;
  const valueOf = (width: number): number => pick(Math.min(200, power(machine.radix, width)));
  const { name: spaceName, banks } = machine.spaces[space]!;
  const bank = banks > 1 ? '[0]' : '';
  const kinds: BreakOn[] = [
    { kind: 'address', address },
    { kind: 'write', place: cell },
    { kind: 'change', place: cell },
    { kind: 'read', space, address },
    { kind: 'change', place: register },
    { kind: 'output' },
    { kind: 'condition', condition: conditionOf(machine, undefined, `${watched.name} < 0d${valueOf(watched.width)}`) },
    {
      kind: 'condition',
      condition: conditionOf(
        machine,
        undefined,
        `${spaceName}${bank}[0d${address}] ${['=', '!=', '>'][pick(3)]} 0d${valueOf(machine.spaces[space]!.width)}`,
      ),
    },
    ...(machine.flags.length > 0 ? [{ kind: 'change', place: flag } as const] : []),
  ];
  return { id, on: kinds[pick(kinds.length)]!, enabled: true, ignore: pick(4) };
}

test.each(all)(
  `%s, seed ${seed}: drawn programs, scripts and breakpoints stop both executors at the same tick for the same reason`,
  (_name, text) => {
    const machine = machineFrom(text);
    fc.assert(
      fc.property(fc.nat(), (seed) => {
        const pick = picker(seed ^ 0x1234);
        const breaks = [1, 2, 3].map((id) => drawnBreak(machine, pick, id));
        const counts = pick(2) === 0;
        const readers = machine.devices.flatMap((_, device) => (pick(2) === 0 ? [device] : []));
        const plans = readers.map((device): Plan => ({
          device,
          latch: 'ready',
          before: 1,
          until: { kind: 'reads', count: 1 + pick(6) },
          after: 0,
        }));
        const edits = [{ kind: 'inputs', queue: [7, 9, 11], tick: 1 + pick(60) } as const];
        const form = machine.forms.find((each) => each.operands.length === 0)!;
        const runners = [0, 1].map(() => {
          const runner = new Runner(
            machine,
            programFrom(machine, `${machine.system ? `.origin ${machine.system.to + 1}\n` : ''}${form.written}`),
            { inputs: [3, 65], plans, edits },
          );
          const drawn = drawnState(machine, seed);
          drawn.latches.set(runner.state.latches);
          drawn.control.queue = runner.state.control.queue;
          drawn.registers[machine.programCounter] = machine.fixedStart ?? machine.registers[machine.programCounter]!.start;
          restoreState(runner.state, drawn);
          runner.options = { endless: 'tell', closely: 0 };
          runner.breakpoints = breaks;
          if (counts) runner.count();
          return runner;
        });
        const [fast, slow] = runners as [Runner, Runner];
        for (let turn = 0; turn < 4; turn++) {
          fast.begin();
          slow.begin();
          const stop = fast.run(20_000);
          let expected;
          while (!expected && slow.ticks < fast.ticks + (stop ? 1 : 0)) expected = slow.runTick();
          if (!stop) return;
          expect({ kind: stop.kind, hits: 'hits' in stop && stop.hits }).toEqual({
            kind: expected?.kind,
            hits: expected && 'hits' in expected && expected.hits,
          });
          expectEqual(fast.state, slow.state);
          expect(fast.runRemarks).toEqual(slow.runRemarks);
          expect(fast.counts).toEqual(slow.counts);
          expect(fast.timeline.leaper.longRuns).toBe('compiled');
          if (stop.kind !== 'breakpoint') return;
        }
      }),
      { numRuns: runsOf(machine), seed },
    );
  },
);

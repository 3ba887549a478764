import fc from 'fast-check';
import { assemble } from '../assembler/assemble';
import { readWholeMachine } from '../assembler/machines';
import { explainStop } from '../engine/tell/explainStop';
import { Runner } from '../engine/control/runner';
import { copyState, deviceLatch, portLatch, type State } from '../engine/meaning/state';
import { reportTick } from '../engine/meaning/reportTick';
import { toldTransfers, type ToldTransfer } from '../engine/meaning/report';
import { TickExecutor } from '../engine/meaning/interpret';
import { decode, encode, rangeOf } from '../machine/model/encode';
import { programSpaceOf, type Field, type Form, type Machine } from '../machine/model/machine';
import { power } from '../text/number';
import { demoMachines, demoProgram, fixtures, machineFrom, machineNamed, programFrom } from './demo';
import { drawnState } from './executors';
import { spellingsOf } from '../machine/model/spellings';

const all = [...demoMachines, ...fixtures].map(({ name, text }) => [name, text] as const);

test.each(all)('%s is read without a problem of any grade', (_name, text) => {
  expect(readWholeMachine(text).problems).toEqual([]);
});

test('the demo machines have about as many instructions as a course needs', () => {
  const operations = (text: string): string[] =>
    machineFrom(text).forms.flatMap((each) => spellingsOf(each).flatMap(({ operation, first }) => (first ? [operation] : [])));
  const counts = demoMachines.map(({ name, text }) => [name, new Set(operations(text)).size]);
  expect(counts).toEqual([
    ['Curlew', 40],
    ['Plover', 12],
    ['Gannet', 24],
    ['Dunlin', 32],
  ]);
});

interface Ran {
  readonly machine: string;
  readonly program: string;
  readonly inputs?: readonly number[];
  readonly switches?: number;
  readonly output?: string;
  readonly registers?: Readonly<Record<string, number>>;
  readonly devices?: Readonly<Record<string, number>>;
}

const codes = (text: string): number[] => Array.from(text, (each) => each.charCodeAt(0));

const RUNS: readonly Ran[] = [
  { machine: 'Plover', program: 'flood sum', inputs: [120, 150, 0], output: '270\n' },
  { machine: 'Plover', program: 'falling water', inputs: [150, 120], output: '30\n' },
  { machine: 'Plover', program: 'falling water', inputs: [120, 150], output: '0\n' },
  { machine: 'Plover', program: 'foghorn', output: '3\n2\n1\n' },
  { machine: 'Gannet', program: 'harbour log', inputs: codes('calm.'), output: 'log: calm.' },
  { machine: 'Gannet', program: 'highest of five', output: '402\n' },
  { machine: 'Gannet', program: 'two gates', output: '10\n', devices: { lamps: 5 } },
  { machine: 'Dunlin', program: 'sill lamps', switches: 0b0101, devices: { lamps: 0b1100 } },
  { machine: 'Dunlin', program: 'sill lamps', switches: 0b0000, devices: { lamps: 0b0001 } },
  { machine: 'Dunlin', program: 'decimal levels', registers: { ACC: 2, BANK: 2 } },
  { machine: 'Dunlin', program: 'gauge table', devices: { gauge: 3 } },
];

function start({ machine: name, program, inputs = [], switches = 0 }: Ran): Runner {
  const machine = machineNamed(name);
  const runner = new Runner(machine, programFrom(machine, demoProgram(program)), { inputs });
  const device = machine.devices.findIndex((each) => each.kind === 'switches');
  if (device !== -1) runner.state.latches[deviceLatch(machine, device, 'value')] = switches;
  return runner;
}

test.each(RUNS)('$machine runs $program to its end, with what it should show', (ran) => {
  const runner = start(ran);
  const stop = runner.run(200_000, { first: true });
  expect(stop && explainStop(runner, stop)).toMatch(/^Halted/);
  const { machine, state } = runner;
  const deviceOf = (name: string): number => machine.devices.findIndex((each) => each.name === name);
  const valueOf = (name: string): number => state.registers[machine.registers.findIndex((each) => each.name === name)]!;
  expect(state.control.output).toBe(ran.output ?? '');
  for (const [name, value] of Object.entries(ran.registers ?? {})) expect([name, valueOf(name)]).toEqual([name, value]);
  for (const [name, value] of Object.entries(ran.devices ?? {})) {
    expect([name, state.latches[deviceLatch(machine, deviceOf(name), 'value')]]).toEqual([name, value]);
    const { data } = machine.devices[deviceOf(name)]!;
    if (data && 'port' in data) expect(state.latches[portLatch(data.port)]).toBe(value);
  }
});

/** Numbers drawn from a seed, so that a failing case can be run again. */
function picker(seed: number): (size: number) => number {
  let x = seed | 1;
  return (size) => {
    x = (Math.imul(x, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((x / 2 ** 32) * size);
  };
}

/** A value that the field can encode for an instruction at an address. */
function valueFor(machine: Machine, form: Form, field: Field, at: number, pick: (size: number) => number): number {
  const { radix } = machine;
  const { cells } = programSpaceOf(machine);
  const scale = power(radix, field.dropped);
  if (field.names) return [...field.names.keys()][pick(field.names.size)]!;
  const digits = pick(power(radix, field.width));
  if (field.page) {
    const span = power(radix, field.width) * scale;
    return Math.floor((at + form.format.cells) / span) * span + digits * scale;
  }
  const { least } = rangeOf({ ...field, kind: field.kind === 'either' ? 'unsigned' : field.kind }, radix);
  const value = least + digits * scale;
  if (!field.relative) return value;
  const base = (field.relative.from === 'next' ? at + form.format.cells : at) + field.relative.plus;
  return (((base + value) % cells) + cells) % cells;
}

test.each(all)('%s: encode, then decode, is the identity for every instruction and operand', (_name, text) => {
  const machine = machineFrom(text);
  const { cells: size } = programSpaceOf(machine);
  fc.assert(
    fc.property(fc.nat(), fc.nat(size - 5), (seed, at) => {
      const pick = picker(seed);
      for (const form of machine.forms) {
        const values = new Map(form.operands.map((field) => [field.name, valueFor(machine, form, field, at, pick)]));
        const encoded = encode(machine, form, values, at);
        if ('refused' in encoded) throw new Error(`${form.written}: ${JSON.stringify(encoded.refused)}`);
        const decoded = decode(machine, (offset) => encoded.cells[offset], at);
        if ('refused' in decoded) throw new Error(`${form.written}: ${JSON.stringify(decoded.refused)}`);
        expect(decoded.form.written).toBe(form.written);
        expect(new Map(decoded.operands.map((each) => [each.field.name, each.value]))).toEqual(values);
      }
    }),
    { numRuns: runsOf(machine, 12) },
  );
});

/** The parts in which two states differ. */
function differences(one: State, other: State): string[] {
  const parts = (state: State) => ({
    registers: [state.registers],
    flags: [state.flags, state.flagTicks],
    spaces: state.spaces,
    marks: state.marks,
    latches: [state.latches],
  });
  const [a, b] = [parts(one), parts(other)];
  const bytes = (each: NodeJS.TypedArray): Buffer => Buffer.from(each.buffer, each.byteOffset, each.byteLength);
  const names = Object.keys(a) as (keyof typeof a)[];
  return names.filter((name) => a[name].some((each, at) => !bytes(each).equals(bytes(b[name][at]!))));
}

/** Memory full of chance, from which faults, waits and jumps into the wild follow. */
function wild(machine: Machine, seed: number): Runner {
  const pick = picker(seed);
  const first = machine.forms.find((each) => each.operands.length === 0)!;
  const origin = machine.system ? `.origin ${machine.system.to + 1}\n` : '';
  const runner = new Runner(machine, programFrom(machine, `${origin}${first.written}`), { inputs: [1, 65, 10, 0] });
  machine.spaces.forEach(({ width }, space) => {
    const cells = runner.state.spaces[space]!;
    const from = machine.system && space === machine.programSpace ? machine.system.to + 1 : 0;
    for (let address = from; address < cells.length; address++) cells[address] = pick(power(machine.radix, width));
  });
  for (const [at, { width, zero }] of machine.registers.entries())
    if (!zero && at !== machine.programCounter) runner.state.registers[at] = pick(power(machine.radix, width));
  return runner;
}

/** Large memories take long to draw and to compare. */
const runsOf = (machine: Machine, runs: number): number => (programSpaceOf(machine).cells > 1000 ? Math.ceil(runs / 4) : runs);

test.each(all)('%s: a tick that faults or waits has changed nothing, and every value stays within its width', (_name, text) => {
  const machine = machineFrom(text);
  fc.assert(
    fc.property(fc.nat(), (seed) => {
      const { state, inputs } = wild(machine, seed).timeline;
      state.control.queue = [...inputs];
      const executor = new TickExecutor(machine, state);
      for (let tick = 0; tick < 120; tick++) {
        const before = copyState(state);
        const outcome = executor.tick();
        if (outcome === 'fault' || outcome === 'waiting') {
          const { here: _here, form: _form, jumped: _jumped, ...rest } = before.control;
          expect(differences(state, before)).toEqual([]);
          expect(state.control).toMatchObject(rest);
          return;
        }
        machine.registers.forEach(({ width, zero }, at) =>
          expect(state.registers[at]).toBeLessThan(zero ? 1 : power(machine.radix, width)),
        );
        if (outcome === 'halted') return;
      }
    }),
    { numRuns: runsOf(machine, 8) },
  );
});

/** The value that a transfer has by what is told of where it comes from; undefined where only what it was worked out from is told. */
function byItsOrigin({ radix }: Machine, { route, parts, sources, worked, lowest = 0, width }: ToldTransfer): bigint | undefined {
  const size = (digits: number): bigint => BigInt(radix) ** BigInt(digits);
  const read = route === 'straight' ? (parts ?? sources) : [];
  const told = worked && route !== 'straight' ? [{ value: worked.wide ?? worked.result, width: worked.width }] : read;
  if (told.length === 0 || (told === sources && told.length > 1)) return undefined;
  const whole = told.reduce((sum, each) => sum * size(each.width) + BigInt(each.value), 0n);
  const given = told.reduce((sum, each) => sum + each.width, 0);
  const repeated = (parts ?? route === 'alu') && given < width && whole * 2n >= size(given) ? size(width) - size(given) : 0n;
  return (whole / size(lowest) + repeated) % size(width);
}

test.each(all)('%s: what moved is what is told to have come', (_name, text) => {
  const machine = machineFrom(text);
  let [moved, told] = [0, 0];
  for (let seed = 1; seed <= 40 && moved < 250; seed++) {
    const executor = new TickExecutor(machine, drawnState(machine, seed));
    for (let tick = 0; tick < 200; tick++) {
      const { outcome, report } = reportTick(executor);
      if (outcome !== 'done') break;
      for (const each of toldTransfers(report.transfers)) {
        if (each.route === 'service' || each.target.kind === 'flag' || each.lost) continue;
        moved++;
        const value = byItsOrigin(machine, each);
        if (value === undefined) continue;
        told++;
        expect([report.text, value]).toEqual([report.text, BigInt(each.value)]);
      }
    }
  }
  expect(moved).toBeGreaterThan(150);
  // Of a comparison, and of work that no number can hold, only what went into it is told.
  expect(told / moved).toBeGreaterThan(0.9);
});

test.each(all)('%s: forward, back and forward again reach the same state, tick by tick', (_name, text) => {
  const machine = machineFrom(text);
  fc.assert(
    fc.property(fc.nat(), (seed) => {
      const runner = wild(machine, seed);
      const began = copyState(runner.state);
      let ticks = 0;
      while (ticks < 60 && !runner.tick()) ticks++;
      const ended = copyState(runner.state);
      while (runner.timeline.back());
      expect(differences(runner.state, began)).toEqual([]);
      while (runner.ticks < ended.control.ticks && !runner.tick());
      expect(differences(runner.state, ended)).toEqual([]);
    }),
    { numRuns: runsOf(machine, 6) },
  );
});

const MUTATIONS = Number(process.env.ZETTAK_MUTATIONS ?? 20);
const SIGNS = 'aZ0 :{}[]"\'#-\n|,.9<;&*!%@`\t?';

/** Places and signs come from a fixed seed: the next run tries the same ones. */
test.each(all)('%s with one character changed: no crash, and an error at the changed line or pointing to it', (_name, text) => {
  const pick = picker(2026);
  let broken = 0;
  const astray: string[] = [];
  for (let count = 0; count < MUTATIONS; count++) {
    const at = pick(text.length);
    const to = SIGNS[pick(SIGNS.length)]!;
    const mutant = text.slice(0, at) + to + text.slice(at + 1);
    const { machine, problems } = readWholeMachine(mutant);
    problems.forEach((each) => expect(each.sentence).not.toMatch(/undefined(?! opc)|NaN|\[object/));
    expect(machine === undefined).toBe(problems.some((each) => each.grade === 'error'));
    if (machine) continue;
    broken++;
    const line = text.slice(0, at).split('\n').length;
    const errors = problems.filter((each) => each.grade === 'error');
    const told = errors.flatMap((each) => [each.line, ...(each.related ?? []).map((place) => place.line)]);
    if (!told.includes(line)) astray.push(`${line}: ${mutant.split('\n')[line - 1]!} → ${errors[0]!.line}: ${errors[0]!.sentence}`);
  }
  expect(broken).toBeGreaterThan(MUTATIONS / 3);
  expect(astray).toEqual([]);
});

test('a program that is assembled for one machine is refused by another in sentences, never by a crash', () => {
  for (const { text } of demoMachines) {
    const machine = machineFrom(text);
    for (const { programs } of demoMachines)
      for (const program of programs) {
        const { program: made, problems } = assemble(machine, program.text);
        expect(made === undefined).toBe(problems.some((each) => each.grade === 'error'));
      }
  }
});

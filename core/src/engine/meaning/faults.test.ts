import { assemble } from '../../assembler/assemble';
import { machineFrom } from '../../testing/demo';
import { smallMachine, type Small } from '../../testing/small';
import { narrate } from '../tell/narrate';
import { readScript } from '../timeline/script';
import { copyState } from './state';
import { plain } from '../tell/telling';
import { Runner, type Stop } from '../control/runner';
import { deviceLatch } from './state';
import { explainStop } from '../tell/explainStop';

function run(small: Small, source: string, { inputs = [], budget = 400 }: { inputs?: number[]; budget?: number } = {}) {
  const machine = machineFrom(smallMachine(small));
  const { program, problems } = assemble(machine, source);
  if (!program) throw new Error(problems.map((each) => each.sentence).join(' '));
  const runner = new Runner(machine, program, { inputs });
  const stop = runner.run(budget, { first: true });
  const register = (name: string): number => runner.state.registers[machine.registers.findIndex((each) => each.name === name)]!;
  return { runner, machine, stop, register, sentence: stop ? explainStop(runner, stop) : 'still running' };
}

const faultOf = (stop: Stop | undefined) => (stop?.kind === 'fault' ? stop.fault : stop?.kind);

const CASES: readonly (readonly [kind: string, small: Small, source: string, sentence: RegExp])[] = [
  ['cell outside', { ticks: { X: 'A <- M[B]' }, space: 'cells: 64' }, 'PUTB 70\nX\nHALT', /0x46 is past the end of M, which has 64 cells/],
  [
    'read-only',
    { ticks: { X: 'ROM[B] <- A' }, parts: '', space: 'cells: 256}\n  ROM: {cells: 16, read-only: yes' },
    'X\nHALT',
    /cell 0x0 of ROM can only be read/,
  ],
  ['division', { ticks: { X: 'A <- A / B' } }, 'PUT 7\nX\nHALT', /7 cannot be divided by 0/],
  ['two writers', { ticks: { X: 'M[A] <- 1, M[B] <- 2' } }, 'PUT 9\nPUTB 9\nX\nHALT', /two transfers of one tick write to cell 0x09/],
  ['two writers', { registers: 'R: {count: 4}', ticks: { X: 'R[A] <- 1, R[B] <- 2' } }, 'X\nHALT', /write to R0/],
  [
    'empty port',
    { parts: 'ports: {name: PORT, count: 4}', ticks: { X: 'A <- PORT[2]' } },
    'X\nHALT',
    /^Stopped on line 1, 0x00 X: nothing is attached to port 0x2\.$/,
  ],
  [
    'register outside',
    { registers: 'R: {count: 5}', ticks: { X: 'A <- R[B]' } },
    'PUTB 5\nX\nHALT',
    /no register number 5; they go from 0 to 4/,
  ],
  ['undefined opcode', {}, 'GO 200', /0x00 at 0xC8 is no instruction. The run walked past the end/],
  ['undefined service', { ticks: { X: 'service A' } }, 'PUT 9\nX\nHALT', /asks for service 0x09/],
  ['program counter outside', { space: 'cells: 64' }, 'GO 100\nHALT', /PC stands at 0x64, past the end of M/],
];

test.each(CASES)('%s stops the run, says so, and has changed nothing in its tick', (kind, small, source, sentence) => {
  const { stop, sentence: told } = run(small, source);
  expect(faultOf(stop)).toMatchObject({ kind });
  expect(told).toMatch(sentence);
});

test.each<[string, Small, string, Record<string, number>]>([
  ['cell outside: wrap', { ticks: { X: 'A <- M[B]' }, space: 'cells: 64' }, 'PUTB 65\nX\nHALT', { A: 65 }],
  ['cell outside: ignore', { ticks: { X: 'A <- M[B]' }, space: 'cells: 64' }, 'PUT 5\nPUTB 65\nX\nHALT', { A: 0 }],
  ['cell outside: value 0xEE', { ticks: { X: 'A <- M[B]' }, space: 'cells: 64' }, 'PUTB 65\nX\nHALT', { A: 0xee }],
  [
    'read-only: ignore',
    { ticks: { X: 'ROM[B] <- A' }, space: 'cells: 256}\n  ROM: {cells: 16, read-only: yes' },
    'PUT 3\nX\nHALT',
    { A: 3 },
  ],
  ['division: value 99', { ticks: { X: 'A <- A / B' } }, 'PUT 7\nX\nHALT', { A: 99 }],
  ['empty port: value 3', { parts: 'ports: {name: PORT, count: 4}', ticks: { X: 'A <- PORT[2]' } }, 'X\nHALT', { A: 3 }],
  ['register outside: wrap', { registers: 'R: {count: 5, start: 7}', ticks: { X: 'A <- R[B]' } }, 'PUTB 5\nX\nHALT', { A: 7 }],
  ['undefined service: ignore', { ticks: { X: 'service A' } }, 'PUT 4\nX\nHALT', { A: 4 }],
  ['undefined opcode: ignore', {}, 'PUT 4\n.cells 0, 0\nHALT', { A: 4 }],
  ['program counter outside: wrap', { space: 'cells: 64' }, 'GO 66\nPUT 8\nHALT', { A: 8 }],
])('“%s” is what the machine may ask for instead', (fault, small, source, registers) => {
  const { stop, register } = run({ ...small, parts: `${small.parts ?? ''}\nfaults: {${fault}}` }, source);
  expect(stop).toEqual({ kind: 'halted' });
  for (const [name, value] of Object.entries(registers)) expect([name, register(name)]).toEqual([name, value]);
});

const ENTER = `traps:
  enter:
    phase: Execute
    ticks: |
      B <- cause
      M[0xF0] <- next, PC <- M[0xE0 + B], trap next
`;

test('a fault that is a trap drops its tick and the rest of its instruction, and goes through the table', () => {
  const source = 'PUT 7\nX\nHALT\nback PUT 1\nHALT\n.origin 0xE4\n.cells back';
  const { stop, register, runner, machine } = run(
    { ticks: { X: 'M[0x80] <- 5\nA <- A / B\nM[0x81] <- 6' }, parts: `${ENTER}faults: {division: trap 4}` },
    source,
  );
  expect(stop).toEqual({ kind: 'halted' });
  expect([register('A'), register('B')]).toEqual([1, 4]);
  const cells = runner.state.spaces[0]!;
  expect([cells[0x80], cells[0x81], cells[0xf0]]).toEqual([5, 0, 3]);
  const report = runner.timeline.reportOf(8)!;
  expect(report).toMatchObject({ part: 'enter', trapped: { kind: 'division' } });
  const told = narrate({ machine, program: runner.program, state: runner.state }, report, 'done')
    .map((each) => each.text)
    .join('');
  expect(told).toMatch(/A fault was caught: 0x07 cannot be divided by 0. The machine enters its trap/);
});

test('a fault while entering a trap stops the run', () => {
  const parts = `traps:\n  enter:\n    phase: Execute\n    ticks: |\n      A <- A / B\nfaults: {division: trap 4}`;
  const { stop } = run({ ticks: { X: 'A <- A / B' }, parts }, 'X\nHALT');
  expect(faultOf(stop)).toMatchObject({ kind: 'division' });
});

test('“enter” in an instruction takes the same way as a fault, with its own cause', () => {
  const { stop, register, runner } = run(
    { ticks: { X: 'enter A' }, parts: ENTER },
    'PUT 2\nX\nHALT\nroutine PUT 9\nHALT\n.origin 0xE2\n.cells routine',
  );
  expect(stop).toEqual({ kind: 'halted' });
  expect(register('A')).toBe(9);
  expect(runner.state.control.callStack).toMatchObject({ kind: 'trap', target: 4, returnTo: 3, depth: 1 });
});

test('an instruction that is data is a fault only where the machine asks for it', () => {
  const source = 'GO here\nhere .cells 1';
  expect(run({}, source).stop).toEqual({ kind: 'halted' });
  const asked = run({ parts: 'faults: {executing data: stop}' }, source);
  expect(faultOf(asked.stop)).toEqual({ kind: 'executing data', address: 2 });
  expect(asked.sentence).toMatch(/holds data, not an instruction. The run walked into the data of line 2/);
});

test('a result that does not fit is a fault only where the machine asks for it, and not for addresses', () => {
  const source = 'PUT 200\nPUTB 100\nX\nHALT';
  expect(run({ ticks: { X: 'A <- A + B' } }, source).register('A')).toBe(44);
  const asked = run({ ticks: { X: 'A <- A + B' }, parts: 'faults: {result too wide: stop}' }, source);
  expect(faultOf(asked.stop)).toEqual({ kind: 'result too wide', exact: 300, width: 8 });
  expect(asked.sentence).toBe('Stopped on line 3, 0x04 X: the result 0x12C does not fit into 8 bits.');
  const around = run({ parts: 'faults: {result too wide: stop}' }, 'GO 254\n.origin 254\nPUT 1\n.origin 0');
  expect(around.stop?.kind).not.toBe('fault');
});

const STACKS: readonly (readonly [string, string, string, string])[] = [
  ['down', 'value', 'SP <- SP - 1, M[SP - 1] <- A, push S', 'A <- M[SP], SP <- SP + 1, pop S'],
  ['down', 'free', 'M[SP] <- A, SP <- SP - 1, push S', 'A <- M[SP + 1], SP <- SP + 1, pop S'],
  ['up', 'value', 'SP <- SP + 1, M[SP + 1] <- A, push S', 'A <- M[SP], SP <- SP - 1, pop S'],
  ['up', 'free', 'M[SP] <- A, SP <- SP + 1, push S', 'A <- M[SP - 1], SP <- SP - 1, pop S'],
];

test.each(STACKS)('a stack that grows %s and points at the %s holds what fits its region, and no more', (grows, at, push, pop) => {
  const empty = { 'down value': 0x84, 'down free': 0x83, 'up value': 0x7f, 'up free': 0x80 }[`${grows} ${at}` as 'up free']!;
  const small: Small = {
    registers: `SP: {role: stack pointer, start: ${empty}}`,
    parts: `stacks: {S: {pointer: SP, space: M, from: 0x80, to: 0x83, grows: ${grows}, points at: ${at}}}`,
    ticks: { PUSH: push, POP: pop },
  };
  const four = Array.from({ length: 4 }, (_, value) => `PUT ${value + 1}\nPUSH`).join('\n');
  const full = run(small, `${four}\nHALT`);
  expect([full.stop, [...full.runner.state.spaces[0]!.slice(0x7f, 0x85)].filter((each) => each > 0).length]).toEqual([
    { kind: 'halted' },
    4,
  ]);
  const over = run(small, `${four}\nPUT 5\nPUSH\nHALT`);
  expect(over.sentence).toMatch(/the stack S is full: nothing more can be pushed. It lies from 0x80 to 0x83/);
  expect([...over.runner.state.spaces[0]!.slice(0x7f, 0x85)]).not.toContain(5);
  const pops = run(small, `${four}\nPOP\nPOP\nPOP\nPOP\nHALT`);
  expect([pops.stop, pops.register('A')]).toEqual([{ kind: 'halted' }, 1]);
  expect(run(small, `PUT 1\nPUSH\nPOP\nPOP\nHALT`).sentence).toMatch(/is empty: there is nothing to pop/);
});

const DEVICES = `ports: {name: PORT, count: 8, idle: 0}
devices:
  keys: {kind: keyboard, data: 'M[0xF0]', status: 'M[0xF1]', ready: 7}
  slow: {kind: display, data: 'M[0xF2]', status: 'M[0xF3]', busy: 10}
  box: {kind: switches, data: 'PORT[1]', lines: {gate: 0, fog: 2}}
  sill: {kind: lamps, data: 'PORT[1]', lines: {horn: 3}}
  clock: {kind: timer, data: 'PORT[2]', status: 'PORT[3]', active: low}
flags:
  G: {line: box.gate}`;

test('a keyboard is ready while something is queued, and each read takes one character', () => {
  const ticks = { STATUS: 'A <- M[0xF1]', KEY: 'B <- M[0xF0]' };
  const before = run({ parts: DEVICES, ticks }, 'STATUS\nHALT', { inputs: [65, 66] });
  expect(before.register('A')).toBe(0x80);
  const after = run({ parts: DEVICES, ticks }, 'KEY\nKEY\nSTATUS\nHALT', { inputs: [65, 66] });
  expect([after.register('B'), after.register('A'), after.runner.state.control.inputs]).toEqual([66, 0, 2]);
});

test('a read with effects happens once for each reference that is carried out, and never when looked at', () => {
  const ticks = { TWICE: 'A <- M[0xF0] + M[0xF0]', NOT: 'if B = 1: A <- M[0xF0]' };
  const { register, runner } = run({ parts: DEVICES, ticks }, 'NOT\nTWICE\nHALT', { inputs: [3, 4, 5] });
  expect([register('A'), runner.state.control.inputs]).toEqual([7, 2]);
  runner.timeline.toStart();
  for (let tick = 0; tick < 6; tick++) {
    runner.timeline.preview();
    runner.timeline.preview();
    runner.tick();
  }
  expect(runner.state.control.inputs).toBe(2);
  while (runner.timeline.back());
  expect(runner.state.control.inputs).toBe(0);
});

test('a character that comes while the display is busy is lost; waiting for it keeps all', () => {
  const show = { SHOW: 'M[0xF2] <- A', SAFE: 'wait slow\nM[0xF2] <- A' };
  expect(run({ parts: DEVICES, ticks: show }, "PUT 'a'\nSHOW\nPUT 'b'\nSHOW\nHALT").runner.state.control.output).toBe('a');
  const safe = run({ parts: DEVICES, ticks: show }, "PUT 'a'\nSAFE\nPUT 'b'\nSAFE\nHALT");
  expect([safe.stop?.kind, safe.runner.state.control.output]).toEqual(['halted', 'ab']);
  // Ten ticks of a busy display: as many as it takes pass in the tick that waits, and each can be undone.
  const { runner } = safe;
  const states = [copyState(runner.state)];
  while (runner.timeline.back()) states.push(copyState(runner.state));
  const stalled: number[] = [];
  for (let at = states.length - 2; at >= 0; at--) {
    runner.tick();
    if (runner.timeline.last!.stalled) stalled.push(runner.ticks);
    expect(runner.state).toEqual(states[at]);
  }
  expect(stalled.length).toBeGreaterThan(2);
  expect(stalled.at(-1)! - stalled[0]!).toBe(stalled.length - 1);
  expect(runner.state.control.instructions).toBe(5);
  runner.timeline.travel(stalled[0]!);
  expect(plain(narrate(runner, runner.timeline.last!, 'done'))).toBe('Waits until slow is ready.');
});

test('time passes in a wait for what a script gives at a tick; what nothing will change is waited for for ever', () => {
  const machine = machineFrom(smallMachine({ parts: DEVICES, ticks: { SAFE: 'wait slow\nM[0xF2] <- A' } }));
  const { program } = assemble(machine, "PUT 'a'\nSAFE\nHALT");
  const until = (text: string): Runner => {
    const { script } = readScript(machine, program, text);
    const runner = new Runner(machine, program!, script);
    runner.begin();
    return runner;
  };
  const late = until('slow is not ready until tick 90, then ready');
  expect([late.run(1000), late.ticks > 90, late.state.control.output]).toEqual([{ kind: 'halted' }, true, 'a']);
  const never = until('slow is not ready for ever');
  const stop = never.run(1000)!;
  expect(stop).toMatchObject({ kind: 'waiting', report: { awaited: 1 } });
  expect(explainStop(never, stop)).toBe('Waits until slow is ready.');
});

test('output and input latches of one port are apart, and a line reads one digit of a device', () => {
  const machineParts = { parts: DEVICES, ticks: { SET: 'PORT[1] <- A', GET: 'B <- PORT[1]', LINE: 'if G = 1: A <- 7 else A <- box.fog' } };
  const machine = machineFrom(smallMachine(machineParts));
  const { program } = assemble(machine, 'PUT sill.horn\nSET\nGET\nLINE\nHALT');
  const runner = new Runner(machine, program!);
  const latch = (name: string): number =>
    deviceLatch(
      machine,
      machine.devices.findIndex((each) => each.name === name),
      'value',
    );
  runner.state.latches[latch('box')] = 0b100;
  runner.run(100, { first: true });
  const register = (name: string): number => runner.state.registers[machine.registers.findIndex((each) => each.name === name)]!;
  expect([runner.state.latches[latch('sill')], register('B'), register('A')]).toEqual([8, 4, 1]);
});

test('a timer counts ticks, and its status is low when it has run out', () => {
  const small = { parts: DEVICES, ticks: { SET: 'PORT[2] <- A', GET: 'A <- PORT[2]', LOOK: 'B <- PORT[3]' } };
  const early = run(small, 'PUT 40\nSET\nGET\nLOOK\nHALT');
  expect([early.register('A'), early.register('B')]).toEqual([38, 1]);
  const late = run(small, 'PUT 5\nSET\nGET\nGET\nLOOK\nHALT');
  expect(late.register('B')).toBe(0);
});

test('calls and returns are kept as a chain, with where they came from', () => {
  const small: Small = { registers: 'L: {role: link}', ticks: { CALL: 'L <- next, PC <- A, call next', RET: 'PC <- L, return' } };
  const inside = run(small, 'PUT sub\nCALL\nHALT\nsub HALT');
  expect(inside.runner.state.control.callStack).toMatchObject({ kind: 'call', from: 2, target: 4, returnTo: 3, depth: 1 });
  const back = run(small, 'PUT sub\nCALL\nHALT\nsub RET');
  expect([back.stop, back.runner.state.control.callStack, back.runner.state.control.callStackBroken]).toEqual([
    { kind: 'halted' },
    undefined,
    false,
  ]);
  expect(run(small, 'RET\nHALT', { budget: 4 }).runner.state.control.callStackBroken).toBe(true);
});

test('what is written to a register fixed at zero, or to a fixed digit, is thrown away, and the tick says so', () => {
  const small: Small = {
    registers: 'N: {zero: yes}\nSR: {packed: {0: C, 4: 1}, bits: 8}',
    parts: 'flags: {C: {title: carry}}',
    ticks: { X: 'N <- A', Y: 'A <- SR', Z: 'SR <- A' },
  };
  const { register, runner, machine } = run(small, 'PUT 0xFF\nX\nZ\nY\nHALT');
  expect([register('N'), register('A'), runner.state.flags[0]]).toEqual([0, 0x11, 1]);
  const report = runner.timeline.reportOf(7)!;
  expect(report.transfers[0]).toMatchObject({ lost: true });
  expect(
    narrate({ machine, state: runner.state }, report, 'done')
      .map((each) => each.text)
      .join(''),
  ).toMatch(/FF was thrown away: N is fixed at 0/);
});

test('values wider than 53 bits are exact: a product goes to a pair, its halves divide again', () => {
  const registers =
    'H: {bits: 32}\nL: {bits: 32}\nW: {pair: H L}\nX: {bits: 32, start: 0xFFFFFFFF}\nY: {bits: 32, start: 0xFFFFFFFD}\nQ: {bits: 32}';
  const { register } = run(
    { registers, ticks: { MUL: 'W <- X * Y', BACK: 'Q <- low(W / Y)', CMP: 'if W > X * X: A <- 1 else A <- 2' } },
    'MUL\nBACK\nCMP\nHALT',
  );
  expect([register('H'), register('L')]).toEqual([
    Number((0xffffffffn * 0xfffffffdn) >> 32n),
    Number((0xffffffffn * 0xfffffffdn) & 0xffffffffn),
  ]);
  expect([register('Q'), register('A')]).toEqual([0xffffffff, 2]);
});

test('a parallel transfer never sees its own writes', () => {
  const { register } = run({ ticks: { SWAP: 'A <- B, B <- A', SUM: 'A <- A + B, B <- A - B' } }, 'PUT 9\nPUTB 4\nSWAP\nSUM\nHALT');
  expect([register('A'), register('B')]).toEqual([13, 251]);
});

test('a flag may follow a formula over operands, result and old flags', () => {
  const parts = "flags:\n  E: {formula: 'a = b'}\n  O: {formula: 'result[0] = 1'}\n  K: {formula: '(K = 1) | (a > b)'}";
  const { runner } = run(
    { parts, ticks: { X: 'A <- A - B ; flags E O K', Y: 'compare B - A ; flags E O K' } },
    'PUT 9\nPUTB 4\nX\nY\nHALT',
  );
  expect([...runner.state.flags]).toEqual([0, 1, 1]);
});

test('switches set by hand belong to the run: going back undoes them, going on and far travel do them again', () => {
  const small: Small = { parts: DEVICES, ticks: { GET: 'B <- PORT[1]' } };
  const machine = machineFrom(smallMachine(small));
  const runner = new Runner(machine, assemble(machine, 'loop GET\nGO loop').program!);
  const box = deviceLatch(
    machine,
    machine.devices.findIndex((each) => each.name === 'box'),
    'value',
  );
  const b = machine.registers.findIndex((each) => each.name === 'B');
  runner.timeline.edit({ kind: 'latch', latch: box, value: 1 });
  for (let tick = 0; tick < 10; tick++) runner.tick();
  expect([runner.state.registers[b], runner.state.latches[box]]).toEqual([1, 1]);
  runner.timeline.edit({ kind: 'latch', latch: box, value: 5 });
  for (let tick = 0; tick < 10; tick++) runner.tick();
  expect(runner.state.registers[b]).toBe(5);
  while (runner.ticks > 9) runner.timeline.back();
  expect([runner.state.registers[b], runner.state.latches[box]]).toEqual([1, 1]);
  runner.timeline.travel(20);
  expect([runner.state.registers[b], runner.state.latches[box]]).toEqual([5, 5]);
  runner.run(5000, { first: false });
  runner.timeline.travel(12);
  expect([runner.state.registers[b], runner.state.latches[box]]).toEqual([1, 5]);
  runner.timeline.travel(3000);
  expect([runner.state.registers[b], runner.state.latches[box]]).toEqual([5, 5]);
  runner.timeline.toStart();
  expect(runner.state.latches[box]).toBe(1);
});

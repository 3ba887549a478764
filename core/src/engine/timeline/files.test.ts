import { curlew, demoMachines, demoProgram, machineFrom, machineNamed, programFrom, programText } from '../../testing/demo';
import { csvRow } from '../../formats/csv';
import { identifierOf, VcdWriter } from '../../formats/vcd';
import { readVcd } from '../../testing/vcdReader';
import { Runner } from '../control/runner';
import { planText, readScript, withDevices, writeScript } from './script';
import { copyState } from '../meaning/state';
import { phaseComment, signalsOf } from '../tell/trace';

const dunlin = machineNamed('Dunlin');
const gannet = machineNamed('Gannet');

const scriptFor = (machine: typeof dunlin, text: string) => {
  const { script, problems } = readScript(machine, undefined, text);
  if (!script) throw new Error(problems.map((each) => each.sentence).join(' '));
  return script;
};

test('a megabyte of input is read, held and used up', () => {
  const script = scriptFor(gannet, `input "${'e'.repeat(1_000_000)}."`);
  expect(script.inputs).toHaveLength(1_000_001);
  const runner = new Runner(gannet, programFrom(gannet, demoProgram('harbour log')), script);
  runner.begin();
  expect(runner.run(300_000)).toBeUndefined();
  expect(runner.state.control.inputs).toBeGreaterThan(1000);
  runner.timeline.queueInput(script.inputs);
  expect(runner.timeline.inputs).toHaveLength(2_000_002);
});

test('a script is written as it is read', () => {
  const text = `lamps is a switch row
input 104 105
keys is not ready until 5 reads, then as it is
lamps.gate is 0 until tick 200, then 1
display is not ready for ever
lamps is 0x0 until a hand, then 0xF
keys is not ready until a key, then ready
set R1 = 0x0007
at 12: Z = 1
at 40: M[0x0200] = 0x0041
at 41: lamps = 0x3
at 42: keys is ready
at 50: input 46
at 60: queue 104 46
by hand at 70: R1 = 0x0009
by hand at 80: input 47
`;
  const script = scriptFor(gannet, text);
  expect(writeScript(gannet, script)).toBe(text);
  expect(script.plans.map((each) => planText(gannet, each))[1]).toBe('lamps.gate is 0 until tick 200, then 1');
  expect(script.edits.filter((each) => each.kind === 'inputs')).toEqual([
    { kind: 'inputs', tick: 50, queue: [104, 105, 46], scripted: true },
    { kind: 'inputs', tick: 60, queue: [104, 46], scripted: true },
    { kind: 'inputs', tick: 80, queue: [104, 46, 47], scripted: false },
  ]);
  const banks = 'set DATA[2, 0x05] = 0x7\nat 9: PORT[3] = 0x4\n';
  expect(writeScript(dunlin, scriptFor(dunlin, banks))).toBe(banks);
});

test.each([
  ['keys is sleepy for ever', /“sleepy” is no number.*Or write: ready, not ready, as it is/],
  ['keys is ready', /Say until when/],
  ['keys is not ready until 5 reads', /Say what comes then/],
  ['keys is not ready until 5 reads, then 3', /Both sides are readiness/],
  ['keys is not ready until noon, then ready', /“noon” is no moment/],
  ['lamps.mast is 0 for ever', /lamps has no line “mast”\. It has: sill, gate/],
  ['lamps is 99 for ever', /does not fit into 4 bits/],
  ['at 4: R0 = 1', /R0 reads 0 always/],
  ['at 4: R1', /Write a place, = and a value/],
  ['at 4: R1 = 99999', /does not fit into 16 bits/],
  ['keys is a piano', /“piano” is no device\. There are: keyboard, text display, lamp row/],
  ['dance', /^Write “input 12 5”/],
])('the line %j is refused with its remedy', (line, words) => {
  const { script, problems } = readScript(gannet, undefined, `; a comment\n${line}`);
  expect([script, problems]).toEqual([undefined, [{ line: 2, sentence: expect.stringMatching(words) }]]);
});

test('a run that is written as a script and done again is the same, tick for tick', () => {
  const program = programFrom(
    gannet,
    demoMachines.find((each) => each.name === 'Gannet')!.programs.find((each) => each.name === 'harbour log')!.text,
  );
  const { script } = readScript(gannet, program, 'keys is not ready until 30 reads, then as it is\ninput "a"');
  const runner = new Runner(gannet, program, script);
  runner.begin();
  runner.run(900);
  runner.timeline.edit({ kind: 'register', register: 7, value: 0x1234 });
  runner.timeline.queueInput(['b'.charCodeAt(0), '.'.charCodeAt(0)]);
  runner.begin();
  expect(runner.run(100_000)?.kind).toBe('halted');
  const text = writeScript(gannet, { inputs: script!.inputs, plans: script!.plans, devices: [], edits: runner.timeline.script });
  const again = new Runner(gannet, program, readScript(gannet, program, text).script);
  for (const tick of [1, 400, 899, 900, 901, 1500, runner.ticks]) {
    runner.timeline.travel(tick);
    while (again.ticks < tick && !again.tick());
    const [a, b] = [copyState(runner.state), copyState(again.state)];
    expect([...b.registers, ...b.flags, ...b.spaces[0]!, ...b.latches, b.control.output, b.control.queue.length]).toEqual([
      ...[...a.registers, ...a.flags, ...a.spaces[0]!, ...a.latches, a.control.output, a.control.queue.length],
    ]);
  }
  expect(again.state.control.output).toBe('log: ab.');
});

test('another device stands in on the same cells, without another machine', () => {
  const source = 'start ADDR R1, at\n LOAD R1, [R1 + 0]\n LOAD R2, [R1 + 0]\n HALT\nat .cells 0xE002';
  const program = programFrom(gannet, source);
  const run = (text: string): number => {
    const { script } = readScript(gannet, program, text);
    const runner = new Runner(withDevices(gannet, script!), program, script);
    runner.begin();
    expect(runner.run(1000)?.kind).toBe('halted');
    return runner.state.registers[gannet.registers.findIndex((each) => /2/.test(each.name))]!;
  };
  expect([run('set lamps = 9'), run('lamps is a keyboard\ninput 7')]).toEqual([9, 7]);
});

test('what the script gives later stays, whatever hands do before', () => {
  const program = programFrom(gannet, 'start HALT');
  const { script } = readScript(gannet, program, 'input 1\nat 5000: input 2\nat 6000: R1 = 7');
  const runner = new Runner(gannet, program, script);
  runner.timeline.edit({ kind: 'register', register: 7, value: 3 });
  runner.timeline.queueInput([9]);
  expect([runner.timeline.inputs, runner.timeline.script.filter((each) => each.tick > 0)]).toMatchObject([
    [1, 9],
    [
      { kind: 'inputs', tick: 5000, queue: [1, 9, 2] },
      { kind: 'register', tick: 6000, value: 7 },
    ],
  ]);
});

test('a value change dump is what a reader of the standard’s grammar finds: every signal at every tick', () => {
  for (const [name, source] of [
    ['Curlew', programText('quay-watch')],
    ['Plover', 'READ\nSTORE 50\nADD 50\nHALT'],
  ] as const) {
    const machine = machineNamed(name);
    const runner = new Runner(machine, programFrom(machine, source), { inputs: [123] });
    const signals = signalsOf(machine, runner.program, [{ kind: 'cell', space: 0, address: 50 }]);
    const writer = new VcdWriter(signals, { scope: machine.name, comment: phaseComment(machine) });
    const expected: number[][] = [];
    const look = (): void => {
      const values = signals.map((each) => each.value(runner.state, runner.timeline.last));
      expected.push(values);
      writer.sample(runner.ticks, values);
    };
    look();
    while (runner.ticks < 300) {
      const before = runner.ticks;
      const stop = runner.tick();
      if (runner.ticks > before) look();
      if (stop) break;
    }
    const read = readVcd(writer.end());
    expect(read.scope).toBe(name);
    expect(read.signals.map((each) => each.width)).toEqual(signals.map((each) => each.width));
    expect(new Set(read.signals.map((each) => each.name)).size).toBe(signals.length);
    expected.forEach((values, tick) => expect(read.at(tick)).toEqual(values));
    expect(read.end).toBe(runner.ticks + 1);
  }
});

test('identifiers of a dump are short, printable and all different', () => {
  const all = Array.from({ length: 20_000 }, (_, at) => identifierOf(at));
  expect(new Set(all).size).toBe(20_000);
  expect(all.every((each) => /^[!-~]{1,3}$/.test(each))).toBe(true);
});

test('fields of a table are quoted where they must be, and never taken for formulas', () => {
  expect(csvRow(['a', 1, 'b,c', 'say "no"', '=1+1', '-5 cm', 'two\nlines'])).toBe(
    'a,1,"b,c","say ""no""","\'=1+1","\'-5 cm","two\nlines"\r\n',
  );
  expect(csvRow([-5])).toBe('-5\r\n');
});

test('garbage as a script ends in problems with lines, never in a crash', () => {
  let x = 7;
  const pick = (size: number): number => {
    x = (Math.imul(x, 1_103_515_245) + 12_345) >>> 0;
    return (x >>> 8) % size;
  };
  const words = [
    'input',
    'at',
    '12:',
    'keys',
    'is',
    'not ready',
    'until',
    '5 reads',
    ', then',
    '=',
    'R1',
    '"',
    'for ever',
    '99999999999',
    '[',
    'M[',
    ']',
    'lamps.gate',
    'set',
    ';',
  ];
  for (let round = 0; round < 400; round++) {
    const text = Array.from({ length: 3 }, () => Array.from({ length: pick(8) }, () => words[pick(words.length)]).join(' ')).join('\n');
    const { script, problems } = readScript(gannet, undefined, text);
    expect(script === undefined).toBe(problems.length > 0);
    problems.forEach(({ line, sentence }) => expect([line >= 1 && line <= 3, sentence.length > 5]).toEqual([true, true]));
  }
  expect(readScript(curlew, undefined, '\n'.repeat(6000)).problems[0]!.sentence).toMatch(/at most 5000 lines/);
  expect(machineFrom(demoMachines[0]!.text).name).toBeTruthy();
});

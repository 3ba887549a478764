import { BY_HAND, LOADED, NEVER } from '../engine/meaning/state';
import { firstProgram } from '../assembler/assist/firstProgram';
import { demoMachines, machineFrom, programText } from '../testing/demo';
import { TickExecutor } from '../engine/meaning/interpret';
import { bench, stopOn } from '../testing/bench';
import { guarded } from './guard';

const gannet = demoMachines.find((each) => each.name === 'Gannet')!;

test('loading with errors loads nothing and keeps the run', () => {
  const { session, views, last } = bench('LOAD #1\nHALT');
  session.run.command('instruction');
  const count = views.length;
  expect(session.load('LOAD #', { clear: false, inputs: [] })).toMatchObject({
    loaded: false,
    problems: [{ code: 'operands-do-not-fit' }],
  });
  expect([views.length, last().ticks]).toEqual([count, 6]);
});

test('a shorter program leaves nothing of the longer one behind, written by the run or not; what hands typed stays', () => {
  const long = 'LOAD #1\n STORE n\n LOAD #2\n HALT\n.origin 0x40\nn .cells 9\nm .cells 7, 8';
  const { session, last } = bench(long);
  const cellOf = (address: number) => [last().spaces[0]!.cells[address], last().spaces[0]!.marks[address]];
  for (let step = 0; step < 4; step++) session.run.command('instruction');
  session.hand.setCell(0, 0x42, 0x55);
  expect(cellOf(0x40)[0]).toBe(1);
  expect(session.load('LOAD #1\n HALT', { clear: false, inputs: [] }).loaded).toBe(true);
  expect([3, 4, 5, 6, 7, 0x40, 0x41].map(cellOf)).toEqual(Array(7).fill([0, NEVER]));
  expect(cellOf(0x42)).toEqual([0x55, BY_HAND]);
});

test('a run at four ticks a second ticks, says so, and pauses at once', () => {
  const { session, advance, last, waiting } = bench('loop ADD #1\nJUMP loop');
  session.run.command('run');
  advance(5);
  expect(last()).toMatchObject({ status: 'running', ticks: 5, moved: true });
  session.run.command('pause');
  expect(last()).toMatchObject({ status: 'paused', ticks: 5, sentence: 'Paused after tick 5 of 6, ADD' });
  expect(waiting()).toBe(0);
});

test('nothing queues: the next view goes out when the last one is shown, and is the newest', () => {
  const { session, views, advance, last, waiting } = bench('loop ADD #1\nJUMP loop', undefined, { shows: false });
  session.shown();
  session.run.setSpeed(60);
  session.run.command('run');
  const before = views.length;
  for (let turn = 0; turn < 50; turn++) advance(1);
  expect(views.length - before).toBeLessThanOrEqual(1);
  session.shown();
  expect([views.length - before, last().ticks, last().moved]).toEqual([1, 50, false]);
  // Whoever pauses does not wait for what is being shown.
  session.run.command('pause');
  expect([last().status, last().ticks, waiting()]).toEqual(['paused', 50, 0]);
  session.shown();
  session.shown();
  session.run.command('tick');
  expect(last()).toMatchObject({ ticks: 51, moved: true });
  // What a load has made is there when it is answered, shown or not.
  session.load('HALT', { clear: false, inputs: [] });
  expect(last()).toMatchObject({ ticks: 0, status: 'ready' });
});

test('a mistake of the engine’s own is told, while a run is under way and in a command; a load begins anew', () => {
  for (const way of ['run', 'tick'] as const) {
    const { session, advance, last } = bench('loop ADD #1\nJUMP loop');
    const told: string[] = [];
    session.onFailure((text) => told.push(text));
    if (way === 'run') session.run.command('run');
    const broken = jest.spyOn(TickExecutor.prototype, 'tick').mockImplementation(() => {
      throw new RangeError('a value of no kind');
    });
    if (way === 'tick') expect(() => guarded(session).run.command('tick')).toThrow('a value of no kind');
    advance(3);
    expect(told).toEqual([expect.stringMatching(/^RangeError: a value of no kind/)]);
    broken.mockRestore();
    session.load('LOAD #7\nHALT', { clear: true, inputs: [] });
    session.run.command('instruction');
    expect(last()).toMatchObject({ status: 'paused', instructions: 1 });
  }
});

test('a fast run lets messages in after every slice, and shows the tick just done when it pauses', () => {
  const { session, advance, last } = bench('loop ADD #1\nJUMP loop');
  session.run.setSpeed('full');
  session.run.command('run');
  advance(3);
  expect(last().status).toBe('running');
  session.run.command('pause');
  const { ticks } = last();
  expect(last()).toMatchObject({ status: 'paused', sentence: `Paused at tick ${ticks.toLocaleString('en-US')}` });
  advance(1);
  expect([last().status, last().ticks]).toEqual(['paused', ticks]);
  expect(last().ticks).toBeGreaterThan(1000);
  expect(last().last?.tick).toBe(last().ticks);
  expect(last().wake.length).toBeGreaterThan(10);
});

test('a run that waits goes on by itself when its number comes', () => {
  const { session, advance, last } = bench(programText('highest-water'));
  session.run.setSpeed('full');
  session.run.command('run');
  advance(5);
  expect(last()).toMatchObject({ status: 'waiting', waiting: { who: 'askLevel', what: 'wants a number for ACC: −128 to 255' } });
  expect(session.hand.queueInput('0x9E')).toEqual({ values: [158] });
  advance(5);
  expect(last().status).toBe('waiting');
  session.hand.queueInput('0');
  advance(5);
  expect(last()).toMatchObject({ status: 'halted', output: expect.stringContaining('highest: 158') });
});

test('the phases show the ticks of the instruction under way, done, last and to come', () => {
  const { session, last } = bench('LOAD #1\nHALT');
  for (let tick = 0; tick < 4; tick++) session.run.command('tick');
  expect(last().phases.map(({ step, phase, state }) => `${step}${phase}${state}`)).toEqual([
    '10done',
    '20done',
    '31done',
    '40last',
    '50coming',
    '62later',
  ]);
  expect(last().decoded).toEqual(['1F = LOAD']);
  session.run.command('tick');
  expect(last().decoded).toEqual(['1F = LOAD', '01 = value']);
});

test('the wake tells each instruction with its ticks and what it changed', () => {
  const { session, last } = bench('LOAD #0x90\nSTORE 0x80\nHALT');
  session.run.command('instruction');
  session.run.command('instruction');
  expect(last().wake.map(({ from, text, outcome, ticks }) => [from, text, outcome, ticks.length])).toEqual([
    [0, 'LOAD #0x90', 'ACC 90 · N', 6],
    [6, 'STORE 0x80', '[80] 90', 7],
  ]);
  expect(last().upcoming).toEqual(['HALT']);
  session.run.travel(0);
  expect(last().wake).toHaveLength(2);
});

test('breakpoints by line pause a slow run before their instruction', () => {
  const { session, advance, last } = bench('LOAD #1\nADD #2\nHALT');
  session.run.setBreakpoints([stopOn('line', { line: 2 }), stopOn('line', { id: 2, line: 99 })]);
  session.run.command('run');
  advance(40);
  expect(last()).toMatchObject({ status: 'breakpoint', sentence: 'Paused at the breakpoint on line 2, before ADD #2.' });
});

test('a fault stops the run with its sentence, and one can step back from it', () => {
  const { session, advance, last } = bench('LOAD #1\nlevel .cells 0x7F');
  session.run.setSpeed('full');
  session.run.command('run');
  advance(3);
  expect(last()).toMatchObject({ status: 'fault', ticks: 8, sentence: expect.stringContaining('0x7F at 0x02 is no instruction') });
  session.run.command('back');
  expect(last()).toMatchObject({ status: 'paused', ticks: 7 });
});

test('the speed can change while running', () => {
  const { session, advance, last } = bench('loop ADD #1\nJUMP loop');
  session.run.command('run');
  advance(2);
  session.run.setSpeed('full');
  advance(10);
  expect(last().ticks).toBeGreaterThan(1000);
  session.run.setSpeed(2);
  advance(1);
  const before = last().ticks;
  advance(3);
  expect(last().ticks).toBe(before + 3);
  session.run.command('pause');
  expect(last().status).toBe('paused');
});

test('loading keeps what the image does not fill, and clearing forgets it', () => {
  const { session, last } = bench('LOAD #7\nSTORE 0x80\nHALT');
  session.run.command('instruction');
  session.run.command('instruction');
  session.load('HALT', { clear: false, inputs: [] });
  expect([last().spaces[0]!.cells[0x80], last().spaces[0]!.marks[0x80], last().ticks]).toEqual([7, 2, 0]);
  session.load('HALT', { clear: true, inputs: [] });
  expect([last().spaces[0]!.cells[0x80], last().spaces[0]!.marks[0x80]]).toEqual([0, 0]);
});

test('why a flag is as it is follows the flag that was asked for', () => {
  const { session, last } = bench('LOAD #0xFF\nADD #1\nHALT');
  session.run.command('instruction');
  session.run.command('instruction');
  expect(last().why!.flag).toBe(0);
  session.run.selectFlag(2);
  expect(last().why).toMatchObject({ flag: 2, reason: { sentence: expect.stringContaining('A one was carried out of the top') } });
});

test('inputs that are refused change nothing', () => {
  const { session, views } = bench('TRAP askLevel\nHALT');
  const count = views.length;
  expect([session.hand.queueInput(''), session.hand.queueInput('256'), session.hand.queueInput('tide')]).toEqual([
    { refused: 'Type a number first.' },
    { refused: '256 does not fit into 8 bits: -128 to 255 do.' },
    { refused: '“tide” is no number. Write 58, 0x3A or 0b111010.' },
  ]);
  expect(views.length).toBe(count);
  expect([session.hand.queueInput('-1'), session.hand.queueInput('0b101')]).toEqual([{ values: [255] }, { values: [5] }]);
});

test('a machine with errors is not taken, and the bench keeps the one it has', () => {
  const { session, last } = bench('LOAD #1\nHALT');
  expect(session.useMachine('machine: [').machine).toBeUndefined();
  session.run.command('instruction');
  expect(last().ticks).toBe(6);
});

test('a machine without a program shows its registers and its memory, with the system program where it has one', () => {
  const { session, views, last } = bench('HALT', gannet.text);
  expect(session.useMachine(gannet.text).machine).toBeDefined();
  const count = views.length;
  session.show();
  expect(views.length).toBe(count + 1);
  expect(last()).toMatchObject({ status: 'empty', sentence: 'No program is loaded', ticks: 0, loaded: '', comingSentence: [] });
  const { from } = session.texts.machine!.system!;
  expect([last().spaces[0]!.marks[from], last().spaces[0]!.marks[0]]).toEqual([LOADED, NEVER]);
  session.hand.setPlace('R3', '7', 10);
  expect(last().registers).toContain(7);
  expect(session.load('HALT', { clear: false, inputs: [] }).loaded).toBe(true);
  expect(last().status).toBe('ready');
});

test.each(demoMachines)('a new program on $name assembles and ends by itself, with and without words on the machine', ({ text }) => {
  const { session, advance, last } = bench(firstProgram(machineFrom(text), 'sluice'), text);
  session.run.setSpeed('full');
  session.run.command('run');
  advance(3);
  expect(last().status).toBe('halted');
  expect(session.texts.list(firstProgram(machineFrom(text), 'sluice', { tells: true })).problems).toEqual([]);
});

test('what comes next follows jumps and calls that are sure, and ends where only the run knows', () => {
  const { session, last } = bench('start CALL half\nJUMP last\nNOT\nhalf JUMPZ start\nNEG\nRET\nlast DEC\nHALT');
  expect(last().upcoming).toEqual(['CALL half', 'JUMPZ start', 'NEG']);
  // In the midst of the call the same, of what comes behind it.
  session.run.command('tick');
  expect(last().upcoming).toEqual(['JUMPZ start', 'NEG', 'RET']);
  for (const _ of ['CALL', 'JUMPZ', 'NEG']) session.run.command('instruction');
  expect(last().upcoming).toEqual(['RET']);
  session.run.command('instruction');
  expect(last().upcoming).toEqual(['JUMP last', 'DEC', 'HALT']);
});

test('a further cell of an instruction is no instruction, whatever stands in it', () => {
  // 0x60 is the code of a call.
  const { session, last } = bench('LOAD 0x60\nHALT');
  expect(last().next).toMatchObject({ address: 0, length: 2, text: 'LOAD 0x60' });
  for (let tick = 0; tick < 2; tick++) session.run.command('tick');
  expect(last().next).toEqual({ address: 1, length: 1, line: 1 });
  session.run.command('instruction');
  expect(last().next).toMatchObject({ address: 2, length: 1, text: 'HALT' });
});

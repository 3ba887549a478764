import { CALLS, curlew, demoMachines } from '../testing/demo';
import { bench, stopOn } from '../testing/bench';

const gannet = demoMachines.find((each) => each.name === 'Gannet')!;
const LOG = gannet.programs.find((each) => each.name === 'harbour log')!.text;

test('over and out run to their end at once, say why they stopped, and how far they went this time', () => {
  const { session, advance, last } = bench(CALLS);
  session.run.command('over');
  advance(5);
  expect(last()).toMatchObject({ status: 'reached', sentence: 'Stepped over; next is line 2.', thisTime: { instructions: 6 } });
  session.run.command('start');
  session.run.command('instruction');
  session.run.command('instruction');
  expect(last().calls.map(({ name, from }) => [name, from])).toEqual([
    ['outer', 'line 1'],
    ['inner', 'line 5'],
  ]);
  session.run.command('out');
  advance(5);
  expect(last()).toMatchObject({ sentence: 'Returned from inner; next is line 6.', thisTime: { instructions: 2 } });
  session.run.command('out');
  advance(5);
  session.run.command('out');
  expect(last().sentence).toMatch(/^No call is open that could be left/);
});

test('a call that goes behind the first cells of a routine is called by the routine', () => {
  const { session, advance, last } = bench('CALL work + 1\nHALT\n.routine work\n.cells 0\nINC\nRET\n.end');
  session.run.command('instruction');
  expect(last().calls.map((each) => each.name)).toEqual(['work']);
  session.run.command('out');
  advance(5);
  expect(last().sentence).toBe('Returned from work; next is line 2.');
});

test('a breakpoint inside a routine offers to finish the step', () => {
  const { session, advance, last } = bench(CALLS);
  session.run.setBreakpoints([stopOn('line', { line: 8 })]);
  session.run.command('over');
  advance(5);
  expect(last()).toMatchObject({ status: 'breakpoint', unfinished: 'over', breaks: [{ id: 1, hits: 1 }] });
  session.run.command('finish');
  advance(5);
  expect(last()).toMatchObject({ status: 'reached', sentence: 'Stepped over; next is line 2.' });
  expect(last().unfinished).toBeUndefined();
});

test('back over a call goes to before it, back out goes to before the call of the routine', () => {
  const { session, advance, last } = bench(CALLS);
  session.run.command('over');
  advance(5);
  session.run.command('overBack');
  advance(5);
  expect(last().ticks).toBe(0);
  session.run.command('instruction');
  session.run.command('instruction');
  const inside = last().ticks;
  session.run.command('outBack');
  advance(5);
  expect([last().calls.length, last().ticks < inside, last().next.line]).toEqual([1, true, 5]);
});

test('breakpoints that mean nothing say why, print-points write into the wake', () => {
  const { session, advance, last } = bench('again INC\n CMP #3\n JUMPNZ again\n HALT');
  session.run.setBreakpoints([
    stopOn('condition', { text: 'ACX = 2' }),
    stopOn('line', { id: 2, line: 2, print: 'ACC * 2' }),
    stopOn('read', { id: 3, text: 'ACC' }),
    stopOn('line', { id: 4, line: 9 }),
  ]);
  session.run.setSpeed('full');
  session.run.command('run');
  advance(5);
  expect(last().breaks).toEqual(
    expect.arrayContaining([
      { id: 1, hits: 0, refused: expect.stringMatching(/no “ACX”/) },
      { id: 2, hits: 3 },
      { id: 3, hits: 0, refused: 'ACC is no cell.' },
      { id: 4, hits: 0, refused: 'No instruction stands on line 9.' },
    ]),
  );
  expect(last().wake.flatMap((each) => each.printed)).toEqual(['ACC * 2 = 0x0002', 'ACC * 2 = 0x0004', 'ACC * 2 = 0x0006']);
});

test('a run to a line, to the next output, until a condition; what means nothing is refused', () => {
  const { session, advance, last } = bench('again INC\n TRAP showNumber\n CMP #5\n JUMPNZ again\n HALT');
  expect(session.run.runUntil({ condition: 'ACC = 3' })).toBeUndefined();
  advance(5);
  expect(last()).toMatchObject({ status: 'reached', output: '1\n2\n' });
  session.run.command('output');
  advance(5);
  expect(last()).toMatchObject({ output: '1\n2\n3\n', sentence: 'Something was written; next is line 3.' });
  session.run.runUntil({ line: 5 });
  advance(5);
  expect(last().sentence).toBe('Reached line 5.');
  expect(session.run.runUntil({ condition: 'ACX' })).toEqual({ refused: expect.stringMatching(/no “ACX”/) });
  expect(session.run.runUntil({ line: 99 })).toEqual({ refused: 'No instruction stands on line 99 or behind it.' });
});

test('a loop that asks for a key reads idle, goes on, and looks seldom; a key wakes it', () => {
  const { session, advance, last } = bench(LOG, gannet.text);
  session.run.setSpeed('full');
  session.run.command('run');
  advance(60);
  expect(last()).toMatchObject({ status: 'idle', sentence: expect.stringMatching(/^Idle: polling keys, tick/) });
  const before = last().ticks;
  advance(10);
  expect(last().ticks).toBeGreaterThan(before);
  session.hand.queueInput('.');
  advance(60);
  expect(last()).toMatchObject({ status: 'halted', output: 'log: .' });
});

test('a loop that can never end is told while it runs', () => {
  const { session, advance, last } = bench('again CMP #1\n JUMP again');
  session.run.setSpeed('full');
  session.run.command('run');
  advance(10);
  expect(last()).toMatchObject({ status: 'running', sentence: expect.stringMatching(/^Runs in circles for ever, 2 instructions each/) });
});

test('a script gives inputs, plans and edits to the runs that start from then on', () => {
  const { session, advance, last } = bench(LOG, gannet.text);
  expect(session.run.setScript('keyz is ready for ever')).toEqual([{ line: 1, sentence: expect.stringMatching(/Did you mean keys/) }]);
  expect(
    session.run.setScript('keys is not ready until 40 reads, then as it is\ninput "a"\nat 900: input "."\nlamps is 1 until a hand, then 6'),
  ).toEqual([]);
  session.startOver('data');
  const shown = () => last().devices.find((each) => each.name === 'lamps')!;
  expect([shown().value, shown().byHand, shown().plans]).toEqual([1, true, ['lamps is 0x1 until a hand, then 0x6']]);
  session.hand.release('lamps');
  expect([shown().value, shown().byHand]).toEqual([6, false]);
  session.run.setSpeed('full');
  session.run.command('run');
  advance(60);
  expect(last()).toMatchObject({ status: 'halted', output: 'log: a.' });
  expect(last().devices[0]!.busyPolls).toBeGreaterThanOrEqual(40);
});

test('the past answers: last written, first, next and previous time', async () => {
  const { session, advance, last } = bench('again LOAD n\n INC\n STORE n\n CMP #6\n JUMPNZ again\n HALT\nn .cells 0');
  session.run.setSpeed('full');
  session.run.command('run');
  advance(5);
  const end = last().ticks;
  expect(await session.past.ask({ kind: 'written', place: 'n' })).toMatchObject({ tick: 174 });
  expect(last().ticks).toBe(174);
  expect(await session.past.ask({ kind: 'first', condition: 'M[n] = 2' })).toMatchObject({ tick: 50 });
  expect(await session.past.ask({ kind: 'next', condition: 'M[n] = 3' })).toMatchObject({ tick: 81 });
  expect(await session.past.ask({ kind: 'previous', condition: 'M[n] = 1' })).toMatchObject({ tick: 43 });
  expect(await session.past.ask({ kind: 'next', condition: 'M[n] = 99' })).toMatchObject({
    none: expect.stringMatching(/does not hold after this tick/),
  });
  expect(await session.past.ask({ kind: 'written', place: 'V' })).toMatchObject({ tick: expect.any(Number) });
  expect(await session.past.ask({ kind: 'written', place: 'm' })).toMatchObject({ refused: expect.any(String) });
  session.run.travel(end);
  expect(last().status).toBe('halted');
});

test('the ways of starting over say what they cost, and do that', () => {
  const { session, advance, last } = bench('LOAD n\n INC\n STORE n\n STORE 0x80\n HALT\nn .cells 4');
  session.run.setSpeed('full');
  session.run.command('run');
  advance(5);
  session.hand.setCell(0, 0x90, 7);
  const offers = session.startOffers();
  expect(offers.map((each) => each.way)).toEqual(['again', 'data', 'reload', 'clear']);
  expect(offers.map((each) => each.loses).join('\n')).toMatch(
    /Nothing is lost.*\n.*of the 2 cells that it wrote.*\n.*1 cell entered by hand.*\n.*All memory goes: 2 cells/s,
  );
  const { ticks } = last();
  session.startOver('again');
  expect([last().ticks, last().furthest]).toEqual([0, ticks]);
  session.run.travel(ticks);
  session.startOver('data');
  const cell = (address: number): number => last().spaces[0]!.cells[address]!;
  expect([last().furthest, cell(8), cell(0x80), cell(0x90)]).toEqual([0, 4, 5, 7]);
  session.load('HALT', { clear: true, inputs: [] });
  expect([cell(0x80), cell(0x90)]).toEqual([0, 0]);
});

test('a kept run is put back at its tick, compared, and refused where it does not belong', () => {
  const { session, advance, last } = bench(CALLS);
  session.run.command('instruction');
  session.hand.setPlace('X', '9', 10);
  session.run.command('instruction');
  const kept = session.files.keepRun('inside');
  if (!('text' in kept)) throw new Error(kept.refused);
  const before = last();
  session.run.setSpeed('full');
  session.run.command('run');
  advance(5);
  const compared = session.files.compareWith(kept.text);
  expect('list' in compared && compared.list.map((each) => each.place)).toEqual(expect.arrayContaining(['PC', 'ACC', 'seen']));
  expect(session.files.openRun(kept.text)).toMatchObject({ note: 'inside' });
  expect([last().ticks, last().registers, last().calls.length]).toEqual([before.ticks, before.registers, 2]);
  expect(session.files.openRun('{')).toEqual({ refused: 'This is no kept run: it is not JSON.' });
  expect(session.files.openRun('{"zettak":"run"}')).toEqual({ refused: expect.stringMatching(/no kept run/) });
  expect(session.files.openRun(kept.text.replace('"name": "Curlew"', '"name": "Tern"'))).toEqual({
    refused: expect.stringMatching(/belongs to the machine Tern/),
  });
});

test('what hands did in a kept run is forgotten in another future; what the script gives later is not', () => {
  const { session, last } = bench('LOAD #1\n INC\n INC\n INC\n HALT');
  expect(session.run.setScript('at 15: ACC = 0x20')).toEqual([]);
  session.startOver('data');
  for (const value of ['5', '6']) {
    session.run.command('instruction');
    session.hand.setPlace('X', value, 10);
  }
  const kept = session.files.keepRun('');
  if (!('text' in kept)) throw new Error(kept.refused);
  expect((JSON.parse(kept.text) as { script: string }).script.split('\n')).toEqual([
    'by hand at 6: X = 0x05',
    'by hand at 10: X = 0x06',
    'at 15: ACC = 0x20',
    '',
  ]);
  session.files.openRun(kept.text);
  const [X, ACC] = ['X', 'ACC'].map((name) => curlew.registers.findIndex((each) => each.name === name)) as [number, number];
  expect(last().registers[X]).toBe(6);
  session.run.command('instructionBack');
  session.hand.setPlace('X', '7', 10);
  while (last().status !== 'halted') session.run.command('instruction');
  expect([last().registers[X], last().registers[ACC]]).toEqual([7, 0x21]);
});

test('a run stops after as many ticks as it may take, at any speed, and can go on', () => {
  const { session, advance, last } = bench('again INC\n JUMP again');
  session.run.setBudget(1000);
  session.run.setSpeed('full');
  session.run.command('run');
  advance(20);
  expect([last().status, last().ticks]).toEqual(['budget', 1000]);
  session.run.command('run');
  advance(20);
  expect(last().ticks).toBe(2000);
  session.run.setSpeed(60);
  session.run.setBudget(3);
  session.run.command('run');
  advance(200);
  expect([last().status, last().ticks]).toEqual(['budget', 2003]);
  session.run.setBudget(undefined);
  session.run.setSpeed('full');
  session.run.command('run');
  advance(20);
  expect([last().status, last().ticks > 10_000]).toEqual(['running', true]);
});

test('a megabyte of input is refused in a sentence, and the bench goes on', () => {
  const { session, last } = bench('LOAD #1\n HALT');
  expect(session.run.setScript(`input ${'7 '.repeat(500_000)}`)).toEqual([
    { line: 1, sentence: expect.stringMatching(/at most 20,000 inputs/) },
  ]);
  session.run.command('instruction');
  expect(last().status).toBe('paused');
});

test('a run is written as ticks, memory, state and signals', () => {
  const { session, advance, last } = bench('LOAD #5\n STORE 0x80\n HALT');
  session.run.setSpeed('full');
  session.run.command('run');
  advance(5);
  const written = (kind: Parameters<typeof session.files.exportRun>[0]): string => {
    const made = session.files.exportRun(kind, '');
    return 'content' in made ? made.content : made.refused;
  };
  expect(written('trace').trim().split('\r\n')).toHaveLength(last().ticks + 1);
  expect(written('memory')).toMatch(/M,0,128,5/);
  expect(written('registers')).toMatch(/ACC {4}05[\s\S]*0x80 {2}05/);
  expect(written('vcd')).toMatch(/\$enddefinitions/);
});

test('a cell, register or flag set by hand refuses what does not fit', () => {
  const { session, last } = bench('HALT');
  expect(session.hand.setPlace('ACC', '300', 10)).toEqual({ refused: expect.stringMatching(/300/) });
  expect(session.hand.setPlace('C', '1', 10)).toBeUndefined();
  expect(last().flags[2]).toBe(1);
  session.run.selectFlag(2);
  expect(last().why!.reason.sentence).toBe('C = 1: set by hand.');
});

test('a run follows another of the same to any tick, back and on, also where it has not come so far itself', () => {
  const [leader, follower] = [bench(CALLS), bench(CALLS)];
  for (let step = 0; step < 4; step++) leader.session.run.command('instruction');
  follower.session.run.follow(leader.last().ticks);
  expect(follower.last()).toMatchObject({ ticks: leader.last().ticks, status: 'paused' });
  expect(follower.last().registers).toEqual(leader.last().registers);
  follower.session.run.follow(3);
  expect(follower.last().ticks).toBe(3);
  follower.session.run.follow(1_000_000);
  expect(follower.last().status).toBe('halted');
});

import { demoMachines, machineNamed, programFrom } from '../../testing/demo';
import { smallMachine } from '../../testing/small';
import { machineFrom } from '../../testing/demo';
import { explainStop, watchedName } from '../tell/explainStop';
import { Peeker, readWatched } from './conditions';
import { createState } from '../meaning/state';
import { cellText, readEdits, readPlace, widthOf } from './places';
import { Runner } from '../control/runner';
import { refusalOf } from '../../testing/refusals';

const [curlew, gannet, dunlin] = ['Curlew', 'Gannet', 'Dunlin'].map(machineNamed) as [
  ReturnType<typeof machineNamed>,
  ReturnType<typeof machineNamed>,
  ReturnType<typeof machineNamed>,
];
const program = programFrom(curlew, 'start LOAD level\n HALT\n .origin 0x40\nlevel .cells 5\nRise .room 1');

test.each(demoMachines.map(({ name }) => name))('%s: a cell as written is read back as a place, and as a value', (name) => {
  const machine = machineNamed(name);
  machine.spaces.forEach(({ cells, banks }, space) => {
    for (const address of [0, 9, 10, cells - 1, cells * banks - 1]) {
      const text = cellText(machine, space, address);
      expect(readPlace(machine, undefined, text)).toEqual({ kind: 'cell', space, address });
      const state = createState(machine);
      state.spaces[space]![address] = 3;
      const watched = readWatched(machine, undefined, text);
      expect('refused' in watched ? watched.refused : new Peeker(machine, state).value(watched)).toBe(3);
    }
  });
});

test.each([
  [curlew, 'ACC', { kind: 'register', register: 4 }],
  [curlew, 'C', { kind: 'flag', flag: 2 }],
  [curlew, 'level', { kind: 'cell', space: 0, address: 0x40 }],
  [curlew, 'RISE', { kind: 'cell', space: 0, address: 0x41 }],
  [curlew, ' M[level] ', { kind: 'cell', space: 0, address: 0x40 }],
  [curlew, 'M[0x10]', { kind: 'cell', space: 0, address: 16 }],
  [curlew, '0x10', { kind: 'cell', space: 0, address: 16 }],
  [gannet, 'R3', { kind: 'register' }],
  [gannet, 'lamps', { kind: 'device', device: 2 }],
  [dunlin, 'DATA[2, 5]', { kind: 'cell', space: 1, address: 2 * 64 + 5 }],
  [dunlin, 'PORT[3]', { kind: 'port', port: 3 }],
])('on %# the place %s is understood', (machine, text, expected) => {
  const place = readPlace(machine, machine === curlew ? program : undefined, text);
  expect(place).toMatchObject(expected);
  if (!('refused' in place)) expect(widthOf(machine, place)).toBeGreaterThan(0);
});

test.each([
  [curlew, 'AXC', /Did you mean ACC\?/],
  [curlew, 'M[256]', /M has the cells 0 to 255/],
  [curlew, 'N[3]', /There is no memory “N”\. There is: M/],
  [curlew, 'M[here]', /“here” is no number and no label/],
  [dunlin, 'DATA[9, 0]', /DATA has the banks 0 to 3/],
  [dunlin, 'PORT[77]', /PORT has the ports 0 to/],
  [curlew, 'levels + 2', /is no register, flag, label or device\. A cell is written M\[0x\d+\]\./],
  [machineNamed('Plover'), 'levels + 2', /A cell is written \w+\[\d+\]\./],
  [curlew, '', /is no register/],
  [curlew, '“”[]()', /is no register/],
])('on %# the place %j is refused with what may stand there', (machine, text, words) => {
  expect(refusalOf(readPlace(machine, program, text))).toMatch(words);
});

test.each([
  [curlew, 'ACC = -3', { kind: 'register', value: 253 }],
  [curlew, 'level = 0b11', { kind: 'cell', value: 3, mark: 3 }],
  [curlew, 'C = 1', { kind: 'flag', value: 1 }],
  [gannet, 'lamps = 5', { kind: 'latch', value: 5 }],
  [dunlin, 'PORT[1] = 0xF', { kind: 'latch', value: 15 }],
])('on %# the edit %s is understood', (machine, text, expected) => {
  expect(readEdits(machine, program, text)).toMatchObject([expected]);
});

test('several values go into cells behind each other; anywhere else, or past the end, they are refused', () => {
  const from = program.symbols.find((each) => each.name === 'level')!.value;
  const cells = [158, 254, 3].map((value, at) => ({ kind: 'cell', address: from + at, value }));
  expect(readEdits(curlew, program, 'level = 0x9E -2 3')).toMatchObject(cells);
  expect(readEdits(curlew, program, 'level = 158, - 2, 0b11')).toMatchObject(cells);
  expect(refusalOf(readEdits(curlew, program, 'ACC = 1 2'))).toBe('Several values stand in cells behind each other; ACC is no cell.');
  expect(refusalOf(readEdits(curlew, program, 'M[0xFF] = 1 2'))).toBe('These are 2 values, and from M[0xFF] on there is one cell.');
  expect(refusalOf(readEdits(curlew, program, 'level = 1 256'))).toMatch(/^256 does not fit/);
});

test('a line flag is set at its device, not at the flag', () => {
  const machine = machineFrom(
    smallMachine({
      parts:
        "ports: {name: P, count: 4, idle: 0}\ndevices: {box: {kind: switches, data: 'P[1]', lines: {gate: 0}}}\nflags: {G: {line: box.gate}}",
    }),
  );
  expect(refusalOf(readEdits(machine, undefined, 'G = 1'))).toBe('G is a line of a device: set that.');
});

test('what a breakpoint watches has a name', () => {
  const runner = new Runner(curlew, program);
  const names = [
    { kind: 'address', address: 16 },
    { kind: 'read', space: 0, address: 0x40 },
    { kind: 'output' },
    { kind: 'change', place: { kind: 'register', register: 4 } },
    { kind: 'write', place: { kind: 'cell', space: 0, address: 0x80 } },
  ] as const;
  expect(names.map((each) => watchedName(runner, each))).toEqual(['0x10', 'level', 'output', 'ACC', 'cell 0x80']);
});

test('every reason to stop has its sentence', () => {
  const runner = new Runner(curlew, program);
  const loop = { ticks: 12, instructions: 2, addresses: [0, 2], polled: [] };
  expect(explainStop(runner, { kind: 'budget', loop, recent: [] })).toMatch(
    /no more were allowed this time\. It can go on from here\. The whole state repeats every 2 instructions, from 0x00 to 0x02 \(line 1 to line 2\)\.$/,
  );
  expect(explainStop(runner, { kind: 'budget', loop: undefined, recent: [] })).toMatch(/from here\.$/);
  expect(explainStop(runner, { kind: 'reached', goal: { kind: 'stack', stack: 0, used: 3 } })).toMatch(
    /^The stack is shorter than it was; next is line 1/,
  );
  expect(explainStop(runner, { kind: 'breakpoint', address: 0, hits: [] })).toBe('Paused at the breakpoint on line 1, before LOAD level.');
});

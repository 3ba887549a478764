import { curlew, demoMachines, demoProgram, machineFrom, programFrom } from '../../testing/demo';
import { flowChartOf } from './flowChart';
import { instructionsOf } from './instructions';

it('groups what always follows each other, and leads where branches lead', () => {
  const chart = flowChartOf(curlew, programFrom(curlew, demoProgram('highest water')))!;
  expect(chart.blocks.map((each) => [each.label, each.lines.length, each.ends])).toEqual([
    ['start', 2, 'goes on'],
    ['next', 5, 'decides'],
    [undefined, 2, 'decides'],
    [undefined, 2, 'goes on'],
    ['report', 5, 'halts'],
  ]);
  expect(chart.ways.map(({ from, to, kind }) => [from, to, kind])).toEqual([
    [0, 1, 'next'],
    [1, 2, 'next'],
    [1, 4, 'jump'],
    [2, 3, 'next'],
    [2, 1, 'jump'],
    [3, 1, 'jump'],
  ]);
});

it('draws every demo program: each instruction once, no two ways of one side on each other', () => {
  for (const { text, programs } of demoMachines) {
    const machine = machineFrom(text);
    for (const { text: source } of programs) {
      const program = programFrom(machine, source);
      const chart = flowChartOf(machine, program)!;
      expect(chart.blocks.flatMap((each) => each.lines)).toHaveLength(instructionsOf(machine, program).length);
      const beside = chart.ways.filter((each) => each.kind !== 'next');
      for (const one of beside)
        for (const other of beside) {
          if (one === other || one.lane !== other.lane || one.to > one.from !== other.to > other.from) continue;
          const [a, b] = [one, other].map(({ from, to }) => [Math.min(from, to), Math.max(from, to)] as const);
          expect(a![1] < b![0] || a![0] > b![1]).toBe(true);
        }
      expect(chart.ways.every(({ from, to }) => chart.blocks[from] && chart.blocks[to])).toBe(true);
    }
  }
});

it('calls lead into routines and come back below', () => {
  const chart = flowChartOf(curlew, programFrom(curlew, 'start CALL one\n HALT\none RET'))!;
  expect(chart.ways.map(({ from, to, kind }) => [from, to, kind])).toEqual([
    [0, 1, 'next'],
    [0, 2, 'call'],
  ]);
  expect(chart.blocks.map((each) => each.ends)).toEqual(['goes on', 'halts', 'returns']);
});

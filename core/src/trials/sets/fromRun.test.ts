import { curlew, demoProgram, machineNamed, programFrom } from '../../testing/demo';
import { Runner } from '../../engine/control/runner';
import { readScript } from '../../engine/timeline/script';
import { readEdits } from '../../engine/watch/places';
import { createState } from '../../engine/meaning/state';
import type { Edit } from '../../engine/timeline/interventions';
import { Judge } from '../judge/run';
import { NO_SETS } from './table';
import { setOfRun } from './fromRun';

const editIn = (text: string, program = programFrom(curlew, demoProgram('quay watch'))): Edit =>
  (readEdits(curlew, program, text) as Edit[])[0]!;

it('gives what hands gave before the start, and expects what came', () => {
  const program = programFrom(curlew, demoProgram('quay watch'));
  const runner = new Runner(curlew, program);
  for (const each of ['level = 200', 'rise = 100', 'C = 1', 'ACC = 7', 'M[0x50] = 9']) runner.timeline.edit(editIn(each, program));
  runner.begin();
  runner.run(10_000);
  const set = setOfRun(runner, { name: 'from the bench', kept: undefined, devices: [] });
  expect(Object.fromEntries(set.given.map((each) => [each.place, each.text]))).toEqual({
    ...{ level: '0xC8', rise: '0x64', 'M[0x50]': '0x09', ACC: '0x07', C: '1' },
  });
  expect(set.expected).toEqual([{ place: 'over', text: '0x6C' }]);
  const row = new Judge({ machine: curlew, program, table: { ...NO_SETS, base: 2, sets: [set] } }).row(set);
  expect(row).toMatchObject({ verdict: 'holds', ticks: runner.ticks });
});

it('keeps cells that hands had set before the program was loaded, and the queue', () => {
  const program = programFrom(curlew, demoProgram('highest water'));
  const kept = createState(curlew);
  kept.spaces[0]![0x50] = 5;
  kept.marks[0]![0x50] = 3;
  const runner = new Runner(curlew, program, { keep: kept, inputs: [12, 200, 0] });
  runner.begin();
  runner.run(10_000);
  const set = setOfRun(runner, { name: 'x', kept, devices: [] });
  expect(set.given).toEqual([
    { place: 'M[0x50]', text: '0x05' },
    { place: 'input', text: '0d12 0d200 0d0' },
  ]);
  expect(new Judge({ machine: curlew, program, table: { ...NO_SETS, sets: [set] } }).row(set).verdict).toBe('holds');
});

it('cells behind each other are one entry, up to the next name', () => {
  const program = programFrom(curlew, 'start LOAD levels\nHALT\nlevels .room 3\nlast .room 2');
  const runner = new Runner(curlew, program);
  for (const each of ['levels = 3 -4 10', 'last = 7 8', 'M[0x50] = 9'])
    for (const edit of readEdits(curlew, program, each) as Edit[]) runner.timeline.edit(edit);
  runner.begin();
  runner.run(10_000);
  const set = setOfRun(runner, { name: 'x', kept: undefined, devices: [] });
  expect(set.given).toEqual([
    { place: 'levels', text: '0x03 0xFC 0x0A' },
    { place: 'last', text: '0x07 0x08' },
    { place: 'M[0x50]', text: '0x09' },
  ]);
  expect(new Judge({ machine: curlew, program, table: { ...NO_SETS, sets: [set] } }).row(set)).toMatchObject({ ticks: runner.ticks });
});

it('what came over time stands in its lines, hands’ among them, and does the same again', () => {
  const gannet = machineNamed('Gannet');
  const program = programFrom(gannet, demoProgram('harbour log'));
  const { script } = readScript(gannet, program, 'keys is not ready until 5 reads, then as it is\nat 200: input "ok"');
  const runner = new Runner(gannet, program, script!);
  runner.begin();
  runner.run(300);
  runner.timeline.queueInput([46]);
  runner.run(100_000);
  const set = setOfRun(runner, { name: 'x', kept: undefined, devices: [] });
  expect(set.script).toMatch(/keys is not ready until 5 reads.*\nat 200: input 111 107\nat 300: input 46\n/);
  const row = new Judge({ machine: gannet, program, table: { ...NO_SETS, sets: [set] } }).row(set);
  expect(row).toMatchObject({ verdict: 'holds', ticks: runner.ticks });
  expect(set.expected).toEqual([{ place: 'output', text: '"log: ok."' }]);
});

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { assemble } from '../assembler/assemble';
import { Runner } from '../engine/control/runner';
import { readWholeMachine } from '../assembler/machines';
import type { Machine } from '../machine/model/machine';
import { readWatched } from '../engine/watch/conditions';
import { readScript } from '../engine/timeline/script';
import { courseFiles, forStudents, readCourseFiles } from '../trials/handIns/course';
import { Judge } from '../trials/judge/run';
import { readTable } from '../trials/sets/table';
import { curlew, curlewText, demoMachines, demoProgram, machineFrom, machineNamed, programFrom, quayCount } from './demo';

interface Block {
  readonly kind: string;
  readonly text: string;
}

/** The fenced blocks of a page, in order. */
function blocksOf(page: string): Block[] {
  const text = readFileSync(join(__dirname, '../../../docs', page), 'utf8');
  return [...text.matchAll(/^```(\w[\w ]*)\n([\s\S]*?)^```$/gm)].map((each) => ({ kind: each[1]!, text: each[2]! }));
}

/** The machine that a part makes of the page's own: all parts are changes of it. */
function machineWith(base: string, part: string): Machine {
  const { machine, problems } = readWholeMachine(`machine: Example\nbased on: Page\n${part}`, { base: () => base });
  if (!machine) throw new Error(`${problems.map((each) => each.sentence).join(' ')}\n${part}`);
  return machine;
}

const partsOf = (page: string): { base: string; part: string }[] => {
  const blocks = blocksOf(page);
  const base = blocks.find((each) => each.kind === 'machine')?.text ?? curlewText;
  return blocks.filter((each) => each.kind === 'part').map(({ text }) => ({ base, part: text }));
};

function runsOf(page: string): { machine: () => Machine; source: string; output: string }[] {
  const blocks = blocksOf(page);
  let machine = (): Machine => curlew;
  let base = curlewText;
  return blocks.flatMap(({ kind, text }, at) => {
    const from = base;
    if (kind === 'machine') {
      base = text;
      machine = () => machineFrom(text);
    }
    if (kind === 'part') machine = () => machineWith(from, text);
    const next = blocks[at + 1];
    return kind === 'asm' && next?.kind === 'output' ? [{ machine, source: text, output: next.text }] : [];
  });
}

test.each([...partsOf('machine-language.md'), ...partsOf('recipes.md')])('the part $part is read without an error', ({ base, part }) => {
  expect(machineWith(base, part).name).toBe('Example');
});

test.each([
  ...runsOf('assembly-language.md'),
  ...runsOf('machine-language.md'),
  ...runsOf('a-machine-of-your-own.md'),
  ...runsOf('recipes.md'),
])('the example $source writes what the page says', ({ machine: make, source, output }) => {
  const machine = make();
  const runner = new Runner(machine, programFrom(machine, source));
  expect(runner.run(10_000, { first: true })).toEqual({ kind: 'halted' });
  expect(runner.state.control.output.trimEnd()).toBe(output.trimEnd());
});

test('the wrong example has the problems that the page tells', () => {
  const blocks = blocksOf('assembly-language.md');
  const at = blocks.findIndex((each) => each.kind === 'asm wrong');
  const { problems } = assemble(curlew, blocks[at]!.text);
  expect(problems.map((each) => `${each.line}:${each.column} ${each.sentence}`).join('\n')).toBe(blocks[at + 1]!.text.trimEnd());
});

const withTick = (tick: string): string => curlewText.replace('ACC <- ACC << 1 ; flags Z N C V P', tick);
const inPlaceOfStore = (tick: string): string => curlewText.replace('MAR <- address, MDR <- ACC', tick);
const ticksOf = (kind: string): string[] =>
  blocksOf('notation.md')
    .filter((each) => each.kind === kind)
    .flatMap((each) => each.text.trimEnd().split('\n'));

test.each(ticksOf('tick'))('the tick “%s” is right on the demo machine', (tick) => {
  const { problems } = readWholeMachine(tick.includes('address') ? inPlaceOfStore(tick) : withTick(tick));
  expect(problems.filter((each) => each.grade === 'error')).toEqual([]);
});

test.each(ticksOf('tick wrong'))('the tick “%s” is told to be wrong', (tick) => {
  expect(readWholeMachine(withTick(tick)).machine).toBeUndefined();
});

test('every script and condition of the page on runs is read without a problem', () => {
  const blocks = blocksOf('runs.md').filter((each) => /^(script|condition) /.test(each.kind));
  expect(blocks.length).toBeGreaterThan(3);
  for (const { kind, text } of blocks) {
    const [what, name] = kind.split(' ');
    const machine = machineNamed(name!);
    if (what === 'script') expect(readScript(machine, undefined, text).problems).toEqual([]);
    else expect(readWatched(machine, undefined, text.trim())).toMatchObject({ text: text.trim() });
  }
});

test('every file of sets of the page on trials is read, and its sets hold', () => {
  const blocks = blocksOf('trials.md').filter((each) => each.kind.startsWith('sets '));
  expect(blocks).toHaveLength(2);
  for (const { kind, text } of blocks) {
    const name = kind.slice('sets '.length);
    const machine = machineFrom(demoMachines.find((each) => each.programs.some((one) => one.name === name))!.text);
    const read = readTable(text);
    if ('problem' in read) throw new Error(read.problem.sentence);
    const judge = new Judge({ machine, program: programFrom(machine, demoProgram(name)), table: read.table });
    expect(read.table.sets.map((each) => judge.row(each).verdict)).toEqual(read.table.sets.map(() => 'holds'));
  }
});

test('the course on the page on a class is one, with the files that it names', () => {
  const [block] = blocksOf('class.md').filter((each) => each.kind === 'course');
  const { texts } = quayCount;
  const files = {
    'course.json': block!.text,
    'quay-count/machine.yaml': texts.machine,
    'quay-count/frame.asm': texts.frame,
    'quay-count/solution.asm': texts.solution,
    'quay-count/sets.yaml': texts.sets,
  };
  const read = readCourseFiles(files);
  if ('wrong' in read) throw new Error(read.wrong);
  expect(read.course.assignments[0]!.texts).toMatchObject(texts);
  expect(readCourseFiles(courseFiles(read.course))).toEqual(read);
  const { texts: given, hidden } = forStudents(texts);
  expect({ hidden, solution: given.solution, shown: given.sets.match(/name:/g)!.length }).toEqual({ hidden: 4, solution: '', shown: 3 });
});

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { assemble } from '../assembler/assemble';
import { Runner } from '../engine/runner';
import { readWholeMachine } from '../assembler/machines';
import type { Machine } from '../machine/machine';
import { curlew, curlewText, machineFrom, programFrom } from './demo';

interface Block {
  readonly kind: string;
  readonly text: string;
}

/** The fenced blocks of a page, in order. */
function blocksOf(page: string): Block[] {
  const text = readFileSync(join(__dirname, '../../../docs', page), 'utf8');
  return [...text.matchAll(/^```(\w[\w ]*)\n([\s\S]*?)^```$/gm)].map((each) => ({ kind: each[1]!, text: each[2]! }));
}

function runsOf(page: string): { machine: Machine; source: string; output: string }[] {
  const blocks = blocksOf(page);
  let machine = curlew;
  return blocks.flatMap(({ kind, text }, at) => {
    if (kind === 'machine') machine = machineFrom(text);
    const next = blocks[at + 1];
    return kind === 'asm' && next?.kind === 'output' ? [{ machine, source: text, output: next.text }] : [];
  });
}

test.each([...runsOf('assembly-language.md'), ...runsOf('machine-document.md')])(
  'the example $source writes what the page says',
  ({ machine, source, output }) => {
    const runner = new Runner(machine, programFrom(machine, source));
    expect(runner.run(10_000, { first: true })).toEqual({ kind: 'halted' });
    expect(runner.state.control.output.trimEnd()).toBe(output.trimEnd());
  },
);

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

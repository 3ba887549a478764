/** zettak replay FILE: does a kept run again, tick for tick, and tells where it then stands. */
import { readWholeMachine } from '@zettak/core/assembler/machines';
import { Runner } from '@zettak/core/engine/control/runner';
import { explainRunFile } from '@zettak/core/trials/runFileProblems';
import { readRunFile, runFileIn } from '@zettak/core/trials/runFiles';
import { baseBeside, problemLines } from './files';
import { printEnding } from './run';
import { PROBLEMS, type Terminal } from './terminal';

/** Exit code: 0 where the run came to the tick of the file, 1 where it did not or means nothing here, 2 for wrong use. */
export function replay(terminal: Terminal, file: string, options: { readonly json?: boolean }): number {
  const text = terminal.read(file);
  if (text === undefined) return terminal.wrongUse(`${file} cannot be read.`);
  const kept = runFileIn(text);
  if ('refused' in kept) return refuse(terminal, file, explainRunFile(kept.refused));
  const { machine, problems } = readWholeMachine(kept.machine.text, {
    name: file,
    base: baseBeside(terminal, file),
    language: kept.machine.language,
  });
  if (!machine) {
    problemLines(file, problems).forEach(terminal.warn);
    return PROBLEMS;
  }
  const read = readRunFile(text, machine, kept.machine.text);
  if ('refused' in read) return refuse(terminal, file, explainRunFile(read.refused));
  const runner = new Runner(read.machine, read.program, read.beginning);
  runner.timeline.reach(read.tick);
  const where = runner.ticks === read.tick ? 'as it was kept' : `which is short of tick ${read.tick}, where it was kept`;
  const note = read.note === '' ? '' : ` (${read.note})`;
  printEnding(terminal, runner, {
    stop: 'replayed',
    sentence: `Replayed to tick ${runner.ticks}, ${where}${note}.`,
    json: options.json ?? false,
    streamed: false,
  });
  return runner.ticks === read.tick ? 0 : PROBLEMS;
}

function refuse(terminal: Terminal, file: string, sentence: string): number {
  terminal.warn(`${file}:1:1: error: ${sentence}`);
  return PROBLEMS;
}

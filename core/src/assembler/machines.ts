/** The whole way from a document to a machine: reading it, and trying its system program. */
import { readMachine, type MachineReading, type ReadOptions } from '../machine/read';
import type { Machine } from '../machine/model/machine';
import type { MachineProblem } from '../machine/document/problems';
import { systemOf } from './assemble';

/** Never throws over `text`. */
export const readWholeMachine = (text: string, reading: Omit<ReadOptions, 'review'> = {}): MachineReading =>
  readMachine(text, { ...reading, review: reviewSystem });

/** A system program that does not assemble, leaves its cells, or leaves a vector entry without a routine. */
function reviewSystem(machine: Machine): MachineProblem[] {
  const { system } = machine;
  const assembly = systemOf(machine);
  if (!system || !assembly) return [];
  const spanOf = (line: number, column = 1) => {
    const start = (system.lines[line - 1] ?? system.lines[0] ?? 0) + column - 1;
    return { start, end: start + 1 };
  };
  const { program } = assembly;
  const problems = assembly.problems.map(({ line, column, grade, sentence }): MachineProblem => ({
    code: 'system-problem',
    grade,
    span: spanOf(line, column),
    line,
    sentence,
  }));
  if (!program) return problems;
  const { from, to, vector } = system;
  const stray = program.cells.find((each) => each.space === machine.programSpace && (each.address < from || each.address > to));
  if (stray) problems.push({ code: 'system-leaves-cells', grade: 'error', span: spanOf(stray.line), ...stray, from, to });
  const routines = new Set(program.rows.flatMap((each) => (each.kind === 'code' ? [each.address] : [])));
  for (let number = 0; number < (vector?.count ?? 0); number++) {
    const address = vector!.at + number;
    const entry = program.cells.find((each) => each.address === address && each.space === machine.programSpace);
    if (entry && routines.has(entry.value)) continue;
    problems.push({ code: 'vector-without-routine', grade: 'error', span: spanOf(entry?.line ?? 1), address, number, value: entry?.value });
  }
  return problems;
}

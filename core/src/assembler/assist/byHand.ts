/** Cells entered by hand beside a program: what they mean, how far they agree with it; one instruction on its own. */
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import type { Problem } from '../../text/diagnostic';
import { assemble } from '../assemble';
import { itemAt } from '../../text/itemAt';

export interface Agreement {
  /** Cells of the program in the program space, and how many of them hold the same. */
  readonly cells: number;
  readonly agree: number;
  readonly differ: readonly { readonly address: number; readonly is: number; readonly should: number }[];
}

/** Compares a memory with the cells that a program has assembled to. */
export function agreementOf(machine: Machine, program: Program, memory: ArrayLike<number>): Agreement {
  const own = program.cells.filter((each) => each.space === machine.programSpace);
  const differ = own.flatMap(({ address, value }) =>
    memory[address] === value ? [] : [{ address, is: itemAt(memory, address), should: value }],
  );
  return { cells: own.length, agree: own.length - differ.length, differ };
}

/** Cells of one line of assembly at an address, which may use the names of the program on the bench. */
export function assembleOne(
  machine: Machine,
  text: string,
  { address, program }: { address: number; program?: Program | undefined },
): { readonly cells: readonly number[] } | { readonly problem: Pick<Problem, 'sentence' | 'column' | 'mend'> } {
  const line = itemAt(text.split('\n', 1), 0);
  const names = (program?.symbols ?? []).filter((each) => !each.name.includes('.')).map((each) => `${each.name} = ${each.value}`);
  const head = `.origin ${address}\n`;
  const { program: made, problems } = assemble(machine, [`${head}${line}`, ...names].join('\n'));
  const problem = problems.find((each) => each.grade === 'error');
  if (problem?.line === 2) {
    const { sentence, column, mend } = problem;
    const edits = mend?.edits.map((each) => ({
      ...each,
      span: { start: each.span.start - head.length, end: each.span.end - head.length },
    }));
    return { problem: { sentence, column, ...(mend && edits && { mend: { ...mend, edits } }) } };
  }
  if (!made) return { problem: { sentence: problem?.sentence ?? 'This is no instruction.', column: 1 } };
  return { cells: made.cells.filter((each) => each.space === machine.programSpace).map((each) => each.value) };
}

/** The instructions of a program as they were assembled, its parts' among them. */
import type { Program, Row } from '../../image/program';
import { decode } from '../../machine/model/encode';
import type { Form, Machine } from '../../machine/model/machine';

export interface ProgramInstruction {
  readonly address: number;
  readonly words: readonly number[];
  readonly row: Row;
  /** As written; of a short form what it stands for. */
  readonly text: string;
  readonly form: Form;
}

/** In the order of their addresses; the system program's are not among them. */
export function instructionsOf(machine: Machine, program: Program): ProgramInstruction[] {
  const rows = [program.rows, ...program.parts.map((each) => each.rows)].flat();
  return rows
    .filter((each) => each.kind === 'code' && each.space === undefined && each.address !== undefined)
    .flatMap((row) =>
      (row.expanded ?? [{ address: row.address!, words: row.words, text: row.text ?? '' }]).map((each) => ({ row, ...each })),
    )
    .flatMap(({ row, address, words, text }) => {
      const decoded = decode(machine, (offset) => words[offset], address);
      return 'refused' in decoded ? [] : [{ row, address, words, text, form: decoded.form }];
    })
    .sort((a, b) => a.address - b.address);
}

/** What hand-ins are checked against: texts alone, as they cross threads and files; and the same, read. */
import { assemble } from '../../assembler/assemble';
import { readWholeMachine } from '../../assembler/machines';
import type { Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { readTable, type SetTable } from '../sets/table';

/** All that decides what comes of a hand-in. */
export interface AssignmentTexts {
  readonly machine: string;
  /** The language that the machine's document was kept in. */
  readonly language: number;
  /** Texts of machines that it is based on, by name in small letters. */
  readonly bases: Readonly<Record<string, string>>;
  /** What programs may take in, by name. */
  readonly parts: Readonly<Record<string, string>>;
  /** What students begin with; lines that end in `;!` stay as they are. */
  readonly frame: string;
  /** The teacher's own program; empty where there is none. */
  readonly solution: string;
  /** Sets with what is expected, as YAML. */
  readonly sets: string;
  /** Most ticks of a run; as the sets say where it is undefined. */
  readonly mostTicks?: number | undefined;
  /** Most cells of a program; without end where it is undefined. */
  readonly mostCells?: number | undefined;
}

/** An assignment that hand-ins can be checked against. */
export interface Assignment {
  readonly machine: Machine;
  readonly parts: ReadonlyMap<string, string>;
  readonly frame: string;
  readonly solution: Program | undefined;
  readonly table: SetTable;
  readonly mostCells: number | undefined;
}

/** Reads the texts, or says what is wrong with them; a solution with errors is one. Never throws. */
export function readAssignment(texts: AssignmentTexts): Assignment | { readonly wrong: string } {
  const base = (name: string): string | undefined =>
    Object.hasOwn(texts.bases, name.toLowerCase()) ? texts.bases[name.toLowerCase()] : undefined;
  const { machine, problems } = readWholeMachine(texts.machine, { base, language: texts.language });
  if (!machine) return { wrong: `The machine cannot be read: ${problems[0]?.sentence ?? ''}` };
  const read = readTable(texts.sets);
  if ('problem' in read) return { wrong: `The sets cannot be read: ${read.problem.sentence}` };
  const parts = new Map(Object.entries(texts.parts));
  const shared = { machine, parts, frame: texts.frame, mostCells: texts.mostCells };
  const table = { ...read.table, mostTicks: texts.mostTicks ?? read.table.mostTicks };
  if (texts.solution.trim() === '') return { ...shared, table, solution: undefined };
  const solution = assemble(machine, texts.solution, { parts });
  if (solution.program) return { ...shared, table, solution: solution.program };
  const first = solution.problems.find((each) => each.grade === 'error');
  return { wrong: `The teacher's program does not assemble. Line ${first?.line ?? 1}: ${first?.sentence ?? ''}` };
}

/** What the assembler makes and the engine loads. Types, and look-ups in them. */
export interface ImageCell {
  readonly space: number;
  readonly address: number;
  readonly value: number;
  /** Source line, from 1. */
  readonly line: number;
}

/** One of several instructions that a short form stands for. */
export interface Expanded {
  readonly address: number;
  readonly words: readonly number[];
  readonly text: string;
}

/** One source line with what it became. */
export interface Row {
  readonly line: number;
  /** It is a line of the system program. */
  readonly system?: boolean;
  /** It is a line of a part that the program takes in. */
  readonly part?: string;
  readonly kind: 'code' | 'data' | 'room' | 'none';
  /** Where its cells are; the program space where nothing is said. */
  readonly space?: number;
  readonly address?: number;
  readonly words: readonly number[];
  /** Cells of room, which have no words. */
  readonly size?: number;
  /** The instruction as written, blanks folded, label and remark left out. */
  readonly text?: string;
  readonly expanded?: readonly Expanded[];
  /** The routine that it belongs to. */
  readonly routine?: string;
}

export interface ProgramSymbol {
  /** Of a name inside a routine: with the routine's before it and a dot between. */
  readonly name: string;
  readonly value: number;
  readonly kind: 'label' | 'constant';
  /** Line of the program, or of the part. */
  readonly line: number;
  readonly part?: string;
  /** Of a label outside the program space: where, counted over all banks. */
  readonly space?: number;
  readonly at?: number;
  /** Lines of the program that name it, in order. */
  readonly uses: readonly number[];
}

export interface RoutineBorder {
  readonly name: string;
  /** First and last address. */
  readonly from: number;
  readonly to: number;
  /** First and last line, of the program or of a part. */
  readonly line: number;
  readonly end: number;
  readonly part?: string;
}

/** The routine that an address lies in. */
export const routineOf = (routines: readonly RoutineBorder[], address: number): string | undefined =>
  routines.find((each) => address >= each.from && address <= each.to)?.name;

/** A text of the course that a program takes in. */
export interface IncludedPart {
  readonly name: string;
  /** Line of the program that takes it in. */
  readonly line: number;
  readonly source: string;
  readonly rows: readonly Row[];
}

/** A place that a program declares for what it is given, or for what it finds. */
export interface DeclaredPlace {
  readonly way: 'input' | 'output';
  readonly name: string;
  readonly space: number;
  readonly address: number;
  readonly base: string;
  readonly unit: string;
  readonly line: number;
}

/** What a successful assembly tells, instead of a check mark. */
export interface Facts {
  readonly start: number;
  readonly last: number;
  readonly used: number;
  readonly free: number;
  readonly names: number;
  readonly unusedNames: readonly string[];
  /** Addresses outside the program's cells that it jumps to or calls. */
  readonly outside: readonly number[];
  /** Names of the services that it asks for, in the order of their first request. */
  readonly services: readonly string[];
  readonly warnings: number;
  /** How unmarked numbers are read at its end: 2, 8, 10 or 16. */
  readonly base: number;
}

export interface Program {
  readonly source: string;
  readonly cells: readonly ImageCell[];
  readonly rows: readonly Row[];
  readonly symbols: readonly ProgramSymbol[];
  readonly facts: Facts;
  readonly start: number;
  readonly routines: readonly RoutineBorder[];
  readonly parts: readonly IncludedPart[];
  readonly declared: readonly DeclaredPlace[];
  /** The machine's own routines, loaded beside it. */
  readonly system?: Program;
}

/** A program without cells, for a machine that has none yet; the system program lies there all the same. */
export const emptyProgram = (start: number, system?: Program): Program => ({
  ...{ source: '', cells: [], rows: [], symbols: [], start, routines: [], parts: [], declared: [] },
  facts: { start, last: start, used: 0, free: 0, names: 0, unusedNames: [], outside: [], services: [], warnings: 0, base: 10 },
  ...(system && { system }),
});

/**
 * What a call's target is called: the label there, or the routine that it lies in, since a routine may keep the way back in
 * its first cells. Undefined where it has no name.
 */
export const calledAt = (program: Program, address: number): string | undefined =>
  indexOf(program).labelAt.get(address) ?? routineOf(program.routines, address);

/** How names of the system program are told from a program's own. */
export const SYSTEM = 'system';

export interface ProgramIndex {
  readonly labelAt: ReadonlyMap<number, string>;
  /** Labels of other spaces; undefined is the program space. */
  readonly labelIn: (space: number | undefined, address: number) => string | undefined;
  readonly rowAt: ReadonlyMap<number, Row>;
}

const indices = new WeakMap<Program, ProgramIndex>();

/** Labels by address, and code and data rows by the address of each of their cells; the system program's behind its own. */
export function indexOf(program: Program): ProgramIndex {
  let index = indices.get(program);
  if (!index) {
    const spaces = new Map<number | undefined, Map<number, string>>();
    const labelsOf = (space: number | undefined): Map<number, string> => {
      const known = spaces.get(space) ?? new Map<number, string>();
      spaces.set(space, known);
      return known;
    };
    const rowAt = new Map<number, Row>();
    const take = ({ symbols, rows: own, parts }: Program, prefix: string): void => {
      const rows = [own, ...parts.map((each) => each.rows)].flat();
      for (const { kind, name, value, space, at = value } of symbols) {
        const labels = labelsOf(space);
        if (kind === 'label' && !labels.has(at)) labels.set(at, prefix + name);
      }
      for (const row of rows)
        if (row.space === undefined) row.words.forEach((_, at) => !rowAt.has(row.address! + at) && rowAt.set(row.address! + at, row));
    };
    take(program, '');
    const own = new Set(rowAt.values());
    if (program.system) take(program.system, `${SYSTEM}.`);
    for (const [address, row] of rowAt) if (!own.has(row)) rowAt.set(address, { ...row, system: true });
    const labelAt = labelsOf(undefined);
    index = { labelAt, rowAt, labelIn: (space, address) => spaces.get(space)?.get(address) };
    indices.set(program, index);
  }
  return index;
}

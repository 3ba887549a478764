/** What the assembler makes and the engine loads. Types, and look-ups in them. */
export interface ImageCell {
  readonly space: number;
  readonly address: number;
  readonly value: number;
  /** Source line, from 1. */
  readonly line: number;
}

/** One source line with what it became. */
export interface Row {
  readonly line: number;
  /** It is a line of the system program. */
  readonly system?: boolean;
  readonly kind: 'code' | 'data' | 'room' | 'none';
  /** Where its cells are; the program space where nothing is said. */
  readonly space?: number;
  readonly address?: number;
  readonly words: readonly number[];
  /** The instruction as written, blanks folded, label and remark left out. */
  readonly text?: string;
}

export interface ProgramSymbol {
  readonly name: string;
  readonly value: number;
  readonly kind: 'label' | 'constant';
  readonly line: number;
  /** Of a label outside the program space: where, counted over all banks. */
  readonly space?: number;
  readonly at?: number;
}

/** What a successful assembly tells, instead of a check mark. */
export interface Facts {
  readonly start: number;
  readonly last: number;
  readonly used: number;
  readonly free: number;
  readonly names: number;
  readonly unusedNames: readonly string[];
}

export interface Program {
  readonly source: string;
  readonly cells: readonly ImageCell[];
  readonly rows: readonly Row[];
  readonly symbols: readonly ProgramSymbol[];
  readonly facts: Facts;
  readonly start: number;
  /** The machine's own routines, loaded beside it. */
  readonly system?: Program;
}

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
    const take = ({ symbols, rows }: Program, prefix: string): void => {
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

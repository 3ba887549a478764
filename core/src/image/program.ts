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
  readonly kind: 'code' | 'data' | 'room' | 'none';
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
}

export interface ProgramIndex {
  readonly labelAt: ReadonlyMap<number, string>;
  readonly rowAt: ReadonlyMap<number, Row>;
}

const indices = new WeakMap<Program, ProgramIndex>();

/** Labels by address, and code and data rows by the address of each of their cells. */
export function indexOf(program: Program): ProgramIndex {
  let index = indices.get(program);
  if (!index) {
    const labelAt = new Map<number, string>();
    for (const { kind, name, value } of program.symbols) if (kind === 'label' && !labelAt.has(value)) labelAt.set(value, name);
    const rowAt = new Map<number, Row>();
    for (const row of program.rows) row.words.forEach((_, at) => rowAt.set(row.address! + at, row));
    index = { labelAt, rowAt };
    indices.set(program, index);
  }
  return index;
}

/** Between instructions and their cells. The only place that takes an encoding apart or puts one together. */
import type { Field, Form, Machine } from './machine';
import { programSpaceOf } from './machine';

export interface FieldValue {
  readonly field: Field;
  readonly value: number;
}

export interface Decoded {
  readonly form: Form;
  readonly operands: readonly FieldValue[];
}

/** Bits that the fixed fields of a form demand in its first cell, and where. */
export function firstCellPattern(form: Form, cellWidth: number): { mask: number; match: number } {
  const shift = (form.format.cells - 1) * cellWidth;
  let mask = 0;
  let match = 0;
  for (const { field, value } of form.fixed) {
    const width = field.high - field.low + 1;
    mask = (mask | ((2 ** width - 1) << (field.low - shift))) >>> 0;
    match = (match | (value << (field.low - shift))) >>> 0;
  }
  return { mask, match };
}

/** Up to this width of the first cell a table answers; wider cells are searched for. */
const TABLE_WIDTH = 12;

const decoders = new WeakMap<Machine, (cell: number) => Form | undefined>();

/** The look-up that decode does: which form has this first cell; undefined is an undefined opcode. */
export function formsByFirstCell(machine: Machine): (cell: number) => Form | undefined {
  let decoder = decoders.get(machine);
  if (!decoder) {
    const { width } = programSpaceOf(machine);
    const patterns = machine.forms.map((form) => ({ ...firstCellPattern(form, width), form }));
    const search = (cell: number): Form | undefined => patterns.find(({ mask, match }) => (cell & mask) >>> 0 === match)?.form;
    const table = width > TABLE_WIDTH ? undefined : Array.from({ length: 2 ** width }, (_, cell) => search(cell));
    decoder = table ? (cell) => table[cell] : search;
    decoders.set(machine, decoder);
  }
  return decoder;
}

export const formOf = (machine: Machine, firstCell: number): Form | undefined => formsByFirstCell(machine)(firstCell);

/** Smallest and greatest value a field can be written with. */
export function rangeOf({ kind, high, low }: Field): { least: number; greatest: number } {
  const size = 2 ** (high - low + 1);
  switch (kind) {
    case 'unsigned':
      return { least: 0, greatest: size - 1 };
    case 'signed':
      return { least: -size / 2, greatest: size / 2 - 1 };
    case 'either':
      return { least: -size / 2, greatest: size - 1 };
    default:
      return kind satisfies never;
  }
}

/** The cells of an instruction, first cell first. Values outside their field's range throw a RangeError. */
export function encode(machine: Machine, form: Form, values: ReadonlyMap<string, number>): number[] {
  const { width } = programSpaceOf(machine);
  const cells = new Array<number>(form.format.cells).fill(0);
  const put = (field: Field, value: number): void => {
    for (let bit = field.low; bit <= field.high; bit++) {
      const cell = form.format.cells - 1 - Math.floor(bit / width);
      const on = Math.floor(value / 2 ** (bit - field.low)) % 2;
      if (on) cells[cell] = (cells[cell]! | (1 << (bit % width))) >>> 0;
    }
  };
  for (const { field, value } of form.fixed) put(field, value);
  for (const field of form.operands) {
    const value = values.get(field.name) ?? 0;
    const { least, greatest } = rangeOf(field);
    if (!(value >= least && value <= greatest)) throw new RangeError(`${field.name} = ${value} is outside ${least} to ${greatest}`);
    put(field, value < 0 ? value + 2 ** (field.high - field.low + 1) : value);
  }
  return cells;
}

/** Takes cells apart; `read` gives the cell at an offset from the first, or undefined past the end of the space. */
export function decode(machine: Machine, read: (offset: number) => number | undefined): Decoded | undefined {
  const { width } = programSpaceOf(machine);
  const first = read(0);
  const form = first === undefined ? undefined : formOf(machine, first);
  if (!form) return undefined;
  const operands: FieldValue[] = [];
  for (const field of form.operands) {
    let value = 0;
    for (let bit = field.high; bit >= field.low; bit--) {
      const cell = read(form.format.cells - 1 - Math.floor(bit / width));
      if (cell === undefined) return undefined;
      value = value * 2 + ((cell >>> (bit % width)) & 1);
    }
    operands.push({ field, value });
  }
  return { form, operands };
}

/** The instruction as text: the written form with `show` filling its holes. */
export const written = (form: Form, show: (field: Field) => string): string =>
  form.pieces.map((piece) => ('text' in piece ? piece.text : show(form.operands.find((each) => each.name === piece.field)!))).join('');

/** Between instructions and their cells. The only place that takes an encoding apart or puts one together. */
import { digitsAt, power, signedReading } from '../../text/number';
import type { Field, FieldPiece, Form, Format, Machine } from './machine';
import { programSpaceOf } from './machine';
import { itemAt } from '../../text/itemAt';
import { perForm, perMachine } from './perMachine';

export interface FieldValue {
  readonly field: Field;
  /** As written: a target address where the field is relative, a signed number where it is signed. */
  readonly value: number;
}

export interface Decoded {
  readonly form: Form;
  readonly operands: readonly FieldValue[];
}

export type Refusal =
  | { readonly reason: 'outside'; readonly field: Field; readonly value: number; readonly least: number; readonly greatest: number }
  | { readonly reason: 'not a multiple'; readonly field: Field; readonly value: number; readonly of: number }
  | { readonly reason: 'other page'; readonly field: Field; readonly value: number; readonly least: number; readonly greatest: number }
  | { readonly reason: 'undefined first cell'; readonly cell: number }
  | { readonly reason: 'undefined later digits'; readonly cell: number }
  | { readonly reason: 'past the end' };

/** Demands on the digits of one cell: those from `low` up, `width` of them, have to be `value`. */
export interface Demand {
  readonly cell: number;
  readonly low: number;
  readonly width: number;
  readonly value: number;
}

/** Everything that a form demands of its cells; digits of different cells are apart. */
export function demandsOf(form: Pick<Form, 'format' | 'fixed'>, cellWidth: number, radix: number): readonly Demand[] {
  const known = demandsOfForms.get(form);
  if (known?.cellWidth === cellWidth && known.radix === radix) return known.demands;
  const demands = freshDemands(form, cellWidth, radix);
  demandsOfForms.set(form, { cellWidth, radix, demands });
  return demands;
}

/** They are asked for at every change of a machine that is being defined, and most of its forms are as they were. */
const demandsOfForms = new WeakMap<object, { readonly cellWidth: number; readonly radix: number; readonly demands: readonly Demand[] }>();

function freshDemands({ format, fixed }: Pick<Form, 'format' | 'fixed'>, cellWidth: number, radix: number): Demand[] {
  const demand = ({ high, low }: FieldPiece, value: number): Demand[] => {
    const demands: Demand[] = [];
    for (let from = low; from <= high;) {
      const cell = format.cells - 1 - Math.floor(from / cellWidth);
      const start = from % cellWidth;
      const width = Math.min(high - from + 1, cellWidth - start);
      demands.push({ cell, low: start, width, value: digitsAt(value, from - low, width, radix) });
      from += width;
    }
    return demands;
  };
  return [
    ...fixed.flatMap(({ field, value }) =>
      field.pieces.flatMap((each) => demand(each, digitsAt(value, each.at, each.high - each.low + 1, radix))),
    ),
    ...format.zeros.flatMap((each) => demand(each, 0)),
  ];
}

/** Digits of one cell that have to make one of some values: those of a field whose values have names. */
export interface Choice {
  readonly cell: number;
  /** Digits of the cell from `low` up, and the lowest digit of the value that stands there. */
  readonly pieces: readonly { readonly low: number; readonly width: number; readonly at: number }[];
  readonly values: ReadonlySet<number>;
}

/** What a form demands of its fields beside fixed digits. */
export function choicesOf({ format, operands }: Pick<Form, 'format' | 'fixed' | 'operands'>, cellWidth: number, radix: number): Choice[] {
  return operands.flatMap(({ named, names, pieces, bias, dropped }): Choice[] => {
    if (!named || !names) return [];
    const [{ high }] = pieces as [FieldPiece];
    return [
      {
        cell: format.cells - 1 - Math.floor(high / cellWidth),
        pieces: pieces.map((each) => ({ low: each.low % cellWidth, width: each.high - each.low + 1, at: each.at })),
        values: new Set([...names.keys()].map((each) => (each - bias) / power(radix, dropped))),
      },
    ];
  });
}

/** Everything that a form asks of its cells. */
interface Claims {
  readonly demands: readonly Demand[];
  readonly choices: readonly Choice[];
}

/** The value that the digits of a choice make in a cell. */
export const chosenIn = ({ pieces }: Choice, cell: number, radix: number): number =>
  pieces.reduce((sum, { low, width, at }) => sum + digitsAt(cell, low, width, radix) * power(radix, at), 0);

const meets = ({ demands, choices }: Claims, cell: number, value: number, radix: number): boolean =>
  demands.every((each) => each.cell !== cell || digitsAt(value, each.low, each.width, radix) === each.value) &&
  choices.every((each) => each.cell !== cell || each.values.has(chosenIn(each, value, radix)));

export const claimsOf = (form: Pick<Form, 'format' | 'fixed' | 'operands'>, cellWidth: number, radix: number): Claims => ({
  demands: demandsOf(form, cellWidth, radix),
  choices: choicesOf(form, cellWidth, radix),
});

/** The claims on the first cell alone. */
export const firstCellOf = ({ demands, choices }: Claims): Claims => ({
  demands: demands.filter((each) => each.cell === 0),
  choices: choices.filter((each) => each.cell === 0),
});

/** How two forms' first cells, or all their cells, can be the same: the cell values, or undefined where they cannot. */
export function commonCells(one: Claims, other: Claims, cells: number, radix: number): number[] | undefined {
  const digits = new Map<string, number>();
  const put = (into: Map<string, number>, { cell, low, width, value }: Demand): boolean => {
    for (let at = 0; at < width; at++) {
      const key = `${cell}:${low + at}`;
      const digit = digitsAt(value, at, 1, radix);
      if (into.has(key) && into.get(key) !== digit) return false;
      into.set(key, digit);
    }
    return true;
  };
  if (![...one.demands, ...other.demands].every((each) => put(digits, each))) return undefined;
  const choices = [...one.choices, ...other.choices];
  /** Each choice in turn takes a value that agrees with what is settled so far. */
  const settle = (at: number): boolean => {
    const choice = choices[at];
    if (!choice) return true;
    for (const value of choice.values) {
      const tried = new Map(digits);
      const fits = choice.pieces.every(({ low, width, at: from }) =>
        put(digits, { cell: choice.cell, low, width, value: digitsAt(value, from, width, radix) }),
      );
      if (fits && settle(at + 1)) return true;
      digits.clear();
      tried.forEach((digit, key) => digits.set(key, digit));
    }
    return false;
  };
  if (!settle(0)) return undefined;
  const values = new Array<number>(cells).fill(0);
  for (const [key, digit] of digits) {
    const [cell, at] = key.split(':').map(Number) as [number, number];
    if (cell < cells) values[cell] = itemAt(values, cell) + digit * power(radix, at);
  }
  return values;
}

/** Up to this many values of the first cell a table answers; beyond it, answers are remembered as they are asked for. */
const TABLE = 4096;

export interface Decoder {
  /** Forms that the first cell allows: one, unless later cells tell them apart. */
  readonly byFirst: (cell: number) => readonly Form[];
  readonly matches: (form: Form, cell: number, value: number) => boolean;
}

/** How the forms of a machine are told apart; made once for each machine. */
export const decoderOf = perMachine((machine): Decoder => {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const claims = machine.forms.map((form) => claimsOf(form, width, radix));
  const search = (cell: number): readonly Form[] => machine.forms.filter((form) => meets(itemAt(claims, form.index), 0, cell, radix));
  const size = power(radix, width);
  const table = size > TABLE ? undefined : Array.from({ length: size }, (_, cell) => search(cell));
  const remembered = new Map<number, readonly Form[]>();
  const recall = (cell: number): readonly Form[] => {
    let forms = remembered.get(cell);
    if (!forms) {
      if (remembered.size > 70_000) remembered.clear();
      forms = search(cell);
      remembered.set(cell, forms);
    }
    return forms;
  };
  return {
    byFirst: table ? (cell) => table[cell] ?? [] : recall,
    matches: (form, cell, value) => meets(itemAt(claims, form.index), cell, value, radix),
  };
});

/** The form that a first cell means, as far as it tells; undefined is an undefined opcode. */
export const formOf = (machine: Machine, firstCell: number): Form | undefined => decoderOf(machine).byFirst(firstCell)[0];

/** Smallest and greatest value that a field can encode, scale and bias counted in; of relative ones the distance. */
export function rangeOf({ kind, width, dropped, bias }: Field, radix: number): { least: number; greatest: number } {
  const size = power(radix, width);
  const scale = power(radix, dropped);
  const half = radix === 2 && width === 1 ? 1 : size / 2;
  const range = (least: number, greatest: number) => ({ least: least * scale + bias, greatest: greatest * scale + bias });
  switch (kind) {
    case 'unsigned':
      return range(0, size - 1);
    case 'signed':
      return range(-half, half - 1);
    case 'either':
      return range(-half, size - 1);
    default:
      return kind satisfies never;
  }
}

interface Spot {
  readonly machine: Machine;
  /** Address of the instruction's first cell. */
  readonly at: number;
  readonly format: Format;
}

const baseOf = ({ at, format }: Spot, { relative }: Field): number =>
  relative ? (relative.from === 'next' ? at + format.cells : at) + relative.plus : 0;

/** The digits that stand for a written value, or why there are none. */
function digitsFor(spot: Spot, field: Field, value: number): number | Refusal {
  const { machine, at, format } = spot;
  const { radix } = machine;
  const size = power(radix, field.width);
  const scale = power(radix, field.dropped);
  if (field.page) {
    const span = size * scale;
    const start = Math.floor((at + format.cells) / span) * span;
    const page = { least: start, greatest: start + span - 1 };
    if (value < page.least || value > page.greatest) return { reason: 'other page', field, value, ...page };
    return Math.floor((value - start) / scale);
  }
  const { cells } = programSpaceOf(machine);
  const { least, greatest } = rangeOf(field, radix);
  let written = value - baseOf(spot, field);
  // A branch may go round the end of the space.
  if (field.relative && (written < least || written > greatest) && power(radix, programSpaceOf(machine).addressWidth) === cells) {
    if (written > greatest && written - cells >= least) written -= cells;
    else if (written < least && written + cells <= greatest) written += cells;
  }
  if (!(written >= least && written <= greatest)) {
    const base = baseOf(spot, field);
    return { reason: 'outside', field, value, least: least + base, greatest: greatest + base };
  }
  const unbiased = written - field.bias;
  if (unbiased % scale !== 0) return { reason: 'not a multiple', field, value, of: scale };
  const digits = unbiased / scale;
  return digits < 0 ? digits + size : digits;
}

/** The cells of an instruction at an address, first cell first; fields without a value are 0. */
export const encode = (
  machine: Machine,
  form: Form,
  values: ReadonlyMap<string, number>,
  at: number,
): { readonly cells: readonly number[] } | { readonly refused: Refusal } =>
  encodeWith(
    machine,
    form,
    form.operands.map((each) => values.get(each.name)),
    at,
  );

/** The same, with the values in the order of the form's operands. */
export function encodeWith(
  machine: Machine,
  form: Form,
  values: readonly (number | undefined)[],
  at: number,
): { readonly cells: readonly number[] } | { readonly refused: Refusal } {
  const fixed = fixedCells(machine, form);
  const { format, operands } = form;
  if (operands.length === 0) return { cells: fixed };
  const cells = fixed.slice();
  const spot = { machine, at, format };
  for (let index = 0; index < operands.length; index++) {
    const field = operands[index]!;
    const found = digitsFor(spot, field, values[index] ?? baseOf(spot, field));
    if (typeof found !== 'number') return { refused: found };
    put(machine, cells, field, found);
  }
  return { cells };
}

/** Adds the digits of a field to the cells of an instruction. */
function put(machine: Machine, cells: number[], { pieces }: Field, digits: number): void {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  for (const piece of pieces) {
    for (let place = piece.low; place <= piece.high;) {
      const cell = cells.length - 1 - Math.floor(place / width);
      const run = Math.min(piece.high - place + 1, width - (place % width));
      cells[cell] = cells[cell]! + digitsAt(digits, piece.at + place - piece.low, run, radix) * power(radix, place % width);
      place += run;
    }
  }
}

const fixedCellsOfForms = perForm<readonly number[]>();

/** The cells of a form as far as nobody has to write them: one list for all instructions of the form. */
export function fixedCells(machine: Machine, form: Form): readonly number[] {
  const known = fixedCellsOfForms(machine);
  const before = known[form.index];
  if (before) return before;
  const cells = new Array<number>(form.format.cells).fill(0);
  for (const { field, value } of form.fixed) put(machine, cells, field, value);
  known[form.index] = cells;
  return cells;
}

/** Takes cells apart; `read` gives the cell at an offset from the first, or undefined past the end of the space. */
export function decode(
  machine: Machine,
  read: (offset: number) => number | undefined,
  at: number,
): Decoded | { readonly refused: Refusal } {
  const first = read(0);
  if (first === undefined) return { refused: { reason: 'past the end' } };
  const decoder = decoderOf(machine);
  const candidates = decoder.byFirst(first);
  if (candidates.length === 0) return { refused: { reason: 'undefined first cell', cell: first } };
  const cells = Array.from({ length: itemAt(candidates, 0).format.cells }, (_, offset) => read(offset));
  if (cells.includes(undefined)) return { refused: { reason: 'past the end' } };
  const form = candidates.find((each) => cells.every((cell, offset) => decoder.matches(each, offset, cell!)));
  if (!form) return { refused: { reason: 'undefined later digits', cell: first } };
  const operands = form.operands.map((field) => ({ field, value: valueIn(machine, form.format, field, cells as number[], at) }));
  return { form, operands };
}

function valueIn(machine: Machine, format: Format, field: Field, cells: readonly number[], at: number): number {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  let digits = 0;
  for (const piece of field.pieces) {
    for (let place = piece.low; place <= piece.high; place++) {
      const digit = digitsAt(itemAt(cells, format.cells - 1 - Math.floor(place / width)), place % width, 1, radix);
      digits += digit * power(radix, piece.at + place - piece.low);
    }
  }
  const scale = power(radix, field.dropped);
  if (field.page) {
    const span = power(radix, field.width) * scale;
    return Math.floor((at + format.cells) / span) * span + digits * scale;
  }
  const read = field.kind === 'signed' ? signedReading(digits, field.width, radix) : digits;
  const value = read * scale + field.bias + baseOf({ machine, at, format }, field);
  const { cells: size } = programSpaceOf(machine);
  return field.relative ? ((value % size) + size) % size : value;
}

/** What has to stand between a written form so far and what comes in its next hole, so that they are no single word: behind the operation a blank. */
export const apart = (text: string, next: string): string => (/[^\w.].*\w$/.test(text) && /^\w/.test(next) ? ' ' : '');

/** The instruction as text: the written form with `show` filling its holes. */
export function written(form: Form, show: (field: Field) => string): string {
  let text = '';
  for (const piece of form.pieces) {
    if ('text' in piece) {
      text += piece.text;
      continue;
    }
    const shown = show(form.operands.find((each) => each.name === piece.field)!);
    // An empty name drops the dot before it.
    text = shown === '' && text.endsWith('.') ? text.slice(0, -1) : text + apart(text, shown) + shown;
  }
  return text;
}

/** How the value of a field with names is written; undefined of one that is written as a number. */
export const nameIn = ({ names }: Field, value: number): string | undefined => names?.get(value)?.[0];

/** A form as far as its first cell tells it: names of values that lie there are filled in, other holes keep their names. */
export function spelledBy(machine: Machine, form: Form, first: number): string {
  const { width } = programSpaceOf(machine);
  const inFirst = ({ low }: FieldPiece): boolean => low >= (form.format.cells - 1) * width;
  return written(form, (field) => {
    if (!field.names || !field.pieces.every(inFirst)) return field.name;
    const digits = field.pieces.reduce(
      (sum, piece) => sum + digitsAt(first, piece.low % width, piece.high - piece.low + 1, machine.radix) * power(machine.radix, piece.at),
      0,
    );
    return nameIn(field, digits * power(machine.radix, field.dropped) + field.bias) ?? field.name;
  });
}

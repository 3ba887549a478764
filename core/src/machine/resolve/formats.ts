/** The formats of a document: how the cells of an instruction split into fields, and the fields as values of a tick. */
import type { Slice } from '../../notation/scope';
import type { Expr } from '../../notation/tree';
import { digitsIn, power, readNumber, unitOf } from '../../text/number';
import { rangeOf } from '../model/encode';
import type { Condition, Field, FieldKind, FieldPiece, Format, RegisterArray, View } from '../model/machine';
import { indexIn, report, type DocumentReading } from './reading';
import { readFormat, type FormatItem } from '../document/codeText';
import type { Mend } from '../../text/diagnostic';
import type { Path } from '../document/yaml';
import { itemAt } from '../../text/itemAt';

const MOST_CELLS = 4;

/** What the values of fields can name. */
export interface Named {
  readonly arrays: readonly RegisterArray[];
  readonly views: readonly View[];
  readonly conditions: readonly Condition[];
}

/** By name; fields that do not add up to whole cells are problems. */
export function resolveFormats(reading: DocumentReading, cellWidth: number, named: Named): Map<string, Format> {
  const formats = new Map<string, Format>();
  for (const [name, entry] of Object.entries(reading.document.formats)) {
    const text = typeof entry === 'string' ? entry : entry.fields;
    const path = typeof entry === 'string' ? ['formats', name] : ['formats', name, 'fields'];
    const format = resolveFormat(reading, { name, text, path, cellWidth, named });
    const onlyIf = typeof entry === 'string' ? undefined : entry['only if'];
    if (format) formats.set(name, { ...format, ...(onlyIf !== undefined && { onlyIf }) });
  }
  return formats;
}

interface FormatText {
  readonly name: string;
  readonly text: string;
  readonly path: Path;
  readonly cellWidth: number;
  readonly named: Named;
}

function resolveFormat(reading: DocumentReading, { name, text, path, cellWidth, named }: FormatText): Format | undefined {
  const read = readFormat(text);
  if (!read) return void report(reading, path, { code: 'bad-format', text });
  const { items, order } = read;
  const trailing = / +((?:low|high) first)\s*$/.exec(text);
  if (trailing && order === undefined) return void report(reading, path, ...withoutComma(reading, path, trailing[1]!));
  const width = items.reduce((sum, each) => sum + each.width, 0);
  const cells = width / cellWidth;
  if (!Number.isInteger(cells) || cells > MOST_CELLS) {
    const unit = unitOf(reading.radix);
    return void report(reading, path, { code: 'fields-do-not-add-up', format: name, width, cell: cellWidth, unit });
  }
  const move = order === 'low' ? lowFirst(cells, cellWidth) : (piece: FieldPiece) => [piece];
  const placed = new Map<string, Placed>();
  const zeros: FieldPiece[] = [];
  let high = width - 1;
  for (const item of items) {
    const piece = { high, low: high - item.width + 1, at: item.range?.low ?? 0 };
    high -= item.width;
    if (item.name === 'zero') zeros.push(...move(piece));
    else if (item.name !== 'any') addPiece(placed, item, piece);
  }
  const fields = [...placed].flatMap(([field, each]) => resolveField(reading, { path, field, placed: each, move, named }) ?? []);
  for (const { name: field, named: some, pieces } of fields) {
    const [one, ...others] = pieces.flatMap((each) => [Math.floor(each.high / cellWidth), Math.floor(each.low / cellWidth)]);
    if (some && others.some((each) => each !== one)) report(reading, path, { code: 'names-across-cells', field });
  }
  return { name, cells, fields, zeros };
}

/** The order of the cells, written like a word of the last field. */
function withoutComma(
  { yaml, source }: DocumentReading,
  path: Path,
  order: string,
): [{ code: 'order-without-comma'; order: string }, { mend?: Mend }] {
  const { start, end } = yaml.spanOf(path);
  const at = source.text.slice(start, end).lastIndexOf(` ${order}`);
  const place = start + source.text.slice(start, start + Math.max(0, at)).trimEnd().length;
  const mend = { title: `Put a comma before ${order}`, edits: [{ span: { start: place, end: place }, text: ',' }] };
  return [{ code: 'order-without-comma', order }, at === -1 ? {} : { mend }];
}

interface Placed {
  readonly pieces: FieldPiece[];
  readonly ranged: boolean;
  readonly words: string[];
  twice: boolean;
}

function addPiece(placed: Map<string, Placed>, item: FormatItem, piece: FieldPiece): void {
  const known = placed.get(item.name);
  if (!known)
    return void placed.set(item.name, { pieces: [piece], ranged: item.range !== undefined, words: [...item.words], twice: false });
  if (!known.ranged || !item.range) known.twice = true;
  known.pieces.push(piece);
  known.words.push(...item.words);
}

/** Cells behind the first come in the other order, the low ones first. */
function lowFirst(cells: number, cellWidth: number): (piece: FieldPiece) => FieldPiece[] {
  return ({ high, low, at }) => {
    const pieces: FieldPiece[] = [];
    for (let from = low; from <= high;) {
      const cell = Math.floor(from / cellWidth);
      const to = Math.min(high, (cell + 1) * cellWidth - 1);
      const shift = cell === cells - 1 ? 0 : (cells - 2 - 2 * cell) * cellWidth;
      pieces.unshift({ high: to + shift, low: from + shift, at: at + from - low });
      from = to + 1;
    }
    return pieces;
  };
}

function resolveField(
  reading: DocumentReading,
  {
    path,
    field: name,
    placed,
    move,
    named,
  }: { path: Path; field: string; placed: Placed; move: (piece: FieldPiece) => FieldPiece[]; named: Named },
): Field | undefined {
  const { pieces, words } = placed;
  const width = pieces.reduce((sum, each) => sum + each.high - each.low + 1, 0);
  const covered = new Set(pieces.flatMap((each) => Array.from({ length: each.high - each.low + 1 }, (_, at) => each.at + at)));
  if (placed.twice) return void report(reading, path, { code: 'field-twice', field: name });
  if (covered.size !== width || Math.max(...covered) !== width - 1)
    return void report(reading, path, { code: 'field-with-gaps', field: name });
  if (width > (reading.radix === 10 ? 9 : 32))
    return void report(reading, path, { code: 'field-too-wide', field: name, width, unit: unitOf(reading.radix) });
  // A field whose words cannot be read is there all the same: what names it is not told as well.
  const told = readWords(reading, { path, field: name, words, width }, named);
  return { name, width, pieces: pieces.flatMap(move), kind: 'unsigned', dropped: 0, bias: 0, page: false, ...told };
}

/** What the words behind a field belong to. */
interface FieldWords {
  readonly path: Path;
  readonly field: string;
  readonly words: readonly string[];
  readonly width: number;
}

/**
 * 'signed' | 'unsigned' | 'either' | 'scale' n | 'bias' n | 'register' (array | view) | 'names' (name '=' n)+ | 'condition'
 * | 'page' | 'from' ('here' | 'next') ('+' n)?
 */
function readWords(reading: DocumentReading, { path, field, words, width }: FieldWords, named: Named): Partial<Field> | undefined {
  const told: { -readonly [K in keyof Field]?: Field[K] } = {};
  const bad = (word: string): undefined => void report(reading, path, { code: 'bad-field-word', field, word });
  for (let at = 0; at < words.length; at++) {
    const word = itemAt(words, at);
    const next = words[at + 1] ?? '';
    if (word === 'signed' || word === 'unsigned' || word === 'either') told.kind = word as FieldKind;
    else if (word === 'page') told.page = true;
    else if (word === 'bias' && /^\d{1,6}$/.test(next)) told.bias = Number(words[++at]);
    else if (word === 'scale' && /^\d{1,6}$/.test(next)) {
      const scale = Number(words[++at]);
      const dropped = digitsIn(scale, reading.radix) - 1;
      if (power(reading.radix, dropped) !== scale) return void report(reading, path, { code: 'bad-scale', scale, radix: reading.radix });
      told.dropped = dropped;
    } else if (word === 'register') {
      const lists = [...named.arrays, ...named.views];
      const names = lists.map((each) => each.name);
      const index = indexIn(reading, path, words[++at] ?? '', names, 'array');
      if (index === undefined) return undefined;
      Object.assign(told, registerNames(itemAt(lists, index), power(reading.radix, width)));
    } else if (word === 'names') {
      const from = at;
      const values = new Map<number, string[]>();
      for (let match = NAMED.exec(words[at + 1] ?? ''); match; match = NAMED.exec(words[++at + 1] ?? '')) {
        const value = readNumber(itemAt(match, 2));
        if (value === undefined || value >= power(reading.radix, width)) return bad(itemAt(words, at + 1));
        values.set(value, [...(values.get(value) ?? []), itemAt(match, 1)]);
      }
      const all = [...values.values()].flat();
      if (at === from || new Set(all.map((each) => each.toUpperCase())).size < all.length) return bad(`names ${words[from + 1] ?? ''}`);
      Object.assign(told, { names: values, named: values.size < power(reading.radix, width) });
    } else if (word === 'condition') {
      const fits = named.conditions.filter((each) => each.code < power(reading.radix, width));
      if (named.conditions.length === 0) return void report(reading, path, { code: 'no-conditions', field });
      if (fits.length === 0) return void report(reading, path, { code: 'no-condition-fits', field, width, unit: unitOf(reading.radix) });
      const names = new Map(fits.map((each) => [each.code, each.names]));
      Object.assign(told, { names, condition: true, named: names.size < power(reading.radix, width) });
    } else if (word === 'from') {
      const base = /^(here|next)(?:\+(\d{1,4}))?$/.exec(words[++at] ?? '');
      if (!base) return bad(`from ${words[at] ?? ''}`);
      told.relative = { from: base[1] as 'here' | 'next', plus: Number(base[2] ?? 0) };
      told.kind ??= 'signed';
    } else return bad(word);
  }
  return told;
}

/** up=1: a name of a value. */
const NAMED = /^([A-Za-z][A-Za-z0-9_]*)=(\w+)$/;

/** How the registers of an array or a view are written; of an array without names of its own every number is let in. */
function registerNames(list: RegisterArray | View, values: number): Partial<Field> {
  const all = 'names' in list ? list.names : list.options.map((each) => each?.names);
  const names = new Map(all.flatMap((each, number) => (each && number < values ? [[number, each] as const] : [])));
  const some = 'options' in list || list.named;
  return { array: list.name, names, ...(some && names.size < values && { named: true }) };
}

/** The value of a field in a tick: its digits in the instruction registers, zeros and bias put back. */
export function fieldValue(
  field: Field,
  format: Format,
  slots: readonly Slice[],
  { cellWidth, radix }: { cellWidth: number; radix: number },
): Expr | undefined {
  const runs: Slice[] = [];
  for (const piece of field.pieces.toSorted((a, b) => b.at - a.at)) {
    for (let to = piece.high; to >= piece.low;) {
      const cell = format.cells - 1 - Math.floor(to / cellWidth);
      const from = Math.max(piece.low, to - (to % cellWidth));
      const slot = slots[cell];
      if (!slot) return undefined;
      addRun(runs, { register: slot.register, high: slot.low + (to % cellWidth), low: slot.low + (from % cellWidth) });
      to = from - 1;
    }
  }
  const { name, width, dropped, bias } = field;
  const [only, more] = runs as [Slice, Slice | undefined];
  if (!more && dropped === 0 && bias === 0) return { kind: 'slice', ...only, width, name, field: true };
  const parts = runs.map((each): Expr => ({ kind: 'slice', ...each, width: each.high - each.low + 1, name, field: true }));
  const zeros: Expr[] = dropped > 0 ? [{ kind: 'literal', value: 0, width: dropped }] : [];
  let operand: Expr = { kind: 'join', parts: [...parts, ...zeros], width: width + dropped };
  if (bias > 0) {
    const wide = Math.max(operand.width, digitsIn(rangeOf(field, radix).greatest, radix));
    const widened: Expr = { kind: 'resize', operand, signed: field.kind === 'signed', width: wide };
    operand = {
      kind: 'binary',
      operator: '+',
      left: widened,
      right: { kind: 'literal', value: bias, width: wide },
      width: wide,
      signed: false,
    };
  }
  return { kind: 'field', name, register: only.register, operand, width: operand.width };
}

/** Neighbouring digits of one register stay one run. */
function addRun(runs: Slice[], run: Slice): void {
  const last = runs.at(-1);
  if (last?.register === run.register && last.low === run.high + 1) runs[runs.length - 1] = { ...last, low: run.low };
  else runs.push(run);
}

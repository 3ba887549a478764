/** A machine's written forms as the assembler matches them: marks, holes for values, holes for register names. */
import { encodeWith, fixedCells, nameIn } from '../../machine/model/encode';
import type { Field, Form, Machine, Piece, ShortForm } from '../../machine/model/machine';
import type { AssemblyProblem } from '../problems';
import { DECIMAL } from '../../text/number';
import { readExpression, type Expression } from '../read/expressions';
import { tokenizeLine } from '../read/tokenize';
import type { Reader, Token } from '../read/tokens';
import { areAlike, namesMark } from '../../machine/model/shapes';
import { spellingsOf } from '../../machine/model/spellings';
import { evaluate } from './values';
import { find, type Placement } from './assembly';
import { trapNamed } from './names';
import { effectsOf } from '../../machine/model/effects';
import { itemAt } from '../../text/itemAt';
import { perMachine } from '../../machine/model/perMachine';

/** A hole for a value, for a name of one, or (in short forms) for any text. */
export type Hole = { readonly field: Field } | { readonly any: string };

/** A written form as tokens: literal text in capitals, or a hole. */
export interface Template {
  readonly form: Form;
  readonly pieces: readonly (string | Hole)[];
  /** Literal tokens that follow each hole. */
  readonly stops: readonly (readonly string[])[];
  /** Fields whose values the operation itself names. */
  readonly settles: readonly NamedOperand[];
  /** Longer forms that are written alike and come into question where a value does not fit, shortest first. */
  readonly longer: readonly Template[];
  /** One of those, with holes for the same: whoever tells of written forms need not tell of its own. */
  readonly repeats: boolean;
  /** Of a form without any hole: what every line of it means; for whoever matches it. */
  found: object | undefined;
}

export interface ShortTemplate {
  readonly form: ShortForm;
  readonly pieces: readonly (string | Hole)[];
  readonly stops: readonly (readonly string[])[];
  /** Its lines as tokens; a hole is a name between braces. */
  readonly lines: readonly (readonly Token[])[];
}

export interface Templates {
  readonly mnemonics: ReadonlySet<string>;
  readonly forms: ReadonlyMap<string, readonly Template[]>;
  readonly shorts: ReadonlyMap<string, readonly ShortTemplate[]>;
  /** Register names that operands can be, in capitals. */
  readonly registers: ReadonlySet<string>;
  /** By field: the names of its values, in capitals. */
  readonly named: ReadonlyMap<Field, ReadonlyMap<string, number>>;
  /** Registers by number: of an array, its name in capitals, what each is called. */
  readonly arrays: ReadonlyMap<string, readonly string[]>;
}

/** The written forms of a machine by their first word, found once for each machine. */
export const templatesOf = perMachine(makeTemplates);

function makeTemplates(machine: Machine): Templates {
  const forms = new Map<string, Template[]>();
  for (const form of machine.forms) {
    for (const { operation, settles, rest } of spellingsOf(form)) {
      const key = operation.toUpperCase();
      const pieces = piecesOf('', rest, (name) => ({ field: form.operands.find((each) => each.name === name)! }));
      const own = forms.get(key) ?? [];
      const settled = settles.map(({ field, value }) => ({ field, named: value }));
      const shorter = own.filter((each) => each.settles.length === settled.length && areAlike(each.form, form));
      const repeats = shorter.some((each) => shapeOf(each.pieces) === shapeOf(pieces));
      const made: Template = { form, pieces, stops: stopsOf(pieces), longer: [], repeats, settles: settled, found: undefined };
      shorter.forEach((each) => (each.longer as Template[]).push(made));
      own.push(made);
      forms.set(key, own);
    }
  }
  const shorts = new Map<string, ShortTemplate[]>();
  for (const form of machine.shortForms) {
    const key = form.mnemonic.toUpperCase();
    const pieces = piecesOf(form.mnemonic, form.pieces, (name) => ({ any: name }));
    const lines = form.lines.map((line) => tokenizeLine(line, 0, DECIMAL, []));
    shorts.set(key, [...(shorts.get(key) ?? []), { form, pieces, stops: stopsOf(pieces), lines }]);
  }
  // With brackets in values, (address) would be an address too, and a name a label: forms with more marks, or names, are tried first.
  for (const own of [...forms.values(), ...shorts.values()])
    own.sort((a, b) => marksIn(b.pieces) - marksIn(a.pieces) || namesIn(b.pieces) - namesIn(a.pieces));
  const fields = machine.formats.flatMap((each) => each.fields).filter((each) => each.names);
  const named = new Map(fields.map((field) => [field, namesOf(field)]));
  const registers = new Set(fields.filter((each) => each.array !== undefined).flatMap((each) => [...namesOf(each).keys()]));
  const arrays = new Map(machine.arrays.map(({ name, names }) => [name.toUpperCase(), names.map((each) => itemAt(each, 0).toUpperCase())]));
  return { mnemonics: new Set([...forms.keys(), ...shorts.keys()]), forms, shorts, registers, named, arrays };
}

const namesOf = ({ names = new Map() }: Field): Map<string, number> =>
  new Map([...names].flatMap(([value, list]) => list.map((name): [string, number] => [name.toUpperCase(), value])));

const marksIn = (pieces: readonly (string | Hole)[]): number => pieces.filter((each) => typeof each === 'string').length;

const namesIn = (pieces: readonly (string | Hole)[]): number =>
  pieces.filter((each) => typeof each !== 'string' && 'field' in each && each.field.names).length;

const shapeOf = (pieces: readonly (string | Hole)[]): string =>
  pieces.map((each) => (typeof each === 'string' ? each : `{${'field' in each ? namesMark(each.field) : ''}}`)).join(' ');

function piecesOf(mnemonic: string, pieces: readonly Piece[], hole: (name: string) => Hole): (string | Hole)[] {
  return pieces.flatMap((piece, index): (string | Hole)[] => {
    if ('field' in piece) return [hole(piece.field)];
    const text = index === 0 ? piece.text.slice(mnemonic.length) : piece.text;
    const tokens = tokenizeLine(text, 0, DECIMAL, []).filter((each) => each.kind !== 'end');
    return tokens.map((each) => each.key);
  });
}

/** By piece: the literal tokens that follow it, up to the next hole. */
export function stopsOf(pieces: readonly (string | Hole)[]): string[][] {
  return pieces.map((_, at) => {
    const rest = pieces.slice(at + 1);
    const next = rest.findIndex((each) => typeof each !== 'string');
    return rest.slice(0, next === -1 ? rest.length : next) as string[];
  });
}

/** A value that is written by its name. */
export interface NamedOperand {
  readonly field: Field;
  readonly named: number;
}

export type Operand =
  | { readonly field: Field; readonly expression: Expression }
  | NamedOperand
  | { readonly any: string; readonly tokens: readonly Token[] };

/**
 * The operands where what the reader stands before has the shape of the form, else undefined. Values are not looked at. With
 * `inline` more may follow; the reader is left before it.
 */
export function matchOperands(
  templates: Templates,
  reader: Reader,
  { pieces, stops }: Pick<Template, 'pieces' | 'stops'>,
  inline = false,
): readonly Operand[] | undefined {
  let operands = NO_OPERANDS;
  for (let at = 0; at < pieces.length; at++) {
    const piece = pieces[at]!;
    if (typeof piece === 'string') {
      if (reader.word().key !== piece) return undefined;
      reader.at++;
      continue;
    }
    const operand = readOperand(templates, reader, piece, stops[at]!);
    if (!operand) return undefined;
    operands = operands.length === 0 ? [operand] : [...operands, operand];
  }
  return inline || reader.isAtEnd ? operands : undefined;
}

const NO_OPERANDS: readonly Operand[] = [];

function readOperand(templates: Templates, reader: Reader, hole: Hole, stop: readonly string[]): Operand | undefined {
  const from = reader.at;
  const word = reader.word();
  const register = word.kind === 'name' && templates.registers.has(word.key);
  if ('any' in hole) {
    if (register) reader.at++;
    else if (!readExpression(reader, null, stop)) return undefined;
    return { any: hole.any, tokens: reader.tokensFrom(from) };
  }
  const { field } = hole;
  const names = templates.named.get(field);
  if (names) {
    const named = word.kind === 'name' ? (names.get(word.key) ?? elementIn(templates.arrays, reader, names)) : undefined;
    if (named === undefined) return undefined;
    reader.at++;
    return { field, named };
  }
  const expression = register ? undefined : readExpression(reader, null, stop);
  return expression && { field, expression };
}

/** “R[3]”: a register that the field can name, by its number in an array; the reader is left at the closing bracket. */
function elementIn(arrays: Templates['arrays'], reader: Reader, names: ReadonlyMap<string, number>): number | undefined {
  const number = reader.word(2).value;
  if (reader.word(1).text !== '[' || reader.word(3).text !== ']' || number === undefined) return undefined;
  const value = names.get(arrays.get(reader.word().key)?.[number] ?? '');
  if (value !== undefined) reader.at += 3;
  return value;
}

/** What is wrong with a value where the shape is right otherwise. */
export function badValueIn(reader: Reader, { pieces, stops }: Pick<Template, 'pieces' | 'stops'>): AssemblyProblem | undefined {
  const problems: AssemblyProblem[] = [];
  const fits = pieces.every((piece, at) => {
    if (typeof piece !== 'string' && !('field' in piece && piece.field.names))
      return readExpression(reader, problems, itemAt(stops, at)) !== undefined;
    const word = reader.word();
    reader.at++;
    return typeof piece === 'string' ? word.key === piece : word.kind === 'name';
  });
  return fits ? undefined : problems.find((each) => BAD_VALUES.has(each.code));
}
const BAD_VALUES: ReadonlySet<string> = new Set(['bad-number', 'bracket-open', 'value-too-long']);

/** What stands in the holes of a form, `settled` of them in the operation, as operands of a longer one that is written alike; undefined where that has no such name. */
export function operandsOfLonger(
  { pieces, settles }: Template,
  operands: readonly Operand[],
  settled: number,
): readonly Operand[] | undefined {
  const holes = pieces.filter((each): each is { readonly field: Field } => typeof each !== 'string' && 'field' in each);
  const list: Operand[] = [...settles];
  for (let at = settled; at < operands.length; at++) {
    const operand = itemAt(operands, at);
    const { field } = itemAt(holes, at - settled);
    if ('any' in operand) return undefined;
    if ('expression' in operand) {
      list.push({ field, expression: operand.expression });
      continue;
    }
    const word = nameIn(operand.field, operand.named)?.toUpperCase();
    const named = [...(field.names ?? [])].find(([, names]) => names.some((each) => each.toUpperCase() === word))?.[0];
    if (named === undefined) return undefined;
    list.push({ field, named });
  }
  return list;
}

/** Where a trap is asked for, its name means the trap, even where the program has called something else like that. */
function shadowedTrap(
  placement: Placement,
  form: Form,
  { field, expression }: Extract<Operand, { readonly expression: Expression }>,
): number | undefined {
  if (expression.kind !== 'name' || !effectsOf(placement.machine, form).requestFields.has(field.name)) return undefined;
  const own = find(placement, expression, placement.scope);
  return own && own.kind !== 'machine' ? trapNamed(placement, expression) : undefined;
}

/** The cells of an instruction at an address; values that do not fit are told as problems. */
export function encodeOperands(
  placement: Placement,
  form: Form,
  operands: readonly Operand[],
  address: number,
): readonly number[] | undefined {
  if (form.operands.length === 0) return fixedCells(placement.machine, form);
  const values: (number | undefined)[] = form.operands.map(() => undefined);
  let complete = true;
  for (const operand of operands) {
    if ('any' in operand) continue;
    const value = 'named' in operand ? operand.named : (shadowedTrap(placement, form, operand) ?? evaluate(placement, operand.expression));
    if (value === undefined) complete = false;
    const at = form.operands.indexOf(operand.field);
    // The first of several counts.
    values[at] ??= value;
  }
  if (!complete) return undefined;
  const encoded = encodeWith(placement.machine, form, values, address);
  if ('cells' in encoded) return encoded.cells;
  const { refused } = encoded;
  if (!('field' in refused)) return undefined;
  const operand = operands.find((each) => 'field' in each && each.field.name === refused.field.name);
  const span = operand && 'expression' in operand ? operand.expression.span : { start: 0, end: 1 };
  const what = `the field ${refused.field.name} of ${form.mnemonic}`;
  if (refused.reason === 'not a multiple') {
    placement.problems.push({ code: 'not-a-multiple', grade: 'error', span, value: refused.value, of: refused.of, what });
  } else {
    const { value, least, greatest } = refused;
    const code = refused.reason === 'other page' ? 'other-page' : 'value-out-of-range';
    placement.problems.push({ code, grade: 'error', span, value, least, greatest, what });
  }
  return undefined;
}

/** The instruction in hand as its fields: which digits of which cell are what, and what each says; cells not yet fetched are gaps. */
import { fieldTold, instructionAt } from '../engine/tell/names';
import type { Telling } from '../engine/tell/narrate';
import type { Runner } from '../engine/control/runner';
import { indexOf } from '../image/program';
import { NEVER } from '../engine/meaning/state';
import { decode } from '../machine/model/encode';
import { programSpaceOf, type Field, type FieldPiece, type Form, type Machine, type ScheduledTick } from '../machine/model/machine';
import { itemAt } from '../text/itemAt';
import { digitsAt, power, shownDigits, signedReading } from '../text/number';

/** Some digits beside each other that mean one thing, from left to right. */
export interface HandField {
  /** Of the field; of digits that no field has, what they have to be. */
  readonly name: string;
  readonly kind: 'code' | 'operand' | 'unused' | 'gap';
  /** How many digits of the machine. */
  readonly width: number;
  /** In the machine's base; empty for a gap. */
  readonly digits: string;
  /** In binary; empty on decimal machines and for a gap. */
  readonly bits: string;
  /** “ADD”, “d = R2”, “place = −3 → 0x010D level”; empty where it says nothing of its own. */
  readonly says: string;
}

export interface InHand {
  /** As a program writes it; empty until it is decoded. */
  readonly text: string;
  readonly fields: readonly HandField[];
}

/** Undefined before the first instruction. */
export function inHand(telling: Telling, runner: Runner): InHand | undefined {
  const { machine, program, state } = telling;
  const { control } = state;
  if (control.here < 0) return undefined;
  const form = formInHand(runner);
  const fetched = fetchedCells(runner, form);
  const cells = itemAt(state.spaces, machine.programSpace);
  if (!form) return { text: '', fields: undecoded(machine, fetched > 0 ? cells[control.here] : undefined) };
  const decoded = decode(machine, (offset) => cells[control.here + offset], control.here);
  if ('refused' in decoded || decoded.form !== form) return undefined;
  const text = instructionAt(machine, program, state, control.here) ?? form.mnemonic;
  const read = Array.from({ length: form.format.cells }, (_, offset) => cells[control.here + offset] ?? 0);
  const values = new Map(decoded.operands.map(({ field, value }) => [field.name, value]));
  return { text, fields: fieldsOf({ telling, form, read, values, text }, fetched) };
}

/** The same of any instruction in memory, all its cells there: the one that a cell belongs to; undefined where it is none. */
export function rulerAt({ machine, program, state }: Telling, address: number): InHand | undefined {
  const row = program && indexOf(program).rowAt.get(address);
  if (row && row.kind !== 'code') return undefined;
  const from = row?.address ?? address;
  const cells = itemAt(state.spaces, machine.programSpace);
  if (!row && state.marks[machine.programSpace]![address] === NEVER) return undefined;
  const decoded = decode(machine, (offset) => cells[from + offset], from);
  if ('refused' in decoded) return undefined;
  const { form } = decoded;
  const text = instructionAt(machine, program, state, from) ?? form.mnemonic;
  const read = Array.from({ length: form.format.cells }, (_, offset) => cells[from + offset] ?? 0);
  const values = new Map(decoded.operands.map(({ field, value }) => [field.name, value]));
  return { text, fields: fieldsOf({ telling: { machine, program, state }, form, read, values, text }, form.format.cells) };
}

/** Of the instruction under way, or the one just done; undefined until it is decoded. */
export function formInHand({ machine, state, timeline }: Runner): Form | undefined {
  if (state.control.step > 0) return state.control.form;
  return timeline.last?.form === undefined ? undefined : machine.forms[timeline.last.form];
}

/** How many of its cells have come after the first ticks of its schedule; each further cell takes as many as the others. */
export function fetchedCells({ machine, state }: Runner, form: Form | undefined): number {
  const { step } = state.control;
  const cells = form?.format.cells ?? 1;
  if (step === 0) return cells;
  const schedule = form?.schedule ?? machine.opening;
  const count = (ticks: readonly ScheduledTick[], part: ScheduledTick['part']): number => ticks.filter((each) => each.part === part).length;
  if (step < count(schedule, 'first')) return 0;
  const more = count(schedule, 'more');
  if (more === 0) return cells;
  return 1 + Math.floor((count(schedule.slice(0, step), 'more') * (cells - 1)) / more);
}

/** Whether all digits of a field, or of a piece of one, lie in the first so many cells. */
export const isFetched = (machine: Machine, { format }: Form, pieces: readonly FieldPiece[], fetched: number): boolean =>
  pieces.every(({ low }) => format.cells - 1 - Math.floor(low / programSpaceOf(machine).width) < fetched);

function undecoded(machine: Machine, cell: number | undefined): HandField[] {
  const { width } = programSpaceOf(machine);
  if (cell === undefined) return [gap(width)];
  return [{ name: 'not decoded yet', kind: 'unused', width, ...shownAs(machine, cell, width), says: '' }];
}

const gap = (width: number): HandField => ({ name: 'not fetched yet', kind: 'gap', width, digits: '', bits: '', says: '' });

const shownAs = (machine: Machine, value: number, width: number): Pick<HandField, 'digits' | 'bits'> => ({
  digits: shownDigits(value, width, machine),
  bits: machine.radix === 2 ? value.toString(2).padStart(width, '0') : '',
});

interface Read {
  readonly telling: Telling;
  readonly form: Form;
  /** Its cells, the first first. */
  readonly read: readonly number[];
  /** Of its operands. */
  readonly values: ReadonlyMap<string, number>;
  readonly text: string;
}

function fieldsOf(instruction: Read, fetched: number): HandField[] {
  const { telling, form, read } = instruction;
  const { machine } = telling;
  const { width } = programSpaceOf(machine);
  const pieces: { readonly piece: FieldPiece; readonly field?: Field }[] = [
    ...form.format.fields.flatMap((field) => field.pieces.map((piece) => ({ piece, field }))),
    ...form.format.zeros.map((piece) => ({ piece })),
  ];
  pieces.sort((a, b) => b.piece.high - a.piece.high);
  const told = new Set<string>();
  return pieces.map(({ piece, field }): HandField => {
    const size = piece.high - piece.low + 1;
    if (!isFetched(machine, form, [piece], fetched)) return gap(size);
    const shown = shownAs(machine, valueOf(read, piece, width, machine.radix), size);
    const fixed = form.fixed.some((each) => each.field === field);
    const whole = field !== undefined && isFetched(machine, form, field.pieces, fetched);
    const first = whole && !told.has(field.name);
    if (field) told.add(field.name);
    return {
      ...{ name: field?.name ?? 'zero', kind: field === undefined ? 'unused' : fixed ? 'code' : 'operand', width: size, ...shown },
      says: field && first ? saysOf(instruction, field, fixed) : '',
    };
  });
}

/** Some digits of cells behind each other. */
function valueOf(cells: readonly number[], { high, low }: FieldPiece, width: number, radix: number): number {
  let value = 0;
  for (let digit = high; digit >= low; digit--) {
    const cell = itemAt(cells, cells.length - 1 - Math.floor(digit / width));
    value = value * radix + digitsAt(cell, digit % width, 1, radix);
  }
  return value;
}

/** What lies at an address, in each memory that has a name for it; the program's first. */
function labelsAt({ machine, program }: Telling, address: number): string[] {
  if (!program) return [];
  const others = machine.spaces.flatMap((_, space) => (space === machine.programSpace ? [] : [space]));
  return [undefined, ...others].flatMap((space) => indexOf(program).labelIn(space, address) ?? []);
}

function saysOf({ telling, form, read, values, text }: Read, field: Field, fixed: boolean): string {
  const { machine } = telling;
  if (fixed) return form.fixed[0]?.field === field ? form.mnemonic : '';
  const value = values.get(field.name);
  if (value === undefined) return '';
  const labels = field.names === undefined ? labelsAt(telling, value) : [];
  // A number that happens to be the place of something is not called so.
  const label = labels.find((each) => new RegExp(`(?<![\\w.])${each.replace(/[^\w]/g, '\\$&')}(?!\\w)`, 'i').test(text));
  const named = label === undefined ? '' : ` ${label}`;
  if (!field.relative) return `${field.name} = ${fieldTold(machine, field, value)}${named}`;
  const { width } = programSpaceOf(machine);
  const raw = field.pieces.reduce((sum, each) => sum + valueOf(read, each, width, machine.radix) * power(machine.radix, each.at), 0);
  const distance = String(signedReading(raw, field.width, machine.radix)).replace('-', '−');
  return `${field.name} = ${distance} → ${fieldTold(machine, field, value)}${named}`;
}

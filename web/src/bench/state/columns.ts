/** Which readings of the registers stand beside each other; chosen by people, remembered. */
import { create } from 'zustand';
import { keep, keptValue } from '../../app/preferences';
import type { Machine } from '@zettak/core/machine/model/machine';
import { servicesWith } from '@zettak/core/machine/model/registerUse';
import { BASE_WORDS, binaryDigits, characterOf, shownDigits, signedReading } from '@zettak/core/text/number';

export const COLUMNS = ['own', 'unsigned', 'signed', 'bits', 'character', 'before', 'start'] as const;
export type Column = (typeof COLUMNS)[number];

const KEPT = 'register-columns';
const USUAL: readonly Column[] = ['own', 'unsigned', 'signed'];

function keptColumns(): readonly Column[] {
  const found = keptValue(KEPT);
  const list = Array.isArray(found) ? COLUMNS.filter((each) => (found as unknown[]).includes(each)) : [];
  return list.length > 0 ? list : USUAL;
}

export const useColumns = create<{ readonly chosen: readonly Column[] }>()(() => ({ chosen: keptColumns() }));

/** One stands there in any case. */
export function turnColumn(column: Column): void {
  const { chosen } = useColumns.getState();
  const next = chosen.includes(column)
    ? chosen.filter((each) => each !== column)
    : COLUMNS.filter((each) => each === column || chosen.includes(each));
  if (next.length === 0) return;
  useColumns.setState({ chosen: next });
  keep(KEPT, JSON.stringify(next));
}

/** Those that say something of a machine: what its own base says already is left out. */
export const columnsOf = ({ radix, base }: Machine, chosen: readonly Column[]): readonly Column[] =>
  chosen.filter(
    (each) =>
      !(radix === 10 && (each === 'unsigned' || each === 'bits')) &&
      !(base === 10 && each === 'unsigned') &&
      !(base === 2 && each === 'bits'),
  );

/** What stands at its head. */
export function headOf(column: Column, { radix, base }: Machine): string {
  switch (column) {
    case 'own':
      return radix === 10 ? 'digits' : BASE_WORDS[base];
    case 'unsigned':
      return 'dec';
    case 'signed':
    case 'bits':
      return column;
    case 'character':
      return 'char';
    case 'before':
      return 'before';
    case 'start':
      return 'at start';
    default:
      return column satisfies never;
  }
}

/** What is told of a column when somebody chooses. */
export const COLUMN_WORDS: Readonly<Record<Column, string>> = {
  own: 'in the machine’s base',
  unsigned: 'as a number without a sign',
  signed: 'as a number with a sign',
  bits: 'bit by bit',
  character: 'as a character',
  before: 'before this instruction',
  start: 'when the run began',
};

export interface Shown {
  readonly value: number;
  readonly width: number;
  /** Before the instruction that is shown, and when the run began; undefined for what is put together of others. */
  readonly before: number | undefined;
  readonly start: number | undefined;
  /** It holds an instruction, which is no number with a sign. */
  readonly instruction: boolean;
}

/** A value as a column has it. */
export function inColumn(column: Column, machine: Machine, { value, width, before, start, instruction }: Shown): string {
  const own = (each: number | undefined): string => (each === undefined ? '' : shownDigits(each, width, machine));
  switch (column) {
    case 'own':
      return own(value);
    case 'unsigned':
      return instruction ? '' : String(value);
    case 'signed':
      return instruction ? '' : String(signedReading(value, width, machine.radix)).replace('-', '−');
    case 'bits':
      return binaryDigits(value, width);
    case 'character':
      return instruction ? '' : (characterOf(value) ?? '·');
    case 'before':
      return own(before);
    case 'start':
      return own(start);
    default:
      return column satisfies never;
  }
}

/** px of a letter of the table, of one of its head, of what stands around a cell, and of the marks of services behind a name. */
const [LETTER, HEAD_LETTER, AROUND, MARKS] = [9, 7.5, 10, 23];
/** px of a panel as it usually is. */
const PANEL = 292;
/** Letters of a mnemonic, at most, that has room beside the program counter; of a number when room is short; of bits on one line. */
const [MNEMONIC, SHORT, BITS] = [6, 6, 9];

/** px that a column would have, and those that it does with: a value before goes above the one after, numbers and bits break. */
interface Room {
  readonly wanted: number;
  readonly least: number;
}

/**
 * Parts of the width, in percent, for the names and for each column: room for whatever may come to stand there, so that no column
 * moves from tick to tick. Where there is not enough, first the values before give way, then long numbers, then bits, then all alike. Pairs have what is there.
 */
export function widthsOf(machine: Machine, columns: readonly Column[]): readonly number[] {
  const longest = (texts: readonly string[]): number => Math.max(...texts.map((each) => each.length));
  const letters = (column: Column): number =>
    longest(
      machine.registers.flatMap(({ width }) => {
        const shown = { width, before: 0, start: 0, instruction: false };
        return [machine.radix ** width - 1, machine.radix ** width / 2].map((value) => inColumn(column, machine, { ...shown, value }));
      }),
    );
  const marks = (register: number): number => (Object.values(servicesWith(machine, register)).some((each) => each.length > 0) ? MARKS : 0);
  const own = machine.registers.map(({ name }, at) => name.length * LETTER + marks(at));
  // The first stands further from the edge, and the last.
  const names = Math.max(...own, ...machine.composites.map(({ name }) => name.length * LETTER)) + AROUND + 7;
  const rooms: Room[] = columns.map((column, place) => {
    const around = AROUND + (place === columns.length - 1 ? 7 : 0);
    const mnemonic = column === 'signed' ? Math.min(MNEMONIC, longest(machine.forms.map((each) => each.mnemonic))) : 0;
    const head = headOf(column, machine).length * HEAD_LETTER;
    const once = Math.max(Math.max(letters(column), mnemonic) * LETTER, head) + around;
    if (column === 'own') return { wanted: once + (letters(column) + 1) * LETTER, least: once };
    const at = (most: number): number => Math.min(once, most * LETTER + around);
    return column === 'bits' ? { wanted: at(BITS), least: at(4) } : { wanted: once, least: at(SHORT) };
  });
  let over = rooms.reduce((sum, each) => sum + each.wanted, names) - PANEL;
  const given = rooms.map((each) => each.wanted);
  for (const giving of ['own', 'unsigned', 'signed', 'before', 'start', 'bits'] as const) {
    const at = columns.indexOf(giving);
    if (at < 0) continue;
    const less = Math.max(0, Math.min(over, rooms[at]!.wanted - rooms[at]!.least));
    given[at]! -= less;
    over -= less;
  }
  const px = [names, ...given];
  const sum = px.reduce((before, each) => before + each, 0);
  return px.map((each) => (100 * each) / sum);
}

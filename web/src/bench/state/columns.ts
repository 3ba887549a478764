/** Which readings of the registers stand beside each other; chosen by people, remembered. */
import { create } from 'zustand';
import { keep, keptValue } from '../../app/preferences';
import type { Machine } from '@zettak/core/machine/model/machine';
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

/** px of a letter of the table, of one of its head, and of what stands around a cell. */
const [LETTER, HEAD_LETTER, AROUND] = [9, 7.5, 10];
/** Letters of a mnemonic, at most, that has room beside the program counter. */
const MNEMONIC = 6;

/**
 * Parts of the width, in percent, for the names and for each column: room for whatever may come to stand there, so that no column
 * moves from tick to tick.
 */
export function widthsOf(machine: Machine, columns: readonly Column[]): readonly number[] {
  const all = [...machine.registers, ...machine.composites];
  const longest = (texts: readonly string[]): number => Math.max(...texts.map((each) => each.length));
  const mnemonic = Math.min(MNEMONIC, longest(machine.forms.map((each) => each.mnemonic)));
  const letters = (column: Column): number => {
    const most = all.map(({ width }) => {
      const shown = { width, before: 0, start: 0, instruction: false };
      const extremes = [machine.radix ** width - 1, machine.radix ** width / 2];
      return longest(extremes.map((value) => inColumn(column, machine, { ...shown, value })));
    });
    // The value before stands beside the one after.
    return Math.max(...most) * (column === 'own' ? 2 : 1) + (column === 'own' ? 1 : 0);
  };
  const room = (column: Column): number =>
    Math.max(
      (column === 'signed' ? Math.max(mnemonic, letters(column)) : letters(column)) * LETTER,
      headOf(column, machine).length * HEAD_LETTER,
    );
  // Names stand further from the edge, and the services that use a register behind them; the last column, too.
  const px = [longest(all.map((each) => each.name)) * LETTER + 40, ...columns.map((each) => room(each) + AROUND)];
  px[px.length - 1]! += 7;
  const sum = px.reduce((before, each) => before + each, 0);
  return px.map((each) => (100 * each) / sum);
}

/** The columns of a window on memory. All are as wide as what they can hold, so that no row has to be measured against the others. */
import type { CSSProperties } from 'react';
import { placeDigits } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import { itemAt } from '@zettak/core/text/itemAt';
import { binaryDigits } from '@zettak/core/text/number';
import type { ValueBase } from '../looks';
import { lengthIn, NOTHING, showsBits, WITH_CHARACTERS } from './cells';

/** One, or several that are alike: what stands at their heads, and how many characters and px each is wide. */
export interface Columns {
  readonly id: string;
  readonly heads: readonly string[];
  readonly characters: number;
  readonly beside: number;
}

interface Shown {
  readonly space: number;
  readonly base: ValueBase;
  /** Cells that are one number: one or two. */
  readonly step: number;
}

/** Addresses of a memory, with that of the bank where there are several. */
export function addressColumn(machine: Machine, space: number): Columns {
  const { cells, banks } = itemAt(machine.spaces, space);
  const head = banks > 1 ? 'bank:cell' : 'cell';
  const last = placeDigits(machine, { space, address: cells * banks - 1 });
  return { id: 'place', heads: [head], characters: Math.max(head.length, last.length), beside: 16 };
}

const digitsOf = ({ radix }: Machine, width: number, base: ValueBase): number => Math.max(NOTHING.length, lengthIn(width, radix, base));

type Beside = Shown & { readonly perRow: number };

/** Cells beside each other, `perRow` of them, headed by what is added to the address of their row. */
export function cellColumns(machine: Machine, { space, base, step, perRow }: Beside): Columns {
  const { width } = itemAt(machine.spaces, space);
  const heads = Array.from({ length: perRow / step }, (_, at) => (at * step).toString(machine.radix === 10 ? 10 : 16).toUpperCase());
  const characters = Math.max(digitsOf(machine, step * width, base), heads.at(-1)!.length);
  return { id: 'cell', heads, characters, beside: 10 };
}

/** The same with addresses and, where cells are no wider than characters, what they are as such. */
export function gridColumns(machine: Machine, shown: Beside): readonly Columns[] {
  const { width } = itemAt(machine.spaces, shown.space);
  const cells = [addressColumn(machine, shown.space), cellColumns(machine, shown)];
  if (width > WITH_CHARACTERS || shown.base === 'char') return cells;
  // Names of control codes are small, and wider than a character.
  return [...cells, { id: 'characters', heads: ['characters'], characters: Math.max(10, Math.ceil(2.2 * shown.perRow)), beside: 17 }];
}

/** Of a cell in every reading, and its name. */
export function listColumns(
  machine: Machine,
  { space, base, step, labels }: Shown & { readonly labels: ReadonlyMap<number, string> | undefined },
): readonly Columns[] {
  const { radix } = machine;
  const width = step * itemAt(machine.spaces, space).width;
  const longest = String(radix ** width - 1).length;
  const column = (id: string, digits: number, head = id): Columns => {
    return { id, heads: [head], characters: Math.max(head.length, digits), beside: 20 };
  };
  return [
    addressColumn(machine, space),
    column('cell', digitsOf(machine, width, base), base === 'char' ? 'character' : base),
    column('unsigned', longest),
    column('signed', longest + 1),
    ...(showsBits(width, radix) ? [column('bits', binaryDigits(0, width).length)] : []),
    column('character', 1),
    column('name', Math.max(0, ...[...(labels?.values() ?? [])].map((each) => each.length))),
  ];
}

/** A length of each kind of column, by its name, and how wide all are together. */
export function widthsOf(columns: readonly Columns[]): CSSProperties {
  const each = columns.map(({ id, characters, beside }) => [`--${id}`, `calc(${characters}ch + ${beside}px)`] as const);
  const of = (what: 'characters' | 'beside'): number => columns.reduce((sum, column) => sum + column[what] * column.heads.length, 0);
  return { ...Object.fromEntries(each), minWidth: `calc(${of('characters')}ch + ${of('beside')}px)` };
}

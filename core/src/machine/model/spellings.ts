/** Ways to write the operation of a form: a hole in it stands for each name of its field. */
import { itemAt } from '../../text/itemAt';
import { apart } from './encode';
import type { Field, Form, Machine, Piece } from './machine';
import { alongForm } from './perMachine';

/** One way: the operation as a single word, the fields that it settles, and what is written behind it. */
export interface Spelling {
  readonly operation: string;
  readonly settles: readonly { readonly field: Field; readonly value: number }[];
  readonly rest: readonly Piece[];
  /** Made of first names only: what the disassembler writes. */
  readonly first: boolean;
}

/** Names of fields in an operation multiply; a form has so many spellings at most. */
export const MOST_SPELLINGS = 1024;

/** All spellings of a form, those of first names first; one where no name is part of the operation. */
export const spellingsOf = alongForm(findSpellings);

function findSpellings({ pieces, operands }: Form): readonly Spelling[] {
  let list: Spelling[] = [{ operation: '', settles: [], rest: [], first: true }];
  for (let at = 0; at < pieces.length; at++) {
    const piece = itemAt(pieces, at);
    if ('text' in piece) {
      const head = /^[\w.]*/.exec(piece.text)?.[0] ?? '';
      list = list.map((each) => ({ ...each, operation: each.operation + head }));
      if (head.length < piece.text.length) return behind(list, [{ text: piece.text.slice(head.length) }, ...pieces.slice(at + 1)]);
      continue;
    }
    const field = operands.find((each) => each.name === piece.field);
    if (!field?.names) return behind(list, pieces.slice(at));
    const ways = [...field.names].flatMap(([value, names]) => names.map((name, rank) => ({ field, value, name, first: rank === 0 })));
    list = list
      .flatMap((each) =>
        ways.map(({ name, first, ...settled }) => ({
          operation: name === '' ? each.operation.replace(/\.$/, '') : each.operation + name,
          settles: [...each.settles, settled],
          rest: [],
          first: each.first && first,
        })),
      )
      .slice(0, MOST_SPELLINGS);
  }
  return behind(list, []);
}

const behind = (list: readonly Spelling[], rest: readonly Piece[]): Spelling[] =>
  list.map((each) => ({ ...each, rest })).sort((a, b) => Number(b.first) - Number(a.first));

/** A form as people read it: holes without braces, but for names inside the operation, as “JUMP{c} address”. */
export function plainWritten({ pieces, operands }: Pick<Form, 'pieces' | 'operands'>): string {
  let inside = true;
  return pieces.reduce((text, piece) => {
    if ('text' in piece) {
      inside &&= !/[^\w.]/.test(piece.text);
      return text + piece.text;
    }
    inside &&= operands.find((each) => each.name === piece.field)?.names !== undefined;
    return text + (inside ? `{${piece.field}}` : apart(text, piece.field) + piece.field);
  }, '');
}

/** What one row of a card or a map stands for: each spelling of the operation in first names, and what its names mean. */
export interface SpelledAs {
  readonly operation: string;
  readonly means: string;
}

/** Empty where no name is part of the operation. */
export const spelledAs = (form: Form, { conditions }: Pick<Machine, 'conditions'>): SpelledAs[] =>
  spellingsOf(form).flatMap(({ operation, settles, first }) => {
    if (!first || settles.length === 0) return [];
    const means = settles.map(({ field, value }) => meaningOf(field, value, conditions)).filter((each) => each !== '');
    return [{ operation, means: means.join(', ') }];
  });

/** “zero: Z = 1” of a condition; nothing of a name that says enough. */
export function meaningOf(field: Field, value: number, conditions: Machine['conditions']): string {
  const found = field.condition ? conditions.find((each) => each.code === value) : undefined;
  if (!found) return '';
  return found.title && found.text !== 'always' ? `${found.title}: ${found.text}` : found.title || found.text;
}

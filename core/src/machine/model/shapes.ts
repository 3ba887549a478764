/** What the assembler sees of a written form: marks, and holes for values or for names. */
import type { Field, Form, Piece } from './machine';
import { alongForm } from './perMachine';

/** The fields of a form in the order in which it is written. */
export const holesOf = alongForm(({ pieces, operands }: Form): readonly Field[] =>
  pieces.flatMap((piece) => ('text' in piece ? [] : operands.filter((each) => each.name === piece.field))),
);

/** Its marks, in capitals and without blanks that mean nothing; a hole is what `mark` says of its field, between braces. */
export function shapeOf(pieces: readonly Piece[], mark: (field: string) => string): string {
  const text = pieces.map((each) => ('text' in each ? each.text : `{${mark(each.field)}}`)).join('');
  return text
    .replace(/\s+/g, ' ')
    .replace(/ ?([^\w ]) ?/g, '$1')
    .toUpperCase();
}

/** A shape in which holes that take names are told from those that take values. */
export const outlineOf = alongForm(({ pieces, operands }: Form) =>
  shapeOf(pieces, (name) => (operands.find((each) => each.name === name)?.names ? '=' : '')),
);

/** What tells a hole that takes names from others: the registers that it names, or the names themselves. */
export const namesMark = ({ array, names }: Pick<Field, 'array' | 'names'>): string =>
  array ?? [...(names?.values() ?? [])].map((each) => each.join('/')).join();

/** Whether one line can be either: marks and holes are alike, and holes for names have one in common. */
export const areAlike = (one: Form, other: Form): boolean =>
  outlineOf(one) === outlineOf(other) && shareNames(holesOf(one), holesOf(other));

/** The same of fields, one after the other. */
const shareNames = (own: readonly Field[], others: readonly Field[]): boolean =>
  own.every(({ names }, at) => {
    if (!names) return true;
    const theirs = wordsOf(others[at]);
    return [...wordsOf({ names })].some((each) => theirs.has(each));
  });

const wordsOf = (field: Pick<Field, 'names'> | undefined): ReadonlySet<string> =>
  new Set([...(field?.names?.values() ?? [])].flat().map((each) => each.toUpperCase()));

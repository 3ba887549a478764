/** The directives: how each is written and what it does. From this table come matching, help and completion. */
export interface Directive {
  readonly name: string;
  readonly written: string;
  readonly does: string;
}

export const DIRECTIVES: readonly Directive[] = [
  { name: '.origin', written: '.origin 0x40', does: 'what follows lies from this address on' },
  { name: '.start', written: '.start name', does: 'the program starts there; without it, at its first instruction' },
  { name: '.cells', written: '.cells 1, 0x2F, "text"', does: 'one cell for each value and each character' },
  { name: '.text', written: '.text "High tide", 0', does: 'one cell for each character and each value' },
  { name: '.string', written: '.string "High tide"', does: 'a text with the mark that tells this machine where it ends' },
  { name: '.room', written: '.room 4', does: 'keeps cells free; nothing is written to them' },
  { name: '.fill', written: '.fill 4, 0xFF', does: 'so many cells, all with this value' },
  { name: '.align', written: '.align 4', does: 'goes on at the next multiple' },
  { name: '.space', written: '.space DATA, 1', does: 'what follows lies in this memory, and in this bank of it' },
  { name: '.routine', written: '.routine average', does: 'a routine begins; labels inside it are its own' },
  { name: '.end', written: '.end', does: 'the routine ends' },
  { name: '.input', written: '.input level, decimal, "cm"', does: 'a place that takes what the program is given' },
  { name: '.output', written: '.output highest, decimal, "cm"', does: 'a place with what the program finds' },
  { name: '.include', written: '.include "averages"', does: 'takes in a part that is kept with the course' },
  { name: '.base', written: '.base 16', does: 'from here on numbers without a mark are read in this base: 2, 8, 10 or 16' },
  { name: '.case', written: '.case exact', does: 'names in capital and small letters are different names; “same” is the custom' },
];

export const DIRECTIVE_NAMES: readonly string[] = DIRECTIVES.map((each) => each.name);
const known: ReadonlySet<string> = new Set(DIRECTIVE_NAMES);
/** Whether a word with its dot is a directive, in capitals or not. */
export const isDirective = (name: string): boolean => known.has(name);

/** Bases in which declared inputs and outputs are shown. */
export const VALUE_BASES = ['decimal', 'signed', 'hex', 'binary', 'octal', 'character'] as const;
export type ValueBase = (typeof VALUE_BASES)[number];

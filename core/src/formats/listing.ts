/** The listing: each source line with its address and words, as data and as text; the symbol table with its uses. */
import type { Program, ProgramSymbol, Row } from '../image/program';
import type { Machine } from '../machine/model/machine';
import { digitsIn, shownDigits } from '../text/number';
import { itemAt } from '../text/itemAt';

export interface ListingLine {
  /** Counts from 1, in the program or in the part. */
  readonly line: number;
  readonly part?: string;
  readonly kind: Row['kind'];
  readonly space: number;
  /** Within its bank. */
  readonly address?: number;
  readonly bank: number;
  readonly words: readonly number[];
  readonly source: string;
  readonly routine?: string;
  /** The line is the first, or the last, of a routine. */
  readonly border?: 'begin' | 'end';
  /** What a short form stands for. */
  readonly expanded: readonly { readonly address: number; readonly words: readonly number[]; readonly text: string }[];
}

/** Lines of the program; those of a part behind the line that takes it in. */
export function listingOf(machine: Machine, program: Program): ListingLine[] {
  const begins = new Map(program.routines.map((each) => [`${each.part ?? ''}:${each.line}`, each]));
  const ends = new Map(program.routines.map((each) => [`${each.part ?? ''}:${each.end}`, each]));
  const lineOf = (row: Row, source: string): ListingLine => {
    const space = row.space ?? machine.programSpace;
    const { cells } = itemAt(machine.spaces, space);
    const key = `${row.part ?? ''}:${row.line}`;
    const border = begins.has(key) ? ('begin' as const) : ends.has(key) ? ('end' as const) : undefined;
    const routine = row.routine ?? (begins.get(key) ?? ends.get(key))?.name;
    return {
      line: row.line,
      kind: row.kind,
      space,
      bank: Math.floor((row.address ?? 0) / cells),
      words: row.words,
      source,
      expanded: row.expanded ?? [],
      ...(row.part !== undefined && { part: row.part }),
      ...(row.address !== undefined && { address: row.address % cells }),
      ...(routine !== undefined && { routine }),
      ...(border && { border }),
    };
  };
  const linesOf = (rows: readonly Row[], source: string): ListingLine[] => {
    const texts = source.split('\n');
    return rows.map((row) => lineOf(row, (texts[row.line - 1] ?? '').trimEnd()));
  };
  const own = linesOf(program.rows, program.source);
  return own.flatMap((line) => [
    line,
    ...program.parts.filter((each) => each.line === line.line).flatMap((each) => linesOf(each.rows, each.source)),
  ]);
}

export type ListingLayout = 'instruction' | 'cell';

const MOST_WORDS = 8;

/** One row an instruction, or one row a cell; numbers in hexadecimal where digits are bits. */
export function listingText(machine: Machine, program: Program, layout: ListingLayout = 'instruction'): string {
  const lines = listingOf(machine, program);
  const several = machine.spaces.length > 1;
  const address = (line: ListingLine, offset: number): string => {
    const { name, addressWidth, banks } = itemAt(machine.spaces, line.space);
    const bank = banks > 1 ? `${line.bank}:` : '';
    return `${several ? `${name} ` : ''}${bank}${shownDigits(line.address! + offset, addressWidth, machine)}`;
  };
  const wordsText = (line: ListingLine, words: readonly number[]): string =>
    words.map((each) => shownDigits(each, itemAt(machine.spaces, line.space).width, machine)).join(' ');
  const rows: (readonly [place: string, words: string, line: string, source: string])[] = [];
  const numbers = Math.max(...lines.map((each) => String(each.line).length), 1);
  for (const line of lines) {
    const number = `${line.part === undefined ? '' : '+'}${line.line}`.padStart(numbers + 1);
    if (line.kind === 'room') rows.push([address(line, 0), '··', number, line.source]);
    else if (line.address === undefined) rows.push(['', '', number, line.source]);
    else {
      const step = layout === 'cell' ? 1 : MOST_WORDS;
      for (let at = 0; at < Math.max(1, line.words.length); at += step)
        rows.push([
          address(line, at),
          wordsText(line, line.words.slice(at, at + step)),
          at === 0 ? number : '',
          at === 0 ? line.source : '',
        ]);
    }
    if (line.expanded.length < 2 && !line.expanded[0]) continue;
    for (const each of line.expanded) {
      const one = { ...line, address: each.address };
      rows.push([address(one, 0), wordsText(one, each.words), '', `  = ${each.text}`]);
    }
  }
  const widths = [0, 1].map((column) => Math.max(...rows.map((row) => itemAt(row, column).length), 4));
  const text = rows.map(([place, words, line, source]) =>
    `${place.padEnd(itemAt(widths, 0))}  ${words.padEnd(itemAt(widths, 1))}  ${line.padStart(numbers + 1)}  ${source}`.trimEnd(),
  );
  return [...text, ''].join('\n');
}

/** Names in order, with what they stand for, where they are defined, and the lines that use them. */
export function symbolsText(machine: Machine, program: Program): string {
  if (program.symbols.length === 0) return 'This program defines no names.\n';
  const sorted = program.symbols.toSorted((a, b) => a.name.localeCompare(b.name, 'en'));
  const longest = Math.max(...sorted.map((each) => each.name.length));
  const { radix, spaces, programSpace } = machine;
  const value = (each: ProgramSymbol): string => {
    if (each.kind === 'constant') return `= ${each.value}`;
    const { addressWidth, name } = itemAt(spaces, each.space ?? programSpace);
    const digits = shownDigits(each.value, Math.max(addressWidth, digitsIn(each.value, radix)), machine);
    return spaces.length > 1 ? `${name} ${digits}` : digits;
  };
  const widest = Math.max(...sorted.map((each) => value(each).length));
  const lines = sorted.map((each) => {
    const where = `${each.part === undefined ? '' : `${each.part} `}line ${each.line}`;
    const uses = each.uses.length > 0 ? `used on ${each.uses.join(', ')}` : 'never used';
    return `${each.name.padEnd(longest)}  ${value(each).padEnd(widest)}  ${where}  ${uses}`;
  });
  return [...lines, ''].join('\n');
}

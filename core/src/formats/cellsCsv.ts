/** Cells as CSV (RFC 4180): space, bank, address within the bank, value; decimal, or marked in the base that a machine declares. */
import type { Machine } from '../machine/model/machine';
import { csvRow, readCsv } from './csv';
import { refusalOf, type FormatProblem } from './image';
import { itemAt } from '../text/itemAt';
import { tableNumber } from '../machine/model/numbers';
import { readNumber } from '../text/number';

export interface ImageEntry {
  readonly space: number;
  readonly address: number;
  readonly value: number;
}

const HEADER = ['space', 'bank', 'address', 'value'];

/** A row a cell, sorted by space and address, under a header. */
export function writeCellsCsv(machine: Machine, cells: readonly ImageEntry[]): string {
  const rows = cells
    .toSorted((a, b) => a.space - b.space || a.address - b.address)
    .map(({ space, address, value }) => {
      const { name, cells: size, width, addressWidth } = itemAt(machine.spaces, space);
      return [name, Math.floor(address / size), tableNumber(machine, address % size, addressWidth), tableNumber(machine, value, width)];
    });
  return [HEADER, ...rows].map(csvRow).join('');
}

const MOST_TOLD = 50;

/** Spaces go by name; a header in another order is understood, bank may be missing. Never throws. */
export function readCellsCsv(
  machine: Machine,
  text: string,
): { readonly cells: readonly ImageEntry[]; readonly problems: readonly FormatProblem[] } {
  const problems: FormatProblem[] = [];
  const tell = (line: number, sentence: string): void => void (problems.length < MOST_TOLD && problems.push({ line, sentence }));
  const [first, ...rows] = readCsv(text);
  const columns = (first?.fields ?? []).map((each) => each.toLowerCase());
  const place = Object.fromEntries(HEADER.map((each) => [each, columns.indexOf(each)]));
  if (place['address'] === -1 || place['value'] === -1) {
    tell(first?.line ?? 1, `The first line names the columns: ${HEADER.join(',')}.`);
    return { cells: [], problems };
  }
  const cells: ImageEntry[] = [];
  for (const { line, fields: values } of rows) {
    const at = (name: string): string | undefined => (place[name] === -1 ? undefined : values[place[name]!]);
    const number = (name: string): number => (/^\w{1,40}$/.test(at(name) ?? '') ? (readNumber(at(name) ?? '') ?? NaN) : NaN);
    const wanted = at('space');
    const space =
      wanted === undefined ? machine.programSpace : machine.spaces.findIndex((each) => each.name.toLowerCase() === wanted.toLowerCase());
    const found = machine.spaces[space];
    if (!found) {
      tell(line, `This machine has no memory “${wanted}”. It has: ${machine.spaces.map((each) => each.name).join(', ')}.`);
      continue;
    }
    const bank = at('bank') === undefined ? 0 : number('bank');
    const within = number('address');
    const value = number('value');
    if (Number.isNaN(bank + within + value)) {
      tell(line, 'Bank, address and value are whole numbers, decimal or marked, as 0o17 or 0x0F.');
      continue;
    }
    const address = bank * found.cells + within;
    const refused =
      within >= found.cells ? `Cell ${within} is past the end of ${found.name}.` : refusalOf(machine, found, { address, value });
    if (refused === undefined) cells.push({ space, address, value });
    else tell(line, refused);
  }
  return { cells, problems };
}

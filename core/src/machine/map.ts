/** The opcode map: which form each first cell means, at any size of first cell. */
import { hexDigits } from '../text/number';
import { firstCellPattern, formOf } from './encode';
import { programSpaceOf, type Form, type Machine } from './machine';

export interface OpcodeMap {
  /** Width of the first cell in bits. */
  readonly width: number;
  /** How many first cells mean something. */
  readonly used: number;
  readonly free: number;
  /** Each form with the range of first cells it takes: those that equal `match` under `mask`. */
  readonly entries: readonly { readonly form: Form; readonly mask: number; readonly match: number; readonly count: number }[];
}

export function opcodeMap(machine: Machine): OpcodeMap {
  const { width } = programSpaceOf(machine);
  const entries = machine.forms.map((form) => {
    const { mask, match } = firstCellPattern(form, width);
    const fixed = mask.toString(2).replaceAll('0', '').length;
    return { form, mask, match, count: 2 ** (width - fixed) };
  });
  const used = entries.reduce((sum, each) => sum + each.count, 0);
  return { width, used, free: 2 ** width - used, entries };
}

/** Values of the first cell that mean nothing yet, smallest first, at most `most`. */
export function freeOpcodes(machine: Machine, most: number): number[] {
  const { width } = programSpaceOf(machine);
  const free: number[] = [];
  for (let cell = 0; cell < 2 ** width && free.length < most; cell++) if (!formOf(machine, cell)) free.push(cell);
  return free;
}

/** A grid of sixteen columns for first cells of up to 8 bits, else a list of ranges. */
export function mapAsText(machine: Machine): string {
  const { width, used, free, entries } = opcodeMap(machine);
  const head = `${machine.name}: ${used} of ${2 ** width} first cells used, ${free} free.`;
  if (width > 8)
    return [
      head,
      ...entries.map(
        ({ form, match, count }) => `${hexDigits(match, width)}  ${count > 1 ? `and ${count - 1} more  ` : ''}${form.written}`,
      ),
    ].join('\n');
  const columns = Math.min(16, 2 ** width);
  const cells = Array.from({ length: 2 ** width }, (_, cell) => formOf(machine, cell)?.mnemonic ?? '.');
  const size = Math.max(...cells.map((each) => each.length)) + 1;
  const rows = Array.from({ length: 2 ** width / columns }, (_, row) => {
    const line = cells.slice(row * columns, (row + 1) * columns).map((each) => each.padEnd(size));
    return `${hexDigits(row * columns, width)}  ${line.join('').trimEnd()}`;
  });
  const heading = Array.from({ length: columns }, (_, column) => column.toString(16).toUpperCase().padEnd(size)).join('');
  return [head, `${' '.repeat(hexDigits(0, width).length + 2)}${heading.trimEnd()}`, ...rows].join('\n');
}

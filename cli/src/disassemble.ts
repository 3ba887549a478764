/** zettak disassemble MACHINE FILE: object code back to a program that assembles to the same cells. */
import { disassemble, type Loaded } from '@zettak/core/assembler/assist/disassemble';
import { readCellsCsv } from '@zettak/core/formats/cellsCsv';
import type { ByteOrder, FormatProblem } from '@zettak/core/formats/image';
import { readIntelHex } from '@zettak/core/formats/intelHex';
import { readRaw } from '@zettak/core/formats/raw';
import { readWords } from '@zettak/core/formats/words';
import type { Machine } from '@zettak/core/machine/model/machine';
import { numberRules } from '@zettak/core/machine/model/numbers';
import { numberRemedy, readNumber } from '@zettak/core/text/number';
import { machineIn } from './files';
import { PROBLEMS, type Terminal } from './terminal';

/** How the file is to be read: format, order of bytes, where the cells go. */
export interface DisassembleOptions {
  readonly format?: string;
  readonly space?: string;
  readonly from?: string;
  readonly start?: string;
  readonly lowFirst?: boolean;
  readonly json?: boolean;
}

const FORMATS = ['hex', 'bin', 'csv', 'words'] as const;
type FormatName = (typeof FORMATS)[number];

const ENDINGS: readonly (readonly [RegExp, FormatName])[] = [
  [/\.(hex|ihx|ihex)$/i, 'hex'],
  [/\.bin$/i, 'bin'],
  [/\.csv$/i, 'csv'],
];

interface Read {
  readonly cells: readonly Loaded[];
  readonly problems: readonly FormatProblem[];
  readonly start?: number;
}

/** Exit code: 0 done, 1 where something in the file is wrong, 2 for wrong use, as a file that cannot be read or is empty. */
export function disassembleCommand(terminal: Terminal, machineFile: string, file: string, options: DisassembleOptions): number {
  const format = FORMATS.find((each) => each === (options.format ?? ENDINGS.find(([ending]) => ending.test(file))?.[1] ?? 'words'));
  if (!format) return terminal.wrongUse(`--format ${options.format}: there are ${FORMATS.join(', ')}.`);
  const machine = machineIn(terminal, machineFile);
  if (typeof machine === 'number') return machine;
  const rules = numberRules(machine);
  const from = options.from === undefined ? 0 : readNumber(options.from, rules);
  const start = options.start === undefined ? undefined : readNumber(options.start, rules);
  if (from === undefined) return terminal.wrongUse(`--from ${options.from} is no address. ${numberRemedy(rules.base)}`);
  if (options.start !== undefined && start === undefined)
    return terminal.wrongUse(`--start ${options.start} is no address. ${numberRemedy(rules.base)}`);
  const space = options.space === undefined ? machine.programSpace : machine.spaces.findIndex((each) => each.name === options.space);
  if (space === -1)
    return terminal.wrongUse(`--space ${options.space}: this machine has ${machine.spaces.map((each) => each.name).join(', ')}.`);
  const bytes = terminal.readBytes(file);
  if (!bytes) return terminal.wrongUse(`${file} cannot be read.`);
  const read = readAs(machine, format, { bytes, space, from, order: options.lowFirst ? 'low first' : 'high first' });
  for (const { line, sentence } of read.problems) terminal.warn(`${file}:${line}:1: error: ${sentence}`);
  if (read.cells.length === 0) return read.problems.length > 0 ? PROBLEMS : terminal.wrongUse(`${file} has no cells.`);
  const result = disassemble(machine, read.cells, start ?? read.start);
  terminal.write(options.json ? JSON.stringify(result, null, 2) : result.text.trimEnd());
  return read.problems.length > 0 ? PROBLEMS : 0;
}

function readAs(
  machine: Machine,
  format: FormatName,
  { bytes, space, from, order }: { bytes: Uint8Array; space: number; from: number; order: ByteOrder },
): Read {
  const wanted = machine.spaces[space]!;
  const text = (): string => new TextDecoder().decode(bytes);
  const within = (read: Omit<Read, 'cells'> & { cells: readonly { address: number; value: number }[] }): Read => ({
    ...read,
    cells: read.cells.map((each) => ({ ...each, space })),
  });
  switch (format) {
    case 'hex':
      return within(readIntelHex(machine, wanted, text(), order));
    case 'bin':
      return within(readRaw(machine, wanted, { bytes, from, order }));
    case 'csv':
      return readCellsCsv(machine, text());
    case 'words':
      return within(readWords(machine, wanted, text(), { from }));
    default:
      return format satisfies never;
  }
}

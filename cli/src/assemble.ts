/** zettak assemble MACHINE SOURCE: problems, facts, and whatever is asked for: listing, symbols, object code. */
import { CHECKS, type CheckCode } from '@zettak/core/assembler/check/checks';
import { writeCellsCsv } from '@zettak/core/formats/cellsCsv';
import { writeIntelHex } from '@zettak/core/formats/intelHex';
import { listingOf, listingText, symbolsText } from '@zettak/core/formats/listing';
import { writeRaw } from '@zettak/core/formats/raw';
import type { Facts, Program } from '@zettak/core/image/program';
import { programSpaceOf, type Machine } from '@zettak/core/machine/model/machine';
import { shownNumber } from '@zettak/core/text/number';
import { assemblyOf, machineIn, problemLines } from './files';
import { PROBLEMS, type Terminal } from './terminal';

/** What is written where: file names, each left out where nothing is asked for. */
export interface AssembleOptions {
  readonly listing?: boolean;
  /** The listing has one line a cell. */
  readonly cells?: boolean;
  readonly symbols?: boolean;
  readonly json?: boolean;
  readonly hex?: string;
  readonly bin?: string;
  readonly csv?: string;
  readonly space?: string;
  readonly lowFirst?: boolean;
  readonly off?: readonly string[];
}

/** Exit code: 0 assembled, 1 with errors in machine or text, 2 for wrong use, as a file that cannot be read or written. */
export function assembleCommand(terminal: Terminal, machineFile: string, sourceFile: string, options: AssembleOptions): number {
  const unknown = options.off?.find((each) => !CHECKS.some((check) => check.code === each));
  if (unknown !== undefined)
    return terminal.wrongUse(`--off ${unknown}: there is no such check. There are: ${CHECKS.map((each) => each.code).join(', ')}.`);
  const machine = machineIn(terminal, machineFile);
  if (typeof machine === 'number') return machine;
  const assembly = assemblyOf(terminal, machine, sourceFile, { off: new Set(options.off as CheckCode[] | undefined) });
  if (typeof assembly === 'number') return assembly;
  const { program, problems } = assembly;
  if (options.json) {
    const whole = program && { facts: program.facts, symbols: program.symbols, routines: program.routines, declared: program.declared };
    const listing = program && listingOf(machine, program);
    terminal.write(
      JSON.stringify({ file: sourceFile, machine: machine.name, problems, ...whole, cells: program?.cells, listing }, null, 2),
    );
  } else problemLines(sourceFile, problems).forEach(program ? terminal.warn : terminal.write);
  if (!program) return PROBLEMS;
  const refused = save(terminal, machine, program, options);
  if (refused) return terminal.wrongUse(refused);
  if (options.listing || options.cells) terminal.write(listingText(machine, program, options.cells ? 'cell' : 'instruction').trimEnd());
  if (options.symbols) terminal.write(symbolsText(machine, program).trimEnd());
  if (!options.json && !options.listing && !options.cells && !options.symbols) terminal.write(factsText(machine, program.facts));
  return 0;
}

/** What a success amounts to. */
export function factsText(machine: Machine, facts: Facts): string {
  const { addressWidth } = programSpaceOf(machine);
  const at = (address: number): string => shownNumber(address, addressWidth, machine);
  return [
    `Starts at ${at(facts.start)}, last cell ${at(facts.last)}.`,
    `${facts.used} cells used, ${facts.free} free, ${facts.names} names.`,
    ...(facts.unusedNames.length > 0 ? [`Never used: ${facts.unusedNames.join(', ')}.`] : []),
    ...(facts.outside.length > 0 ? [`Goes outside to ${facts.outside.map(at).join(', ')}.`] : []),
    ...(facts.services.length > 0 ? [`Services: ${facts.services.join(', ')}.`] : []),
    `${facts.warnings} ${facts.warnings === 1 ? 'warning' : 'warnings'}.`,
    ...(facts.base === 10 ? [] : [`Unmarked numbers are read in base ${facts.base}.`]),
  ].join('\n');
}

/** Writes the files asked for; a sentence where that was not possible. */
function save(
  terminal: Terminal,
  machine: Machine,
  program: Program,
  { hex, bin, csv, space: wanted, lowFirst }: AssembleOptions,
): string | undefined {
  const index = wanted === undefined ? machine.programSpace : machine.spaces.findIndex((each) => each.name === wanted);
  const space = machine.spaces[index];
  if (!space) return `--space ${wanted}: this machine has ${machine.spaces.map((each) => each.name).join(', ')}.`;
  const cells = program.cells.filter((each) => each.space === index);
  const order = lowFirst ? 'low first' : 'high first';
  const put = (file: string, content: string | Uint8Array): string | undefined =>
    terminal.save(file, content) ? undefined : `${file} cannot be written.`;
  if (hex !== undefined) {
    const start = index === machine.programSpace ? { start: program.start } : {};
    const written = writeIntelHex(machine, space, { cells, order, ...start });
    const refused = 'refused' in written ? `--hex: ${written.refused}` : put(hex, written.text);
    if (refused) return refused;
  }
  if (bin !== undefined) {
    const written = writeRaw(machine, space, { cells, order });
    const refused = 'refused' in written ? `--bin: ${written.refused}` : put(bin, written.bytes);
    if (refused) return refused;
  }
  return csv === undefined ? undefined : put(csv, writeCellsCsv(machine, program.cells));
}

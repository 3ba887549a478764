/**
 * What is asked about texts: their listing, their names, help, object code in and out. Holds the machine that they are for
 * and what the course keeps for it, and no run.
 */
import { assemble, systemOf, type Assembly } from '../assembler/assemble';
import type { CheckCode } from '../assembler/check/checks';
import { inColumns } from '../assembler/assist/columns';
import { disassemble, type Loaded as LoadedCell } from '../assembler/assist/disassemble';
import { helpOf, type LanguageHelp } from '../assembler/assist/help';
import { explainRename, occurrencesAt, renameAt, type Occurrences } from '../assembler/assist/occurrences';
import { cleanListing, compareCodes, type Cleaned, type Compared } from '../assembler/assist/paste';
import { readWholeMachine } from '../assembler/machines';
import type { ReadOptions } from '../machine/read';
import { readCellsCsv, writeCellsCsv } from '../formats/cellsCsv';
import { readIntelHex, writeIntelHex } from '../formats/intelHex';
import { listingText, symbolsText } from '../formats/listing';
import { readRaw, writeRaw } from '../formats/raw';
import { readWords, writeWords } from '../formats/words';
import type { Row } from '../image/program';
import type { Machine } from '../machine/model/machine';
import type { Mend } from '../text/diagnostic';
import type { CodeOut, CodeIn, CodeRead, CodeWritten, Listing, MachineCheck } from './protocol';

export class Texts {
  private held: { readonly machine: Machine; readonly text: string } | undefined;
  private bases: Readonly<Record<string, string>> = {};
  private parts: ReadonlyMap<string, string> = new Map();
  private off: ReadonlySet<CheckCode> = new Set();

  /** The machine that programs are read for; undefined before the first one. */
  get machine(): Machine | undefined {
    return this.held?.machine;
  }

  /** The document that the machine was read from; '' before the first one. */
  get machineText(): string {
    return this.held?.text ?? '';
  }

  /** Takes a machine without errors; one with errors leaves the machine that is there. `language`: of a kept version. */
  useMachine(text: string, language?: number): MachineCheck {
    const check = this.checkMachine(text, language);
    if (check.machine) this.held = { machine: check.machine, text };
    return check;
  }

  /** What is wrong with a document, and the machine where nothing is; the one that is there stays. */
  checkMachine(text: string, language?: number, again: Pick<ReadOptions, 'parse' | 'remembered'> = {}): MachineCheck {
    const base = (name: string): string | undefined => this.baseText(name);
    const { machine, problems, clashing } = readWholeMachine(text, { base, ...(language !== undefined && { language }), ...again });
    return { problems, ...(machine && { machine }), ...(clashing && { clashing }) };
  }

  /** Texts of machines by name in small letters, for machines that are based on them. */
  setBases(bases: Readonly<Record<string, string>>): void {
    this.bases = bases;
  }

  /** The text of a machine that others may be based on. */
  baseText(name: string): string | undefined {
    return this.bases[name.toLowerCase()];
  }

  /** What programs may take in, by name. */
  setParts(parts: Readonly<Record<string, string>>): void {
    this.parts = new Map(Object.entries(parts));
  }

  /** What programs may take in, by name. */
  get partTexts(): Readonly<Record<string, string>> {
    return Object.fromEntries(this.parts);
  }

  /** Warnings and remarks that are not to be told. */
  setChecksOff(off: readonly CheckCode[]): void {
    this.off = new Set(off);
  }

  /** The text on the machine that is there, with its parts; without a machine nothing. */
  assembled(source: string): Assembly {
    if (!this.machine) return { rows: [], problems: [], base: 10 };
    return assemble(this.machine, source, { parts: this.parts, off: this.off });
  }

  /** A text's rows and problems, its names where it has no errors; nothing is loaded. */
  list(source: string): Listing {
    const { rows, problems, program, base } = this.assembled(source);
    return { rows, problems, base, ...(program && { facts: program.facts, symbols: program.symbols, declared: program.declared }) };
  }

  /** Lines of the machine's system program that have cells. */
  systemRows(): readonly Row[] {
    return (this.machine && systemOf(this.machine)?.program?.rows) ?? [];
  }

  /** What can be written on this machine. */
  help(): LanguageHelp {
    return this.machine ? helpOf(this.machine) : { offers: [], names: [] };
  }

  /** The same program with its columns in line. */
  inColumns(source: string): string {
    return this.machine ? inColumns(this.machine, source) : source;
  }

  /** A pasted listing without its numbers, and whether its codes are those that come out here; undefined where it does not look like one. */
  cleaned(text: string): (Pick<Cleaned, 'text' | 'changed'> & Compared) | undefined {
    const { machine } = this;
    const cleaned = machine && cleanListing(machine, text);
    if (!machine || !cleaned) return undefined;
    return { text: cleaned.text, changed: cleaned.changed, ...compareCodes(machine, this.assembled(cleaned.text).rows, cleaned) };
  }

  /** Where the name at an offset is defined and used; undefined where there is none. */
  occurrences(source: string, offset: number): Occurrences | undefined {
    return this.machine && occurrencesAt(this.machine, source, offset);
  }

  /** Edits that give the name at an offset another one everywhere, or why that cannot be. */
  rename(source: string, offset: number, name: string): { readonly edits: Mend['edits'] } | { readonly refused: string } {
    if (!this.machine) return { refused: 'There is no machine yet.' };
    const renamed = renameAt(this.machine, source, { offset, name, parts: this.parts });
    return 'refused' in renamed ? { refused: explainRename(renamed.refused) } : renamed;
  }

  /** Object code, a listing or the names of a text, as a file. */
  writeCode(source: string, { format, space: index, order }: CodeOut): CodeWritten {
    const { machine } = this;
    const { program, problems } = this.assembled(source);
    const space = machine?.spaces[index];
    if (!machine || !space) return { refused: 'There is no machine yet.' };
    if (!program) {
      const first = problems.find((each) => each.grade === 'error');
      return { refused: first ? `There is no object code yet. Line ${first.line}: ${first.sentence}` : 'There is no object code yet.' };
    }
    const cells = program.cells.filter((each) => each.space === index);
    switch (format) {
      case 'listing':
        return { content: listingText(machine, program) };
      case 'cells':
        return { content: listingText(machine, program, 'cell') };
      case 'symbols':
        return { content: symbolsText(machine, program) };
      case 'csv':
        return { content: writeCellsCsv(machine, program.cells) };
      case 'words':
        return { content: writeWords(machine, space, cells) };
      case 'hex': {
        const start = index === machine.programSpace ? { start: program.start } : {};
        const written = writeIntelHex(machine, space, { cells, order, ...start });
        return 'text' in written ? { content: written.text } : written;
      }
      case 'bin': {
        const written = writeRaw(machine, space, { cells, order });
        return 'bytes' in written ? { content: written.bytes } : written;
      }
      default:
        return format satisfies never;
    }
  }

  /** A program that assembles to the cells of a file: raw binary as bytes, every other format as text. */
  readCode(content: string | Uint8Array, { format, space: index, order, from }: CodeIn): CodeRead {
    const { machine } = this;
    const space = machine?.spaces[index];
    if (!machine || !space) return { problems: [{ line: 0, sentence: 'There is no machine yet.' }], cells: 0 };
    const read = (): { cells: readonly LoadedCell[]; start?: number; problems: CodeRead['problems'] } => {
      if (typeof content === 'string' && format === 'csv') return readCellsCsv(machine, content);
      const found =
        typeof content !== 'string'
          ? readRaw(machine, space, { bytes: content, from, order })
          : format === 'hex'
            ? readIntelHex(machine, space, content, order)
            : readWords(machine, space, content, { from });
      return { ...found, cells: found.cells.map((each) => ({ ...each, space: index })) };
    };
    const { cells, start, problems } = read();
    if (cells.length === 0)
      return { problems: problems.length > 0 ? problems : [{ line: 0, sentence: 'There are no cells in it.' }], cells: 0 };
    return { problems, cells: cells.length, text: disassemble(machine, cells, start).text };
  }
}

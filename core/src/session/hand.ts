/** What hands do to the run on a bench: inputs, switches, cells, registers, single instructions. Each is a recorded change. */
import { assembleOne } from '../assembler/assist/byHand';
import { addressText } from '../engine/tell/names';
import { readEdits, readPlace, valueOf, widthOf } from '../engine/watch/places';
import type { Runner } from '../engine/control/runner';
import { entryReading, numberReader } from '../machine/model/numbers';
import { readEntries, readEntry } from '../engine/meaning/services';
import { BY_HAND, deviceLatch, LOADED, NEVER, type State } from '../engine/meaning/state';
import { power, shownNumber } from '../text/number';
import { readCells, type Pairing } from './cellText';
import { entryTold } from './entryTold';
import { handView } from './handView';
import { refusedQueue, type Run } from './run';
import type { Entry, HandView } from './protocol';
import type { Texts } from './texts';
import { itemAt } from '../text/itemAt';
import { explainEntry } from '../engine/meaning/entryProblems';

interface HandCell {
  readonly space: number;
  readonly address: number;
  readonly value: number;
}

/** A cell as it was before a hand changed it, and what it was given. */
interface CellChange {
  readonly space: number;
  readonly address: number;
  readonly before: { readonly value: number; readonly mark: number; readonly byHand: HandCell | undefined };
  readonly value: number;
}

/** Cells from one on, to be entered. */
export interface CellEntry {
  readonly space: number;
  readonly from: number;
  /** Numbers and quoted characters, as `readCells` reads them. */
  readonly text: string;
  /** That unmarked numbers are read in. */
  readonly base: number;
  /** The last cell: what is typed is entered again and again up to it. */
  readonly upTo?: number;
  /** Each number is for two cells. */
  readonly order?: Pairing | undefined;
}

export class Hand {
  /** What can be taken back, the latest last; and what was taken back. */
  private done: (readonly CellChange[])[] = [];
  private undone: (readonly CellChange[])[] = [];
  /** By space and address: entered again at every load until they are put back. */
  private readonly cells = new Map<string, HandCell>();
  private readonly texts: Texts;
  private readonly run: Run;

  constructor(texts: Texts, run: Run) {
    this.texts = texts;
    this.run = run;
  }

  /** Cells that were entered and not put back. */
  get cellCount(): number {
    return this.cells.size;
  }

  /** Nothing is entered again at the next load. */
  forget(): void {
    this.cells.clear();
    this.forgetSteps();
  }

  /** A new run begins: what hands did in the one before is not taken back. */
  forgetSteps(): void {
    this.done = [];
    this.undone = [];
  }

  /** Enters into a new run what hands entered into the one before: cells, and how switches stood. */
  enterAgain(runner: Runner, before: State | undefined): void {
    for (const cell of this.cells.values()) runner.timeline.edit({ kind: 'cell', ...cell, mark: BY_HAND });
    const { machine } = this.texts;
    if (!before || !machine) return;
    runner.machine.devices.forEach(({ kind }, device) => {
      const latch = deviceLatch(machine, device, 'value');
      const planned = runner.state.plans.some((each) => each.device === device && each.latch === 'value');
      if (kind === 'switches' && !planned && runner.state.latches[latch] !== before.latches[latch])
        runner.timeline.edit({ kind: 'latch', latch, value: itemAt(before.latches, latch) });
    });
  }

  /** Queues a number as typed, or says why it is refused. A run that waits for it goes on. */
  queueInput(text: string): Entry {
    const entry = this.readInput(text);
    const { current } = this.run;
    if ('refused' in entry || !current) return entry;
    const refused = refusedQueue(current.runner.timeline.inputs.length + entry.values.length);
    if (refused) return { refused };
    current.runner.timeline.queueInput(entry.values);
    this.run.afterInput();
    return entry;
  }

  /** How a number would be read. */
  readInput(text: string): Entry {
    const { machine } = this.texts;
    if (!machine) return { refused: 'There is no machine yet.' };
    const entry = readEntries(text, machine, numberReader(machine));
    return 'refused' in entry ? { refused: explainEntry(entry.refused) } : entry;
  }

  /** Takes an input out of the queue, where it is not used up yet. */
  removeInput(index: number): void {
    if (this.run.current?.runner.timeline.removeInput(index)) this.run.publish();
  }

  /** Sets the lines of switches, from the present tick on. */
  setSwitches(name: string, value: number): void {
    const { machine } = this.texts;
    const { current } = this.run;
    const device = machine?.devices.findIndex((each) => each.name === name && each.kind === 'switches') ?? -1;
    if (!current || !machine || device === -1) return;
    const latch = deviceLatch(machine, device, 'value');
    current.runner.timeline.edit({ kind: 'latch', latch, value: value % power(machine.radix, itemAt(machine.devices, device).width) });
    this.run.publish();
  }

  /** Sets one line of switches, whatever the others stand at by now. */
  setLine(name: string, bit: number, on: boolean): void {
    const { machine } = this.texts;
    const { current } = this.run;
    const device = machine?.devices.findIndex((each) => each.name === name && each.kind === 'switches') ?? -1;
    if (!current || !machine || device === -1) return;
    const value = itemAt(current.runner.state.latches, deviceLatch(machine, device, 'value'));
    const unit = power(machine.radix, bit);
    const digit = Math.floor(value / unit) % machine.radix;
    this.setSwitches(name, value + ((on ? 1 : 0) - digit) * unit);
  }

  /** Enters a value into a cell. Cells that do not exist and values that do not fit change nothing. */
  setCell(space: number, address: number, value: number): void {
    const { machine } = this.texts;
    const { current } = this.run;
    const memory = machine?.spaces[space];
    if (!current || !memory || address < 0 || address >= memory.cells * memory.banks || value >= power(machine.radix, memory.width)) return;
    this.cells.set(`${space} ${address}`, { space, address, value });
    current.runner.timeline.edit({ kind: 'cell', space, address, value, mark: BY_HAND });
    this.run.publish();
  }

  /** Enters cells one behind the other, as one step that can be taken back; what does not fit changes nothing. */
  enterCells({ space, from, text, base, upTo, order }: CellEntry): { readonly cells: number } | { readonly refused: string } {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!machine || !current) return { refused: 'Nothing is loaded yet.' };
    const read = readCells(machine, space, text, base, order);
    if ('refused' in read) return read;
    const size = itemAt(current.runner.state.spaces, space).length;
    const count = upTo === undefined ? read.values.length : upTo - from + 1;
    if (from < 0 || count < 1 || from + count > size) {
      const left = Math.max(0, size - from).toLocaleString('en-US');
      return { refused: `${count.toLocaleString('en-US')} cells do not fit: ${left} are left from here on. Nothing was entered.` };
    }
    this.enter(
      Array.from({ length: count }, (_, at) => ({ space, address: from + at, value: itemAt(read.values, at % read.values.length) })),
    );
    return { cells: count };
  }

  /** As one step that can be taken back. */
  private enter(cells: readonly HandCell[]): void {
    const { runner } = this.run.current!;
    const { state } = runner;
    const step = cells.map(({ space, address, value }): CellChange => {
      const byHand = this.cells.get(`${space} ${address}`);
      const before = { value: itemAt(itemAt(state.spaces, space), address), mark: itemAt(itemAt(state.marks, space), address), byHand };
      return { space, address, before, value };
    });
    this.run.rest();
    this.put(step, runner);
    this.done.push(step);
    this.undone = [];
    this.run.publish();
  }

  private put(step: readonly CellChange[], { timeline }: Runner): void {
    for (const { space, address, value } of step) {
      this.cells.set(`${space} ${address}`, { space, address, value });
      timeline.edit({ kind: 'cell', space, address, value, mark: BY_HAND });
    }
  }

  /** Takes the latest step back, or does it again; where it was, or undefined where there is none. */
  turnCells(way: 'undo' | 'redo'): { readonly space: number; readonly address: number } | undefined {
    const { current } = this.run;
    const step = (way === 'undo' ? this.done : this.undone).pop();
    if (!step || !current) return undefined;
    this.run.rest();
    if (way === 'redo') {
      this.put(step, current.runner);
      this.done.push(step);
    } else {
      for (const { space, address, before } of step.toReversed()) {
        if (before.byHand) this.cells.set(`${space} ${address}`, before.byHand);
        else this.cells.delete(`${space} ${address}`);
        current.runner.timeline.edit({ kind: 'cell', space, address, value: before.value, mark: before.mark });
      }
      this.undone.push(step);
    }
    this.run.publish();
    const { space, address } = itemAt(step, 0);
    return { space, address };
  }

  /** The cell of a space that somebody means: an address (with its bank, 1:20), a name, or a register that points there. */
  cellMeant(space: number, text: string, base: number): { readonly address: number } | { readonly refused: string } {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!machine || !current) return { refused: 'Nothing is loaded yet.' };
    const { cells, banks, name } = itemAt(machine.spaces, space);
    const [bank, place] = text.includes(':') ? text.split(':', 2) : ['0', text];
    const read = numberReader(machine, base);
    const [high, low] = [read(bank!.trim()), read(place!.trim())];
    const inside = (address: number): { readonly address: number } | { readonly refused: string } =>
      address < cells * banks ? { address } : { refused: `${name} has no such cell.` };
    if (high !== undefined && low !== undefined) return low < cells ? inside(high * cells + low) : { refused: `${name} has no such cell.` };
    const found = readPlace(machine, current.program, text);
    if ('refused' in found) return { refused: explainEntry(found.refused) };
    if (found.kind === 'register') return inside(itemAt(current.runner.state.registers, found.register));
    if (found.kind !== 'cell') return { refused: `${text.trim()} is no cell.` };
    return found.space === space
      ? { address: found.address }
      : { refused: `${text.trim()} lies in ${itemAt(machine.spaces, found.space).name}.` };
  }

  /** Puts every cell that was entered back to what the program has there. */
  putBack(): void {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!current || !machine) return;
    const { program, runner } = current;
    const image = [...(program.system?.cells ?? []), ...program.cells];
    for (const { space, address } of this.cells.values()) {
      const loaded = image.findLast((each) => each.space === space && each.address === address);
      const put = loaded ? { value: loaded.value, mark: LOADED } : { value: itemAt(machine.spaces, space).fill, mark: NEVER };
      runner.timeline.edit({ kind: 'cell', space, address, ...put });
    }
    this.cells.clear();
    this.run.publish();
  }

  /** Cells from an address on, each with what it means, and how far they agree with a text that assembles. */
  handRows(source: string, from: number, count: number): HandView {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!current || !machine) return { rows: [], cells: 0, agree: 0, differ: [] };
    return handView({ machine, state: current.runner.state, program: this.texts.assembled(source).program, from, count });
  }

  /**
   * One instruction, done at once where PC points: its cells lie there for that long only, and unless it jumps PC comes
   * back, so that the program goes on as if it had not been.
   */
  applyOne(text: string): { readonly done: string } | { readonly refused: string; readonly column: number } {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!current || !machine) return { refused: 'Nothing is loaded yet.', column: 1 };
    const { runner, program } = current;
    this.run.rest();
    runner.timeline.recall();
    const { state } = runner;
    if (state.control.step !== 0) return { refused: 'Finish the instruction under way first (→).', column: 1 };
    if (state.control.halted) return { refused: 'The machine has halted. Go back or start over first.', column: 1 };
    const { programSpace: space, programCounter } = machine;
    const address = itemAt(state.registers, programCounter);
    const made = assembleOne(machine, text, { address, program });
    if ('problem' in made) return { refused: made.problem.sentence, column: made.problem.column };
    const before = made.cells.map((_, at) => ({
      value: itemAt(itemAt(state.spaces, space), address + at),
      mark: itemAt(itemAt(state.marks, space), address + at),
    }));
    made.cells.forEach((value, at) => runner.timeline.edit({ kind: 'cell', space, address: address + at, value, mark: BY_HAND }));
    this.run.instruction();
    before.forEach((each, at) => runner.timeline.edit({ kind: 'cell', space, address: address + at, ...each }));
    const { step, jumped, halted } = state.control;
    if (step === 0 && !jumped && !halted) runner.timeline.edit({ kind: 'register', register: programCounter, value: address });
    this.run.publish();
    const cells = `${made.cells.length} ${made.cells.length === 1 ? 'cell' : 'cells'}`;
    return { done: `${text.trim()}, ${cells}, at ${addressText(machine, address)}` };
  }

  /** How a value for a place would be read, in words: “0x3A = 58”. An unmarked number is read in `base`. */
  readValue(place: string, value: string, base: number): { readonly reading: string } | { readonly refused: string } {
    const { machine } = this.texts;
    if (!machine) return { refused: 'There is no machine yet.' };
    const program = this.run.current?.program;
    const at = readPlace(machine, program, place);
    if ('refused' in at) return { refused: explainEntry(at.refused) };
    const edits = readEdits(machine, program, `${place} = ${value}`, base);
    if ('refused' in edits) return { refused: explainEntry(edits.refused) };
    return { reading: entryTold(machine, at, { text: value, base, width: widthOf(machine, at) }) ?? '' };
  }

  /** What somebody says that a place will hold: a number in `base`, or a name of the program for where it lies. */
  meant(place: string, text: string, base: number): { readonly value: number; readonly reading: string } | { readonly refused: string } {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!machine || !current) return { refused: 'Nothing is loaded yet.' };
    const at = readPlace(machine, current.program, place);
    if ('refused' in at) return { refused: explainEntry(at.refused) };
    const width = widthOf(machine, at);
    const named = current.program.symbols.find((each) => each.name.toUpperCase() === text.trim().toUpperCase());
    if (named && named.value >= 0) return { value: named.value, reading: shownNumber(named.value, width, machine) };
    const entry = readEntry(text, { width, radix: machine.radix, suffixes: machine.assembly.suffixes, base }, numberReader(machine, base));
    if ('refused' in entry) return { refused: explainEntry(entry.refused) };
    const { reads, remark } = entryReading(machine, width, { text, value: entry.value, base });
    return { value: entry.value, reading: remark ? `${reads}. ${remark}` : reads };
  }

  /** What a place holds now, as the machine shows it; undefined where there is no such place. */
  valueAt(place: string): { readonly value: number; readonly width: number; readonly shown: string } | undefined {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!machine || !current) return undefined;
    const at = readPlace(machine, current.program, place);
    if ('refused' in at) return undefined;
    const value = valueOf(machine, current.runner.state, at);
    const width = widthOf(machine, at);
    return { value, width, shown: width === 1 ? String(value) : shownNumber(value, width, machine) };
  }

  /** Sets a register, a flag, a cell, a port or what a device shows. */
  setPlace(place: string, value: string, base: number): { readonly refused: string } | undefined {
    const { machine } = this.texts;
    const { current } = this.run;
    if (!current || !machine) return { refused: 'Nothing is loaded yet.' };
    const edits = readEdits(machine, current.program, `${place} = ${value}`, base);
    if ('refused' in edits) return { refused: explainEntry(edits.refused) };
    const cells = edits.filter((each) => each.kind === 'cell');
    if (cells.length > 1) return void this.enter(cells);
    const [edit] = edits;
    if (edit!.kind === 'cell') return void this.setCell(edit!.space, edit!.address, edit!.value);
    this.run.rest();
    current.runner.timeline.edit(edit!);
    return void this.run.publish();
  }

  /** What the script leaves to a hand happens now. */
  release(name: string): void {
    const device = this.texts.machine?.devices.findIndex((each) => each.name === name) ?? -1;
    const { current } = this.run;
    if (!current || device === -1) return;
    current.runner.timeline.release(device);
    this.run.publish();
  }
}

/** One bench's engine, as the worker holds it: its run, and all that hands do to it and ask of it. */
import { systemOf } from '@zettak/core/assembler/assemble';
import { assembleOne } from '@zettak/core/assembler/assist/byHand';
import type { Row } from '@zettak/core/image/program';
import { addressText } from '@zettak/core/engine/tell/names';
import { readWatched } from '@zettak/core/engine/watch/conditions';
import { readEdit, readPlace, widthOf } from '@zettak/core/engine/watch/places';
import { numberReader } from '@zettak/core/machine/model/numbers';
import { readEntries } from '@zettak/core/engine/meaning/services';
import { BY_HAND, deviceLatch, LOADED, NEVER } from '@zettak/core/engine/meaning/state';
import { power, shownNumber } from '@zettak/core/text/number';
import { handView } from './handView';
import { givenBy, MOST_QUEUED, RunDesk, TOO_MANY } from './runDesk';
import {
  differences,
  exported,
  readRunFile,
  runFileOf,
  type Difference,
  type Exported,
  type RunExport,
} from '@zettak/core/trials/runFiles';
import type { Answer, Entry, HandView, Question } from './protocol';

export type { Scheduler } from './runDesk';

export class Session extends RunDesk {
  /** Queues a number as typed, or says why it is refused. A run that waits for it goes on. */
  queueInput(text: string): Entry {
    const entry = this.readInput(text);
    if ('values' in entry) {
      if (this.runner && this.runner.inputs.length + entry.values.length > MOST_QUEUED) return { refused: TOO_MANY };
      this.runner?.queueInput(entry.values);
      this.afterInput();
    }
    return entry;
  }

  /** How a number would be read. */
  readInput(text: string): Entry {
    return this.machine ? readEntries(text, this.machine, numberReader(this.machine)) : { refused: 'There is no machine yet.' };
  }

  /** Sets the lines of switches by hand, from the present tick on. */
  setSwitches(name: string, value: number): void {
    const { runner, machine } = this;
    const device = machine?.devices.findIndex((each) => each.name === name && each.kind === 'switches') ?? -1;
    if (!runner || !machine || device === -1) return;
    const latch = deviceLatch(machine, device, 'value');
    runner.edit({ kind: 'latch', latch, value: value % power(machine.radix, machine.devices[device]!.width) });
    this.publish(false);
  }

  /** Enters a value into a cell by hand, as a recorded change of the run. */
  setCell(space: number, address: number, value: number): void {
    const { runner, machine } = this;
    const memory = machine?.spaces[space];
    if (!runner || !memory || address < 0 || address >= memory.cells * memory.banks || value >= power(machine.radix, memory.width)) return;
    this.hand.set(`${space} ${address}`, { space, address, value });
    runner.edit({ kind: 'cell', space, address, value, mark: BY_HAND });
    this.publish(false);
  }

  /** Puts every cell that was entered by hand back to what the program has there. */
  putBack(): void {
    const { runner, machine, program } = this;
    if (!runner || !machine || !program) return;
    const image = [...(program.system?.cells ?? []), ...program.cells];
    for (const { space, address } of this.hand.values()) {
      const loaded = image.findLast((each) => each.space === space && each.address === address);
      const put = loaded ? { value: loaded.value, mark: LOADED } : { value: machine.spaces[space]!.fill, mark: NEVER };
      runner.edit({ kind: 'cell', space, address, ...put });
    }
    this.hand.clear();
    this.publish(false);
  }

  /** Cells from an address on, each with what it means, and how far they agree with a text that assembles. */
  handRows(source: string, from: number, count: number): HandView {
    const { runner, machine } = this;
    if (!runner || !machine) return { rows: [], cells: 0, agree: 0, differ: [] };
    return handView({ machine, state: runner.state, program: this.assembled(source).program, from, count });
  }

  /**
   * One instruction, done at once where PC points, as a recorded change of the run: its cells lie there for that long
   * only, and unless it jumps PC comes back, so that the program goes on as if it had not been.
   */
  applyOne(text: string): { readonly done: string } | { readonly refused: string; readonly column: number } {
    const { runner, machine, program } = this;
    if (!runner || !machine) return { refused: 'Nothing is loaded yet.', column: 1 };
    this.rest();
    runner.recall();
    const { state } = runner;
    if (state.control.step !== 0) return { refused: 'Finish the instruction under way first (→).', column: 1 };
    if (state.control.halted) return { refused: 'The machine has halted. Go back or start over first.', column: 1 };
    const { programSpace: space, programCounter } = machine;
    const address = state.registers[programCounter]!;
    const made = assembleOne(machine, text, { address, program });
    if ('problem' in made) return { refused: made.problem.sentence, column: made.problem.column };
    const before = made.cells.map((_, at) => ({ value: state.spaces[space]![address + at]!, mark: state.marks[space]![address + at]! }));
    made.cells.forEach((value, at) => runner.edit({ kind: 'cell', space, address: address + at, value, mark: BY_HAND }));
    this.stop = runner.instruction();
    before.forEach((each, at) => runner.edit({ kind: 'cell', space, address: address + at, ...each }));
    const { step, jumped, halted } = state.control;
    if (step === 0 && !jumped && !halted) runner.edit({ kind: 'register', register: programCounter, value: address });
    this.publish(false);
    return {
      done: `${text.trim()}, ${made.cells.length} ${made.cells.length === 1 ? 'cell' : 'cells'}, at ${addressText(machine, address)}`,
    };
  }

  /** Lines of the machine's system program that have cells. */
  systemRows(): readonly Row[] {
    return (this.machine && systemOf(this.machine)?.program?.rows) ?? [];
  }

  removeInput(index: number): void {
    if (this.runner?.removeInput(index)) this.publish(false);
  }

  /** How a value for a place would be read, in words: “58 = 0x3A”. An unmarked number is read in `base`. */
  readValue(place: string, value: string, base: number): { readonly reading: string } | { readonly refused: string } {
    const { machine } = this;
    if (!machine) return { refused: 'There is no machine yet.' };
    const at = readPlace(machine, this.program, place);
    if ('refused' in at) return at;
    const edit = readEdit(machine, this.program, `${place} = ${value}`, base);
    if ('refused' in edit) return edit;
    if (edit.kind === 'inputs') return { reading: '' };
    const shown = shownNumber(edit.value, widthOf(machine, at), machine.radix);
    return { reading: machine.radix === 10 ? shown : `${edit.value} = ${shown}` };
  }

  /** Sets a register, a flag, a cell, a port or what a device shows by hand, as a recorded change of the run. */
  setPlace(place: string, value: string, base: number): { readonly refused: string } | undefined {
    const { runner, machine } = this;
    if (!runner || !machine) return { refused: 'Nothing is loaded yet.' };
    const edit = readEdit(machine, this.program, `${place} = ${value}`, base);
    if ('refused' in edit) return edit;
    if (edit.kind === 'cell') return void this.setCell(edit.space, edit.address, edit.value);
    this.rest();
    runner.edit(edit);
    return void this.publish(false);
  }

  /** What the script leaves to a hand happens now. */
  release(name: string): void {
    const device = this.machine?.devices.findIndex((each) => each.name === name) ?? -1;
    if (!this.runner || device === -1) return;
    this.runner.release(device);
    this.publish(false);
  }

  // ---- asking ----

  /** Finds a moment of the run and goes there; undefined where the looking was given up. */
  async ask(question: Question): Promise<Answer> {
    const { runner, machine, program } = this;
    if (!runner || !machine || !program) return { refused: 'Nothing is loaded yet.' };
    if (question.kind === 'written') {
      const place = readPlace(machine, program, question.place);
      if ('refused' in place) return place;
      const tick = await this.looked(runner.searchBack({ kind: 'write', place }));
      if (tick === undefined) return { none: `${question.place} has not been written in this run.` };
      this.travel(tick);
      return { tick, sentence: `${question.place} was last written by tick ${tick.toLocaleString('en-US')}.` };
    }
    const condition = readWatched(machine, program, question.condition);
    if ('refused' in condition) return condition;
    const sought = { kind: 'condition', condition } as const;
    const { ticks } = runner;
    const search =
      question.kind === 'previous'
        ? runner.searchBack(sought, ticks - 1)
        : runner.searchForward(sought, question.kind === 'first' ? -1 : ticks);
    const tick = await this.looked(search);
    const when = { first: 'in this run so far', next: 'after this tick, as far as the run has come', previous: 'before this tick' }[
      question.kind
    ];
    if (tick === undefined) return { none: `${condition.text} does not hold ${when}.` };
    this.travel(tick);
    return { tick, sentence: `${condition.text} holds after tick ${tick.toLocaleString('en-US')}.` };
  }

  private looked(search: Generator<number, number | undefined>): Promise<number | undefined> {
    this.rest();
    return new Promise((resolve) => this.search(search, resolve));
  }

  // ---- keeping ----

  /** The run up to now as a file that does the same anywhere; the text, or why there is none. */
  keepRun(note: string): { readonly text: string } | { readonly refused: string } {
    const { runner, machine, program } = this;
    if (!runner || !machine || !program) return { refused: 'Nothing is loaded yet.' };
    const file = runFileOf(runner, {
      machineText: this.machineText,
      kept: this.keptState,
      parts: this.partTexts,
      devices: this.devices,
      note,
    });
    return { text: JSON.stringify(file, null, 1) };
  }

  /** Puts a kept run back on the bench, at the tick where it was kept. */
  openRun(text: string): { readonly source: string; readonly note: string } | { readonly refused: string } {
    const { machine } = this;
    if (!machine) return { refused: 'There is no machine yet.' };
    const read = readRunFile(text, machine, this.machineText);
    if ('refused' in read) return read;
    if (givenBy(read.beginning) > MOST_QUEUED) return { refused: TOO_MANY };
    this.rest();
    this.put(read.program, { ...read.beginning, devices: read.devices });
    this.runner!.reach(read.tick);
    this.publish(false, { now: true });
    return { source: read.program.source, note: read.note };
  }

  /** What differs between a kept run's state and the present one. */
  compareWith(text: string): { readonly list: readonly Difference[] } | { readonly refused: string } {
    const { machine, runner } = this;
    if (!machine || !runner) return { refused: 'Nothing is loaded yet.' };
    const read = readRunFile(text, machine, this.machineText);
    return 'refused' in read ? read : { list: differences(read, runner) };
  }

  /** The run or its state as a file in an open format. */
  exportRun(kind: RunExport, cells: string): Exported | { readonly refused: string } {
    const { machine, program, runner } = this;
    if (!machine || !program || !runner) return { refused: 'Nothing is loaded yet.' };
    return exported(kind, runner, cells);
  }
}

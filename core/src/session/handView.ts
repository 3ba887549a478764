/** Cells for entering by hand: what each holds and means, and how far they agree with a program. */
import { agreementOf } from '../assembler/assist/byHand';
import { decodedText } from '../engine/tell/names';
import { BY_HAND, NEVER, type State } from '../engine/meaning/state';
import { indexOf, type Program } from '../image/program';
import { decode } from '../machine/model/encode';
import { programSpaceOf, type Machine } from '../machine/model/machine';
import type { HandRow, HandView } from './protocol';
import { itemAt } from '../text/itemAt';

export interface HandRequest {
  readonly machine: Machine;
  readonly state: State;
  /** What the text on the bench assembles to, where it has no errors. */
  readonly program: Program | undefined;
  readonly from: number;
  readonly count: number;
}

/** `count` cells from an address on, as far as there are any, and how far all of them agree with the program. */
export function handView({ machine, state, program, from, count }: HandRequest): HandView {
  const memory = itemAt(state.spaces, machine.programSpace);
  const marks = itemAt(state.marks, machine.programSpace);
  const { cells: size } = programSpaceOf(machine);
  const own = program?.cells.filter((each) => each.space === machine.programSpace) ?? [];
  const should = new Map(own.map((each) => [each.address, each.value]));
  const lines = program && indexOf(program).rowAt;
  /** As the source writes it, where the cells are as it has them; else decoded, with the program's names. */
  const meaningOf = (address: number): { readonly text: string; readonly cells: number } | undefined => {
    const row = lines?.get(address);
    const same = row?.address === address && row.words.every((each, at) => memory[address + at] === each);
    if (row?.text && same) return { text: row.text, cells: row.words.length };
    const decoded = decode(machine, (offset) => (address + offset < size ? memory[address + offset] : undefined), address);
    return 'refused' in decoded ? undefined : { text: decodedText(machine, program, decoded), cells: decoded.form.format.cells };
  };
  const rows: HandRow[] = [];
  let begins = from;
  for (let address = from; address < Math.min(from + count, size); address++) {
    const meaning = address >= begins && marks[address] !== NEVER ? meaningOf(address) : undefined;
    if (meaning) begins = address + meaning.cells;
    rows.push({
      address,
      value: itemAt(memory, address),
      never: marks[address] === NEVER,
      byHand: marks[address] === BY_HAND,
      ...(should.has(address) && { should: should.get(address)! }),
      ...(meaning && { meaning: meaning.text, cells: meaning.cells }),
    });
  }
  const { cells = 0, agree = 0, differ = [] } = program ? agreementOf(machine, program, memory) : {};
  return { rows, cells, agree, differ: differ.map((each) => each.address) };
}

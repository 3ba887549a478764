/** Cells back to a text that assembles to the same cells, with names made up for what is jumped to, called or looked into. */
import { programSpaceOf, type Field, type Machine } from '../../machine/model/machine';
import { decode, nameIn, written, type Decoded } from '../../machine/model/encode';
import { effectsOf } from '../../machine/model/effects';
import { shownDigits, shownNumber, characterOf } from '../../text/number';
import { assemble } from '../assemble';
import { Node } from '../check/flow';
import { templatesOf } from '../place/templates';
import { itemAt } from '../../text/itemAt';

export interface Loaded {
  readonly space: number;
  readonly address: number;
  readonly value: number;
}

export interface Disassembly {
  readonly text: string;
  /** Instructions that were found, and cells that were left as data. */
  readonly instructions: number;
  readonly data: number;
}

interface Found {
  readonly at: number;
  readonly decoded: Decoded;
  readonly cells: readonly number[];
}

const MOST_ROUNDS = 8;

/**
 * Follows the flow from `start` (the first cell where none is given) and from the vector of traps; what is not reached
 * stays data. Whatever would assemble to other cells is written as data too. Never throws.
 */
export function disassemble(machine: Machine, cells: readonly Loaded[], start?: number): Disassembly {
  const memory = new Map<number, number>();
  for (const { space, address, value } of cells) if (space === machine.programSpace) memory.set(address, value);
  const first = start ?? Math.min(...memory.keys());
  const refused = new Set<number>();
  for (let round = 0; ; round++) {
    const found = followed(machine, memory, [first], refused);
    const text = new Writer(machine, { cells, memory, found, start: memory.size > 0 ? first : undefined }).write();
    const wrong = round < MOST_ROUNDS ? differing(machine, text, memory, found) : [];
    if (wrong.length === 0) {
      const covered = found.reduce((sum, each) => sum + each.cells.length, 0);
      return { text, instructions: found.length, data: cells.length - covered };
    }
    wrong.forEach((each) => refused.add(each));
  }
}

/** Instructions that the flow reaches, none over another. */
function followed(machine: Machine, memory: ReadonlyMap<number, number>, roots: readonly number[], refused: ReadonlySet<number>): Found[] {
  const found = new Map<number, Found>();
  const taken = new Set<number>();
  const open = [...roots];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    if (taken.has(at) || refused.has(at)) continue;
    const from = at;
    const decoded = decode(machine, (offset) => memory.get(from + offset), from);
    if ('refused' in decoded || from % machine.assembly.align !== 0) continue;
    const { cells: size } = decoded.form.format;
    const own = Array.from({ length: size }, (_, offset) => from + offset);
    if (own.some((each) => taken.has(each))) continue;
    own.forEach((each) => taken.add(each));
    const words = own.map((each) => memory.get(each)!);
    found.set(from, { at: from, decoded, cells: words });
    const node = new Node(machine, { form: decoded.form, at: from, size, cells: words });
    if (!node.ends && (node.falls || node.effects.calls)) open.push(node.next);
    open.push(...node.targets.toReversed());
  }
  return [...found.values()].sort((a, b) => a.at - b.at);
}

/** Addresses of instructions whose text gives other cells, or none at all. */
function differing(machine: Machine, text: string, memory: ReadonlyMap<number, number>, found: readonly Found[]): number[] {
  const assembly = assemble(machine, text);
  const rows = new Map(
    assembly.rows.flatMap((each) => (each.kind === 'code' && each.space === undefined ? [[each.address!, each.words] as const] : [])),
  );
  const wrong = found.filter(({ at, cells }) => {
    const words = rows.get(at);
    return words?.length !== cells.length || words.some((each, offset) => each !== memory.get(at + offset));
  });
  return wrong.map((each) => each.at);
}

const PER_LINE = 8;

class Writer {
  private readonly names = new Map<number, string>();
  private readonly lines: string[] = [];
  private readonly byStart: ReadonlyMap<number, Found>;

  constructor(
    private readonly machine: Machine,
    private readonly work: {
      readonly cells: readonly Loaded[];
      readonly memory: ReadonlyMap<number, number>;
      readonly found: readonly Found[];
      readonly start: number | undefined;
    },
  ) {
    this.byStart = new Map(work.found.map((each) => [each.at, each]));
    this.inventNames();
  }

  write(): string {
    const { machine, work } = this;
    const { start } = work;
    const spaces = machine.spaces.map((_, space) => space).filter((space) => work.cells.some((each) => each.space === space));
    const firstCode = work.found[0]?.at;
    if (start !== undefined && start !== firstCode) this.lines.push(`        .start  ${this.names.get(start) ?? this.number(start)}`);
    for (const space of [machine.programSpace, ...spaces.filter((each) => each !== machine.programSpace)]) {
      if (space === machine.programSpace) this.writeProgram();
      else this.writeSpace(space);
    }
    return `${this.lines.join('\n')}\n`;
  }

  private inventNames(): void {
    const { machine, work, byStart } = this;
    const inData = (address: number): boolean => work.memory.has(address) && !this.insideInstruction(address);
    const kinds = new Map<number, 'routine' | 'place' | 'cell'>();
    if (work.start !== undefined && byStart.has(work.start)) kinds.set(work.start, 'place');
    for (const { at, decoded, cells } of work.found) {
      const { form } = decoded;
      const node = new Node(machine, { form, at, size: cells.length, cells });
      for (const each of node.targets)
        if (byStart.has(each)) kinds.set(each, node.effects.calls ? 'routine' : (kinds.get(each) ?? 'place'));
      const { addressFields } = effectsOf(machine, form);
      for (const { field, value } of decoded.operands)
        if (addressFields.has(field.name) && inData(value) && !kinds.has(value)) kinds.set(value, 'cell');
    }
    const { addressWidth } = programSpaceOf(machine);
    const { registers, mnemonics } = templatesOf(machine);
    for (const [address, kind] of kinds) {
      const name = `${address === work.start ? 'start' : kind}_${shownDigits(address, addressWidth, machine)}`;
      if (!registers.has(name.toUpperCase()) && !mnemonics.has(name.toUpperCase())) this.names.set(address, name);
    }
  }

  private insideInstruction(address: number): boolean {
    const { found } = this.work;
    let low = 0;
    let high = found.length - 1;
    while (low <= high) {
      const middle = (low + high) >> 1;
      const one = itemAt(found, middle);
      if (address < one.at) high = middle - 1;
      else if (address >= one.at + one.cells.length) low = middle + 1;
      else return true;
    }
    return false;
  }

  private number(value: number): string {
    const { radix, base } = this.machine;
    return value < Math.min(base, 10) || radix === 10 ? String(value) : shownNumber(value, 1, this.machine);
  }

  private line(address: number, operation: string, rest: string): void {
    this.lines.push(
      `${(this.names.get(address) ?? '').padEnd(8)}${this.names.has(address) ? ' ' : ''}${operation.padEnd(7)} ${rest}`.trimEnd(),
    );
  }

  private writeProgram(): void {
    const { machine, work } = this;
    const addresses = [...work.memory.keys()].sort((a, b) => a - b);
    let next = this.naturalStart();
    for (let index = 0; index < addresses.length;) {
      const address = itemAt(addresses, index);
      if (address !== next) this.lines.push(`        .origin ${shownNumber(address, programSpaceOf(machine).addressWidth, machine)}`);
      const found = this.byStart.get(address);
      if (found) {
        const [mnemonic, ...operands] = this.text(found).split(' ');
        this.line(address, mnemonic!, operands.join(' '));
        index += found.cells.length;
        next = address + found.cells.length;
        continue;
      }
      const run = this.dataRun(addresses, index);
      this.dataLine(address, run, programSpaceOf(machine).width);
      index += run.length;
      next = address + run.length;
    }
  }

  private naturalStart(): number {
    const { fixedStart, system } = this.machine;
    return fixedStart ?? (system?.from === 0 ? system.to + 1 : 0);
  }

  /** Data up to an instruction, a name or a gap. */
  private dataRun(addresses: readonly number[], from: number): number[] {
    const values: number[] = [];
    for (let at = from; at < addresses.length && values.length < PER_LINE; at++) {
      const address = itemAt(addresses, at);
      if (at > from && (address !== itemAt(addresses, at - 1) + 1 || this.names.has(address) || this.byStart.has(address))) break;
      values.push(this.work.memory.get(address)!);
    }
    return values;
  }

  private dataLine(address: number | undefined, values: readonly number[], width: number): void {
    const { radix } = this.machine;
    const shown = values.map((each) => (radix === 10 ? String(each) : shownNumber(each, width, this.machine))).join(', ');
    const letters = values.map((each) => characterOf(each));
    const remark = values.length > 1 && letters.every((each) => each !== undefined) ? `  ; ${letters.join('')}` : '';
    if (address === undefined) this.lines.push(`        .cells  ${shown}${remark}`);
    else this.line(address, '.cells', `${shown}${remark}`);
  }

  private writeSpace(space: number): void {
    const { name, cells: size, banks, addressWidth, width } = itemAt(this.machine.spaces, space);
    const own = this.work.cells.filter((each) => each.space === space).sort((a, b) => a.address - b.address);
    let bank = -1;
    let next = 0;
    for (let index = 0; index < own.length;) {
      const { address } = itemAt(own, index);
      if (Math.floor(address / size) !== bank) {
        bank = Math.floor(address / size);
        next = bank * size;
        this.lines.push(`        .space  ${name}${banks > 1 ? `, ${bank}` : ''}`);
      }
      if (address !== next) this.lines.push(`        .origin ${shownNumber(address % size, addressWidth, this.machine)}`);
      const values = [itemAt(own, index).value];
      while (
        values.length < PER_LINE &&
        own[index + values.length]?.address === address + values.length &&
        (address + values.length) % size !== 0
      )
        values.push(itemAt(own, index + values.length).value);
      this.dataLine(undefined, values, width);
      index += values.length;
      next = address + values.length;
    }
  }

  private text({ decoded: { form, operands }, at, cells }: Found): string {
    const node = new Node(this.machine, { form, at, size: cells.length, cells });
    const { addressFields, targetFields, requestFields } = node.effects;
    const { traps, routines } = this.machine;
    const show = (field: Field): string => {
      const value = operands.find((each) => each.field === field)!.value;
      const name = nameIn(field, value);
      if (name !== undefined) return name;
      const requested = requestFields.has(field.name) && [...traps, ...routines].find((each) => each.number === value)?.name;
      if (requested) return requested;
      const named = addressFields.has(field.name) || targetFields.has(field.name) || field.relative;
      return (named && this.names.get(value)) || (value < 0 ? String(value) : this.number(value));
    };
    return written(form, show);
  }
}

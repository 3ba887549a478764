/**
 * Intel HEX (Intel Hexadecimal Object File Format, revision A, 1988): records of types 00 to 05, one space a file. A
 * cell takes the whole bytes that it needs, so cell n lies at byte n · bytes.
 */
import type { Machine, Space } from '../machine/model/machine';
import {
  bytesOf,
  bytesValue,
  byAddress,
  cellBytes,
  NO_BYTES,
  refusalOf,
  type ByteOrder,
  type FormatProblem,
  type ReadCells,
  type SpaceCell,
} from './image';

const RECORD = 16;

const hex = (value: number, digits: number): string => value.toString(16).toUpperCase().padStart(digits, '0');

function record(type: number, address: number, data: readonly number[]): string {
  const bytes = [data.length, address >> 8, address & 0xff, type, ...data];
  const sum = bytes.reduce((total, each) => total + each, 0);
  return `:${[...bytes, -sum & 0xff].map((each) => hex(each, 2)).join('')}`;
}

/** Addresses above 0xFFFF get extended linear address records (04), the start a start linear address record (05). */
export function writeIntelHex(
  machine: Machine,
  space: Space,
  { cells, start, order = 'high first' }: { cells: readonly SpaceCell[]; start?: number; order?: ByteOrder },
): { readonly text: string } | { readonly refused: string } {
  const bytes = bytesOf(machine, space);
  if (bytes === undefined) return { refused: NO_BYTES };
  const lines: string[] = [];
  let high = 0;
  let run: number[] = [];
  let from = 0;
  const close = (): void => {
    if (run.length === 0) return;
    if (from >>> 16 !== high) {
      high = from >>> 16;
      lines.push(record(4, 0, [high >> 8, high & 0xff]));
    }
    lines.push(record(0, from & 0xffff, run));
    run = [];
  };
  for (const { address, value } of byAddress(cells)) {
    for (const [at, byte] of cellBytes(value, bytes, order).entries()) {
      const place = address * bytes + at;
      if (run.length >= RECORD || place !== from + run.length || place % 65_536 === 0) {
        close();
        from = place;
      }
      run.push(byte);
    }
  }
  close();
  if (start !== undefined) lines.push(record(5, 0, cellBytes(start * bytes, 4, 'high first')));
  return { text: [...lines, record(1, 0, []), ''].join('\n') };
}

/** Reads every record that is right, and tells of those that are not. Never throws. */
export function readIntelHex(machine: Machine, space: Space, text: string, order: ByteOrder = 'high first'): ReadCells {
  const bytes = bytesOf(machine, space);
  if (bytes === undefined) return { cells: [], problems: [{ line: 0, sentence: NO_BYTES }] };
  const reader = new HexReader();
  text.split(/\r?\n/).forEach((line, index) => reader.line(line.trim(), index + 1));
  if (!reader.ended)
    reader.problems.push({
      line: text.trimEnd().split('\n').length,
      sentence: 'The end record (:00000001FF) is missing; the file may have been cut.',
    });
  const cells = cellsFrom(reader, { machine, space, bytes, order });
  const { problems } = reader;
  const start = reader.start === undefined ? {} : { start: Math.floor(reader.start / bytes) };
  return { cells, problems, ...start };
}

const MOST_BYTES = 2_000_000;
const MOST_TOLD = 50;

class HexReader {
  readonly data = new Map<number, { readonly byte: number; readonly line: number }>();
  readonly problems: FormatProblem[] = [];
  start: number | undefined;
  ended = false;
  private base = 0;

  private tell(line: number, sentence: string): void {
    if (this.problems.length < MOST_TOLD) this.problems.push({ line, sentence });
  }

  line(text: string, line: number): void {
    if (text === '') return;
    if (this.ended) return this.tell(line, 'This stands behind the end record and is not read.');
    if (text[0] !== ':') return this.tell(line, 'A record starts with a colon.');
    if (!/^:([0-9A-Fa-f]{2})+$/.test(text))
      return this.tell(line, 'A record is a colon and pairs of hexadecimal digits; this is something else.');
    const bytes = Array.from({ length: (text.length - 1) / 2 }, (_, at) => Number.parseInt(text.slice(1 + at * 2, 3 + at * 2), 16));
    const [count = 0, high = 0, low = 0, type = 0] = bytes;
    if (bytes.length !== count + 5)
      return this.tell(line, `This record says that it has ${count} data bytes, but it has ${Math.max(0, bytes.length - 5)}.`);
    const sum = bytes.slice(0, -1).reduce((total, each) => total + each, 0);
    const wanted = -sum & 0xff;
    if (bytes.at(-1) !== wanted)
      return this.tell(line, `The checksum is ${hex(bytes.at(-1)!, 2)} and should be ${hex(wanted, 2)}: the record has been damaged.`);
    this.record({ type, address: high * 256 + low, data: bytes.slice(4, -1), line });
  }

  private record({ type, address, data, line }: { type: number; address: number; data: readonly number[]; line: number }): void {
    const value = bytesValue(data, 'high first');
    switch (type) {
      case 0:
        return data.forEach((byte, at) => this.byte(this.base + ((address + at) & 0xffff), byte, line));
      case 1:
        this.ended = true;
        return;
      case 2:
        this.base = value * 16;
        return;
      case 3:
        this.start = bytesValue(data.slice(0, 2), 'high first') * 16 + bytesValue(data.slice(2), 'high first');
        return;
      case 4:
        this.base = value * 65_536;
        return;
      case 5:
        this.start = value;
        return;
      default:
        this.tell(line, `There is no record of type ${hex(type, 2)}.`);
    }
  }

  private byte(place: number, byte: number, line: number): void {
    const earlier = this.data.get(place);
    if (earlier && earlier.byte !== byte) this.tell(line, `Byte 0x${hex(place, 4)} has another value on line ${earlier.line} already.`);
    else if (this.data.size < MOST_BYTES) this.data.set(place, { byte, line });
  }
}

function cellsFrom(
  { data, problems }: HexReader,
  { machine, space, bytes, order }: { machine: Machine; space: Space; bytes: number; order: ByteOrder },
): SpaceCell[] {
  const cells: SpaceCell[] = [];
  for (const address of new Set([...data.keys()].map((each) => Math.floor(each / bytes)))) {
    const parts = Array.from({ length: bytes }, (_, at) => data.get(address * bytes + at));
    const { line } = parts.find((each) => each)!;
    const missing = parts.includes(undefined);
    const cell = {
      address,
      value: bytesValue(
        parts.map((each) => each?.byte ?? 0),
        order,
      ),
    };
    const refused = missing ? `Cell ${address} takes ${bytes} bytes, but not all of them are here.` : refusalOf(machine, space, cell);
    if (refused === undefined) cells.push(cell);
    else if (problems.length < MOST_TOLD) problems.push({ line, sentence: refused });
  }
  return byAddress(cells);
}

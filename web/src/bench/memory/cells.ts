/** What a cell shows: its value in a base, its character, its marks; as plain values. */
import { BY_HAND, BY_RUN, LOADED, NEVER, OVER_CODE } from '@zettak/core/engine/meaning/state';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { Pairing } from '@zettak/core/session/cellText';
import type { View } from '@zettak/core/session/protocol';
import { characterOf, hexDigits, shownDigits } from '@zettak/core/text/number';
import { itemAt } from '@zettak/core/text/itemAt';
import type { ValueBase } from '../looks';

/** A value in the base of a panel, without a mark. */
export function inBase(value: number, width: number, radix: 2 | 10, base: ValueBase): string {
  if (base === 'char') return characterOf(value) ?? '·';
  if (radix === 10) return shownDigits(value, width, { radix, base: 10 });
  if (base === 'hex') return hexDigits(value, width);
  if (base === 'oct') return shownDigits(value, width, { radix, base: 8 });
  if (base === 'dec') return String(value);
  return value.toString(2).padStart(width, '0');
}

/** What stands in a cell that was never written. */
export const NOTHING = '··';

/** Characters that a value takes at most. */
export const lengthIn = (width: number, radix: 2 | 10, base: ValueBase): number =>
  base === 'char' ? 1 : inBase(radix ** width - 1, width, radix, base).length;

/** Cells of up to so many digits have their characters beside them. */
export const WITH_CHARACTERS = 16;

/** Numbers of so many digits show their bits in a list. */
export const showsBits = (width: number, radix: 2 | 10): boolean => radix === 2 && width <= WITH_CHARACTERS;

interface Fit {
  readonly base: ValueBase;
  /** Characters of a line that there is room for. */
  readonly room: number;
  /** Two cells are one number: whole pairs stand in a row. */
  readonly order: Pairing | undefined;
}

/** Cells beside each other: as many as there is room for with their characters. */
export function cellsBeside({ width, cells }: Machine['spaces'][number], radix: 2 | 10, { base, room, order }: Fit): number {
  const step = order ? 2 : 1;
  const each = lengthIn(step * width, radix, base) / step + 1 + (width <= WITH_CHARACTERS ? 1.4 : 0);
  const most = (radix === 10 ? [10, 5, 2] : [16, 8, 4, 2]).filter((count) => count % step === 0);
  return Math.min(most.find((count) => count * each <= room) ?? step, cells);
}

/** ASCII codes below 32, and 127, by the names that the standard gives them. */
export const CONTROL_NAMES: readonly string[] =
  'NUL SOH STX ETX EOT ENQ ACK BEL BS HT LF VT FF CR SO SI DLE DC1 DC2 DC3 DC4 NAK SYN ETB CAN EM SUB ESC FS GS RS US'.split(' ');

/** A printable character, or the small name of a control code; a dot for all else. */
export const characterNamed = (value: number): { readonly text: string; readonly small: boolean } =>
  value < 32
    ? { text: itemAt(CONTROL_NAMES, value), small: true }
    : value === 127
      ? { text: 'DEL', small: true }
      : { text: characterOf(value) ?? '·', small: false };

/** What cells are as characters: plain text, the small name of a control code, plain text, and so on; a space for one never written. */
export function charactersOf({ cells, marks }: View['spaces'][number], from: number, count: number): readonly string[] {
  const pieces: string[] = [];
  let plain = '';
  for (let at = from; at < from + count; at++) {
    const { text, small } = marks[at] === NEVER ? { text: ' ', small: false } : characterNamed(cells[at] ?? 0);
    if (!small) plain += text;
    else {
      pieces.push(plain, text);
      plain = '';
    }
  }
  pieces.push(plain);
  return pieces;
}

/** How a cell came by its value, in words. */
export const MARK_WORDS: Readonly<Record<number, string>> = {
  [NEVER]: 'never written',
  [LOADED]: 'as loaded',
  [BY_RUN]: 'written by the run',
  [BY_HAND]: 'typed by hand',
  [OVER_CODE]: 'written over an instruction',
};

export interface Surroundings {
  readonly machine: Machine;
  readonly view: View;
  readonly space: number;
  readonly touched: ReadonlyMap<number, 'read' | 'written'>;
  /** Cells of loaded instructions, of the program space. */
  readonly code: ReadonlySet<number>;
  readonly labels: ReadonlyMap<number, string> | undefined;
  readonly rooms: readonly { readonly space: number; readonly from: number; readonly to: number }[];
  /** Cells that devices answer in, of this space. */
  readonly devices: ReadonlyMap<number, string>;
  /** Cells of this space that registers or pairs point at, with their names. */
  readonly pointers: ReadonlyMap<number, readonly string[]>;
  /** Of this memory, where it is asked for. */
  readonly heat: ReadonlyMap<number, HeatCounts> | undefined;
}

/** Executions, reads, writes. */
export type HeatCounts = readonly [number, number, number];

/** From 1 to 4, each ten times as often as the one before; 0 of a cell that the run has left alone. */
export function heatLevel(counts: HeatCounts | undefined): number {
  const most = counts ? Math.max(...counts) : 0;
  return most === 0 ? 0 : Math.min(4, 1 + Math.floor(Math.log10(most)));
}

/** “executed 12×, read 12×”. */
export const heatWords = ([executed, read, written]: HeatCounts): string =>
  [executed > 0 && `executed ${executed}×`, read > 0 && `read ${read}×`, written > 0 && `written ${written}×`].filter(Boolean).join(', ');

/** By address, the devices that answer there. */
export function devicesIn({ devices }: Machine, space: number): ReadonlyMap<number, string> {
  const found = devices.flatMap(({ name, data, status }) =>
    [data, status].flatMap((place) => (place && 'space' in place && place.space === space ? [[place.address, name] as const] : [])),
  );
  return new Map(found);
}

/** Names of the classes that a cell is drawn with. Asked for every cell in sight at every view. */
export function classesOf(around: Surroundings, address: number): string {
  const { machine, view, space, touched, code, labels, rooms, devices, pointers, heat } = around;
  const program = space === machine.programSpace;
  const mark = itemAt(itemAt(view.spaces, space).marks, address);
  let names = '';
  const add = (name: string): void => {
    names += names === '' ? name : ` ${name}`;
  };
  if (mark === LOADED) add(program && code.has(address) ? 'code' : 'data');
  if (machine.stacks.some((each) => each.space === space && address >= each.from && address <= each.to)) add('stack');
  if (devices.has(address)) add('device');
  if (pointers.has(address)) add('pointed');
  if (mark === NEVER && rooms.some((each) => each.space === space && address >= each.from && address <= each.to)) add('room');
  if (mark === OVER_CODE) add('over-code');
  if (program && covers(view.executing, address)) add('executing');
  if (program && covers(view.next, address) && view.status !== 'halted') add('next');
  const how = touched.get(address);
  if (how) add(how);
  if (labels?.has(address)) add('named');
  if (mark === BY_HAND) add('by-hand');
  const level = heat ? heatLevel(heat.get(address)) : 0;
  if (level > 0) add(`heat${level}`);
  return names;
}

const covers = (where: { readonly address: number; readonly length: number } | undefined, address: number): boolean =>
  where !== undefined && address >= where.address && address < where.address + where.length;

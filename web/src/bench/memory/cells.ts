/** What a cell shows: its value in a base, its character, its marks; as plain values. */
import { BY_HAND, BY_RUN, LOADED, NEVER, OVER_CODE } from '@zettak/core/engine/meaning/state';
import type { Machine } from '@zettak/core/machine/model/machine';
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

/** Characters that a value takes at most. */
export const lengthIn = (width: number, radix: 2 | 10, base: ValueBase): number =>
  base === 'char' ? 1 : inBase(radix ** width - 1, width, radix, base).length;

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

/** Names of the classes that a cell is drawn with. */
export function classesOf(around: Surroundings, address: number): string {
  const { machine, view, space, touched, code, labels, rooms, devices, heat } = around;
  const level = heatLevel(heat?.get(address));
  const program = space === machine.programSpace;
  const mark = itemAt(itemAt(view.spaces, space).marks, address);
  const inside = (where: { address: number; length: number } | undefined): boolean =>
    program && where !== undefined && address >= where.address && address < where.address + where.length;
  const stack = machine.stacks.some((each) => each.space === space && address >= each.from && address <= each.to);
  const loaded = mark === LOADED;
  const list = [
    loaded && (program && code.has(address) ? 'code' : 'data'),
    stack && 'stack',
    devices.has(address) && 'device',
    mark === NEVER && rooms.some((each) => each.space === space && address >= each.from && address <= each.to) && 'room',
    mark === OVER_CODE && 'over-code',
    inside(view.executing) && 'executing',
    inside(view.next) && view.status !== 'halted' && 'next',
    touched.get(address),
    labels?.has(address) && 'named',
    mark === BY_HAND && 'by-hand',
    level > 0 && `heat${level}`,
  ];
  return list.filter(Boolean).join(' ');
}

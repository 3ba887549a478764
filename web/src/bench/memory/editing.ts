/** What is chosen in a window on memory, and what is typed, pasted, filled, taken back there. */
import { useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading } from '@zettak/core/machine/model/numbers';
import { pairValue, readCells, type Pairing } from '@zettak/core/session/cellText';
import { BASE_WORDS } from '@zettak/core/text/number';
import { itemAt } from '@zettak/core/text/itemAt';
import { engine } from '../../session/engine';
import { baseRead, type ValueBase } from '../looks';
import { useRun } from '../run';
import { inBase } from './cells';

/** Where the choice began, and where it has come to; both are in it. */
export interface Chosen {
  readonly anchor: number;
  readonly head: number;
}

/** What is said below the cells: how something is read, or why it is refused. */
export interface Said {
  readonly text: string;
  readonly refused: boolean;
}

export interface Editing {
  readonly id: string;
  /** Says which memory is typed into, and in which base: one that says the same does the same. */
  readonly of: string;
  readonly chosen: Chosen;
  /** Of the cell at the head; undefined while nothing is typed. */
  readonly typed: string | undefined;
  readonly said: Said | undefined;
  holds(address: number): boolean;
  choose(address: number, extend?: boolean): void;
  type(text: string): void;
  /** Takes what is typed; then the next cell is chosen, or the one before, or all chosen are filled. */
  give(then: 'next' | 'before' | 'fill' | 'leave'): void;
  key(event: KeyboardEvent<HTMLElement>, perRow: number): void;
  copy(event: ClipboardEvent, how: { readonly base: ValueBase; readonly perRow: number }): void;
  readonly paste: (event: ClipboardEvent) => void;
  tell(said: Said | undefined): void;
}

const BEGINS = /^[0-9A-Za-z"']$/;

interface Of {
  readonly machine: Machine;
  readonly space: number;
  readonly base: ValueBase | undefined;
  /** Two cells are one number, from even cells on. */
  readonly order: Pairing | undefined;
  readonly id: string;
}

export function useEditing({ machine, space, base: shownIn, order, id }: Of): Editing {
  const [chosen, setChosen] = useState<Chosen>({ anchor: 0, head: 0 });
  const [typed, setTyped] = useState<string>();
  const [said, setSaid] = useState<Said>();
  const { width, cells, banks } = itemAt(machine.spaces, space);
  const size = cells * banks;
  const step = order ? 2 : 1;
  const base = baseRead(machine, shownIn);
  // Taken at the moment of an event, which may come before the next drawing.
  const now = useRef({ chosen, typed });
  now.current = { chosen, typed };

  const put = (next: Chosen): void => {
    now.current = { ...now.current, chosen: next };
    setChosen(next);
  };
  const putTyped = (text: string | undefined): void => {
    now.current = { ...now.current, typed: text };
    setTyped(text);
  };
  /** A cell or a pair as the window writes it. */
  const shown = (values: Uint32Array, at: number, how: ValueBase): string => {
    const value = values[at] ?? 0;
    return order
      ? inBase(pairValue(value, values[at + 1] ?? 0, { size: machine.radix ** width, order }), 2 * width, machine.radix, how)
      : inBase(value, width, machine.radix, how);
  };
  const refuse = (text: string): void => setSaid({ text, refused: true });
  /** The cell, or the first of its pair. */
  const inside = (address: number): number => {
    const within = Math.max(0, Math.min(size - 1, address));
    return within - (within % step);
  };
  /** The lowest and the highest cell that is chosen. */
  const ends = (at: Chosen): readonly [number, number] => [
    Math.min(at.anchor, at.head),
    Math.min(size - 1, Math.max(at.anchor, at.head) + step - 1),
  ];

  const choose = (address: number, extend = false): void => {
    if (now.current.typed !== undefined) give('leave');
    const head = inside(address);
    put({ anchor: extend ? now.current.chosen.anchor : head, head });
    setSaid(undefined);
  };

  const type = (text: string): void => {
    putTyped(text);
    if (text.trim() === '') return setSaid({ text: `Unmarked numbers are ${BASE_WORDS[base]} here.`, refused: false });
    const read = readCells(machine, space, text, base, order);
    if ('refused' in read) return refuse(read.refused);
    const [first = 0, second = 0] = read.values;
    const value = order ? pairValue(first, second, { size: machine.radix ** width, order }) : first;
    const many = read.values.length > step ? `${read.values.length} cells` : undefined;
    const { reads, remark } = entryReading(machine, step * width, { text, value, base });
    setSaid({ text: many ?? `is ${reads}${remark ? `. ${remark}` : ''}`, refused: false });
  };

  const give = (then: 'next' | 'before' | 'fill' | 'leave'): void => {
    const { chosen: at, typed: text } = now.current;
    if (text === undefined) return;
    putTyped(undefined);
    const [low, high] = ends(at);
    if (text.trim() === '') return;
    const back = (sentence: string): void => {
      refuse(sentence);
      if (then === 'leave' || now.current.typed !== undefined) return;
      put(at);
      putTyped(text);
    };
    const read = readCells(machine, space, text, base, order);
    if ('refused' in read) return back(read.refused);
    // The next cell is there at once, so that what is typed next goes into it, however long the engine takes.
    if (then === 'next' || then === 'before') {
      const next = inside(then === 'next' ? at.head + read.values.length : at.head - step);
      put({ anchor: next, head: next });
      setSaid(undefined);
    }
    const entry = then === 'fill' ? { from: low, upTo: high } : { from: at.head };
    void engine.hand.enterCells({ space, text, base, order, ...entry }).then((answer) => {
      if ('refused' in answer) return back(answer.refused);
      if (then === 'fill') setSaid({ text: `${answer.cells} cells filled.`, refused: false });
    });
  };

  const turn = (way: 'undo' | 'redo'): void => {
    void engine.hand.turnCells(way).then((where) => {
      if (!where) return setSaid({ text: way === 'undo' ? 'Nothing is left to take back.' : 'Nothing was taken back.', refused: false });
      if (where.space === space) put({ anchor: where.address, head: where.address });
      setSaid({ text: way === 'undo' ? 'Taken back.' : 'Done again.', refused: false });
    });
  };

  const key = (event: KeyboardEvent<HTMLElement>, perRow: number): void => {
    const { chosen: at, typed: text } = now.current;
    const taken = (): void => {
      event.preventDefault();
      event.stopPropagation();
    };
    const mod = event.ctrlKey || event.metaKey;
    if (text !== undefined) {
      if (event.key === 'Escape') {
        taken();
        putTyped(undefined);
        setSaid(undefined);
        return event.currentTarget.focus();
      }
      if (event.key !== 'Enter' && event.key !== 'Tab') return;
      taken();
      // The input goes before it is left, so that nothing is given twice.
      const table = event.currentTarget;
      give(mod ? 'fill' : event.shiftKey ? 'before' : 'next');
      return table.focus();
    }
    if (mod && event.key.toLowerCase() === 'z') {
      taken();
      return turn(event.shiftKey ? 'redo' : 'undo');
    }
    if (mod && event.key.toLowerCase() === 'a') {
      taken();
      return put({ anchor: 0, head: size - 1 });
    }
    if (mod || event.altKey) return;
    const steps: Readonly<Record<string, number>> = {
      ...{ ArrowLeft: -step, ArrowRight: step, ArrowUp: -perRow, ArrowDown: perRow, Enter: step },
      ...{ PageUp: -8 * perRow, PageDown: 8 * perRow, Home: -at.head, End: size - 1 - at.head },
    };
    const way = steps[event.key];
    if (way !== undefined) {
      taken();
      return choose(at.head + way, event.shiftKey && event.key !== 'Enter');
    }
    if (event.key === 'F2' || event.key === 'Backspace') {
      taken();
      return type(event.key === 'F2' ? shown(itemAt(useRun.getState().view!.spaces, space).cells, at.head, shownIn ?? 'dec') : '');
    }
    if (!BEGINS.test(event.key)) return;
    taken();
    type(event.key);
  };

  const copy = (event: ClipboardEvent, { base: how, perRow }: { base: ValueBase; perRow: number }): void => {
    const view = useRun.getState().view;
    const { chosen: at, typed: text } = now.current;
    if (!view || text !== undefined) return;
    const [low, high] = ends(at);
    const { cells: values } = itemAt(view.spaces, space);
    const rows: string[] = [];
    for (let from = low; from <= high; from += perRow) {
      const row = Math.min(perRow, high + 1 - from);
      rows.push(Array.from({ length: Math.ceil(row / step) }, (_, each) => shown(values, from + each * step, how)).join('\t'));
    }
    const count = high + 1 - low;
    event.clipboardData.setData('text/plain', rows.join('\r\n'));
    event.preventDefault();
    setSaid({ text: `${count} ${count === 1 ? 'cell' : 'cells'} copied.`, refused: false });
  };

  const paste = (event: ClipboardEvent): void => {
    if (now.current.typed !== undefined) return;
    event.preventDefault();
    const from = Math.min(now.current.chosen.anchor, now.current.chosen.head);
    void engine.hand.enterCells({ space, from, text: event.clipboardData.getData('text/plain'), base, order }).then((answer) => {
      if ('refused' in answer) return refuse(answer.refused);
      put({ anchor: from, head: inside(from + answer.cells - 1) });
      setSaid({ text: `${answer.cells} ${answer.cells === 1 ? 'cell' : 'cells'} pasted, read as ${BASE_WORDS[base]}.`, refused: false });
    });
  };

  const [lowest, highest] = ends(chosen);
  const holds = (address: number): boolean => address >= lowest && address <= highest;
  const of = `${id} ${machine.name} ${space} ${base} ${shownIn ?? ''} ${order ?? ''}`;
  return { id, of, chosen, typed, said, holds, choose, type, give, key, copy, paste, tell: setSaid };
}

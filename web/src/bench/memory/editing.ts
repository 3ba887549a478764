/** What is chosen in a window on memory, and what is typed, pasted, filled, taken back there. */
import { useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading } from '@zettak/core/machine/model/numbers';
import { readCells } from '@zettak/core/session/cellText';
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
  readonly id: string;
}

export function useEditing({ machine, space, base: shownIn, id }: Of): Editing {
  const [chosen, setChosen] = useState<Chosen>({ anchor: 0, head: 0 });
  const [typed, setTyped] = useState<string>();
  const [said, setSaid] = useState<Said>();
  const { width, cells, banks } = itemAt(machine.spaces, space);
  const size = cells * banks;
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
  const refuse = (text: string): void => setSaid({ text, refused: true });
  const inside = (address: number): number => Math.max(0, Math.min(size - 1, address));

  const choose = (address: number, extend = false): void => {
    if (now.current.typed !== undefined) give('leave');
    const head = inside(address);
    put({ anchor: extend ? now.current.chosen.anchor : head, head });
    setSaid(undefined);
  };

  const type = (text: string): void => {
    putTyped(text);
    if (text.trim() === '') return setSaid({ text: `Unmarked numbers are ${BASE_WORDS[base]} here.`, refused: false });
    const read = readCells(machine, space, text, base);
    if ('refused' in read) return refuse(read.refused);
    const [value] = read.values;
    const many = read.values.length > 1 ? `${read.values.length} cells` : undefined;
    const { reads, remark } = entryReading(machine, width, { text, value: value ?? 0, base });
    setSaid({ text: many ?? `is ${reads}${remark ? `. ${remark}` : ''}`, refused: false });
  };

  const give = (then: 'next' | 'before' | 'fill' | 'leave'): void => {
    const { chosen: at, typed: text } = now.current;
    if (text === undefined) return;
    putTyped(undefined);
    const [low, high] = [Math.min(at.anchor, at.head), Math.max(at.anchor, at.head)];
    if (text.trim() === '') return;
    const entry = then === 'fill' ? { from: low, upTo: high } : { from: at.head };
    void engine.hand.enterCells({ space, text, base, ...entry }).then((answer) => {
      if ('refused' in answer) {
        refuse(answer.refused);
        return then === 'leave' ? undefined : putTyped(text);
      }
      if (then === 'fill') setSaid({ text: `${answer.cells} cells filled.`, refused: false });
      if (then === 'next' || then === 'before') {
        const next = inside(then === 'next' ? at.head + answer.cells : at.head - 1);
        put({ anchor: next, head: next });
        setSaid(undefined);
      }
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
      ...{ ArrowLeft: -1, ArrowRight: 1, ArrowUp: -perRow, ArrowDown: perRow, Enter: 1 },
      ...{ PageUp: -8 * perRow, PageDown: 8 * perRow, Home: -at.head, End: size - 1 - at.head },
    };
    const step = steps[event.key];
    if (step !== undefined) {
      taken();
      return choose(at.head + step, event.shiftKey && event.key !== 'Enter');
    }
    if (event.key === 'F2' || event.key === 'Backspace') {
      taken();
      return type(
        event.key === 'F2'
          ? inBase(useRun.getState().view?.spaces[space]?.cells[at.head] ?? 0, width, machine.radix, shownIn ?? 'dec')
          : '',
      );
    }
    if (!BEGINS.test(event.key)) return;
    taken();
    type(event.key);
  };

  const copy = (event: ClipboardEvent, { base: shown, perRow }: { base: ValueBase; perRow: number }): void => {
    const view = useRun.getState().view;
    const { chosen: at, typed: text } = now.current;
    if (!view || text !== undefined) return;
    const [low, high] = [Math.min(at.anchor, at.head), Math.max(at.anchor, at.head)];
    const values = view.spaces[space]!.cells.slice(low, high + 1);
    const rows: string[] = [];
    for (let from = 0; from < values.length; from += perRow)
      rows.push([...values.slice(from, from + perRow)].map((each) => inBase(each, width, machine.radix, shown)).join('\t'));
    event.clipboardData.setData('text/plain', rows.join('\r\n'));
    event.preventDefault();
    setSaid({ text: `${values.length} ${values.length === 1 ? 'cell' : 'cells'} copied.`, refused: false });
  };

  const paste = (event: ClipboardEvent): void => {
    if (now.current.typed !== undefined) return;
    event.preventDefault();
    const from = Math.min(now.current.chosen.anchor, now.current.chosen.head);
    void engine.hand.enterCells({ space, from, text: event.clipboardData.getData('text/plain'), base }).then((answer) => {
      if ('refused' in answer) return refuse(answer.refused);
      put({ anchor: from, head: inside(from + answer.cells - 1) });
      setSaid({ text: `${answer.cells} ${answer.cells === 1 ? 'cell' : 'cells'} pasted, read as ${BASE_WORDS[base]}.`, refused: false });
    });
  };

  const range = useMemo(() => [Math.min(chosen.anchor, chosen.head), Math.max(chosen.anchor, chosen.head)] as const, [chosen]);
  const holds = (address: number): boolean => address >= range[0] && address <= range[1];
  const of = `${id} ${machine.name} ${space} ${base} ${shownIn ?? ''}`;
  return { id, of, chosen, typed, said, holds, choose, type, give, key, copy, paste, tell: setSaid };
}

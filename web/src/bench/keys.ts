/** The bench's keys: one table, from which both the handler and the list under “?” are made. */
import { create } from 'zustand';
import { keep, keptValue } from '../app/preferences';
import type { EditorHandle } from '../editor/handle';
import { SPEEDS } from '@zettak/core/session/protocol';
import { addressText } from '@zettak/core/engine/tell/names';
import { withAddress } from './breakpoints';
import { useDocument } from './document';
import { setLayingOut, setProjecting, setStartingOver, setWriting, turnDock, useLooks } from './looks';
import { proceed, runOrPause } from './loading';
import { setSpeed, setBreakpoints, useRun } from './run';

export interface Key {
  readonly key: string;
  /** Only with the shift key. */
  readonly shift?: true;
  readonly shown: string;
  readonly does: string;
  readonly act: (editor: EditorHandle) => void;
}

/** Asks the editor to set or clear the breakpoint of the instruction that PC points at. */
function breakAtNext(editor: EditorHandle): void {
  const { view, breakpoints: stops } = useRun.getState();
  const { machine } = useDocument.getState();
  if (!view || !machine) return;
  if (view.next.line && editor.toggleBreakpoint(view.next.line)) return;
  setBreakpoints(withAddress(stops, addressText(machine, view.next.address)));
}

function changeSpeed(step: 1 | -1): void {
  const speed = SPEEDS[SPEEDS.indexOf(useRun.getState().speed) + step];
  if (speed !== undefined) setSpeed(speed);
}

export const KEYS: readonly Key[] = [
  { key: ' ', shown: 'space', does: 'run or pause', act: () => runOrPause() },
  { key: '.', shown: '.', does: 'one tick', act: () => void proceed('tick') },
  { key: ',', shown: ',', does: 'one tick back', act: () => void proceed('back') },
  { key: 'ArrowRight', shown: '→', does: 'to the end of the instruction', act: () => void proceed('instruction') },
  { key: 'ArrowLeft', shown: '←', does: 'back to the beginning of the instruction', act: () => void proceed('instructionBack') },
  { key: 'ArrowRight', shift: true, shown: '⇧→', does: 'over: calls and traps as one step', act: () => void proceed('over') },
  { key: 'ArrowUp', shift: true, shown: '⇧↑', does: 'out of the routine', act: () => void proceed('out') },
  { key: 'ArrowLeft', shift: true, shown: '⇧←', does: 'back over calls and traps', act: () => void proceed('overBack') },
  { key: 'ArrowDown', shift: true, shown: '⇧↓', does: 'back out of the routine, to before its call', act: () => void proceed('outBack') },
  { key: 'f', shown: 'f', does: 'to the end of the phase', act: () => void proceed('phase') },
  { key: 'o', shown: 'o', does: 'run to the next output', act: () => void proceed('output') },
  { key: 'Home', shown: 'Home', does: 'back to the start of the run', act: () => void proceed('start') },
  { key: 'Home', shift: true, shown: '⇧Home', does: 'start over, in one of several ways', act: () => setStartingOver(true) },
  { key: 'b', shown: 'b', does: 'breakpoint where PC points', act: breakAtNext },
  { key: 'w', shown: 'w', does: 'tools for writing, beside the source', act: () => setWriting(!useLooks.getState().writing) },
  { key: 'r', shown: 'r', does: 'tools for the run at the foot, or the run so far', act: turnDock },
  { key: 'p', shown: 'p', does: 'for a room: what a class looks at, larger', act: () => setProjecting(!useLooks.getState().projecting) },
  { key: 'l', shown: 'l', does: 'layout of the bench', act: () => setLayingOut(true) },
  { key: '+', shown: '+', does: 'faster', act: () => changeSpeed(1) },
  { key: '-', shown: '-', does: 'slower', act: () => changeSpeed(-1) },
];

/** A key with or without shift, as one text: “⇧Home”, “b”. */
const named = ({ key, shift }: Pick<Key, 'key' | 'shift'>): string => `${shift ? '⇧' : ''}${key}`;

const SHOWN: Readonly<Record<string, string>> = { ' ': 'space', ArrowRight: '→', ArrowLeft: '←', ArrowUp: '↑', ArrowDown: '↓' };
const shownAs = (name: string): string => (name.startsWith('⇧') ? `⇧${SHOWN[name.slice(1)] ?? name.slice(1)}` : (SHOWN[name] ?? name));

const CHANGED = 'keys';
/** What somebody has put in place of the keys as they come, by those. */
type Changed = Readonly<Record<string, string>>;

function changedKeys(): Changed {
  const found = keptValue(CHANGED);
  const entries = Object.entries(typeof found === 'object' && found !== null ? found : {});
  return Object.fromEntries(entries.filter((each): each is [string, string] => typeof each[1] === 'string' && each[1] !== ''));
}

export const useChangedKeys = create<{ readonly changed: Changed }>()(() => ({ changed: changedKeys() }));

function putChanged(changed: Changed): void {
  useChangedKeys.setState({ changed });
  keep(CHANGED, JSON.stringify(changed));
}

/** The keys as they come. */
export const resetKeys = (): void => putChanged({});

/** What is pressed for it. */
export function shownKey(each: Key, changed: Changed): string {
  const other = changed[named(each)];
  return other === undefined ? each.shown : shownAs(other);
}

/** What a key does; undefined where it does nothing here. Plus and minus go with shift or without. */
export function actFor(event: Pick<KeyboardEvent, 'key' | 'shiftKey'>): Key | undefined {
  const { changed } = useChangedKeys.getState();
  const pressed = pressedKey(event);
  return KEYS.find((each) => (changed[named(each)] ?? named(each)) === pressed);
}

/** Letters and signs bring their shift with them; only keys that write nothing are told with it. */
const pressedKey = ({ key, shiftKey }: Pick<KeyboardEvent, 'key' | 'shiftKey'>): string => (shiftKey && key.length > 1 ? `⇧${key}` : key);

/** Keys that belong to the browser or to moving about. */
const RESERVED: ReadonlySet<string> = new Set(['Tab', 'Escape', 'Enter', '?', 'Shift', 'Control', 'Alt', 'Meta', 'Dead', 'Unidentified']);

/** Puts another key in place; or says why it cannot be. */
export function changeKey(each: Key, event: Pick<KeyboardEvent, 'key' | 'shiftKey'>): string | undefined {
  if (RESERVED.has(event.key)) return `${event.key} keeps its own meaning.`;
  const taken = actFor(event);
  const pressed = pressedKey(event);
  if (taken && taken !== each) return `${shownAs(pressed)} is taken: ${taken.does}.`;
  const { [named(each)]: _, ...others } = useChangedKeys.getState().changed;
  putChanged(pressed === named(each) ? others : { ...others, [named(each)]: pressed });
  return undefined;
}

const STEPPING: ReadonlySet<string> = new Set(['.', ',', ' ', 'ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown']);

/** Whether the control that has the focus uses the key itself. */
export function usesKey(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  // While a program waits and nothing is typed yet, these step the run: no entry begins with them.
  if (target.dataset.benchKeys !== undefined && STEPPING.has(key)) return false;
  if (target instanceof HTMLInputElement && target.type === 'radio') return key === ' ' || key.startsWith('Arrow');
  if (target instanceof HTMLInputElement && target.type === 'checkbox') return key === ' ';
  // Edges between panels are moved by arrows, and folded.
  if (target.closest('[role=separator]')) return key.startsWith('Arrow') || key === 'Home' || key === 'End' || key === 'Enter';
  if (
    target.isContentEditable ||
    /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) ||
    target.closest('.cm-editor, [role=dialog], [role=menu]')
  )
    return true;
  const presses = key === ' ' || key === 'Enter';
  return presses && (target.tagName === 'BUTTON' || target.tagName === 'A') && target.dataset.bench === undefined;
}

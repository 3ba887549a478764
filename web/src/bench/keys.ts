/** The bench's keys: one table, from which both the handler and the list under “?” are made. */
import type { EditorHandle } from '../editor/handle';
import { SPEEDS } from '@zettak/core/session/protocol';
import { addressText } from '@zettak/core/engine/tell/names';
import { withAddress } from './breakpoints';
import { useDocument } from './document';
import { setLayingOut, setProjecting, setStartingOver, setWriting, turnDock, useLooks } from './looks';
import { command, runOrPause, setSpeed, setBreakpoints, useRun } from './run';

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
  { key: '.', shown: '.', does: 'one tick', act: () => command('tick') },
  { key: ',', shown: ',', does: 'one tick back', act: () => command('back') },
  { key: 'ArrowRight', shown: '→', does: 'to the end of the instruction', act: () => command('instruction') },
  { key: 'ArrowLeft', shown: '←', does: 'back to the beginning of the instruction', act: () => command('instructionBack') },
  { key: 'ArrowRight', shift: true, shown: '⇧→', does: 'over: calls and traps as one step', act: () => command('over') },
  { key: 'ArrowUp', shift: true, shown: '⇧↑', does: 'out of the routine', act: () => command('out') },
  { key: 'ArrowLeft', shift: true, shown: '⇧←', does: 'back over calls and traps', act: () => command('overBack') },
  { key: 'ArrowDown', shift: true, shown: '⇧↓', does: 'back out of the routine, to before its call', act: () => command('outBack') },
  { key: 'f', shown: 'f', does: 'to the end of the phase', act: () => command('phase') },
  { key: 'o', shown: 'o', does: 'run to the next output', act: () => command('output') },
  { key: 'Home', shown: 'Home', does: 'back to the start of the run', act: () => command('start') },
  { key: 'Home', shift: true, shown: '⇧Home', does: 'start over, in one of several ways', act: () => setStartingOver(true) },
  { key: 'b', shown: 'b', does: 'breakpoint where PC points', act: breakAtNext },
  { key: 'w', shown: 'w', does: 'tools for writing, beside the source', act: () => setWriting(!useLooks.getState().writing) },
  { key: 'r', shown: 'r', does: 'tools for the run at the foot, or the run so far', act: turnDock },
  { key: 'p', shown: 'p', does: 'for a room: what a class looks at, larger', act: () => setProjecting(!useLooks.getState().projecting) },
  { key: 'l', shown: 'l', does: 'layout of the bench', act: () => setLayingOut(true) },
  { key: '+', shown: '+', does: 'faster', act: () => changeSpeed(1) },
  { key: '-', shown: '-', does: 'slower', act: () => changeSpeed(-1) },
];

/** Whether the control that has the focus uses the key itself. */
export function usesKey(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
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

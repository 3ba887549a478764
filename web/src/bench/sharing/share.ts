/** The teacher's side of a bench that a class follows: sends the run's definition where it is another, else its tick alone. */
import { create } from 'zustand';
import { textOf } from '../../app/textOf';
import { tabMemory } from '../../app/preferences';
import { shareClient } from '../../documents/workClient';
import { engine } from '../../session/engine';
import { useDocument } from '../document';
import { isRunning } from '@zettak/core/session/protocol';
import { useRun } from '../run';

interface ShareState {
  /** The address for the class; undefined while nothing is shared. */
  readonly link?: string | undefined;
  readonly followers: number;
  /** A run with data that students do not see stands on the bench. */
  readonly paused: boolean;
  readonly failure?: string | undefined;
}

export const useShare = create<ShareState>()(() => ({ followers: 0, paused: false }));
const set = useShare.setState;

/** ms between two tellings. */
const EVERY = 120;
const COUNTED_EVERY = 3_000;

const sending: {
  timer: ReturnType<typeof setTimeout> | undefined;
  sent: string | undefined;
  busy: boolean;
  again: boolean;
  leave: () => void;
} = {
  ...{ timer: undefined, sent: undefined, busy: false, again: false },
  leave: () => undefined,
};

/** A run that holds what students may not see, until something else is loaded. */
const hiddenName = (program: string): string => `hidden.${program}`;
export const isHiddenRun = (): boolean => {
  const id = useDocument.getState().program?.id;
  return id !== undefined && tabMemory.kept(hiddenName(id)) !== undefined;
};
export function showsNothingHidden(): void {
  const id = useDocument.getState().program?.id;
  if (id !== undefined) tabMemory.forget(hiddenName(id));
}

export async function share(): Promise<void> {
  try {
    const { token } = await shareClient.open();
    sending.sent = undefined;
    set({ link: `${location.origin}/f#${token}`, followers: 0, failure: undefined });
    sending.leave();
    const leave = useRun.subscribe(soon);
    // Pages come and go while nothing moves.
    const counting = setInterval(soon, COUNTED_EVERY);
    sending.leave = () => {
      leave();
      clearInterval(counting);
    };
    soon();
  } catch (error) {
    set({ failure: textOf(error) });
  }
}

export async function endShare(): Promise<void> {
  sending.leave();
  clearTimeout(sending.timer);
  sending.timer = undefined;
  set({ link: undefined, followers: 0, paused: false });
  await shareClient.end().catch(() => undefined);
}

function soon(): void {
  sending.timer ??= setTimeout(() => {
    sending.timer = undefined;
    void send();
  }, EVERY);
}

async function send(): Promise<void> {
  const { view } = useRun.getState();
  if (useShare.getState().link === undefined || !view) return;
  if (sending.busy) {
    sending.again = true;
    return;
  }
  sending.busy = true;
  try {
    const paused = isHiddenRun();
    const run = paused || isRunning(view.status) ? undefined : await anotherRun();
    const { followers } = await shareClient.change({ tick: view.ticks, paused, ...(run !== undefined && { run }) });
    set({ followers, paused, failure: undefined });
  } catch (error) {
    sending.sent = undefined;
    set({ failure: textOf(error) });
  } finally {
    sending.busy = false;
    if (sending.again) {
      sending.again = false;
      soon();
    }
  }
}

/** The run as a file, where what it does is another than what was sent last. */
async function anotherRun(): Promise<string | undefined> {
  const made = await engine.files.keepRun('');
  if ('refused' in made) return undefined;
  const { machine, program, script } = JSON.parse(made.text) as Record<string, unknown>;
  const does = JSON.stringify([machine, program, script]);
  if (does === sending.sent) return undefined;
  sending.sent = does;
  return made.text;
}

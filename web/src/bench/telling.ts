/** What sentences say beyond the usual, as somebody has asked for; remembered. */
import { create } from 'zustand';
import { keep, kept } from '../app/preferences';
import { engine } from '../session/engine';

interface Telling {
  /** Flags that are left alone are named, too. */
  readonly untouched: boolean;
  /** Numbers are given as they are said. */
  readonly spoken: boolean;
}

const nameOf = (what: keyof Telling): string => `tell.${what}`;

export const useTelling = create<Telling>()(() => ({
  untouched: kept(nameOf('untouched')) === 'yes',
  spoken: kept(nameOf('spoken')) === 'yes',
}));

export function setTelling(what: keyof Telling, on: boolean): void {
  useTelling.setState({ [what]: on });
  keep(nameOf(what), on ? 'yes' : 'no');
  void sendTelling();
}

/** The engine makes the sentences. */
export const sendTelling = (): Promise<void> => engine.run.setTelling({ untouched: useTelling.getState().untouched });

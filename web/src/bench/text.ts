/** The text of the program with its listing and its problems. */
import { create } from 'zustand';
import { CHECKS, type CheckCode } from '@zettak/core/assembler/check/checks';
import type { ProgramSymbol } from '@zettak/core/image/program';
import type { Listing } from '@zettak/core/session/protocol';
import { textOf } from '../app/textOf';
import { keep, keptValue } from '../app/preferences';
import { engine } from '../session/engine';
import { useDocument } from './document';

export interface TextState {
  readonly source: string;
  /** Counts up when the editor has to take `source` over. */
  readonly taken: number;
  readonly listing: Listing;
  /** The source that `listing` belongs to. */
  readonly listed: string;
  /** Names of the last text that had no errors. */
  readonly symbols: readonly ProgramSymbol[];
  readonly checksOff: readonly CheckCode[];
  /** Lines given by a frame may be changed. */
  readonly unfrozen: boolean;
  /** A name that is being given another one. */
  readonly renaming?: { readonly name: string; readonly offset: number } | undefined;
  readonly message?: string | undefined;
  /** Something was done; until the next command. */
  readonly note?: string | undefined;
  /** Nothing was loaded, but a finished part could be. */
  readonly offersPart: boolean;
}

const CHECKS_OFF = 'checks-off';

/** Rubbish in the storage counts as every check on. */
function readChecksOff(): CheckCode[] {
  const kept = keptValue(CHECKS_OFF);
  return Array.isArray(kept) ? CHECKS.map((each) => each.code).filter((each) => kept.includes(each)) : [];
}

export const useText = create<TextState>()(() => ({
  source: '',
  taken: 0,
  listing: { rows: [], problems: [], base: 10 },
  listed: '',
  symbols: [],
  checksOff: readChecksOff(),
  unfrozen: false,
  offersPart: false,
}));

const set = useText.setState;
const get = useText.getState;

/** One listing at a time; whatever has changed meanwhile, text or machine, is listed next, in one go. */
class Lister {
  private wanted = 0;
  private under: Promise<void> | undefined;

  list(): Promise<void> {
    this.wanted++;
    this.under ??= this.untilFresh().finally(() => {
      this.under = undefined;
    });
    return this.under;
  }

  private async untilFresh(): Promise<void> {
    for (let done = -1; done !== this.wanted;) {
      done = this.wanted;
      const { source } = get();
      const fresh = await engine.texts.list(source);
      set({ listing: fresh, listed: source, ...(fresh.symbols && { symbols: fresh.symbols }) });
    }
  }
}
const lister = new Lister();

/** Resolves when the listing is that of the present text on the present machine. */
export const relist = (): Promise<void> => lister.list();

/** What somebody has typed: saved, and listed. */
export function edit(source: string): void {
  if (source === get().source) return;
  set({ source, message: undefined, offersPart: false });
  useDocument.getState().draft?.change(source);
  void relist();
}

/** Puts another text into the editor. */
export function takeText(source: string): void {
  set({ source, taken: get().taken + 1 });
  void relist();
}

/** Warnings of this kind are told, or not; remembered. */
export async function switchCheck(code: CheckCode, on: boolean): Promise<void> {
  const checksOff = on ? get().checksOff.filter((each) => each !== code) : [...get().checksOff, code];
  keep(CHECKS_OFF, JSON.stringify(checksOff));
  set({ checksOff });
  await engine.texts.setChecksOff(checksOff);
  await relist();
}

/** Lines given by a frame can be changed, or not. */
export const setUnfrozen = (unfrozen: boolean): void => set({ unfrozen });
/** Says in a sentence what went wrong, or with `done` what was done; undefined: nothing any more. */
export const say = (sentence: string | undefined, { done = false } = {}): void =>
  set(done ? { note: sentence, message: undefined } : { message: sentence });
/** Says what was thrown. */
export const sayError = (error: unknown): void => say(textOf(error));

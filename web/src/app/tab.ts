/** Which tab this is, so that what is typed here belongs here: over reloads, and beside other tabs. */
import { forget, keep, kept, keptNames, tabMemory } from './preferences';

export interface Tab {
  /** Of this load of the page. */
  readonly id: string;
  /** Of the load before in the same tab. */
  readonly before: string | undefined;
  /** Whether the page of a load is still open somewhere. */
  isAlive(id: string): boolean;
}

const KEY = 'tab';
const ALIVE = 'alive.';
/** A page says so often that it is there; browsers let hidden pages do it once a minute. */
const BEAT = 20_000;
const SILENT = 180_000;

/** Once for each load of a page; from then on the tab says now and then that it is there. */
export function startTab(): Tab {
  const before = tabMemory.kept(KEY);
  const id = `${Date.now().toString(36)}${Math.random().toString(36).slice(2, 10)}`;
  // Without room other tabs may take this one for closed, and then offer its text, which loses nothing.
  const beat = (): void => void keep(ALIVE + id, String(Date.now()));
  tabMemory.keep(KEY, id);
  beat();
  setInterval(beat, BEAT);
  window.addEventListener('pagehide', () => forget(ALIVE + id));
  window.addEventListener('pageshow', beat);
  for (const name of keptNames(ALIVE)) if (!isFresh(kept(name))) forget(name);
  return { id, before, isAlive: (other) => other === id || isFresh(kept(ALIVE + other)) };
}

const isFresh = (at: string): boolean => at !== '' && Date.now() - Number(at) < SILENT;

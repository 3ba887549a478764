/** Which tab this is, so that what is typed here belongs here: over reloads, and beside other tabs. */
export interface Tab {
  /** Of this load of the page. */
  readonly id: string;
  /** Of the load before in the same tab. */
  readonly before: string | undefined;
  /** Whether the page of a load is still open somewhere. */
  isAlive(id: string): boolean;
}

const KEY = 'zettak.tab';
const ALIVE = 'zettak.alive.';
/** A page says so often that it is there; browsers let hidden pages do it once a minute. */
const BEAT = 20_000;
const SILENT = 180_000;

export function startTab(): Tab {
  const before = sessionStorage.getItem(KEY) ?? undefined;
  const id = `${Date.now().toString(36)}${Math.random().toString(36).slice(2, 10)}`;
  const beat = (): void => {
    try {
      localStorage.setItem(ALIVE + id, String(Date.now()));
    } catch {
      // No room: other tabs may take this one for closed, and then offer its text, which loses nothing.
    }
  };
  sessionStorage.setItem(KEY, id);
  beat();
  setInterval(beat, BEAT);
  window.addEventListener('pagehide', () => localStorage.removeItem(ALIVE + id));
  window.addEventListener('pageshow', beat);
  forgetSilent();
  return { id, before, isAlive: (other) => other === id || isFresh(localStorage.getItem(ALIVE + other)) };
}

const isFresh = (at: string | null): boolean => at !== null && Date.now() - Number(at) < SILENT;

function forgetSilent(): void {
  for (const key of Object.keys(localStorage))
    if (key.startsWith(ALIVE) && !isFresh(localStorage.getItem(key))) localStorage.removeItem(key);
}

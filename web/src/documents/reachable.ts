/** Waits for a server that is away. */

/** What is said of it, wherever something was asked of the server. */
export const AWAY = 'The server cannot be reached.';

/** Ms before it is asked for the first time; then twice as long each time, up to the longest. */
const FIRST_PAUSE = 1000;
const LONGEST_PAUSE = 15_000;

/** Whether the server answers now. */
export const answers = async (): Promise<boolean> => {
  try {
    return (await fetch('/api/health', { cache: 'no-store' })).ok;
  } catch {
    return false;
  }
};

/**
 * Calls `act` once, as soon as the server answers again: asked in growing pauses, and at once where the browser has a
 * network again or somebody looks at the page. What comes back calls it off.
 */
export function whenBack(act: () => void): () => void {
  let pause = FIRST_PAUSE;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let over = false;
  let asking = false;
  const end = (): void => {
    over = true;
    clearTimeout(timer);
    window.removeEventListener('online', now);
    window.removeEventListener('focus', now);
  };
  const ask = async (): Promise<void> => {
    if (asking) return;
    asking = true;
    const there = await answers();
    asking = false;
    if (over) return;
    if (there) {
      end();
      return act();
    }
    clearTimeout(timer);
    timer = setTimeout(() => void ask(), pause);
    pause = Math.min(LONGEST_PAUSE, pause * 2);
  };
  const now = (): void => void ask();
  window.addEventListener('online', now);
  window.addEventListener('focus', now);
  timer = setTimeout(now, pause);
  return end;
}

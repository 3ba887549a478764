/** Small things that this browser remembers. The only place that speaks to its storage; where it has no room, they are forgotten. */
const PREFIX = 'zettak.';

/** What was kept under a name, '' where nothing was. */
export const kept = (name: string): string => localStorage.getItem(PREFIX + name) ?? '';

/** Whether there was room for it. */
export function keep(name: string, text: string): boolean {
  try {
    localStorage.setItem(PREFIX + name, text);
    return true;
  } catch {
    return false;
  }
}

/** What was kept under a name is kept no more. */
export const forget = (name: string): void => localStorage.removeItem(PREFIX + name);

/** Names of everything that is kept and begins so. */
export const keptNames = (beginning: string): string[] =>
  Object.keys(localStorage)
    .filter((each) => each.startsWith(PREFIX + beginning))
    .map((each) => each.slice(PREFIX.length));

/** What was kept as JSON; undefined where it is none. */
export function keptValue(name: string): unknown {
  try {
    return JSON.parse(kept(name) || 'null') ?? undefined;
  } catch {
    return undefined;
  }
}

/** What this tab remembers over a reload, and no other tab sees. */
export const tabMemory = {
  kept: (name: string): string | undefined => sessionStorage.getItem(PREFIX + name) ?? undefined,
  keep(name: string, text: string): boolean {
    try {
      sessionStorage.setItem(PREFIX + name, text);
      return true;
    } catch {
      return false;
    }
  },
  forget: (name: string): void => sessionStorage.removeItem(PREFIX + name),
  clear: (): void => sessionStorage.clear(),
};

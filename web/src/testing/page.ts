/** What tests of the pages' own side put in place of a browser: the worker's side without a worker, and small storages. */

/** Turns are given as soon as nothing else is to be done. */
export const scheduler = {
  now: (): number => performance.now(),
  later: (_: number, act: () => void): (() => void) => {
    const timer = setImmediate(act);
    return () => clearImmediate(timer);
  },
};

/** Something as over a channel: what is asked is answered later, in its order, and nothing of it is shared. `parts` are reached through it. */
export const far = <T extends object>(own: T, parts: readonly string[] = []): T =>
  new Proxy(own, {
    get: (of, name) => {
      const found = of[name as keyof T];
      if (parts.includes(String(name))) return far(found as object);
      return async (...given: readonly unknown[]) => {
        await new Promise((resolve) => setImmediate(resolve));
        return structuredClone((found as (...all: readonly unknown[]) => unknown).apply(of, [...given]));
      };
    },
  });

/** What a browser remembers, for as long as a test lives. */
export function memory(): Storage {
  const held = new Map<string, string>();
  return {
    ...{ getItem: (key: string) => held.get(key) ?? null, setItem: (key: string, text: string) => void held.set(key, text) },
    removeItem: (key: string) => void held.delete(key),
  } as Storage;
}

/** Waits for what comes of itself; a test that waits in vain ends at its own limit. */
export async function until(there: () => boolean): Promise<void> {
  while (!there()) await new Promise((resolve) => setTimeout(resolve, 5));
}

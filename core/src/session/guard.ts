/** Keeps a mistake of the engine's own from ending in silence: whoever listens is told, and the run is given up. */
export interface Failing {
  /** Told once for each mistake, with the text of it. */
  failed(error: unknown): void;
}

/** The same object, each call of its methods and of its parts' looked after; the caller gets the error too. */
export const guarded = <T extends object & Failing>(target: T): T => looked(target, (error) => target.failed(error));

function looked<T extends object>(target: T, failed: (error: unknown) => void): T {
  return new Proxy(target, {
    get(object, name, receiver) {
      const value: unknown = Reflect.get(object, name, receiver);
      if (typeof value === 'object' && value !== null) return looked(value, failed);
      if (typeof value !== 'function' || name === 'failed') return value;
      return (...all: unknown[]): unknown => {
        try {
          const result = (value as (...all: unknown[]) => unknown).apply(object, all);
          if (result instanceof Promise) result.catch(failed);
          return result;
        } catch (error) {
          failed(error);
          throw error;
        }
      };
    },
  });
}

/** The text of a mistake, to be copied. */
export const textOfError = (error: unknown): string =>
  error instanceof Error ? (error.stack?.slice(0, 4000) ?? error.message) : String(error);

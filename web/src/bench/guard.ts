/** Keeps a mistake of the engine's own from ending in silence: whoever listens is told, and the run stands still. */
export interface Failing {
  /** Told once for each mistake, with the text of it. */
  failed(error: unknown): void;
}

/** The same object, each call of its methods looked after; the caller gets the error too. */
export function guarded<T extends object & Failing>(target: T): T {
  return new Proxy(target, {
    get(object, name, receiver) {
      const value: unknown = Reflect.get(object, name, receiver);
      if (typeof value !== 'function' || name === 'failed') return value;
      return (...all: unknown[]): unknown => {
        try {
          const result = (value as (...all: unknown[]) => unknown).apply(object, all);
          if (result instanceof Promise) result.catch((error: unknown) => object.failed(error));
          return result;
        } catch (error) {
          object.failed(error);
          throw error;
        }
      };
    },
  });
}

/** The text of a mistake, to be copied. */
export const textOfError = (error: unknown): string =>
  error instanceof Error ? (error.stack?.slice(0, 4000) ?? error.message) : String(error);

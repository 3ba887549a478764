/** The page's end of the engine's worker. One worker for the whole page. */
import { proxy, wrap, type Remote } from 'comlink';
import type { Session } from '@zettak/core/session/session';
import type { View } from '@zettak/core/session/protocol';
import { ViewUnpacker, type PackedView } from '@zettak/core/session/viewPack';
import { begunWorker } from './begun';

const worker = begunWorker('engine') ?? new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });

/** Parts of a session are reached through it, as in the worker. */
type Reached<T, Parts extends keyof T> = Remote<Omit<T, Parts>> & { readonly [part in Parts]: Remote<T[part]> };
export type Engine = Reached<Session, 'texts' | 'run' | 'hand' | 'past' | 'counting' | 'files' | 'definition' | 'soFar'>;

export const engine = wrap<Session>(worker) as unknown as Engine;

/** Told of mistakes of the engine's own. */
export const onFailure = (listener: (text: string) => void): Promise<void> => engine.onFailure(proxy(listener));

/** Views that have come and are not shown yet: each is answered when it is, which costs a message less than to say so. */
const unshown: (() => void)[] = [];

/** Told of views, each when it has been said of the last one that it is shown. */
export function onView(listener: (view: View) => void): Promise<void> {
  const unpacker = new ViewUnpacker();
  const take = async (packed: PackedView): Promise<void> => {
    const view = unpacker.unpack(packed);
    const shown = new Promise<void>((resolve) => unshown.push(resolve));
    try {
      listener(view);
    } catch (error) {
      // What cannot be shown is waited for by nobody.
      unshown.pop();
      throw error;
    }
    await shown;
  };
  return engine.subscribePacked(proxy(take));
}

/** The first view that was not shown yet has been shown. */
export const viewShown = (): void => unshown.shift()?.();

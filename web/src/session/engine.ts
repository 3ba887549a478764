/** The page's end of the engine's worker. One worker for the whole page. */
import { proxy, wrap, type Remote } from 'comlink';
import type { Session } from '@zettak/core/session/session';
import type { View } from '@zettak/core/session/protocol';
import { ViewUnpacker } from '@zettak/core/session/viewPack';
import { begunWorker } from './begun';

const worker = begunWorker('engine') ?? new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });

/** Parts of a session are reached through it, as in the worker. */
type Reached<T, Parts extends keyof T> = Remote<Omit<T, Parts>> & { readonly [part in Parts]: Remote<T[part]> };
export type Engine = Reached<Session, 'texts' | 'run' | 'hand' | 'past' | 'counting' | 'files' | 'definition' | 'soFar'>;

export const engine = wrap<Session>(worker) as unknown as Engine;

/** Told of mistakes of the engine's own. */
export const onFailure = (listener: (text: string) => void): Promise<void> => engine.onFailure(proxy(listener));

/** Told of views, each when `engine.shown` has said that the last one is. */
export function onView(listener: (view: View) => void): Promise<void> {
  const unpacker = new ViewUnpacker();
  return engine.subscribePacked(proxy((packed) => listener(unpacker.unpack(packed))));
}

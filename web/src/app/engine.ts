/** The page's end of the engine's worker. One worker for the whole page. */
import { proxy, wrap, type Remote } from 'comlink';
import type { Session } from '../bench/session';
import type { View } from '../bench/protocol';

const worker = new Worker(new URL('../engine.worker.ts', import.meta.url), { type: 'module' });

export const engine: Remote<Session> = wrap<Session>(worker);

export const onFailure = (listener: (text: string) => void): Promise<void> => engine.onFailure(proxy(listener));

export const onView = (listener: (view: View) => void): Promise<void> => engine.subscribe(proxy(listener));

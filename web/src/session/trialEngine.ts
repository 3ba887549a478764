/** The page's end of the worker that runs trials; made when the first screen asks for it. */
import { proxy, wrap, type Remote } from 'comlink';
import type { TrialBench } from '@zettak/core/session/trialBench';
import { begunWorker } from './begun';

const worker = begunWorker('trialEngine') ?? new Worker(new URL('./trialWorker.ts', import.meta.url), { type: 'module' });

export const trialEngine: Remote<TrialBench> = wrap<TrialBench>(worker);

/** A function that the worker may call. */
export const told = proxy;

/** Trials in a web worker of their own, so that a long run of all sets leaves the bench alone. */
import '../app/noEval';
import { expose } from 'comlink';
import { TrialBench } from '@zettak/core/session/trialBench';
import { scheduler } from './scheduler';

expose(new TrialBench(scheduler));

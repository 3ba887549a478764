/** The core in a web worker: one session, spoken to through comlink. */
import '../app/noEval';
import { expose } from 'comlink';
import { guarded } from '@zettak/core/session/guard';
import { Session } from '@zettak/core/session/session';
import { scheduler } from './scheduler';

expose(guarded(new Session(scheduler)));

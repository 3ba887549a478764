/** The core in a web worker: one session, spoken to through comlink. */
import { expose } from 'comlink';
import { guarded } from '@zettak/core/session/guard';
import type { Scheduler } from '@zettak/core/session/drive';
import { Session } from '@zettak/core/session/session';

/** A message channel lets other messages in and is not slowed down as timers are. */
const channel = new MessageChannel();
const waiting: (() => void)[] = [];
channel.port1.onmessage = () => waiting.shift()?.();

const scheduler: Scheduler = {
  now: () => performance.now(),
  later: (delay, act) => {
    let live = true;
    const once = (): void => {
      if (live) act();
    };
    if (delay > 0) setTimeout(once, delay);
    else {
      waiting.push(once);
      channel.port2.postMessage(null);
    }
    return () => {
      live = false;
    };
  },
};

expose(guarded(new Session(scheduler)));

/** When a worker goes on: as soon as the messages that wait have been let in. */
import type { Scheduler } from '@zettak/core/session/drive';

/** A message channel lets other messages in and is not slowed down as timers are. */
const channel = new MessageChannel();
const waiting: (() => void)[] = [];
channel.port1.onmessage = () => waiting.shift()?.();

export const scheduler: Scheduler = {
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

/** A bench without a page, for tests: its clock moves only when told to. */
import { curlewText } from './demo';
import type { Scheduler } from '../session/drive';
import { Session } from '../session/session';
import type { BreakSpec, View } from '../session/protocol';

/** Time that moves only when told to. */
function handClock() {
  let now = 0;
  let tasks: { at: number; act: () => void }[] = [];
  const scheduler: Scheduler = {
    now: () => (now += 2.1),
    later: (delay, act) => {
      const task = { at: now + delay, act };
      tasks.push(task);
      return () => void (tasks = tasks.filter((each) => each !== task));
    },
  };
  const advance = (count: number): void => {
    for (let turn = 0; turn < count && tasks.length > 0; turn++) {
      const [next] = tasks.sort((a, b) => a.at - b.at);
      tasks = tasks.filter((each) => each !== next);
      now = Math.max(now, next!.at);
      next!.act();
    }
  };
  return { scheduler, advance, waiting: () => tasks.length };
}

/** With `shows` false whoever tests says himself when a view has been shown. */
export function bench(source: string, machine = curlewText, { shows = true }: { shows?: boolean } = {}) {
  const clock = handClock();
  const session = new Session(clock.scheduler);
  const views: View[] = [];
  const { problems } = session.useMachine(machine);
  if (problems.length > 0) throw new Error(problems[0]!.sentence);
  session.subscribe((view) => {
    views.push(view);
    if (shows) session.shown();
  });
  const loaded = session.load(source, { clear: false, inputs: [] });
  return { ...clock, session, views, loaded, last: () => views.at(-1)! };
}

export const stopOn = (kind: BreakSpec['kind'], more: Partial<BreakSpec> = {}): BreakSpec => ({
  ...{ id: 1, kind, text: '', enabled: true, ignore: 0, print: '' },
  ...more,
});

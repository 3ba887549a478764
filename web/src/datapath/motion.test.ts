import { Motion } from './motion';

/** Time that moves only when told to. */
function handClock() {
  const tasks: { at: number; act: () => void }[] = [];
  let now = 0;
  return {
    later(delay: number, act: () => void) {
      const task = { at: now + delay, act };
      tasks.push(task);
      return () => void tasks.splice(tasks.indexOf(task), 1);
    },
    pass(ms: number) {
      now += ms;
      for (const task of tasks.filter((each) => each.at <= now)) task.act();
    },
  };
}

test('a view is shown when its tokens have arrived, and not before', () => {
  const clock = handClock();
  const shown: string[] = [];
  const motion = new Motion<string>((view) => shown.push(view), clock);
  motion.travel('one', 500);
  clock.pass(499);
  expect(shown).toEqual([]);
  clock.pass(1);
  expect(shown).toEqual(['one']);
  clock.pass(1000);
  expect(shown).toEqual(['one']);
});

test('the next view makes the one before arrive; a run that is given up shows nothing more', () => {
  const clock = handClock();
  const shown: string[] = [];
  const motion = new Motion<string>((view) => shown.push(view), clock);
  motion.travel('one', 500);
  motion.travel('two', 500);
  expect(shown).toEqual(['one']);
  expect([motion.forget(), motion.forget()]).toEqual([true, false]);
  clock.pass(1000);
  motion.land();
  expect(shown).toEqual(['one']);
});

import fc from 'fast-check';
import type { View } from './protocol';
import { ViewFlow } from './viewFlow';

interface World {
  readonly flow: ViewFlow;
  readonly told: View[];
  ticks: number | undefined;
  now: number;
}

function world(): World {
  const told: View[] = [];
  const made: World = {
    ...{ told, ticks: undefined, now: 0 },
    flow: new ViewFlow(() => made.now, {
      get ticks() {
        return made.ticks;
      },
      view: (moved) => ({ ticks: made.ticks, moved, sentence: 'as it stands' }) as View,
    }),
  };
  made.flow.subscribe((view) => void told.push(view));
  return made;
}
const ticksOf = (list: readonly View[]): number[] => list.map((each) => each.ticks);

test('nothing is told while there is nothing to show', () => {
  const it = world();
  it.flow.publish({ moved: false });
  it.flow.publish({ moved: false, now: true });
  it.flow.glance();
  expect(it.told).toEqual([]);
});

test('of views that come before the last one is shown only the newest goes out, when it is', () => {
  const it = world();
  for (it.ticks = 1; it.ticks <= 4; it.ticks++) it.flow.publish({ moved: true });
  it.ticks = 4;
  expect(ticksOf(it.told)).toEqual([1]);
  it.flow.shown();
  expect(ticksOf(it.told)).toEqual([1, 4]);
  it.flow.shown();
  it.flow.shown();
  expect(ticksOf(it.told)).toEqual([1, 4]);
});

test('a single tick can be shown as a movement, a leap cannot; what an answer waits for goes out at once', () => {
  const it = world();
  it.ticks = 1;
  it.flow.publish({ moved: true });
  it.ticks = 2;
  it.flow.publish({ moved: true, now: true });
  it.ticks = 9;
  it.flow.publish({ moved: true, now: true });
  expect(it.told.map((each) => each.moved)).toEqual([true, true, false]);
});

test('a sentence in place of the status goes with its view; what was to be told is forgotten on request', () => {
  const it = world();
  it.ticks = 1;
  it.flow.publish({ moved: false, sentence: 'Looking for it …' });
  it.flow.publish({ moved: false });
  it.flow.forget();
  it.flow.shown();
  expect(it.told.map((each) => each.sentence)).toEqual(['Looking for it …']);
});

test('what goes on is told as often as somebody can look, and not more', () => {
  const it = world();
  for (let ms = 0; ms < 1000; ms++) {
    it.now = ms;
    it.ticks = ms;
    it.flow.glance();
    it.flow.shown();
  }
  expect(it.told.length).toBeGreaterThan(25);
  expect(it.told.length).toBeLessThanOrEqual(31);
});

test('whatever happens in whatever order: nothing queues, and who shows all that comes ends with the newest', () => {
  const step = fc.constantFrom('tick', 'publish', 'publish now', 'shown', 'glance');
  fc.assert(
    fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
      const it = world();
      it.ticks = 0;
      let unshown = 0;
      for (const each of steps) {
        const before = it.told.length;
        it.now += 10;
        if (each === 'tick') it.ticks++;
        else if (each === 'publish') it.flow.publish({ moved: false });
        else if (each === 'publish now') it.flow.publish({ moved: false, now: true });
        else if (each === 'glance') it.flow.glance();
        else if (unshown > 0) {
          unshown--;
          it.flow.shown();
        }
        const came = it.told.length - before;
        if (each === 'publish' && unshown > 0) expect(came).toBe(0);
        expect(came).toBeLessThanOrEqual(1);
        unshown += came;
      }
      it.flow.publish({ moved: false });
      for (let at = 0; at < 100 && unshown > 0; at++) {
        const before = it.told.length;
        it.flow.shown();
        unshown += it.told.length - before - 1;
      }
      expect(unshown).toBe(0);
      expect(it.told.at(-1)?.ticks).toBe(it.ticks);
    }),
  );
});

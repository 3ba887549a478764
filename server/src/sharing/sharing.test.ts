import { MOST_FOLLOWERS, Sharing } from './sharing';
import type { Shared } from '@zettak/api/share';

/** A page that follows; busy until it is said to be free. */
function page() {
  const heard: Shared[] = [];
  const own = { busy: false };
  return Object.assign(own, { heard, send: (shared: Shared) => void heard.push(shared), isBusy: () => own.busy });
}

const run = (text: string) => JSON.stringify({ text });

test('whoever follows is told where the bench stands at once, and of every change', () => {
  const sharing = new Sharing();
  const token = sharing.open();
  expect(sharing.change({ run: run('one'), tick: 3, paused: false })).toBe(0);
  const own = page();
  sharing.follow(token, own);
  expect(sharing.change({ tick: 4, paused: false })).toBe(1);
  expect(own.heard.map(({ run: count, tick }) => [count, tick])).toEqual([
    [1, 3],
    [1, 4],
  ]);
  expect(sharing.seen(token)).toEqual({ shared: { run: 1, tick: 4, paused: false, ended: false }, definition: run('one') });
});

test('a page that is slow gets the newest when it can, and nothing in between', () => {
  const sharing = new Sharing();
  const token = sharing.open();
  const slow = page();
  sharing.follow(token, slow);
  slow.busy = true;
  for (let tick = 1; tick <= 100; tick++) sharing.change({ tick, paused: false });
  expect(slow.heard.length).toBe(1);
  slow.busy = false;
  sharing.free(slow);
  sharing.free(slow);
  expect(slow.heard.map((each) => each.tick)).toEqual([0, 100]);
});

test('while it is paused neither the run nor its tick can be had', () => {
  const sharing = new Sharing();
  const token = sharing.open();
  sharing.change({ run: run('shown'), tick: 5, paused: false });
  sharing.change({ run: run('hidden set'), tick: 77, paused: true });
  expect(sharing.seen(token)).toEqual({ shared: { run: 1, tick: 5, paused: true, ended: false }, definition: null });
  sharing.change({ tick: 6, paused: false });
  expect(sharing.seen(token).definition).toBe(run('shown'));
});

test('an ended share tells its pages, and its link leads nowhere; a new one ends the one before', () => {
  const sharing = new Sharing();
  const first = sharing.open();
  const own = page();
  sharing.follow(first, own);
  const second = sharing.open();
  expect(own.heard.at(-1)!.ended).toBe(true);
  expect(() => sharing.seen(first)).toThrow(/not shared any more/);
  expect(sharing.seen(second).shared.ended).toBe(false);
  sharing.end();
  expect(() => sharing.follow(second, own)).toThrow(/not shared any more/);
  expect(() => sharing.change({ tick: 1, paused: false })).toThrow(/Nothing is shared/);
});

test('two hundred pages and some follow; one too many is told so', () => {
  const sharing = new Sharing();
  const token = sharing.open();
  const leaves = Array.from({ length: MOST_FOLLOWERS }, () => sharing.follow(token, page()));
  expect(() => sharing.follow(token, page())).toThrow(/no room for more/);
  leaves[0]!();
  expect(() => sharing.follow(token, page())).not.toThrow();
});

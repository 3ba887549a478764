/** The page's end of the worker: views are answered when they are shown, each once, and one that cannot be shown is waited for by nobody. */
import { bench } from '@zettak/core/testing/bench';
import { ViewPacker, type PackedView } from '@zettak/core/session/viewPack';
import type { View } from '@zettak/core/session/protocol';

type Take = (packed: PackedView) => Promise<void>;
const mockFar: { take?: Take } = {};
jest.mock('comlink', () => ({
  proxy: (given: unknown) => given,
  wrap: () => ({
    subscribePacked: (take: Take) => {
      mockFar.take = take;
      return Promise.resolve();
    },
  }),
}));
jest.mock('./begun', () => ({ begunWorker: () => ({}) }));

import { onView, viewShown } from './engine';

/** Views of a run as they come over the channel. */
function packed(count: number): PackedView[] {
  const { session, views } = bench('start INC\n JUMP start\n');
  for (let at = 0; at < count; at++) session.run.command('tick');
  const packer = new ViewPacker();
  return views.slice(-count).map((each) => structuredClone(packer.pack(each)));
}

const settled = async (promise: Promise<void>): Promise<'answered' | 'refused' | 'open'> =>
  Promise.race([
    promise.then(
      () => 'answered' as const,
      () => 'refused' as const,
    ),
    new Promise<'open'>((resolve) => setImmediate(() => resolve('open'))),
  ]);

test('a view is answered when it has been shown, the oldest first', async () => {
  const seen: View[] = [];
  await onView((view) => void seen.push(view));
  const [first, second] = packed(2).map((each) => mockFar.take!(each)) as [Promise<void>, Promise<void>];
  expect(seen.map((each) => each.ticks)).toEqual([seen[0]!.ticks, seen[0]!.ticks + 1]);
  expect([await settled(first), await settled(second)]).toEqual(['open', 'open']);
  viewShown();
  expect([await settled(first), await settled(second)]).toEqual(['answered', 'open']);
  viewShown();
  expect(await settled(second)).toBe('answered');
  // There is nothing more to answer.
  viewShown();
});

test('a view that cannot be shown is refused, and the next one is answered for itself', async () => {
  let broken = true;
  await onView(() => {
    if (broken) throw new Error('cannot be drawn');
  });
  const [first, second] = packed(2) as [PackedView, PackedView];
  expect(await settled(mockFar.take!(first))).toBe('refused');
  broken = false;
  const next = mockFar.take!(second);
  expect(await settled(next)).toBe('open');
  viewShown();
  expect(await settled(next)).toBe('answered');
});

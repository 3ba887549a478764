import { whenBack } from './reachable';

/** A page with a network and a server that can be taken away; what was asked of it. */
function page(answers: boolean[]) {
  const listeners = new Map<string, Set<() => void>>();
  const asked: string[] = [];
  const own = {
    addEventListener: (name: string, act: () => void) => void listeners.set(name, (listeners.get(name) ?? new Set()).add(act)),
    removeEventListener: (name: string, act: () => void) => void listeners.get(name)?.delete(act),
  };
  const fetching = (path: string): Promise<{ ok: boolean }> => {
    asked.push(path);
    const there = answers.length > 1 ? answers.shift() : answers[0];
    return there ? Promise.resolve({ ok: true }) : Promise.reject(new Error('away'));
  };
  Object.assign(globalThis, { window: own, fetch: fetching });
  return {
    asked,
    tell: (name: string) => listeners.get(name)?.forEach((each) => each()),
    listening: () => [...listeners.values()].flatMap((each) => [...each]),
  };
}

const passing = async (ms: number): Promise<void> => {
  for (let at = 0; at < ms; at += 250) await jest.advanceTimersByTimeAsync(250);
};

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

test('a server that is back is noticed, told once, and not asked again', async () => {
  const { asked, listening } = page([false, false, true]);
  let back = 0;
  whenBack(() => back++);
  await passing(1000);
  expect([asked.length, back]).toEqual([1, 0]);
  await passing(10_000);
  expect([asked, back]).toEqual([['/api/health', '/api/health', '/api/health'], 1]);
  await passing(120_000);
  expect([asked.length, back, listening()]).toEqual([3, 1, []]);
});

test('the pauses grow, to a quarter of a minute at most', async () => {
  const { asked } = page([false]);
  const end = whenBack(() => undefined);
  await passing(31_000);
  const early = asked.length;
  expect(early).toBeLessThanOrEqual(6);
  await passing(60_000);
  expect(asked.length - early).toBeGreaterThanOrEqual(3);
  expect(asked.length - early).toBeLessThanOrEqual(5);
  end();
});

test('with a network again, or somebody looking, it is asked at once; what was called off is never told', async () => {
  const { asked, tell } = page([false, true]);
  let back = 0;
  whenBack(() => back++);
  tell('online');
  await passing(250);
  expect([asked.length, back]).toEqual([1, 0]);
  tell('focus');
  await passing(250);
  expect([asked.length, back]).toEqual([2, 1]);
  const other = page([true]);
  const end = whenBack(() => back++);
  end();
  other.tell('online');
  await passing(60_000);
  expect([other.asked, back]).toEqual([[], 1]);
});

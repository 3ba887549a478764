import 'fake-indexeddb/auto';
import { createStore, keys } from 'idb-keyval';
import { client, Refused, Unreachable } from './client';
import { isAway, isBack, KeptAnswers, keptAnswers, onBack, useKeptAnswers } from './keptAnswers';

afterAll(() => keptAnswers().write());

let count = 0;
const store = () => createStore(`answers${count++}`, 'answers');

test('what was answered last is there again, in another page too', async () => {
  const own = store();
  const answers = new KeptAnswers(
    () => own,
    () => 7,
  );
  answers.keep('/api/programs', ['first']);
  answers.keep('/api/programs', ['second']);
  expect(await answers.of('/api/programs')).toEqual({ at: 7, answer: ['second'] });
  await answers.write();
  expect(await new KeptAnswers(() => own).of('/api/programs')).toEqual({ at: 7, answer: ['second'] });
  expect(await answers.of('/api/programs/tide')).toBeUndefined();
});

test('what was seen longest ago makes room', async () => {
  const own = store();
  let now = 0;
  const answers = new KeptAnswers(
    () => own,
    () => now++,
  );
  for (let at = 0; at < 440; at++) answers.keep(`/${at}`, at);
  await answers.write();
  expect((await keys(own)).length).toBe(440);
  answers.keep('/0', 'seen again');
  for (let at = 440; at < 460; at++) answers.keep(`/${at}`, at);
  await answers.write();
  expect((await keys(own)).length).toBe(400);
  expect(await answers.of('/0')).toMatchObject({ answer: 'seen again' });
  expect([await answers.of('/1'), await answers.of('/60')]).toEqual([undefined, undefined]);
  expect(await answers.of('/61')).toMatchObject({ answer: 61 });
});

test('what is forgotten is gone, also what was not yet written', async () => {
  const own = store();
  const answers = new KeptAnswers(() => own);
  answers.keep('/a', 1);
  await answers.write();
  answers.keep('/b', 2);
  await answers.forget();
  expect([await answers.of('/a'), await answers.of('/b'), (await keys(own)).length]).toEqual([undefined, undefined, 0]);
});

test('a browser that keeps nothing is none to fail in', async () => {
  const answers = new KeptAnswers(() => {
    throw new Error('no storage');
  });
  answers.keep('/a', 1);
  expect(await answers.of('/a')).toMatchObject({ answer: 1 });
  await answers.write();
  await answers.forget();
  expect(await answers.of('/a')).toBeUndefined();
});

describe('a server that can be taken away', () => {
  let there = true;
  let status = 200;
  const document = { id: 'tide', kind: 'program', revision: 4, draft: 'HALT' };
  beforeEach(async () => {
    there = true;
    status = 200;
    isBack();
    await keptAnswers().forget();
    Object.assign(globalThis, {
      fetch: async (path: string) => {
        if (!there) throw new TypeError('network');
        return { ok: status < 400, status, json: async () => (status < 400 ? { ...document, asked: path } : { detail: 'no' }) };
      },
    });
  });

  test('is stood in for by what it answered last, which is told until it is back', async () => {
    const fresh = await client.get('program', 'tide');
    expect(useKeptAnswers.getState().seen).toBeUndefined();
    let back = 0;
    const end = onBack(() => back++);
    there = false;
    expect(await client.get('program', 'tide')).toEqual(fresh);
    expect(useKeptAnswers.getState().seen).toBeLessThanOrEqual(Date.now());
    await expect(client.get('program', 'never seen')).rejects.toThrow(Unreachable);
    expect(back).toBe(0);
    there = true;
    // One answer alone does not tell it: the others of the same screen may still be as they were seen last.
    await client.list('program');
    expect([useKeptAnswers.getState().seen === undefined, back]).toEqual([false, 0]);
    isBack();
    isBack();
    expect([useKeptAnswers.getState().seen, back]).toEqual([undefined, 1]);
    end();
  });

  test('what was saved is what is seen of it; what only the server can do fails', async () => {
    await client.saveDraft('program', 'tide', { text: 'HALT', revision: 3 });
    there = false;
    expect(await client.get('program', 'tide')).toMatchObject({ revision: 4, draft: 'HALT' });
    await expect(client.saveDraft('program', 'tide', { text: 'RET', revision: 4 })).rejects.toThrow(Unreachable);
    await expect(client.remove('program', 'tide')).rejects.toThrow(Unreachable);
  });

  test('what it refuses is refused, whatever is kept', async () => {
    await client.get('program', 'tide');
    status = 401;
    await expect(client.get('program', 'tide')).rejects.toThrow(Refused);
    expect(useKeptAnswers.getState().seen).toBeUndefined();
  });

  test('the oldest of what is shown is told', () => {
    isAway(20);
    isAway(10);
    isAway(30);
    expect(useKeptAnswers.getState().seen).toBe(10);
  });
});

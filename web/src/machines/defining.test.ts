/** A machine that is being defined, over the worker's side of it and an editor's state without a page. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { history } from '@codemirror/commands';
import { EditorState, type Transaction, type TransactionSpec } from '@codemirror/state';
import type { EditorView } from '@codemirror/view';
import { EditorHandle } from '../editor/handle';
import { keepIn, type Client } from '../documents/client';
import { Defining, plainAt, problemsIn, textAt } from './defining';

/** A look is kept back for as long as this is. */
const mockLook: { held?: Promise<void> | undefined } = {};
jest.mock('../session/engine', () => {
  const { Session } = jest.requireActual<typeof import('@zettak/core/session/session')>('@zettak/core/session/session');
  const { far, scheduler } = jest.requireActual<typeof import('../testing/page')>('../testing/page');
  const session = new Session(scheduler);
  const definition = far(session.definition);
  const slow = new Proxy(definition, {
    get: (of, name) => {
      const found = of[name as keyof typeof of] as (...given: readonly unknown[]) => Promise<unknown>;
      return name !== 'lookAgain' ? found : async (...given: readonly unknown[]) => (await mockLook.held, found(...given));
    },
  });
  return { engine: { definition: slow, texts: far(session.texts) } };
});

const curlew = readFileSync(join(__dirname, '../../../demo/machines/curlew.yaml'), 'utf8');
globalThis.requestAnimationFrame = (act) => setTimeout(() => act(0)) as unknown as number;

/** As much of an editor as a handle needs. */
function opened(text: string): { defining: Defining; type: (from: number, insert: string) => void } {
  const handle = new EditorHandle();
  const view = {
    state: EditorState.create({ doc: text, extensions: [history()] }),
    hasFocus: false,
    focus: () => undefined,
    dispatch(given: TransactionSpec | Transaction) {
      const made = 'state' in given && 'changes' in given && 'startState' in given ? given : view.state.update(given as TransactionSpec);
      view.state = made.state;
      if (made.docChanged) defining.changed(view.state.doc.toString());
    },
  };
  const defining = new Defining(handle, text);
  handle.attach(view as unknown as EditorView);
  return { defining, type: (from, insert) => view.dispatch({ changes: { from, insert } }) };
}

const open: Defining[] = [];
async function settled(text = curlew) {
  const all = opened(text);
  open.push(all.defining);
  await all.defining.settled();
  return all;
}
afterEach(() => open.splice(0).forEach((each) => each.close()));

const said = ({ state }: Defining): string[] =>
  (state.look?.problems ?? []).filter((each) => each.grade === 'error').map((each) => each.sentence);

test('a document is looked at when it is opened: its parts, its machine, no problem', async () => {
  const { defining } = await settled();
  expect(said(defining)).toEqual([]);
  expect(defining.state.sound?.machine?.name).toBe('Curlew');
  expect(defining.state.outline.find((each) => each.name === 'instructions')?.parts.length).toBeGreaterThan(10);
  expect(textAt(defining.state.look?.document, ['instructions', 'ADD', 'title'])).not.toBe('');
  expect(textAt(defining.state.look?.document, ['instructions', 'NOPE', 'title'])).toBe('');
  expect(plainAt(defining.state.look?.document, ['instructions', 'toString'])).toBeUndefined();
});

test('an act changes the text where it stands and no other place, and one undo takes it back', async () => {
  const { defining } = await settled();
  const path = ['instructions', 'ADD', 'title'];
  expect(await defining.act({ kind: 'set', path, value: 'bring together' })).toEqual(path);
  await defining.settled();
  expect(textAt(defining.state.look?.document, path)).toBe('bring together');
  const [before, after] = [curlew.split('\n'), defining.state.text.split('\n')];
  expect(after.filter((each, at) => each !== before[at])).toHaveLength(1);
  const { turned } = defining.state;
  defining.turn('undo');
  expect(defining.state.text).toBe(curlew);
  expect(defining.state.turned).toBe(turned + 1);
  defining.turn('redo');
  await defining.settled();
  expect(textAt(defining.state.look?.document, path)).toBe('bring together');
});

test('acts are done one after the other, in their order', async () => {
  const { defining } = await settled();
  const titles = ['one', 'two', 'three'];
  await Promise.all(titles.map((value) => defining.act({ kind: 'set', path: ['instructions', 'ADD', 'title'], value })));
  await defining.settled();
  expect(textAt(defining.state.look?.document, ['instructions', 'ADD', 'title'])).toBe('three');
});

test('what is typed into a field is written once it can be, the newest alone, and is one step of undo', async () => {
  const { defining } = await settled();
  const path = ['instructions', 'SUB', 'title'];
  for (const value of ['t', 'ta', 'tak', 'take']) defining.type(path, value);
  expect(defining.state.typing).toBe(true);
  await defining.settled();
  expect(defining.state.typing).toBe(false);
  expect(textAt(defining.state.look?.document, path)).toBe('take');
  defining.turn('undo');
  expect(defining.state.text).toBe(curlew);
});

test('what an act makes of the text is written with the look at it: nothing is drawn of one without the other', async () => {
  const { defining } = await settled();
  const path = ['instructions', 'ADD', 'title'];
  // The look comes a little after the change itself.
  mockLook.held = new Promise((resolve) => setImmediate(() => setImmediate(() => setImmediate(resolve))));
  const acting = defining.act({ kind: 'set', path, value: 'bring together' });
  let written = false;
  defining.store.subscribe(({ text }) => {
    if (written || text === curlew) return;
    written = true;
    // Whoever draws comes after all that is done now.
    setImmediate(() => shown.push(textAt(defining.state.look?.document, path)));
  });
  const shown: string[] = [];
  await acting;
  mockLook.held = undefined;
  await defining.settled();
  await new Promise((resolve) => setImmediate(resolve));
  expect(shown).toEqual(['bring together']);
});

test('a look that takes long is not waited for: the text is written before it', async () => {
  const { defining } = await settled();
  let go = (): void => undefined;
  mockLook.held = new Promise<void>((resolve) => (go = resolve));
  const path = ['instructions', 'ADD', 'title'];
  expect(await defining.act({ kind: 'set', path, value: 'bring together' })).toEqual(path);
  expect(defining.state.text).not.toBe(curlew);
  expect(textAt(defining.state.look?.document, path)).not.toBe('bring together');
  go();
  mockLook.held = undefined;
  await defining.settled();
  expect(textAt(defining.state.look?.document, path)).toBe('bring together');
});

test('an act on a text that somebody types into meanwhile is not done: what is typed counts', async () => {
  const { defining, type } = await settled();
  const acting = defining.act({ kind: 'set', path: ['instructions', 'ADD', 'title'], value: 'never' });
  await Promise.resolve();
  type(0, '# written meanwhile\n');
  expect(await acting).toBeUndefined();
  await defining.settled();
  expect(defining.state.text).toBe(`# written meanwhile\n${curlew}`);
});

test('an act that cannot be says why, until something else is chosen', async () => {
  const { defining } = await settled();
  expect(await defining.act({ kind: 'rename', path: ['instructions', 'ADD'], name: 'SUB' })).toBeUndefined();
  expect(defining.state.refused).toMatch(/SUB/);
  expect(defining.state.text).toBe(curlew);
  defining.choose(['instructions', 'ADD']);
  expect(defining.state.refused).toBe('');
});

test('while the text is no YAML the last sound machine stays to be seen, and no act is done', async () => {
  const { defining, type } = await settled();
  type(curlew.indexOf('instructions:'), '}{\n');
  await defining.settled();
  expect(defining.state.look?.document).toBeUndefined();
  expect(said(defining).length).toBeGreaterThan(0);
  expect(defining.state.sound?.machine?.name).toBe('Curlew');
  expect(defining.state.outline.some((each) => each.name === 'instructions')).toBe(true);
  expect(await defining.act({ kind: 'remove', path: ['instructions', 'ADD'] }).catch(() => undefined)).toBeUndefined();
});

test('of texts that come faster than they are looked at the last one is looked at', async () => {
  const { defining, type } = await settled();
  for (let turn = 0; turn < 20; turn++) type(0, '# x\n');
  await defining.settled();
  expect(defining.state.look?.text).toBe(defining.state.text);
  expect(defining.state.text.startsWith('# x\n'.repeat(20))).toBe(true);
});

test('a mistake is told with the part that it stands in; going to it chooses that', async () => {
  const { defining } = await settled();
  await defining.act({ kind: 'set', path: ['instructions', 'ADD', 'forms', 0, 'execute'], value: 'ACCU <- ACC + value' });
  await defining.settled();
  const [problem] = problemsIn(defining.state.look, ['instructions', 'ADD']).filter((each) => each.grade === 'error');
  expect(problem?.sentence).toMatch(/ACCU/);
  expect(problemsIn(defining.state.look, ['registers'])).toEqual([]);
  defining.goTo(problem!);
  expect(defining.state.chosen.slice(0, 2)).toEqual(['instructions', 'ADD']);
});

test('the chosen instruction is tried with what it is given', async () => {
  const { defining } = await settled();
  defining.choose(['instructions', 'ADD']);
  await defining.settled();
  for (let turn = 0; turn < 50 && !defining.state.look?.tried; turn++) await new Promise((resolve) => setTimeout(resolve, 10));
  expect(defining.state.look?.tried?.length).toBeGreaterThan(0);
});

test('a machine that is based on another is looked at with that, and an act writes what it does otherwise', async () => {
  const versions = [{ number: 1, createdAt: '' }];
  keepIn({
    list: async () => [{ id: 'curlew', name: 'Curlew', versions }],
    version: async () => ({ text: curlew }),
  } as unknown as Client);
  const { defining } = await settled('machine: Young\nbased on: Curlew\n');
  expect(said(defining)).toEqual([]);
  expect(defining.state.sound?.machine?.name).toBe('Young');
  await defining.act({ kind: 'set', path: ['instructions', 'ADD', 'title'], value: 'another' });
  await defining.settled();
  expect(defining.state.text).toMatch(/based on: Curlew\n[^]*ADD[^]*another/);
  expect(textAt(defining.state.look?.document, ['instructions', 'ADD', 'title'])).toBe('another');
});

test('the face of the text is shown at the chosen part, and the parts at the cursor', async () => {
  const { defining } = await settled();
  defining.choose(['instructions', 'SUB']);
  defining.show('text');
  expect(defining.state.face).toBe('text');
  defining.editor.goToOffset(curlew.indexOf('\nregisters:') + 20);
  defining.show('parts');
  expect(defining.state.chosen[0]).toBe('registers');
});

test('a machine with a mistake, opened after a sound one, has nothing of that; mended it is its own', async () => {
  const first = await settled();
  expect(first.defining.state.sound?.machine?.name).toBe('Curlew');
  first.defining.close();
  const broken = curlew.replace('machine: Curlew', 'machine: Other').replace('ACC + value', 'ACCU + value');
  const { defining, type } = await settled(broken);
  expect(said(defining)).not.toEqual([]);
  expect(defining.state.sound).toBeUndefined();
  // What its instructions do is told once it is sound, and never by the other machine's.
  defining.choose(['instructions', 'ADD']);
  await defining.settled();
  await new Promise((resolve) => setTimeout(resolve, 50));
  expect(defining.state.look?.tried).toBeUndefined();
  await defining.act({ kind: 'set', path: ['instructions', 'ADD', 'forms', 0, 'execute'], value: 'ACC <- ACC + value ; flags Z N' });
  await defining.settled();
  expect(said(defining)).toEqual([]);
  expect(defining.state.sound?.machine?.name).toBe('Other');
  expect(defining.state.look?.tried?.length).toBeGreaterThan(0);
  type(0, '# more\n');
  await defining.settled();
  expect(defining.state.sound?.machine?.name).toBe('Other');
});

test('once it is closed nothing of a look comes back', async () => {
  const { defining, type } = await settled();
  const { look } = defining.state;
  type(0, '# last\n');
  defining.close();
  await new Promise((resolve) => setTimeout(resolve, 100));
  expect(defining.state.look).toBe(look);
});

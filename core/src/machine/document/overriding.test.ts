import fc from 'fast-check';
import { mergedTree, REMOVED, overridden, partAt } from './overriding';
import { editTree, EditRefused, plainOf, treeOf, type DocumentEdit, type Tree } from './tree';

const base = treeOf({
  word: { bits: '8' },
  registers: { PC: { role: 'program counter' }, ACC: { role: 'accumulator', start: '0' } },
  instructions: {
    ADD: {
      title: 'add',
      forms: [
        { write: 'ADD', execute: 'a' },
        { write: 'ADD {x}', execute: 'b' },
      ],
    },
    SUB: { title: 'sub' },
  },
});
const own = treeOf({ machine: 'Ruff', 'based on': 'Knot', registers: { ACC: { start: '7' }, T: { role: 'temporary' } } });

const after = (edit: DocumentEdit): Tree => {
  const edits = overridden(base, own, edit);
  if ('refused' in edits) throw new Error(edits.refused.code);
  return edits.reduce((tree, each) => editTree(tree, each), own);
};

test.each<[string, DocumentEdit, object]>([
  [
    'a value that is inherited is written here, with nothing else of its part',
    { kind: 'set', path: ['registers', 'PC', 'role'], value: 'general' },
    { registers: { ACC: { start: '7' }, T: { role: 'temporary' }, PC: { role: 'general' } } },
  ],
  ['its parents are written where they are missing', { kind: 'set', path: ['word', 'bits'], value: '16' }, { word: { bits: '16' } }],
  [
    'of a list all is written',
    { kind: 'set', path: ['instructions', 'ADD', 'forms', 1, 'execute'], value: 'c' },
    {
      instructions: {
        ADD: {
          forms: [
            { write: 'ADD', execute: 'a' },
            { write: 'ADD {x}', execute: 'c' },
          ],
        },
      },
    },
  ],
  ['an inherited part is taken away', { kind: 'remove', path: ['instructions', 'SUB'] }, { instructions: { SUB: 'removed' } }],
  ['a part of its own is removed', { kind: 'remove', path: ['registers', 'T'] }, { registers: { ACC: { start: '7' } } }],
  [
    'an inherited part is renamed by taking it away and writing it anew',
    { kind: 'rename', path: ['instructions', 'SUB'], name: 'LESS' },
    { instructions: { SUB: 'removed', LESS: { title: 'sub' } } },
  ],
])('%s', (_, edit, wanted) => {
  expect(plainOf(after(edit))).toEqual({ ...(plainOf(own) as object), ...wanted });
});

test('the order of inherited parts is not changed here', () => {
  expect(overridden(base, own, { kind: 'move', path: ['instructions', 'SUB'], to: 0 })).toMatchObject({
    refused: { code: 'inherited-order' },
  });
  expect(overridden(base, own, { kind: 'remove', path: ['flags', 'Z'] })).toMatchObject({ refused: { code: 'no-such-part' } });
});

const names = ['A', 'B', 'C'];
const { map: tree } = fc.letrec<{ tree: Tree; map: Tree }>((tie) => ({
  tree: fc.oneof({ maxDepth: 3 }, fc.constantFrom('1', '2', 'x', 'removed'), tie('map')),
  map: fc
    .uniqueArray(fc.tuple(fc.constantFrom(...names), tie('tree')), { maxLength: 3, selector: ([name]) => name })
    .map((map) => ({ map })),
}));
const path = fc.array(fc.constantFrom(...names), { minLength: 1, maxLength: 3 });
const edit: fc.Arbitrary<DocumentEdit> = fc.oneof(
  path.map((each): DocumentEdit => ({ kind: 'set', path: each, value: 'new' })),
  path.map((each): DocumentEdit => ({ kind: 'insert', path: each, value: { A: 'in' } })),
  path.map((each): DocumentEdit => ({ kind: 'remove', path: each })),
  fc.tuple(path, fc.constantFrom(...names, 'D')).map(([each, name]): DocumentEdit => ({ kind: 'rename', path: each, name })),
);

/** Order aside: what is inherited keeps its place. */
const same = (one: Tree | undefined, other: Tree | undefined): void => expect(one && plainOf(one)).toEqual(other && plainOf(other));

test('whatever is edited, the whole is then as if it were edited itself', () => {
  fc.assert(
    fc.property(tree, tree, edit, (under, over, change) => {
      if (typeof under === 'string' || typeof over === 'string') return;
      const whole = mergedTree(under, over);
      // What is taken away without having been there is a text like any other.
      if (JSON.stringify(whole).includes(REMOVED)) return;
      let wanted: Tree;
      try {
        wanted = editTree(whole, change);
      } catch (error) {
        if (!(error instanceof EditRefused)) throw error;
        return expect(overridden(under, over, change)).toHaveProperty('refused');
      }
      const edits = overridden(under, over, change);
      if ('refused' in edits) throw new Error(edits.refused.code);
      same(
        mergedTree(
          under,
          edits.reduce<Tree>((each, one) => editTree(each, one), over),
        ),
        wanted,
      );
      if (change.kind === 'set') same(partAt(wanted, change.path), 'new');
    }),
    { numRuns: 2000 },
  );
});

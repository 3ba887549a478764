import fc from 'fast-check';
import { parseDocument } from 'yaml';
import { demoMachines, fixtures } from '../../testing/demo';
import { applyChanges, editDocument, inverseOf, type Edited } from './edits';
import { incrementalParser } from './incremental';
import { starter } from '../../testing/starter';
import { editTree, treeOfNode, type DocumentEdit, type Plain, type Tree } from './tree';
import type { Path } from './yaml';

const numRuns = Number(process.env.ZETTAK_RUNS ?? 8);

const edited = (text: string, edit: DocumentEdit): Edited => {
  const result = editDocument(text, edit);
  if ('refused' in result) throw new Error(JSON.stringify(result.refused));
  return result;
};
const treeIn = (text: string): Tree => {
  const document = parseDocument(text, { schema: 'failsafe', logLevel: 'silent' });
  if (document.errors.length > 0) throw new Error(`${document.errors[0]!.message}\n${text}`);
  return treeOfNode(document.contents);
};

const page = `# The harbour's machine.
machine: Knot   # its name
word: {bits: 8}

registers:
  # Where the next instruction lies.
  PC: {role: program counter}
  # The accumulator.
  ACC:
    role: accumulator   # a remark

    start: 3
flags: {}
instructions:
  LOAD:
    forms:
      # immediate
      - write: 'LOAD #{value}'
        code: value opcode=1
        execute: |
          ACC <- value
          PC <- next
      - write: LOAD {address}
        code: place opcode=2
  HALT: {forms: [{write: HALT, code: alone opcode=3, execute: halt}]}
`;

test.each<[what: string, edit: DocumentEdit, from: string, to: string]>([
  ['a value in braces', { kind: 'set', path: ['word', 'bits'], value: '16' }, '{bits: 8}', '{bits: 16}'],
  ['a value with a remark behind it', { kind: 'set', path: ['machine'], value: 'Ruff' }, 'Knot   # its', 'Ruff   # its'],
  ['a text that needs quotes', { kind: 'set', path: ['machine'], value: 'a: b' }, 'Knot   #', "'a: b'   #"],
  ['a name', { kind: 'rename', path: ['registers', 'ACC'], name: 'A' }, '  ACC:\n', '  A:\n'],
  ['a part in braces is added', { kind: 'insert', path: ['word', 'base'], value: 'octal' }, '{bits: 8}', '{bits: 8, base: octal}'],
  [
    'a part is added at the end',
    { kind: 'set', path: ['registers', 'X'], value: { title: 'index' } },
    '    start: 3\n',
    '    start: 3\n  X: {title: index}\n',
  ],
  ['a part is added first', { kind: 'insert', path: ['registers', 'X'], value: 'x', at: 0 }, '  PC: {', '  X: x\n  PC: {'],
  ['a part of nothing', { kind: 'set', path: ['flags', 'Z'], value: { rule: 'zero' } }, 'flags: {}', 'flags: {Z: {rule: zero}}'],
  ['a part is removed, its remark stays', { kind: 'remove', path: ['registers', 'ACC', 'start'] }, '\n    start: 3\n', '\n'],
  ['the only part is removed', { kind: 'remove', path: ['word', 'bits'] }, '{bits: 8}', '{}'],
  [
    'a form is removed',
    { kind: 'remove', path: ['instructions', 'LOAD', 'forms', 1] },
    '      - write: LOAD {address}\n        code: place opcode=2\n',
    '',
  ],
  [
    'ticks are written under “|”',
    { kind: 'set', path: ['instructions', 'LOAD', 'forms', 1, 'execute'], value: 'MAR <- address\nACC <- M[MAR]\n' },
    'opcode=2\n',
    'opcode=2\n        execute: |\n          MAR <- address\n          ACC <- M[MAR]\n',
  ],
  [
    'ticks become one',
    { kind: 'set', path: ['instructions', 'LOAD', 'forms', 0, 'execute'], value: 'halt' },
    '|\n          ACC <- value\n          PC <- next\n',
    'halt\n',
  ],
  [
    'a form is added',
    { kind: 'insert', path: ['instructions', 'LOAD', 'forms', 1], value: { write: 'LOAD X', code: 'alone opcode=4' } },
    '          PC <- next\n',
    '          PC <- next\n      - {write: LOAD X, code: alone opcode=4}\n',
  ],
])('%s: only that changes', (_what, edit, from, to) => {
  expect(page.split(from).length).toBe(2);
  const result = edited(page, edit);
  expect(result.text).toBe(page.replace(from, to));
  expect(result.rewritten).toBeUndefined();
  expect(applyChanges(result.text, inverseOf(page, result.changes))).toBe(page);
});

test('a part moves with the remark above it', () => {
  const { text } = edited(page, { kind: 'move', path: ['registers', 'ACC'], to: 0 });
  expect(text).toContain(
    'registers:\n  # The accumulator.\n  ACC:\n    role: accumulator   # a remark\n\n    start: 3\n  # Where the next instruction lies.\n  PC: {role',
  );
});

test.each<[what: string, text: string, edit: DocumentEdit, code: string]>([
  ['no YAML', 'machine: [', { kind: 'set', path: ['machine'], value: 'X' }, 'no-document'],
  ['a list', '- a\n- b\n', { kind: 'remove', path: [0] }, 'no-document'],
  ['two documents', 'machine: A\n---\nmachine: B\n', { kind: 'set', path: ['machine'], value: 'X' }, 'no-document'],
  ['a part that is not there', page, { kind: 'remove', path: ['registers', 'X'] }, 'no-such-part'],
  ['a name that is taken', page, { kind: 'rename', path: ['registers', 'ACC'], name: 'PC' }, 'name-taken'],
  ['a part that is there', page, { kind: 'insert', path: ['registers', 'PC'], value: 'x' }, 'name-taken'],
  ['a name of two lines', page, { kind: 'rename', path: ['registers', 'PC'], name: 'a\nb' }, 'no-name'],
  ['a hostile name', page, { kind: 'set', path: ['__proto__'], value: 'x' }, 'no-name'],
  ['an item past the end', page, { kind: 'insert', path: ['instructions', 'LOAD', 'forms', 5], value: 'x' }, 'no-such-part'],
])('%s is refused', (_what, text, edit, code) => {
  expect(editDocument(text, edit)).toMatchObject({ refused: { code } });
});

/** All paths of a tree, its root left out. */
const pathsOf = (tree: Tree, path: Path = []): Path[] => {
  const own = path.length === 0 ? [] : [path];
  if (typeof tree === 'string') return own;
  const parts = 'list' in tree ? tree.list.map((each, at) => [at, each] as const) : tree.map;
  return [...own, ...parts.flatMap(([key, each]) => pathsOf(each, [...path, key]))];
};

const scalar = fc.oneof(
  fc.constantFrom(
    'halt',
    'ACC <- ACC + 1 ; flags Z',
    "'LOAD #{value}'",
    'a: b',
    '# no remark',
    '-',
    '{x}',
    '[',
    'yes',
    '',
    ' ',
    '0x1F',
    'two\nlines\n',
    'a\n\nb',
    '\tx',
    '|',
    '&a',
    '*b',
    '!c',
    '%d',
    '@e',
    'ö',
    '"q"',
    'x #y',
    '- z',
    '? k',
    'tail ',
    'x:\ny',
  ),
  fc.string({ maxLength: 12 }),
);
const value = fc.letrec<{ value: Plain }>((tie) => ({
  value: fc.oneof(
    { depthSize: 'small' },
    scalar,
    fc.array(tie('value'), { maxLength: 3 }),
    fc.dictionary(fc.constantFrom('title', 'role', 'bits', 'a b', 'x'), tie('value'), { maxKeys: 3 }),
  ),
})).value;
const name = fc.constantFrom('NEW', 'Z', '7', 'two words', 'it: is', '#x', 'PC', 'é');

const editFor = (tree: Tree): fc.Arbitrary<DocumentEdit> => {
  const paths = pathsOf(tree);
  const path = fc.nat(paths.length - 1).map((at) => paths[at]!);
  return fc.oneof(
    fc.record({ kind: fc.constant('set' as const), path, value }),
    fc.record({ kind: fc.constant('remove' as const), path }),
    fc.record({ kind: fc.constant('rename' as const), path, name }),
    fc.record({ kind: fc.constant('move' as const), path, to: fc.nat(12) }),
    fc
      .record({ path, name, value, at: fc.option(fc.nat(6), { nil: undefined }) })
      .map(({ path: parent, name: own, value: put, at }): DocumentEdit => {
        const key = Array.isArray((partAt(tree, parent) as { list?: unknown } | undefined)?.list) ? (at ?? 0) : own;
        return { kind: 'insert', path: [...parent, key], value: put, ...(at !== undefined && { at }) };
      }),
  );
};
const partAt = (tree: Tree, path: Path): Tree | undefined =>
  path.reduce<Tree | undefined>(
    (node, key) =>
      node === undefined || typeof node === 'string'
        ? undefined
        : 'list' in node
          ? node.list[key as number]
          : node.map.find(([each]) => each === key)?.[1],
    tree,
  );

const remarksOf = (text: string): string[] => text.split('\n').filter((each) => /^\s*#/.test(each));

const documents = [...demoMachines, ...fixtures, { name: 'starter', text: starter }, { name: 'page', text: page }];
/** Edits of all documents, and those of them that wrote a part anew. */
const counts = { made: 0, rewritten: 0 };

test.each(documents.map(({ name: own, text }) => [own, text] as const))(
  '%s: edits mean what they say, leave a text that is read, and are taken back to the letter',
  (_name, text) => {
    fc.assert(
      fc.property(fc.array(fc.nat(), { minLength: 1, maxLength: 6 }), (seeds) => {
        const texts = [text];
        // As where somebody edits: one parser for all the texts.
        const parse = incrementalParser();
        const inverses: ReturnType<typeof inverseOf>[] = [];
        for (const seed of seeds) {
          const now = texts.at(-1)!;
          const before = treeIn(now);
          const [edit] = fc.sample(editFor(before), { numRuns: 1, seed });
          const result = editDocument(now, edit!, parse);
          if ('refused' in result) {
            expect(() => editTree(before, edit!)).toThrow();
            continue;
          }
          expect(treeIn(result.text)).toEqual(editTree(before, edit!));
          expect(result.text).toBe(applyChanges(now, result.changes));
          counts.made++;
          if (result.rewritten) counts.rewritten++;
          else if (edit!.kind !== 'remove' && edit!.kind !== 'set')
            expect(remarksOf(result.text).sort()).toEqual(expect.arrayContaining(remarksOf(now).sort()));
          texts.push(result.text);
          inverses.push(inverseOf(now, result.changes));
        }
        for (let at = inverses.length - 1; at >= 0; at--) expect(applyChanges(texts[at + 1]!, inverses[at]!)).toBe(texts[at]);
      }),
      { numRuns },
    );
  },
);

// Over all documents: in one of them chance decides.
test('what has to be written anew is rare', () => {
  expect(counts.made).toBeGreaterThan(numRuns * documents.length);
  expect(counts.rewritten / counts.made).toBeLessThan(0.1);
});

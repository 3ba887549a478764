import fc from 'fast-check';
import { isMap, isScalar, isSeq } from 'yaml';
import { demoMachines, fixtures } from '../../testing/demo';
import { incrementalParser } from './incremental';
import { parseYaml } from './parsed';

/** Every name and every text with where it stands; and where lists and maps begin. */
function places(node: unknown): unknown {
  const { range } = (node ?? {}) as { range?: readonly number[] };
  if (isMap(node)) return { at: range?.[0], items: node.items.map(({ key, value }) => [places(key), places(value)]) };
  if (isSeq(node)) return { at: range?.[0], items: node.items.map(places) };
  return isScalar(node) ? [node.value, node.type, range?.[0], range?.[1], node.comment?.split('\n')[0]] : node;
}

const expectSame = (parse: ReturnType<typeof incrementalParser>, text: string): void => {
  const [found, wanted] = [parse(text), parseYaml(text)];
  expect(found.errors.length).toBe(wanted.errors.length);
  if (wanted.errors.length > 0) return;
  expect(places(found.contents)).toEqual(places(wanted.contents));
  expect(found.toJS()).toEqual(wanted.toJS());
};

const texts = [...demoMachines, ...fixtures].map((each) => each.text);

test('every machine is parsed as it is in one go', () => {
  const parse = incrementalParser();
  for (const text of texts) expectSame(parse, text);
});

test.each<[string, string]>([
  ['nothing', ''],
  ['a remark alone', '# nothing\n'],
  ['a list', '- a\n'],
  ['one name twice', 'a: 1\nb: 2\na: 3\n'],
  ['two documents', 'a: 1\n---\nb: 2\n'],
  ['braces that end on the left', 'a: {b: 1,\n c: 2\n}\nd: 1\n'],
  ['a tab', 'a:\n\tb: 1\n'],
  ['a text in quotes over several lines', 'a: "one\n  two: x"\nb: 1\n'],
  ['an alias', 'a: &x 1\nb: *x\n'],
  ['remarks everywhere', '# one\n\na: 1 # two\n# three\nb:\n  # four\n  c: 1\n\n# five\n'],
])('%s is told and read as ever', (_, text) => {
  expectSame(incrementalParser(), text);
});

test('whatever is typed, one parser sees what a fresh one does', () => {
  const change = fc.record({
    at: fc.double({ min: 0, max: 1, noNaN: true }),
    cut: fc.nat(6),
    put: fc.constantFrom('', 'x', ' ', '\n', ': ', '#', '  A: {title: b}\n', "'", '{', '- ', '|\n', 'PC'),
  });
  fc.assert(
    fc.property(fc.constantFrom(...texts), fc.array(change, { maxLength: 12 }), (text, changes) => {
      const parse = incrementalParser();
      let now = text;
      expectSame(parse, now);
      for (const { at, cut, put } of changes) {
        const from = Math.floor(at * now.length);
        now = now.slice(0, from) + put + now.slice(from + cut);
        expectSame(parse, now);
        // Typed and taken back: the pieces of before are there still.
        if (parseYaml(now).errors.length > 0) expectSame(parse, text);
      }
    }),
    { numRuns: Number(process.env.ZETTAK_RUNS ?? 3) * 2 },
  );
});

/** Texts in columns say what their lines said one by one. */
import fc from 'fast-check';
import { DECIMAL } from '../../text/number';
import type { AssemblyProblem } from '../problems';
import { Tokenizer, tokenizeLine } from './tokenize';
import { readerOf, Tokens } from './tokens';

/** All lines of a text in one set of columns; the places where the lines begin and end in it. */
function readAll(lines: readonly string[]): { tokens: Tokens; borders: number[]; problems: AssemblyProblem[] } {
  const problems: AssemblyProblem[] = [];
  const tokens = new Tokens();
  const tokenizer = new Tokenizer(lines.join('\n'), 0, problems);
  const borders = [0];
  let from = 0;
  for (const line of lines) {
    tokenizer.read(from, from + line.length, DECIMAL, tokens);
    borders.push(tokens.count);
    from += line.length + 1;
  }
  return { tokens, borders, problems };
}

const said = (list: readonly { kind: string; text: string; key: string; start: number; end: number; value: number | undefined }[]) =>
  list.map(({ kind, text, key, start, end, value }) => ({ kind, text, key, start, end, value }));

const word = fc.oneof(
  fc.constantFrom(
    'LOAD',
    'load',
    'Aa',
    'BB',
    'AaBB',
    'BBAa',
    'AaAa',
    '#',
    ',',
    '<<',
    '.cells',
    '"a;b"',
    "'x'",
    '0x1F',
    '12',
    '; rest',
    'a.b',
    'é',
    '"open',
  ),
  fc.string({ maxLength: 6 }).map((text) => text.replaceAll('\n', ' ')),
);
const line = fc.array(word, { maxLength: 5 }).map((words) => words.join(' '));

test('a line says the same alone and among others, at its place', () => {
  fc.assert(
    fc.property(fc.array(line, { minLength: 1, maxLength: 30 }), (lines) => {
      const { tokens, borders, problems } = readAll(lines);
      const alone: AssemblyProblem[] = [];
      let offset = 0;
      lines.forEach((text, at) => {
        const expected = tokenizeLine(text, offset, DECIMAL, alone).slice(0, -1);
        expect(said(tokens.list(borders[at]!, borders[at + 1]!).slice(0, -1))).toEqual(said(expected));
        offset += text.length + 1;
      });
      expect(problems).toEqual(alone);
    }),
    { numRuns: 200 },
  );
});

test('a word is kept once, however many others there are, and words that look alike to a sum of their letters stay apart', () => {
  const names = Array.from({ length: 2000 }, (_, at) => `name_${at}`);
  const { tokens, borders } = readAll([...names, ...names, 'Aa BB', 'BB Aa']);
  for (let at = 0; at < names.length; at++) {
    expect(tokens.wordAt(at).text).toBe(names[at]);
    expect(tokens.wordAt(at + names.length)).toBe(tokens.wordAt(at));
  }
  const last = borders.at(-1)! - 4;
  expect([0, 1, 2, 3].map((at) => tokens.wordAt(last + at).text)).toEqual(['Aa', 'BB', 'BB', 'Aa']);
  expect(tokens.wordAt(tokens.count).kind).toBe('end');
});

test('behind the last word of a line a reader stands at its end, whatever the next line has', () => {
  const reader = readerOf(tokenizeLine('ADD #3 ; more', 10, DECIMAL, []));
  expect(reader.word(1)).toMatchObject({ kind: 'sign', text: '#' });
  reader.at = 3;
  expect(reader.isAtEnd).toBe(true);
  expect(reader.word().kind).toBe('end');
  expect(reader.span).toEqual({ start: 16, end: 16 });
});

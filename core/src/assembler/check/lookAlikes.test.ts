import { curlew } from '../../testing/demo';
import { withMend } from '../../testing/mending';
import { assemble } from '../assemble';

const errorsOf = (text: string) => assemble(curlew, text).problems.filter((each) => each.grade === 'error');

test.each([
  [
    'full-width letters',
    ' \uFF2C\uFF2F\uFF21\uFF24 #1\n HALT',
    '“\uFF2C\uFF2F\uFF21\uFF24” has full-width characters. Write LOAD',
    ' LOAD #1\n HALT',
  ],
  ['a blank without width', ' LO\u200BAD #1\n HALT', 'An invisible character (U+200B) is here. Delete it.', ' LOAD #1\n HALT'],
  ['a soft hyphen', ' LOAD\u00AD #1\n HALT', 'An invisible character (U+00AD) is here. Delete it.', ' LOAD #1\n HALT'],
  ['a curly quote', ' LOAD #\u2018a\u2019\n HALT', "\u2018 is a curly quote. Write '", undefined],
  ['a dash', ' LOAD #\u22125\n HALT', '\u2212 is a dash, not the minus sign of a program. Write -', ' LOAD #-5\n HALT'],
])('%s is named as what it is, and nothing else is said of its line', (_, text, sentence, mended) => {
  const errors = errorsOf(text);
  expect(errors.map((each) => [each.line, each.sentence])).toEqual([[1, sentence]]);
  if (mended === undefined) return;
  expect(withMend(text, errors[0]!.mend!)).toBe(mended);
  expect(errorsOf(mended)).toEqual([]);
});

test.each([
  ['in a comment', ' LAOD #1 ; \u201Chigh\u201D \u2013 low'],
  ['in a text', ' .text "\u201Chigh\u201D"\n LAOD #1'],
  ['a letter of another language', ' LOAD pegelhöhe'],
])('what stands %s is no look-alike', (_, text) => {
  expect(errorsOf(text).some((each) => each.code === 'look-alike')).toBe(false);
});

test('a long chain of names has a sentence that does not speak of a circle; a circle has one that does', () => {
  const chain = Array.from({ length: 900 }, (_, at) => `n${at} = n${at + 1}`).join('\n');
  expect(errorsOf(`${chain}\nn900 = 5\n LOAD #n0\n HALT`)[0]!.sentence).toMatch(/^“n\d+” stands at the end of too many names/);
  expect(errorsOf('a = b\nb = a\n LOAD #a\n HALT')[0]!.code).toBe('constant-circle');
});

test('one part too many is told as that, and not as a part that does not exist', () => {
  const parts = new Map(Array.from({ length: 90 }, (_, at) => [`p${at}`, ` .include "p${at + 1}"`] as const));
  const { problems } = assemble(curlew, ' .include "p0"\n HALT', { parts });
  expect(problems.map((each) => each.sentence.replace(/^In “p\d+”, line 1: /, ''))).toContain(
    'A program takes in at most 64 parts. Put some of them together.',
  );
});

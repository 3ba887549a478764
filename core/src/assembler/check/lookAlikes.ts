/** Characters that look like those of a program and are others: from word processors, other keyboards, copied pages. */
import { placeAt } from '../../text/source';
import type { Unit } from '../read/syntax';
import type { AssemblyProblem } from '../problems';

/** What stands for a character; '' where it only has to go. */
function plainOf(character: string): string | undefined {
  if (/[\u201C\u201D\u201E]/u.test(character)) return '"';
  if (/[\u2018\u2019\u201A]/u.test(character)) return "'";
  if (/[\u2010-\u2015\u2212]/u.test(character)) return '-';
  if (/[\uFF01-\uFF5E]/u.test(character)) return String.fromCharCode(character.charCodeAt(0) - 0xfee0);
  return /\p{Default_Ignorable_Code_Point}/u.test(character) ? '' : undefined;
}

function whatOf(character: string, word: string): string {
  if (/[\u2018-\u201E]/u.test(character)) return `${character} is a curly quote.`;
  if (/[\u2010-\u2015\u2212]/u.test(character)) return `${character} is a dash, not the minus sign of a program.`;
  if (/[\uFF01-\uFF5E]/u.test(character)) return `“${word}” has full-width characters.`;
  return `An invisible character (U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}) is here.`;
}

/** For each line with an error, the first look-alike outside its texts in straight quotes and its comment. */
export function lookAlikes(units: readonly Unit[], problems: readonly AssemblyProblem[]): AssemblyProblem[] {
  const seen = new Set<string>();
  return problems.flatMap(({ grade, span }): AssemblyProblem[] => {
    const unit = units.findLast((each) => span.start >= each.offset);
    if (grade !== 'error' || !unit) return [];
    const { line } = placeAt(unit.source, span.start - unit.offset);
    const key = `${unit.offset} ${line}`;
    if (seen.has(key)) return [];
    seen.add(key);
    const { text } = unit.source;
    const start = text.lastIndexOf('\n', span.start - unit.offset - 1) + 1;
    const written = /^(?:"[^"\n]*"|'[^'\n]*'|[^;\n])*/u.exec(text.slice(start))![0];
    const bare = written.replace(/"[^"]*"|'[^']*'/g, (each) => ' '.repeat(each.length));
    const found = [...bare.matchAll(/[^\s\x21-\x7E]+/gu)].flatMap(({ 0: run, index }) => {
      const at = [...run].findIndex((each) => plainOf(each) !== undefined);
      return at === -1 ? [] : [index + [...run].slice(0, at).join('').length];
    });
    const [first] = found;
    if (first === undefined) return [];
    const character = String.fromCodePoint(bare.codePointAt(first)!);
    const full = /^[\uFF01-\uFF5E]+/u.exec(bare.slice(first))?.[0];
    const word = full ?? character;
    const plain = [...word].map((each) => plainOf(each)!).join('');
    const place = { start: unit.offset + start + first, end: unit.offset + start + first + word.length };
    const mend = { title: plain === '' ? 'Delete it' : `Write ${plain}`, edits: [{ span: place, text: plain }] };
    return [{ code: 'look-alike', grade: 'error', span: place, text: word, what: whatOf(character, word), plain, mend }];
  });
}

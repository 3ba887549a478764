/** What a run has written, as people read and write it. */

const ESCAPES: Readonly<Record<string, string>> = { n: '\n', t: '\t', r: '\r', '0': '\0' };

/** An output as an expectation of every character: in quotes. */
export function quotedOutput(text: string): string {
  const marked = text.replace(/[\\"]/g, '\\$&');
  return `"${Object.entries(ESCAPES).reduce((written, [sign, each]) => written.replaceAll(each, `\\${sign}`), marked)}"`;
}

/** The text that stands in quotes; undefined of what does not. */
export const unquoted = (written: string): string | undefined =>
  /^"([\s\S]*)"$/.exec(written)?.[1]?.replace(/\\(.)/g, (_, each: string) => ESCAPES[each] ?? each);

/** What came of a column, and what was expected there. */
export interface Came {
  readonly column: string;
  readonly seen: string;
  readonly expected?: string;
}

/** What came, in so many letters at most: of an output its end, in quotes where it was expected so; of all else its beginning. */
export function seenWords({ column, seen, expected = '' }: Came, most = Infinity): string {
  if (seen === '') return 'nothing';
  const output = column.toLowerCase() === 'output';
  const text = output && expected.trim().startsWith('"') ? quotedOutput(seen) : seen.trim();
  if (text.length <= most) return text;
  return output ? `…${text.slice(-most)}` : `${text.slice(0, most)}…`;
}

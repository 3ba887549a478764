/** Splits one line of register-transfer notation into tokens. Knows no names. */
import type { Span } from '../text/source';

export type TokenKind = 'name' | 'number' | 'sign' | 'end' | 'bad';

export interface Token {
  readonly kind: TokenKind;
  readonly text: string;
  readonly span: Span;
}

const PATTERNS: readonly [TokenKind, RegExp][] = [
  ['name', /[\p{L}_][\p{L}\p{M}\p{Nd}_]*/uy],
  ['number', /[0-9][0-9A-Za-z_]*/y],
  ['sign', /<-|←|<<|>>|<=|>=|!=|[-+*/%&|^~<>=(),:;.[\]]/y],
];

/** `base` is the offset of the line in its document, so that spans point into the document. Ends with an `end` token. */
export function tokenize(line: string, base: number): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  while (at < line.length) {
    if (/\s/.test(line[at]!)) {
      at++;
      continue;
    }
    const token = tokenAt(line, at);
    tokens.push({ ...token, span: { start: base + at, end: base + at + token.text.length } });
    at += token.text.length;
  }
  tokens.push({ kind: 'end', text: '', span: { start: base + line.length, end: base + line.length } });
  return tokens;
}

function tokenAt(line: string, at: number): { kind: TokenKind; text: string } {
  for (const [kind, pattern] of PATTERNS) {
    pattern.lastIndex = at;
    const match = pattern.exec(line);
    if (match) return { kind, text: match[0] === '←' ? '<-' : match[0] };
  }
  return { kind: 'bad', text: String.fromCodePoint(line.codePointAt(at)!) };
}

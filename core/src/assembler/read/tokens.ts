/** Splits a line of assembly into tokens. Knows marks and quotes, and no operation. */
import { readNumber, type NumberRules } from '../../text/number';
import type { Span } from '../../text/source';
import type { AssemblyProblem } from '../problems';
import { itemAt } from '../../text/itemAt';

export type TokenKind = 'name' | 'number' | 'character' | 'text' | 'sign' | 'directive' | 'end';

/** A word as it is written, and in capitals. */
export interface Spelling {
  readonly text: string;
  /** In capitals: what matching and looking up go by. */
  readonly key: string;
}

/** What a token says, wherever it stands. */
export class Spelled implements Spelling {
  constructor(
    readonly kind: TokenKind,
    readonly text: string,
    readonly key: string,
    /** Of a number that can be read, in the base of its line; or of a character. */
    readonly value?: number,
    /** Characters of a text. */
    readonly codes?: readonly number[],
  ) {}
}

const END = new Spelled('end', '', '');

/** A word or mark at its place. */
export class Token implements Spelling {
  constructor(
    readonly spelled: Spelled,
    readonly start: number,
    readonly end: number,
  ) {}

  /** What stands behind the last token of a line. */
  static end(at: number): Token {
    return new Token(END, at, at);
  }

  get kind(): TokenKind {
    return this.spelled.kind;
  }

  get text(): string {
    return this.spelled.text;
  }

  get key(): string {
    return this.spelled.key;
  }

  get value(): number | undefined {
    return this.spelled.value;
  }

  get codes(): readonly number[] | undefined {
    return this.spelled.codes;
  }

  get span(): Span {
    return { start: this.start, end: this.end };
  }
}

/** Tokens that are kept, in columns: a long program has no object for each. */
export class KeptTokens {
  private readonly words: Spelled[] = [];
  /** Where each starts and ends. */
  private readonly places: number[] = [];

  get count(): number {
    return this.words.length;
  }

  keep({ spelled, start, end }: Token): void {
    this.words.push(spelled);
    this.places.push(start, end);
  }

  wordAt(at: number): Spelled {
    return itemAt(this.words, at);
  }

  at(at: number): Token {
    return new Token(this.wordAt(at), itemAt(this.places, 2 * at), itemAt(this.places, 2 * at + 1));
  }
}

const ESCAPES: Readonly<Record<string, number>> = { n: 10, t: 9, r: 13, '0': 0, "'": 39, '"': 34, '\\': 92 };

const LETTER = 1;
const DIGIT = 2;
const BLANK = 3;
/** Inside a name, and never at its beginning. */
const MARK = 4;
const CLASSES = new Uint8Array(128);
for (let code = 0; code < 128; code++) {
  if ((code >= 65 && code <= 90) || (code >= 97 && code <= 122) || code === 95) CLASSES[code] = LETTER;
  else if (code >= 48 && code <= 57) CLASSES[code] = DIGIT;
  else if (code === 32 || code === 9 || code === 13) CLASSES[code] = BLANK;
}
const classOf = (text: string, at: number): number => CLASSES[text.charCodeAt(at)] ?? classBeyond(text, at);

/** Letters of every script may be in a name, and so may marks on them and digits behind them. */
function classBeyond(text: string, at: number): number {
  const code = text.codePointAt(at);
  if (code === undefined || code < 128) return 0;
  const character = String.fromCodePoint(code);
  if (/\p{L}/u.test(character)) return LETTER;
  if (/[\p{M}\p{Nd}]/u.test(character)) return MARK;
  return /\s/.test(character) ? BLANK : 0;
}

function wordEnd(text: string, from: number): number {
  let at = from;
  for (let kind = classOf(text, at); kind === LETTER || kind === DIGIT || kind === MARK; kind = classOf(text, at))
    at += text.charCodeAt(at) >= 0xd800 && text.codePointAt(at)! > 0xffff ? 2 : 1;
  return at;
}

/** Where a quoted text or character that starts at `from` ends; the end of the line where it is not closed. */
function quoteEnd(text: string, from: number, to: number): number {
  const mark = itemAt(text, from);
  if (mark === "'" && text.startsWith("'''", from)) return from + 3;
  for (let at = from + 1; at < to; at++) {
    if (text[at] === '\\') at++;
    else if (text[at] === mark) return at + 1;
  }
  return mark === "'" ? Math.min(to, from + 1 + (text[from + 1] === '\\' ? 1 : 0)) : to;
}

/** What some editors put before a text; it means nothing. */
const BYTE_ORDER_MARK = 0xfeff;

/** Reads lines of one text after the other. Words that it has met are kept once, however often they stand in the text. */
export class Tokenizer {
  private readonly words = new Map<string, Spelled>();
  /** Numbers mean what the rules of their lines say. */
  private rules: NumberRules | undefined;
  private numbers = new Map<string, Spelled>();

  /** `base` is what is added to places in `text`. */
  constructor(
    private readonly text: string,
    private readonly base: number,
    private readonly problems: AssemblyProblem[],
  ) {}

  /**
   * Puts the tokens from one place up to another, in one line, into a list in place of what was there. A remark and
   * blanks yield no token; the last token is `end`. Mistakes inside a token are reported at once.
   */
  read(from: number, to: number, rules: NumberRules, tokens: Token[]): void {
    const { text, base, problems } = this;
    tokens.length = 0;
    let at = text.charCodeAt(from) === BYTE_ORDER_MARK ? from + 1 : from;
    let stop = from;
    while (at < to) {
      const kind = classOf(text, at);
      if (kind === BLANK) {
        at++;
        continue;
      }
      const code = text.charCodeAt(at);
      if (code === SEMICOLON) break;
      const foreign = code === SLASH && at + 1 < to ? FOREIGN_REMARK.exec(text.slice(at, at + 2)) : null;
      if (foreign) {
        // No value begins with a division: what follows is a remark, and nothing else is said of it.
        problems.push(remarkMark(itemAt(foreign, 0), base + at));
        break;
      }
      stop = tokenEnd(text, at, to, kind);
      tokens.push(this.token(at, stop, kind, rules));
      at = stop;
    }
    tokens.push(Token.end(base + stop));
  }

  private token(from: number, to: number, kind: number, rules: NumberRules): Token {
    const text = this.text.slice(from, to);
    const [start, end] = [this.base + from, this.base + to];
    if (kind === 0 && (text[0] === '"' || text[0] === "'")) return new Token(quoted(text, { start, end }, this.problems), start, end);
    if (this.rules !== rules) {
      this.rules = rules;
      this.numbers = new Map();
    }
    const words = kind === DIGIT ? this.numbers : this.words;
    let word = words.get(text);
    if (!word) words.set(text, (word = spelled(text, kind, rules)));
    return new Token(word, start, end);
  }
}

/** The tokens of one line. */
export function tokenizeLine(text: string, base: number, rules: NumberRules, problems: AssemblyProblem[]): Token[] {
  const tokens: Token[] = [];
  new Tokenizer(text, base, problems).read(0, text.length, rules, tokens);
  return tokens;
}

const SEMICOLON = 59;
const SLASH = 47;
const FOREIGN_REMARK = /^\/[/*]/;

/** A remark that begins as elsewhere. `start` is where its mark stands. */
export function remarkMark(text: string, start: number): AssemblyProblem {
  const span = { start, end: start + text.length };
  return { code: 'remark-mark', grade: 'error', span, text, mend: { title: 'Write “;”', edits: [{ span, text: ';' }] } };
}

function tokenEnd(text: string, from: number, to: number, kind: number): number {
  if (kind === DIGIT) return wordEnd(text, from);
  if (kind === LETTER) {
    const end = wordEnd(text, from);
    return text[end] === '.' && classOf(text, end + 1) === LETTER ? wordEnd(text, end + 1) : end;
  }
  const mark = itemAt(text, from);
  if (mark === '.' && classOf(text, from + 1) === LETTER) return wordEnd(text, from + 1);
  if (mark === '"' || mark === "'") return quoteEnd(text, from, to);
  if ((mark === '<' || mark === '>') && text[from + 1] === mark) return from + 2;
  const code = text.codePointAt(from)!;
  return from + (code > 0xffff ? 2 : 1);
}

/** Without letters whose marks could be put together in another way. */
const PLAIN = /^[\x20-\x7e]*$/;
/** Names are alike however their marks are put together. */
export const nameKey = (text: string): string => (PLAIN.test(text) ? text : text.normalize('NFC')).toUpperCase();

/** A word as it is looked up. */
export const spellingOf = (text: string): Spelling => ({ text, key: nameKey(text) });

function spelled(text: string, kind: number, rules: NumberRules): Spelled {
  if (kind === LETTER) return new Spelled('name', text, nameKey(text));
  if (kind === DIGIT) return new Spelled('number', text, text, readNumber(text, rules));
  if (text.length > 1 && text[0] === '.') return new Spelled('directive', text, text.toLowerCase());
  return new Spelled('sign', text, text);
}

/** A wrong text or character stays a token with a stand-in value, so that it causes no second problem. */
function quoted(text: string, span: Span, problems: AssemblyProblem[]): Spelled {
  const kind = text[0] === '"' ? 'text' : 'character';
  const codes = codesOf(text, kind, span, problems) ?? [0];
  return new Spelled(kind, text, text, codes[0], codes);
}

function codesOf(text: string, kind: 'text' | 'character', span: Span, problems: AssemblyProblem[]): number[] | undefined {
  const mark = itemAt(text, 0);
  const open = /(^|[^\\])(\\\\)*\\$/.test(text.slice(1, -1));
  const closed = text.length > (kind === 'character' ? 2 : 1) && text.endsWith(mark) && !open;
  if (!closed) {
    problems.push({ code: 'quote-open', grade: 'error', span, what: kind });
    return undefined;
  }
  const codes: number[] = [];
  const inner = text.slice(1, -1);
  for (let at = 0; at < inner.length; at++) {
    const escaped = inner[at] === '\\' && at + 1 < inner.length;
    const code = escaped ? ESCAPES[itemAt(inner, ++at)] : inner.charCodeAt(at);
    if (code === undefined) {
      problems.push({ code: 'unknown-escape', grade: 'error', span, text: `\\${inner[at]}` });
      return undefined;
    }
    codes.push(code);
  }
  if (kind === 'character' && codes.length !== 1) {
    problems.push({ code: 'not-one-character', grade: 'error', span, count: codes.length });
    return undefined;
  }
  return codes;
}

/** Splits lines of assembly into tokens. Knows marks and quotes, and no operation. */
import { readNumber, type NumberRules } from '../../text/number';
import type { Span } from '../../text/source';
import type { AssemblyProblem } from '../problems';
import { endToken, nameKey, Spelled, Tokens, type Token } from './tokens';
import { itemAt } from '../../text/itemAt';

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
function classOf(text: string, at: number): number {
  if (at >= text.length) return 0;
  const code = text.charCodeAt(at);
  return code < 128 ? CLASSES[code]! : classBeyond(text, at);
}

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
  for (; at < text.length; at++) {
    const code = text.charCodeAt(at);
    const kind = code < 128 ? CLASSES[code]! : classBeyond(text, at);
    if (kind === 0 || kind === BLANK) break;
    if (code >= 0xd800 && text.codePointAt(at)! > 0xffff) at++;
  }
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

/**
 * Words that a text has, each kept once however often it stands there. Found by their characters, so that what is known
 * already is not cut out of the text again.
 */
class Words {
  private slots: (Spelled | undefined)[] = new Array<Spelled | undefined>(256).fill(undefined);
  private hashes: number[] = new Array<number>(256).fill(0);
  private count = 0;

  /** `make` is asked for a word that is met for the first time. */
  find(text: string, from: number, to: number, make: (text: string) => Spelled): Spelled {
    let hash = to - from;
    for (let at = from; at < to; at++) hash = (Math.imul(hash, 31) + text.charCodeAt(at)) | 0;
    const mask = this.slots.length - 1;
    let slot = hash & mask;
    for (let word = this.slots[slot]; word; word = this.slots[slot]) {
      if (this.hashes[slot] === hash && isAt(text, from, to, word.text)) return word;
      slot = (slot + 1) & mask;
    }
    const made = make(text.slice(from, to));
    this.slots[slot] = made;
    this.hashes[slot] = hash;
    if (++this.count * 2 > this.slots.length) this.grow();
    return made;
  }

  private grow(): void {
    const { slots, hashes } = this;
    const size = slots.length * 2;
    this.slots = new Array<Spelled | undefined>(size).fill(undefined);
    this.hashes = new Array<number>(size).fill(0);
    for (let at = 0; at < slots.length; at++) {
      const hash = hashes[at]!;
      let slot = hash & (size - 1);
      if (!slots[at]) continue;
      while (this.slots[slot]) slot = (slot + 1) & (size - 1);
      this.slots[slot] = slots[at];
      this.hashes[slot] = hash;
    }
  }
}

function isAt(text: string, from: number, to: number, word: string): boolean {
  if (word.length !== to - from) return false;
  for (let at = 0; at < word.length; at++) if (word.charCodeAt(at) !== text.charCodeAt(from + at)) return false;
  return true;
}

/** Reads lines of one text after the other. */
export class Tokenizer {
  private readonly words = new Words();
  /** Numbers mean what the rules of their lines say. */
  private rules: NumberRules | undefined;
  private numbers = new Words();
  private readonly number = (text: string): Spelled => new Spelled('number', text, text, readNumber(text, this.rules));

  /** `base` is what is added to places in `text`. */
  constructor(
    private readonly text: string,
    private readonly base: number,
    private readonly problems: AssemblyProblem[],
  ) {}

  /**
   * Adds the tokens from one place up to another, in one line. A remark and blanks yield no token. Mistakes inside a token
   * are reported at once.
   */
  read(from: number, to: number, rules: NumberRules, tokens: Tokens): void {
    const { text, base, problems } = this;
    let at = text.charCodeAt(from) === BYTE_ORDER_MARK ? from + 1 : from;
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
      const end = tokenEnd(text, at, to, kind);
      tokens.add(this.word(at, end, kind, rules), base + at, base + end);
      at = end;
    }
  }

  private word(from: number, to: number, kind: number, rules: NumberRules): Spelled {
    const { text, base } = this;
    if (kind === LETTER) return this.words.find(text, from, to, nameOf);
    if (kind === DIGIT) {
      if (this.rules !== rules) {
        this.rules = rules;
        this.numbers = new Words();
      }
      return this.numbers.find(text, from, to, this.number);
    }
    const code = text.charCodeAt(from);
    if (code === QUOTE || code === APOSTROPHE) return quoted(text.slice(from, to), { start: base + from, end: base + to }, this.problems);
    return this.words.find(text, from, to, markOf);
  }
}

/** The tokens of one line; the last one is `end`. */
export function tokenizeLine(text: string, base: number, rules: NumberRules, problems: AssemblyProblem[]): Token[] {
  const tokens = new Tokens();
  new Tokenizer(text, base, problems).read(0, text.length, rules, tokens);
  return tokens.count > 0 ? tokens.list(0, tokens.count) : [endToken(base)];
}

const DOT = 46;
const LESS = 60;
const GREATER = 62;
const QUOTE = 34;
const APOSTROPHE = 39;
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
    return text.charCodeAt(end) === DOT && classOf(text, end + 1) === LETTER ? wordEnd(text, end + 1) : end;
  }
  const code = text.codePointAt(from)!;
  if (code === DOT && classOf(text, from + 1) === LETTER) return wordEnd(text, from + 1);
  if (code === QUOTE || code === APOSTROPHE) return quoteEnd(text, from, to);
  if ((code === LESS || code === GREATER) && text.charCodeAt(from + 1) === code) return from + 2;
  return from + (code > 0xffff ? 2 : 1);
}

const nameOf = (text: string): Spelled => new Spelled('name', text, nameKey(text));

const markOf = (text: string): Spelled =>
  text.length > 1 && text[0] === '.' ? new Spelled('directive', text, text.toLowerCase()) : new Spelled('sign', text, text);

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

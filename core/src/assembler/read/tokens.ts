/** Words of a text at their places: kept in columns, looked up by their spelling, read one after the other. */
import type { Span } from '../../text/source';
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

/** What stands behind the last token of a line. */
export const endToken = (at: number): Token => new Token(END, at, at);

/** The tokens of a text, in columns: a long program has no object for each. */
export class Tokens {
  private readonly words: Spelled[] = [];
  /** Where each starts and ends. */
  private places = new Int32Array(64);

  get count(): number {
    return this.words.length;
  }

  add(word: Spelled, start: number, end: number): void {
    const at = 2 * this.words.length;
    if (at === this.places.length) {
      const longer = new Int32Array(2 * at);
      longer.set(this.places);
      this.places = longer;
    }
    this.words.push(word);
    this.places[at] = start;
    this.places[at + 1] = end;
  }

  /** What stands at a place; behind the last, the end. */
  wordAt(at: number): Spelled {
    return this.words[at] ?? END;
  }

  startOf(at: number): number {
    return this.places[2 * at]!;
  }

  endOf(at: number): number {
    return this.places[2 * at + 1]!;
  }

  at(at: number): Token {
    return new Token(itemAt(this.words, at), this.startOf(at), this.endOf(at));
  }

  /** From one place up to another. */
  slice(from: number, to: number): Token[] {
    const tokens: Token[] = [];
    for (let at = from; at < to; at++) tokens.push(this.at(at));
    return tokens;
  }

  /** The same, and the end behind them. */
  list(from: number, to: number): Token[] {
    return [...this.slice(from, to), endToken(to > 0 ? this.endOf(to - 1) : 0)];
  }
}

/** Reads the tokens of a line, or a part of them, one after the other. Behind the last stands the end. */
export class Reader {
  constructor(
    private readonly tokens: Tokens,
    public at: number,
    private readonly last: number,
  ) {}

  /** What stands here, or so many places further on. */
  word(ahead = 0): Spelled {
    const at = this.at + ahead;
    return at < this.last ? this.tokens.wordAt(at) : END;
  }

  get start(): number {
    return this.at < this.last ? this.tokens.startOf(this.at) : this.end;
  }

  get end(): number {
    const at = Math.min(this.at, this.last - 1);
    return at < 0 ? 0 : this.tokens.endOf(at);
  }

  get span(): Span {
    return { start: this.start, end: this.end };
  }

  get isAtEnd(): boolean {
    return this.at >= this.last;
  }

  /** The tokens from a place up to here. */
  tokensFrom(from: number): Token[] {
    return this.tokens.slice(from, this.at);
  }
}

/** Reads tokens of a list, which may be none that stand in a text so. */
export function readerOf(list: readonly Token[]): Reader {
  const tokens = new Tokens();
  for (const { spelled, start, end } of list) if (spelled !== END) tokens.add(spelled, start, end);
  return new Reader(tokens, 0, tokens.count);
}

/** Without letters whose marks could be put together in another way. */
const PLAIN = /^[\x20-\x7e]*$/;
/** Names are alike however their marks are put together. */
export const nameKey = (text: string): string => (PLAIN.test(text) ? text : text.normalize('NFC')).toUpperCase();

/** A word as it is looked up. */
export const spellingOf = (text: string): Spelling => ({ text, key: nameKey(text) });

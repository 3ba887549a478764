/** Ways in which transfers and conditions are written elsewhere, and how this notation has them. */
import type { Mend } from '../text/diagnostic';
import type { Span } from '../text/source';
import type { Token } from './tokens';

export interface Habit {
  readonly span: Span;
  /** As it stands there, and as it is written here. */
  readonly written: string;
  readonly here: string;
  readonly mend: Mend;
}

/** Something that is written otherwise here. */
export const habit = (span: Span, written: string, here: string, text = here): Habit => ({
  ...{ span, written, here },
  mend: { title: `Write ${here}`, edits: [{ span, text }] },
});

/** What a line was expected to go on with, as far as habits depend on it. */
export const ARROW = 'the arrow “<-”';
export const FLAGS = '“flags” and the names of flags';

const WORDS: ReadonlyMap<string, string> = new Map([
  ['AND', 'and'],
  ['OR', 'or'],
  ['XOR', '^'],
  ['xor', '^'],
  ['MOD', '%'],
  ['mod', '%'],
  ['DIV', '/'],
  ['div', '/'],
  ['SHL', '<<'],
  ['shl', '<<'],
  ['SHR', '>>'],
  ['shr', '>>'],
]);

/** Words before a value. */
const BEFORE: ReadonlyMap<string, string> = new Map([['NOT', 'not']]);

/** Two signs without a blank between them. */
const PAIRS: ReadonlyMap<string, string> = new Map([
  ['==', '='],
  ['&&', 'and'],
  ['||', 'or'],
  ['<>', '!='],
]);

/** Between values the same signs join bits. */
const BITS: ReadonlyMap<string, string> = new Map([
  ['&&', '&'],
  ['||', '|'],
]);

const ENDINGS: ReadonlySet<string> = new Set(['stop', 'end', 'exit', 'hlt', 'halt']);

/** A line that cannot be read on at a token; `text` is the line, `base` its offset. */
export interface Stuck {
  readonly tokens: readonly Token[];
  readonly at: number;
  readonly text: string;
  readonly base: number;
}

/** The habit that a line stuck at; undefined where it is none that is known. */
export function habitAt(stuck: Stuck, expected: string): Habit | undefined {
  const { tokens, at } = stuck;
  if (expected === ARROW) return instead(stuck);
  if (expected === FLAGS) return flagless(stuck);
  const [before, here] = [tokens[at - 1], tokens[at]!];
  if (before && before.span.end === here.span.start) {
    const pair = before.text + here.text;
    const meant = (isValue(stuck) ? BITS.get(pair) : undefined) ?? PAIRS.get(pair);
    if (meant !== undefined) return habit(both(before, here), pair, meant, spaced(stuck, before, here, meant));
  }
  const word = WORDS.get(here.text);
  if (word !== undefined && before) return habit(here.span, here.text, word);
  if (here.text === '!') return habit(here.span, here.text, 'not', 'not ');
  const ahead = before && BEFORE.get(before.text);
  if (ahead !== undefined) return habit(before!.span, before!.text, ahead);
  return here.text === ',' ? commas(stuck) : undefined;
}

const both = ({ span: { start } }: Token, { span: { end } }: Token): Span => ({ start, end });

/** Whether the place is in what a transfer brings, and not in a condition. */
const isValue = ({ tokens, at }: Stuck): boolean => tokens.slice(0, at).findLast((each) => ['<-', 'if'].includes(each.text))?.text === '<-';

/** A word keeps a blank on either side. */
function spaced({ text, base }: Stuck, first: Token, last: Token, meant: string): string {
  if (!/^\w/.test(meant)) return meant;
  const blank = (offset: number): string => (/\s/.test(text.charAt(offset - base)) ? '' : ' ');
  return `${blank(first.span.start - 1)}${meant}${blank(last.span.end)}`;
}

const textOf = ({ text, base }: Stuck, start: number, end: number): string => text.slice(start - base, end - base).trim();

/** Where the action begins that the line is in, and where it ends. */
function actionOf({ tokens, at }: Stuck): { readonly from: number; readonly to: number } {
  const parts = (each: Token | undefined): boolean => each?.kind === 'sign' && [',', ':', ';'].includes(each.text);
  let from = at;
  for (let depth = 0; from > 0; from--) {
    const each = tokens[from - 1]!;
    if (each.text === ']' || each.text === ')') depth++;
    else if (each.text === '[' || each.text === '(') depth--;
    else if (depth === 0 && (parts(each) || each.text === 'else')) break;
  }
  let to = at;
  while (tokens[to]!.kind !== 'end' && !parts(tokens[to]) && tokens[to]!.text !== 'else') to++;
  return { from, to: to - 1 };
}

/** Something else than the arrow stands behind a place. */
function instead(stuck: Stuck): Habit | undefined {
  const { tokens, at } = stuck;
  const [here, after] = [tokens[at]!, tokens[at + 1]];
  if (here.text === '=') return habit(here.span, '=', '<-');
  const pair = after?.span.start === here.span.end ? here.text + after.text : '';
  if (pair === ':=') return habit(both(here, after!), pair, '<-');
  const { from, to } = actionOf(stuck);
  const { start } = tokens[from]!.span;
  if (to < at) {
    const last = tokens[at - 1]!;
    return from === at - 1 && ENDINGS.has(last.text.toLowerCase()) ? habit(last.span, last.text, 'halt') : undefined;
  }
  const { end } = tokens[to]!.span;
  const span = { start, end };
  const written = textOf(stuck, start, end);
  if (pair === '->') {
    const turned = `${textOf(stuck, after!.span.end, end)} <- ${textOf(stuck, start, here.span.start)}`;
    return habit(span, written, turned);
  }
  // A result that goes nowhere, and flags behind it: it is computed for the flags.
  const flagged = tokens.slice(at).some((each) => each.text === ';');
  return flagged && /^[-+&|^]$/.test(here.text) ? habit(span, written, `compare ${written}`) : undefined;
}

/** Names of flags behind the semicolon, without the word before them. */
function flagless(stuck: Stuck): Habit | undefined {
  const names = stuck.tokens.slice(stuck.at, -1).filter((each, at) => each.text !== ',' && (at > 0 || !/^flags?$/i.test(each.text)));
  return listed(stuck, stuck.at - 1, names, '; flags');
}

/** Commas between names of flags. */
function commas(stuck: Stuck): Habit | undefined {
  const from = stuck.tokens.findIndex((each, at) => each.text === 'flags' && stuck.tokens[at - 1]?.text === ';');
  if (from === -1 || from > stuck.at) return undefined;
  const names = stuck.tokens.slice(from + 1, -1).filter((each) => each.text !== ',');
  return listed(stuck, from, names, 'flags');
}

function listed(stuck: Stuck, from: number, names: readonly Token[], word: string): Habit | undefined {
  if (names.length === 0 || names.some((each) => each.kind !== 'name')) return undefined;
  const span = { start: stuck.tokens[from]!.span.start, end: stuck.tokens.at(-2)!.span.end };
  return habit(span, textOf(stuck, span.start, span.end), `${word} ${names.map((each) => each.text).join(' ')}`);
}

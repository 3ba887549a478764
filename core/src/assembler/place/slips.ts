/** What is most likely wrong with operands that fit no written form: one mark, one name, or how many there are. */
import { nearest } from '../../text/nearest';
import type { Mend } from '../../text/diagnostic';
import { readExpression } from '../read/expressions';
import { readerOf, Spelled, Token } from '../read/tokens';
import { itemAt } from '../../text/itemAt';
import { matchOperands, stopsOf, type Hole, type Template, type Templates } from './templates';

/** Marks and holes of an operation, whatever it stands for. */
export type Shape = Pick<Template, 'pieces' | 'stops'>;

interface Unknown {
  readonly kind: 'unknown';
  readonly token: Token;
  readonly names: readonly string[];
  readonly nearest: string | undefined;
  readonly mend: Mend | undefined;
}

/** A register where a value goes. */
interface Misplaced {
  readonly kind: 'register';
  readonly token: Token;
}

export type Slip =
  /** `beside` is the word that the mark is missing behind, or before. */
  | { readonly kind: 'missing'; readonly mark: string; readonly side: 'behind' | 'before'; readonly beside: Token; readonly mend: Mend }
  | { readonly kind: 'extra'; readonly token: Token; readonly mend: Mend }
  /** Digits behind a mark that means their base elsewhere. */
  | { readonly kind: 'number'; readonly token: Token; readonly text: string; readonly written: string; readonly mend: Mend }
  /** All from there on is a remark with another mark before it. */
  | { readonly kind: 'remark'; readonly token: Token; readonly text: string }
  | Unknown
  | Misplaced
  | { readonly kind: 'count'; readonly stand: number; readonly takes: readonly number[] };

/** The slip, and the shape that is meant where there is but one. Tokens end with the `end` token. */
export interface Found<S> {
  readonly slip: Slip;
  readonly meant?: S;
}

/**
 * The first that explains all of the line; undefined where none does. `isKnown` tells of a name, in capitals, whether the
 * program has it: one that it has not is no value that lacks its mark.
 */
export function slipIn<S extends Shape>(
  templates: Templates,
  tokens: readonly Token[],
  shapes: readonly S[],
  isKnown: (key: string) => boolean,
): Found<S> | undefined {
  const unknown = unknownIn(templates, tokens, shapes);
  const { slip } = unknown ?? {};
  if (slip && (slip.kind === 'register' || slip.nearest !== undefined || !isKnown(slip.token.key))) return unknown;
  const remark = remarkIn(templates, tokens, shapes);
  if (remark) return remark;
  return (
    only(shapes.flatMap((shape) => missingIn(templates, tokens, shape).map((slip) => ({ slip, meant: shape })))) ??
    only(shapes.flatMap((shape) => extraIn(templates, tokens, shape).map((slip) => ({ slip, meant: shape })))) ??
    unknown ??
    countIn(tokens, shapes)
  );
}

/**
 * An operation that stands behind another one: it begins a second instruction, or, where the first cannot stand alone, that was
 * meant as a label. `isKnown` as above.
 */
export function secondIn(
  { templates, shapes, isKnown }: { templates: Templates; shapes: readonly Shape[]; isKnown: (key: string) => boolean },
  tokens: readonly Token[],
): { readonly token: Token; readonly labels: boolean } | undefined {
  const at = tokens.findIndex((each) => each.kind === 'name' && templates.mnemonics.has(each.key) && !isKnown(each.key));
  if (at === -1) return undefined;
  const whole = shapes.some((each) => matchOperands(templates, readerOf(tokens.slice(0, at)), each));
  if (at > 0 && !whole) return undefined;
  return { token: itemAt(tokens, at), labels: !whole };
}

/** Of several ways to mend a line none is offered, unless they come to the same text. */
function only<S>(found: readonly (Found<S> & { readonly slip: { readonly mend: Mend } })[]): Found<S> | undefined {
  const texts = new Set(found.map(({ slip }) => slip.mend.edits.map(({ span, text }) => `${span.start} ${span.end} ${text}`).join()));
  return texts.size === 1 ? found[0] : undefined;
}

/** Marks of the form without one of which the line has its shape. */
function missingIn(templates: Templates, tokens: readonly Token[], { pieces }: Shape): (Slip & { readonly kind: 'missing' })[] {
  return pieces.flatMap((mark, at) => {
    if (typeof mark !== 'string' || !/^\W+$/.test(mark)) return [];
    const others = pieces.toSpliced(at, 1);
    const stops = stopsOf(others);
    if (!matchOperands(templates, readerOf(tokens), { pieces: others, stops })) return [];
    const reader = readerOf(tokens);
    matchOperands(templates, reader, { pieces: others.slice(0, at), stops }, true);
    const reached = reader.at;
    // Where nothing stands there is nothing to put a mark to.
    if (tokens.length === 1) return [];
    const [last, next] = [tokens[reached - 1], itemAt(tokens, reached)];
    // One that is there already is not missing.
    if (next.key === mark) return [];
    // Behind a word, and before one that stands behind a mark.
    if (!last && next.kind === 'sign') return [];
    const side = !last || (last.kind === 'sign' && next.kind !== 'end') ? 'before' : 'behind';
    const beside = side === 'behind' ? last! : next;
    const start = side === 'behind' ? beside.end : beside.start;
    const mend = { title: `Put “${mark}” ${side} ${beside.text}`, edits: [{ span: { start, end: start }, text: mark }] };
    return [{ kind: 'missing', mark, side, beside, mend }];
  });
}

type Wrong = Slip & { readonly kind: 'extra' | 'number' };

/** Marks of the line without one of which it has the shape of the form; of a mark that stands twice, the second. */
function extraIn(templates: Templates, tokens: readonly Token[], shape: Shape): Wrong[] {
  return tokens.flatMap((token, at): Wrong[] => {
    const next = tokens[at + 1];
    if (token.kind !== 'sign' || !next || next.key === token.key) return [];
    const base = BASES_BEFORE[token.text];
    if (base?.digits.test(next.text) && next.start === token.end) {
      const number = new Token(new Spelled('number', next.text, next.key, 0), token.start, next.end);
      if (!matchOperands(templates, readerOf(tokens.toSpliced(at, 2, number)), shape)) return [];
      const written = base.mark + next.text;
      const mend = { title: `Write ${written}`, edits: [{ span: { start: token.start, end: next.end }, text: written }] };
      return [{ kind: 'number', token, text: token.text + next.text, written, mend }];
    }
    if (!matchOperands(templates, readerOf(tokens.toSpliced(at, 1)), shape)) return [];
    const mend = { title: `Take “${token.text}” away`, edits: [{ span: { start: token.start, end: token.end }, text: '' }] };
    return [{ kind: 'extra', token, mend }];
  });
}

/** Marks that mean a base before digits elsewhere. */
const BASES_BEFORE: Readonly<Record<string, { readonly mark: string; readonly digits: RegExp }>> = {
  $: { mark: '0x', digits: /^[0-9A-F]+$/i },
  '%': { mark: '0b', digits: /^[01]+$/ },
};

/** Where the line has the shape of a form up to a mark that begins remarks elsewhere. */
function remarkIn<S extends Shape>(templates: Templates, tokens: readonly Token[], shapes: readonly S[]): Found<S> | undefined {
  const end = itemAt(tokens, tokens.length - 1);
  for (let at = 0; at < tokens.length - 1; at++) {
    const token = itemAt(tokens, at);
    const double = token.text === '-' && tokens[at + 1]!.text === '-';
    if (!double && !/^[#!@]$/.test(token.text)) continue;
    const before = [...tokens.slice(0, at), end];
    const meant = shapes.find((each) => matchOperands(templates, readerOf(before), each));
    if (!meant) continue;
    const text = double ? '--' : token.text;
    return { slip: { kind: 'remark', token, text }, meant };
  }
  return undefined;
}

/** A name that stands where only some names can, on a line that has the shape of a form otherwise. */
function unknownIn<S extends Shape>(
  templates: Templates,
  tokens: readonly Token[],
  shapes: readonly S[],
): (Found<S> & { readonly slip: Unknown | Misplaced }) | undefined {
  const found = shapes.flatMap((meant): (Found<S> & { readonly slip: Unknown | Misplaced })[] => {
    const reader = readerOf(tokens);
    const unknown: { readonly token: Token; readonly names?: readonly string[] }[] = [];
    const fits = meant.pieces.every((piece, at) => {
      const token = itemAt(tokens, Math.min(reader.at, tokens.length - 1));
      if (typeof piece === 'string') {
        reader.at++;
        return token.key === piece;
      }
      const names = namesOf(templates, piece);
      if (!names) {
        const start = reader.at;
        if (readExpression(reader, null, itemAt(meant.stops, at)) === undefined) return false;
        const register = reader.tokensFrom(start).find((each) => each.kind === 'name' && templates.registers.has(each.key));
        if (register) unknown.push({ token: register });
        return true;
      }
      if (token.kind !== 'name') return false;
      if (!names.some((each) => each.toUpperCase() === token.key)) unknown.push({ token, names });
      reader.at++;
      return true;
    });
    const [first] = unknown;
    if (!fits || !first || !reader.isAtEnd) return [];
    const { token, names } = first;
    // Another form may be meant.
    if (!names) return [{ slip: { kind: 'register', token } }];
    // Every letter is near to every other.
    const near = token.text.length > 1 ? nearest(token.text, names, 1) : undefined;
    const mend = near && { title: `Write ${near}`, edits: [{ span: { start: token.start, end: token.end }, text: near }] };
    return [{ slip: { kind: 'unknown', token, names, nearest: near, mend: mend || undefined }, meant }];
  });
  // A name that is nearly right tells what was meant, then one that stands where other names can.
  const named = found.filter(({ slip }) => slip.kind === 'unknown');
  return named.find(({ slip }) => slip.kind === 'unknown' && slip.nearest !== undefined) ?? named[0] ?? found[0];
}

const namesOf = ({ named }: Templates, hole: Hole): readonly string[] | undefined =>
  'field' in hole && named.has(hole.field) ? [...hole.field.names!.values()].map((each) => itemAt(each, 0)) : undefined;

/** Operands stand between commas. */
function countIn<S extends Shape>(tokens: readonly Token[], shapes: readonly S[]): Found<S> | undefined {
  const commas = (list: readonly string[]): number => (list.length === 0 ? 0 : 1 + list.filter((each) => each === ',').length);
  const stand = commas(tokens.filter((each) => each.kind !== 'end').map((each) => each.text));
  const takes = [...new Set(shapes.map(({ pieces }) => commas(pieces.map((each) => (typeof each === 'string' ? each : '')))))];
  if (takes.includes(stand) || takes.length === 0) return undefined;
  return { slip: { kind: 'count', stand, takes: takes.sort((a, b) => a - b) } };
}

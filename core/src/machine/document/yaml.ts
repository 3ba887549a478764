/** Reads YAML 1.2 text and remembers where each value stands. Knows no machine. */
import { isAlias, isMap, isScalar, isSeq, type Document, type Node, type Pair, type YAMLMap } from 'yaml';
import { makeSource, type Source, type Span } from '../../text/source';
import type { DocumentProblem } from './problems';
import { itemAt } from '../../text/itemAt';
import { parseYaml, type ParseYaml } from './parsed';

export type Path = readonly (string | number)[];

export interface YamlText {
  /** Plain objects, arrays and strings; undefined where the text is no YAML. */
  readonly data: unknown;
  readonly problems: readonly DocumentProblem[];
  /** Where a value stands; the nearest enclosing value where it is missing. */
  readonly spanOf: (path: Path) => Span;
  /** Where a key stands. */
  readonly keySpanOf: (path: Path) => Span;
  /** The lines of a text value with the offset of each; blank lines are left out. */
  readonly linesOf: (path: Path) => { readonly text: string; readonly offset: number }[];
  /** Where each line of a text value stands, blank ones included. */
  readonly blockLinesOf: (path: Path) => number[];
}

export const MOST_CHARACTERS = 400_000;

/** Teachers' words for what the YAML reader reports. */
const REASONS: Readonly<Record<string, string>> = {
  TAB_AS_INDENT: 'a tab stands where spaces are needed. Indent with spaces.',
  BAD_INDENT: 'this line is not indented like its neighbours.',
  DUPLICATE_KEY: 'this name stands here twice; each may stand once.',
  MULTILINE_IMPLICIT_KEY: 'a name has to stand on one line, followed by a colon.',
  BLOCK_AS_IMPLICIT_KEY: 'a colon is not expected here. Put a text that holds “: ” into quotes.',
  MISSING_CHAR: 'a quote, bracket or colon is missing on this line or the one before.',
  UNEXPECTED_TOKEN: 'this sign is not expected here. Put a text with special signs into quotes.',
};

/** A text under “|” is as deep as its first line; a line further left ends it, and is then no YAML. */
function blockReason({ text }: Source, at: number): string | undefined {
  const lines = text.slice(0, at).split('\n');
  const whole = itemAt(text.slice(text.lastIndexOf('\n', at - 1) + 1).split('\n'), 0);
  const start = lines.slice(0, -1).findLastIndex((each) => /:\s*\|\s*$/.test(each));
  if (start === -1) return undefined;
  const depth = (each: string | undefined): number => (each?.trim() ? each.length - each.trimStart().length : Infinity);
  const inside = lines.slice(start + 1, -1).filter((each) => each.trim());
  const first = depth(inside[0]);
  const own = depth(whole);
  if (inside.some((each) => depth(each) < first) || first === Infinity || own >= first || own <= depth(lines[start])) return undefined;
  return `the text under “|” is as deep as its first line, and this line stands further left. Begin the text with its outermost line.`;
}

/** Never throws: what is no YAML is told in problems, with its place. */
export function readYaml(source: Source, parse: ParseYaml = parseYaml): YamlText {
  const whole = { start: 0, end: Math.min(source.text.length, 1) };
  if (source.text.length > MOST_CHARACTERS) {
    const length = source.text.length;
    return nothing(whole, { code: 'document-too-long', grade: 'error', span: whole, length, most: MOST_CHARACTERS });
  }
  const document = parse(source.text);
  const problems = document.errors
    .toSorted((a, b) => a.pos[0] - b.pos[0])
    .map(({ code, message, pos }): DocumentProblem => {
      const reason = blockReason(source, pos[0]) ?? REASONS[code] ?? `${itemAt(message.split(' at line'), 0).replace(/\.$/, '')}.`;
      return { code: 'not-yaml', grade: 'error', span: { start: pos[0], end: Math.max(pos[1], pos[0] + 1) }, reason };
    });
  // What follows the first is a consequence more often than not.
  if (problems.length > 0) return { ...nothing(whole), problems: problems.slice(0, 1) };
  const found = inspect(document);
  if (found.some((each) => each.grade === 'error')) return { ...nothing(whole), problems: found };
  return { data: document.toJS({ maxAliasCount: 0 }), problems: found, ...places(source, document, whole) };
}

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

/** Taken from the base unless given again; “removed” takes a part away. */
function merged(base: unknown, own: unknown): unknown {
  if (!isRecord(base) || !isRecord(own)) return own;
  const entries = new Map(Object.entries(base));
  for (const [key, value] of Object.entries(own)) {
    if (value === 'removed') entries.delete(key);
    else entries.set(key, merged(entries.get(key), value));
  }
  return Object.fromEntries(entries);
}

const DEEPEST_BASE = 8;

/** A document that is based on another: its own parts over those of the base. Problems in the base are told where it is named. */
export function derive(
  own: YamlText,
  base: ((name: string) => string | undefined) | undefined,
  tell: (problem: DocumentProblem) => void,
  depth = 0,
): YamlText {
  const name = isRecord(own.data) ? own.data['based on'] : undefined;
  if (typeof name !== 'string') return own;
  const span = own.spanOf(['based on']);
  const text = depth < DEEPEST_BASE ? base?.(name) : undefined;
  if (text === undefined) {
    tell({ code: 'no-base', grade: 'error', span, name, deep: depth >= DEEPEST_BASE });
    return own;
  }
  const read = readYaml(makeSource(name, text));
  if (read.data === undefined) {
    tell({ code: 'base-with-errors', grade: 'error', span, name });
    return own;
  }
  const under = derive(read, base, tell, depth + 1);
  const given = (path: Path): boolean =>
    path.reduce<unknown>((node, key) => (node as Record<string | number, unknown> | undefined)?.[key], own.data) !== undefined;
  return {
    ...own,
    data: merged(under.data, own.data),
    spanOf: (path) => (path.length > 0 && !given(path.slice(0, 1)) ? span : own.spanOf(path)),
    linesOf: (path) => (given(path) ? own.linesOf(path) : under.linesOf(path).map((each) => ({ text: each.text, offset: span.start }))),
    blockLinesOf: (path) => (given(path) ? own.blockLinesOf(path) : under.blockLinesOf(path).map(() => span.start)),
  };
}

function nothing(whole: Span, ...problems: DocumentProblem[]): YamlText {
  return { data: undefined, problems, spanOf: () => whole, keySpanOf: () => whole, linesOf: () => [], blockLinesOf: () => [] };
}

const rangeOf = (node: unknown): Span | undefined => {
  const range = (node as Node | null)?.range;
  return range ? { start: range[0], end: Math.max(range[1], range[0]) } : undefined;
};

/** Parts that nothing was found in: of a text that is read again and again most have only been moved since. */
const sound = new WeakSet<object>();

/** Aliases, and remarks that swallowed part of a one-line value. */
function inspect(document: Document): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const visitPair = (key: unknown, value: unknown, depth: number): void => {
    const span = rangeOf(key) ?? { start: 0, end: 1 };
    if (isScalar(key)) visit(key, depth + 1);
    else problems.push({ code: 'not-yaml', grade: 'error', span, reason: 'a single word is expected before a colon.' });
    visit(value, depth + 1);
  };
  const visit = (node: unknown, depth: number): void => {
    if (problems.length > 20 || depth > 40) return;
    if (typeof node === 'object' && node !== null && sound.has(node)) return;
    const before = problems.length;
    const span = rangeOf(node) ?? { start: 0, end: 1 };
    if (isAlias(node) || (node as { anchor?: string } | null)?.anchor) problems.push({ code: 'yaml-alias', grade: 'error', span });
    else if (isMap(node)) for (const { key, value } of node.items) visitPair(key, value, depth);
    else if (isScalar(node) && node.value === '__proto__')
      problems.push({ code: 'wrong-shape', grade: 'error', span, at: '__proto__', reason: 'this cannot be a name here' });
    else if (isSeq(node)) node.items.forEach((each) => visit(each, depth + 1));
    else if (isScalar(node) && node.type === 'PLAIN' && node.comment?.match(/^[{}A-Za-z0-9]/)) {
      const value = `${String(node.value)} #${node.comment}`;
      const whole = { start: span.start, end: span.start + value.length };
      const mend = { title: 'Put it into quotes', edits: [{ span: whole, text: `'${value.replaceAll("'", "''")}'` }] };
      problems.push({ code: 'yaml-remark-in-value', grade: 'warning', span, remark: `#${node.comment}`, mend });
    }
    if (isMap(node) && problems.length === before) sound.add(node);
  };
  visit(document.contents, 0);
  return problems;
}

function places(source: Source, document: Document, whole: Span): Pick<YamlText, 'spanOf' | 'keySpanOf' | 'linesOf' | 'blockLinesOf'> {
  const indices = new WeakMap<object, ReadonlyMap<unknown, Pair>>();
  const pairIn = (map: YAMLMap, key: unknown): Pair | undefined => {
    let index = indices.get(map);
    if (!index) indices.set(map, (index = new Map(map.items.map((each) => [isScalar(each.key) ? each.key.value : undefined, each]))));
    return index.get(key);
  };
  const nodeAt = (path: Path): unknown =>
    path.reduce<unknown>(
      (node, key) => (isMap(node) ? pairIn(node, String(key))?.value : isSeq(node) ? node.items[Number(key)] : undefined),
      document.contents,
    );
  const spanOf = (path: Path): Span => {
    for (let length = path.length; length > 0; length--) {
      const node = nodeAt(path.slice(0, length));
      const span = rangeOf(node);
      if (span && length === path.length && isScalar(node)) return trimmed(source, span);
      if (span) return keySpanOf(path.slice(0, length));
    }
    return whole;
  };
  const keySpanOf = (path: Path): Span => {
    const parent = nodeAt(path.slice(0, -1));
    const key = path.at(-1);
    const pair = isMap(parent) ? pairIn(parent, key === undefined ? key : String(key)) : undefined;
    return (pair && rangeOf(pair.key)) ?? (path.length > 0 ? trimmed(source, rangeOf(nodeAt(path)) ?? whole) : whole);
  };
  const linesOf = (path: Path): { text: string; offset: number }[] => {
    const node = nodeAt(path);
    if (!isScalar(node) || typeof node.value !== 'string' || !node.range) return [];
    const { range, value } = node;
    if (node.type !== 'BLOCK_LITERAL') {
      const offset = range[0] + (node.type === 'PLAIN' ? 0 : 1);
      return value
        .split('\n')
        .filter((each) => each.trim())
        .map((text) => ({ text, offset }));
    }
    const first = source.text.indexOf('\n', range[0]) + 1;
    return source.text
      .slice(first, range[1])
      .split('\n')
      .reduce<{ at: number; lines: { text: string; offset: number }[] }>(
        ({ at, lines }, line) => {
          const indent = line.length - line.trimStart().length;
          if (line.trim()) lines.push({ text: line.trim(), offset: at + indent });
          return { at: at + line.length + 1, lines };
        },
        { at: first, lines: [] },
      ).lines;
  };
  const blockLinesOf = (path: Path): number[] => {
    const node = nodeAt(path);
    if (!isScalar(node) || typeof node.value !== 'string' || !node.range) return [];
    const lines = node.value.split('\n');
    if (node.type !== 'BLOCK_LITERAL') return lines.map(() => node.range![0]);
    let at = source.text.indexOf('\n', node.range[0]) + 1;
    return lines.map((line) => {
      const end = source.text.indexOf('\n', at);
      const whole = source.text.slice(at, end === -1 ? undefined : end);
      const offset = at + Math.max(0, whole.length - line.length);
      at = end === -1 ? source.text.length : end + 1;
      return offset;
    });
  };
  return { spanOf, keySpanOf, linesOf, blockLinesOf };
}

/** A block's span without the blank lines behind it; only its first line, so that a mark stays readable. */
function trimmed(source: Source, { start, end }: Span): Span {
  const line = source.text.indexOf('\n', start);
  return { start, end: Math.max(start + 1, line === -1 ? end : Math.min(end, line)) };
}

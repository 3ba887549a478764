/**
 * Parses a text again and again while it is being changed: pieces that are as they were are not parsed anew, their nodes are
 * moved. A piece is a part of the top level; of a long one each of its parts. Where a text is not laid out so that this is
 * safe, or anything is wrong with it, all of it is parsed as ever.
 */
import { isAlias, isMap, isScalar, isSeq, Pair, YAMLMap, type Document } from 'yaml';
import { parseYaml, type ParseYaml } from './parsed';

interface Piece {
  readonly text: string;
  readonly start: number;
}

/** Parts of a piece, with the offset at which they stand now. */
interface Known {
  readonly pairs: readonly Pair[];
  base: number;
}

/** A piece of more characters is taken apart once more. */
const LONG = 3000;

/** What it gives is good until it is asked for another text: its nodes are moved then. */
export function incrementalParser(): ParseYaml {
  let known = new Map<string, Known>();
  let last: { readonly text: string; readonly document: Document.Parsed } | undefined;
  return (text) => {
    if (last?.text === text) return last.document;
    const used = new Map<string, Known>();
    const contents = assembled(text, { known, used });
    last = {
      text,
      document: contents
        ? ({ errors: [], warnings: [], contents, toJS: () => plainOf(contents) } as unknown as Document.Parsed)
        : parseYaml(text),
    };
    // What is not there any more is forgotten; a text that is broken for a moment forgets nothing.
    if (contents) known = used;
    return last.document;
  };
}

interface Memory {
  readonly known: ReadonlyMap<string, Known>;
  readonly used: Map<string, Known>;
}

function assembled(text: string, memory: Memory): YAMLMap | undefined {
  const pieces = piecesOf(text, 0, 0);
  if (!pieces) return undefined;
  const pairs: Pair[] = [];
  for (const piece of pieces) {
    const found = piece.text.length > LONG ? split(piece, memory) : parsed(piece, '', memory);
    if (!found) return undefined;
    pairs.push(...found);
  }
  return mapOf(pairs);
}

/** Lines that stand at a column begin pieces; undefined where some other line stands there or further left. */
function piecesOf(text: string, offset: number, column: number): Piece[] | undefined {
  const starts: number[] = [];
  let at = 0;
  while (at < text.length) {
    const end = text.indexOf('\n', at);
    const line = text.slice(at, end === -1 ? undefined : end);
    const indent = line.length - line.trimStart().length;
    if (line.includes('\t')) return undefined;
    const first = line[indent];
    if (first !== undefined && first !== '#') {
      if (indent < column) return undefined;
      if (indent === column) {
        if (!/^[A-Za-z0-9_'"][^\n]*:(\s|$)/.test(line.slice(indent))) return undefined;
        starts.push(at);
      }
    }
    at += line.length + 1;
  }
  const [first] = starts;
  if (first === undefined) return undefined;
  // Remarks above the first belong to it, those above any other to the one before.
  starts[0] = 0;
  return starts.map((start, index) => ({ text: text.slice(start, starts[index + 1]), start: offset + start }));
}

/** The one pair of a long piece: its name, and its parts piece by piece. */
function split(piece: Piece, memory: Memory): readonly Pair[] | undefined {
  const head = /^(?:\s*(?:#[^\n]*)?\n)*([A-Za-z][A-Za-z ]*):[ ]*(?:#[^\n]*)?\n/.exec(piece.text);
  if (!head) return parsed(piece, '', memory);
  const body = piece.text.slice(head[0].length);
  const column = /^(?:\s*(?:#[^\n]*)?\n)*( +)\S/.exec(body)?.[1]?.length;
  const parts = column === undefined ? undefined : piecesOf(body, piece.start + head[0].length, column);
  if (!parts) return parsed(piece, '', memory);
  const [pair] = parsed({ text: head[0], start: piece.start }, '', memory) ?? [];
  if (!pair) return undefined;
  const pairs: Pair[] = [];
  for (const part of parts) {
    const found = parsed(part, head[1] ?? '', memory);
    if (!found) return undefined;
    pairs.push(...found);
  }
  const value = mapOf(pairs);
  if (!value) return undefined;
  // The name is moved with its own piece, its parts with theirs.
  return [new Pair(pair.key, value)];
}

/** Pairs of a piece, moved to where it stands; undefined where something is wrong with it. */
function parsed({ text, start }: Piece, parent: string, { known, used }: Memory): readonly Pair[] | undefined {
  const key = `${parent}\n${text}`;
  // The same piece twice under one parent has one name twice.
  if (used.has(key)) return undefined;
  const found = known.get(key) ?? fresh(text);
  if (!found) return undefined;
  if (found.base !== start) {
    const by = start - found.base;
    for (const pair of found.pairs) move(pair, by);
    found.base = start;
  }
  used.set(key, found);
  return found.pairs;
}

function fresh(text: string): Known | undefined {
  const { errors, contents } = parseYaml(text);
  if (errors.length > 0 || !isMap(contents) || refers(contents)) return undefined;
  return { pairs: contents.items as readonly Pair[], base: 0 };
}

/** What stands for something elsewhere is known only in the whole. */
function refers(node: unknown): boolean {
  if (isAlias(node) || (node as { anchor?: string } | null)?.anchor) return true;
  if (isMap(node)) return node.items.some(({ key, value }) => refers(key) || refers(value));
  return isSeq(node) && node.items.some(refers);
}

function mapOf(pairs: readonly Pair[]): YAMLMap | undefined {
  const names = new Set(pairs.map((each) => (isScalar(each.key) ? each.key.value : undefined)));
  if (names.size < pairs.length) return undefined;
  const map = new YAMLMap();
  map.items = [...pairs];
  const start = startOf(pairs[0]?.key);
  const end = Math.max(start, endOf(pairs.at(-1)?.value), endOf(pairs.at(-1)?.key));
  map.range = [start, end, end];
  return map;
}

const startOf = (node: unknown): number => (node as { range?: readonly number[] } | undefined)?.range?.[0] ?? 0;
const endOf = (node: unknown): number => (node as { range?: readonly number[] } | undefined)?.range?.[1] ?? 0;

function move({ key, value }: { readonly key: unknown; readonly value: unknown }, by: number): void {
  moveNode(key, by);
  moveNode(value, by);
}

function moveNode(node: unknown, by: number): void {
  const held = node as { range?: [number, number, number] | null } | null;
  if (held?.range) held.range = [held.range[0] + by, held.range[1] + by, held.range[2] + by];
  if (isMap(node)) node.items.forEach((each) => move(each, by));
  else if (isSeq(node)) node.items.forEach((each) => moveNode(each, by));
}

/** Of nodes that have only been moved since: what they say is what they said. */
const plain = new WeakMap<object, unknown>();

/** Plain objects, lists and texts, as of any document; of parts that are as they were, the very objects. */
function plainOf(node: unknown): unknown {
  if (isScalar(node)) return node.value;
  if (!isMap(node) && !isSeq(node)) return null;
  let made = plain.get(node);
  if (made === undefined) {
    made = isSeq(node)
      ? node.items.map(plainOf)
      : Object.fromEntries(node.items.map(({ key, value }) => [isScalar(key) ? String(key.value) : '', plainOf(value)]));
    plain.set(node, made);
  }
  return made;
}

/** YAML text as the tree of its nodes; the one place that calls the parser. Texts that are looked at again and again are parsed once. */
import { isMap, isScalar, isSeq, LineCounter, parseDocument, type Document, type Node, type YAMLMap } from 'yaml';
import type { Path } from './yaml';

/** What is given away is looked at and never changed. */
export type ParseYaml = (text: string) => Document.Parsed;

export const parseYaml: ParseYaml = (text) =>
  parseDocument(text, { schema: 'failsafe', lineCounter: new LineCounter(), logLevel: 'error', uniqueKeys: true });

/** One that keeps the trees of the last few texts. */
export function rememberingParser(most = 3): ParseYaml {
  const kept = new Map<string, Document.Parsed>();
  return (text) => {
    const document = kept.get(text) ?? parseYaml(text);
    kept.delete(text);
    kept.set(text, document);
    for (const oldest of kept.keys()) if (kept.size > most) kept.delete(oldest);
    return document;
  };
}

/** The named parts of a document; undefined where it is none. */
export function rootOf(text: string, parse: ParseYaml = parseYaml): YAMLMap.Parsed | undefined {
  const { errors, contents } = parse(text);
  return errors.length === 0 && isMap(contents) ? (contents as YAMLMap.Parsed) : undefined;
}

export interface PlaceInDocument {
  readonly path: Path;
  /** Within a text: how many of its characters stand before the place. */
  readonly inside?: number;
}

/** The innermost part that an offset stands in. */
export function placeInDocument(text: string, offset: number, parse: ParseYaml = parseYaml): PlaceInDocument {
  const path: (string | number)[] = [];
  let node: unknown = parse(text).contents;
  for (;;) {
    if (isMap(node)) {
      const pair = node.items.findLast(({ key }) => startOf(key) <= offset);
      if (!pair || !isScalar(pair.key)) return { path };
      path.push(String(pair.key.value));
      if (offset < startOf(pair.value)) return { path };
      node = pair.value;
    } else if (isSeq(node)) {
      const at = node.items.findLastIndex((each) => startOf(each) <= offset);
      if (at === -1) return { path };
      path.push(at);
      node = node.items[at];
    } else {
      const inside = isScalar(node) ? charactersBefore(text, node, offset) : undefined;
      return inside === undefined ? { path } : { path, inside };
    }
  }
}

const startOf = (node: unknown): number => (node as Node | null)?.range?.[0] ?? Infinity;

/** Of a text under “|” its lines are indented; of any other one sign is one character. */
function charactersBefore(
  text: string,
  { range, type, value }: { range?: Node['range']; type?: unknown; value: unknown },
  offset: number,
): number | undefined {
  if (!range || typeof value !== 'string') return undefined;
  if (type !== 'BLOCK_LITERAL') return Math.min(value.length, Math.max(0, offset - range[0] - (type === 'PLAIN' ? 0 : 1)));
  let at = text.indexOf('\n', range[0]) + 1;
  let before = 0;
  for (const line of value.split('\n')) {
    const end = text.indexOf('\n', at);
    const whole = text.slice(at, end === -1 ? undefined : end);
    if (offset <= at + whole.length) return before + Math.min(line.length, Math.max(0, offset - at - (whole.length - line.length)));
    before += line.length + 1;
    at += whole.length + 1;
  }
  return value.length;
}

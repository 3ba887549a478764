/** A file of sets that takes the place of another: what people wrote beside the sets, as comments, stays where it stood. */
import { Document, isMap, isScalar, isSeq, parseDocument, type Node, type YAMLMap, type YAMLSeq } from 'yaml';

/** What may be a comment; a text with one in quotes is only written with more care than it needs. */
const REMARKED = /(?:^|\s)#/m;

/** The text of a document that says the same as `plain`, laid out like `before`; undefined where that has nothing to keep. */
export function rewritten(before: string, plain: unknown): string | undefined {
  if (!REMARKED.test(before)) return undefined;
  const document = parseDocument(before, { schema: 'failsafe', logLevel: 'error', uniqueKeys: true });
  if (document.errors.length > 0 || !isMap(document.contents)) return undefined;
  const { contents } = new Document(plain, { schema: 'failsafe' });
  if (!isMap(contents)) return undefined;
  document.contents = merged(document.contents, contents) as never;
  return document.toString({ lineWidth: 0 });
}

/** The old node saying what the new one says, with its comments; the new one where they are of different kinds. */
function merged(old: unknown, fresh: Node): Node {
  if (isMap(old) && isMap(fresh)) return mergedMap(old, fresh);
  if (isSeq(old) && isSeq(fresh)) return mergedList(old, fresh);
  if (isScalar(old) && isScalar(fresh)) {
    if (old.value !== fresh.value) old.value = fresh.value;
    return old;
  }
  return fresh;
}

const nameOf = (key: unknown): string => String(isScalar(key) ? key.value : key);

function mergedMap(old: YAMLMap, fresh: YAMLMap): YAMLMap {
  const known = new Map(old.items.map((each) => [nameOf(each.key), each]));
  old.items = fresh.items.map((pair) => {
    const found = known.get(nameOf(pair.key));
    if (!found) return pair;
    found.value = merged(found.value, pair.value as Node);
    return found;
  });
  return old;
}

/** Entries with a name are known by it; one that was given another name, by its place. */
function mergedList(old: YAMLSeq, fresh: YAMLSeq): YAMLSeq {
  const named = (node: unknown): string | undefined => (isMap(node) ? (node.get('name') as string | undefined) : undefined);
  const byName = new Map(old.items.flatMap((each) => (named(each) === undefined ? [] : [[named(each), each] as const])));
  const kept = new Set(fresh.items.map(named));
  const before = old.items;
  old.items = fresh.items.map((each, at) => {
    const there = before[at];
    const same = named(each) === undefined ? there : (byName.get(named(each)) ?? (kept.has(named(there)) ? undefined : there));
    return same === undefined ? each : merged(same, each as Node);
  });
  return old;
}

/** Edits of a document that is based on another: what is inherited is not touched there but written anew here, over it. */
import { editTree, EditRefused, plainOf, type DocumentEdit, type EditProblem, type Plain, type Tree } from './tree';
import type { Path } from './yaml';

/** In place of a part that a document takes away from what it is based on. */
export const REMOVED = 'removed';

/** A document over the one that it is based on: maps are merged, all else is replaced; “removed” takes a part away. */
export function mergedTree(base: Tree, own: Tree): Tree {
  if (typeof base === 'string' || typeof own === 'string' || !('map' in base) || !('map' in own)) return own;
  const entries = new Map(base.map);
  for (const [name, value] of own.map) {
    const under = entries.get(name);
    if (value === REMOVED) entries.delete(name);
    else entries.set(name, under === undefined ? value : mergedTree(under, value));
  }
  return { map: [...entries] };
}

/** The part at a path; undefined where there is none. */
export const partAt = (tree: Tree | undefined, path: Path): Tree | undefined =>
  path.reduce<Tree | undefined>((node, key) => {
    if (node === undefined || typeof node === 'string') return undefined;
    return 'list' in node ? node.list[key as number] : node.map.find(([name]) => name === key)?.[1];
  }, tree);

/** The edits of the document's own text that come to the same as an edit of the whole. */
export function overridden(base: Tree, own: Tree, edit: DocumentEdit): readonly DocumentEdit[] | { readonly refused: EditProblem } {
  const { path } = edit;
  const whole = mergedTree(base, own);
  const inBase = partAt(base, path) !== undefined;
  const inOwn = partAt(own, path) !== undefined;
  try {
    const after = editTree(whole, edit);
    switch (edit.kind) {
      case 'move': {
        const parent = path.slice(0, -1);
        if (partAt(base, parent) === undefined) return [edit];
        const list = partAt(whole, parent);
        if (list !== undefined && typeof list !== 'string' && 'list' in list) return [written({ base, own }, parent, after)];
        return { refused: { code: 'inherited-order', path } };
      }
      case 'remove':
        return inBase ? [written({ base, own }, path, after, REMOVED)] : [edit];
      case 'rename': {
        const to = [...path.slice(0, -1), edit.name];
        if (!inBase && partAt(own, to) === undefined) return [edit];
        const away: DocumentEdit = inBase ? written({ base, own }, path, after, REMOVED) : { kind: 'remove', path };
        const there = written({ base, own: editTree(own, away) }, to, after);
        return [away, there];
      }
      case 'insert':
        // What was taken away comes back as something else.
        if (inOwn) return [written({ base, own }, path, after)];
      // falls through
      case 'set':
        return inOwn || (partAt(own, path.slice(0, -1)) !== undefined && !inBase) ? [edit] : [written({ base, own }, path, after)];
      default:
        return edit satisfies never;
    }
  } catch (error) {
    if (error instanceof EditRefused) return { refused: error.problem };
    throw error;
  }
}

interface Both {
  readonly base: Tree;
  readonly own: Tree;
}

/** A value that is no more than it says once it lies over the base's: what the base has besides is taken away. */
function covering(base: Tree | undefined, value: Tree): Tree {
  if (base === undefined || typeof base === 'string' || typeof value === 'string' || !('map' in base) || !('map' in value)) return value;
  const known = new Map(base.map);
  const own = value.map.map(([name, each]) => [name, covering(known.get(name), each)] as const);
  const besides = base.map.filter(([name]) => !value.map.some(([each]) => each === name)).map(([name]) => [name, REMOVED] as const);
  return { map: [...own, ...besides] };
}

/** Writes what stands at a path afterwards into the document's own text, with as little around it as there has to be. */
function written({ base, own }: Both, path: Path, after: Tree, instead?: Plain): DocumentEdit {
  // A list is inherited whole or not at all.
  const lists = path.findIndex((_, at) => {
    const node = partAt(after, path.slice(0, at));
    return node !== undefined && typeof node !== 'string' && 'list' in node;
  });
  const goal = lists === -1 ? path : path.slice(0, lists);
  const value = instead !== undefined && lists === -1 ? instead : plainOf(covering(partAt(base, goal), partAt(after, goal) ?? ''));
  const missing = goal.findIndex((_, at) => partAt(own, goal.slice(0, at + 1)) === undefined);
  const from = missing === -1 ? goal.length : missing + 1;
  const nested = goal.slice(from).reduceRight<Plain>((inner, key) => ({ [String(key)]: inner }), value);
  return { kind: 'set', path: goal.slice(0, from), value: nested };
}

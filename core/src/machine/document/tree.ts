/** A document as a tree that keeps the order of its parts, and what an edit makes of it. Knows no text. */
import { isCollection, isMap, isScalar } from 'yaml';
import { itemAt } from '../../text/itemAt';
import type { Path } from './yaml';

/** A text, a list, or named parts in their order. */
export type Tree = string | { readonly list: readonly Tree[] } | { readonly map: readonly (readonly [name: string, value: Tree])[] };

/** What can be put into a document: texts, lists, named parts. */
export type Plain = string | readonly Plain[] | { readonly [name: string]: Plain };

/** An act on a document, by the path of the part that it is about. */
export type DocumentEdit =
  /** The part has this value from now on; where a named part is missing it is added at the end of its parent. */
  | { readonly kind: 'set'; readonly path: Path; readonly value: Plain }
  /** A new part at the path: a named one at that place among its siblings (else behind them), an item of a list at its index. */
  | { readonly kind: 'insert'; readonly path: Path; readonly value: Plain; readonly at?: number }
  | { readonly kind: 'remove'; readonly path: Path }
  | { readonly kind: 'rename'; readonly path: Path; readonly name: string }
  /** Among its siblings, to that place. */
  | { readonly kind: 'move'; readonly path: Path; readonly to: number };

/** Why a document cannot be edited so. */
export type EditProblem =
  | { readonly code: 'no-document' }
  | { readonly code: 'no-such-part'; readonly path: Path }
  | { readonly code: 'name-taken'; readonly name: string }
  | { readonly code: 'no-name'; readonly name: string }
  | { readonly code: 'inherited-order'; readonly path: Path };

export class EditRefused extends Error {
  constructor(readonly problem: EditProblem) {
    super(problem.code);
  }
}

export function treeOf(value: Plain): Tree {
  if (typeof value === 'string') return value;
  if (Array.isArray(value)) return { list: (value as readonly Plain[]).map(treeOf) };
  return { map: Object.entries(value as Readonly<Record<string, Plain>>).map(([name, each]) => [name, treeOf(each)] as const) };
}

/** The tree of a node of YAML; nothing written is an empty text. */
export function treeOfNode(node: unknown): Tree {
  if (!isCollection(node)) return isScalar(node) && node.value !== null ? String(node.value) : '';
  // Nodes of pieces that have not changed are the very ones of before.
  const known = trees.get(node);
  if (known) return known;
  const tree: Tree = isMap(node)
    ? { map: node.items.map(({ key, value }) => [isScalar(key) ? String(key.value) : '', treeOfNode(value)] as const) }
    : { list: node.items.map(treeOfNode) };
  trees.set(node, tree);
  return tree;
}

const trees = new WeakMap<object, Tree>();

/** A name of a part: one line, not empty, and nothing that objects have of their own. */
export const isName = (name: string): boolean => /^[^\s\p{Cc}](?:[^\n\r\p{Cc}]{0,200}[^\s\p{Cc}])?$/u.test(name) && name !== '__proto__';

/** The tree after an edit. Throws EditRefused where there is no such part, or a name is taken. */
export function editTree(tree: Tree, edit: DocumentEdit): Tree {
  const missing = (): never => {
    throw new EditRefused({ code: 'no-such-part', path: edit.path });
  };
  const within = (node: Tree, path: Path): Tree => {
    const [first, ...rest] = path;
    if (first === undefined) return edit.kind === 'set' ? treeOf(edit.value) : missing();
    if (typeof node === 'string') return missing();
    if (rest.length > 0) {
      if ('list' in node) return { list: replaced(node.list, first as number, (each) => within(each, rest)) ?? missing() };
      const at = node.map.findIndex(([name]) => name === first);
      return { map: replaced(node.map, at, ([name, value]) => [name, within(value, rest)] as const) ?? missing() };
    }
    return 'list' in node ? { list: inList(node.list, first as number) } : { map: inMap(node.map, String(first)) };
  };
  const inList = (list: readonly Tree[], at: number): readonly Tree[] => {
    const known = Number.isInteger(at) && at >= 0 && at < list.length;
    switch (edit.kind) {
      case 'set':
        return replaced(list, at, () => treeOf(edit.value)) ?? missing();
      case 'insert':
        return Number.isInteger(at) && at >= 0 && at <= list.length ? list.toSpliced(at, 0, treeOf(edit.value)) : missing();
      case 'remove':
        return known ? list.toSpliced(at, 1) : missing();
      case 'move':
        return known ? moved(list, at, edit.to) : missing();
      case 'rename':
        return missing();
      default:
        return edit satisfies never;
    }
  };
  const inMap = (map: readonly (readonly [string, Tree])[], name: string): readonly (readonly [string, Tree])[] => {
    const at = map.findIndex(([each]) => each === name);
    switch (edit.kind) {
      case 'set':
        if (at !== -1) return map.toSpliced(at, 1, [name, treeOf(edit.value)]);
        return [...map, [named(name), treeOf(edit.value)]];
      case 'insert':
        if (at !== -1) throw new EditRefused({ code: 'name-taken', name });
        return map.toSpliced(Math.min(map.length, Math.max(0, edit.at ?? map.length)), 0, [named(name), treeOf(edit.value)]);
      case 'remove':
        return at === -1 ? missing() : map.toSpliced(at, 1);
      case 'move':
        return at === -1 ? missing() : moved(map, at, edit.to);
      case 'rename':
        if (at === -1) return missing();
        if (edit.name !== name && map.some(([each]) => each === edit.name)) throw new EditRefused({ code: 'name-taken', name: edit.name });
        return map.toSpliced(at, 1, [named(edit.name), itemAt(map, at)[1]]);
      default:
        return edit satisfies never;
    }
  };
  return within(tree, edit.path);
}

/** An edit whose parents may be missing, as one of a part that is there: the missing ones are written with it. */
export function withParents(tree: Tree, edit: DocumentEdit): DocumentEdit {
  if (edit.kind !== 'set' && edit.kind !== 'insert') return edit;
  let node: Tree | undefined = tree;
  for (const [at, key] of edit.path.slice(0, -1).entries()) {
    if (node === undefined || typeof node === 'string' || 'list' in node) return edit;
    const next: Tree | undefined = node.map.find(([name]) => name === key)?.[1];
    // Nothing written yet is as good as missing.
    if (next === undefined || next === '') {
      const value = edit.path.slice(at + 1).reduceRight<Plain>((inner, name) => ({ [String(name)]: inner }), edit.value);
      return { kind: 'set', path: edit.path.slice(0, at + 1), value };
    }
    node = next;
  }
  return edit;
}

function named(name: string): string {
  if (!isName(name)) throw new EditRefused({ code: 'no-name', name });
  return name;
}

const replaced = <T>(list: readonly T[], at: number, by: (each: T) => T): readonly T[] | undefined =>
  Number.isInteger(at) && at >= 0 && at < list.length ? list.with(at, by(itemAt(list, at))) : undefined;

const moved = <T>(list: readonly T[], from: number, to: number): readonly T[] =>
  list.toSpliced(from, 1).toSpliced(Math.min(list.length - 1, Math.max(0, to)), 0, itemAt(list, from));

/** A tree as plain values; names that objects sort keep their place only as far as those do. */
export function plainOf(tree: Tree): Plain {
  if (typeof tree === 'string') return tree;
  const known = plains.get(tree);
  if (known !== undefined) return known;
  const plain = 'list' in tree ? tree.list.map(plainOf) : Object.fromEntries(tree.map.map(([name, value]) => [name, plainOf(value)]));
  plains.set(tree, plain);
  return plain;
}

const plains = new WeakMap<object, Plain>();

/** Whether two say the same, their order included. */
export function sameTree(one: Tree, other: Tree): boolean {
  if (one === other) return true;
  if (typeof one === 'string' || typeof other === 'string') return false;
  if ('list' in one)
    return 'list' in other && one.list.length === other.list.length && one.list.every((each, at) => sameTree(each, other.list[at] ?? ''));
  return (
    'map' in other &&
    one.map.length === other.map.length &&
    one.map.every(([name, value], at) => {
      const [also, beside] = other.map[at] ?? ['', ''];
      return name === also && sameTree(value, beside);
    })
  );
}

/** The sentence of a refusal. */
export function explainEdit(problem: EditProblem): string {
  switch (problem.code) {
    case 'no-document':
      return 'The document has a mistake of its own as it stands; mend that first.';
    case 'no-such-part':
      return `There is no part “${problem.path.join(', ')}” in this document.`;
    case 'name-taken':
      return `There is a part “${problem.name}” already.`;
    case 'inherited-order':
      return `“${problem.path.join(', ')}” comes from the machine that this one is based on, and keeps its place there.`;
    case 'no-name':
      return 'A name stands on one line and is not empty.';
    default:
      return problem satisfies never;
  }
}

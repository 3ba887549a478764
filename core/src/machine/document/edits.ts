/**
 * Edits of a machine's document as values, each made into the smallest change of its text: comments, order and layout
 * of all else stay. What comes out is read again before it is given away; where a small change would mean something
 * else, the nearest part around it is written anew.
 */
import { isMap, isScalar, isSeq, type Node, type Pair, type YAMLMap, type YAMLSeq } from 'yaml';
import type { Span } from '../../text/source';
import { itemAt } from '../../text/itemAt';
import { renderBehind, renderBlock, renderFlow, renderItem, renderScalar, renderText } from './render';
import { editTree, EditRefused, sameTree, treeOf, treeOfNode, type DocumentEdit, type EditProblem, type Tree } from './tree';
import { partAt } from './overriding';
import { parseYaml, rootOf, type ParseYaml } from './parsed';
import type { Path } from './yaml';

/** A piece of the text gives way to another; spans are of the text before all changes, in its order. */
export interface TextChange {
  readonly span: Span;
  readonly text: string;
}

export interface Edited {
  readonly text: string;
  readonly changes: readonly TextChange[];
  /** The part that had to be written anew, comments in it included; undefined where only the edit itself shows. */
  readonly rewritten?: Path;
}

/** Refused are texts that are no YAML, parts that are not there, names that are taken. */
export function editDocument(text: string, edit: DocumentEdit, parse: ParseYaml = parseYaml): Edited | { readonly refused: EditProblem } {
  const root = rootOf(text, parse);
  if (!root) return { refused: { code: 'no-document' } };
  try {
    const wanted = editTree(treeOfNode(root), edit);
    return changed({ text, parse }, edit, wanted);
  } catch (error) {
    if (error instanceof EditRefused) return { refused: error.problem };
    throw error;
  }
}

/** Changes that give the text before back. */
export function inverseOf(text: string, changes: readonly TextChange[]): TextChange[] {
  let shift = 0;
  return changes.map(({ span: { start, end }, text: put }) => {
    const from = start + shift;
    shift += put.length - (end - start);
    return { span: { start: from, end: from + put.length }, text: text.slice(start, end) };
  });
}

export const applyChanges = (text: string, changes: readonly TextChange[]): string =>
  changes.reduceRight((all, { span, text: put }) => all.slice(0, span.start) + put + all.slice(span.end), text);

interface Before {
  readonly text: string;
  /** What it gives is good until the next text: the tree is asked for again before each use. */
  readonly parse: ParseYaml;
}

/** The small change where it does what is wanted; else the parts around it, from the inside out. */
function changed({ text, parse }: Before, edit: DocumentEdit, wanted: Tree): Edited {
  const writer = (): Writer | undefined => {
    const root = rootOf(text, parse);
    return root && new Writer(text, root);
  };
  const small = writer()?.changesFor(edit);
  const after = small && applyChanges(text, small);
  const read = after === undefined ? undefined : rootOf(after, parse);
  if (small && read && sameTree(treeOfNode(read), wanted)) return { text: after ?? text, changes: small };
  for (let length = edit.path.length - 1; length > 0; length--) {
    const path = edit.path.slice(0, length);
    const value = partAt(wanted, path);
    const changes = value === undefined ? undefined : writer()?.setTo(path, value);
    const result = changes && applyChanges(text, changes);
    const again = result === undefined ? undefined : rootOf(result, parse);
    if (changes && again && sameTree(treeOfNode(again), wanted)) return { text: result ?? text, changes, rewritten: path };
  }
  const whole = `${renderBlock(wanted, 0)}\n`;
  return { text: whole, changes: [{ span: { start: 0, end: text.length }, text: whole }], rewritten: [] };
}

type Collection = YAMLMap | YAMLSeq;

/** Finds the places of parts in one text, and the changes of it. Undefined where a small change is not known. */
class Writer {
  constructor(
    private readonly text: string,
    private readonly root: Node,
  ) {}

  changesFor(edit: DocumentEdit): TextChange[] | undefined {
    switch (edit.kind) {
      case 'set':
        return this.nodeAt(edit.path) === undefined
          ? this.insert(edit.path, treeOf(edit.value))
          : this.setTo(edit.path, treeOf(edit.value));
      case 'insert':
        return this.insert(edit.path, treeOf(edit.value), edit.at);
      case 'remove':
        return this.remove(edit.path);
      case 'rename': {
        const key = this.pairAt(edit.path)?.key;
        const span = rangeOf(key);
        return span && [{ span, text: renderScalar(edit.name) }];
      }
      case 'move':
        return this.move(edit.path, edit.to);
      default:
        return edit satisfies never;
    }
  }

  /** Another value for a part that is there. */
  setTo(path: Path, value: Tree): TextChange[] | undefined {
    const node = this.nodeAt(path);
    const parent = this.collectionAt(path.slice(0, -1));
    if (!parent) return undefined;
    const span = rangeOf(node);
    if (parent.flow) return span && [{ span, text: renderFlow(value) }];
    if (
      typeof value === 'string' &&
      isScalar(node) &&
      span &&
      !/^BLOCK/.test(String(node.type)) &&
      !value.includes('\n') &&
      span.end > span.start
    )
      return [{ span, text: renderText(value) }];
    if (isMap(parent)) {
      const pair = this.pairAt(path);
      const key = rangeOf(pair?.key);
      if (!pair || !key) return undefined;
      const colon = this.text.indexOf(':', key.end);
      const start = colon + 1;
      return [
        { span: { start, end: Math.max(start, this.lastSign(this.endOf(pair))) }, text: renderBehind(value, this.columnOf(key.start) + 2) },
      ];
    }
    const dash = this.dashOf(parent, path.at(-1) as number);
    if (dash === undefined || !span) return undefined;
    return [
      {
        span: { start: dash + 1, end: Math.max(dash + 1, this.lastSign(deepestEnd(node))) },
        text: ` ${renderItem(value, this.columnOf(dash) + 2)}`,
      },
    ];
  }

  private insert(path: Path, value: Tree, at?: number): TextChange[] | undefined {
    const parent = this.collectionAt(path.slice(0, -1));
    const name = path.at(-1);
    if (!parent || name === undefined) return undefined;
    const where = isSeq(parent) ? (name as number) : Math.min(parent.items.length, Math.max(0, at ?? parent.items.length));
    const flow = isSeq(parent) ? renderFlow(value) : `${renderScalar(String(name))}: ${renderFlow(value)}`;
    if (parent.flow) return this.insertFlow(parent, where, flow);
    if (parent.items.length === 0) return undefined;
    const column = this.columnOfItems(parent);
    if (column === undefined) return undefined;
    const blanks = ' '.repeat(column);
    const own = isSeq(parent) ? `- ${renderItem(value, column + 2)}` : `${renderScalar(String(name))}:${renderBehind(value, column + 2)}`;
    const before = parent.items[where - 1];
    if (before !== undefined) {
      const end = this.lineEnd(this.extentOf(parent, where - 1)?.end);
      return end === undefined ? undefined : [{ span: { start: end, end }, text: `\n${blanks}${own}` }];
    }
    const first = this.extentOf(parent, 0);
    return first && [{ span: { start: first.start, end: first.start }, text: `${own}\n${blanks}` }];
  }

  private insertFlow(parent: Collection, where: number, own: string): TextChange[] | undefined {
    const span = rangeOf(parent);
    if (!span) return undefined;
    if (parent.items.length === 0) return [{ span: { start: span.start + 1, end: span.end - 1 }, text: own }];
    const before = where > 0 ? this.flowExtent(parent, where - 1) : undefined;
    if (before) return [{ span: { start: before.end, end: before.end }, text: `, ${own}` }];
    const first = this.flowExtent(parent, 0);
    return first && [{ span: { start: first.start, end: first.start }, text: `${own}, ` }];
  }

  private remove(path: Path): TextChange[] | undefined {
    const parent = this.collectionAt(path.slice(0, -1));
    const at = parent && this.positionIn(parent, path.at(-1));
    if (!parent || at === undefined || at === -1) return undefined;
    const last = parent.items.length - 1;
    if (parent.flow) {
      const own = this.flowExtent(parent, at);
      const next = at < last ? this.flowExtent(parent, at + 1) : undefined;
      const before = at > 0 ? this.flowExtent(parent, at - 1) : undefined;
      if (!own) return undefined;
      if (next) return [{ span: { start: own.start, end: next.start }, text: '' }];
      return [{ span: { start: before ? before.end : own.start, end: own.end }, text: '' }];
    }
    // The only part of its parent leaves empty braces.
    if (last === 0) return path.length > 1 ? this.setTo(path.slice(0, -1), isSeq(parent) ? { list: [] } : { map: [] }) : undefined;
    const own = this.extentOf(parent, at);
    if (!own) return undefined;
    if (at < last && this.lineStart(own.start) + this.columnOf(own.start) === own.start && !this.beginsLine(own.start)) {
      // The first name of an item stands behind its dash, and the next one takes its place.
      const next = this.extentOf(parent, at + 1);
      return next && [{ span: { start: own.start, end: next.start }, text: '' }];
    }
    const start = this.lineStart(own.start);
    const end = this.lineEnd(own.end);
    if (end === undefined) return undefined;
    if (end < this.text.length) return [{ span: { start, end: end + 1 }, text: '' }];
    return [{ span: { start: Math.max(0, start - 1), end }, text: '' }];
  }

  private move(path: Path, to: number): TextChange[] | undefined {
    const parent = this.collectionAt(path.slice(0, -1));
    const from = parent && this.positionIn(parent, path.at(-1));
    if (!parent || from === undefined || from === -1) return undefined;
    const goal = Math.min(parent.items.length - 1, Math.max(0, to));
    if (goal === from) return [];
    const extents = parent.items.map((_, at) => (parent.flow ? this.flowExtent(parent, at) : this.wholeLines(parent, at)));
    if (extents.some((each) => each === undefined)) return undefined;
    const spans = extents as Span[];
    const [low, high] = [Math.min(from, goal), Math.max(from, goal)];
    const pieces = spans.slice(low, high + 1).map(({ start, end }) => this.text.slice(start, end));
    const turned = pieces.toSpliced(from - low, 1).toSpliced(goal - low, 0, itemAt(pieces, from - low));
    return turned.flatMap((text, index) => (text === pieces[index] ? [] : [{ span: itemAt(spans, low + index), text }]));
  }

  /** The lines of a part, with remarks right above it, without the last line end. */
  private wholeLines(parent: Collection, at: number): Span | undefined {
    const own = this.extentOf(parent, at);
    const end = own && this.lineEnd(own.end);
    if (!own || end === undefined || !this.beginsLine(own.start)) return undefined;
    let start = this.lineStart(own.start);
    while (start > 0) {
      const above = this.lineStart(start - 1);
      if (!/^\s*#/.test(this.text.slice(above, start - 1))) break;
      start = above;
    }
    return { start, end };
  }

  // ---- places ----

  private nodeAt(path: Path): unknown {
    return path.reduce<unknown>((node, key) => {
      if (isMap(node)) return pairIn(node, key)?.value;
      return isSeq(node) ? node.items[key as number] : undefined;
    }, this.root);
  }

  private collectionAt(path: Path): Collection | undefined {
    const node = this.nodeAt(path);
    return isMap(node) || isSeq(node) ? (node as Collection) : undefined;
  }

  private pairAt(path: Path): Pair | undefined {
    const parent = this.nodeAt(path.slice(0, -1));
    return isMap(parent) ? pairIn(parent, path.at(-1)) : undefined;
  }

  private positionIn(parent: Collection, key: string | number | undefined): number {
    if (isSeq(parent)) return (key as number) < parent.items.length ? (key as number) : -1;
    return parent.items.findIndex((each) => isScalar(each.key) && each.key.value === key);
  }

  /** From the first sign of a part (of a list its dash) to the last of its value. */
  private extentOf(parent: Collection, at: number): Span | undefined {
    if (isSeq(parent)) {
      const start = this.dashOf(parent, at);
      return start === undefined ? undefined : { start, end: Math.max(start + 1, deepestEnd(parent.items[at])) };
    }
    const pair = parent.items[at];
    const key = rangeOf(pair?.key);
    return pair && key && { start: key.start, end: this.endOf(pair) };
  }

  private flowExtent(parent: Collection, at: number): Span | undefined {
    if (isSeq(parent)) return rangeOf(parent.items[at]);
    const pair = parent.items[at];
    const key = rangeOf(pair?.key);
    return pair && key && { start: key.start, end: this.endOf(pair) };
  }

  private endOf({ key, value }: Pair): number {
    const name = rangeOf(key);
    const colon = name ? this.text.indexOf(':', name.end) + 1 : 0;
    return Math.max(colon, deepestEnd(value));
  }

  /** Where the dash of an item stands: the last one before it. */
  private dashOf(parent: YAMLSeq, at: number): number | undefined {
    const span = rangeOf(parent.items[at]);
    if (!span) return undefined;
    const before = this.text.slice(0, span.start);
    const dash = before.lastIndexOf('-');
    return dash !== -1 && /^-\s*$/.test(before.slice(dash)) ? dash : undefined;
  }

  private columnOfItems(parent: Collection): number | undefined {
    const first = this.extentOf(parent, 0);
    return first && this.columnOf(first.start);
  }

  private lineStart(at: number): number {
    return this.text.lastIndexOf('\n', at - 1) + 1;
  }

  /** Where the line ends that a part ends on; a text under “|” ends with its last line. */
  private lineEnd(at: number | undefined): number | undefined {
    if (at === undefined) return undefined;
    const found = this.text.indexOf('\n', this.lastSign(at));
    return found === -1 ? this.text.length : found;
  }

  /** A text under “|” reaches to the line behind it: the end of its last line is meant. */
  private lastSign(at: number): number {
    let end = at;
    while (end > 0 && this.text[end - 1] === '\n') end--;
    return end;
  }

  private columnOf(at: number): number {
    return at - this.lineStart(at);
  }

  private beginsLine(at: number): boolean {
    return /^\s*$/.test(this.text.slice(this.lineStart(at), at));
  }
}

const pairIn = (map: YAMLMap, key: string | number | undefined): Pair | undefined =>
  map.items.find((each) => isScalar(each.key) && each.key.value === key);

const rangeOf = (node: unknown): Span | undefined => {
  const range = (node as Node | null | undefined)?.range;
  return range ? { start: range[0], end: Math.max(range[0], range[1]) } : undefined;
};

/** Where the last value inside ends. */
function deepestEnd(node: unknown): number {
  if ((isMap(node) || isSeq(node)) && !node.flow && node.items.length > 0) {
    const last = node.items.at(-1);
    if (isSeq(node)) return Math.max(rangeOf(node)?.start ?? 0, deepestEnd(last));
    const { key, value } = last as Pair;
    return Math.max((rangeOf(key)?.end ?? 0) + 1, deepestEnd(value));
  }
  const span = rangeOf(node);
  // Nothing written behind a colon ends where it would begin.
  return span === undefined || span.end === span.start ? 0 : span.end;
}

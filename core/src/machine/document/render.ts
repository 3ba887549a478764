/** Writes parts of a document as YAML: on one line in braces where they are short, else one a line. */
import type { Tree } from './tree';

/** Signs that mean nothing to YAML wherever they stand in a text that begins with a letter or digit. */
const PLAIN = /^[A-Za-z0-9_](?:[A-Za-z0-9_ .+*/%<>=()^~;!?-]*[A-Za-z0-9_.+*/%<>=()^~;!?-])?$/;

/** The same outside braces and brackets, where commas and those mean nothing inside a text either. */
const PLAIN_OUTSIDE = /^[A-Za-z0-9_](?:[A-Za-z0-9_ .,{}[\]+*/%<>=()^~;!?-]*[A-Za-z0-9_.}\]+*/%<>=()^~;!?-])?$/;

/** The longest part that stands in braces. */
const MOST_IN_BRACES = 110;

/** A text on one line, in quotes where it needs them. */
export function renderScalar(text: string): string {
  if (PLAIN.test(text)) return text;
  // A text with line ends, or signs that no quotes of that sort hold, is written with escapes.
  return /[\n\r\t\p{Cc}\u2028\u2029\ufeff]/u.test(text) ? JSON.stringify(text) : `'${text.replaceAll("'", "''")}'`;
}

/** A text behind a name or a dash that stands on a line of its own. */
export const renderText = (text: string): string => (PLAIN_OUTSIDE.test(text) ? text : renderScalar(text));

/** On one line, whatever it is. */
export function renderFlow(tree: Tree): string {
  if (typeof tree === 'string') return renderScalar(tree);
  if ('list' in tree) return `[${tree.list.map(renderFlow).join(', ')}]`;
  return `{${tree.map.map(([name, value]) => `${renderScalar(name)}: ${renderFlow(value)}`).join(', ')}}`;
}

/** A text of several lines under “|”, where that can hold it; `indent` blanks before each. */
function renderLines(text: string, indent: number): string | undefined {
  const ends = text.endsWith('\n');
  const lines = (ends ? text.slice(0, -1) : text).split('\n');
  const held =
    lines.every((each) => /^[^\t\r\p{Cc}]*$/u.test(each) && !/\s$/.test(each)) &&
    lines[0] !== '' &&
    lines.at(-1) !== '' &&
    !/^\s/.test(lines[0] ?? '');
  if (!held || (lines.length < 2 && !ends)) return undefined;
  return `|${ends ? '' : '-'}\n${lines.map((each) => (each === '' ? '' : ' '.repeat(indent) + each)).join('\n')}`;
}

const isShort = (tree: Tree): boolean => !hasLines(tree) && renderFlow(tree).length <= MOST_IN_BRACES && depthOf(tree) <= 2;
const hasLines = (tree: Tree): boolean =>
  typeof tree === 'string'
    ? tree.includes('\n')
    : 'list' in tree
      ? tree.list.some(hasLines)
      : tree.map.some(([, value]) => hasLines(value));
const depthOf = (tree: Tree): number =>
  typeof tree === 'string' ? 0 : 1 + Math.max(0, ...('list' in tree ? tree.list : tree.map.map(([, value]) => value)).map(depthOf));

/** What stands behind a name and its colon, with the blank or line end before it; parts one a line begin at `indent`. */
export function renderBehind(tree: Tree, indent: number): string {
  if (typeof tree === 'string') return ` ${renderLines(tree, indent) ?? renderText(tree)}`;
  if (isShort(tree)) return ` ${renderFlow(tree)}`;
  return `\n${renderBlock(tree, indent)}`;
}

/** Parts one a line, each beginning at `indent`, without a line end behind the last. */
export function renderBlock(tree: Tree, indent: number): string {
  const blanks = ' '.repeat(indent);
  if (typeof tree === 'string' || ('list' in tree ? tree.list : tree.map).length === 0) return blanks + renderFlow(tree);
  if ('list' in tree) return tree.list.map((each) => `${blanks}- ${renderItem(each, indent + 2)}`).join('\n');
  return tree.map.map(([name, value]) => `${blanks}${renderScalar(name)}:${renderBehind(value, indent + 2)}`).join('\n');
}

/** What stands behind the dash of an item. */
export function renderItem(tree: Tree, indent: number): string {
  if (typeof tree === 'string') return renderLines(tree, indent) ?? renderText(tree);
  return isShort(tree) ? renderFlow(tree) : renderBlock(tree, indent).slice(indent);
}

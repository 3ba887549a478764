/**
 * Slips of the hand that make a document unreadable far behind their place: found in the lines themselves, so that the
 * cause is told, at its line, and not what follows from it. Knows the layout of documents, and no machine.
 */
import type { Mend } from '../../text/diagnostic';
import type { Source, Span } from '../../text/source';
import { machineSchema } from './schema';
import type { DocumentProblem } from './problems';
import { itemAt } from '../../text/itemAt';

interface Line {
  /** From 0. */
  readonly at: number;
  readonly text: string;
  /** Without remark and blanks around it. */
  readonly bare: string;
  readonly indent: number;
  /** Part of a text under “|”. */
  readonly inside: boolean;
}

const TOP: ReadonlySet<string> = new Set(Object.keys(machineSchema.shape));

/** What makes the text no machine document at all, or two of them; YAML itself may be content with it, and then `data` is what it reads. */
export function slipOfTheWhole(source: Source, data: unknown): DocumentProblem | undefined {
  const hasNames = typeof data === 'object' && data !== null && !Array.isArray(data);
  // Most documents have names and nothing that could begin another one, and need not be looked at line by line.
  if (hasNames && !/^(---|\.\.\.|%)/m.test(source.text) && (source.text.match(/^machine:/gm)?.length ?? 0) < 2) return undefined;
  const lines = linesOf(source.text);
  // A line with % speaks to YAML, before the document begins.
  const written = lines.filter((each) => each.bare !== '' && !(each.text.startsWith('%') && !each.inside));
  if (written.length === 0) return told(source, 0, 'the document is empty. Begin with “machine: NAME”, or with a ready machine');
  const begun = itemAt(written, 0);
  const second = lines.find((each) => each.at > begun.at && !each.inside && /^(---|\.\.\.)(\s|$)/.test(each.text));
  const more = second && lines.find((each) => each.at > second.at && each.bare !== '');
  if (second && more) {
    const mend = cut(source, second.at, 'Take out the second document');
    return told(
      source,
      second.at,
      'a second document begins here, and a machine is one document. Take out this line and all behind it',
      mend,
    );
  }
  const names = lines.filter((each) => !each.inside && /^machine:(\s|$)/.test(each.text));
  if (names.length > 1)
    return told(
      source,
      itemAt(names, 1).at,
      `the document begins a second time here: it stands in the text twice, first from line ${itemAt(names, 0).at + 1} on. Take out this line and all behind it`,
      cut(source, itemAt(names, 1).at, 'Take out the second one'),
    );
  if (!hasNames && !written.some((each) => /^[A-Za-z][\w -]*:(\s|$)/.test(each.text)))
    return told(source, begun.at, 'this is no machine document: it has no names with colons, as “machine: Tern” and “word: {bits: 8}”');
  return undefined;
}

/** The first slip that can have made a document unreadable. */
export function slipIn(source: Source): DocumentProblem | undefined {
  const lines = linesOf(source.text);
  for (const find of [tab, bracket, quote, colon, hiddenName, strayTick, depth]) {
    const found = find(source, lines);
    if (found) return found;
  }
  return undefined;
}

const BLOCK = /:\s*[|>][+-]?\d?\s*(#.*)?$/;

function linesOf(text: string): Line[] {
  let block: number | undefined;
  return text.split('\n').map((raw, at): Line => {
    const line = raw.replace(/\r$/, '').replace(/^\uFEFF/, '');
    const indent = line.length - line.trimStart().length;
    const blank = line.trim() === '';
    if (block !== undefined && !blank && indent <= block) block = undefined;
    const inside = block !== undefined;
    const bare = inside ? line.trim() : withoutRemark(line).trim();
    if (!inside && !blank && BLOCK.test(line)) block = indent + (/^\s*- /.test(line) ? 2 : 0);
    return { at, text: line, bare, indent, inside };
  });
}

/** A `#` inside quotes is no remark. */
function withoutRemark(line: string): string {
  const found = /^(?:[^#'"]|"(?:[^"\\]|\\.)*"|'[^']*'|(?<=\S)['"]|(?<=\S)#)*/.exec(line)?.[0];
  return found === undefined || found.length === line.length ? line : /(^|\s)$/.test(found) ? found : line;
}

const spanOf = (source: Source, at: number): Span => {
  const start = itemAt(source.lineStarts, at);
  const line = itemAt(source.text.slice(start).split('\n', 1), 0);
  const from = start + line.length - line.trimStart().length;
  return { start: from, end: Math.max(from + 1, start + line.trimEnd().length) };
};

const told = (source: Source, at: number, reason: string, mend?: Mend): DocumentProblem => ({
  code: 'slip',
  grade: 'error',
  span: spanOf(source, at),
  reason,
  ...(mend && { mend }),
});

const cut = ({ text, lineStarts }: Source, at: number, title: string): Mend => ({
  title,
  edits: [{ span: { start: itemAt(lineStarts, at), end: text.length }, text: '' }],
});

const insert = (title: string, at: number, text: string): Mend => ({ title, edits: [{ span: { start: at, end: at }, text }] });

/** Tabs before the first sign of a line: all of them are put right at once. */
function tab(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  const found = lines.filter((each) => each.bare !== '' && /^ *\t/.test(each.text));
  const [first] = found;
  if (!first) return undefined;
  const edits = found.map(({ at, text }) => {
    const blanks = /^[ \t]*/.exec(text)![0];
    const start = itemAt(source.lineStarts, at);
    return { span: { start, end: start + blanks.length }, text: ' '.repeat(depthWanted(lines, at)) };
  });
  const others = found.length > 1 ? ` So do ${found.length - 1} more lines` : '';
  return told(source, first.at, `this line begins with a tab; blanks are needed.${others}`.replace(/\.$/, ''), {
    title: 'Put blanks in place of tabs',
    edits,
  });
}

/** The depth of the line before that has no tab. */
function depthWanted(lines: readonly Line[], at: number): number {
  const near = lines.slice(0, at).findLast((each) => each.bare !== '' && !each.text.includes('\t'));
  if (!near) return 0;
  return near.inside || !/:\s*(\|)?$/.test(near.bare) ? near.indent : near.indent + 2;
}

/** A bracket that is opened on a line and not closed before the next name begins. */
function bracket(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  for (const line of lines) {
    if (line.inside || line.bare === '') continue;
    const open = openBrackets(line.bare);
    if (open === '') continue;
    const next = lines.slice(line.at + 1).find((each) => each.bare !== '');
    if (next && !(next.indent <= line.indent && /^(- )?["']?[\w -]+["']?:/.test(next.bare))) continue;
    const closing = [...open]
      .toReversed()
      .map((each) => (each === '{' ? '}' : ']'))
      .join('');
    const end = itemAt(source.lineStarts, line.at) + line.text.indexOf(line.bare) + line.bare.length;
    return told(source, line.at, `a closing “${closing}” is missing at the end of this line`, insert(`Write ${closing}`, end, closing));
  }
  return undefined;
}

/** Brackets that stay open at the end of a value that begins with one. */
function openBrackets(bare: string): string {
  const value = /^(?:- )?["']?[\w -]+["']?:\s*([{[].*)$/.exec(bare)?.[1];
  if (value === undefined) return '';
  let open = '';
  for (const sign of value.replace(/"(?:[^"\\]|\\.)*"|'[^']*'/g, '')) {
    if (sign === '{' || sign === '[') open += sign;
    else if (sign === '}' || sign === ']') open = open.slice(0, -1);
  }
  return open;
}

/** A value that begins with a quote and does not end with one. */
function quote(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  for (const { at, inside, text } of lines) {
    if (inside) continue;
    const found = /^\s*(?:- )?[\w -]+:\s*(['"])([^'"]*)$/.exec(text);
    if (!found) continue;
    const later = lines.slice(at + 1).find((each) => each.bare !== '');
    if (later && !/^(- )?["']?[\w -]+["']?:/.test(later.bare)) continue;
    const end = itemAt(source.lineStarts, at) + text.trimEnd().length;
    return told(source, at, `a closing ${found[1]} is missing at the end of this line`, insert(`Write ${found[1]}`, end, itemAt(found, 1)));
  }
  return undefined;
}

/** A name alone on its line with something deeper behind it, or a name right before a bracket. */
function colon(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  for (const line of lines) {
    const { at, inside, bare, indent, text } = line;
    if (inside || bare === '') continue;
    const before = lines.slice(0, at).findLast((each) => each.bare !== '');
    if (before && openBrackets(before.bare) !== '') continue;
    const next = lines.slice(at + 1).find((each) => each.bare !== '');
    const alone = /^(- )?[A-Za-z][\w-]*( [A-Za-z][\w-]*)?$/.test(bare) && (before ? /[^|>]$/.test(before.bare) : true);
    const name =
      alone && next !== undefined && next.indent > indent
        ? bare.replace(/^- /, '')
        : /^(?:- )?([A-Za-z][\w-]*)\s+\{[^}]*\}$/.exec(bare)?.[1];
    const usual =
      indent === 0
        ? TOP.has(bare) || /\{/.test(bare)
        : lines.some((each) => each !== line && !each.inside && each.indent === indent && /^(- )?[\w -]+:/.test(each.bare));
    if (name === undefined || !usual) continue;
    const end = itemAt(source.lineStarts, at) + text.indexOf(name) + name.length;
    return told(source, at, `a colon is missing behind “${name}”`, insert(`Write ${name}:`, end, ':'));
  }
  return undefined;
}

/** A remark that hides a name: what stands deeper below it belongs to nobody, or to the name before. */
function hiddenName(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  for (const { at, text, inside } of lines) {
    const name = inside ? undefined : /^\s*#\s?([A-Za-z][\w-]*(?: [A-Za-z]+)?):\s*$/.exec(text)?.[1];
    const next = lines.slice(at + 1).find((each) => each.text.trim() !== '');
    if (name === undefined || !next || next.indent <= text.indexOf('#')) continue;
    const from = itemAt(source.lineStarts, at) + text.indexOf('#');
    const mend = {
      title: `Write ${name}:`,
      edits: [{ span: { start: from, end: from + text.slice(text.indexOf('#')).length }, text: `${name}:` }],
    };
    return told(source, at, `this remark hides the name “${name}”, and what stands below belongs to it`, mend);
  }
  return undefined;
}

/** The line that leaves a text under “|” without being a name: it stands too far left. */
function strayTick(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  const written = lines.filter((each) => each.text.trim() !== '');
  const index = written.findIndex((line, at) => {
    const before = written[at - 1];
    if (!before || line.inside || (!before.inside && !BLOCK.test(before.text))) return false;
    return !/^(- )?["']?\w[\w .-]*["']?:(\s|$)/.test(line.bare) && line.bare !== '';
  });
  if (index === -1) return undefined;
  const found = itemAt(written, index);
  const head = lines.slice(0, found.at).findLast((each) => BLOCK.test(each.text))!;
  const neighbour = written.find((each) => each.inside && each.at > head.at && each.at < found.at);
  const start = itemAt(source.lineStarts, found.at);
  const wanted = neighbour?.indent ?? written[index + 1]?.indent ?? head.indent + 2;
  const edits = [{ span: { start, end: start + found.indent }, text: ' '.repeat(Math.max(wanted, head.indent + 2)) }];
  return told(source, found.at, `this line stands too far left to belong to the text under “|” of line ${head.at + 1}`, {
    title: 'Move it below its “|”',
    edits,
  });
}

const INNER: ReadonlySet<string> = new Set(['title', 'family', 'forms']);

/** A name at another depth than its neighbours, or a part of an instruction beside the instructions. */
function depth(source: Source, lines: readonly Line[]): DocumentProblem | undefined {
  const keys = lines.filter((each) => !each.inside && /^["']?\w[\w -]*["']?:(\s|$)/.test(each.bare));
  const astray = partBesideInstructions(keys);
  if (astray) {
    const name = itemAt(astray.key.bare.split(':'), 0);
    return told(
      source,
      astray.key.at,
      `“${name}” stands as far left as the names of instructions; it is a part of ${astray.of} and belongs two blanks deeper`,
    );
  }
  for (const [index, key] of keys.entries()) {
    const [parent, next] = [keys[index - 1], keys[index + 1]];
    if (!parent || !next || key.indent <= parent.indent || next.indent >= key.indent || next.indent <= parent.indent) continue;
    if (/:$/.test(key.bare) || BLOCK.test(key.text) || !/:$/.test(parent.bare)) continue;
    // The one that is alone with its depth has slipped.
    const [slipped, other] = keys[index + 2]?.indent === key.indent ? [next, key] : [key, next];
    const start = itemAt(source.lineStarts, slipped.at);
    const edits = [{ span: { start, end: start + slipped.indent }, text: ' '.repeat(other.indent) }];
    const reason = `this line stands further ${slipped === key ? 'right' : 'left'} than its neighbours`;
    return told(source, slipped.at, reason, { title: 'Move it beside its neighbours', edits });
  }
  return undefined;
}

function partBesideInstructions(keys: readonly Line[]): { readonly key: Line; readonly of: string } | undefined {
  const top = keys.findIndex((each) => each.indent === 0 && /^instructions:/.test(each.bare));
  const first = keys[top + 1];
  if (top === -1 || !first || first.indent === 0) return undefined;
  const behind = keys.slice(top + 1);
  const end = behind.findIndex((each) => each.indent === 0 && TOP.has(itemAt(each.bare.split(':'), 0)));
  const within = end === -1 ? behind : behind.slice(0, end);
  const at = within.findIndex((each) => each.indent === first.indent && INNER.has(itemAt(each.bare.split(':'), 0)) && each.bare !== '');
  if (at < 1) return undefined;
  const of = within.slice(0, at).findLast((each) => each.indent === first.indent);
  return of ? { key: itemAt(within, at), of: itemAt(of.bare.split(':'), 0) } : undefined;
}

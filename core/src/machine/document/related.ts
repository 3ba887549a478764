/** Where the cause of a problem may lie, when that is not where it shows: a misspelt definition, an open quote, a remark. */
import { nearest } from '../../text/nearest';
import { machineSchema } from './schema';
import type { Related } from '../../text/diagnostic';
import { placeAt, type Source, type Span } from '../../text/source';
import type { MachineProblem } from './problems';
import { itemAt } from '../../text/itemAt';

/** At most ten places, none of them on the problem's own line. */
export function relatedPlaces(source: Source, problem: MachineProblem): Related[] {
  const { line } = placeAt(source, problem.span.start);
  const lines = source.text.split('\n');
  const place = (number: number, note: string): Related[] =>
    number >= 1 && number !== line && lines[number - 1] !== undefined ? [{ span: spanOfLine(source, lines, number), note }] : [];
  const found = causesOf(problem, lines, line).flatMap(({ number, note }) => place(number, note));
  return found.filter((each, at) => found.findIndex((other) => other.span.start === each.span.start) === at).slice(0, 10);
}

interface Cause {
  readonly number: number;
  readonly note: string;
}

function spanOfLine(source: Source, lines: readonly string[], number: number): Span {
  const text = itemAt(lines, number - 1);
  const start = itemAt(source.lineStarts, number - 1) + (text.length - text.trimStart().length);
  return { start, end: start + Math.max(1, text.trim().length) };
}

function causesOf(problem: MachineProblem, lines: readonly string[], line: number): Cause[] {
  switch (problem.code) {
    case 'slip':
      return /too far left|further/.test(problem.reason)
        ? [...blankBefore(lines, line), ...before(lines, line, 'or this line was broken'), ...keyBroken(lines, line)]
        : [];
    case 'not-yaml':
      return yamlCauses(lines, line, problem.reason);
    case 'field-never-given':
      return [];
    case 'role-missing':
      return hidden(lines);
    case 'unknown-key':
      return [...blankBefore(lines, line), ...before(lines, line, 'or something is amiss on the line before')];
    case 'wrong-shape':
      return problem.reason.includes('cannot be a name')
        ? []
        : [...remarks(lines, line), ...blankBefore(lines, line), ...below(lines, line)];
    case 'encodings-overlap':
    case 'lengths-differ':
    case 'spelling-twice':
      return [problem.one, problem.other].flatMap((each) => encoded(lines, each));
    case 'condition-code-twice':
      return lines.flatMap((text, at) =>
        new RegExp(`\\bcode: *${problem.codeValue}\\b`).test(text) ? [{ number: at + 1, note: 'this code stands here' }] : [],
      );
    case 'condition-name-twice':
      return defined(lines, problem.name);
    case 'tick-expected':
    case 'bad-number':
      return keyAbove(lines, line);
    case 'unknown-name':
      return [...near(lines, problem.name), ...hidden(lines)];
    case 'forms-alike':
      return lines.flatMap((text, at) => (text.includes(problem.other) ? [{ number: at + 1, note: 'the other form stands here' }] : []));
    case 'unknown-field':
      return problem.nearest ? [...holes(lines, problem.nearest), ...defined(lines, problem.nearest), ...hidden(lines)] : hidden(lines);
    case 'bad-written-form':
      return defined(lines, problem.mnemonic);
    case 'system-problem':
      return systemCauses(lines, line, problem.sentence);
    default:
      return 'nearest' in problem ? [...(problem.nearest ? defined(lines, problem.nearest) : []), ...hidden(lines)] : [];
  }
}

/** Where a written form has a place for a field. */
const holes = (lines: readonly string[], field: string): Cause[] =>
  lines.flatMap((text, at) => (text.includes(`{${field}}`) ? [{ number: at + 1, note: `{${field}} stands here` }] : [])).slice(0, 3);

/** Where a form says how it is encoded: behind the line that says how it is written. */
function encoded(lines: readonly string[], written: string): Cause[] {
  const at = lines.findIndex((text) => /^\s*- write:/.test(text) && text.includes(written));
  const code = at === -1 ? -1 : lines.findIndex((text, number) => number >= at && number < at + 3 && /\bcode:/.test(text));
  return code === -1 ? [] : [{ number: code + 1, note: `${written} is encoded here` }];
}

/** Where a word stands as a key, as a field with its width, or as a label. */
function defined(lines: readonly string[], word: string): Cause[] {
  const safe = word.replace(/[^\w]/g, '\\$&');
  const pattern = new RegExp(
    `^\\s*(?:- )?["']?${safe}["']?\\s*:|[\\s{,]${safe}(?:\\[[^\\]]*\\])? \\d|[{,]\\s*${safe}:|^\\s*${safe}\\s|name: ${safe}\\b|[[,]\\s*${safe}\\b`,
  );
  const note = `${word} stands here`;
  return lines.flatMap((text, at) => (pattern.test(text) ? [{ number: at + 1, note }] : [])).slice(0, 3);
}

function before(lines: readonly string[], line: number, note: string): Cause[] {
  for (let number = line - 1; number >= 1; number--) if (itemAt(lines, number - 1).trim()) return [{ number, note }];
  return [];
}

/** All keys that are one slip away from a word. */
function near(lines: readonly string[], word: string): Cause[] {
  const keys = lines.map((text) => /\bname: (\w+)/.exec(text)?.[1] ?? /^\s*["']?(\w+)["']?:/.exec(text)?.[1]);
  const found = keys.flatMap((key, at) =>
    key && key !== word && nearest(word, [key]) ? [{ number: at + 1, note: `${key} stands here` }] : [],
  );
  const fields = nearest(
    word,
    lines.flatMap((text) => [...text.matchAll(/([A-Za-z]\w*)(?:\[[\d:]+\])? \d/g)].map((each) => itemAt(each, 1))),
  );
  return [...found.slice(0, 4), ...(fields ? defined(lines, fields) : [])];
}

/** What was meant to belong to a key that stands alone on its line. */
const below = (lines: readonly string[], line: number): Cause[] =>
  /:\s*(?:#.*)?$/.test(lines[line - 1] ?? '') ? [{ number: line + 1, note: 'the line behind it' }] : [];

/** A line of blanks, where a line was broken. */
function blankBefore(lines: readonly string[], line: number): Cause[] {
  const number = line - 1;
  return /^\s+$/.test(lines[number - 1] ?? '') ? [{ number, note: 'the line was broken here' }] : [];
}

/** Above lines that stand further in, a line that is no key. */
function keyBroken(lines: readonly string[], line: number): Cause[] {
  const at = lines
    .slice(0, line - 1)
    .findLastIndex((text, index) => text.trim() !== '' && !text.includes(':') && indentOf(lines[index + 1] ?? '') > indentOf(text));
  return at === -1 || line - at > 60 ? [] : [{ number: at + 1, note: 'or this line was a key with a colon' }];
}

/** The key whose text this line belongs to. */
function keyAbove(lines: readonly string[], line: number): Cause[] {
  const at = lines.slice(0, line - 1).findLastIndex((text) => /^\s*(?:- )?\w+:/.test(text));
  return at === -1 ? [] : [{ number: at + 1, note: 'the text begins here' }];
}

/** Parts that are missing because a remark swallowed them. */
const remarks = (lines: readonly string[], line: number): Cause[] =>
  [-1, 0, 1, 2, 3]
    .map((step) => line + step)
    .filter((number) => /(^|\s)#/.test(lines[number - 1] ?? ''))
    .map((number) => ({ number, note: 'a remark hides what stands behind #' }));

/** Parts that a remark hides. */
const hidden = (lines: readonly string[]): Cause[] =>
  lines
    .flatMap((text, at) => (/^\s+#\w*:\s/.test(text) ? [{ number: at + 1, note: 'a remark hides what stands behind #' }] : []))
    .slice(0, 2);

const indentOf = (text: string): number => text.length - text.trimStart().length;

/** The neighbours, the last line whose quotes or brackets are not closed, and lines whose beginning fits no other. */
function yamlCauses(lines: readonly string[], line: number, reason: string): Cause[] {
  const note = 'the mistake may have begun here';
  const earlier = lines.slice(0, line - 1);
  const counts = new Map<number, number>();
  for (const text of lines) if (text.trim()) counts.set(indentOf(text), (counts.get(indentOf(text)) ?? 0) + 1);
  const last = (found: (text: string, at: number) => boolean): number =>
    earlier.findLastIndex((text, at) => line - at < 60 && found(text, at));
  const odd = [
    last(beginsWrong),
    last((text) => text !== '' && text.trim() === ''),
    last((text, at) => text.trim() !== '' && (counts.get(indentOf(text))! <= 2 || steps(lines, at))),
  ];
  const open = earlier.findLastIndex((text) => unbalanced(text));
  const opened = earlier.findIndex((text) => unbalanced(text));
  const key = keyOf(itemAt(lines, line - 1));
  const twice = reason.includes('twice') ? earlier.findLastIndex((text) => keyOf(text) === key) : -1;
  const found = [twice, opened, open, ...odd].filter((at) => at >= 0).map((at) => ({ number: at + 1, note }));
  return [...found, ...[line - 1, line - 2, line + 1].map((number) => ({ number, note }))];
}

const keyOf = (text: string): string => itemAt(text.trim().split(':'), 0);

const TOP: ReadonlySet<string> = new Set(Object.keys(machineSchema.shape));

/** At the margin, but no part of a document; or with blanks inside its key. */
const beginsWrong = (text: string): boolean => (/^[^\s#]/.test(text) && !TOP.has(keyOf(text))) || /^\s*\S+\s{2,}\w+:( |$)/.test(text);

/** More than one level in at once. */
function steps(lines: readonly string[], at: number): boolean {
  const above = lines.slice(0, at).findLast((each) => each.trim());
  return above !== undefined && indentOf(itemAt(lines, at)) > indentOf(above) && !/[:|>-]\s*(#.*)?$/.test(above);
}

function unbalanced(text: string): boolean {
  const bare = text.replace(/(^|\s)#.*$/, '');
  const count = (sign: string): number => bare.split(sign).length - 1;
  const closed = count('{') === count('}') && count('[') === count(']');
  return !closed || count("'") % 2 === 1 || count('"') % 2 === 1;
}

/** A label that is misspelt where it is defined: the nearest word, or the wanted word elsewhere. */
function systemCauses(lines: readonly string[], line: number, sentence: string): Cause[] {
  const form = /^(\w+) is not written/.exec(sentence)?.[1];
  if (form)
    return lines.flatMap((text, at) =>
      new RegExp(`write: *['"]?${form}|for: .*${form}\\b`).test(text) ? [{ number: at + 1, note: `${form} is written here` }] : [],
    );
  const words = [/Did you mean (\w+)/.exec(sentence)?.[1], /“(\w+)”/.exec(sentence)?.[1]].filter((each) => each !== undefined);
  const wanted = words.at(-1);
  const labels = lines.flatMap((text, at) => {
    const label = /^\s+([A-Za-z]\w*):?\s+[.A-Z]/.exec(text)?.[1];
    return label && wanted && label !== wanted && nearest(wanted, [label]) ? [{ number: at + 1, note: `${label} stands here` }] : [];
  });
  return [...words.flatMap((word) => defined(lines, word)), ...labels.slice(0, 6), ...words.flatMap((word) => mentions(lines, line, word))];
}

const mentions = (lines: readonly string[], line: number, word: string): Cause[] =>
  lines
    .flatMap((text, at) =>
      at + 1 !== line && new RegExp(`\\b${word}\\b`).test(text) ? [{ number: at + 1, note: `${word} stands here` }] : [],
    )
    .slice(0, 3);

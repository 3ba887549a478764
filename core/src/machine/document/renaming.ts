/** A part of a machine under another name everywhere in its document: in ticks, pairs, traps, formats, words and wherever else it is named. */
import { isMap, isScalar, isSeq, type Node, type Scalar } from 'yaml';
import type { TextChange } from './edits';
import { isName, type EditProblem } from './tree';
import { parseYaml, rootOf, type ParseYaml } from './parsed';
import type { Path } from './yaml';

export interface Renaming {
  readonly changes: readonly TextChange[];
  /** Where it is named besides its own place. */
  readonly places: number;
}

/** A text of the document, and the way to it. */
interface Place {
  readonly path: Path;
  readonly node: Scalar;
  readonly start: number;
  readonly end: number;
}

/** Texts in which registers, flags, memories, devices and stacks are named. */
const isTicks = ([first, ...rest]: Path): boolean => {
  const last = rest.at(-1);
  if (first === 'cycle') return last === 'ticks';
  if (first === 'traps') return rest[0] === 'enter' && last === 'ticks';
  if (first === 'instructions') return last === 'execute';
  if (first === 'flags') return last === 'formula';
  if (first === 'conditions') return last === 'when';
  return first === 'formats' && last === 'only if';
};

/** Texts beside ticks in which parts of a section are named. */
const ALSO: Readonly<Record<string, (path: Path) => boolean>> = {
  registers: ([first, , key, ...more]) =>
    (first === 'registers' && (key === 'pair' || key === 'choose')) ||
    (first === 'stacks' && key === 'pointer') ||
    (first === 'traps' && (key === 'argument' || key === 'result' || key === 'length')) ||
    (first === 'formats' && (key === undefined || key === 'fields') && more.length === 0),
  flags: ([first, , key]) => first === 'registers' && key === 'packed',
  spaces: ([first, , key]) => (first === 'devices' && (key === 'data' || key === 'status')) || (first === 'stacks' && key === 'space'),
  devices: ([first, , key]) => (first === 'flags' && key === 'line') || (first === 'traps' && key === 'device'),
  stacks: () => false,
  formats: (path) => path[0] === 'instructions' && path.at(-1) === 'code',
  instructions: (path) => path[0] === 'instructions' && path.at(-1) === 'write',
};

/** Sections whose parts ticks name. */
const IN_TICKS: ReadonlySet<string> = new Set(['registers', 'flags', 'spaces', 'devices', 'stacks']);

/** The changes that rename a part of a section everywhere; refused where the name is taken or none. */
export function renameEverywhere(
  text: string,
  path: Path,
  name: string,
  parse: ParseYaml = parseYaml,
): Renaming | { readonly refused: EditProblem } {
  const root = rootOf(text, parse);
  if (!root) return { refused: { code: 'no-document' } };
  const [section, old] = path.map(String) as [string, string];
  const parent = root.get(section, true);
  const own = isMap(parent) ? parent.items.find(({ key }) => isScalar(key) && String(key.value) === old) : undefined;
  if (!own || path.length !== 2) return { refused: { code: 'no-such-part', path } };
  if (!isName(name) || /\s/.test(name)) return { refused: { code: 'no-name', name } };
  if (isMap(parent) && parent.items.some(({ key }) => isScalar(key) && key !== own.key && String(key.value) === name))
    return { refused: { code: 'name-taken', name } };
  const key = own.key as Scalar;
  const [start, end] = key.range ?? [0, 0];
  const changes: TextChange[] = [{ span: { start, end }, text: name }];
  if (old === name || old === '') return { changes, places: 0 };
  const shared = section === 'flags' && sharesName(root, old);
  const numbered = section === 'registers' && isNumbered(own.value);
  const endings = section === 'instructions' ? endingsOf(root, own.value, old) : [];
  for (const place of placesIn(root, text)) {
    const ticks = IN_TICKS.has(section) && isTicks(place.path);
    const words = place.path[0] === 'words';
    const wanted = { section, old, name, shared, numbered, endings, ticks, words };
    if (isAssembly(place.path)) changes.push(...inAssembly(text, place, wanted));
    else if (ticks || words || ALSO[section]?.(place.path)) changes.push(...inText(text, place, wanted));
  }
  // Words that belong to an instruction go by its name.
  if (section === 'instructions') changes.push(...wordKeys(root, old, name));
  changes.sort((a, b) => a.span.start - b.span.start);
  return { changes, places: changes.length - 1 };
}

/** Elements of an array without names of their own are called R0, R1 …; neighbours taken together are numbered as well. */
const isNumbered = (value: unknown): boolean => {
  if (!isMap(value) || value.has('names')) return false;
  const pair = value.get('pair');
  return value.has('count') || (typeof pair === 'string' && !/\s/.test(pair.trim()));
};

/** Names of values that an instruction's forms have as part of the operation: “JUMP{c}” is written JUMPZ. */
function endingsOf(root: Node, instruction: unknown, old: string): string[] {
  const places = placesIn(instruction, '');
  const spelled = places.some(
    ({ path, node }) => path.at(-1) === 'write' && new RegExp(`^\\s*${safely(old)}\\.?\\{`).test(String(node.value)),
  );
  if (!spelled || !isMap(root)) return [];
  const texts = placesIn(root, '').flatMap(({ path, node }): string[] => {
    const value = String(node.value);
    if (path[0] === 'formats') return [...value.matchAll(/([A-Za-z]\w*)=/g)].map(([, each = '']) => each);
    const listed = (path[0] === 'registers' && ['names', 'choose', 'also'].includes(String(path.at(-1)))) || path.at(-1) === 'also';
    return listed ? value.split(/[\s,]+/) : [];
  });
  const conditions = root.get('conditions', true);
  const names = isMap(conditions) ? conditions.items.map(({ key }) => (isScalar(key) ? String(key.value) : '')) : [];
  return [...new Set([...names, ...texts])].filter((each) => /^\w+$/.test(each));
}

const safely = (name: string): string => name.replace(/[^\w]/g, '\\$&');

/** Programs inside the document. */
const isAssembly = ([first, ...rest]: Path): boolean =>
  (first === 'system' && rest[0] === 'source') || (first === 'short forms' && rest.at(-1) === 'for');

const sharesName = (root: Node, name: string): boolean => {
  const registers = isMap(root) ? root.get('registers', true) : undefined;
  return isMap(registers) && registers.items.some(({ key }) => isScalar(key) && String(key.value) === name);
};

function placesIn(node: unknown, text: string, path: Path = []): Place[] {
  if (isMap(node)) return node.items.flatMap(({ key, value }) => placesIn(value, text, [...path, isScalar(key) ? String(key.value) : '']));
  if (isSeq(node)) return node.items.flatMap((each, at) => placesIn(each, text, [...path, at]));
  return isScalar(node) && node.range ? [{ path, node, start: node.range[0], end: node.range[1] }] : [];
}

interface Wanted {
  readonly section: string;
  readonly old: string;
  readonly name: string;
  /** A register has the flag's name: only what surely means the flag is renamed. */
  readonly shared: boolean;
  /** Numbers behind the name mean its elements. */
  readonly numbered: boolean;
  /** Names that may stand behind an operation as part of it. */
  readonly endings: readonly string[];
  readonly ticks: boolean;
  readonly words: boolean;
}

/** The name by itself, or with the number of an element behind it. */
const namedBy = ({ old, numbered, endings }: Wanted): string => {
  const safe = safely(old);
  if (endings.length > 0) return `${safe}(?=(?:\\.?(?:${endings.join('|')}))*(?!\\w))`;
  return numbered ? `${safe}(?=\\d*(?!\\w))` : `${safe}(?!\\w)`;
};

/** Lines of assembly: operations at their place, operands behind, remarks left alone. Names stand there in any case. */
function inAssembly(text: string, { start, end }: Place, wanted: Wanted): TextChange[] {
  const { section, old, name } = wanted;
  const written = text.slice(start, end);
  const pattern =
    section === 'instructions'
      ? `(?<=^[ \\t]*['"]?(?:[\\p{L}_][\\w.]*:?[ \\t]+)?)${namedBy(wanted)}`
      : section === 'registers'
        ? `(?<![\\w.])${namedBy(wanted)}`
        : section === 'devices'
          ? `(?<![\\w.])${namedBy(wanted)}(?=\\.)`
          : undefined;
  if (pattern === undefined) return [];
  return [...written.matchAll(new RegExp(pattern, 'gimu'))].flatMap((match) => {
    const line = written.slice(written.lastIndexOf('\n', match.index) + 1, match.index);
    if (/^(?:[^;"']|"[^"]*"|'[^']*')*;/.test(line) || (section === 'registers' && /^\s*$/.test(line))) return [];
    const from = start + match.index;
    return [{ span: { start: from, end: from + old.length }, text: name }];
  });
}

function inText(text: string, { path, start, end }: Place, wanted: Wanted): TextChange[] {
  const { section, old, name, shared, ticks, words } = wanted;
  const written = text.slice(start, end);
  const found = [...written.matchAll(new RegExp(`(?<![\\w.])${namedBy(wanted)}|(?<=\\bflags\\.)${namedBy(wanted)}`, 'g'))];
  const changes = found.filter((match) => {
    const before = written.slice(0, match.index);
    const line = before.slice(before.lastIndexOf('\n') + 1);
    const asFlag = /;\s*flags\b[^\n]*$/.test(line) || line.endsWith('flags.');
    if (words) return /\{\s*$/.test(line) && section !== 'spaces';
    if (ticks) return section === 'flags' ? !shared || asFlag : !asFlag;
    // Formats name registers behind the word for them only; codes begin with their format, written forms with their instruction.
    if (section === 'registers' && path[0] === 'formats') return /\bregister\s+$/.test(line);
    if (section === 'formats') return before.trim() === '' || /^['"]\s*$/.test(before);
    if (section === 'instructions') return /^\s*['"]?\s*$/.test(line);
    return true;
  });
  return changes.map((match) => {
    const from = start + match.index;
    return { span: { start: from, end: from + old.length }, text: name };
  });
}

/** Reworded sentences stand under the name of an instruction, or of one of its ticks. */
function wordKeys(root: Node, old: string, name: string): TextChange[] {
  const words = isMap(root) ? root.get('words', true) : undefined;
  return ['instructions', 'ticks'].flatMap((part) => {
    const held = isMap(words) ? words.get(part, true) : undefined;
    if (!isMap(held)) return [];
    return held.items.flatMap(({ key }): TextChange[] => {
      if (!isScalar(key) || !key.range || String(key.value).split(' ')[0] !== old) return [];
      const quoted = /^['"]/.test(String(key.source ?? '')) || key.type !== 'PLAIN' ? 1 : 0;
      const start = key.range[0] + quoted;
      return [{ span: { start, end: start + old.length }, text: name }];
    });
  });
}

/** The parts of a document as a list to choose from, with the place of each; and a part once more under another name. */
import { isMap, isScalar, isSeq } from 'yaml';
import type { Span } from '../../text/source';
import { itemAt } from '../../text/itemAt';
import { plainOf, treeOfNode, type DocumentEdit, type Plain } from './tree';
import { parseYaml, rootOf, type ParseYaml } from './parsed';
import type { Path } from './yaml';

export interface OutlinePart {
  readonly path: Path;
  readonly name: string;
  /** Its title, its role, or what stands behind its name, in a few words. */
  readonly says: string;
  /** Where its name stands. */
  readonly span: Span;
  /** Among how many siblings it is the how-manieth, from 0. */
  readonly at: number;
  readonly of: number;
}

export interface OutlineSection {
  readonly name: string;
  readonly parts: readonly OutlinePart[];
}

/** Parts of a document that hold named parts of their own, in the order of the language. */
const SECTIONS = [
  'spaces',
  'registers',
  'flags',
  'devices',
  'stacks',
  'conditions',
  'formats',
  'instructions',
  'short forms',
  'traps',
  'faults',
] as const;

const MOST_SAID = 60;

/** Undefined while the text is no YAML. */
export function outlineOf(text: string, parse: ParseYaml = parseYaml): OutlineSection[] | undefined {
  const root = rootOf(text, parse);
  if (!root) return undefined;
  return SECTIONS.flatMap((name): OutlineSection[] => {
    const section = root.get(name, true);
    if (!isMap(section)) return [];
    const parts = section.items.flatMap(({ key, value }, at): OutlinePart[] => {
      const range = isScalar(key) ? key.range : undefined;
      if (!isScalar(key) || !range) return [];
      const own = String(key.value);
      const span = { start: range[0], end: Math.max(range[0], range[1]) };
      return [{ path: [name, own], name: own, says: wordsOf(value), span, at, of: section.items.length }];
    });
    return parts.length > 0 ? [{ name, parts }] : [];
  });
}

function wordsOf(value: unknown): string {
  const said = isScalar(value) ? String(value.value ?? '') : isMap(value) ? firstOf(value) : '';
  const line = itemAt(said.trim().split('\n'), 0);
  return line.length > MOST_SAID ? `${line.slice(0, MOST_SAID - 1)}…` : line;
}

/** What tells most about a part. */
function firstOf(value: { get(key: string): unknown }): string {
  for (const key of ['title', 'name', 'when', 'role', 'fields', 'kind', 'rule', 'pair', 'choose']) {
    const said = value.get(key);
    if (typeof said === 'string' && said !== '') return said;
  }
  const forms = value.get('forms');
  const [form] = isSeq(forms) ? forms.items : [];
  const written = isMap(form) ? form.get('write') : undefined;
  return typeof written === 'string' ? written : '';
}

/** The edit that writes a named part once more behind itself, under a free name; undefined where there is none such. */
export function duplicateOf(
  text: string,
  path: Path,
  parse: ParseYaml = parseYaml,
): (DocumentEdit & { readonly kind: 'insert' }) | undefined {
  const root = rootOf(text, parse);
  const name = String(path.at(-1));
  const parent = root ? root.getIn(path.slice(0, -1), true) : undefined;
  if (!isMap(parent)) return undefined;
  const at = parent.items.findIndex(({ key }) => isScalar(key) && String(key.value) === name);
  if (at === -1) return undefined;
  const taken = new Set(parent.items.map(({ key }) => (isScalar(key) ? String(key.value).toLowerCase() : '')));
  const free = freeName(name, taken);
  const value = plainOf(treeOfNode(parent.items[at]?.value));
  return { kind: 'insert', path: [...path.slice(0, -1), free], value: renamedForms(value, name, free), at: at + 1 };
}

/** A number counts on; a name gets a number behind it. */
function freeName(name: string, taken: ReadonlySet<string>): string {
  const number = /^\d+$/.test(name);
  for (let more = number ? Number(name) + 1 : 2; ; more++) {
    const free = number ? String(more) : `${name}${more}`;
    if (!taken.has(free.toLowerCase())) return free;
  }
}

/** Written forms begin with the name of their instruction. */
function renamedForms(value: Plain, name: string, free: string): Plain {
  if (typeof value === 'string' || !('forms' in value) || !Array.isArray(value.forms)) return value;
  const forms = (value.forms as readonly Plain[]).map((form): Plain => {
    if (typeof form === 'string' || Array.isArray(form)) return form;
    const { write } = form as { readonly [key: string]: Plain };
    const renamed = typeof write === 'string' && write.startsWith(name) ? free + write.slice(name.length) : write;
    return renamed === undefined ? form : { ...(form as { readonly [key: string]: Plain }), write: renamed };
  });
  return { ...value, forms };
}

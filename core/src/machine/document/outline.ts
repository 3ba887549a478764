/** The parts of a document as a list to choose from, with the place of each; and a part once more under another name. */
import type { Span } from '../../text/source';
import { itemAt } from '../../text/itemAt';
import { isMap, isScalar } from 'yaml';
import { mergedTree, partAt } from './overriding';
import { parseYaml, rootOf, type ParseYaml } from './parsed';
import { SECTION_NAMES } from './shape';
import { plainOf, treeOfNode, type DocumentEdit, type Plain, type Tree } from './tree';
import type { Path } from './yaml';

export interface OutlinePart {
  readonly path: Path;
  readonly name: string;
  /** Its title, its role, or what stands behind its name, in a few words. */
  readonly says: string;
  /**
   * Where its name stands: so many characters behind that of the part of its section that has a place before it, or behind
   * the beginning of the text, and how many it has; so that a change of the text moves few of them. Undefined of a part that
   * is inherited whole.
   */
  readonly place?: { readonly behind: number; readonly length: number };
  /** Written here over what is inherited. */
  readonly overrides?: boolean;
  /** Among how many siblings it is the how-manieth, from 0. */
  readonly at: number;
  readonly of: number;
}

export interface OutlineSection {
  readonly name: (typeof SECTION_NAMES)[number];
  readonly parts: readonly OutlinePart[];
}

const MOST_SAID = 60;

/** Sections that are there, in the order of the language. `base`: what the document inherits. Undefined while the text is no YAML. */
export function outlineOf(text: string, base?: Tree, parse: ParseYaml = parseYaml): OutlineSection[] | undefined {
  const root = rootOf(text, parse);
  if (!root) return undefined;
  const whole = base ? mergedTree(base, treeOfNode(root)) : treeOfNode(root);
  return SECTION_NAMES.flatMap((name): OutlineSection[] => {
    const section = partAt(whole, [name]);
    if (section === undefined || typeof section === 'string' || !('map' in section)) return [];
    const own = root.get(name, true);
    const spans = new Map(
      (isMap(own) ? own.items : []).flatMap(({ key }) =>
        isScalar(key) && key.range
          ? [[String(key.value), { start: key.range[0], end: Math.max(key.range[0], key.range[1]) }] as const]
          : [],
      ),
    );
    let before = 0;
    const parts = section.map.map(([part, value], at): OutlinePart => {
      const span = spans.get(part);
      const overrides = span !== undefined && partAt(base, [name, part]) !== undefined;
      const place = span && { behind: span.start - before, length: span.end - span.start };
      before = span?.start ?? before;
      return {
        ...{ path: [name, part], name: part, says: wordsOf(value), at, of: section.map.length },
        ...(place && { place }),
        ...(overrides && { overrides }),
      };
    });
    return parts.length > 0 ? [{ name, parts }] : [];
  });
}

/** Where the names of an outline's parts stand in the text; of those that stand in it. */
export const placesOf = (outline: readonly OutlineSection[]): { readonly part: OutlinePart; readonly span: Span }[] =>
  outline.flatMap(({ parts }) => {
    let start = 0;
    return parts.flatMap((part) => {
      if (!part.place) return [];
      start += part.place.behind;
      return [{ part, span: { start, end: start + part.place.length } }];
    });
  });

function wordsOf(value: Tree): string {
  const said = typeof value === 'string' ? value : firstOf(value);
  const line = itemAt(said.trim().split('\n'), 0);
  return line.length > MOST_SAID ? `${line.slice(0, MOST_SAID - 1)}…` : line;
}

/** What tells most about a part. */
function firstOf(value: Tree): string {
  for (const key of ['title', 'name', 'when', 'role', 'fields', 'kind', 'rule', 'pair', 'choose']) {
    const said = partAt(value, [key]);
    if (typeof said === 'string' && said !== '') return said;
  }
  const written = partAt(value, ['forms', 0, 'write']);
  return typeof written === 'string' ? written : '';
}

/** The edit that writes a named part once more behind itself, under a free name; undefined where there is none such. */
export function duplicateOf(whole: Tree, path: Path): (DocumentEdit & { readonly kind: 'insert' }) | undefined {
  const name = String(path.at(-1));
  const parent = partAt(whole, path.slice(0, -1));
  if (parent === undefined || typeof parent === 'string' || !('map' in parent)) return undefined;
  const at = parent.map.findIndex(([each]) => each === name);
  const own = parent.map[at];
  if (!own) return undefined;
  const free = freeName(
    name,
    parent.map.map(([each]) => each),
  );
  return { kind: 'insert', path: [...path.slice(0, -1), free], value: renamedForms(plainOf(own[1]), name, free), at: at + 1 };
}

/** A name that none of the others has in any case: a number counts on; a name gets a number behind it. */
export function freeName(name: string, others: readonly string[]): string {
  const taken = new Set(others.map((each) => each.toLowerCase()));
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

/** Puts the schema's findings into a teacher's words, with the place of each. */
import { nearest } from '../../text/nearest';
import { documentSchema } from './schema';
import type { MachineProblem } from './problems';
import type { YamlText } from './yaml';

export interface Issue {
  readonly code: string;
  readonly path: readonly PropertyKey[];
  readonly message: string;
  readonly keys?: readonly string[];
}

/** As much of JSON Schema as says which keys a part may have. */
interface Shape {
  readonly properties?: Readonly<Record<string, Shape>>;
  readonly additionalProperties?: Shape | boolean;
  readonly items?: Shape;
  readonly anyOf?: readonly Shape[];
  readonly oneOf?: readonly Shape[];
  readonly allOf?: readonly Shape[];
}

let known: Shape | undefined;

/** Keys that may stand in the part at a path, found in the schema of documents. */
function keysAt(path: readonly (string | number)[]): string[] {
  const spread = (shape: Shape): Shape[] => [
    shape,
    ...[shape.anyOf, shape.oneOf, shape.allOf].flatMap((each) => (each ?? []).flatMap(spread)),
  ];
  const within = (shape: Shape, key: string | number): Shape[] => {
    if (typeof key === 'number') return shape.items ? [shape.items] : [];
    const { properties = {}, additionalProperties: others } = shape;
    if (Object.hasOwn(properties, key)) return [properties[key]!];
    return typeof others === 'object' ? [others] : [];
  };
  known ??= documentSchema();
  let shapes = spread(known);
  for (const key of path) shapes = shapes.flatMap((each) => within(each, key)).flatMap(spread);
  return [...new Set(shapes.flatMap((each) => Object.keys(each.properties ?? {})))];
}

/** So many keys are told where none is near. */
const MOST_TOLD = 9;

/** At most 40; a part that is missing because its name is misspelt is told as misspelt only. */
export function shapeProblemsOf(yaml: YamlText, issues: readonly Issue[]): MachineProblem[] {
  const missing = new Map<string, string[]>();
  for (const { code, path, message } of issues) {
    if (code !== 'invalid_type' || !/undefined|missing/i.test(message) || path.length === 0) continue;
    const part = JSON.stringify(path.slice(0, -1));
    missing.set(part, [...(missing.get(part) ?? []), String(path.at(-1))]);
  }
  const problems = issues.slice(0, 40).flatMap((issue) => shapeProblems(yaml, issue, missing.get(JSON.stringify(issue.path)) ?? []));
  const meant = new Set(problems.flatMap((each) => (each.code === 'unknown-key' && each.nearest ? [each.nearest] : [])));
  return problems.filter((each) => each.code !== 'wrong-shape' || !/missing$/.test(each.reason) || !meant.has(each.at.split(', ').at(-1)!));
}

/** `missing`: keys that the part lacks, of which one is meant before any other. */
function shapeProblems(yaml: YamlText, issue: Issue, missing: readonly string[]): MachineProblem[] {
  const path = issue.path.map((each) => (typeof each === 'symbol' ? String(each) : each));
  if (issue.code === 'unrecognized_keys') {
    return (issue.keys ?? []).map((key) => {
      const keys = keysAt(path);
      // Without a blank behind its colon a key and its value are one word.
      const [, head, rest] = /^([\w -]+?)\s*:\s*(\S.*)$/.exec(key) ?? [];
      const joined = head !== undefined && keys.includes(head) ? head : undefined;
      const near = joined ?? nearest(key, missing) ?? nearest(key, keys);
      const span = yaml.keySpanOf([...path, key]);
      const written = joined === undefined ? near : `${joined}: ${rest!}`;
      const mend = written !== undefined && { title: `Write ${written}`, edits: [{ span, text: written }] };
      return {
        code: 'unknown-key',
        grade: 'error',
        span,
        key,
        ...(near ? { nearest: near } : keys.length <= MOST_TOLD && { keys }),
        ...(mend && { mend }),
      };
    });
  }
  const size = (yaml.data as { word?: unknown } | null)?.word;
  if (path.length === 1 && path[0] === 'word' && typeof size === 'string' && /^\d+$/.test(size)) {
    const span = yaml.spanOf(path);
    return [
      {
        code: 'word-alone',
        grade: 'error',
        span,
        size,
        mend: { title: `Write {bits: ${size}}`, edits: [{ span, text: `{bits: ${size}}` }] },
      },
    ];
  }
  const at = path.length ? path.filter((each) => typeof each === 'string').join(', ') : 'The document';
  const reason =
    issue.code === 'invalid_type' && issue.message.startsWith('Invalid input')
      ? 'something else is expected here, or this part is missing'
      : issue.message;
  return [{ code: 'wrong-shape', grade: 'error', span: yaml.spanOf(path), at, reason }];
}

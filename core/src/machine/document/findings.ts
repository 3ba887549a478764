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

let known: readonly string[] | undefined;

/** Every key that the document has a meaning for, found in its schema. */
function knownKeys(): readonly string[] {
  const keys = new Set<string>();
  const visit = (node: unknown): void => {
    if (typeof node !== 'object' || node === null) return;
    for (const [key, value] of Object.entries(node)) {
      if (key === 'properties') Object.keys(value as object).forEach((each) => keys.add(each));
      visit(value);
    }
  };
  known ??= (visit(documentSchema()), [...keys]);
  return known;
}

/** At most 40; a part that is missing because its name is misspelt is told as misspelt only. */
export function shapeProblemsOf(yaml: YamlText, issues: readonly Issue[]): MachineProblem[] {
  const problems = issues.slice(0, 40).flatMap((issue) => shapeProblems(yaml, issue));
  const meant = new Set(problems.flatMap((each) => (each.code === 'unknown-key' && each.nearest ? [each.nearest] : [])));
  return problems.filter((each) => each.code !== 'wrong-shape' || !/missing$/.test(each.reason) || !meant.has(each.at.split(', ').at(-1)!));
}

function shapeProblems(yaml: YamlText, issue: Issue): MachineProblem[] {
  const path = issue.path.map((each) => (typeof each === 'symbol' ? String(each) : each));
  if (issue.code === 'unrecognized_keys') {
    return (issue.keys ?? []).map((key) => {
      const near = nearest(key, knownKeys());
      const span = yaml.keySpanOf([...path, key]);
      const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
      return { code: 'unknown-key', grade: 'error', span, key, ...(near && { nearest: near }), ...(mend && { mend }) };
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

/** What is amiss with a value that came from outside, in words: a schema's own sentences stay, the library's become ours. */
import type { z } from 'zod';

const EXPECTED: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'names with values',
  map: 'names with values',
  record: 'names with values',
};

const UNITS: Readonly<Record<string, string>> = { string: ' characters', array: ' entries', map: ' entries', object: ' entries' };

/** Without a stop at its end. */
export function issueWords(issue: z.core.$ZodIssue): string {
  // A sentence of the schema's own says it best.
  if (!/^(Invalid|Too|Unrecognized)\b/.test(issue.message)) return issue.message;
  switch (issue.code) {
    case 'invalid_type':
      return /received undefined/.test(issue.message) ? 'this is missing' : `${EXPECTED[issue.expected] ?? issue.expected} belongs here`;
    case 'unrecognized_keys':
      return `${issue.keys.map((each) => `“${each}”`).join(', ')} ${issue.keys.length === 1 ? 'means' : 'mean'} nothing here`;
    case 'invalid_value':
      return `it is one of ${issue.values.map(String).join(', ')}`;
    case 'too_big':
      return `it has at most ${String(issue.maximum)}${UNITS[issue.origin] ?? ''}`;
    case 'too_small':
      return `it has at least ${String(issue.minimum)}${UNITS[issue.origin] ?? ''}`;
    default:
      return 'this is not as it has to be';
  }
}

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

const UNITS: Readonly<Record<string, readonly [one: string, more: string]>> = {
  string: ['character', 'characters'],
  array: ['entry', 'entries'],
  map: ['entry', 'entries'],
  object: ['entry', 'entries'],
};

/** “it has at most 3 characters”; of a number “it is at most 3”. */
function sized(origin: string, bound: 'at most' | 'at least', count: number | bigint): string {
  const unit = UNITS[origin];
  return unit ? `it has ${bound} ${count} ${Number(count) === 1 ? unit[0] : unit[1]}` : `it is ${bound} ${count}`;
}

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
      return sized(issue.origin, 'at most', issue.maximum);
    case 'too_small':
      return sized(issue.origin, 'at least', issue.minimum);
    default:
      return 'this is not as it has to be';
  }
}

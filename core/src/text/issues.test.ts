import { z } from 'zod';
import { issueWords } from './issues';

const schema = z.strictObject({
  name: z.string().max(3).optional(),
  own: z.string().regex(/^a/, { error: 'own begins with a' }).optional(),
  count: z.number().int().min(2).optional(),
  list: z.array(z.string()).min(1).optional(),
  kind: z.enum(['one', 'two']).optional(),
  part: z.strictObject({ needed: z.boolean() }).optional(),
});

test.each<[given: unknown, words: string]>([
  [5, 'names with values belongs here'],
  [{ name: 5 }, 'a text belongs here'],
  [{ name: 'long' }, 'it has at most 3 characters'],
  [{ own: 'b' }, 'own begins with a'],
  [{ count: 1 }, 'it is at least 2'],
  [{ count: 1.5 }, 'a whole number belongs here'],
  [{ list: 'x' }, 'a list belongs here'],
  [{ list: [] }, 'it has at least 1 entry'],
  [{ kind: 'three' }, 'it is one of one, two'],
  [{ part: {} }, 'this is missing'],
  [{ nam: 'x' }, '“nam” means nothing here'],
  [{ nam: 'x', kin: 'y' }, '“nam”, “kin” mean nothing here'],
])('%j is told in words', (given, words) => {
  expect(schema.safeParse(given).error!.issues.map(issueWords)[0]).toBe(words);
});

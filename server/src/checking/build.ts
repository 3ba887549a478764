/** Which build of the checks lies in a folder: two of one build come to the same verdicts. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Header in which a worker says its build, and what one of another is told. */
export const BUILD_HEADER = 'x-zettak-build';
export const OTHER_BUILD = 'This worker is of another build of Zettak than the server. Bring both to the same.';

/** SHA-256 of the built file that threads run and of all that it imports. */
export function buildOf(folder: string): string {
  const hash = createHash('sha256');
  const seen = new Set<string>();
  const add = (file: string): void => {
    if (seen.has(file)) return;
    seen.add(file);
    const text = readFileSync(file, 'utf8');
    hash.update(text);
    for (const [, path] of text.matchAll(/from\s*"(\.[^"]+)"/g)) add(join(file, '..', path!));
  };
  add(join(folder, 'checkHandIn.js'));
  return hash.digest('hex');
}

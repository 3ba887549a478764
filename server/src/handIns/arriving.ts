/** What comes as a text, read once: a bundle with its source, or a program. */
import { looksLikeBundle, readBundle, type Bundle } from '@zettak/core/trials/handIns/bundle';
import type { NewHandIns } from '@zettak/api/courses';
import type { Arriving } from './store';

/** What is kept of a bundle, so that its text need not be read again. */
export type BundleClaims = Pick<Bundle, 'results'> & { readonly whole: boolean };

/** A bundle as it can be taken, or why not. */
export function arrivingBundle(
  text: string,
  file = '',
): { readonly bundle: Bundle; readonly arriving: Arriving } | { readonly wrong: string } {
  const read = readBundle(text);
  if ('wrong' in read) return read;
  const { label, source, hash, results } = read.bundle;
  return { bundle: read.bundle, arriving: { label, file, source, bundle: { text, hash, claims: { whole: read.whole, results } } } };
}

/** Either what can be taken, or why one of them cannot. */
export function arrivingFrom({ entries }: NewHandIns): { readonly arriving: readonly Arriving[] } | { readonly wrong: string } {
  const arriving: Arriving[] = [];
  for (const { label, file, text } of entries) {
    if (!looksLikeBundle(text)) {
      arriving.push({ label, file, source: text, bundle: undefined });
      continue;
    }
    const read = arrivingBundle(text, file);
    if ('wrong' in read) return { wrong: `${file || label}: ${read.wrong} Nothing was taken.` };
    arriving.push({ ...read.arriving, label });
  }
  return { arriving };
}

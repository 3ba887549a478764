/** What comes as a text, read: a bundle with its source, or a program. */
import { looksLikeBundle, readBundle } from '@zettak/core/trials/handIns/bundle';
import type { NewHandIns } from '@zettak/api/courses';
import type { Arriving } from './store';

/** Either what can be taken, or why one of them cannot. */
export function arrivingFrom({ entries }: NewHandIns): { readonly arriving: readonly Arriving[] } | { readonly wrong: string } {
  const arriving: Arriving[] = [];
  for (const { label, file, text } of entries) {
    if (!looksLikeBundle(text)) {
      arriving.push({ label, file, source: text, bundle: undefined });
      continue;
    }
    const read = readBundle(text);
    if ('wrong' in read) return { wrong: `${file || label}: ${read.wrong} Nothing was taken.` };
    arriving.push({ label, file, source: read.bundle.source, bundle: text });
  }
  return { arriving };
}

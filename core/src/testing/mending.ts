/** A text with a mend pressed. */
import type { Mend } from '../text/diagnostic';

/** The edits of a mend are all of the text as it is. */
export const withMend = (text: string, { edits }: Mend): string =>
  edits
    .toSorted((a, b) => b.span.start - a.span.start)
    .reduce((all, { span, text: put }) => all.slice(0, span.start) + put + all.slice(span.end), text);

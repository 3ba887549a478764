/** A text with a name, and places in it. Knows no language. */

/** A half-open range of character offsets: `start` inclusive, `end` exclusive. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** Line and column both count from 1; the column counts UTF-16 code units. */
export interface Place {
  readonly line: number;
  readonly column: number;
}

export interface Source {
  readonly name: string;
  readonly text: string;
  /** Offset of the first character of each line. */
  readonly lineStarts: readonly number[];
}

/** A text with the offsets where its lines begin. */
export function makeSource(name: string, text: string): Source {
  const lineStarts = [0];
  for (let at = text.indexOf('\n'); at !== -1; at = text.indexOf('\n', at + 1)) lineStarts.push(at + 1);
  return { name, text, lineStarts };
}

/** The place of an offset; offsets past the end give the end of the text. */
export function placeAt(source: Source, offset: number): Place {
  const at = Math.max(0, Math.min(offset, source.text.length));
  let low = 0;
  let high = source.lineStarts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (source.lineStarts[middle]! <= at) low = middle;
    else high = middle - 1;
  }
  return { line: low + 1, column: at - source.lineStarts[low]! + 1 };
}

/** From one offset up to another. */
export const spanOf = (start: number, end: number): Span => ({ start, end: Math.max(start, end) });

/** Formats and encodings as the document writes them, taken apart and put together again. Says nothing of what they mean. */

/** opcode 8: a name, a width in digits, words about the value; a piece of a field in several says which digits stand there. */
export interface FormatItem {
  readonly name: string;
  readonly width: number;
  readonly range?: { readonly high: number; readonly low: number };
  readonly words: readonly string[];
}

/** From left to right, high to low. */
export interface FormatText {
  readonly items: readonly FormatItem[];
  /** Cells behind the first come in this order. */
  readonly order?: 'low' | 'high';
}

const ITEM = /^\s*([A-Za-z]\w*)(?:\[\s*(\d+)\s*:\s*(\d+)\s*\])?\s+(\d{1,2})((?:\s+\S+)*)\s*$/;

/** Undefined where it is none. */
export function readFormat(text: string): FormatText | undefined {
  const parts = text.split(',').map((each) => each.trim());
  const order = /^(low|high) first$/.exec(parts.at(-1) ?? '')?.[1] as FormatText['order'];
  if (order) parts.pop();
  const items = parts.map(readItem);
  if (items.length === 0 || items.includes(undefined)) return undefined;
  return { items: items as FormatItem[], ...(order && { order }) };
}

function readItem(text: string): FormatItem | undefined {
  const [, name, high, low, width, words] = ITEM.exec(text) ?? [];
  if (name === undefined || width === undefined || Number(width) < 1) return undefined;
  const range = high === undefined ? undefined : { high: Number(high), low: Number(low) };
  if (range && range.high - range.low + 1 !== Number(width)) return undefined;
  return { name, width: Number(width), ...(range && { range }), words: (words ?? '').split(/\s+/).filter((each) => each !== '') };
}

export const writeFormat = ({ items, order }: FormatText): string =>
  [
    ...items.map(({ name, range, width, words }) =>
      [range ? `${name}[${range.high}:${range.low}]` : name, String(width), ...words].join(' '),
    ),
    ...(order ? [`${order} first`] : []),
  ].join(', ');

/**
 * The edge behind an item moved to the right by so many digits, to the left where that is below 0, as far as both sides keep one digit.
 * Pieces of one field stay a whole between them.
 */
export function moveEdge({ items, ...rest }: FormatText, behind: number, by: number): FormatText {
  const [left, right] = [items[behind], items[behind + 1]];
  if (!left || !right) return { items, ...rest };
  const most = Math.min(right.width - 1, Math.max(1 - left.width, by));
  const moved = items.map((each, at) =>
    at === behind || at === behind + 1 ? { ...each, width: each.width + (at === behind ? most : -most) } : each,
  );
  return { items: tiled(moved), ...rest };
}

/** Ranges of fields in several pieces, as their widths now are. */
function tiled(items: readonly FormatItem[]): FormatItem[] {
  const lows = new Map<FormatItem, number>();
  for (const name of new Set(items.flatMap((each) => (each.range ? [each.name] : [])))) {
    const pieces = items.filter((each) => each.range && each.name === name).sort((a, b) => a.range!.low - b.range!.low);
    let low = 0;
    for (const piece of pieces) {
      lows.set(piece, low);
      low += piece.width;
    }
  }
  return items.map((each) => {
    const low = lows.get(each);
    return low === undefined ? each : { ...each, range: { high: low + each.width - 1, low } };
  });
}

/** place opcode=0x10: a format, and the values of fields that the instruction fixes. */
export interface CodeText {
  readonly format: string;
  readonly fixed: readonly { readonly field: string; readonly value: string }[];
}

/** Undefined where it is none. */
export function readCode(text: string): CodeText | undefined {
  const match = /^\s*([A-Za-z]\w*)((?:\s+[A-Za-z]\w*\s*=\s*\w+)*)\s*$/.exec(text);
  if (!match) return undefined;
  const fixed = [...(match[2] ?? '').matchAll(/([A-Za-z]\w*)\s*=\s*(\w+)/g)].map(([, field = '', value = '']) => ({ field, value }));
  return { format: match[1] ?? '', fixed };
}

export const writeCode = ({ format, fixed }: CodeText): string =>
  [format, ...fixed.map(({ field, value }) => `${field}=${value}`)].join(' ');

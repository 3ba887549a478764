/** What a ZIP says it holds (APPNOTE 6.3, central directory), read before anything of it is unpacked. */

export interface ZipEntry {
  readonly name: string;
  /** Bytes, unpacked and packed, as the directory says. */
  readonly size: number;
  readonly packed: number;
  readonly folder: boolean;
  /** A symbolic link. */
  readonly link: boolean;
  readonly encrypted: boolean;
}

const END = 0x0605_4b50;
const ENTRY = 0x0201_4b50;
const END_LENGTH = 22;
const ENTRY_LENGTH = 46;
const LONGEST_COMMENT = 65_535;

/** Undefined where the bytes are no ZIP whose directory can be read. Never throws. */
export function zipEntries(bytes: Uint8Array): ZipEntry[] | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const last = bytes.length - END_LENGTH;
  let end = last;
  while (end >= 0 && end >= last - LONGEST_COMMENT && view.getUint32(end, true) !== END) end--;
  if (end < 0 || end < last - LONGEST_COMMENT) return undefined;
  const count = view.getUint16(end + 10, true);
  let at = view.getUint32(end + 16, true);
  const entries: ZipEntry[] = [];
  for (let index = 0; index < count; index++) {
    if (at + ENTRY_LENGTH > bytes.length || view.getUint32(at, true) !== ENTRY) return undefined;
    const [name, extra, comment] = [28, 30, 32].map((offset) => view.getUint16(at + offset, true)) as [number, number, number];
    const text = latin(bytes.subarray(at + ENTRY_LENGTH, at + ENTRY_LENGTH + name));
    entries.push({
      ...{ name: text, size: view.getUint32(at + 24, true), packed: view.getUint32(at + 20, true), folder: text.endsWith('/') },
      ...{ link: view.getUint32(at + 38, true) >>> 28 === 0xa, encrypted: (view.getUint16(at + 8, true) & 1) === 1 },
    });
    at += ENTRY_LENGTH + name + extra + comment;
  }
  return entries;
}

/** Byte by byte: names are only shown and counted here. */
const latin = (bytes: Uint8Array): string => Array.from(bytes, (each) => String.fromCharCode(each)).join('');

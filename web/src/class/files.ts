/** Hand-ins as files: programs and bundles, from folders and ZIPs of any learning system. Nothing is written anywhere. */
import { strFromU8, unzipSync } from 'fflate';
import { labelsOf, plainLabel } from '@zettak/core/trials/handIns/labels';
import { zipEntries } from '@zettak/core/formats/zipEntries';

export interface BroughtFile {
  readonly file: string;
  readonly text: string;
  readonly label: string;
  /** The label is the one that the file's name says. */
  readonly clear: boolean;
}

export interface Brought {
  readonly files: readonly BroughtFile[];
  /** What was passed over, and why. */
  readonly refused: readonly string[];
}

export interface FileAt {
  /** With the folders that it stood in. */
  readonly path: string;
  readonly file: File;
}

const MOST_FILES = 2_000;
const MOST_TEXT = 1_000_000;
const MOST_ZIP = 50_000_000;
const MOST_UNPACKED = 200_000_000;
/** A file that grows by more when it is unpacked is no program. */
const MOST_GROWTH = 300;

/** What systems put beside people's files. */
const isTheirs = (path: string): boolean => /(^|\/)(\.[^./]|__MACOSX\/)/.test(path);
const isHandIn = (path: string): boolean => /\.(asm|s|txt|json)$/i.test(path) && !isTheirs(path);

interface TextAt {
  readonly file: string;
  readonly text: string;
}

/** Reads what was dropped or chosen; labels come from the names, or from the bundles themselves. */
export async function readHandIns(files: readonly FileAt[]): Promise<Brought> {
  const refused: string[] = [];
  const texts: TextAt[] = [];
  for (const { path, file } of files) {
    if (texts.length >= MOST_FILES) {
      refused.push(`More than ${MOST_FILES} files came; the rest is left out.`);
      break;
    }
    if (/\.zip$/i.test(path)) texts.push(...(await unpacked(path, file, refused)));
    else if (!isHandIn(path)) refused.push(`${path}: no program (.asm, .s, .txt) and no hand-in (.json).`);
    else if (file.size > MOST_TEXT) refused.push(`${path}: it has more than 1 MB.`);
    else texts.push({ file: path, text: await file.text() });
  }
  const kept = texts.filter(({ file, text }) => {
    const why =
      text.trim() === '' ? 'it is empty' : text.includes('\0') || text.length > MOST_TEXT ? 'it is no text of a program' : undefined;
    if (why !== undefined) refused.push(`${file}: ${why}.`);
    return why === undefined;
  });
  const labels = labelsOf(kept.map((each) => each.file));
  const named = kept.map((each, at) => ({
    ...each,
    own: labelInBundle(each.text) ?? labels[at]!.label,
    bundled: labelInBundle(each.text) !== undefined,
    clear: labels[at]!.clear,
  }));
  const counts = new Map<string, number>();
  for (const { own } of named) counts.set(own, (counts.get(own) ?? 0) + 1);
  return {
    files: named.map(({ file, text, own, bundled, clear }) => ({
      file,
      text,
      label: own,
      clear: (bundled || clear) && counts.get(own) === 1,
    })),
    refused,
  };
}

/** What a bundle says of itself; the server reads it with all its checks. */
function labelInBundle(text: string): string | undefined {
  if (!/^\s*\{/.test(text)) return undefined;
  try {
    const { label, zettak } = JSON.parse(text) as { label?: unknown; zettak?: unknown };
    return zettak === 'hand-in' && typeof label === 'string' ? plainLabel(label) || undefined : undefined;
  } catch {
    return undefined;
  }
}

async function unpacked(path: string, file: File, refused: string[]): Promise<TextAt[]> {
  const refuse = (why: string): TextAt[] => {
    refused.push(`${path}: ${why}`);
    return [];
  };
  if (file.size > MOST_ZIP) return refuse('a ZIP has at most 50 MB.');
  const bytes = new Uint8Array(await file.arrayBuffer());
  const entries = zipEntries(bytes);
  if (!entries) return refuse('it is no ZIP that can be read.');
  if (entries.length > MOST_FILES)
    return refuse(
      `it holds ${entries.length.toLocaleString('en-US')} files; at most ${MOST_FILES.toLocaleString('en-US')} are read. Nothing was taken from it.`,
    );
  const wanted = new Set<string>();
  let sum = 0;
  for (const { name, size, packed, folder, link, encrypted } of entries) {
    if (folder || !isHandIn(name)) {
      if (!folder && !isTheirs(name)) refuse(`${name} is no program and no hand-in.`);
      continue;
    }
    sum += size;
    if (link) refuse(`${name} is a link to another file and is left out.`);
    else if (encrypted) refuse(`${name} is locked by a password and is left out.`);
    else if (size > MOST_TEXT || size > MOST_GROWTH * Math.max(packed, 1_000))
      refuse(`${name} is too large for a program and is left out.`);
    else wanted.add(name);
  }
  if (sum > MOST_UNPACKED) return refuse('unpacked it is larger than 200 MB. Nothing was taken from it.');
  try {
    const found = unzipSync(bytes, {
      filter: ({ name, originalSize }) => originalSize <= MOST_TEXT && (wanted.has(name) || wanted.has(latin(name))),
    });
    return Object.entries(found).flatMap(([name, content]) =>
      content.length > MOST_TEXT ? [] : [{ file: `${path}/${name}`, text: strFromU8(content) }],
    );
  } catch {
    return refuse('it is damaged and cannot be unpacked.');
  }
}

/** A name as the directory reader has it: byte by byte of its UTF-8. */
const latin = (name: string): string => String.fromCharCode(...new TextEncoder().encode(name));

/** Every file of what was dropped, folders with all that is in them. */
export async function droppedFiles({ items, files }: DataTransfer): Promise<FileAt[]> {
  const entries = [...items].map((each) => each.webkitGetAsEntry());
  if (entries.every((each) => each === null)) return [...files].map((file) => ({ path: file.name, file }));
  const found: FileAt[] = [];
  const visit = async (entry: FileSystemEntry, folder: string): Promise<void> => {
    if (found.length > MOST_FILES) return;
    if (entry.isFile) {
      const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
      found.push({ path: folder + entry.name, file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
      if (some.length === 0) return;
      for (const each of some) await visit(each, `${folder}${entry.name}/`);
    }
  };
  for (const entry of entries) if (entry) await visit(entry, '');
  return found;
}

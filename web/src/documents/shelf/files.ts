/** Machines and programs as files: taken in, several at once and out of ZIPs, and given out. */
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import type { DocumentSummary } from '@zettak/api/documents';
import { documentName, freeName, withDocumentName } from '@zettak/core/machine/document/name';
import { client } from '../client';

/** Characters of a document; what is longer is refused before it is sent. */
const MOST_TEXT = 1_000_000;
const MOST_ZIP = 50_000_000;
const MANIFEST = 'zettak.json';

export interface TextFile {
  readonly name: string;
  readonly text: string;
  /** Of a program: the machine that a manifest names for it. */
  readonly machine?: string;
}

/** One a file: what became of it. */
export interface Taken {
  readonly file: string;
  readonly says: string;
  readonly ok: boolean;
  readonly id?: string;
}

const megabytes = (size: number): string => `${(size / 1_000_000).toFixed(1)} MB`;

/** The texts in files; a ZIP is unpacked. What cannot be read is told, file by file. */
export async function readFiles(
  files: readonly File[],
): Promise<{ readonly texts: readonly TextFile[]; readonly refused: readonly Taken[] }> {
  const texts: TextFile[] = [];
  const refused: Taken[] = [];
  const refuse = (file: string, says: string): void => void refused.push({ file, says, ok: false });
  for (const file of files) {
    if (/\.zip$/i.test(file.name)) {
      if (file.size > MOST_ZIP) {
        refuse(file.name, `It has ${megabytes(file.size)}; a ZIP has at most ${megabytes(MOST_ZIP)}.`);
        continue;
      }
      try {
        const found = textsIn(new Uint8Array(await file.arrayBuffer()));
        texts.push(...found);
        if (found.length === 0) refuse(file.name, 'There is no machine (.yaml) and no program (.asm) in it.');
      } catch {
        refuse(file.name, 'It is no ZIP that can be read.');
      }
    } else if (file.size > MOST_TEXT) refuse(file.name, `It has ${megabytes(file.size)}; a machine or program has at most 1 MB.`);
    else texts.push({ name: file.name, text: await file.text() });
  }
  return { texts: texts.filter((each) => isKept(each, refuse)), refused };
}

function isKept({ name, text }: TextFile, refuse: (file: string, says: string) => void): boolean {
  if (text.length > MOST_TEXT) refuse(name, 'It has more than a million characters.');
  else if (text.includes('\0')) refuse(name, 'It is no text.');
  else if (text.trim() === '') refuse(name, 'It is empty.');
  else return true;
  return false;
}

function textsIn(bytes: Uint8Array): TextFile[] {
  let sum = 0;
  const entries = unzipSync(bytes, {
    filter: ({ name, originalSize }) => {
      sum += originalSize;
      return (isMachineFile(name) || isProgramFile(name) || name.endsWith(MANIFEST)) && originalSize <= 4 * MOST_TEXT && sum <= MOST_ZIP;
    },
  });
  const manifest = manifestIn(entries);
  return Object.entries(entries)
    .filter(([name]) => !name.endsWith(MANIFEST))
    .map(([name, content]) => {
      const machine = manifest.get(name);
      return { name, text: strFromU8(content), ...(machine !== undefined && { machine }) };
    });
}

function manifestIn(entries: Readonly<Record<string, Uint8Array>>): ReadonlyMap<string, string> {
  try {
    const found = Object.entries(entries).find(([name]) => name.endsWith(MANIFEST));
    const said: unknown = found ? JSON.parse(strFromU8(found[1])) : undefined;
    const programs: unknown = typeof said === 'object' && said !== null && 'programs' in said ? said.programs : undefined;
    if (typeof programs !== 'object' || programs === null) return new Map();
    return new Map(Object.entries(programs).flatMap(([file, machine]) => (typeof machine === 'string' ? [[file, machine] as const] : [])));
  } catch {
    return new Map();
  }
}

export const isMachineFile = (name: string): boolean => /\.ya?ml$/i.test(name);
const isProgramFile = (name: string): boolean => /\.(asm|s|txt)$/i.test(name);

/** A name that lists can show: without folder, ending and control signs. */
export const plainName = (file: string): string =>
  file
    .replace(/^.*[\\/]/, '')
    .replace(/\.[^.]*$/, '')
    .replace(/[\p{Cc}\p{Cf}]/gu, '')
    .trim()
    .slice(0, 60) || 'untitled';

/** A machine under a name that no other has. */
export async function addMachine(text: string, others: readonly DocumentSummary[], fallback = 'New-machine'): Promise<DocumentSummary> {
  const name = freeName(
    documentName(text) ?? fallback,
    others.map((each) => each.name),
  );
  return client.create('machine', { name: name.slice(0, 80), text: withDocumentName(text, name) });
}

/** A name with a number behind it where it is taken. */
export const besides = (name: string, others: readonly DocumentSummary[]): string =>
  freeName(
    name.slice(0, 70),
    others.map((each) => each.name),
  );

/** Characters that files of no system have in their names. */
const fileName = (name: string): string => name.replace(/[\\/:*?"<>|\p{Cc}]/gu, '-');

/** Machines and programs in one ZIP; which machine each program is for stands in a manifest beside them. */
export function zipOf(machines: readonly TextFile[], programs: readonly TextFile[]): Uint8Array<ArrayBuffer> {
  const named = (folder: string, ending: string, each: TextFile): [string, TextFile] => [
    `${folder}/${fileName(each.name)}.${ending}`,
    each,
  ];
  const entries = [...machines.map((each) => named('machines', 'yaml', each)), ...programs.map((each) => named('programs', 'asm', each))];
  const manifest = {
    programs: Object.fromEntries(entries.flatMap(([path, { machine }]) => (machine === undefined ? [] : [[path, machine]]))),
  };
  return zipSync({
    [MANIFEST]: strToU8(`${JSON.stringify(manifest, undefined, 2)}\n`),
    ...Object.fromEntries(entries.map(([path, { text }]) => [path, strToU8(text)])),
  });
}

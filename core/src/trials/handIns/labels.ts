/** Labels of hand-ins from the names of their files: the bench number where the name has one. */

/** A file that was handed in, with the label that it seems to have. */
export interface Labelled {
  readonly file: string;
  readonly label: string;
  /** The label says a bench, and no other file has it. */
  readonly clear: boolean;
}

export const MOST_LABEL = 60;

/** “bench 07” of `Week 5/bench-7.asm`; the word before the number is kept as it is written. */
const NUMBERED = /(?:^|[^\p{L}])(\p{L}{2,20})[ _.-]{0,3}0*(\d{1,4})(?!\d)/gu;

/** What cannot be seen is left out: control characters, marks of direction, blanks without width. Two labels that look alike are one. */
export const plainLabel = (text: string): string =>
  text
    .normalize('NFC')
    .replace(/\s+/g, ' ')
    .replace(/[\p{Cc}\p{Cf}\p{Co}\p{Cs}\p{Default_Ignorable_Code_Point}]/gu, '')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, MOST_LABEL)
    .trim();

/** Words that number the task, not the bench. */
const NOT_A_BENCH: ReadonlySet<string> = new Set(['week', 'task', 'lab', 'sheet', 'exercise', 'assignment', 'part', 'version', 'program']);

/** One label a file, in their order. What is in doubt has a label to begin with, and says so. */
export function labelsOf(files: readonly string[]): Labelled[] {
  const found = files.map((file) => ({ file, ...labelOf(file) }));
  const count = new Map<string, number>();
  for (const { label } of found) count.set(label, (count.get(label) ?? 0) + 1);
  return found.map((each) => ({ ...each, clear: each.clear && count.get(each.label) === 1 }));
}

function labelOf(file: string): { readonly label: string; readonly clear: boolean } {
  const parts = file.split(/[\\/]/).filter((each) => each !== '' && each !== '.' && each !== '..');
  const stem = (parts.at(-1) ?? '').replace(/\.[^.]{1,8}$/, '');
  // The file's own name counts before that of its folder, where every hand-in has one of its own.
  for (const text of [stem, ...parts.slice(0, -1).reverse()]) {
    const numbered = [...text.matchAll(NUMBERED)].filter(([, word]) => !NOT_A_BENCH.has(word!.toLowerCase()));
    const [match] = numbered;
    if (match && numbered.length === 1)
      return { label: plainLabel(`${match[1]!.toLowerCase()} ${match[2]!.padStart(2, '0')}`), clear: true };
  }
  const folder = parts.at(-2);
  const label = plainLabel(/^(program|main|solution|code|handin|hand-in|submission)?\d*$/i.test(stem) && folder ? folder : stem);
  return { label: label || 'without a name', clear: false };
}

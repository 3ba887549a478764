/** What reading a machine document carries along, and how its parts report problems. */
import { nearest } from '../../text/nearest';
import { power, unitOf } from '../../text/number';
import type { Radix } from '../../notation/tree';
import type { Mend } from '../../text/diagnostic';
import type { Source } from '../../text/source';
import type { MachineDocument } from '../document/schema';
import type { MachineProblem } from '../document/problems';
import type { Path, YamlText } from '../document/yaml';
import type { Remembered } from './remembered';

export interface DocumentReading {
  readonly source: Source;
  readonly yaml: YamlText;
  readonly document: MachineDocument;
  readonly problems: MachineProblem[];
  readonly radix: Radix;
  /** The language that the document is read in. */
  readonly language: number;
  /** For documents that are read again and again. */
  readonly remembered?: Remembered;
}

type Without<T> = T extends unknown ? Omit<T, 'span' | 'grade' | 'mend'> : never;

/** Adds a problem at the place of `path`. The same problem at the same place is told once. */
export function report(
  reading: DocumentReading,
  path: Path,
  problem: Without<MachineProblem>,
  { grade = 'error', mend }: { grade?: MachineProblem['grade']; mend?: Mend | undefined } = {},
): void {
  addProblem(reading, { ...problem, grade, span: reading.yaml.spanOf(path), ...(mend && { mend }) } as MachineProblem);
}

/** The same problem at the same place is told once. */
export function addProblem(reading: DocumentReading, problem: MachineProblem): void {
  reading.remembered?.told();
  const same = (each: MachineProblem): boolean =>
    each.code === problem.code && each.span.start === problem.span.start && JSON.stringify(each) === JSON.stringify(problem);
  if (!reading.problems.some(same)) reading.problems.push(problem);
}

/** The width that a part gives itself, in the machine's own digits; else `otherwise`. */
export function widthFor(
  reading: DocumentReading,
  path: Path,
  entry: { bits?: number | undefined; digits?: number | undefined },
  otherwise: number,
): number {
  const [right, wrong] = reading.radix === 10 ? (['digits', 'bits'] as const) : (['bits', 'digits'] as const);
  if (entry[wrong] !== undefined) {
    const span = reading.yaml.keySpanOf([...path, wrong]);
    const mend = { title: `Write ${right}`, edits: [{ span, text: right }] };
    report(reading, [...path, wrong], { code: 'wrong-unit', unit: right }, { mend });
  }
  return entry[right] ?? otherwise;
}

/** Reports a value that does not fit; gives 0 in its place. */
export function fitting(reading: DocumentReading, path: Path, value: number | undefined, width: number): number {
  if (value === undefined || value < power(reading.radix, width)) return value ?? 0;
  report(reading, path, { code: 'start-too-wide', value, width, unit: unitOf(reading.radix) });
  return 0;
}

/** The index of a name, or undefined with the problem told. */
/** What a name stands for that is more than one register. */
function severalOf({ document }: DocumentReading, name: string): string | undefined {
  const entry = Object.hasOwn(document.registers, name) ? document.registers[name]! : undefined;
  if (entry?.pair !== undefined) return 'a pair';
  if (entry?.packed !== undefined) return 'a packed status word';
  return entry?.count === undefined ? undefined : `an array; write one of it, as ${name}0`;
}

/** The place of a name in a list; where it is not there a problem with the nearest name, and undefined. */
export function indexIn(reading: DocumentReading, path: Path, name: string, names: readonly string[], what: string): number | undefined {
  const index = names.indexOf(name);
  if (index !== -1) return index;
  const several = what === 'register' ? severalOf(reading, name) : undefined;
  if (several) return void report(reading, path, { code: 'several-registers', name, is: several });
  const near = nearest(name, names);
  const mend = near && { title: `Write ${near}`, edits: [{ span: reading.yaml.spanOf(path), text: near }] };
  return void report(reading, path, { code: 'no-such-part', what, name, ...(near && { nearest: near }) }, mend ? { mend } : {});
}

/** What reading a machine document carries along, and how its parts report problems. */
import type { Mend } from '../text/diagnostic';
import type { Source } from '../text/source';
import type { MachineDocument } from './document';
import type { MachineProblem } from './problems';
import type { Path, YamlText } from './yaml';

export interface Work {
  readonly source: Source;
  readonly yaml: YamlText;
  readonly document: MachineDocument;
  readonly problems: MachineProblem[];
}

type Without<T> = T extends unknown ? Omit<T, 'span' | 'grade' | 'mend'> : never;

/** Adds a problem at the place of `path`. */
export function report(
  work: Work,
  path: Path,
  problem: Without<MachineProblem>,
  { grade = 'error', mend }: { grade?: MachineProblem['grade']; mend?: Mend | undefined } = {},
): void {
  work.problems.push({ ...problem, grade, span: work.yaml.spanOf(path), ...(mend && { mend }) } as MachineProblem);
}

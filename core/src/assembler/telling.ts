/** Problems of a program and its parts, told in the program's own text: those of a part where it is taken in. */
import { toProblems, type Problem } from '../text/diagnostic';
import { placeAt, type Span } from '../text/source';
import type { AssemblyProblem } from './problems';
import type { Unit } from './read/syntax';
import { itemAt } from '../text/itemAt';

const MOST_PROBLEMS = 500;

/** Problems with their sentences, in the order of the program's lines; those of a part stand where it is taken in. */
export function tellProblems(
  units: readonly Unit[],
  problems: readonly AssemblyProblem[],
  explain: (each: AssemblyProblem) => string,
): Problem[] {
  const [own, ...parts] = units;
  const { source } = own!;
  const errors = problems.filter((each) => each.grade === 'error').slice(0, MOST_PROBLEMS);
  const others = problems.filter((each) => each.grade !== 'error').slice(0, MOST_PROBLEMS);
  if (parts.length === 0) return toProblems(source, [...errors, ...others], explain);
  const partOf = ({ start }: Span): Unit | undefined => parts.findLast((each) => start >= each.offset);
  const sentences = new Map<AssemblyProblem, string>();
  const told = [...errors, ...others].map((problem): AssemblyProblem => {
    const part = partOf(problem.span);
    if (!part) return problem;
    const { line } = placeAt(part.source, problem.span.start - part.offset);
    const start = itemAt(source.lineStarts, part.line - 1);
    const text = itemAt(source.text.slice(start).split('\n', 1), 0);
    const { mend: _, related: __, ...rest } = problem;
    const here = { ...rest, span: { start, end: start + text.trimEnd().length } } as AssemblyProblem;
    sentences.set(here, `In “${part.part!}”, line ${line}: ${explain(problem)}`);
    return here;
  });
  return toProblems(source, told, (each) => sentences.get(each) ?? explain(each));
}

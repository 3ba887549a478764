/** What every layer's diagnostics share, and the form in which they cross a border. Each layer words its own. */
import { placeAt, type Source, type Span } from './source';

/** error: cannot run; warning: runs, probably not as meant; remark: worth knowing. */
export type Grade = 'error' | 'warning' | 'remark';

/** A change of the text that would put the problem right. */
export interface Mend {
  readonly title: string;
  readonly edits: readonly { readonly span: Span; readonly text: string }[];
}

/** Another place that the problem has to do with: where its cause may lie. */
export interface Related {
  readonly span: Span;
  readonly note: string;
}

export interface Diagnostic {
  readonly code: string;
  readonly grade: Grade;
  readonly span: Span;
  readonly mend?: Mend;
  /** Other changes that may be meant instead. */
  readonly others?: readonly Mend[];
  readonly related?: readonly Related[];
}

/** A diagnostic put into words, as plain data. Lines and columns count from 1, `start` and `end` are offsets. */
export interface Problem {
  readonly code: string;
  readonly grade: Grade;
  readonly sentence: string;
  readonly line: number;
  readonly column: number;
  readonly start: number;
  readonly end: number;
  readonly mend?: Mend;
  readonly others?: readonly Mend[];
  readonly related?: readonly {
    readonly line: number;
    readonly column: number;
    readonly start: number;
    readonly end: number;
    readonly note: string;
  }[];
}

/** Words each diagnostic by `explain` and sorts them by place. */
export function toProblems<D extends Diagnostic>(source: Source, diagnostics: readonly D[], explain: (diagnostic: D) => string): Problem[] {
  return diagnostics
    .map((diagnostic) => {
      const { code, grade, span, mend, others } = diagnostic;
      const sentence = explain(diagnostic);
      const related = diagnostic.related?.map((each) => ({ ...placeAt(source, each.span.start), ...each.span, note: each.note }));
      return {
        code,
        grade,
        sentence,
        ...placeAt(source, span.start),
        ...span,
        ...(mend && { mend }),
        ...(others && { others }),
        ...(related && { related }),
      };
    })
    .sort((a, b) => a.start - b.start || a.end - b.end);
}

/** Every mend that a problem offers, the likeliest first. */
export const mendsOf = ({ mend, others = [] }: Pick<Diagnostic, 'mend' | 'others'>): readonly Mend[] => (mend ? [mend, ...others] : others);

/** Whether some of the problems are errors. */
export const hasErrors = (list: readonly { readonly grade: Grade }[]): boolean => list.some((each) => each.grade === 'error');

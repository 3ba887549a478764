/** Problems as a list to walk through: a press goes there, and mends where a mend exists. */
import { CircleAlert, Info, TriangleAlert } from 'lucide-react';
import { mendsOf, type Grade, type Problem } from '@zettak/core/text/diagnostic';
import type { EditorHandle } from './handle';

const ICONS = { error: CircleAlert, warning: TriangleAlert, remark: Info } satisfies Record<Grade, unknown>;
const WORDS = { error: 'Error', warning: 'Warning', remark: 'Remark' } satisfies Record<Grade, string>;
const MOST = 60;

interface Parts {
  readonly problems: readonly Problem[];
  /** Holds the text that the problems belong to. */
  readonly editor: EditorHandle;
  readonly testId: string;
}

export function ProblemList({ problems, editor, testId }: Parts) {
  return (
    <ul className="problems" data-testid={testId}>
      {problems.slice(0, MOST).map((each, at) => {
        const Icon = ICONS[each.grade];
        return (
          <li key={at} className={each.grade}>
            <button type="button" onClick={() => editor.goToSpan(each.start, each.end)}>
              <Icon size={15} aria-label={WORDS[each.grade]} />
              <span>
                <b>
                  Line {each.line}, column {each.column}.
                </b>{' '}
                {each.sentence}
              </span>
            </button>
            {each.related?.map((place) => (
              <button
                key={place.start}
                type="button"
                className="related"
                title={place.note}
                onClick={() => editor.goToSpan(place.start, place.end)}
              >
                line {place.line}: {place.note}
              </button>
            ))}
            {mendsOf(each).map((mend) => (
              <button key={mend.title} type="button" className="mend" onClick={() => editor.applyEdits(mend.edits)}>
                {mend.title}
              </button>
            ))}
          </li>
        );
      })}
      {problems.length > MOST && <li className="hint">and {problems.length - MOST} more</li>}
    </ul>
  );
}
